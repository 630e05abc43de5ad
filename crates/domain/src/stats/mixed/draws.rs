//! Joint draws from the posterior.

use super::super::Interval;
use super::{MixedFit, Scatters};
use fastrand::Rng;
use nalgebra::DVector;

/// Joint draws of all setups' levels, parts of the day and scatters.
#[derive(Clone, Debug, Default)]
pub struct MixedDraws {
    /// For each setup its draws: natural logarithms.
    pub setups: Vec<Vec<f64>>,
    /// For each part of the day its draws.
    pub parts: Vec<Vec<f64>>,
    /// For each draw the standard deviation from one hour to the next: sitting and setup within it together.
    pub hours: Vec<f64>,
}

fn normal(dice: &mut Rng) -> f64 {
    // Box and Muller 1958.
    (-2.0 * (1.0 - dice.f64()).ln()).sqrt() * (std::f64::consts::TAU * dice.f64()).cos()
}

impl MixedFit {
    /// `count` joint draws; the same seed gives the same. Every second draw mirrors the one before it, which halves the noise.
    pub fn draws(&self, count: usize, seed: u64) -> MixedDraws {
        let mut dice = Rng::with_seed(seed);
        let mut drawn = MixedDraws {
            setups: vec![Vec::with_capacity(count); self.setups],
            parts: vec![Vec::with_capacity(count); self.parts],
            hours: Vec::with_capacity(count),
        };
        let pairs = count.div_ceil(2);
        let mut at = 0;
        let mut passed = self.points.first().map_or(1.0, |(weight, _)| *weight);
        for pair in 0..pairs {
            // Systematic: each point of the grid gets its share of draws.
            let share = (pair as f64 + 0.5) / pairs as f64;
            while share > passed && at + 1 < self.points.len() {
                at += 1;
                passed += self.points[at].0;
            }
            let Some((_, point)) = self.points.get(at) else { break };
            let noise = DVector::from_fn(point.means.len(), |_, _| normal(&mut dice));
            let off = point.factor.l_dirty().tr_solve_lower_triangular(&noise).unwrap_or(noise);
            let Scatters { within, sitting, .. } = point.scatters;
            for sign in [1.0, -1.0] {
                for (setup, list) in drawn.setups.iter_mut().enumerate() {
                    list.push(point.means[setup] + sign * off[setup]);
                }
                for (part, list) in drawn.parts.iter_mut().enumerate() {
                    let row = self.setups + part;
                    list.push(point.means[row] + sign * off[row]);
                }
                drawn.hours.push(within.hypot(sitting));
            }
        }
        drawn
    }
}

impl MixedDraws {
    /// How many draws.
    pub fn count(&self) -> usize {
        self.hours.len()
    }

    /// Draws of one setup's level less another's.
    pub fn difference(&self, one: usize, other: usize) -> Vec<f64> {
        self.setups[one].iter().zip(&self.setups[other]).map(|(a, b)| a - b).collect()
    }

    /// For each setup how often it is the best, by `value` of its draws (more is better).
    pub fn chances_of_best(&self, value: impl Fn(usize, usize) -> f64) -> Vec<f64> {
        let mut wins = vec![0.0; self.setups.len()];
        for draw in 0..self.count() {
            let best = (0..wins.len()).max_by(|a, b| value(*a, draw).total_cmp(&value(*b, draw)));
            if let Some(best) = best {
                wins[best] += 1.0;
            }
        }
        wins.iter().map(|won| won / self.count().max(1) as f64).collect()
    }
}

/// Intervals that hold all of several quantities at once with the coverage: the band of equal ranks over joint draws (Besag,
/// Green, Higdon and Mengersen 1995, Statistical Science 10, section 6.3). All lists have the same length.
pub fn joint_intervals(drawn: &[Vec<f64>], coverage: f64) -> Vec<Interval> {
    let Some(count) = drawn.first().map(Vec::len).filter(|count| *count > 1) else { return Vec::new() };
    let mut deepest = vec![usize::MAX; count];
    let mut sorted = Vec::with_capacity(drawn.len());
    for list in drawn {
        let mut order: Vec<usize> = (0..count).collect();
        order.sort_by(|a, b| list[*a].total_cmp(&list[*b]));
        for (rank, draw) in order.iter().enumerate() {
            deepest[*draw] = deepest[*draw].min(rank.min(count - 1 - rank));
        }
        sorted.push(order.into_iter().map(|draw| list[draw]).collect::<Vec<f64>>());
    }
    // So deep a rank that only the share of draws beyond it lies outside of some interval.
    deepest.sort_unstable();
    let depth = deepest[((1.0 - coverage) * count as f64) as usize];
    sorted.iter().map(|list| Interval { low: list[depth], high: list[count - 1 - depth], coverage }).collect()
}
