//! A quantity with a normal prior, put right by measurements: conditioning of a multivariate normal distribution.
//!
//! Prior means, covariances and measurement noise come from the caller; the posterior mean and variance at any other point
//! follow in closed form: Rasmussen and Williams, Gaussian Processes for Machine Learning, equations 2.25 and 2.26.

use nalgebra::{Cholesky, DMatrix, DVector, Dyn};

/// How two points of a quantity move together, before anything was measured.
pub trait Kernel {
    /// Where a value is asked for or was measured.
    type Point;

    /// Covariance of two points, in the quantity's unit squared; of a point with itself its variance.
    fn covariance(&self, a: &Self::Point, b: &Self::Point) -> f64;

    /// Prior mean at a point against what residuals are counted from.
    fn offset(&self, _: &Self::Point) -> f64 {
        0.0
    }
}

impl Normal {
    /// Mean and spread of a mixture of normal distributions; weights add up to 1.
    ///
    /// ```
    /// use open_beacon_link::gaussian::Normal;
    /// // By hand: mean 0.7 · 10 + 0.3 · 30 = 16, variance 0.7 · (16 + 36) + 0.3 · (25 + 196) = 102.7.
    /// let of = [(0.7, Normal { mean: 10.0, spread: 4.0 }), (0.3, Normal { mean: 30.0, spread: 5.0 })];
    /// let found = Normal::of_mixture(of);
    /// assert!((found.mean - 16.0).abs() < 1e-9 && (found.spread.powi(2) - 102.7).abs() < 1e-9);
    /// ```
    pub fn of_mixture(parts: impl IntoIterator<Item = (f64, Self)> + Clone) -> Self {
        let mean: f64 = parts.clone().into_iter().map(|(weight, one)| weight * one.mean).sum();
        let about = |(weight, one): (f64, Self)| weight * (one.spread.powi(2) + (one.mean - mean).powi(2));
        Self { mean, spread: parts.into_iter().map(about).sum::<f64>().sqrt() }
    }
}

/// One measurement.
#[derive(Clone, Debug, PartialEq)]
pub struct Measurement<P> {
    /// Where it was measured.
    pub point: P,
    /// Measured less expected.
    pub residual: f64,
    /// Standard deviation of the measurement itself, above 0.
    pub noise: f64,
}

/// What is known of a quantity after its measurements.
#[derive(Debug)]
pub struct Posterior<K: Kernel> {
    kernel: K,
    points: Vec<K::Point>,
    /// Of the measurements, beyond the kernel's offset.
    residuals: DVector<f64>,
    /// Inverse of the measurements' covariance, applied to their residuals.
    weights: DVector<f64>,
    factor: Option<Cholesky<f64, Dyn>>,
    /// Logarithm of how likely the measurements were by this prior, but for what all priors have alike: Rasmussen and Williams,
    /// equation 2.30.
    ln_evidence: f64,
}

/// Quantile of the standard normal distribution at 90 %: ranges run from 10 to 90 %.
pub const Z_90: f64 = 1.281_551_6;

/// Mean and standard deviation of a normal value.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Normal {
    /// Mean.
    pub mean: f64,
    /// Standard deviation.
    pub spread: f64,
}

impl<K: Kernel> Posterior<K> {
    /// Conditions the prior on what was measured. Where the measurements' covariance is not positive definite, which noise
    /// above 0 rules out, nothing is learned.
    ///
    /// ```
    /// use open_beacon_link::gaussian::{Kernel, Measurement, Posterior};
    /// struct Common;
    /// impl Kernel for Common {
    ///     type Point = ();
    ///     fn covariance(&self, _: &(), _: &()) -> f64 { 64.0 }
    /// }
    /// // One common error of 8 dB, three measurements of 6 dB each, 6 dB off: by hand, precision 1/64 + 3/36,
    /// // mean (18/36) / precision = 5.053 dB, spread 3.179 dB.
    /// let off = || Measurement { point: (), residual: 6.0, noise: 6.0 };
    /// let found = Posterior::new(Common, vec![off(), off(), off()]).at(&());
    /// assert!((found.mean - 5.053).abs() < 1e-3 && (found.spread - 3.179).abs() < 1e-3);
    /// ```
    pub fn new(kernel: K, measured: Vec<Measurement<K::Point>>) -> Self {
        let n = measured.len();
        let covariance = DMatrix::from_fn(n, n, |row, column| {
            let noise = if row == column { measured[row].noise.powi(2) } else { 0.0 };
            kernel.covariance(&measured[row].point, &measured[column].point) + noise
        });
        let beyond_offset = |one: &Measurement<K::Point>| one.residual - kernel.offset(&one.point);
        let residuals = DVector::from_iterator(n, measured.iter().map(beyond_offset));
        let factor = (n > 0).then(|| Cholesky::new(covariance)).flatten();
        let points = measured.into_iter().map(|one| one.point).collect();
        let mut made =
            Self { kernel, points, residuals, weights: DVector::zeros(0), factor, ln_evidence: 0.0 };
        made.weigh();
        made
    }

