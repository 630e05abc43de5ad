//! Median, spread and interval of one list of numbers.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};

/// An interval meant to hold the true value with the stated coverage.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Interval {
    /// Lower end.
    pub low: f64,
    /// Upper end.
    pub high: f64,
    /// Nominal coverage, share 0..1.
    pub coverage: f64,
}

/// Median and spread of a list, in the list's own unit.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Summary {
    /// Number of values.
    pub n: usize,
    /// Median.
    pub median: f64,
    /// Median absolute deviation from the median, not scaled.
    pub mad: f64,
    /// Smallest value.
    pub min: f64,
    /// Largest value.
    pub max: f64,
}

/// The `p`-quantile, 0..=1, by linear interpolation between order statistics (Hyndman and Fan's type 7).
/// `None` for an empty list.
pub fn quantile(values: &[f64], p: f64) -> Option<f64> {
    if values.is_empty() {
        return None;
    }
    let mut sorted = values.to_vec();
    sorted.sort_by(f64::total_cmp);
    let at = p.clamp(0.0, 1.0) * (sorted.len() - 1) as f64;
    let below = at.floor() as usize;
    let above = at.ceil() as usize;
    Some(sorted[below] + (at - below as f64) * (sorted[above] - sorted[below]))
}

/// The median; `None` for an empty list.
pub fn median(values: &[f64]) -> Option<f64> {
    quantile(values, 0.5)
}

/// Median, median absolute deviation, extremes; `None` for an empty list.
pub fn summarise(values: &[f64]) -> Option<Summary> {
    super::Counted::of(values.iter().copied()).summary()
}

/// Student's t interval on the logarithms, back-transformed: an interval for the geometric mean of positive,
/// roughly log-normal values (rates, latencies). `None` below three values or where one is not positive.
pub fn geometric_mean_interval(values: &[f64], coverage: f64) -> Option<Interval> {
    let (mean, variance) = log_moments(values)?;
    let n = values.len() as f64;
    let t = t_quantile(0.5 + coverage / 2.0, n - 1.0)?;
    let half = t * (variance / n).sqrt();
    Some(Interval { low: (mean - half).exp(), high: (mean + half).exp(), coverage })
}

/// Mean and sample variance of the natural logarithms; `None` below three values or where one is not positive.
pub(super) fn log_moments(values: &[f64]) -> Option<(f64, f64)> {
    if values.len() < super::FEWEST_TESTS || values.iter().any(|value| !(*value > 0.0 && value.is_finite())) {
        return None;
    }
    let n = values.len() as f64;
    let mean = values.iter().map(|value| value.ln()).sum::<f64>() / n;
    let variance = values.iter().map(|value| (value.ln() - mean).powi(2)).sum::<f64>() / (n - 1.0);
    Some((mean, variance))
}

/// Quantile of Student's t with `freedom` degrees of freedom.
pub(super) fn t_quantile(p: f64, freedom: f64) -> Option<f64> {
    StudentsT::new(0.0, 1.0, freedom).ok().map(|t| t.inverse_cdf(p))
}
