//! Where to point: strongest, cleanest or fastest, by the criterion that is chosen, and why they differ.

use super::clean::{CleanestFit, cleanest};
use super::fit::{AngleInterval, Nominal, SignalFit, fit};
use super::interference::{DisturbanceFit, explanations};
use super::next::{SweepPlan, is_enough, next_clean_deg, next_deg, plan};
use super::sweep::{CellKey, CellSweep};
use crate::geo::{normalise_bearing_deg, turn_deg};
pub use crate::model::AimCriterion;
use crate::model::{MastId, SweepAxis};
use serde::{Deserialize, Serialize};

/// A mast as it lies from the antenna, for naming who disturbs.
#[derive(Clone, Debug, PartialEq)]
pub struct MastSeen {
    /// Identifier.
    pub id: MastId,
    /// Name.
    pub name: String,
    /// Bearing from true north, degrees.
    pub bearing_deg: f64,
}

/// Who probably disturbs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Suspect {
    /// Bearing from true north, degrees.
    pub bearing_deg: f64,
    /// Above the floor with the antenna on it, dB.
    pub above_db: f64,
    /// The known mast nearest to that bearing, where one is near.
    pub mast: Option<SuspectMast>,
}

/// A known mast near a suspect's bearing.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SuspectMast {
    /// The mast.
    pub mast_id: MastId,
    /// Name.
    pub name: String,
    /// Bearing from true north, degrees.
    pub bearing_deg: f64,
}

/// Why the recommended bearing is the one.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "why", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum AimReason {
    /// Strongest and cleanest are the same within what was measured.
    Same,
    /// No SINR was read: the strongest is all that is known.
    SignalOnly,
    /// Cleaner by `gain_db` for `cost_db` of signal: interference.
    Interference { gain_db: f64, cost_db: f64 },
    /// The strongest by wish, though `loss_db` less clean.
    SignalWished { loss_db: f64 },
    /// Speed tests at both decide.
    TestBoth { other_deg: f64 },
}

/// What a sweep has come to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AimFit {
    /// The cell.
    pub cell: CellKey,
    /// What is turned.
    pub axis: SweepAxis,
    /// Bearing at which the signal is strongest.
    pub strongest: AngleInterval,
    /// dBm there.
    pub peak_rsrp_dbm: f64,
    /// Where signal to interference and noise is best.
    pub cleanest: Option<AngleInterval>,
    /// SINR at the cleanest and at the strongest bearing, dB.
    pub best_sinr_db: Option<f64>,
    /// Best signal to interference and noise, dB.
    pub peak_sinr_db: Option<f64>,
    /// Beamwidth as it was found, degrees, and as it was said to be.
    pub beamwidth_deg: f64,
    /// Beamwidth by the datasheet, degrees.
    pub nominal_beamwidth_deg: f64,
    /// At so many bearings another cell answered: the gateway hops.
    pub hopped: usize,
    /// Spread of a point, dB.
    pub spread_db: f64,
    /// Places of points that hardly count.
    pub outliers: Vec<usize>,
    /// What may disturb.
    pub suspects: Vec<Suspect>,
    /// To point at.
    pub recommended_deg: f64,
    /// Why.
    pub reason: AimReason,
    /// Where a further point says most.
    pub next_deg: f64,
    /// No further point is worth the turn.
    pub enough: bool,
    /// The fitted curve, every few degrees, for drawing.
    pub curve: Vec<CurvePoint>,
}

/// A point of the fitted curve.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CurvePoint {
    /// Angle that was set, degrees.
    pub angle_deg: f64,
    /// Reference signal received power, dBm.
    pub rsrp_dbm: f64,
    /// Signal to interference and noise ratio, dB.
    pub sinr_db: Option<f64>,
}

/// Points of the drawn curve.
const DRAWN: usize = 72;
/// A mast so near to a suspect's bearing is probably it, degrees; and a suspect weaker than this is not worth naming, dB.
const NEAR_DEG: f64 = 12.0;
const WORTH_NAMING_DB: f64 = 3.0;

/// An angle as its axis counts: 0..360 round the compass, from below to above the horizon in tilt.
fn on_axis(axis: SweepAxis, angle_deg: f64) -> f64 {
    match axis {
        SweepAxis::Azimuth => normalise_bearing_deg(angle_deg),
        SweepAxis::Tilt => turn_deg(0.0, angle_deg),
        SweepAxis::Ports => angle_deg,
    }
}

