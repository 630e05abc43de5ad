//! Summaries of repeated measurements. Speeds are random draws: medians, spreads and intervals, never a lone number.

mod blocks;
mod classical;
mod counted;
mod course;
pub mod mixed;
mod next_visit;
mod pace;
mod power;
mod ratio;
mod summary;
mod thinned;

pub use blocks::{BlockFit, BlockValue, block_fit};
pub use classical::{FEWEST_FOR_BOOTSTRAP, bootstrap_difference, hodges_lehmann, holm, mann_whitney};
pub use counted::Counted;
pub use course::{SlowedDown, known_to, slowed_down, steady_from};
pub use next_visit::{UsualScatter, half_width_between, next_visit};
pub use pace::left_at_pace;
pub use power::{FEWEST_BLOCKS, MOST_BLOCKS, blocks_planned};
pub use ratio::{
    BySitting, RatioEstimate, SittingMeans, SittingRatio, geometric_mean_over_sittings,
    ratio_of_geometric_means, ratio_over_sittings,
};
pub use summary::{Interval, Summary, geometric_mean_interval, median, quantile, summarise};
pub use thinned::thinned;

/// Coverage of every interval shown, as a share.
pub const COVERAGE: f64 = 0.90;
/// Fewer repeats than this a side cannot carry a comparison.
pub const FEWEST_TESTS: usize = 3;
/// Fewer sittings than this a side cannot carry a comparison, unless both sides were tested in each.
pub const FEWEST_SITTINGS: usize = 3;
