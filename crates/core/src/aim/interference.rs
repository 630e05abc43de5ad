//! Interference and noise from a sweep, and where the signal is cleanest.
//!
//! SINR is not beam-shaped: it falls where an interferer comes into the beam, wherever the wanted mast stands. RSRP − SINR
//! is the power of interference and noise; it is fitted apart, as a floor and pattern-shaped interferers, as many as the
//! points call for (Bayesian information criterion, Schwarz 1978, for 0, 1 or 2).

use super::fit::{AngleInterval, Hypothesis, LEVEL, SignalFit, quantile};
use super::sweep::SweepPoint;
use crate::aim::beam::Beam;
use crate::geo::{normalise_bearing_deg, turn_deg};
use crate::metrics::db_to_linear;

/// One who disturbs.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Interferer {
    /// Bearing from true north, degrees.
    pub bearing_deg: f64,
    /// Above the floor with the beam's middle on it, dB.
    pub above_db: f64,
}

/// Interference and noise as they were fitted.
#[derive(Clone, Debug, PartialEq)]
pub struct DisturbanceFit {
    /// Noise, and interference from all round, dBm.
    pub floor_dbm: f64,
    /// The strongest first.
    pub interferers: Vec<Interferer>,
    /// Spread of a point, dB.
    pub spread_db: f64,
}

impl DisturbanceFit {
    /// Interference and noise where the antenna looks, dBm.
    pub fn power_dbm(&self, angle_deg: f64, beam: &Beam) -> f64 {
        self.floor_dbm + rise_db(&self.interferers, angle_deg, beam)
    }
}

fn rise_db(interferers: &[Interferer], angle_deg: f64, beam: &Beam) -> f64 {
    let sum: f64 = interferers
        .iter()
        .map(|one| db_to_linear(one.above_db + beam.between_db(one.bearing_deg, angle_deg)))
        .sum();
    10.0 * (1.0 + sum).log10()
}

/// Steps of an interferer's bearing in the search, degrees, and of its power, dB.
const STEP_DEG: f64 = 8.0;
const ABOVE_DB: [f64; 6] = [0.0, 6.0, 12.0, 18.0, 24.0, 30.0];
/// Fewest points for one interferer, and two.
const LEAST: [usize; 3] = [2, 5, 9];
/// Residuals count less from here on (Huber), dB.
const BEND_DB: f64 = 4.0;
/// No spread is taken as smaller, dB: readings are rounded to halves and wholes.
const LEAST_SPREAD_DB: f64 = 0.7;

/// Points with RSRP and SINR as angle and dBm of interference and noise.
fn disturbances(points: &[SweepPoint]) -> Vec<(f64, f64)> {
    points.iter().filter_map(|point| Some((point.angle_deg, point.rsrp_dbm - point.sinr_db?))).collect()
}

/// One number of interferers with the share of belief that it has.
#[derive(Clone, Debug, PartialEq)]
pub struct Explanation {
    /// How well it fits.
    pub fit: DisturbanceFit,
    /// Share, 0 to 1.
    pub share: f64,
}

/// Fits with 0, 1 and 2 interferers as far as the points allow, the likeliest first; shares by their criterion (Kass and Raftery 1995:
/// half its difference is about the logarithm of the odds). Empty for fewer than two points with SINR.
pub fn explanations(points: &[SweepPoint], beam: &Beam) -> Vec<Explanation> {
    let all = disturbances(points);
    if all.len() < LEAST[0] {
        return Vec::new();
    }
    let mut tried: Vec<(f64, DisturbanceFit)> = Vec::new();
    let mut known: Vec<Interferer> = Vec::new();
    for (count, least) in LEAST.into_iter().enumerate() {
        if all.len() < least {
            break;
        }
        if count > 0 {
            known = with_one_more(&all, &known, beam);
        }
        let (floor_dbm, loss) = judged(&all, &known, beam);
        let number = all.len() as f64;
        let spread_db = (loss / (number - 1.0 - 2.0 * count as f64).max(1.0)).sqrt().max(LEAST_SPREAD_DB);
        // Bayesian information criterion of a normal error of unknown spread; a floor on it, so that few points on a
        // line do not look perfect.
        let criterion = number * (loss / number).max(LEAST_SPREAD_DB.powi(2)).ln()
            + (1.0 + 2.0 * count as f64) * number.ln();
        let mut interferers = known.clone();
        interferers.sort_by(|a, b| b.above_db.total_cmp(&a.above_db));
        tried.push((criterion, DisturbanceFit { floor_dbm, interferers, spread_db }));
    }
    tried.sort_by(|a, b| a.0.total_cmp(&b.0));
    let best = tried.first().map_or(0.0, |one| one.0);
    let odds = |criterion: f64| ((best - criterion) / 2.0).exp();
    let sum: f64 = tried.iter().map(|one| odds(one.0)).sum();
    tried.into_iter().map(|(criterion, fit)| Explanation { fit, share: odds(criterion) / sum }).collect()
}

