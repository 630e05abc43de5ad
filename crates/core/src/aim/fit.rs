//! Peak of the signal from a sweep. The top of a beam is flat; its flanks tell where the middle is.
//!
//! Bayesian, on a grid: the peak's bearing anywhere on the circle, the beamwidth near what the catalogue says (spread
//! [`WIDTH_SPREAD`], with tails heavy enough that the points can show a datasheet wrong by half), the floor near its
//! front-to-back ratio. A point counts by its samples. Noise is Student's t with four degrees of freedom, so that a
//! point read while a lorry went by does not turn the antenna; its scale is learned from the points, with what is usual as
//! prior. The level of the peak is put to its best for each bearing (profiled).

use super::beam::Beam;
use super::sweep::SweepPoint;
use crate::geo::{normalise_bearing_deg, turn_deg};
use serde::{Deserialize, Serialize};

/// What the antenna is said to be.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Nominal {
    /// Half-power beamwidth in the plane that is swept, degrees, 3..=180.
    pub beamwidth_deg: f64,
    /// Front-to-back ratio, dB.
    pub front_to_back_db: f64,
}

/// Spread of a catalogue's beamwidth, natural logarithm (common practice, no source): a seventh either way.
pub const WIDTH_SPREAD: f64 = 0.15;
/// Spread of one point before any is seen, dB: fading that outlasts the samples, and what a pattern is not quite (common
/// practice, no source).
const USUAL_SPREAD_DB: f64 = 2.0;
/// Points that the prior of the spread is worth.
const PRIOR_POINTS: f64 = 4.0;
/// Degrees of freedom of the noise.
const FREEDOM: f64 = 4.0;
/// Share of the posterior inside the interval.
pub const LEVEL: f64 = 0.9;

/// An angle with its interval.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AngleInterval {
    /// Most probable middle, degrees, 0..360 in azimuth.
    pub angle_deg: f64,
    /// To the left and right of it (below and above in tilt), degrees, 0 or more: 90 % of the posterior.
    pub left_deg: f64,
    /// Its right end, degrees.
    pub right_deg: f64,
}

impl AngleInterval {
    /// Half of its width, degrees.
    pub fn half_deg(&self) -> f64 {
        (self.left_deg + self.right_deg) / 2.0
    }

    /// Whether an angle lies in it.
    pub fn holds(&self, angle_deg: f64) -> bool {
        (-self.left_deg..=self.right_deg).contains(&turn_deg(self.angle_deg, angle_deg))
    }
}

/// One way the points may have come about.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Hypothesis {
    /// Bearing of its peak, degrees.
    pub peak_deg: f64,
    /// Level at its peak, dBm.
    pub level_dbm: f64,
    /// Its beam.
    pub beam: Beam,
    /// Share of the posterior.
    pub weight: f64,
}

impl Hypothesis {
    /// Signal power where the antenna looks, dBm.
    pub fn rsrp_dbm(&self, angle_deg: f64) -> f64 {
        self.level_dbm + self.beam.between_db(self.peak_deg, angle_deg)
    }
}

/// A fitted sweep.
#[derive(Clone, Debug)]
pub struct SignalFit {
    /// Bearing of the peak.
    pub peak: AngleInterval,
    /// Of the most probable hypothesis.
    pub best: Hypothesis,
    /// Spread of a point as learned, dB.
    pub spread_db: f64,
    /// Points so far off that they hardly count, by their place.
    pub outliers: Vec<usize>,
    /// A thinned posterior, its weights sum to 1; for what is computed from the fit.
    pub posterior: Vec<Hypothesis>,
}

/// Fewest points that make a fit.
pub const LEAST_POINTS: usize = 3;
/// A residual of more spreads than this is an outlier's.
const OUTLIER: f64 = 3.5;
/// Steps of the coarse search, degrees.
const COARSE_DEG: f64 = 4.0;
/// Steps of the fine one, over what the coarse one left.
const FINE: usize = 80;
/// What lies so far below the best, in natural logarithms, is left out.
const NEGLIGIBLE: f64 = 9.0;
/// Widths tried, in spreads of the prior: from half to twice what is said.
const WIDTHS: [f64; 9] = [-4.6, -3.2, -1.8, -0.9, 0.0, 0.9, 1.8, 3.2, 4.6];
/// Degrees of freedom of the prior of the width.
const WIDTH_FREEDOM: f64 = 3.0;
/// Samples at a point that the usual spread is of.
const USUAL_SAMPLES: f64 = 4.0;
/// Share of a point's variance that more samples do not take away: fading that outlasts them (common practice, no source).
const OUTLASTS: f64 = 0.5;
/// Floors tried, dB against what is said.
const FLOORS: [f64; 2] = [-5.0, 3.0];
/// Hypotheses kept for what is computed from the fit.
const KEPT: usize = 24;

