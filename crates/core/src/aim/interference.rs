//! Interference and noise from a sweep.
//!
//! SINR is not beam-shaped: it falls where an interferer comes into the beam, wherever the wanted mast stands. RSRP − SINR
//! is the power of interference and noise; it is fitted apart, as a floor and pattern-shaped interferers, as many as the
//! points call for (Bayesian information criterion, Schwarz 1978, for 0, 1 or 2).

use super::sweep::SweepPoint;
use crate::aim::beam::Beam;
use crate::geo::normalise_bearing_deg;
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
pub(super) fn disturbances(points: &[SweepPoint]) -> Vec<(f64, f64)> {
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
pub(super) fn anew(all: &[(f64, f64)], fitted: &DisturbanceFit, beam: &Beam) -> DisturbanceFit {
    let interferers = polished(all, fitted.interferers.clone(), beam);
    let (floor_dbm, _) = judged(all, &interferers, beam);
    DisturbanceFit { floor_dbm, interferers, spread_db: fitted.spread_db }
}
