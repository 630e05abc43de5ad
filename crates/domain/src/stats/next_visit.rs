//! What visits tell: what the next one will find, and how far two places that were visited lie apart.

use super::Interval;
use super::summary::t_quantile;

/// How a figure usually scatters from visit to visit, and how many visits that assumption counts as.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct UsualScatter {
    /// Standard deviation, in the unit of the values.
    pub spread: f64,
    /// Visits that it counts as, above 0.
    pub visits: f64,
}

/// Holds the value of one more visit with this coverage: the predictive distribution of a normal sample whose level is unknown and whose
/// variance has a scaled inverse-χ² prior (Gelman et al., Bayesian Data Analysis, third edition, 3.3). Without the prior it is the textbook
/// interval mean ± t·s·√(1 + 1/n). `None` where nothing was found.
pub fn next_visit(found: &[f64], usual: UsualScatter, coverage: f64) -> Option<(f64, Interval)> {
    if found.is_empty() {
        return None;
    }
    let n = found.len() as f64;
    let mean = found.iter().sum::<f64>() / n;
    let squares: f64 = found.iter().map(|value| (value - mean).powi(2)).sum();
    let freedom = usual.visits + n - 1.0;
    let variance = (usual.visits * usual.spread.powi(2) + squares) / freedom;
    let half = t_quantile(0.5 + coverage / 2.0, freedom)? * (variance * (1.0 + 1.0 / n)).sqrt();
    Some((mean, Interval { low: mean - half, high: mean + half, coverage }))
}

/// Half the width of the interval that holds how far two levels lie apart, each known by visits that scatter alike: Student's interval of two
/// samples with pooled variance, which has a scaled inverse-χ² prior (Gelman et al., Bayesian Data Analysis, third edition, 3.3). With a
/// prior of no visits it is the textbook interval. `None` where one side has no visit.
pub fn half_width_between(here: &[f64], there: &[f64], usual: UsualScatter, coverage: f64) -> Option<f64> {
    if here.is_empty() || there.is_empty() {
        return None;
    }
    let squares = |found: &[f64]| {
        let mean = found.iter().sum::<f64>() / found.len() as f64;
        found.iter().map(|value| (value - mean).powi(2)).sum::<f64>()
    };
    let (n, m) = (here.len() as f64, there.len() as f64);
    let freedom = usual.visits + n + m - 2.0;
    let variance = (usual.visits * usual.spread.powi(2) + squares(here) + squares(there)) / freedom;
    Some(t_quantile(0.5 + coverage / 2.0, freedom)? * (variance * (1.0 / n + 1.0 / m)).sqrt())
}