/// Fits a beam to points of one cell; `None` for fewer than [`LEAST_POINTS`].
pub fn fit(points: &[SweepPoint], nominal: Nominal) -> Option<SignalFit> {
    if points.len() < LEAST_POINTS {
        return None;
    }
    let variances = points
        .iter()
        .map(|point| OUTLASTS + (1.0 - OUTLASTS) * USUAL_SAMPLES / f64::from(point.samples.max(1)))
        .collect();
    let job = Job { points, nominal, variances };
    // From the strongest point round, so that the steps turn with the points and north is nothing special.
    let strongest = points.iter().max_by(|a, b| a.rsrp_dbm.total_cmp(&b.rsrp_dbm))?.angle_deg;
    let coarse: Vec<f64> =
        (0..(360.0 / COARSE_DEG) as usize).map(|step| strongest + step as f64 * COARSE_DEG).collect();
    // First with the usual spread, then with the one that the best of it leaves.
    let (first, _) = job.grid(&coarse, &[0.0], &[0.0], USUAL_SPREAD_DB);
    let best = first.iter().copied().max_by(by_weight)?;
    let near: Vec<f64> = (-8..=8).map(|step| best.peak_deg + f64::from(step) * COARSE_DEG / 8.0).collect();
    let (near, _) = job.grid(&near, &WIDTHS, &FLOORS[..1], USUAL_SPREAD_DB);
    let spread_db = job.spread_db(&near.iter().copied().max_by(by_weight)?);
    let (around, _) = job.grid(&coarse, &[-1.2, 0.0, 1.2], &FLOORS[..1], spread_db);
    let most = around.iter().map(|one| one.weight).fold(f64::MIN, f64::max);
    let middle = around.iter().copied().max_by(by_weight)?.peak_deg;
    let (mut low, mut high) = (0.0f64, 0.0f64);
    for one in around.iter().filter(|one| one.weight > most - NEGLIGIBLE) {
        let turn = turn_deg(middle, one.peak_deg);
        (low, high) = (low.min(turn), high.max(turn));
    }
    (low, high) = ((low - COARSE_DEG).max(-180.0), (high + COARSE_DEG).min(180.0));
    let fine: Vec<f64> =
        (0..=FINE).map(|step| middle + low + (high - low) * step as f64 / FINE as f64).collect();
    let (mut all, per_peak) = job.grid(&fine, &WIDTHS, &FLOORS, spread_db);
    // Logarithms to shares.
    let most = all.iter().map(|one| one.weight).fold(f64::MIN, f64::max);
    for one in &mut all {
        one.weight = (one.weight - most).exp();
    }
    let sum: f64 = all.iter().map(|one| one.weight).sum();
    for one in &mut all {
        one.weight /= sum;
    }
    let shares: Vec<f64> = all.chunks(per_peak).map(|same| same.iter().map(|one| one.weight).sum()).collect();
    let turns: Vec<f64> = fine.iter().map(|peak| peak - middle).collect();
    let [left, half, right] =
        [(1.0 - LEVEL) / 2.0, 0.5, (1.0 + LEVEL) / 2.0].map(|share| quantile(&turns, &shares, share));
    let best = all.iter().copied().max_by(by_weight)?;
    let outliers = (0..points.len())
        .filter(|at| {
            let off = points[*at].rsrp_dbm - best.rsrp_dbm(points[*at].angle_deg);
            off.abs() > OUTLIER * spread_db * job.variances[*at].sqrt()
        })
        .collect();
    Some(SignalFit {
        peak: AngleInterval {
            angle_deg: normalise_bearing_deg(middle + half),
            left_deg: half - left,
            right_deg: right - half,
        },
        best: Hypothesis { peak_deg: normalise_bearing_deg(best.peak_deg), ..best },
        spread_db,
        outliers,
        posterior: thinned(all),
    })
}

fn by_weight(a: &Hypothesis, b: &Hypothesis) -> std::cmp::Ordering {
    a.weight.total_cmp(&b.weight)
}

/// The place below which a share of all lies, straight between steps.
pub(super) fn quantile(places: &[f64], shares: &[f64], wanted: f64) -> f64 {
    let mut below = 0.0;
    for (at, share) in shares.iter().enumerate() {
        if below + share >= wanted {
            let step =
                if at + 1 < places.len() { places[at + 1] - places[at] } else { places[at] - places[at - 1] };
            let part = if *share > 0.0 { (wanted - below) / share } else { 0.5 };
            return places[at] + (part - 0.5) * step;
        }
        below += share;
    }
    places[places.len() - 1]
}

