//! What changes with time at a house: how its signal scatters from visit to visit, and how busy its cells are by the hour.

use super::gaussian::{Kernel, Measurement, Normal, Posterior};
use nalgebra::DVector;
use serde::{Deserialize, Serialize};

/// What was measured again and again on one setup.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct OverTime {
    /// For each cell its power at each visit, medians, dBm; visits are at least an hour apart.
    pub visits_dbm: Vec<Vec<f64>>,
    /// Downloads: hour of the day at the house, 0 to below 24, and Mbit/s.
    pub downloads: Vec<(f64, f64)>,
}

/// How a signal scatters from hour to hour about its usual level.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Fading {
    /// Standard deviation, dB.
    pub spread_db: f64,
    /// Visits beyond each setup's first that it was learned from; 0 where it is assumed.
    pub visits: usize,
}

/// Scatter over time where nothing was measured, dB: wind in trees, wet leaves, people and doors (common practice, no source); what the path
/// itself adds comes from the Irregular Terrain Model.
const USUAL_FADING_DB: f64 = 2.0;
/// The assumption counts as this many visits.
const USUAL_VISITS: f64 = 5.0;

impl Fading {
    /// What visits tell beside what is assumed: an inverse-gamma prior on the variance, its middle.
    pub(super) fn of(spots: &[OverTime]) -> Self {
        let (mut squares, mut visits) = (0.0, 0);
        for spot in spots {
            // Cells heard at one visit fade together in part: they count as one, with their mean.
            let cells: Vec<&Vec<f64>> = spot.visits_dbm.iter().filter(|cell| cell.len() > 1).collect();
            let Some(own) = cells.iter().map(|cell| cell.len() - 1).max() else { continue };
            let variance = |cell: &Vec<f64>| {
                let mean = cell.iter().sum::<f64>() / cell.len() as f64;
                cell.iter().map(|dbm| (dbm - mean).powi(2)).sum::<f64>() / (cell.len() - 1) as f64
            };
            squares += own as f64 * cells.iter().map(|cell| variance(cell)).sum::<f64>() / cells.len() as f64;
            visits += own;
        }
        let variance = (USUAL_VISITS * USUAL_FADING_DB.powi(2) + squares) / (USUAL_VISITS + visits as f64);
        Self { spread_db: variance.sqrt(), visits }
    }

    /// With what a path of this length adds, as far as visits have not told it.
    pub(super) fn on_path(self, hourly_db: f64) -> Self {
        let untold = USUAL_VISITS / (USUAL_VISITS + self.visits as f64);
        Self { spread_db: (self.spread_db.powi(2) + untold * hourly_db.powi(2)).sqrt(), ..self }
    }
}

/// How busy cells are at an hour of the day, as a natural logarithm of what is left.
#[derive(Clone, Copy, Debug)]
pub struct HourKernel;

/// Where that is asked for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct HourPoint {
    /// Hour of the day, 0 to below 24.
    pub hour: f64,
    /// The setup that a test was taken on; its own level is not the hour's.
    pub spot: Option<usize>,
}

/// Spread of an hour about the usual course of a day (common practice, no source).
const HOUR_SPREAD: f64 = 0.2;
/// How far hours hang together, in radians of the day: about three hours (common practice, no source).
const HOUR_REACH: f64 = 0.8;
/// A single test scatters about its hour by this (common practice, no source).
const TEST_SPREAD: f64 = 0.25;

impl Kernel for HourKernel {
    type Point = HourPoint;

    /// Periodic over a day (MacKay 1998, Introduction to Gaussian processes), beside a level of each setup as good as unknown.
    fn covariance(&self, a: &HourPoint, b: &HourPoint) -> f64 {
        let half_turn = (std::f64::consts::PI * (a.hour - b.hour) / 24.0).sin();
        let own = a.spot.is_some() && a.spot == b.spot;
        HOUR_SPREAD.powi(2) * (-2.0 * (half_turn / HOUR_REACH).powi(2)).exp() + f64::from(u8::from(own))
    }
}

/// Usual course of a day: natural logarithm of what cells leave of their day's usual, at 0, 3, … 21 hours; straight between them. Evenings
/// are the busiest, the small hours the emptiest (common practice, no source).
const USUAL_DAY: [f64; 8] = [0.05, 0.25, 0.25, 0.10, 0.0, -0.05, -0.20, -0.40];

/// What cells usually leave at an hour of the day, 0 to below 24, against the day's usual: natural logarithm (common practice, no
/// source).
pub fn usual_day(hour: f64) -> f64 {
    let at = hour.rem_euclid(24.0) / 3.0;
    let (below, share) = (at as usize % 8, at.fract());
    USUAL_DAY[below] * (1.0 - share) + USUAL_DAY[(below + 1) % 8] * share
}

/// What is left at each hour, against what is usual at the house: natural logarithms.
#[derive(Clone, Debug, PartialEq)]
pub struct DayCourse {
    /// At each hour of the day, beginning at midnight.
    pub ln: [Normal; 24],
    /// Tests it was learned from.
    pub tests: usize,
    /// Hours of the day that they lie in.
    pub hours: usize,
}

impl DayCourse {
    /// From downloads at known hours. What is usual at the house is what was measured, at the hours that it was measured at; the whole day
    /// where nothing was.
    pub fn of(spots: &[OverTime]) -> Self {
        let mut measured = Vec::new();
        let mut weights = [0.0; 24];
        for (spot, one) in spots.iter().enumerate() {
            let tests = || one.downloads.iter().filter(|(_, mbps)| *mbps > 0.0);
            let mean = tests().map(|(_, mbps)| mbps.ln()).sum::<f64>() / tests().count().max(1) as f64;
            for (at, weight) in weights.iter_mut().enumerate() {
                let own: Vec<_> = tests().filter(|(hour, _)| *hour as usize % 24 == at).collect();
                if own.is_empty() {
                    continue;
                }
                let count = own.len() as f64;
                let hour = own.iter().map(|(hour, _)| hour).sum::<f64>() / count;
                let ln = own.iter().map(|(_, mbps)| mbps.ln()).sum::<f64>() / count;
                *weight += count;
                measured.push(Measurement {
                    point: HourPoint { hour, spot: Some(spot) },
                    residual: ln - mean - usual_day(hour),
                    noise: TEST_SPREAD / count.sqrt(),
                });
            }
        }
        let tests: f64 = weights.iter().sum();
        let hours = weights.iter().filter(|weight| **weight > 0.0).count();
        let shares = weights.map(|weight| if tests > 0.0 { weight / tests } else { 1.0 / 24.0 });
        let points: [HourPoint; 24] =
            std::array::from_fn(|at| HourPoint { hour: at as f64 + 0.5, spot: None });
        let posterior = Posterior::new(HourKernel, measured);
        let joint = posterior.joint(&points.each_ref());
        let whole = |at: usize| usual_day(points[at].hour) + joint.mean[at];
        let usual: f64 = (0..24).map(|at| shares[at] * whole(at)).sum();
        let ln = std::array::from_fn(|at| {
            let against = DVector::from_fn(24, |other, _| f64::from(u8::from(other == at)) - shares[other]);
            Normal { mean: whole(at) - usual, spread: (joint.lower.transpose() * against).norm() }
        });
        Self { ln, tests: tests as usize, hours }
    }
}