/// Fits one cell's sweep and says where to point; `None` for fewer points than a fit needs.
pub fn aim_fit(
    sweep: &CellSweep,
    axis: SweepAxis,
    nominal: Nominal,
    criterion: AimCriterion,
    masts: &[MastSeen],
) -> Option<AimFit> {
    let signal = fit(&sweep.points, nominal)?;
    let beam = signal.best.beam;
    let explained = explanations(&sweep.points, &beam);
    let clean = cleanest(&sweep.points, &signal, &explained);
    let disturbed = explained.into_iter().next().map(|one| one.fit);
    let (recommended_deg, reason) = recommend(&signal, clean.as_ref(), criterion);
    // Enough is by what is aimed for: under the signal's criterion its peak; else the cleanest bearing, too.
    let signal_known = is_enough(&signal, nominal);
    let open_clean = clean
        .as_ref()
        .filter(|one| criterion != AimCriterion::Signal && one.regret_db(recommended_deg) > ENOUGH_REGRET_DB);
    let clean_known = open_clean.is_none();
    let next = match open_clean {
        Some(clean) if signal_known => {
            next_clean_deg(&sweep.points, &sweep.unanswered_deg, recommended_deg, clean, nominal)
        }
        _ => next_deg(&sweep.points, &sweep.unanswered_deg, &signal, nominal),
    };
    let of =
        |interval: AngleInterval| AngleInterval { angle_deg: on_axis(axis, interval.angle_deg), ..interval };
    Some(AimFit {
        cell: sweep.cell,
        axis,
        strongest: of(signal.peak),
        peak_rsrp_dbm: signal.best.level_dbm,
        cleanest: clean.as_ref().map(|one| of(one.best)),
        best_sinr_db: clean.as_ref().map(|one| one.sinr_db),
        peak_sinr_db: clean.as_ref().map(|one| one.at_peak_db),
        beamwidth_deg: beam.width_deg,
        nominal_beamwidth_deg: nominal.beamwidth_deg,
        hopped: sweep.unanswered_deg.len(),
        spread_db: signal.spread_db,
        suspects: disturbed.as_ref().map_or_else(Vec::new, |one| suspects(one, masts)),
        recommended_deg: on_axis(axis, recommended_deg),
        reason: match reason {
            AimReason::TestBoth { other_deg } => AimReason::TestBoth { other_deg: on_axis(axis, other_deg) },
            other => other,
        },
        next_deg: on_axis(axis, next),
        enough: signal_known && clean_known,
        curve: (0..DRAWN)
            .map(|index| {
                let angle_deg = 360.0 * index as f64 / DRAWN as f64;
                let rsrp_dbm = signal.best.rsrp_dbm(angle_deg);
                let sinr_db = disturbed.as_ref().map(|one| rsrp_dbm - one.power_dbm(angle_deg, &beam));
                CurvePoint { angle_deg, rsrp_dbm, sinr_db }
            })
            .collect(),
        outliers: signal.outliers,
    })
}

fn recommend(signal: &SignalFit, clean: Option<&CleanestFit>, criterion: AimCriterion) -> (f64, AimReason) {
    let strongest = signal.peak.angle_deg;
    let Some(clean) = clean else { return (strongest, AimReason::SignalOnly) };
    // What is expected counts, not whether the two intervals overlap: they may, and yet some decibels lie between.
    let gain_db = clean.gain_db;
    // Where it is no quieter, only the signal's own middle is in doubt.
    if gain_db < WORTH_DB || clean.quieter_db < WORTH_DB {
        return (strongest, AimReason::Same);
    }
    match criterion {
        AimCriterion::Signal => (strongest, AimReason::SignalWished { loss_db: gain_db }),
        AimCriterion::Speed => (clean.best.angle_deg, AimReason::TestBoth { other_deg: strongest }),
        AimCriterion::Quality => {
            let cost_db = signal.best.level_dbm - signal.best.rsrp_dbm(clean.best.angle_deg);
            (clean.best.angle_deg, AimReason::Interference { gain_db, cost_db })
        }
    }
}