/// The best floor for these interferers, and what is left, dB² (Huber).
fn judged(all: &[(f64, f64)], interferers: &[Interferer], beam: &Beam) -> (f64, f64) {
    let offs: Vec<f64> =
        all.iter().map(|(angle, power)| power - rise_db(interferers, *angle, beam)).collect();
    floor_of(&offs)
}

fn floor_of(offs: &[f64]) -> (f64, f64) {
    let mut floor = offs.iter().sum::<f64>() / offs.len() as f64;
    for _ in 0..3 {
        let (mut sum, mut weights) = (0.0, 0.0);
        for off in offs {
            let weight = (BEND_DB / (off - floor).abs().max(BEND_DB)).min(1.0);
            sum += weight * off;
            weights += weight;
        }
        floor = sum / weights;
    }
    let loss = offs
        .iter()
        .map(|off| {
            let off = (off - floor).abs();
            if off <= BEND_DB { off * off } else { BEND_DB * (2.0 * off - BEND_DB) }
        })
        .sum();
    (floor, loss)
}

/// The known ones with the best further one, all of them then moved to fit together.
fn with_one_more(all: &[(f64, f64)], known: &[Interferer], beam: &Beam) -> Vec<Interferer> {
    let base: Vec<f64> = all
        .iter()
        .map(|(angle, _)| {
            1.0 + known
                .iter()
                .map(|one| db_to_linear(one.above_db + beam.between_db(one.bearing_deg, *angle)))
                .sum::<f64>()
        })
        .collect();
    let strengths = ABOVE_DB.map(db_to_linear);
    let mut best = (f64::INFINITY, Interferer { bearing_deg: 0.0, above_db: 0.0 });
    let mut offs = vec![0.0; all.len()];
    for step in 0..(360.0 / STEP_DEG) as usize {
        let bearing_deg = step as f64 * STEP_DEG;
        let seen: Vec<f64> =
            all.iter().map(|(angle, _)| db_to_linear(beam.between_db(bearing_deg, *angle))).collect();
        for (above_db, strength) in ABOVE_DB.iter().zip(strengths) {
            for ((off, (_, power)), (base, seen)) in offs.iter_mut().zip(all).zip(base.iter().zip(&seen)) {
                *off = power - 10.0 * (base + strength * seen).log10();
            }
            let (_, loss) = floor_of(&offs);
            if loss < best.0 {
                best = (loss, Interferer { bearing_deg, above_db: *above_db });
            }
        }
    }
    let mut found = known.to_vec();
    found.push(best.1);
    polished(all, found, beam)
}

/// Coordinate descent with halved steps from the grid's best.
fn polished(all: &[(f64, f64)], mut found: Vec<Interferer>, beam: &Beam) -> Vec<Interferer> {
    let mut loss = judged(all, &found, beam).1;
    let (mut turn, mut lift) = (STEP_DEG / 2.0, 3.0);
    for _ in 0..4 {
        for at in 0..found.len() {
            for (by_deg, by_db) in [(turn, 0.0), (-turn, 0.0), (0.0, lift), (0.0, -lift)] {
                let mut tried = found.clone();
                tried[at].bearing_deg = normalise_bearing_deg(tried[at].bearing_deg + by_deg);
                tried[at].above_db = (tried[at].above_db + by_db).clamp(-3.0, 40.0);
                let new = judged(all, &tried, beam).1;
                if new < loss {
                    (loss, found) = (new, tried);
                }
            }
        }
        (turn, lift) = (turn / 2.0, lift / 2.0);
    }
    found
}

