//! What was measured on every setup, what is missing, and what to measure next.

use super::advice::MAY_MATCH;
use super::best::BestSetup;
use super::evidence::SetupEvidence;
use super::{figure_row, test_doubts};
use crate::model::{Completion, SetupId, SpeedFigure};
use crate::stats::{FEWEST_SITTINGS, FEWEST_TESTS};
use chrono::{DateTime, Duration, Timelike, Utc};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::ops::RangeInclusive;

/// Hours of the day, site time, in which a mobile network is the busiest (common practice, no source).
pub const EVENING_HOURS: RangeInclusive<u8> = 18..=22;
/// After a test the next one is another hour's only when so much has passed: else it would be of the same sitting.
const ANOTHER_HOUR: Duration = Duration::minutes(crate::model::SITTING_LENGTH_MIN);

/// What a setup lacks before it can be judged.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Missing {
    /// Readings of the gateway.
    Reading,
    /// Speed tests.
    Tests { tests: usize },
    /// Sittings: tests at other hours.
    Sittings { sittings: usize },
    /// Tests in the evening.
    Evening,
}

/// One setup's line.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WorkRow {
    /// The setup.
    pub setup_id: SetupId,
    /// Its name.
    pub label: String,
    /// Whether something was recorded on it last, or nothing at all and it is the one that is worked on: no climb is needed.
    pub in_place: bool,
    /// Whether readings were recorded.
    pub read: bool,
    /// Whole speed tests.
    pub tests: usize,
    /// Those that may not have measured the line.
    pub doubted: usize,
    /// Visits to one hour that they are of.
    pub sittings: usize,
    /// Hours of the day, site time, in which one began, ascending.
    pub hours: Vec<u8>,
    /// Geometric mean over sittings, Mbit/s.
    pub down_mbps: Option<f64>,
    /// Geometric mean over sittings, Mbit/s.
    pub up_mbps: Option<f64>,
    /// When the newest test began.
    pub last_at: Option<DateTime<Utc>>,
    /// When the newest run began, with tests or without.
    pub recorded_at: Option<DateTime<Utc>>,
    /// Clearly slower than the fastest both ways: more tests would hardly change that.
    pub behind: bool,
    /// More sittings are not worth their time: the verdict would hardly change.
    pub settled: bool,
    /// What it lacks, the first thing first; nothing where it is behind.
    pub missing: Vec<Missing>,
}

/// What to measure next.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NextWork {
    /// Where.
    pub setup_id: SetupId,
    /// Its name.
    pub label: String,
    /// What.
    pub missing: Missing,
    /// Whether the antenna has to be moved.
    pub climb: bool,
    /// The hour would still be that of the tests before: it has to wait.
    pub later: bool,
}

/// All setups and what comes next.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Worklist {
    /// In the order given.
    pub rows: Vec<WorkRow>,
    /// None where nothing is missing of any setup that may still be the best.
    pub next: Option<NextWork>,
}

impl WorkRow {
    /// What was measured on a setup; `zone` tells the hours of the day. What is missing, and where the antenna stands, are
    /// not known before all are seen together.
    pub fn of(evidence: &SetupEvidence, zone: chrono_tz::Tz) -> Self {
        let whole = || evidence.tests.iter().filter(|test| test.completion == Completion::Complete);
        let hour = |at: DateTime<Utc>| at.with_timezone(&zone).hour() as u8;
        let down = figure_row(evidence, SpeedFigure::Download);
        let hours: BTreeSet<u8> = whole().map(|test| hour(test.started_at)).collect();
        Self {
            setup_id: evidence.setup_id,
            label: evidence.label.clone(),
            in_place: false,
            read: evidence.has_samples(),
            tests: whole().map(|test| test.figures.tests()).sum(),
            doubted: whole().filter(|test| !test_doubts(test).is_empty()).count(),
            sittings: down.sittings,
            hours: hours.into_iter().collect(),
            down_mbps: down.geometric_mean,
            up_mbps: figure_row(evidence, SpeedFigure::Upload).geometric_mean,
            last_at: whole().map(|test| test.started_at).max(),
            recorded_at: evidence
                .runs
                .iter()
                .map(|run| run.started_at)
                .chain(whole().map(|test| test.started_at))
                .max(),
            behind: false,
            settled: false,
            missing: Vec::new(),
        }
    }