    /// Whether anything was measured.
    pub fn is_informed(&self) -> bool {
        !self.points.is_empty()
    }

    /// What is to be added to the prior mean at a point.
    pub fn shift(&self, at: &K::Point) -> f64 {
        let of = |(point, weight): (&K::Point, &f64)| self.kernel.covariance(at, point) * weight;
        self.kernel.offset(at) + self.points.iter().zip(self.weights.iter()).map(of).sum::<f64>()
    }

    /// Covariances of a point with what was measured.
    fn towards(&self, at: &K::Point) -> DVector<f64> {
        let of = self.points.iter().map(|point| self.kernel.covariance(at, point));
        DVector::from_iterator(self.points.len(), of)
    }

    /// Covariance that is left of two points.
    fn covariance(&self, a: &K::Point, b: &K::Point) -> f64 {
        self.covariances(&[a], b)[0]
    }

    /// Covariance that is left of each of some points with one.
    fn covariances(&self, points: &[&K::Point], with: &K::Point) -> Vec<f64> {
        let explaining = self.factor.as_ref().map(|factor| factor.solve(&self.towards(with)));
        let of = |point: &&K::Point| {
            let explained = explaining.as_ref().map_or(0.0, |one| self.towards(point).dot(one));
            self.kernel.covariance(point, with) - explained
        };
        points.iter().map(of).collect()
    }

    /// What is known of a point.
    fn look(&self, at: &K::Point) -> Look {
        let (prior, offset) = (self.kernel.covariance(at, at), self.kernel.offset(at));
        let Some(factor) = &self.factor else {
            return Look { mean: offset, prior, half: DVector::zeros(0) };
        };
        let towards = self.towards(at);
        let mean = offset + towards.dot(&self.weights);
        let half = factor.l_dirty().solve_lower_triangular(&towards);
        Look { mean, prior, half: half.unwrap_or_else(|| DVector::zeros(self.points.len())) }
    }

    /// One more measurement: in a time that grows with the square of how many there are. Nothing is learned beside measurements that are not
    /// positive definite together.
    fn push(&mut self, one: &Measurement<K::Point>)
    where
        K::Point: Clone,
    {
        if self.factor.is_none() && !self.points.is_empty() {
            return;
        }
        let own = self.kernel.covariance(&one.point, &one.point) + one.noise.powi(2);
        let n = self.points.len();
        let column = self.towards(&one.point).push(own);
        self.factor = match self.factor.take() {
            Some(factor) => Some(factor.insert_column(n, column)),
            None => Cholesky::new(DMatrix::from_element(1, 1, own)),
        };
        self.points.push(one.point.clone());
        let residual = one.residual - self.kernel.offset(&one.point);
        let residuals = std::mem::replace(&mut self.residuals, DVector::zeros(0)).push(residual);
        self.residuals = residuals;
        self.weigh();
    }

    /// Weights and evidence by the factor and the residuals.
    fn weigh(&mut self) {
        let Some(factor) = &self.factor else { return };
        self.weights = factor.solve(&self.residuals);
        let half_ln_determinant: f64 = factor.l_dirty().diagonal().iter().map(|one| one.ln()).sum();
        self.ln_evidence = -0.5 * self.residuals.dot(&self.weights) - half_ln_determinant;
    }

    /// What is to be added to the prior mean at several points, and the covariance that is left of them, to draw from.
    pub fn joint(&self, points: &[&K::Point]) -> Joint {
        let n = points.len();
        let mut covariance = DMatrix::from_fn(n, n, |row, column| {
            if row < column { 0.0 } else { self.kernel.covariance(points[row], points[column]) }
        });
        covariance.fill_upper_triangle_with_lower_triangle();
        let mut mean = DVector::from_iterator(n, points.iter().map(|point| self.kernel.offset(point)));
        if let Some(factor) = &self.factor {
            let towards = DMatrix::from_fn(self.points.len(), n, |row, column| {
                self.kernel.covariance(&self.points[row], points[column])
            });
            mean += towards.tr_mul(&self.weights);
            if let Some(half) = factor.l_dirty().solve_lower_triangular(&towards) {
                covariance -= half.tr_mul(&half);
            }
        }
        Joint { mean, lower: lower_of(covariance) }
    }

