//! What to do next: the plan of a sweep, the most informative next bearing, and when it is enough.

use super::clean::CleanestFit;
use super::fit::{Hypothesis, Nominal, SignalFit};
use super::sweep::SweepPoint;
use crate::geo::{normalise_bearing_deg, turn_deg};
use serde::{Deserialize, Serialize};

/// One stop of a sweep.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlannedStop {
    /// Degrees from true north, whole steps of [`SweepPlan::step_deg`].
    pub angle_deg: f64,
    /// Independent samples to wait for.
    pub samples: u32,
    /// How long that takes, s.
    pub hold_s: f64,
}

/// How to begin.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SweepPlan {
    /// Stops, in order.
    pub stops: Vec<PlannedStop>,
    /// Bearings are asked in these steps: a hand does no better, and need not.
    pub step_deg: f64,
    /// The sweep ends when the interval reaches no farther to either side, degrees.
    pub enough_deg: f64,
}

impl SweepPlan {
    /// The turn to each stop from the one before it, degrees, right or up positive; 0 for the first.
    pub fn turns_deg(&self) -> Vec<f64> {
        let before = self.stops.first().into_iter().chain(&self.stops);
        before.zip(&self.stops).map(|(from, to)| turn_deg(from.angle_deg, to.angle_deg)).collect()
    }
}

/// How long a gateway may still change cells and add carriers after it answers again, s (common practice, no source).
pub const RESTART_SETTLES_S: f64 = 60.0;

/// Finest and coarsest step that is asked of a hand, degrees (common practice, no source).
const STEPS_DEG: (f64, f64) = (2.0, 5.0);
/// Independent samples at a stop (common practice, no source).
const SAMPLES: u32 = 4;
/// For the antenna to stop swinging, s (common practice, no source).
const SETTLE_S: f64 = 2.0;

/// The step for a beamwidth, degrees: a twelfth of it, within what a hand can and need do.
pub fn step_deg(beamwidth_deg: f64) -> f64 {
    (beamwidth_deg / 12.0).floor().clamp(STEPS_DEG.0, STEPS_DEG.1)
}

/// How narrow the interval must be, degrees to either side: what the antenna can be set to, or an eighth of its beam, at
/// whose edge 12/64 = 0.19 dB are lost.
pub fn enough_deg(beamwidth_deg: f64) -> f64 {
    step_deg(beamwidth_deg).max(beamwidth_deg / 8.0)
}

/// Where to point first. Around what is expected: past it to both sides by a beamwidth, in one turn, and back over the
/// middle, so that what changes with time does not look like a side. Nothing expected: all round by two thirds of a
/// beamwidth.
pub fn plan(nominal: Nominal, expected_deg: Option<f64>, refresh_period_s: f64) -> SweepPlan {
    let step = step_deg(nominal.beamwidth_deg);
    let width = nominal.beamwidth_deg;
    let hold_s = SETTLE_S + f64::from(SAMPLES) * refresh_period_s.max(0.2);
    let angles: Vec<f64> = match expected_deg {
        Some(expected) => {
            [-1.0, -0.5, 0.0, 0.5, 1.0, 0.25, -0.25].iter().map(|share| expected + share * width).collect()
        }
        None => {
            let count = (360.0 / (width * 2.0 / 3.0)).ceil().max(4.0) as usize;
            (0..count).map(|index| 360.0 * index as f64 / count as f64).collect()
        }
    };
    let mut stops: Vec<PlannedStop> = Vec::new();
    for angle in angles {
        let angle_deg = normalise_bearing_deg((angle / step).round() * step);
        if stops.iter().all(|stop| stop.angle_deg != angle_deg) {
            stops.push(PlannedStop { angle_deg, samples: SAMPLES, hold_s });
        }
    }
    SweepPlan { stops, step_deg: step, enough_deg: enough_deg(width) }
}

/// Farther from the peak than this many beamwidths a point says little.
const REACH: f64 = 1.25;

/// A bearing at which another cell answered is worth as much less as after so many visits: it would answer again.
const HOPPED_VISITS: f64 = 4.0;

/// The bearing of which most is left open; a point that was measured already counts for less with each visit, one where another cell
/// answered (`unanswered_deg`) for much less. Whole steps of [`step_deg`], `reach_deg` to both sides of `around_deg`.
fn most_open_deg(
    points: &[SweepPoint],
    unanswered_deg: &[f64],
    (around_deg, reach_deg, step_deg): (f64, f64, f64),
    open_db2: impl Fn(f64) -> f64,
) -> f64 {
    let reach = reach_deg.min(180.0);
    let first = ((around_deg - reach) / step_deg).ceil() as i64;
    let last = ((around_deg + reach) / step_deg).floor() as i64;
    let worth = |index: i64| {
        let angle = index as f64 * step_deg;
        let here = |at: f64| turn_deg(angle, at).abs() < step_deg / 2.0;
        let hopped = unanswered_deg.iter().filter(|at| here(**at)).count() as f64;
        let visits =
            points.iter().filter(|point| here(point.angle_deg)).count() as f64 + HOPPED_VISITS * hopped;
        open_db2(angle) / (1.0 + visits)
    };
    let best = (first..=last).max_by(|a, b| worth(*a).total_cmp(&worth(*b))).unwrap_or(first);
    normalise_bearing_deg(best as f64 * step_deg)
}

/// The bearing at which the hypotheses that are left of the signal differ most. Whole steps of [`step_deg`].
pub fn next_deg(points: &[SweepPoint], unanswered_deg: &[f64], fitted: &SignalFit, nominal: Nominal) -> f64 {
    let reach = REACH * nominal.beamwidth_deg + fitted.peak.half_deg();
    let range = (fitted.peak.angle_deg, reach, step_deg(nominal.beamwidth_deg));
    let all = || fitted.posterior.iter();
    let sum: f64 = all().map(|one| one.weight).sum();
    most_open_deg(points, unanswered_deg, range, |angle| {
        let mean = all().map(|one| one.weight * one.rsrp_dbm(angle)).sum::<f64>() / sum;
        all().map(|one: &Hypothesis| one.weight * (one.rsrp_dbm(angle) - mean).powi(2)).sum()
    })
}

/// The bearing at which what is left open of the disturbance differs most; for a sweep whose signal is known and whose cleanest bearing
/// is not. Whole steps of [`step_deg`].
pub fn next_clean_deg(
    points: &[SweepPoint],
    unanswered_deg: &[f64],
    around_deg: f64,
    clean: &CleanestFit,
    nominal: Nominal,
) -> f64 {
    let range = (around_deg, REACH * nominal.beamwidth_deg, step_deg(nominal.beamwidth_deg));
    most_open_deg(points, unanswered_deg, range, |angle| clean.open_db2(angle))
}

/// Whether no other point is worth the turn: by the beam as it is said and as it was found, whichever is narrower, and never while
/// the interval is wider than half a beamwidth.
pub fn is_enough(fitted: &SignalFit, nominal: Nominal) -> bool {
    let width = nominal.beamwidth_deg.min(fitted.best.beam.width_deg);
    let enough = enough_deg(width).min(width / 4.0);
    fitted.peak.left_deg <= enough && fitted.peak.right_deg <= enough
}