/// The same interferers moved to fit other points, or the points through another beam.
fn anew(all: &[(f64, f64)], fitted: &DisturbanceFit, beam: &Beam) -> DisturbanceFit {
    let interferers = polished(all, fitted.interferers.clone(), beam);
    let (floor_dbm, _) = judged(all, &interferers, beam);
    DisturbanceFit { floor_dbm, interferers, spread_db: fitted.spread_db }
}

/// Where the signal is cleanest.
#[derive(Clone, Debug, PartialEq)]
pub struct CleanestFit {
    /// The best there was or is.
    pub best: AngleInterval,
    /// SINR there and at the peak of the signal, dB.
    pub sinr_db: f64,
    /// Expected at the peak, dB.
    pub at_peak_db: f64,
    /// How much better it is expected to be there than at the peak of the signal, dB: the mean over what is left open.
    pub gain_db: f64,
    /// What the signal and the disturbance may be, as far as the points leave it open.
    pub possibilities: Vec<Possibility>,
}

/// One way that signal and disturbance may be.
#[derive(Clone, Debug, PartialEq)]
pub struct Possibility {
    /// What is taken for the signal.
    pub signal: Hypothesis,
    /// What is taken for interference and noise.
    pub disturbance: DisturbanceFit,
    /// How much it counts in what is expected to be lost.
    pub weight: f64,
}

impl CleanestFit {
    /// How much SINR is expected to be lost at `angle_deg` against the cleanest bearing, wherever that is, dB.
    pub fn regret_db(&self, angle_deg: f64) -> f64 {
        let lost = |Possibility { signal, disturbance, weight }: &Possibility| {
            let best = sinr_db(signal, disturbance, top_deg(signal, disturbance));
            weight * (best - sinr_db(signal, disturbance, angle_deg))
        };
        self.possibilities.iter().map(lost).sum()
    }
}

fn sinr_db(one: &Hypothesis, disturbance: &DisturbanceFit, angle_deg: f64) -> f64 {
    one.rsrp_dbm(angle_deg) - disturbance.power_dbm(angle_deg, &one.beam)
}

/// The bearing of the best SINR of one hypothesis.
fn top_deg(one: &Hypothesis, disturbance: &DisturbanceFit) -> f64 {
    let step = one.beam.width_deg * SHARE;
    let steps = (REACH / SHARE) as i32;
    let value = |index: i32| sinr_db(one, disturbance, one.peak_deg + f64::from(index) * step);
    let at = (-steps..=steps).max_by(|a, b| value(*a).total_cmp(&value(*b))).unwrap_or(0);
    // A parabola through the best step and its neighbours.
    let (low, mid, high) = (value(at - 1), value(at), value(at + 1));
    let bend = low - 2.0 * mid + high;
    let shift = if bend < -1e-9 { (0.5 * (low - high) / bend).clamp(-0.5, 0.5) } else { 0.0 };
    one.peak_deg + (f64::from(at) + shift) * step
}

/// Steps of the search for the cleanest bearing, shares of a beamwidth.
const SHARE: f64 = 1.0 / 24.0;
/// How far the cleanest bearing is off because no real beam is quite the fitted shape, shares of a beamwidth (found on
/// synthetic sweeps made by another pattern).
const PATTERN_DOUBT: f64 = 0.035;
/// Every so many of the signal's hypotheses are tried.
const EVERY: usize = 3;
/// Farther from the peak than this nobody aims, beamwidths.
const REACH: f64 = 1.1;

