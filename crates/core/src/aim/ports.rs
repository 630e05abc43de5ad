//! Two ways of plugging the same leads in, tried by turns at one bearing: A B B A, so that a drift of the channel falls on
//! both alike.

use super::advice::Ask;
use super::next::{PlannedStop, SweepPlan};
use super::sweep::{CellKey, CellSweep, Stop};
use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};

/// Stops before the first verdict, and the most of a trial; whole blocks of four (common practice, no source).
const FEWEST: usize = 8;
const MOST: usize = 16;
const SAMPLES: u32 = 4;
/// Quantile that a difference has to pass at each of up to three looks, so that equal maps are told apart in one trial of ten: Pocock,
/// Biometrika 64 (1977) 191, boundary 1.992 for three looks and 0.10 (from memory). The interval that is shown is of one look.
const DECIDES: f64 = 0.9768;
/// The map at a place of the trial: 0 for A, 1 for B.
pub fn map_at(place: usize) -> f64 {
    [0.0, 1.0, 1.0, 0.0][place % 4]
}

/// What decides a trial: the first of these that the gateway shows. More layers are more speed, and need branches that hear alike;
/// signal alone says little of either.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PortEvidence {
    /// Spatial layers in use (rank).
    Layers,
    /// Download of a speed test at each turn, as the logarithm of the ratio: rates differ by a share, not by a step.
    Download,
    /// How far apart the branches' RSRP lies, dB.
    BranchGap,
    /// SINR, dB.
    Sinr,
    /// RSRP, dB.
    Rsrp,
}

impl PortEvidence {
    const ALL: [Self; 5] = [Self::Layers, Self::Download, Self::BranchGap, Self::Sinr, Self::Rsrp];

    /// A smaller difference is no reason to change plugs (common practice, no source).
    fn worth(self) -> f64 {
        match self {
            Self::Layers => 0.25,
            Self::Download => 0.1,
            Self::BranchGap => 3.0,
            Self::Sinr | Self::Rsrp => 0.5,
        }
    }

    /// Pairs that agree to the last digit are not sure to the last digit: layers are means of whole numbers, decibels come in halves,
    /// and a line is never as quick twice as it was, by a twentieth at the least.
    fn smallest_variance(self) -> f64 {
        match self {
            Self::Layers => 0.02,
            Self::Download => 2.0 * 0.05 * 0.05,
            Self::BranchGap | Self::Sinr | Self::Rsrp => 0.08,
        }
    }

    /// The quantity at a point, more for the better; `None` where it was not shown.
    fn at(self, cell: &CellSweep, stops: &[Stop], downloads_mbps: &[Option<f64>], at: usize) -> Option<f64> {
        let samples = stops.get(cell.stops[at]).into_iter().flat_map(|stop| stop.samples.iter().copied());
        let heard = samples.flatten().filter(|carrier| CellKey::of(carrier) == cell.cell);
        let mean_of =
            |values: Vec<f64>| (!values.is_empty()).then(|| values.iter().sum::<f64>() / values.len() as f64);
        match self {
            Self::Layers => mean_of(heard.filter_map(|one| one.rank).map(f64::from).collect()),
            Self::BranchGap => {
                mean_of(heard.filter_map(|one| gap_db(&one.branch_rsrp_dbm)).map(|gap| -gap).collect())
            }
            Self::Download => {
                downloads_mbps.get(cell.stops[at]).copied().flatten().filter(|mbps| *mbps > 0.0).map(f64::ln)
            }
            Self::Sinr => cell.points[at].sinr_db,
            Self::Rsrp => Some(cell.points[at].rsrp_dbm),
        }
    }
}

/// How far apart the levels of two branches or more lie, dB.
fn gap_db(branches_dbm: &[f64]) -> Option<f64> {
    let most = branches_dbm.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let least = branches_dbm.iter().copied().fold(f64::INFINITY, f64::min);
    (branches_dbm.len() >= 2).then_some(most - least)
}

/// What came of a trial.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PortVerdict {
    /// What it is judged by.
    pub by: PortEvidence,
    /// How much better map B is than map A: layers, dB, or the natural logarithm of the ratio of downloads.
    pub difference: f64,
    /// Lower end of its 90 % interval.
    pub low: f64,
    /// Upper end.
    pub high: f64,
    /// Pairs of neighbouring stops behind it.
    pub pairs: usize,
    /// 0 for A, 1 for B; none while it is open or does not matter.
    pub better: Option<u8>,
    /// No further stop is needed.
    pub enough: bool,
    /// In words.
    pub words: String,
}

/// A difference of pairs with its Student interval.
struct Paired {
    by: PortEvidence,
    difference: f64,
    half: f64,
    /// A difference beyond this decides.
    decides: f64,
    pairs: usize,
}

