//! Which choice is visited next, and when it is enough.

use super::judge::{BlockComparison, DECIDING, Dropped, dropped};
use super::plan::SITTING_MIN;
use crate::kit::need::Need;
use crate::model::{BandChoice, BandRound, RoundEnd, Trial, TrialOutcome};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// A winner that no other can pass by more than this is clear, times.
pub const CLOSE_ENOUGH: f64 = 1.05;
/// Blocks before a winner is called clear: one block's order is not undone by another.
const FEWEST_BLOCKS: u16 = 2;

/// The next step of a round.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "step", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Next {
    Visit { choice: BandChoice, block: u16 },
    End { end: RoundEnd },
}

/// Where a round is.
#[derive(Clone, Debug)]
pub struct Course<'a> {
    /// The round.
    pub round: &'a BandRound,
    /// Of this round and of earlier ones on the same setup and at the same hour, in order of time.
    pub trials: &'a [Trial],
    /// What the household needs.
    pub need: Need,
    /// Moved by this round's tests so far, MB.
    pub moved_mb: f64,
    /// The present time.
    pub now: DateTime<Utc>,
}

/// Megabytes moved by a round's tests.
pub fn moved_mb(trials: &[Trial]) -> f64 {
    let bytes: u64 = trials
        .iter()
        .flat_map(|one| &one.tests)
        .map(|test| test.figures.bytes_down + test.figures.bytes_up)
        .sum();
    bytes as f64 / 1e6
}

/// Blocks are turned round by turns (A B B A), so that what changes steadily over the sitting favours none. Choices are
/// given up between blocks by what was measured, at once where there is no service.
pub fn next(course: &Course) -> Next {
    let round = course.round;
    let own: Vec<&Trial> = course.trials.iter().filter(|one| one.round_id == round.id).collect();
    let done = |trial: &&&Trial| trial.outcome != TrialOutcome::Unfinished;
    let block = own.iter().map(|one| one.block).max().unwrap_or(0);
    if let Some(end) = disobeyed(&own) {
        return Next::End { end };
    }
    let visited = |choice: &BandChoice, block: u16| {
        own.iter().filter(done).any(|one| one.block == block && one.choice == *choice)
    };
    let pending = in_order(&live(course, block), block).into_iter().find(|one| !visited(one, block));
    if let Some(choice) = pending {
        return spend(course, choice, block);
    }
    let (left, block) = (live(course, block + 1), block + 1);
    if left.is_empty() {
        return Next::End { end: RoundEnd::NothingLeft };
    }
    if left.len() == 1 && round.choices.len() > 1 || is_clear(course, &left, block) {
        return Next::End { end: RoundEnd::Clear };
    }
    if block >= round.blocks {
        return Next::End { end: RoundEnd::Planned };
    }
    if (course.now - round.started_at).num_seconds() as f64 / 60.0 > SITTING_MIN {
        return Next::End { end: RoundEnd::HourOver };
    }
    match in_order(&left, block).into_iter().next() {
        Some(choice) => spend(course, choice, block),
        None => Next::End { end: RoundEnd::NothingLeft },
    }
}

fn spend(course: &Course, choice: BandChoice, block: u16) -> Next {
    if course.round.cap_mb.is_some_and(|cap| course.moved_mb >= cap) {
        return Next::End { end: RoundEnd::CapReached };
    }
    Next::Visit { choice, block }
}

fn in_order(choices: &[BandChoice], block: u16) -> Vec<BandChoice> {
    let mut order = choices.to_vec();
    if block % 2 == 1 {
        order.reverse();
    }
    order
}

/// Two locks that were ignored, and none that was obeyed: this gateway does not do as it is told.
fn disobeyed(own: &[&Trial]) -> Option<RoundEnd> {
    let locked = own.iter().filter(|one| !one.choice.is_free());
    let (mut ignored, mut obeyed) = (0, 0);
    for one in locked {
        match one.outcome {
            TrialOutcome::Ignored => ignored += 1,
            TrialOutcome::Measured => obeyed += 1,
            _ => {}
        }
    }
    (ignored >= 2 && obeyed == 0).then_some(RoundEnd::Ignored)
}

/// Choices still in during a block: what earlier blocks dropped is out; what has no service is out at once.
fn live(course: &Course, block: u16) -> Vec<BandChoice> {
    let round = course.round;
    let before: Vec<Trial> =
        course.trials.iter().filter(|one| one.round_id != round.id || one.block < block).cloned().collect();
    let by_speed = dropped(&before, round.goal, &course.need);
    let at_once = dropped(course.trials, round.goal, &course.need);
    let out = |choice: &BandChoice| {
        by_speed.iter().any(|(one, _)| one == choice)
            || at_once.iter().any(|(one, why)| one == choice && !matches!(why, Dropped::Slower { .. }))
    };
    round.choices.iter().filter(|one| !out(one)).cloned().collect()
}

/// No other choice can be better by more than [`CLOSE_ENOUGH`].
fn is_clear(course: &Course, left: &[BandChoice], blocks: u16) -> bool {
    if blocks < FEWEST_BLOCKS {
        return false;
    }
    let contest = BlockComparison::of(course.trials, course.round.goal, &course.need);
    let among = |one: &BandChoice| left.contains(one);
    let Some(best) = contest.best(among) else { return false };
    (0..contest.choices.len()).filter(|at| *at != best && among(&contest.choices[*at])).all(|at| {
        contest.against(at, best, DECIDING).is_some_and(|found| found.interval.high <= CLOSE_ENOUGH)
    })
}
