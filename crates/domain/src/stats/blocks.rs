//! Randomised blocks: what is due to the treatment, and what to the hour.

use super::summary::t_quantile;
use nalgebra::{DMatrix, DVector};

/// One value of a treatment in a block.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct BlockValue {
    /// Place of the treatment, from 0 without gaps.
    pub treatment: usize,
    /// Place of the block, from 0 without gaps.
    pub block: usize,
    /// The value.
    pub value: f64,
}

/// Effects of treatments with the blocks' taken out.
#[derive(Clone, Debug, PartialEq)]
pub struct BlockFit {
    /// Effect of each treatment against the first block.
    pub effects: Vec<f64>,
    /// Residual standard deviation.
    pub spread: f64,
    /// Degrees of freedom.
    pub freedom: f64,
    /// Inverse of the normal equations, for variances of differences.
    inverse: DMatrix<f64>,
}

/// Below this a pivot of the normal equations (of counts, so 1 or more) is rounding.
const SMALLEST_PIVOT: f64 = 1e-6;

/// Least squares of the additive two-way layout, value = treatment + block (Cochran and Cox, Experimental Designs,
/// chapter 4), with or without gaps. `None` where some difference cannot be told apart from the blocks.
pub fn block_fit(values: &[BlockValue]) -> Option<BlockFit> {
    let treatments = values.iter().map(|one| one.treatment + 1).max()?;
    let blocks = values.iter().map(|one| one.block + 1).max()?;
    // The first block is the one that the others differ from.
    let size = treatments + blocks - 1;
    let columns = |one: &BlockValue| {
        [Some(one.treatment), (one.block > 0).then(|| treatments + one.block - 1)].into_iter().flatten()
    };
    let mut normal = DMatrix::<f64>::zeros(size, size);
    let mut right = DVector::<f64>::zeros(size);
    for one in values {
        for row in columns(one) {
            right[row] += one.value;
            for column in columns(one) {
                normal[(row, column)] += 1.0;
            }
        }
    }
    let root = normal.cholesky()?;
    // Rounding lets a singular matrix pass as one with a tiny pivot.
    if root.l_dirty().diagonal().iter().any(|pivot| *pivot < SMALLEST_PIVOT) {
        return None;
    }
    let (solved, inverse) = (root.solve(&right), root.inverse());
    let residual: f64 = values
        .iter()
        .map(|one| (one.value - columns(one).map(|column| solved[column]).sum::<f64>()).powi(2))
        .sum();
    let freedom = values.len() as f64 - size as f64;
    let spread = if freedom > 0.0 { (residual / freedom).sqrt() } else { 0.0 };
    Some(BlockFit { effects: solved.iter().take(treatments).copied().collect(), spread, freedom, inverse })
}

impl BlockFit {
    /// Effect of one treatment over another, and half the width of its interval. `None` without degrees of freedom.
    pub fn difference(&self, one: usize, other: usize, coverage: f64) -> Option<(f64, f64)> {
        if self.freedom < 1.0 {
            return None;
        }
        let of = |row: usize, column: usize| self.inverse[(row, column)];
        let variance = of(one, one) + of(other, other) - 2.0 * of(one, other);
        let t = t_quantile(0.5 + coverage / 2.0, self.freedom)?;
        Some((self.effects[one] - self.effects[other], t * self.spread * variance.max(0.0).sqrt()))
    }
}
