//! What arrives at a place and what a kit makes of it: the one prediction that every page shows.
//!
//! [`environment::Environment`] is made from the record: masts, ground, obstacles, and everything heard and measured at the
//! house. [`predict::predict`] answers what a setup would do there.
//!
//! | Module | |
//! |---|---|
//! | [`gaussian`] | a quantity with a normal prior, put right by measurements |
//! | [`moments`] | values that are nearly normal, by their moments |
//! | [`field`] | how errors hang together between places, cells and antennas |
//! | [`walls`], [`rural`] | loss of walls; of a path without terrain |
//! | `in_the_way` | trees, buildings and clutter on a path |
//! | [`route`], [`fresnel`] | loss between two points over ground, trees and buildings; what is in the way |
//! | [`antenna`] | the antenna of a setup |
//! | [`landscape`] | cells of all masts as they are computed to arrive |
//! | [`matching`] | the gateway's cells against the masts |
//! | [`cells`] | the cells of a house, and what was heard of each |
//! | `implied` | what a reading's signal-to-noise implies of interference |
//! | `interference` | of listed cells, and of those that no list has |
//! | [`environment`] | all of that, put right by what was measured |
//! | [`received`] | power, interference and noise behind an antenna |
//! | [`receiver`] | layers, branches, carriers at once, the wire |
//! | `sums` | what several carriers carry together |
//! | [`predict`] | what a setup would do |
//! | [`doubts`] | what makes a range as wide as it is |
//! | [`draws`] | the same for several setups together, drawn |
//! | [`margin`] | how far the signal may fall before a need is missed |
//! | [`by_hour`] | what is expected at an hour of the day |
//! | [`over_time`] | how the signal scatters from visit to visit, and what is left at an hour of the day |
//! | [`why`] | where a figure comes from, term by term |

#![warn(missing_docs)]

pub mod antenna;
pub mod by_hour;
pub mod cells;
pub mod doubts;
pub mod draws;
pub mod environment;
pub mod field;
pub mod fresnel;
pub mod gaussian;
mod given;
pub mod hardware;
mod implied;
mod in_the_way;
mod interference;
pub mod landscape;
pub mod margin;
pub mod matching;
pub mod moments;
pub mod narrowing;
pub mod over_time;
mod passed_over;
pub mod predict;
pub mod received;
pub mod receiver;
pub mod route;
pub mod rural;
mod sums;
pub mod walls;
pub mod why;