/// The bearing of the best SINR: the fitted signal less the fitted disturbance, over the signal's posterior and what
/// leaving out each point in turn does to the disturbance (jackknife, Quenouille 1956); what other numbers of interferers would mean
/// counts by their share. `None` where there is no explanation.
pub fn cleanest(
    points: &[SweepPoint],
    signal: &SignalFit,
    explanations: &[Explanation],
) -> Option<CleanestFit> {
    let (Explanation { fit: fitted, share }, others) = explanations.split_first()?;
    let beam = signal.best.beam;
    let middle = top_deg(&signal.best, fitted);
    // Each hypothesis of the signal has its own beam, and sees the interferers through it.
    let all = disturbances(points);
    let tried: Vec<(Hypothesis, DisturbanceFit)> =
        signal.posterior.iter().step_by(EVERY).map(|one| (*one, anew(&all, fitted, &one.beam))).collect();
    let own = share / tried.len().max(1) as f64;
    let mut possibilities: Vec<Possibility> = tried
        .into_iter()
        .map(|(signal, disturbance)| Possibility { signal, disturbance, weight: own })
        .collect();
    let other = |one: &Explanation| Possibility {
        signal: signal.best,
        disturbance: one.fit.clone(),
        weight: one.share,
    };
    possibilities.extend(others.iter().map(other));
    let mut found: Vec<f64> = possibilities
        .iter()
        .take(possibilities.len() - others.len())
        .map(|one| turn_deg(middle, top_deg(&one.signal, &one.disturbance)))
        .collect();
    let half = |found: &mut Vec<f64>| {
        found.sort_by(f64::total_cmp);
        let shares = vec![1.0 / found.len() as f64; found.len()];
        [(1.0 - LEVEL) / 2.0, 0.5, (1.0 + LEVEL) / 2.0].map(|share| quantile(found, &shares, share))
    };
    let [left, shift, right] = half(&mut found);
    let without = left_out(&all, fitted, &beam);
    let moved = jackknife_deg(&all, &without, middle, |disturbance| top_deg(&signal.best, disturbance));
    let doubt = moved.hypot(PATTERN_DOUBT * beam.width_deg);
    // 1.645: 90 % of a normal distribution lie within as many standard deviations.
    let widened = |own: f64| own.max(0.0).hypot(1.645 * doubt);
    let angle_deg = normalise_bearing_deg(middle + shift);
    let gain = |one: &Possibility, at: f64| one.weight * sinr_db(&one.signal, &one.disturbance, at);
    let gain_db =
        possibilities.iter().map(|one| gain(one, angle_deg) - gain(one, signal.peak.angle_deg)).sum();
    // Each point left out moves the fit by less than its doubt: together they count as the jackknife's variance does.
    let weight = share * (all.len() as f64 - 1.0) / without.len().max(1) as f64;
    possibilities.extend(without.into_iter().map(|disturbance| Possibility {
        signal: signal.best,
        disturbance,
        weight,
    }));
    Some(CleanestFit {
        best: AngleInterval { angle_deg, left_deg: widened(shift - left), right_deg: widened(right - shift) },
        sinr_db: sinr_db(&signal.best, fitted, angle_deg),
        at_peak_db: sinr_db(&signal.best, fitted, signal.peak.angle_deg),
        gain_db,
        possibilities,
    })
}

/// Most points left out in turn: beyond, every second or third goes.
const LEFT_OUT: usize = 6;

/// The disturbance anew without each point in turn: interferers keep their number and are moved.
fn left_out(all: &[(f64, f64)], fitted: &DisturbanceFit, beam: &Beam) -> Vec<DisturbanceFit> {
    if fitted.interferers.is_empty() || all.len() < 4 {
        return Vec::new();
    }
    let without = |left_out: usize| {
        let mut rest = all.to_vec();
        rest.remove(left_out);
        anew(&rest, fitted, beam)
    };
    (0..all.len()).step_by(all.len().div_ceil(LEFT_OUT)).map(without).collect()
}

/// Standard error of a bearing by leaving out points in turn, degrees; `whole`: with all of them.
fn jackknife_deg(
    all: &[(f64, f64)],
    without: &[DisturbanceFit],
    whole: f64,
    top: impl Fn(&DisturbanceFit) -> f64,
) -> f64 {
    if without.is_empty() {
        return 0.0;
    }
    let turns: Vec<f64> = without.iter().map(|fitted| turn_deg(whole, top(fitted))).collect();
    let count = turns.len() as f64;
    let mean = turns.iter().sum::<f64>() / count;
    let number = all.len() as f64;
    ((number - 1.0) / number * turns.iter().map(|turn| (turn - mean).powi(2)).sum::<f64>() * number / count)
        .sqrt()
}
