//! Where the signal is cleanest: the fitted signal less the fitted interference and noise, corrected near the points by what the shapes
//! left over.

use super::fit::{AngleInterval, Hypothesis, LEVEL, SignalFit, quantile};
use super::interference::{DisturbanceFit, Explanation, anew, disturbances};
use super::residual::Residuals;
use super::sweep::SweepPoint;
use crate::aim::beam::Beam;
use crate::geo::{normalise_bearing_deg, turn_deg};
use statrs::distribution::{Continuous, ContinuousCDF, Normal};

/// Where the signal is cleanest.
#[derive(Clone, Debug)]
pub struct CleanestFit {
    /// The best there was or is.
    pub best: AngleInterval,
    /// SINR there and at the peak of the signal, dB.
    pub sinr_db: f64,
    /// Expected at the peak, dB.
    pub at_peak_db: f64,
    /// How much better it is expected to be there than at the peak of the signal, dB: the mean over what is left open.
    pub gain_db: f64,
    /// How much less interference and noise is expected there than at the peak of the signal, dB.
    pub quieter_db: f64,
    /// What the signal and the disturbance may be, as far as the points leave it open.
    possibilities: Vec<Possibility>,
    residuals: Residuals,
}

/// One way that signal and disturbance may be.
#[derive(Clone, Debug)]
struct Possibility {
    /// How much it counts in what is expected to be lost.
    weight: f64,
    /// SINR, and interference and noise, at the bearings of the grid, dB and dBm.
    sinr_db: Vec<f64>,
    power_dbm: Vec<f64>,
}

impl CleanestFit {
    /// How much SINR is expected to be lost at `angle_deg` against the cleanest bearing, wherever that is, dB.
    pub fn regret_db(&self, angle_deg: f64) -> f64 {
        let at = self.nearest(angle_deg);
        self.possibilities.iter().map(|one| one.weight * self.lost_db(one, at)).sum()
    }

    /// The most that another bearing is expected to be better, dB (expected improvement: Jones, Schonlau and Welch 1998, equation 15).
    fn lost_db(&self, one: &Possibility, at: usize) -> f64 {
        let better = |other: usize| {
            let mean = one.sinr_db[other] - one.sinr_db[at];
            let spread = self.residuals.between(other, at).sqrt();
            if spread < 1e-6 {
                return mean.max(0.0);
            }
            let normal = Normal::standard();
            mean * normal.cdf(mean / spread) + spread * normal.pdf(mean / spread)
        };
        (0..one.sinr_db.len()).map(better).fold(0.0, f64::max)
    }

    /// How far what is left open differs in interference and noise at a bearing, dB².
    pub fn open_db2(&self, angle_deg: f64) -> f64 {
        let at = self.nearest(angle_deg);
        let all: f64 = self.possibilities.iter().map(|one| one.weight).sum();
        let mean = self.possibilities.iter().map(|one| one.weight * one.power_dbm[at]).sum::<f64>() / all;
        let between: f64 =
            self.possibilities.iter().map(|one| one.weight * (one.power_dbm[at] - mean).powi(2)).sum();
        between / all + self.residuals.variance(at)
    }

    fn nearest(&self, angle_deg: f64) -> usize {
        let grid = &self.residuals.grid_deg;
        let off = |at: &usize| turn_deg(grid[*at], angle_deg).abs();
        (0..grid.len()).min_by(|a, b| off(a).total_cmp(&off(b))).unwrap_or(0)
    }
}

/// The best place of an evenly stepped curve, steps and parts: a parabola through the best step and its neighbours.
fn top(curve: &[f64]) -> f64 {
    let at = (0..curve.len()).max_by(|a, b| curve[*a].total_cmp(&curve[*b])).unwrap_or(0);
    if at == 0 || at + 1 == curve.len() {
        return at as f64;
    }
    let (low, mid, high) = (curve[at - 1], curve[at], curve[at + 1]);
    let bend = low - 2.0 * mid + high;
    let shift = if bend < -1e-9 { (0.5 * (low - high) / bend).clamp(-0.5, 0.5) } else { 0.0 };
    at as f64 + shift
}

