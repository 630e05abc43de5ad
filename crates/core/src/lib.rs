//! Open Beacon's decisions, as pure functions over plain values, and the front door to the rooms below.
//!
//! This crate and the two it is made of do no I/O, read no clock, keep no global state, and know none of their callers.
//!
//! | Module | Crate | What lives there |
//! |---|---|---|
//! | [`model`] | domain | the words of the job: site, position, setup, run, sample, carrier, speed test |
//! | [`bands`] | domain | LTE and NR operating bands, channel numbers, cell identities, lock masks |
//! | [`metrics`] | domain | reporting ranges, classes, consistency, forgiving entry, independent samples |
//! | [`capacity`] | domain | what a channel could carry, down and up |
//! | [`check`] | domain | checks of what users enter, each with the value that would work |
//! | [`antenna`] | domain | patterns and polarisation |
//! | [`feedline`] | domain | cables, joints, noise of the receive chain, power over Ethernet |
//! | [`geo`] | domain | points and bearings |
//! | [`propagation`] | domain | losses on the way, one file a Recommendation |
//! | [`spelling`] | domain | short spellings of lists |
//! | [`stats`] | domain | medians, spreads, intervals |
//! | [`terrain`] | domain | grids of heights, profiles, what is crossed |
//! | [`hardware`] | link | parts of a kit: what joins what, loss, noise and gain at a frequency |
//! | [`link`] | link | what arrives at a place, and what a kit makes of it: the one prediction |
//! | [`kit`] | here | parts put together: what mates, what is lost, what it does at the site, what to buy |
//! | [`survey`] | here | masts, paths, ranking of positions, the aiming card |
//! | [`aim`] | here | sweeps: where to measure next, where the peak is, and how sure |
//! | [`trial`] | here | bands on offer, choices tried by turns, the winner and why |
//! | [`judge`] | here | findings: the baseline, go or no-go, what changed, the verdict |
//! | [`protocol`] | here | how setups are tested against each other: order, sittings, when |
//! | [`as_built`] | here | the sheet of what was built: what is to be found again, and what of it is given away |
//! | [`diagnosis`] | here | what limits a setup: causes ranked by what is seen, and the test that tells |
//! | [`near_best`] | here | how near what stands now is to the best that is foretold, and what the step there costs |
//! | [`handover`] | here | what one stage found, as the setup the next one uses |
//! | [`words`] | here | all of these as sentences; nothing here decides, nothing else words |

#![warn(missing_docs)]

pub use open_beacon_domain::{
    antenna, bands, capacity, check, feedline, geo, limits, metrics, model, propagation, spelling, stats,
    terrain,
};
pub use open_beacon_link as link;
pub use open_beacon_link::hardware;

pub mod aim;
pub mod as_built;
pub mod diagnosis;
pub mod handover;
pub mod judge;
pub mod kit;
pub mod near_best;
pub mod protocol;
pub mod survey;
pub mod trial;
pub mod words;