    /// What is to be added to the prior mean at a point, and the spread that is left there.
    pub fn at(&self, at: &K::Point) -> Normal {
        self.look(at).normal()
    }
}

impl<K: Kernel> Posterior<K> {
    /// Spread that is left at `there` after one more measurement at `read_at` with a noise, whatever it comes to.
    pub fn spread_after(&self, there: &K::Point, read_at: &K::Point, noise: f64) -> f64 {
        let variance = self.at(read_at).spread.powi(2) + noise * noise;
        left(self.at(there).spread, self.covariance(there, read_at), variance)
    }
}

/// Spread that is left of a value after another that hangs together with it by a covariance, and has a variance, is known.
fn left(spread: f64, covariance: f64, variance: f64) -> f64 {
    (spread.powi(2) - covariance * covariance / variance).max(0.0).sqrt()
}

/// What is known of a point, as far as sums with other points need it.
#[derive(Clone, Debug)]
pub struct Look {
    /// What is to be added to the prior mean.
    mean: f64,
    /// Variance before anything was measured.
    prior: f64,
    /// What measurements take of that is its square.
    half: DVector<f64>,
}

impl Look {
    fn normal(&self) -> Normal {
        Normal { mean: self.mean, spread: (self.prior - self.half.norm_squared()).max(0.0).sqrt() }
    }
}

/// Several normal values that hang together.
#[derive(Clone, Debug)]
pub struct Joint {
    /// Their means.
    pub mean: DVector<f64>,
    /// Lower triangular root of their covariance.
    pub lower: DMatrix<f64>,
}

/// Root of a covariance; of values that are the same, or known exactly, it is singular, and a little is added to its diagonal.
fn lower_of(covariance: DMatrix<f64>) -> DMatrix<f64> {
    let n = covariance.nrows();
    let most = covariance.diagonal().iter().fold(1e-6, |most: f64, one| most.max(*one));
    (0..6)
        .map(|power| most * 1e-10 * 10f64.powi(power))
        .find_map(|more| Cholesky::new(&covariance + DMatrix::identity(n, n) * more))
        .map_or_else(
            || DMatrix::from_diagonal(&covariance.diagonal().map(|one| one.max(0.0).sqrt())),
            |root| root.unpack(),
        )
}

/// What is known of a quantity where several priors are possible: a posterior for each, as likely as its prior and the measurements
/// make it.
pub struct Mixture<K: Kernel> {
    of: Vec<(f64, Posterior<K>)>,
}

impl<K: Kernel> std::fmt::Debug for Mixture<K> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Mixture").field("weights", &self.weights()).finish_non_exhaustive()
    }
}

/// A prior that has become less likely than this is left out.
const NEGLIGIBLE: f64 = 1e-3;

impl<K: Kernel> Mixture<K> {
    /// Conditions every prior on what was measured. `priors`: how likely each is beforehand.
    ///
    /// ```
    /// use open_beacon_link::gaussian::{Kernel, Measurement, Mixture};
    /// struct Wall(f64);
    /// impl Kernel for Wall {
    ///     type Point = ();
    ///     fn covariance(&self, _: &(), _: &()) -> f64 { 9.0 }
    ///     fn offset(&self, _: &()) -> f64 { self.0 }
    /// }
    /// // 10 or 20 dB, ± 3 each, as likely; 12 dB measured ± 4. By hand: N(12; 10, 5²) against N(12; 20, 5²) is e^(−0.08) to
    /// // e^(−1.28), so weights 0.7685 and 0.2315; means 10 + 2 · 9/25 = 10.72 and 20 − 8 · 9/25 = 17.12; together 12.20.
    /// let off = Measurement { point: (), residual: 12.0, noise: 4.0 };
    /// let found = Mixture::new([(0.5, Wall(10.0)), (0.5, Wall(20.0))], &[off]);
    /// assert!((found.weights()[0] - 0.7685).abs() < 1e-4);
    /// assert!((found.at(&()).mean - 12.2015).abs() < 1e-3 && (found.shift(&()) - 12.2015).abs() < 1e-3);
    /// ```
    pub fn new(priors: impl IntoIterator<Item = (f64, K)>, measured: &[Measurement<K::Point>]) -> Self
    where
        K::Point: Clone,
    {
        let possible = priors.into_iter().filter(|(prior, _)| *prior > 0.0);
        let posterior = |(prior, kernel)| (prior, Posterior::new(kernel, measured.to_vec()));
        let mut made = Self { of: possible.map(posterior).collect() };
        let before = vec![0.0; made.of.len()];
        made.reweigh(&before);
        made
    }

