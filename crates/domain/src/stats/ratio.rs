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
    /// Interval meant to hold the true value.
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
    /// Visits to one hour.
    pub sittings: usize,
    /// Sittings of the baseline.
    pub baseline_sittings: usize,
    /// Sittings in which both sides were tested.
    pub shared: usize,
}

/// Mean logarithm of each sitting's values: what every figure over sittings rests on.
#[derive(Clone, Debug, PartialEq)]
pub struct SittingMeans<K>(BTreeMap<K, f64>);

impl<K: Ord + Copy> SittingMeans<K> {
    /// `None` where there is no value or one is not positive.
    pub fn of(values: &BySitting<K>) -> Option<Self> {
        let mut sums: BTreeMap<K, (f64, f64)> = BTreeMap::new();
        for (sitting, value) in values {
            if !(*value > 0.0 && value.is_finite()) {
                return None;
            }
            let sum = sums.entry(*sitting).or_default();
            *sum = (sum.0 + value.ln(), sum.1 + 1.0);
        }
        let means = sums.into_iter().map(|(sitting, (logs, n))| (sitting, logs / n));
        let means: BTreeMap<K, f64> = means.collect();
        (!means.is_empty()).then_some(Self(means))
    }

    /// Number of sittings.
    pub fn sittings(&self) -> usize {
        self.0.len()
    }

    /// Mean logarithm of each sitting, in order of their keys.
    pub fn means(&self) -> impl Iterator<Item = (K, f64)> {
        self.0.iter().map(|(sitting, log)| (*sitting, *log))
    }

    fn mean(&self) -> f64 {
        self.0.values().sum::<f64>() / self.0.len() as f64
    }

    fn speeds(&self) -> Vec<f64> {
        self.0.values().map(|log| log.exp()).collect()
    }

    /// The one central figure of repeated speeds and latencies: the geometric mean over sittings of the geometric mean of each
    /// sitting's values.
    pub fn geometric_mean(&self) -> f64 {
        self.mean().exp()
    }

    /// Interval for [`SittingMeans::geometric_mean`]: Student's t on the sittings' mean logarithms; `None` below three sittings.
    pub fn interval(&self, coverage: f64) -> Option<Interval> {
        super::geometric_mean_interval(&self.speeds(), coverage)
    }

    /// How many times the geometric mean over sittings is another's.
    ///
    /// Where both sides were tested in the same sittings, two or more: Student's t on the differences of pairs, which the hour
    /// does not touch. Else, from three sittings a side, Welch's interval on the sittings' means. Else no interval: tests of
    /// one hour say nothing of the next.
    pub fn ratio_to(&self, other: &Self, coverage: f64) -> SittingRatio {
        let ratio = (self.mean() - other.mean()).exp();
        let shared = self.0.keys().filter(|sitting| other.0.contains_key(sitting)).count();
        let estimate = if shared >= 2 && shared == self.sittings() && shared == other.sittings() {
            paired(&self.0, &other.0, coverage)
        } else {
            ratio_of_geometric_means(&self.speeds(), &other.speeds(), coverage)
        };
        SittingRatio {
            ratio,
            estimate,
            sittings: self.sittings(),
            baseline_sittings: other.sittings(),
            shared,
        }
    }
}

/// [`SittingMeans::geometric_mean`] of values; `None` for an empty list or where a value is not positive.
pub fn geometric_mean_over_sittings<K: Ord + Copy>(values: &BySitting<K>) -> Option<f64> {
    Some(SittingMeans::of(values)?.geometric_mean())
}

/// [`SittingMeans::ratio_to`] of values; `None` where a side is empty or a value is not positive.
pub fn ratio_over_sittings<K: Ord + Copy>(
    numerator: &BySitting<K>,
    denominator: &BySitting<K>,
    coverage: f64,
) -> Option<SittingRatio> {
    Some(SittingMeans::of(numerator)?.ratio_to(&SittingMeans::of(denominator)?, coverage))
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