/// A sweep for the cleanest bearing goes on while more than this is expected to be lost at the recommended one, dB (common practice, no source).
const ENOUGH_REGRET_DB: f64 = 0.35;
/// Less gain in SINR than this is not worth aiming past the mast, dB (common practice, no source).
const WORTH_DB: f64 = 0.5;

fn suspects(found: &DisturbanceFit, masts: &[MastSeen]) -> Vec<Suspect> {
    found
        .interferers
        .iter()
        .filter(|one| one.above_db >= WORTH_NAMING_DB)
        .map(|one| {
            let off = |mast: &MastSeen| turn_deg(one.bearing_deg, mast.bearing_deg).abs();
            let near = masts.iter().min_by(|a, b| off(a).total_cmp(&off(b)));
            let mast = near.filter(|mast| off(mast) <= NEAR_DEG).map(|mast| SuspectMast {
                mast_id: mast.id,
                name: mast.name.clone(),
                bearing_deg: mast.bearing_deg,
            });
            Suspect { bearing_deg: one.bearing_deg, above_db: one.above_db, mast }
        })
        .collect()
}

/// What is asked of the person next.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "ask", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Ask {
    /// A stop of the plan: `done` of `planned` are measured.
    Planned { angle_deg: f64, samples: u32, hold_s: f64, done: usize, planned: usize },
    /// The most informative bearing.
    Further { angle_deg: f64, samples: u32, hold_s: f64 },
    /// Enough: set it.
    Set { angle_deg: f64 },
    /// Not enough after `points` points, and further ones are not worth their turns: this is the best that was found.
    Stopped { angle_deg: f64, points: usize },
}

impl Ask {
    /// Where to point, degrees.
    pub fn angle_deg(&self) -> f64 {
        match self {
            Self::Planned { angle_deg, .. }
            | Self::Further { angle_deg, .. }
            | Self::Set { angle_deg }
            | Self::Stopped { angle_deg, .. } => *angle_deg,
        }
    }
}

/// Most points before a sweep is ended whatever the interval: the rest is the site's, not the hand's.
pub const MOST_POINTS: usize = 24;

/// The next step of a sweep: first the plan's stops, then the most informative ones, until it is enough. `measured_deg`:
/// every bearing measured so far.
pub fn ask(
    axis: SweepAxis,
    nominal: Nominal,
    expected_deg: Option<f64>,
    refresh_period_s: f64,
    measured_deg: &[f64],
    fitted: Option<&AimFit>,
) -> (SweepPlan, Ask) {
    // Nothing is expected far from the horizon: without a better guess a tilt begins level.
    let expected_deg = expected_deg.or((axis == SweepAxis::Tilt).then_some(0.0));
    let mut plan = plan(nominal, expected_deg, refresh_period_s);
    for stop in &mut plan.stops {
        stop.angle_deg = on_axis(axis, stop.angle_deg);
    }
    let missing = |stop: f64| {
        measured_deg.iter().all(|measured| turn_deg(*measured, stop).abs() > plan.step_deg / 2.0 + 1e-9)
    };
    let open: Vec<_> = plan.stops.iter().filter(|stop| missing(stop.angle_deg)).collect();
    let first = plan.stops[0];
    let enough = fitted.is_some_and(|one| one.enough);
    let asked = match (open.first(), fitted) {
        (Some(stop), _) if !enough || open.len() > plan.stops.len() / 2 => Ask::Planned {
            angle_deg: stop.angle_deg,
            samples: stop.samples,
            hold_s: stop.hold_s,
            done: plan.stops.len() - open.len(),
            planned: plan.stops.len(),
        },
        (_, Some(one)) if !one.enough && measured_deg.len() < MOST_POINTS => {
            Ask::Further { angle_deg: one.next_deg, samples: first.samples, hold_s: first.hold_s }
        }
        (_, Some(one)) if one.enough => Ask::Set { angle_deg: one.recommended_deg },
        (_, Some(one)) => Ask::Stopped { angle_deg: one.recommended_deg, points: measured_deg.len() },
        (_, None) => {
            Ask::Further { angle_deg: first.angle_deg, samples: first.samples, hold_s: first.hold_s }
        }
    };
    (plan, asked)
}
