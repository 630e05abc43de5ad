//! What a fit of shapes leaves over. No real antenna is quite a parabola: an interferer in a null is much weaker than the fit says, one on
//! a side lobe much stronger. Interference and noise were measured at each point, and the points correct the fit near them: a Gaussian process
//! over the fit's residuals (Rasmussen and Williams 2006, equations 2.25 and 2.26), its size by its evidence (equation 2.30).

use super::beam::Beam;
use crate::geo::turn_deg;
use nalgebra::{Cholesky, DMatrix, DVector};

/// How far residuals of neighbouring bearings go together, beamwidths (common practice, no source).
const LENGTH: f64 = 0.25;
/// Sizes that are tried for what a pattern is off, and for the noise of a point, dB.
const SIZES_DB: [f64; 4] = [0.0, 1.0, 2.5, 5.0];
const NOISES_DB: [f64; 3] = [0.7, 1.2, 2.0];
/// Fewer points say nothing of what lies between and beside them.
const LEAST: usize = 5;

/// Bearings at which the residuals are worked out, and how.
#[derive(Clone, Debug)]
pub(super) struct Residuals {
    /// Bearings, degrees, not wrapped.
    pub grid_deg: Vec<f64>,
    /// From the residuals of the points to those of the bearings.
    gather: DMatrix<f64>,
    /// Covariance that is left between bearings, dB².
    covariance: DMatrix<f64>,
}

impl Residuals {
    /// Of `points` (angle in degrees, residual in dB) at `grid_deg`; at least one point.
    pub fn learned(points: &[(f64, f64)], grid_deg: Vec<f64>, beam: &Beam) -> Self {
        let kernel = |a: f64, b: f64| (-0.5 * (turn_deg(a, b) / (LENGTH * beam.width_deg)).powi(2)).exp();
        let (n, m) = (points.len(), grid_deg.len());
        let among = DMatrix::from_fn(n, n, |i, j| kernel(points[i].0, points[j].0));
        let across = DMatrix::from_fn(m, n, |i, j| kernel(grid_deg[i], points[j].0));
        let own = DMatrix::from_fn(m, m, |i, j| kernel(grid_deg[i], grid_deg[j]));
        let residuals = DVector::from_iterator(n, points.iter().map(|one| one.1));
        let mut gather = DMatrix::zeros(m, n);
        let mut covariance = DMatrix::zeros(m, m);
        let tried: Vec<(f64, f64, Cholesky<f64, nalgebra::Dyn>)> = SIZES_DB
            .iter()
            .filter(|_| n >= LEAST)
            .flat_map(|size| NOISES_DB.iter().map(move |noise| (*size, *noise)))
            .filter_map(|(size, noise)| {
                let whole = &among * (size * size) + DMatrix::identity(n, n) * (noise * noise);
                let factor = Cholesky::new(whole)?;
                let logarithm =
                    -0.5 * residuals.dot(&factor.solve(&residuals)) - 0.5 * factor.ln_determinant();
                Some((logarithm, size, factor))
            })
            .collect();
        let most = tried.iter().map(|one| one.0).fold(f64::MIN, f64::max);
        let sum: f64 = tried.iter().map(|one| (one.0 - most).exp()).sum();
        for (logarithm, size, factor) in tried {
            let share = (logarithm - most).exp() / sum;
            if size == 0.0 || share < 0.01 {
                continue;
            }
            let solved = factor.solve(&(across.transpose() * (size * size))).transpose();
            covariance += (&own - &solved * across.transpose()) * (share * size * size);
            gather += solved * share;
        }
        Self { grid_deg, gather, covariance }
    }

    /// The residuals at the bearings for these at the points, dB.
    pub fn at_grid(&self, residuals: &[f64]) -> DVector<f64> {
        &self.gather * DVector::from_column_slice(residuals)
    }

    /// Variance that is left at a bearing of the grid, dB².
    pub fn variance(&self, at: usize) -> f64 {
        self.covariance[(at, at)].max(0.0)
    }

    /// Variance of the difference between two bearings of the grid, dB².
    pub fn between(&self, a: usize, b: usize) -> f64 {
        let c = &self.covariance;
        (c[(a, a)] + c[(b, b)] - 2.0 * c[(a, b)]).max(0.0)
    }
}
