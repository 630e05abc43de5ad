//! Two ways of plugging the same leads in, tried by turns at one bearing: A B B A, so that a drift of the channel falls on
//! both alike.

use super::advice::Ask;
use super::next::{PlannedStop, SweepPlan};
use super::sweep::CellSweep;
use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};

/// Stops before the first verdict, and the most of a trial; whole blocks of four (common practice, no source).
const FEWEST: usize = 8;
const MOST: usize = 16;
const SAMPLES: u32 = 4;
/// A smaller difference is no reason to change plugs, dB (common practice, no source).
const WORTH_DB: f64 = 0.5;

/// The map at a place of the trial: 0 for A, 1 for B.
pub fn map_at(place: usize) -> f64 {
    [0.0, 1.0, 1.0, 0.0][place % 4]
}

/// What came of a trial.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PortVerdict {
    /// SINR of map B less that of map A, dB; of RSRP where no SINR was read.
    pub difference_db: f64,
    /// 90 % interval of it.
    pub low_db: f64,
    /// Upper end, dB.
    pub high_db: f64,
    /// Pairs of neighbouring stops behind it.
    pub pairs: usize,
    /// 0 for A, 1 for B; none while it is open or does not matter.
    pub better: Option<u8>,
    /// No further stop is needed.
    pub enough: bool,
    /// In words.
    pub words: String,
}

/// Judges a trial from the stops of the cell that answered most: neighbouring stops of the two maps make a pair, and the
/// pairs' differences a Student interval. `None` before two pairs.
pub fn port_verdict(cell: &CellSweep) -> Option<PortVerdict> {
    let worth = |at: usize| cell.points[at].sinr_db.unwrap_or(cell.points[at].rsrp_dbm);
    let clean = cell.points.iter().all(|point| point.sinr_db.is_some());
    let differences: Vec<f64> = (0..cell.points.len() / 2)
        .filter_map(|pair| {
            let (first, second) = (2 * pair, 2 * pair + 1);
            let way = cell.points[second].angle_deg - cell.points[first].angle_deg;
            let comparable =
                clean || (cell.points[first].sinr_db.is_none() && cell.points[second].sinr_db.is_none());
            (way != 0.0 && comparable).then(|| (worth(second) - worth(first)) * way.signum())
        })
        .collect();
    let pairs = differences.len();
    if pairs < 2 {
        return None;
    }
    let count = pairs as f64;
    let difference_db = differences.iter().sum::<f64>() / count;
    let variance = differences.iter().map(|one| (one - difference_db).powi(2)).sum::<f64>() / (count - 1.0);
    let quantile =
        StudentsT::new(0.0, 1.0, count - 1.0).map_or(f64::INFINITY, |student| student.inverse_cdf(0.95));
    // Readings come in half decibels: pairs that agree to the last digit are not sure to the last digit.
    let half_db = quantile * (variance.max(0.08) / count).sqrt();
    let (low_db, high_db) = (difference_db - half_db, difference_db + half_db);
    let better = match () {
        () if low_db > 0.0 && difference_db >= WORTH_DB => Some(1),
        () if high_db < 0.0 && difference_db <= -WORTH_DB => Some(0),
        () => None,
    };
    let same = low_db > -WORTH_DB && high_db < WORTH_DB;
    let enough = 2 * pairs >= MOST || (2 * pairs >= FEWEST && (better.is_some() || same));
    let quantity = if clean { "SINR" } else { "RSRP" };
    let size = difference_db.abs();
    let words = match better {
        Some(map) => format!(
            "Map {} is better by {size:.1} ± {half_db:.1}\u{202f}dB of {quantity}, from {pairs} pairs.",
            if map == 0 { "A" } else { "B" }
        ),
        None if enough => format!(
            "No difference that matters: {size:.1} ± {half_db:.1}\u{202f}dB of {quantity}, from {pairs} pairs. Leave it as it is."
        ),
        None => format!("Still open: {size:.1} ± {half_db:.1}\u{202f}dB of {quantity} after {pairs} pairs."),
    };
    Some(PortVerdict { difference_db, low_db, high_db, pairs, better, enough, words })
}

/// The next step of a trial. `measured`: how many stops there are.
pub fn ask_ports(measured: usize, refresh_period_s: f64, verdict: Option<&PortVerdict>) -> (SweepPlan, Ask) {
    let hold_s = f64::from(SAMPLES) * refresh_period_s.max(0.2);
    let planned = if measured < FEWEST { FEWEST } else { MOST };
    let stop = |place| PlannedStop { angle_deg: map_at(place), samples: SAMPLES, hold_s };
    let plan = SweepPlan { stops: (0..planned).map(stop).collect(), step_deg: 1.0, enough_deg: 0.0 };
    let asked = match verdict {
        Some(found) if found.enough && measured.is_multiple_of(4) || measured >= MOST => {
            Ask::Set { angle_deg: verdict.and_then(|one| one.better).map_or(0.0, f64::from) }
        }
        _ => Ask::Planned { angle_deg: map_at(measured), samples: SAMPLES, hold_s, done: measured, planned },
    };
    (plan, asked)
}
