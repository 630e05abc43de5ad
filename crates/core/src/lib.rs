//! Open Beacon's rules and arithmetic: pure functions over plain values.
//!
//! This crate does no I/O, reads no clock, keeps no global state, and knows none of its callers.
//!
//! | Module | What lives there |
//! |---|---|
//! | [`model`] | the words of the job: site, position, setup, run, sample, carrier, speed test |
//! | [`bands`] | LTE and NR operating bands, channel numbers, cell identities, lock masks |
//! | [`metrics`] | reporting ranges, classes, consistency, forgiving entry, independent samples |
//! | [`capacity`] | what a channel could carry, down and up |
//! | [`check`] | checks of what users enter, each with the value that would work |
//! | [`antenna`] | patterns and polarisation |
//! | [`feedline`] | cables, joints, noise of the receive chain, power over Ethernet |
//! | [`geo`] | points and bearings |
//! | [`propagation`] | losses on the way, one file a Recommendation |
//! | [`stats`] | medians, spreads, intervals |
//! | [`hardware`] | parts of a kit: what joins what, loss, noise and gain at a frequency |
//! | [`link`] | what arrives at a place, and what a kit makes of it: the one prediction |
//! | [`kit`] | parts put together: what mates, what is lost, what it does at the site, what to buy |
//! | [`terrain`] | grids of heights, profiles, what is crossed |
//! | [`survey`] | masts, paths, ranking of positions, the aiming card |
//! | [`aim`] | sweeps: where to measure next, where the peak is, and how sure |
//! | [`trial`] | bands on offer, choices tried by turns, the winner and why |
//! | [`judge`] | findings (typed values) and their rendering as sentences |

pub mod aim;
pub mod antenna;
pub mod bands;
pub mod capacity;
pub mod check;
pub mod feedline;
pub mod geo;
pub mod handover;
pub mod hardware;
pub mod judge;
pub mod kit;
pub mod link;
pub mod metrics;
pub mod model;
pub mod propagation;
pub mod stats;
pub mod survey;
pub mod terrain;
pub mod trial;
