//! The model where its four scatters are given: closed form.

use super::cells::{Cell, Cells};
use super::{MixedPriors, Scatters, Tested};
use nalgebra::{Cholesky, DMatrix, DVector, Dyn};

/// Effects and how sure they are, at given scatters.
#[derive(Clone, Debug)]
pub struct Given {
    /// Posterior means: setups, parts of the day, servers, slope; setups with the overall mean in them.
    pub means: DVector<f64>,
    /// Of the precision of these effects.
    pub(super) factor: Cholesky<f64, Dyn>,
    /// Logarithm of the likelihood with all effects integrated out, but for constants: the restricted likelihood (Patterson and
    /// Thompson 1971, Biometrika 58) where setups are not pooled and nothing else is in the model.
    pub ln_likelihood: f64,
    /// The scatters.
    pub scatters: Scatters,
    centre: f64,
}

/// Smallest scatter, so that nothing is divided by 0.
const SMALLEST: f64 = 1e-5;
/// Hours for which the scatter of all counts against a setup's own (common practice, no source).
const CALM_FREEDOM: f64 = 3.0;
/// Precision of effects that can have no effect, as the part of day where there is only one.
const HELD: f64 = 1e8;

/// One sitting at given scatters: variances of a test and of a setup's own part of the hour, and the effect that all share with its
/// variance.
struct Hour {
    test: f64,
    own: f64,
    doubt: f64,
    of_visit: f64,
}

impl Given {
    pub(super) fn at(cells: &Cells, priors: &MixedPriors, scatters: &Scatters) -> Option<Self> {
        let (test, within) = (scatters.test.max(SMALLEST).powi(2), scatters.within.powi(2));
        let sitting = scatters.sitting.powi(2);
        let size = cells.size();
        let (mut precision, mut ln_likelihood) = prior_precision(cells, priors, scatters.setups);
        let mut right = DVector::<f64>::zeros(size);
        let mut squares = 0.0;
        let mut touched: Vec<usize> = Vec::new();
        let mut shared = DVector::<f64>::zeros(size);
        for visit in cells.list.chunk_by(|a, b| a.sitting == b.sitting) {
            if let [cell] = visit {
                // Alone in its sitting: its two effects are one.
                let variance = (within + sitting) / cell.calm + test / cell.weight;
                let weight = 1.0 / variance;
                ln_likelihood -= 0.5 * variance.ln();
                squares += weight * cell.mean.powi(2);
                for (row, a) in cell.effects {
                    right[row] += weight * cell.mean * a;
                    for (column, b) in cell.effects {
                        precision[(row, column)] += weight * a * b;
                    }
                }
                continue;
            }
            let (mut weights, mut sum) = (0.0, 0.0);
            touched.clear();
            for cell in visit {
                let variance = within / cell.calm + test / cell.weight;
                let weight = 1.0 / variance;
                ln_likelihood -= 0.5 * variance.ln();
                weights += weight;
                sum += weight * cell.mean;
                squares += weight * cell.mean.powi(2);
                for (row, a) in cell.effects {
                    right[row] += weight * cell.mean * a;
                    for (column, b) in cell.effects {
                        precision[(row, column)] += weight * a * b;
                    }
                    if !touched.contains(&row) {
                        touched.push(row);
                    }
                    shared[row] += weight * a;
                }
            }
            // The sitting's own effect is integrated out: Sherman and Morrison's identity.
            ln_likelihood -= 0.5 * (sitting * weights).ln_1p();
            let taken = sitting / (1.0 + sitting * weights);
            squares -= taken * sum * sum;
            for &row in &touched {
                right[row] -= taken * sum * shared[row];
                for &column in &touched {
                    precision[(row, column)] -= taken * shared[row] * shared[column];
                }
            }
            for &row in &touched {
                shared[row] = 0.0;
            }
        }
        let factor = precision.cholesky()?;
        let mut means = factor.solve(&right);
        ln_likelihood -= factor.l_dirty().diagonal().iter().map(|pivot| pivot.ln()).sum::<f64>();
        ln_likelihood -= 0.5 * (squares - right.dot(&means));
        ln_likelihood -= 0.5 * (cells.freedom * test.ln() + cells.squares / test);
        for setup in 0..cells.setups {
            means[setup] += cells.centre;
        }
        Some(Self { means, factor, ln_likelihood, scatters: *scatters, centre: cells.centre })
    }

    /// Standard deviation of one setup's effect less another's.
    pub fn spread_of_difference(&self, one: usize, other: usize) -> f64 {
        let mut contrast = DVector::<f64>::zeros(self.means.len());
        contrast[one] += 1.0;
        contrast[other] -= 1.0;
        contrast.dot(&self.factor.solve(&contrast)).max(0.0).sqrt()
    }

    /// What a cell's setup, part of day, server and covariate make expected.
    fn fixed(&self, cell: &Cell) -> f64 {
        cell.effects.iter().map(|(at, by)| by * self.means[*at]).sum()
    }

