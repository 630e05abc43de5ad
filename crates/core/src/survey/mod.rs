//! The survey: which masts, what is in the way, where the antenna should stand and point.
//!
//! | Part | What it says |
//! |---|---|
//! | [`rank`] | positions, heights and masts in order |
//! | [`sensitivity`] | what hangs on things that are not known well |
//! | [`ranking`] | best, runner-up, the reason, how firm it is |
//! | [`calibrate`] | measured against predicted |
//! | [`mod@slice`] | a path cut open, and the signal by height |
//! | [`raster`] | predicted signal over an area |
//! | [`aim`] | what is taken up the ladder |
//! | [`backdrop`] | where the user's aerial picture lies |
//! | [`check`] | masts, obstacles and landmarks as they are entered |

pub mod aim;
pub mod backdrop;
pub mod calibrate;
pub mod check;
pub mod rank;
pub mod ranking;
pub mod raster;
pub mod sensitivity;
pub mod slice;