    fn lacks(&self) -> Vec<Missing> {
        let mut missing = Vec::new();
        if !self.read {
            missing.push(Missing::Reading);
        }
        if self.tests < FEWEST_TESTS {
            missing.push(Missing::Tests { tests: FEWEST_TESTS - self.tests });
        }
        if self.sittings < FEWEST_SITTINGS {
            missing.push(Missing::Sittings { sittings: FEWEST_SITTINGS - self.sittings });
        }
        if !self.hours.iter().any(|hour| EVENING_HOURS.contains(hour)) {
            missing.push(Missing::Evening);
        }
        missing
    }

    /// Whether what is missing has to wait for another hour than now.
    fn has_to_wait(&self, missing: Missing, now: DateTime<Utc>, evening: bool) -> bool {
        let fresh = self.last_at.is_some_and(|last| now - last < ANOTHER_HOUR);
        match missing {
            Missing::Reading | Missing::Tests { .. } => false,
            Missing::Sittings { .. } => fresh,
            Missing::Evening => !evening,
        }
    }
}

/// A setup this unlikely to be the best is out of the question (common practice, no source).
const OUT_OF_QUESTION: f64 = 0.02;

/// Whether more sittings of a setup would hardly change the verdict: it asks for none at all, or not for this one, which is out of the
/// question.
fn is_settled(setup: SetupId, verdict: &BestSetup) -> bool {
    let standing = verdict.standings.iter().find(|one| one.setup_id == setup);
    let out = standing.is_some_and(|one| one.chance_of_best < OUT_OF_QUESTION);
    match &verdict.next {
        None => standing.is_some(),
        Some(next) => out && !next.setups.contains(&setup),
    }
}

/// Says of every setup what it lacks, and chooses what comes next: what can be done now before what has to wait, where the antenna
/// stands before what needs a climb, what is not measured at all before what is to be measured again, the faster first. `chosen` is
/// the setup that is worked on; `verdict` the choice as it stands: sittings that it has no use for are not asked for.
pub fn worklist(
    mut rows: Vec<WorkRow>,
    chosen: Option<SetupId>,
    verdict: Option<&BestSetup>,
    now: DateTime<Utc>,
    zone: chrono_tz::Tz,
) -> Worklist {
    let newest = rows.iter().filter(|row| row.recorded_at.is_some()).max_by_key(|row| row.recorded_at);
    let stands = newest.map(|row| row.setup_id).or(chosen);
    let best = |of: fn(&WorkRow) -> Option<f64>| rows.iter().filter_map(of).fold(0.0, f64::max);
    let (best_down, best_up) = (best(|row| row.down_mbps), best(|row| row.up_mbps));
    for row in &mut rows {
        row.in_place = stands == Some(row.setup_id);
        let slow =
            |mbps: Option<f64>, best: f64| best == 0.0 || mbps.is_some_and(|mbps| mbps < MAY_MATCH * best);
        let both_ways = slow(row.down_mbps, best_down) && slow(row.up_mbps, best_up);
        row.behind = row.tests >= FEWEST_TESTS && row.down_mbps.is_some() && both_ways;
        row.missing = if row.behind { Vec::new() } else { row.lacks() };
        row.settled = verdict.is_some_and(|verdict| is_settled(row.setup_id, verdict));
        if row.settled {
            row.missing.retain(|one| matches!(one, Missing::Reading | Missing::Tests { .. }));
        }
    }
    let evening = EVENING_HOURS.contains(&(now.with_timezone(&zone).hour() as u8));
    let kind = |missing: Missing| match missing {
        Missing::Reading | Missing::Tests { .. } => 0,
        Missing::Sittings { .. } => 1,
        Missing::Evening => 2,
    };
    let each = rows.iter().filter_map(|row| {
        let missing = *row.missing.first()?;
        let later = row.has_to_wait(missing, now, evening);
        let next = NextWork {
            setup_id: row.setup_id,
            label: row.label.clone(),
            missing,
            climb: !row.in_place,
            later,
        };
        Some(((later, !row.in_place, kind(missing)), row.down_mbps.unwrap_or(0.0), next))
    });
    let next = each.min_by(|a, b| a.0.cmp(&b.0).then(b.1.total_cmp(&a.1))).map(|(_, _, next)| next);
    Worklist { rows, next }
}
