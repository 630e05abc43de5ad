//! The survey: which masts, what is in the way, where the antenna should stand and point.
//!
//! | Part | What it says |
//! |---|---|
//! | [`route`] | loss between two points over ground, trees and buildings, or by the rural model |
//! | [`clear`] | line of sight, Fresnel clearance, the dominating obstacle |
//! | [`antenna`] | the antenna that is reckoned with: gain, pattern, polarisation |
//! | [`hear`] | cells of all masts as an antenna at a place hears them |
//! | [`rank`] | positions, heights and masts in order |
//! | [`sensitivity`] | what hangs on things that are not known well |
//! | [`ranking`] | best, runner-up, the reason, how firm it is |
//! | [`matching`] | the gateway's cells against the masts |
//! | [`calibrate`] | measured against predicted |
//! | [`raster`] | predicted signal over an area |
//! | [`aim`] | what is taken up the ladder |
//! | [`backdrop`] | where the user's aerial picture lies |
//! | [`check`] | masts, obstacles and landmarks as they are entered |
//! | [`say`] | all of it in words |

pub mod aim;
pub mod antenna;
pub mod backdrop;
pub mod calibrate;
pub mod check;
pub mod clear;
pub mod hear;
pub mod matching;
pub mod rank;
pub mod ranking;
pub mod raster;
pub mod route;
pub mod say;
pub mod sensitivity;