    /// Conditions what is known on one more measurement. A prior that had become negligible stays left out.
    pub fn push(&mut self, one: &Measurement<K::Point>)
    where
        K::Point: Clone,
    {
        let before: Vec<f64> = self.of.iter().map(|(_, posterior)| posterior.ln_evidence).collect();
        for (_, posterior) in &mut self.of {
            posterior.push(one);
        }
        self.reweigh(&before);
    }

    /// Weighs the priors by what their evidence grew by.
    fn reweigh(&mut self, before: &[f64]) {
        let grown: Vec<f64> =
            self.of.iter().zip(before).map(|((_, one), before)| one.ln_evidence - before).collect();
        let best = grown.iter().fold(f64::NEG_INFINITY, |best, one| best.max(*one));
        for ((weight, _), grown) in self.of.iter_mut().zip(&grown) {
            *weight *= (grown - best).exp();
        }
        let all: f64 = self.of.iter().map(|(weight, _)| weight).sum();
        self.of.retain(|(weight, _)| *weight >= NEGLIGIBLE * all);
        let all: f64 = self.of.iter().map(|(weight, _)| weight).sum();
        for (weight, _) in &mut self.of {
            *weight /= all;
        }
    }

    /// Whether anything was measured.
    pub fn is_informed(&self) -> bool {
        self.of.iter().any(|(_, one)| one.is_informed())
    }

    /// How likely each of the priors that are left is.
    pub fn weights(&self) -> Vec<f64> {
        self.of.iter().map(|(weight, _)| *weight).collect()
    }

    /// The priors that are left, each with how likely it is.
    pub fn kernels(&self) -> impl Iterator<Item = (f64, &K)> + Clone {
        self.of.iter().map(|(weight, one)| (*weight, &one.kernel))
    }

    /// What each of the priors that are left says of several points together, with how likely it is.
    pub fn each_joint(&self, points: &[&K::Point]) -> impl Iterator<Item = (f64, &K, Joint)> {
        self.of.iter().map(move |(weight, one)| (*weight, &one.kernel, one.joint(points)))
    }

    /// What each of the priors that are left says of a point, with how likely it is.
    pub fn each_at<'a>(&'a self, at: &'a K::Point) -> impl Iterator<Item = (f64, Normal)> + 'a {
        self.of.iter().map(|(weight, one)| (*weight, one.at(at)))
    }

    /// Covariance that is left of each of some points with one, in the mean of the priors that are left; what they differ by among
    /// themselves is apart.
    pub fn covariances_within(&self, points: &[&K::Point], with: &K::Point) -> Vec<f64> {
        let mut sums = vec![0.0; points.len()];
        for (weight, one) in &self.of {
            for (sum, own) in sums.iter_mut().zip(one.covariances(points, with)) {
                *sum += weight * own;
            }
        }
        sums
    }

    /// What each of the priors that are left says of a point, to be summed with others.
    pub fn looks(&self, at: &K::Point) -> Vec<Look> {
        self.of.iter().map(|(_, one)| one.look(at)).collect()
    }

    /// The same as [`Self::each_at`], from what was looked at.
    pub fn each_of<'a>(&'a self, looks: &'a [Look]) -> impl Iterator<Item = (f64, Normal)> + 'a {
        self.of.iter().zip(looks).map(|((weight, _), look)| (*weight, look.normal()))
    }

