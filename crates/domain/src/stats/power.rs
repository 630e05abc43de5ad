//! How many blocks tell a difference.

use super::summary::t_quantile;

/// Chance of seeing a difference that is there.
const POWER: f64 = 0.80;
/// Fewest blocks: one has no residual.
pub const FEWEST_BLOCKS: u16 = 2;
/// More than this nobody runs.
pub const MOST_BLOCKS: u16 = 200;

/// Blocks in which each of `choices` (2 or more; fewer count as 2) is visited once, so that one that is better than all others by a
/// `difference` (share, 0.2 for 20 %) is found, and found better than the next one at two-sided `coverage`, four times in five.
/// `scatter` is that of visits within a block (standard deviation of the logarithms, above 0).
///
/// The smallest b with ln(1 + δ) √(b/2) / σ ≥ t(coverage) + t(power), Student's t of (choices − 1)(b − 1) degrees of freedom
/// (Cochran and Cox, Experimental Designs, sections 2.21 and 4.1). Every other choice has to be passed: each is given its share of
/// the chance to miss (Bonferroni), so the true power lies a little higher.
pub fn blocks_planned(choices: usize, difference: f64, scatter: f64, coverage: f64) -> u16 {
    let others = choices.max(2) as f64 - 1.0;
    let effect = (1.0 + difference.max(0.01)).ln();
    let passed = 1.0 - (1.0 - POWER) / others;
    let enough = |blocks: &u16| {
        let freedom = others * (f64::from(*blocks) - 1.0);
        let quantile = |p| t_quantile(p, freedom).unwrap_or(2.0);
        let wanted = quantile(0.5 + coverage / 2.0) + quantile(passed);
        effect * (f64::from(*blocks) / 2.0).sqrt() / scatter >= wanted
    };
    (FEWEST_BLOCKS..MOST_BLOCKS).find(enough).unwrap_or(MOST_BLOCKS)
}