impl Paired {
    /// `None` before two pairs, and where a point does not show the quantity.
    fn of(
        by: PortEvidence,
        cell: &CellSweep,
        stops: &[Stop],
        downloads_mbps: &[Option<f64>],
    ) -> Option<Self> {
        let count = cell.points.len() / 2 * 2;
        let values: Vec<Option<f64>> = (0..count).map(|at| by.at(cell, stops, downloads_mbps, at)).collect();
        // A speed test may fail at one turn; what a page shows of some points only is not what it always shows.
        if by != PortEvidence::Download && values.contains(&None) {
            return None;
        }
        let differences: Vec<f64> = (0..count / 2)
            .filter_map(|pair| {
                let (first, second) = (2 * pair, 2 * pair + 1);
                let way = cell.points[second].angle_deg - cell.points[first].angle_deg;
                (way != 0.0).then_some((values[second]? - values[first]?) * way.signum())
            })
            .collect();
        let pairs = differences.len();
        if pairs < 2 {
            return None;
        }
        let count = pairs as f64;
        let difference = differences.iter().sum::<f64>() / count;
        let variance = differences.iter().map(|one| (one - difference).powi(2)).sum::<f64>() / (count - 1.0);
        let quantile = |at: f64| {
            StudentsT::new(0.0, 1.0, count - 1.0).map_or(f64::INFINITY, |student| student.inverse_cdf(at))
        };
        let error = (variance.max(by.smallest_variance()) / count).sqrt();
        Some(Self { by, difference, half: quantile(0.95) * error, decides: quantile(DECIDES) * error, pairs })
    }

    fn better(&self) -> Option<u8> {
        match () {
            () if self.difference > self.decides && self.difference >= self.by.worth() => Some(1),
            () if self.difference < -self.decides && self.difference <= -self.by.worth() => Some(0),
            () => None,
        }
    }

    fn words(&self, better: Option<u8>, enough: bool, others: &[Self]) -> String {
        let Self { by, difference, half, pairs, .. } = self;
        let size = match by {
            PortEvidence::Layers => format!("{:.1} ± {half:.1} layers", difference.abs()),
            PortEvidence::Download => {
                let percent = |log: f64| 100.0 * log.exp_m1();
                let size = difference.abs();
                format!(
                    "{:.0}\u{202f}% of download (90 %: {:.0} to {:.0}\u{202f}%)",
                    percent(size),
                    percent(size - half),
                    percent(size + half)
                )
            }
            PortEvidence::BranchGap => {
                format!("{:.1} ± {half:.1}\u{202f}dB between the branches", difference.abs())
            }
            PortEvidence::Sinr => format!("{:.1} ± {half:.1}\u{202f}dB of SINR", difference.abs()),
            PortEvidence::Rsrp => format!("{:.1} ± {half:.1}\u{202f}dB of RSRP", difference.abs()),
        };
        let Some(map) = better else {
            return if enough {
                format!("No difference that matters: {size}, from {pairs} pairs. Leave it as it is.")
            } else {
                format!("Still open: {size} after {pairs} pairs.")
            };
        };
        let mut words =
            format!("Map {} is better by {size}, from {pairs} pairs.", if map == 0 { "A" } else { "B" });
        if matches!(by, PortEvidence::Sinr | PortEvidence::Rsrp) {
            words += " This gateway shows neither layers nor a level for each branch: begin a test with a speed test at each turn before you decide.";
        }
        for other in others.iter().filter(|other| other.better().is_some_and(|other| other != map)) {
            let against = other.difference.abs();
            words += &match other.by {
                PortEvidence::Download => format!(
                    " Its download is {:.0}\u{202f}% lower; layers count for more, for the line's load changes.",
                    -100.0 * (-against).exp_m1()
                ),
                _ if *by == PortEvidence::Download => {
                    format!(" Its SINR is {against:.1}\u{202f}dB lower; what arrives counts for more.")
                }
                _ => format!(" Its SINR is {against:.1}\u{202f}dB lower; layers count for more."),
            };
        }
        words
    }
}

/// Judges a trial from the stops of the cell that answered most, with the download of each stop where one was measured:
/// neighbouring stops of the two maps make a pair, and the pairs' differences a Student interval. Layers decide where they are
/// shown, then the downloads, then the levels of the branches; signal decides only where there is none of these. `None` before two
/// pairs.
pub fn port_verdict(cell: &CellSweep, stops: &[Stop], downloads_mbps: &[Option<f64>]) -> Option<PortVerdict> {
    let shown = |by: PortEvidence| Paired::of(by, cell, stops, downloads_mbps);
    let paired = PortEvidence::ALL.into_iter().find_map(shown)?;
    let (better, pairs) = (paired.better(), paired.pairs);
    let (low, high) = (paired.difference - paired.half, paired.difference + paired.half);
    let same = low > -paired.by.worth() && high < paired.by.worth();
    let enough = 2 * pairs >= MOST || (2 * pairs >= FEWEST && (better.is_some() || same));
    let others = [PortEvidence::Download, PortEvidence::Sinr];
    let others: Vec<Paired> = others.into_iter().filter(|by| *by != paired.by).filter_map(shown).collect();
    let words = paired.words(better, enough, &others);
    Some(PortVerdict {
        by: paired.by,
        difference: paired.difference,
        low,
        high,
        pairs,
        better,
        enough,
        words,
    })
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
