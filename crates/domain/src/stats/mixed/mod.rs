//! The model of a speed: what of repeated tests is the setup's, and what the hour's, the visit's, the server's or chance.
//!
//! The logarithm of a test's figure is
//!
//! ```text
//! setup + part of day + server + slope · covariate + sitting + setup within sitting + test
//! ```
//!
//! a linear mixed model (Laird and Ware 1982, Biometrics 38). Setups tested in one sitting share its effect, and so are paired.
//! Setups are pooled towards their common mean, sittings towards nothing. The four scatters are not known: they have priors, and
//! the posterior is integrated over them on a grid laid along the axes of its mode (Rue, Martino and Chopin 2009, Journal of
//! the Royal Statistical Society B 71, section 3), exact for everything else. A stray test is weighed down as by Student's t with
//! four degrees of freedom (Lange, Little and Taylor 1989, JASA 84), and hours of one setup may scatter more than those of another.

mod cells;
mod draws;
mod given;
mod mode;

use cells::Cells;
pub use draws::{MixedDraws, joint_intervals};
pub use given::Given;
use serde::{Deserialize, Serialize};

/// One figure of one test, or the average of several.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Tested {
    /// Place of the setup, from 0 without gaps.
    pub setup: usize,
    /// Place of the sitting, the visit to one hour.
    pub sitting: usize,
    /// Part of the day, from 0.
    pub part: usize,
    /// Place of the server, from 0.
    pub server: usize,
    /// What the radio was off its usual at this setup, in units of [`MixedPriors::slope`]; 0 where not known.
    pub covariate: f64,
    /// Natural logarithm of the figure.
    pub ln: f64,
    /// Tests it is the average of, 1 or more.
    pub tests: f64,
}

/// The four scatters, as standard deviations of natural logarithms.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Scatters {
    /// From test to test within a setup's sitting.
    pub test: f64,
    /// Of a setup's sitting beyond what the sitting does to all setups.
    pub within: f64,
    /// From sitting to sitting.
    pub sitting: f64,
    /// Of setups about their common mean; infinite for no pooling.
    pub setups: f64,
}

/// What is assumed before anything was measured. One sitting a side rests on it. Each scatter has a half-t prior with this scale, whose
/// median is seven tenths of it: flat towards 0, for a line that a plan holds to its rate, and falling off soon beyond the scale (Gelman
/// 2006, Bayesian Analysis 1).
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct MixedPriors {
    /// Scales of the scatters.
    pub scales: Scatters,
    /// Spread of parts of the day.
    pub part: f64,
    /// Spread of servers.
    pub server: f64,
    /// Spread of the slope, for each unit of the covariate.
    pub slope: f64,
}

/// Of rates: from hour to hour a fifth, back-to-back tests a tenth, antennas a factor of two apart (common practice, no source).
pub const OF_RATES: MixedPriors = MixedPriors {
    scales: Scatters { test: 0.15, within: 0.07, sitting: 0.22, setups: 1.5 },
    part: 0.2,
    server: 0.1,
    slope: 0.05,
};

/// Of latencies, which scatter less (common practice, no source).
pub const OF_LATENCIES: MixedPriors = MixedPriors {
    scales: Scatters { test: 0.10, within: 0.06, sitting: 0.15, setups: 0.5 },
    part: 0.1,
    server: 0.2,
    slope: 0.02,
};

/// Degrees of freedom of the tests' distribution: heavy tails, so that one stray test moves little.
const FREEDOM: f64 = 4.0;
/// Sittings that the scatters are learned from, in all rounds but the last.
const LEARNED_FROM: usize = 300;
/// Rounds in which weights of tests and scatters settle.
const ROUNDS: usize = 6;

/// The model fitted to tests.
#[derive(Clone, Debug)]
pub struct MixedFit {
    points: Vec<(f64, Given)>,
    /// Scatters that are likeliest.
    pub scatters: Scatters,
    setups: usize,
    parts: usize,
    /// Weight of each test as given: 1 for one that fits in, near 0 for a stray one.
    pub weights: Vec<f64>,
}

impl MixedFit {
    /// Fits the model; `parts` is how many parts a day has. `None` without tests, where a setup has none, or where a value is not
    /// finite.
    pub fn of(tests: &[Tested], parts: usize, priors: &MixedPriors) -> Option<Self> {
        let mut cells = Cells::of(tests, parts)?;
        let mut weights = vec![1.0; tests.len()];
        // Scatters of a long record are learned from a part of it, and then once from all.
        let search = |cells: &Cells, weights: &[f64], from| match cells.few(LEARNED_FROM, tests, weights) {
            Some(few) => mode::find(&few, priors, from),
            None => mode::find(cells, priors, from),
        };
        let mut found = search(&cells, &weights, None)?;
        for _ in 0..ROUNDS {
            let given = Given::at(&cells, priors, &found.scatters())?;
            cells.calm(&given.calm(&cells));
            let residuals = given.residuals(&cells, tests);
            let squared = found.scatters().test.powi(2);
            weights = residuals
                .iter()
                .zip(tests)
                .map(|(residual, one)| {
                    (FREEDOM + 1.0) / (FREEDOM + residual.powi(2) * one.tests / squared.max(1e-12))
                })
                .collect();
            cells.weigh(tests, &weights);
            found = search(&cells, &weights, Some(found))?;
        }
        if cells.few(LEARNED_FROM, tests, &weights).is_some() {
            found = mode::find(&cells, priors, Some(found))?;
        }
        let points = mode::grid(&cells, priors, &found)?;
        Some(Self {
            points,
            scatters: found.scatters(),
            setups: cells.setups,
            parts: cells.parts,
            weights: weights.iter().map(|weight| weight * FREEDOM / (FREEDOM + 1.0)).collect(),
        })
    }

    /// How many setups.
    pub fn setups(&self) -> usize {
        self.setups
    }

    /// How many parts of the day.
    pub fn parts(&self) -> usize {
        self.parts
    }
}

/// The model at scatters that are given, without robustness: the textbook case, for checks.
pub fn given(tests: &[Tested], priors: &MixedPriors, scatters: &Scatters) -> Option<Given> {
    Given::at(&Cells::of(tests, 1)?, priors, scatters)
}
