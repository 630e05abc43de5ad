//! One number a test, by what it is wanted for.

use crate::kit::need::Need;
use crate::model::{SpeedFigures, TrialGoal};

/// Latency under load, the worse way, ms; idle where nothing else was measured.
pub fn loaded_latency_ms(figures: &SpeedFigures) -> Option<f64> {
    match (figures.download_latency_ms, figures.upload_latency_ms) {
        (Some(down), Some(up)) => Some(down.max(up)),
        (one, other) => one.or(other).or(figures.idle_latency_ms),
    }
}

/// How good a test is, larger is better, above 0: Mbit/s for rates, 1000 over ms for latency, and for the household how
/// many times its needs are covered ([`covered`]). `None` where the figure is missing.
pub fn score(goal: TrialGoal, need: &Need, figures: &SpeedFigures) -> Option<f64> {
    let positive = |value: f64| (value > 0.0 && value.is_finite()).then_some(value);
    match goal {
        TrialGoal::Download => positive(figures.download_mbps?),
        TrialGoal::Upload => positive(figures.upload_mbps?),
        TrialGoal::Latency => positive(1000.0 / loaded_latency_ms(figures)?),
        TrialGoal::Household => {
            covered(need, figures.download_mbps?, figures.upload_mbps?, loaded_latency_ms(figures))
        }
    }
}

/// How many times the needs are covered: the harmonic mean of download's and upload's cover, in which the tighter counts
/// the more and plenty of one does not make up for want of the other (common practice, no source). Latency lowers it only
/// where it is missed: below what is borne, less is no gain. `None` where nothing is carried.
pub fn covered(need: &Need, down_mbps: f64, up_mbps: f64, latency_ms: Option<f64>) -> Option<f64> {
    let times = [(down_mbps, need.down_mbps), (up_mbps, need.up_mbps)];
    let wanted: Vec<f64> =
        times.iter().filter(|(_, wants)| *wants > 0.0).map(|(has, wants)| has / wants).collect();
    let rates = if wanted.is_empty() {
        down_mbps.min(up_mbps)
    } else {
        wanted.len() as f64 / wanted.iter().map(|one| 1.0 / one).sum::<f64>()
    };
    let late = match (need.loaded_latency_ms, latency_ms) {
        (Some(bears), Some(ms)) if ms > bears => bears / ms,
        _ => 1.0,
    };
    let covered = rates * late;
    (covered > 0.0 && covered.is_finite()).then_some(covered)
}
