//! Values that are nearly normal, by their first three moments: sums, mixtures and functions of normal values keep no exact form.

use super::gaussian::Normal;

/// A value by its moments.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Moments {
    /// Mean.
    pub mean: f64,
    /// Variance, 0 or more.
    pub variance: f64,
    /// Third central moment.
    pub third: f64,
}

/// Nodes and weights of Gauss and Hermite's quadrature for a standard normal value (Abramowitz and Stegun, table 25.10, rescaled).
pub const FIVE: [(f64, f64); 5] = [
    (-2.856_970, 0.011_257_4),
    (-1.355_626, 0.222_075_9),
    (0.0, 0.533_333_3),
    (1.355_626, 0.222_075_9),
    (2.856_970, 0.011_257_4),
];

/// The same with seven, for functions that bend sharply.
pub(super) const SEVEN: [(f64, f64); 7] = [
    (-3.750_440, 0.000_548_269),
    (-2.366_760, 0.030_757_12),
    (-1.154_405, 0.240_123_2),
    (0.0, 0.457_142_9),
    (1.154_405, 0.240_123_2),
    (2.366_760, 0.030_757_12),
    (3.750_440, 0.000_548_269),
];

/// Skewness past which the expansion of the quantile no longer rises everywhere.
const MOST_SKEWED: f64 = 1.0;

impl Moments {
    /// Of a mixture of values; weights add up to 1.
    ///
    /// ```
    /// use open_beacon_link::moments::Moments;
    /// // By hand, 0 or 3 in the ratio 2 to 1: mean 1, variance 2/3 + 4/3, third moment −2/3 + 8/3.
    /// let of = [(2.0 / 3.0, Moments::exactly(0.0)), (1.0 / 3.0, Moments::exactly(3.0))];
    /// let found = Moments::of_mixture(of);
    /// assert!((found.mean - 1.0).abs() < 1e-12 && (found.variance - 2.0).abs() < 1e-12 && (found.third - 2.0).abs() < 1e-12);
    /// ```
    pub fn of_mixture(parts: impl IntoIterator<Item = (f64, Self)> + Clone) -> Self {
        let mean = parts.clone().into_iter().map(|(weight, one)| weight * one.mean).sum::<f64>();
        let mut made = Self { mean, ..Self::default() };
        for (weight, one) in parts {
            let off = one.mean - mean;
            made.variance += weight * (one.variance + off * off);
            made.third += weight * (one.third + 3.0 * off * one.variance + off.powi(3));
        }
        made
    }

    /// A value that is known.
    pub fn exactly(mean: f64) -> Self {
        Self { mean, ..Self::default() }
    }

    /// Of a function of a standard normal value.
    pub fn of_normal(of: impl Fn(f64) -> f64) -> Self {
        Self::of_mixture(FIVE.map(|(z, weight)| (weight, Self::exactly(of(z)))))
    }

    /// A value that lies `below` of its standard deviations under a middle, or `above` over it, either as likely: two halves of
    /// normal distributions of unlike width (Fechner's; John 1982, Communications in Statistics 11, for its moments).
    ///
    /// ```
    /// use open_beacon_link::moments::Moments;
    /// let alike = Moments::of_halves(2.0, 2.0);
    /// assert!(alike.mean.abs() < 1e-12 && (alike.variance - 4.0).abs() < 1e-9 && alike.third.abs() < 1e-9);
    /// // By hand, nothing below and 1 above: mean 1/√(2π) = 0.3989, variance 1/2 − 1/(2π) = 0.3408.
    /// let half = Moments::of_halves(0.0, 1.0);
    /// assert!((half.mean - 0.3989).abs() < 1e-4 && (half.variance - 0.3408).abs() < 1e-4);
    /// ```
    pub fn of_halves(below: f64, above: f64) -> Self {
        // Moments about the middle of a half-normal value: √(2/π), 1, 2 √(2/π).
        let first = std::f64::consts::FRAC_2_PI.sqrt();
        let mean = 0.5 * first * (above - below);
        let second = 0.5 * (above.powi(2) + below.powi(2));
        let third = first * (above.powi(3) - below.powi(3));
        Self { mean, variance: second - mean * mean, third: third - 3.0 * mean * second + 2.0 * mean.powi(3) }
    }

    /// The sum of two values that know nothing of each other.
    #[must_use]
    pub fn plus(self, other: Self) -> Self {
        Self {
            mean: self.mean + other.mean,
            variance: self.variance + other.variance,
            third: self.third + other.third,
        }
    }

    /// `times` of it.
    #[must_use]
    pub fn times(self, times: f64) -> Self {
        Self {
            mean: self.mean * times,
            variance: self.variance * times * times,
            third: self.third * times.powi(3),
        }
    }

    /// Quantile where a normal value would lie `z` standard deviations off its mean: Cornish and Fisher (1938), to the skewness.
    pub fn at(&self, z: f64) -> f64 {
        let spread = self.variance.max(0.0).sqrt();
        if spread <= 0.0 {
            return self.mean;
        }
        let skewness = (self.third / spread.powi(3)).clamp(-MOST_SKEWED, MOST_SKEWED);
        self.mean + spread * (z + (z * z - 1.0) * skewness / 6.0)
    }
}

impl From<Normal> for Moments {
    fn from(one: Normal) -> Self {
        Self { mean: one.mean, variance: one.spread * one.spread, third: 0.0 }
    }
}
