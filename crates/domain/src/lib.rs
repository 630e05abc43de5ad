//! The words of the job and the physics that works on them: pure functions over plain values.
//!
//! It knows no prediction and no decision; those are the rooms above. No I/O, no clock, no global state.
//!
//! | Module | What lives there |
//! |---|---|
//! | [`model`] | site, position, setup, run, sample, carrier, speed test |
//! | [`bands`] | LTE and NR operating bands, channel numbers, cell identities, lock masks |
//! | [`metrics`] | reporting ranges, classes, consistency, forgiving entry, independent samples |
//! | [`capacity`] | what a channel could carry, down and up |
//! | [`check`] | checks of what users enter, each with the value that would work |
//! | [`antenna`] | patterns and polarisation |
//! | [`feedline`] | cables, joints, noise of the receive chain, power over Ethernet |
//! | [`geo`] | points and bearings |
//! | [`propagation`] | losses on the way, one file a Recommendation |
//! | [`stats`] | medians, spreads, intervals |
//! | [`terrain`] | grids of heights, profiles, what is crossed |

#![warn(missing_docs)]

pub mod antenna;
pub mod bands;
pub mod capacity;
pub mod check;
pub mod feedline;
pub mod geo;
pub mod limits;
pub mod metrics;
pub mod model;
pub mod propagation;
pub mod spelling;
pub mod stats;
pub mod terrain;
