//! Textbook figures beside the model's words, for those who check.

use super::compare::ComparisonRow;
use crate::stats::{
    COVERAGE, Interval, SittingMeans, bootstrap_difference, hodges_lehmann, holm, mann_whitney,
};
use serde::{Deserialize, Serialize};

/// Comparisons of the sittings' means that assume less than the model, or other things.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Classical {
    /// Ratio of geometric means, Student's t on the logarithms; from three sittings a side, or two that both were tested in.
    pub student: Option<Interval>,
    /// The same by bootstrap, bias-corrected and accelerated; from six sittings a side.
    pub bootstrap: Option<Interval>,
    /// Middle of the ratios of every sitting here to every one there (Hodges and Lehmann).
    pub shift: f64,
    /// Chance of ranks as uneven as these without any difference (Mann and Whitney, exact).
    pub rank_chance: f64,
    /// The same, corrected for all setups and figures that are compared at once (Holm).
    pub corrected_chance: f64,
}

/// Draws of the bootstrap: its ends are then known to about a hundredth of its width.
const RESAMPLES: usize = 2000;
const SEED: u64 = 19;

/// Compares sittings' means of two setups; the chance is not corrected yet.
pub(super) fn classical<K: Ord + Copy>(
    here: &SittingMeans<K>,
    there: &SittingMeans<K>,
    student: Option<Interval>,
) -> Option<Classical> {
    let [here, there] = [here, there].map(|side| side.means().map(|(_, ln)| ln).collect::<Vec<f64>>());
    let bootstrap = bootstrap_difference(&here, &there, COVERAGE, RESAMPLES, SEED);
    let rank_chance = mann_whitney(&here, &there)?;
    Some(Classical {
        student,
        bootstrap: bootstrap.map(|of| Interval { low: of.low.exp(), high: of.high.exp(), ..of }),
        shift: hodges_lehmann(&here, &there)?.exp(),
        rank_chance,
        corrected_chance: rank_chance,
    })
}

/// Corrects the chances of all rows and figures.
pub(super) fn correct(rows: &mut [ComparisonRow]) {
    let figures = || rows.iter().flat_map(|row| &row.figures);
    let chances: Vec<f64> =
        figures().filter_map(|figure| Some(figure.versus?.classical?.rank_chance)).collect();
    let mut corrected = holm(&chances).into_iter();
    let versus = rows.iter_mut().flat_map(|row| &mut row.figures).filter_map(|figure| figure.versus.as_mut());
    for classical in versus.filter_map(|versus| versus.classical.as_mut()) {
        classical.corrected_chance = corrected.next().unwrap_or(1.0);
    }
}
