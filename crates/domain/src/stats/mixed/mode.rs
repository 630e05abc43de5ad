//! Which scatters are likely: the mode of their posterior, and a grid about it.

use super::cells::Cells;
use super::{Given, MixedPriors, Scatters};
use nalgebra::{Matrix4, SymmetricEigen, Vector4};

/// Logarithms of the four scatters that are likeliest, and how the posterior falls off about them.
#[derive(Clone, Copy, Debug)]
pub(super) struct Mode {
    at: Vector4<f64>,
    /// Columns: steps of one standard deviation along the axes of the posterior.
    steps: Matrix4<f64>,
}

/// Step of numerical derivatives, in logarithms.
const STEP: f64 = 0.05;
/// Steps of Newton's method at the most.
const MOST_STEPS: usize = 12;
/// The posterior is taken to be at most this wide along an axis, in logarithms.
const WIDEST: f64 = 1.5;
/// Distance of grid points along an axis, in standard deviations. The sum over such points is the integral of a normal density to
/// five digits (trapezoidal rule).
const SPACING: f64 = 1.25;
/// Grid points further out than this many squared spacings weigh nothing.
const FARTHEST: i32 = 8;
/// From so many cells on the scatters are known well, and the nearest points are enough.
const MANY_CELLS: usize = 300;
const FARTHEST_OF_MANY: i32 = 2;
const VERY_MANY_CELLS: usize = 2000;
const FARTHEST_OF_VERY_MANY: i32 = 1;

impl Mode {
    pub(super) fn scatters(&self) -> Scatters {
        scatters(&self.at)
    }
}

fn scatters(at: &Vector4<f64>) -> Scatters {
    Scatters { test: at[0].exp(), within: at[1].exp(), sitting: at[2].exp(), setups: at[3].exp() }
}

/// Logarithm of the posterior of the scatters' logarithms, with the effects at them.
fn posterior(cells: &Cells, priors: &MixedPriors, at: &Vector4<f64>) -> Option<(f64, Given)> {
    let given = Given::at(cells, priors, &scatters(at))?;
    let scales = logarithms(&priors.scales);
    let prior: f64 = at.iter().zip(scales.iter()).map(|(at, scale)| ln_half_t(at - scale)).sum();
    Some((given.ln_likelihood + prior, given))
}

fn logarithms(of: &Scatters) -> Vector4<f64> {
    Vector4::new(of.test, of.within, of.sitting, of.setups).map(f64::ln)
}

/// Degrees of freedom of the priors: heavier tails than a half-normal's (common practice, no source).
const PRIOR_FREEDOM: f64 = 7.0;

/// Half-t density of a scatter, as a density of its logarithm; `off` is that of the scatter over its scale. But for a constant.
fn ln_half_t(off: f64) -> f64 {
    off - 0.5 * (PRIOR_FREEDOM + 1.0) * ((2.0 * off).exp() / PRIOR_FREEDOM).ln_1p()
}

/// Newton's method with numerical derivatives, from the priors' scales or from a mode found before.
pub(super) fn find(cells: &Cells, priors: &MixedPriors, from: Option<Mode>) -> Option<Mode> {
    let mut at = from.map_or_else(|| logarithms(&priors.scales), |mode| mode.at);
    let value = |at: &Vector4<f64>| posterior(cells, priors, at).map(|(ln, _)| ln);
    let mut here = value(&at)?;
    let mut steps = Matrix4::identity();
    for _ in 0..MOST_STEPS {
        let (gradient, curvature) = derivatives(&value, &at, here)?;
        let axes = SymmetricEigen::new(-curvature);
        // Along an axis on which it does not fall off the step is as wide as the prior lets it be.
        let least = WIDEST.powi(-2);
        let widths = axes.eigenvalues.map(|falls| falls.max(least).sqrt().recip());
        steps = axes.eigenvectors * Matrix4::from_diagonal(&widths);
        let full = steps * (steps.transpose() * gradient);
        let mut step = full * (1.0 / full.amax()).min(1.0);
        let mut gained = 0.0;
        for _ in 0..8 {
            if let Some(there) = value(&(at + step)).filter(|there| *there > here) {
                gained = there - here;
                (at, here) = (at + step, there);
                break;
            }
            step *= 0.5;
        }
        if gained < 1e-4 {
            break;
        }
    }
    Some(Mode { at, steps })
}

type Derivatives = (Vector4<f64>, Matrix4<f64>);

fn derivatives(
    value: &impl Fn(&Vector4<f64>) -> Option<f64>,
    at: &Vector4<f64>,
    here: f64,
) -> Option<Derivatives> {
    let mut gradient = Vector4::zeros();
    let mut curvature = Matrix4::zeros();
    let along = |axis: usize, by: f64| Vector4::from_fn(|row, _| if row == axis { by * STEP } else { 0.0 });
    let mut up = [0.0; 4];
    for axis in 0..4 {
        up[axis] = value(&(at + along(axis, 1.0)))?;
        let below = value(&(at - along(axis, 1.0)))?;
        gradient[axis] = (up[axis] - below) / (2.0 * STEP);
        curvature[(axis, axis)] = (up[axis] - 2.0 * here + below) / STEP.powi(2);
    }
    for one in 0..4 {
        for other in 0..one {
            let both = value(&(at + along(one, 1.0) + along(other, 1.0)))?;
            let diagonal = 0.5 * STEP.powi(2) * (curvature[(one, one)] + curvature[(other, other)]);
            let mixed = (both - here - STEP * (gradient[one] + gradient[other]) - diagonal) / STEP.powi(2);
            curvature[(one, other)] = mixed;
            curvature[(other, one)] = mixed;
        }
    }
    Some((gradient, curvature))
}

/// Points about the mode with their weights, which add up to 1.
pub(super) fn grid(cells: &Cells, priors: &MixedPriors, mode: &Mode) -> Option<Vec<(f64, Given)>> {
    let mut found = Vec::new();
    let farthest = match cells.list.len() {
        ..MANY_CELLS => FARTHEST,
        MANY_CELLS..VERY_MANY_CELLS => FARTHEST_OF_MANY,
        VERY_MANY_CELLS.. => FARTHEST_OF_VERY_MANY,
    };
    let reach = -2..=2_i32;
    for a in reach.clone() {
        for b in reach.clone() {
            for c in reach.clone() {
                for d in reach.clone() {
                    if a * a + b * b + c * c + d * d > farthest {
                        continue;
                    }
                    let off = Vector4::new(a, b, c, d).map(|by| f64::from(by) * SPACING);
                    found.extend(posterior(cells, priors, &(mode.at + mode.steps * off)));
                }
            }
        }
    }
    let most = found.iter().map(|(ln, _)| *ln).max_by(f64::total_cmp)?;
    for point in &mut found {
        point.0 = (point.0 - most).exp();
    }
    found.retain(|(weight, _)| *weight > 1e-6);
    let sum: f64 = found.iter().map(|(weight, _)| weight).sum();
    found.iter_mut().for_each(|point| point.0 /= sum);
    Some(found)
}
