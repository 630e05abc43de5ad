//! The survey: which masts, what is in the way, where the antenna should stand and point.
//!
//! | Part | What it says |
//! |---|---|
//! | [`rank`] | positions, heights and masts in order |
//! | [`sensitivity`] | what hangs on things that are not known well |
//! | [`ranking`] | best, runner-up, the reason, how firm it is |
//! | [`calibrate`] | measured against predicted |
//! | [`raster`] | predicted signal over an area |
//! | [`aim`] | what is taken up the ladder |
//! | [`backdrop`] | where the user's aerial picture lies |
//! | [`check`] | masts, obstacles and landmarks as they are entered |
//! | [`say`] | all of it in words |

pub mod aim;
pub mod backdrop;
pub mod calibrate;
pub mod check;
pub mod rank;
pub mod ranking;
pub mod raster;
pub mod say;
pub mod sensitivity;