    /// A cell's mean less that.
    fn off(&self, cell: &Cell) -> f64 {
        cell.mean + self.centre - self.fixed(cell)
    }

    /// What is known of one sitting.
    fn hour(&self, visit: &[Cell]) -> Hour {
        let (test, within) = (self.scatters.test.max(SMALLEST).powi(2), self.scatters.within.powi(2));
        let sitting = self.scatters.sitting.powi(2);
        // Alone in its sitting a cell's two effects are one.
        let (own, shared) = if visit.len() == 1 { (within + sitting, 0.0) } else { (within, sitting) };
        let weight = |cell: &Cell| 1.0 / (own / cell.calm + test / cell.weight);
        let doubt = shared / (1.0 + shared * visit.iter().map(weight).sum::<f64>());
        let of_visit = doubt * visit.iter().map(|cell| weight(cell) * self.off(cell)).sum::<f64>();
        Hour { test, own, doubt, of_visit }
    }

    /// How calm the hours of each setup are: the setup's own variance of an hour beside that of all, as one that counts for
    /// [`CALM_FREEDOM`] hours (an inverse-gamma prior; a step of expectation and maximisation).
    pub(super) fn calm(&self, cells: &Cells) -> Vec<f64> {
        let mut sums = vec![(CALM_FREEDOM, CALM_FREEDOM); cells.setups];
        for visit in cells.list.chunk_by(|a, b| a.sitting == b.sitting) {
            // The effects' doubt moves the visit's along.
            let Hour { test, own, doubt, of_visit } = self.hour(visit);
            let weight = |cell: &Cell| 1.0 / (own / cell.calm + test / cell.weight);
            let mut along = DVector::<f64>::zeros(self.means.len());
            for cell in visit {
                for (at, by) in cell.effects {
                    along[at] -= doubt * weight(cell) * by;
                }
            }
            for cell in visit {
                let spread = own.max(SMALLEST.powi(2)) / cell.calm;
                let share = spread * weight(cell);
                let mut of = along.clone();
                for (at, by) in cell.effects {
                    of[at] += by;
                }
                let of_effects = of.dot(&self.factor.solve(&of)).max(0.0);
                let squared = (share * (self.off(cell) - of_visit)).powi(2)
                    + spread * (1.0 - share)
                    + share.powi(2) * (doubt + of_effects);
                let sum = &mut sums[Cells::setup(cell)];
                *sum = (sum.0 + 1.0, sum.1 + squared / (spread * cell.calm));
            }
        }
        sums.into_iter().map(|(hours, squares)| hours / squares).collect()
    }

    /// Each test less what its setup, sitting and visit make expected.
    pub(super) fn residuals(&self, cells: &Cells, tests: &[Tested]) -> Vec<f64> {
        let mut expected = Vec::with_capacity(cells.list.len());
        for visit in cells.list.chunk_by(|a, b| a.sitting == b.sitting) {
            let Hour { test, own, of_visit, .. } = self.hour(visit);
            expected.extend(visit.iter().map(|cell| {
                let share = own / cell.calm / (own / cell.calm + test / cell.weight);
                self.fixed(cell) + of_visit + share * (self.off(cell) - of_visit)
            }));
        }
        tests.iter().zip(&cells.of_test).map(|(one, cell)| one.ln - expected[*cell]).collect()
    }
}

/// Precision of the effects before any test, and half the logarithm of its determinant. Setups have a common mean that is not
/// known: only their differences are pooled.
fn prior_precision(cells: &Cells, priors: &MixedPriors, setups: f64) -> (DMatrix<f64>, f64) {
    let size = cells.size();
    let mut precision = DMatrix::<f64>::zeros(size, size);
    let mut ln = 0.0;
    if setups.is_finite() {
        let (tight, n) = (1.0 / setups.max(SMALLEST).powi(2), cells.setups as f64);
        for row in 0..cells.setups {
            for column in 0..cells.setups {
                precision[(row, column)] = tight * (f64::from(u8::from(row == column)) - 1.0 / n);
            }
        }
        ln += 0.5 * (n - 1.0) * tight.ln();
    }
    let held = |spread: f64, many: bool| if many && spread > 0.0 { spread.powi(-2) } else { HELD };
    let uses_slope = cells.list.iter().any(|cell| cell.effects[3].1 != 0.0);
    let parts = held(priors.part, cells.parts > 1);
    let servers = held(priors.server, cells.servers > 1);
    let slope = held(priors.slope, uses_slope);
    let first_server = cells.setups + cells.parts;
    for at in cells.setups..size {
        let own = if at < first_server {
            parts
        } else if at < size - 1 {
            servers
        } else {
            slope
        };
        precision[(at, at)] = own;
        ln += 0.5 * own.ln();
    }
    (precision, ln)
}
