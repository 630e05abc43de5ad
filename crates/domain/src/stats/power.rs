//! How many tests tell a difference.

use super::summary::t_quantile;

/// Chance of a false alarm, either way.
const ALPHA: f64 = 0.10;
/// Chance of seeing a difference that is there.
const POWER: f64 = 0.80;
/// More than this nobody runs.
const MOST: usize = 400;

/// Tests a side, so that log-normal values of a `scatter` (standard deviation of the logarithms, above 0) show a
/// `difference` (share, 0.2 for 20 %) four times in five at 90 % coverage: n = 2 (t(1 − α/2) + t(power))² σ²/δ² with
/// Student's t of 2n − 2 degrees of freedom (Snedecor and Cochran, Statistical Methods, section 6.14). Three at least,
/// 400 at the most.
pub fn tests_a_side(difference: f64, scatter: f64) -> usize {
    let effect = (1.0 + difference.max(0.01)).ln();
    let enough = |n: &usize| {
        let freedom = 2.0 * *n as f64 - 2.0;
        let quantile = |p| t_quantile(p, freedom).unwrap_or(2.0);
        let wanted = 2.0 * ((quantile(1.0 - ALPHA / 2.0) + quantile(POWER)) * scatter / effect).powi(2);
        *n as f64 >= wanted
    };
    (super::FEWEST_TESTS..MOST).find(enough).unwrap_or(MOST)
}
