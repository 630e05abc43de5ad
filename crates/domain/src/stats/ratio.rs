//! How many times one setup's rate is another's.

use super::Interval;
use super::summary::{log_moments, t_quantile};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A ratio of geometric means with its interval.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RatioEstimate {
    /// Geometric mean of the numerator over that of the denominator.
    pub ratio: f64,
    pub interval: Interval,
    /// Larger of the two lists' scatters: the sample standard deviation of the logarithms, as a factor less one
    /// (0.4 reads "40 %").
    pub scatter: f64,
}

/// Welch's unequal-variance t interval on the logarithms (Welch 1947; Satterthwaite's degrees of freedom),
/// back-transformed to a ratio. `None` below three positive values a side.
pub fn ratio_of_geometric_means(
    numerator: &[f64],
    denominator: &[f64],
    coverage: f64,
) -> Option<RatioEstimate> {
    let (mean_a, variance_a) = log_moments(numerator)?;
    let (mean_b, variance_b) = log_moments(denominator)?;
    let (share_a, share_b) = (variance_a / numerator.len() as f64, variance_b / denominator.len() as f64);
    let squared_error = share_a + share_b;
    let freedom_a = numerator.len() as f64 - 1.0;
    let freedom_b = denominator.len() as f64 - 1.0;
    let freedom = if squared_error > 0.0 {
        squared_error.powi(2) / (share_a.powi(2) / freedom_a + share_b.powi(2) / freedom_b)
    } else {
        freedom_a + freedom_b
    };
    let half = t_quantile(0.5 + coverage / 2.0, freedom)? * squared_error.sqrt();
    let difference = mean_a - mean_b;
    Some(RatioEstimate {
        ratio: difference.exp(),
        interval: Interval { low: (difference - half).exp(), high: (difference + half).exp(), coverage },
        scatter: variance_a.max(variance_b).sqrt().exp() - 1.0,
    })
}

/// Values of one side, each with the sitting it was taken in: tests of one sitting share the hour's load and count once.
pub type BySitting<K> = [(K, f64)];

/// A ratio of geometric means over sittings, with what it rests on.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SittingRatio {
    /// Geometric mean over geometric mean, each over sittings.
    pub ratio: f64,
    /// `None` where there are too few sittings for one.
    pub estimate: Option<RatioEstimate>,
    pub sittings: usize,
    pub baseline_sittings: usize,
    /// Sittings in which both sides were tested.
    pub shared: usize,
}

/// Mean logarithm of each sitting; `None` where there is no value or one is not positive.
fn sitting_means<K: Ord + Copy>(values: &BySitting<K>) -> Option<BTreeMap<K, f64>> {
    let mut by_sitting: BTreeMap<K, Vec<f64>> = BTreeMap::new();
    for (sitting, value) in values {
        if !(*value > 0.0 && value.is_finite()) {
            return None;
        }
        by_sitting.entry(*sitting).or_default().push(value.ln());
    }
    let mean = |logs: Vec<f64>| logs.iter().sum::<f64>() / logs.len() as f64;
    let means: BTreeMap<K, f64> =
        by_sitting.into_iter().map(|(sitting, logs)| (sitting, mean(logs))).collect();
    (!means.is_empty()).then_some(means)
}

/// The one central figure of repeated speeds and latencies: the geometric mean over sittings of the geometric mean of
/// each sitting's values. `None` for an empty list or where a value is not positive.
pub fn geometric_mean_over_sittings<K: Ord + Copy>(values: &BySitting<K>) -> Option<f64> {
    let means = sitting_means(values)?;
    Some((means.values().sum::<f64>() / means.len() as f64).exp())
}

/// Interval for [`geometric_mean_over_sittings`]: Student's t on the sittings' mean logarithms; `None` below three sittings.
pub fn interval_over_sittings<K: Ord + Copy>(values: &BySitting<K>, coverage: f64) -> Option<Interval> {
    let means: Vec<f64> = sitting_means(values)?.into_values().map(f64::exp).collect();
    super::geometric_mean_interval(&means, coverage)
}

/// How many times one side's geometric mean over sittings is the other's.
///
/// Where both sides were tested in the same sittings, two or more: Student's t on the differences of pairs, which the hour
/// does not touch. Else, from three sittings a side, Welch's interval on the sittings' means. Else no interval: tests of
/// one hour say nothing of the next.
///
/// `None` where a side is empty or a value is not positive.
pub fn ratio_over_sittings<K: Ord + Copy>(
    numerator: &BySitting<K>,
    denominator: &BySitting<K>,
    coverage: f64,
) -> Option<SittingRatio> {
    let (here, there) = (sitting_means(numerator)?, sitting_means(denominator)?);
    let mean = |side: &BTreeMap<K, f64>| side.values().sum::<f64>() / side.len() as f64;
    let ratio = (mean(&here) - mean(&there)).exp();
    let shared = here.keys().filter(|sitting| there.contains_key(sitting)).count();
    let speeds = |side: &BTreeMap<K, f64>| side.values().map(|log| log.exp()).collect::<Vec<f64>>();
    let estimate = if shared >= 2 && shared == here.len() && shared == there.len() {
        paired(&here, &there, coverage)
    } else {
        ratio_of_geometric_means(&speeds(&here), &speeds(&there), coverage)
    };
    Some(SittingRatio { ratio, estimate, sittings: here.len(), baseline_sittings: there.len(), shared })
}

fn paired<K: Ord>(here: &BTreeMap<K, f64>, there: &BTreeMap<K, f64>, coverage: f64) -> Option<RatioEstimate> {
    let differences: Vec<f64> = here.iter().map(|(sitting, log)| log - there[sitting]).collect();
    let n = differences.len() as f64;
    let mean = differences.iter().sum::<f64>() / n;
    let variance = differences.iter().map(|one| (one - mean).powi(2)).sum::<f64>() / (n - 1.0);
    let half = t_quantile(0.5 + coverage / 2.0, n - 1.0)? * (variance / n).sqrt();
    Some(RatioEstimate {
        ratio: mean.exp(),
        interval: Interval { low: (mean - half).exp(), high: (mean + half).exp(), coverage },
        scatter: variance.sqrt().exp() - 1.0,
    })
}
