//! Textbook comparisons of two lists, for those who check the model's words: they assume less, and see less.

use super::Interval;
use fastrand::Rng;
use statrs::distribution::{ContinuousCDF, Normal};
use std::collections::BTreeMap;

/// Shift of one list against another: the median of all differences (Hodges and Lehmann 1963, Annals of Mathematical
/// Statistics 34). `None` where a list is empty.
pub fn hodges_lehmann(here: &[f64], there: &[f64]) -> Option<f64> {
    let differences: Vec<f64> = here.iter().flat_map(|a| there.iter().map(move |b| a - b)).collect();
    super::median(&differences)
}

/// Chance of ranks at least as uneven as these where both lists are of one distribution, from both sides: the exact permutation
/// distribution of the rank sum, ties with their middle rank (Mann and Whitney 1947, Annals of Mathematical Statistics 18). `None`
/// where a list is empty.
pub fn mann_whitney(here: &[f64], there: &[f64]) -> Option<f64> {
    if here.is_empty() || there.is_empty() {
        return None;
    }
    let mut all: Vec<(f64, bool)> = here.iter().map(|value| (*value, true)).collect();
    all.extend(there.iter().map(|value| (*value, false)));
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    // Twice the ranks, so that the middle rank of a tie is a whole number.
    let mut doubled = Vec::with_capacity(all.len());
    let mut own = 0;
    for tie in all.chunk_by(|a, b| a.0 == b.0) {
        let rank = 2 * doubled.len() + tie.len() + 1;
        doubled.extend(tie.iter().map(|_| rank));
        own += rank * tie.iter().filter(|(_, is_here)| *is_here).count();
    }
    // Ways to choose so many ranks with each sum.
    let mut ways: Vec<BTreeMap<usize, f64>> = vec![BTreeMap::new(); here.len() + 1];
    ways[0].insert(0, 1.0);
    for rank in doubled {
        for chosen in (0..here.len()).rev() {
            let longer: Vec<(usize, f64)> =
                ways[chosen].iter().map(|(sum, count)| (sum + rank, *count)).collect();
            for (sum, count) in longer {
                *ways[chosen + 1].entry(sum).or_default() += count;
            }
        }
    }
    let sums = &ways[here.len()];
    let total: f64 = sums.values().sum();
    let below: f64 = sums.range(..=own).map(|(_, count)| count).sum();
    let above: f64 = sums.range(own..).map(|(_, count)| count).sum();
    Some((2.0 * below.min(above) / total).min(1.0))
}

/// Chances corrected for how many are looked at together, in the same order: Holm 1979, Scandinavian Journal of Statistics 6.
///
/// ```
/// use open_beacon_domain::stats::holm;
/// // By hand: 0.01 · 3, then 0.02 · 2, then 0.04 · 1, none below the one before it.
/// let corrected = holm(&[0.04, 0.01, 0.02]);
/// assert!(corrected.iter().zip([0.04, 0.03, 0.04]).all(|(a, b)| (a - b).abs() < 1e-12));
/// ```
pub fn holm(chances: &[f64]) -> Vec<f64> {
    let mut order: Vec<usize> = (0..chances.len()).collect();
    order.sort_by(|a, b| chances[*a].total_cmp(&chances[*b]));
    let mut corrected = vec![1.0; chances.len()];
    let mut least: f64 = 0.0;
    for (place, at) in order.iter().enumerate() {
        least = least.max((chances[*at] * (chances.len() - place) as f64).min(1.0));
        corrected[*at] = least;
    }
    corrected
}

/// Fewer sittings a side than this carry no bootstrap interval: its ends would be the extremes themselves.
pub const FEWEST_FOR_BOOTSTRAP: usize = 6;

/// Interval of the difference of two means, bias-corrected and accelerated (Efron 1987, JASA 82, section 7 for several samples).
/// Seeded. `None` below [`FEWEST_FOR_BOOTSTRAP`] values a side or where all values are alike.
pub fn bootstrap_difference(
    here: &[f64],
    there: &[f64],
    coverage: f64,
    resamples: usize,
    seed: u64,
) -> Option<Interval> {
    if here.len().min(there.len()) < FEWEST_FOR_BOOTSTRAP || resamples == 0 {
        return None;
    }
    let mean = |values: &[f64]| values.iter().sum::<f64>() / values.len() as f64;
    let observed = mean(here) - mean(there);
    let mut dice = Rng::with_seed(seed);
    let mut again = |values: &[f64]| {
        (0..values.len()).map(|_| values[dice.usize(..values.len())]).sum::<f64>() / values.len() as f64
    };
    let mut drawn: Vec<f64> = (0..resamples).map(|_| again(here) - again(there)).collect();
    drawn.sort_by(f64::total_cmp);
    let normal = Normal::standard();
    let below = drawn.iter().filter(|one| **one < observed).count()
        + drawn.iter().filter(|one| **one <= observed).count();
    let bias = normal.inverse_cdf(below as f64 / (2.0 * resamples as f64));
    let (mut cubes, mut squares) = (0.0, 0.0);
    for (values, sign) in [(here, 1.0), (there, -1.0)] {
        let (n, whole) = (values.len() as f64, mean(values));
        for value in values {
            // Leaving one value out moves a mean by this; scaled as the influence of a value.
            let influence = sign * (value - whole);
            cubes += influence.powi(3) / n.powi(3);
            squares += influence.powi(2) / n.powi(2);
        }
    }
    let acceleration = cubes / (6.0 * squares.powf(1.5));
    let end = |p: f64| {
        let z = bias + normal.inverse_cdf(p);
        let share = normal.cdf(bias + z / (1.0 - acceleration * z));
        quantile_of_sorted(&drawn, share)
    };
    let half = (1.0 - coverage) / 2.0;
    let found = Interval { low: end(half), high: end(1.0 - half), coverage };
    (squares > 0.0 && found.low.is_finite() && found.high.is_finite()).then_some(found)
}

/// [`super::quantile`] of a list that is sorted already and not empty.
fn quantile_of_sorted(sorted: &[f64], p: f64) -> f64 {
    let at = p.clamp(0.0, 1.0) * (sorted.len() - 1) as f64;
    let (below, above) = (sorted[at.floor() as usize], sorted[at.ceil() as usize]);
    below + at.fract() * (above - below)
}
