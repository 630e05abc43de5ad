//! How many times one setup's rate is another's.

use super::Interval;
use super::summary::{log_moments, t_quantile};
use serde::{Deserialize, Serialize};

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
