//! Aiming: where to measure, where the peak is, and how sure that is.
//!
//! | Part | What it says |
//! |---|---|
//! | [`sweep`] | points of a sweep, sorted by the cell that answered |
//! | [`beam`] | the shape that a turned antenna draws: flat top, quadratic flanks, floor |
//! | [`fit`] | peak of the signal with its interval, robust against outliers |
//! | [`interference`] | interference and noise as a floor and interferers |
//! | `residual` | what these shapes leave over, near the points |
//! | [`clean`] | the bearing of the best SINR, and what may be lost there |
//! | [`next`] | the plan, the most informative next bearing, when it is enough |
//! | [`advice`] | where to point by the chosen criterion, and why |
//! | [`live`] | the number in the hand |
//! | [`ports`] | two port maps by turns |
//! | [`pair`] | two single antennas: slants and distance |
//! | [`score`] | a rehearsed sweep against the truth |
//!
//! The same fit serves azimuth (beamwidth in azimuth, on the circle) and tilt (beamwidth in elevation).

pub mod advice;
pub mod beam;
pub mod clean;
pub mod fit;
pub mod interference;
pub mod live;
pub mod next;
pub mod pair;
pub mod ports;
pub mod record;
mod residual;
pub mod score;
pub mod sweep;
