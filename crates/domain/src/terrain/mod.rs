//! The ground between house and mast: grids of heights, profiles along the geodesic, and what stands on it.
//!
//! | Part | What it is |
//! |---|---|
//! | [`grid`] | one tile: nodes, steps, voids, bilinear heights |
//! | [`ground`] | tiles together; profiles |
//! | [`crossing`] | where a path crosses trees and buildings |
//! | [`shade`] | hill shading and contour lines |

pub mod crossing;
pub mod grid;
pub mod ground;
pub mod shade;

pub use grid::{Frame, Grid, Heights};
pub use ground::{Ground, Profile, ProfileError, Track};