    /// Variances and covariance that are left of a point and of a sum of points, with all that is not known: of the first, of the second, of
    /// both. `parts`: what was looked at of the sum's parts, with their weights.
    pub fn together(
        &self,
        (a, looks): (&K::Point, &[Look]),
        (b, parts): (&K::Point, &[(f64, &[Look])]),
    ) -> [f64; 3] {
        let each: Vec<(f64, [f64; 2], [f64; 3])> = self
            .of
            .iter()
            .enumerate()
            .map(|(at, (weight, one))| {
                let own = &looks[at];
                let mean = parts.iter().map(|(share, looks)| share * looks[at].mean).sum();
                let mut half = DVector::zeros(own.half.len());
                for (share, looks) in parts {
                    half.axpy(*share, &looks[at].half, 1.0);
                }
                let left = [
                    own.prior - own.half.norm_squared(),
                    one.kernel.covariance(b, b) - half.norm_squared(),
                    one.kernel.covariance(a, b) - own.half.dot(&half),
                ];
                (*weight, [own.mean, mean], left)
            })
            .collect();
        let mean = |of: usize| each.iter().map(|(weight, means, _)| weight * means[of]).sum::<f64>();
        let means = [mean(0), mean(1)];
        let mut sums = [0.0; 3];
        for (weight, of, left) in &each {
            let [a, b] = [of[0] - means[0], of[1] - means[1]];
            for ((sum, left), between) in sums.iter_mut().zip(left).zip([a * a, b * b, a * b]) {
                *sum += weight * (left + between);
            }
        }
        sums
    }

    /// What is to be added to the prior mean at a point.
    pub fn shift(&self, at: &K::Point) -> f64 {
        self.of.iter().map(|(weight, one)| weight * one.shift(at)).sum()
    }

    /// Spread that is expected to be left at `there` after one more measurement at `read_at` with a noise. For each prior that is possible the
    /// measurement is taken as that prior foretells it. One step of conditioning, in closed form.
    pub fn spread_after(&self, there: &K::Point, read_at: &K::Point, noise: f64) -> f64 {
        let parts: Vec<_> = self
            .of
            .iter()
            .map(|(weight, one)| {
                let variance = one.at(read_at).spread.powi(2) + noise * noise;
                (*weight, one.at(there), one.at(read_at).mean, variance, one.covariance(there, read_at))
            })
            .collect();
        let after = |read: f64| {
            let of = |(weight, there, foretold, variance, towards): &(f64, Normal, f64, f64, f64)| {
                let off = read - foretold;
                let likelihood = (-0.5 * off * off / variance).exp() / variance.sqrt();
                let mean = there.mean + towards / variance * off;
                (weight * likelihood, Normal { mean, spread: left(there.spread, *towards, *variance) })
            };
            let each: Vec<_> = parts.iter().map(of).collect();
            let all: f64 = each.iter().map(|(weight, _)| weight).sum();
            let each: Vec<_> = each.into_iter().map(|(weight, one)| (weight / all, one)).collect();
            Normal::of_mixture(each).spread
        };
        parts.iter().map(|(weight, _, foretold, ..)| weight * after(*foretold)).sum()
    }

    /// What is to be added to the prior mean at a point, and the spread that is left there.
    pub fn at(&self, at: &K::Point) -> Normal {
        Normal::of_mixture(self.each_at(at).collect::<Vec<_>>())
    }
}

/// A normal value known to lie below a bound, as the measurement that has the same effect: its residual against the prior mean
/// and its noise. Moments of the truncated normal distribution: Johnson, Kotz and Balakrishnan, Continuous Univariate
/// Distributions, volume 1, section 13.10.1. `None` where the bound says nothing.
///
/// ```
/// use open_beacon_link::gaussian::{Normal, below};
/// // By hand, N(0, 1) below 0: mean −√(2/π) = −0.798, variance 1 − 2/π = 0.363; the measurement that takes N(0, 1) there has
/// // precision 1/0.363 − 1 = 1.752 and lies at −0.798 · (1.752 + 1) / 1.752 = −1.253.
/// let (residual, noise) = below(Normal { mean: 0.0, spread: 1.0 }, 0.0).unwrap();
/// assert!((residual + 1.253).abs() < 2e-3 && (noise - 1.752f64.recip().sqrt()).abs() < 2e-3);
/// assert!(below(Normal { mean: -100.0, spread: 1.0 }, 0.0).is_none());
/// ```
pub fn below(prior: Normal, bound: f64) -> Option<(f64, f64)> {
    use statrs::distribution::{Continuous, ContinuousCDF, Normal as Distribution};
    let standard = Distribution::standard();
    let z = (bound - prior.mean) / prior.spread;
    // Far outside, the moments are beyond what double precision tells apart.
    if prior.spread <= 0.0 || z > 3.0 {
        return None;
    }
    let z = z.max(-6.0);
    let ratio = standard.pdf(z) / standard.cdf(z);
    let variance = (1.0 - z * ratio - ratio * ratio).max(1e-3);
    let precision = 1.0 / variance - 1.0;
    if precision <= 1e-6 {
        return None;
    }
    Some((-ratio * (precision + 1.0) / precision * prior.spread, prior.spread / precision.sqrt()))
}