/// A few hypotheses that stand for all: one for each equal share of the posterior, in order of their peaks.
fn thinned(all: Vec<Hypothesis>) -> Vec<Hypothesis> {
    let mut kept = Vec::with_capacity(KEPT);
    let (mut below, mut next) = (0.0, 0.5 / KEPT as f64);
    for one in &all {
        below += one.weight;
        while below >= next && kept.len() < KEPT {
            kept.push(Hypothesis { weight: 1.0 / KEPT as f64, ..*one });
            next += 1.0 / KEPT as f64;
        }
    }
    kept
}

struct Job<'a> {
    points: &'a [SweepPoint],
    nominal: Nominal,
    /// Of each point, against one of the usual number of samples.
    variances: Vec<f64>,
}

impl Job<'_> {
    /// Every combination, its weight the natural logarithm of the posterior; all of one peak stand together. Says how many.
    fn grid(
        &self,
        peaks: &[f64],
        widths: &[f64],
        floors: &[f64],
        spread_db: f64,
    ) -> (Vec<Hypothesis>, usize) {
        let beams: Vec<(Beam, f64)> = widths
            .iter()
            .flat_map(|width| {
                floors.iter().map(move |floor| {
                    let beam = Beam {
                        width_deg: self.nominal.beamwidth_deg * (width * WIDTH_SPREAD).exp(),
                        floor_db: (self.nominal.front_to_back_db + floor).max(6.0),
                    };
                    let prior = (WIDTH_FREEDOM + 1.0) / 2.0 * (1.0 + width * width / WIDTH_FREEDOM).ln();
                    (beam, -prior)
                })
            })
            .collect();
        let mut shapes = vec![0.0; self.points.len()];
        let mut found = Vec::with_capacity(peaks.len() * beams.len());
        for peak_deg in peaks {
            let turns: Vec<f64> =
                self.points.iter().map(|point| turn_deg(*peak_deg, point.angle_deg)).collect();
            for (beam, prior) in &beams {
                for (shape, turn) in shapes.iter_mut().zip(&turns) {
                    *shape = beam.below_db(*turn);
                }
                let (level_dbm, logarithm) = self.level(&shapes, spread_db);
                found.push(Hypothesis {
                    peak_deg: *peak_deg,
                    level_dbm,
                    beam: *beam,
                    weight: logarithm + prior,
                });
            }
        }
        (found, beams.len())
    }

    /// The level that fits best, and the logarithm of the likelihood there.
    fn level(&self, shapes: &[f64], spread_db: f64) -> (f64, f64) {
        let mut level = {
            let mut offs: Vec<f64> = self.offs(shapes).collect();
            offs.sort_by(f64::total_cmp);
            offs[offs.len() / 2]
        };
        let scale = FREEDOM * spread_db * spread_db;
        for _ in 0..3 {
            let (mut sum, mut weights) = (0.0, 0.0);
            for (off, variance) in self.offs(shapes).zip(&self.variances) {
                let weight = 1.0 / (scale * variance + (off - level) * (off - level));
                sum += weight * off;
                weights += weight;
            }
            level = sum / weights;
        }
        // Products of a few factors at a time: one logarithm for four points.
        let (mut logarithm, mut product) = (0.0, 1.0);
        for (at, (off, variance)) in self.offs(shapes).zip(&self.variances).enumerate() {
            product *= 1.0 + (off - level) * (off - level) / (scale * variance);
            if at % 4 == 3 {
                logarithm += f64::ln(product);
                product = 1.0;
            }
        }
        logarithm += product.ln();
        (level, -(FREEDOM + 1.0) / 2.0 * logarithm)
    }

    fn offs<'b>(&'b self, shapes: &'b [f64]) -> impl Iterator<Item = f64> + 'b {
        self.points.iter().zip(shapes).map(|(point, shape)| point.rsrp_dbm - shape)
    }

    /// Spread of the points round a hypothesis: their median deviation, drawn to what is usual while they are few, and
    /// widened by what the fit itself took out of it.
    fn spread_db(&self, best: &Hypothesis) -> f64 {
        let off = |point: &SweepPoint| (point.rsrp_dbm - best.rsrp_dbm(point.angle_deg)).abs();
        let mut offs: Vec<f64> = self
            .points
            .iter()
            .zip(&self.variances)
            .map(|(point, variance)| off(point) / variance.sqrt())
            .collect();
        offs.sort_by(f64::total_cmp);
        let count = offs.len() as f64;
        let middle = f64::midpoint(offs[(offs.len() - 1) / 2], offs[offs.len() / 2]);
        // 1.4826: median deviation to standard deviation of a normal distribution; peak and level are two parameters.
        let own = 1.4826 * middle * (count / (count - 2.0).max(1.0)).sqrt();
        ((PRIOR_POINTS * USUAL_SPREAD_DB.powi(2) + count * own * own) / (PRIOR_POINTS + count)).sqrt()
    }
}