/// Between two steps of a curve.
fn at(curve: &[f64], place: f64) -> f64 {
    let low = (place.max(0.0) as usize).min(curve.len() - 1);
    let high = (low + 1).min(curve.len() - 1);
    curve[low] + (curve[high] - curve[low]) * (place - low as f64)
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
    let steps = (REACH / SHARE) as i32;
    let step_deg = beam.width_deg * SHARE;
    let grid: Vec<f64> =
        (-steps..=steps).map(|index| signal.best.peak_deg + f64::from(index) * step_deg).collect();
    let all = disturbances(points);
    let left_over = |disturbance: &DisturbanceFit, beam: &Beam| -> Vec<f64> {
        all.iter().map(|(angle, power)| power - disturbance.power_dbm(*angle, beam)).collect()
    };
    let angles = all.iter().map(|one| one.0);
    let residuals =
        Residuals::learned(&angles.zip(left_over(fitted, &beam)).collect::<Vec<_>>(), grid.clone(), &beam);
    let possibility = |signal: &Hypothesis, disturbance: &DisturbanceFit, weight: f64| {
        let off = residuals.at_grid(&left_over(disturbance, &signal.beam));
        let power_dbm: Vec<f64> = grid
            .iter()
            .zip(&off)
            .map(|(angle, off)| disturbance.power_dbm(*angle, &signal.beam) + off)
            .collect();
        let sinr_db =
            grid.iter().zip(&power_dbm).map(|(angle, power)| signal.rsrp_dbm(*angle) - power).collect();
        Possibility { weight, sinr_db, power_dbm }
    };
    // Each hypothesis of the signal has its own beam, and sees the interferers through it.
    let tried: Vec<&Hypothesis> = signal.posterior.iter().step_by(EVERY).collect();
    let own = share / tried.len().max(1) as f64;
    let mut possibilities: Vec<Possibility> =
        tried.iter().map(|one| possibility(one, &anew(&all, fitted, &one.beam), own)).collect();
    let found: Vec<f64> = possibilities.iter().map(|one| top(&one.sinr_db)).collect();
    possibilities.extend(others.iter().map(|one| possibility(&signal.best, &one.fit, one.share)));
    let mean = |of: fn(&Possibility) -> &Vec<f64>| -> Vec<f64> {
        (0..grid.len()).map(|at| possibilities.iter().map(|one| one.weight * of(one)[at]).sum()).collect()
    };
    let (expected, power) = (mean(|one| &one.sinr_db), mean(|one| &one.power_dbm));
    let best = top(&expected);
    let mut turns: Vec<f64> = found.iter().map(|one| (one - best) * step_deg).collect();
    turns.sort_by(f64::total_cmp);
    let shares = vec![1.0 / turns.len() as f64; turns.len()];
    let [left, right] =
        [(1.0 - LEVEL) / 2.0, (1.0 + LEVEL) / 2.0].map(|share| quantile(&turns, &shares, share));
    let without: Vec<Possibility> =
        left_out(&all, fitted, &beam).iter().map(|one| possibility(&signal.best, one, 0.0)).collect();
    let whole = top(&possibility(&signal.best, fitted, 0.0).sinr_db);
    let moved: Vec<f64> = without.iter().map(|one| (top(&one.sinr_db) - whole) * step_deg).collect();
    let doubt = jackknife_deg(all.len(), &moved).hypot(PATTERN_DOUBT * beam.width_deg);
    // 1.645: 90 % of a normal distribution lie within as many standard deviations.
    let widened = |own: f64| own.max(0.0).hypot(1.645 * doubt);
    let at_peak_deg = turn_deg(signal.best.peak_deg, signal.peak.angle_deg);
    let peak = steps as f64 + at_peak_deg / step_deg;
    // Each point left out moves the fit by less than its doubt: together they count as the jackknife's variance does.
    let weight = share * (all.len() as f64 - 1.0) / without.len().max(1) as f64;
    possibilities.extend(without.into_iter().map(|one| Possibility { weight, ..one }));
    Some(CleanestFit {
        best: AngleInterval {
            angle_deg: normalise_bearing_deg(grid[0] + best * step_deg),
            left_deg: widened(-left),
            right_deg: widened(right),
        },
        sinr_db: at(&expected, best),
        at_peak_db: at(&expected, peak),
        gain_db: at(&expected, best) - at(&expected, peak),
        quieter_db: at(&power, peak) - at(&power, best),
        possibilities,
        residuals,
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

/// Standard error of a bearing by leaving out some of `number` points in turn, each of which turned it so far, degrees.
fn jackknife_deg(number: usize, turns: &[f64]) -> f64 {
    if turns.is_empty() {
        return 0.0;
    }
    let (number, count) = (number as f64, turns.len() as f64);
    let mean = turns.iter().sum::<f64>() / count;
    ((number - 1.0) * turns.iter().map(|turn| (turn - mean).powi(2)).sum::<f64>() / count).sqrt()
}
