//! An invented valley: masts, an antenna that can be turned by software, a gateway and a line to test against.
//!
//! The channel and the antennas here are this crate's own (side lobes, ripple, a beam a little narrower than the
//! catalogue says), never the pattern functions of the core: a check against the stand-in must not be circular.
//! Everything is a function of seed and time, so the same seed makes the same site.
//!
//! | Module | |
//! |---|---|
//! | [`world`] | the valley: masts and cells |
//! | [`antenna`] | what the antennas hear from where |
//! | [`channel`] | path loss, shadowing, fading, load |
//! | [`radio`] | what the gateway hears and what the line carries at one instant |
//! | [`device`] | a gateway with memory: serving mast, idle timer, page refresh |
//! | [`lock`] | which bands it may use |
//! | [`at`] | the gateway as a modem with the standard's commands |
//! | [`pages`], [`door`], [`layouts`] | the status page with its faults, behind logins, in other layouts |
//! | [`serve`] | the stand-in itself, the shaped speed-test end, the control end |
//! | [`terrain`] | the valley's ground |
//! | [`rehearsal`] | the masts of rehearsals |
//! | [`crowd`] | masts for band trials, their best choice hidden |
//! | [`truth`] | what a rehearsal hides: the best bearing, noise averaged out |
//! | [`demo_site`] | the demo site: a week of runs made by the same radio |

pub mod antenna;
pub mod at;
pub mod channel;
pub mod crowd;
mod demo_events;
pub mod demo_site;
mod demo_speeds;
pub mod device;
pub mod door;
mod doorway;
mod kits;
pub mod layouts;
pub mod lock;
pub mod pages;
pub mod radio;
pub mod rehearsal;
pub mod serve;
mod survey;
mod sweep;
pub mod terrain;
pub mod trials;
pub mod truth;
pub mod world;
