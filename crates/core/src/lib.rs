//! Open Beacon's rules and arithmetic: pure functions over plain values.
//!
//! This crate does no I/O, reads no clock, keeps no global state, and knows none of its callers.
//!
//! | Module | What lives there |
//! |---|---|
//! | [`model`] | the words of the job: site, position, setup, run, sample, carrier, speed test |
//! | [`bands`] | LTE and NR operating bands and channel numbers |
//! | [`metrics`] | reporting ranges, classes, consistency, forgiving entry, independent samples |
//! | [`geo`] | points and bearings |
//! | [`stats`] | medians, spreads, intervals |
//! | [`judge`] | findings (typed values) and their rendering as sentences |

pub mod bands;
pub mod geo;
pub mod judge;
pub mod metrics;
pub mod model;
pub mod stats;
