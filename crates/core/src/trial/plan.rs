//! How many tests, minutes and megabytes a round takes.

use super::choice::ChoiceOutlook;
use super::judge::DECIDING;
use crate::model::SpeedTestSettings;
use crate::stats::{FEWEST_BLOCKS, blocks_planned};
use serde::{Deserialize, Serialize};

/// Scatter of speed tests before any was measured: standard deviation of the logarithms (common practice, no source).
pub const USUAL_SCATTER: f64 = 0.2;
/// Share of a test's variance that the tests of one visit have in common: they are of the same minute (common practice, no source).
const SHARED_VARIANCE: f64 = 0.5;
/// Part of the blocks of a fixed plan that reach the same power where a round is looked at after each block and ends when it is clear
/// (by simulation of whole rounds, in the tests).
const LOOKED_AT_EACH_BLOCK: f64 = 0.65;
/// Tests at each visit: a lock costs half a minute, a test a third of one.
pub const TESTS_A_VISIT: u16 = 2;
/// Independent samples at each visit.
pub const SAMPLES_A_VISIT: u32 = 3;
/// Longest sitting: beyond, the hour is another one, min.
pub const SITTING_MIN: f64 = 60.0;
/// Attaching anew, where it was not measured, s (common practice, no source).
const USUAL_REATTACH_S: f64 = 20.0;
/// Rates of a line of which nothing is known, Mbit/s down and up (common practice, no source).
const UNKNOWN_MBPS: (f64, f64) = (50.0, 10.0);
/// Latency, samples and pauses at each visit, s.
const ASIDE_S: f64 = 10.0;

/// What a round of trials takes.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlanCost {
    /// Number of choices.
    pub choices: usize,
    /// Tests of each choice for the difference that matters.
    pub tests_each: usize,
    /// Speed tests a visit.
    pub tests_a_visit: u16,
    /// Visits to each choice at the most.
    pub blocks: u16,
    /// At the most, where no choice is dropped, min.
    pub minutes: f64,
    /// At the most, MB.
    pub megabytes: f64,
    /// Where half the choices are dropped after two blocks, as is usual.
    pub likely_minutes: f64,
    /// Most likely data, MB.
    pub likely_megabytes: f64,
    /// Sittings at the same hour of different days.
    pub sittings: u16,
    /// Scatter of single tests that is reckoned with, share.
    pub scatter: f64,
    /// MB by which it may pass the cap; `None` within it or without one.
    pub over_cap_mb: Option<f64>,
    /// Tests of each choice that the cap allows, where it is passed.
    pub tests_within_cap: Option<usize>,
    /// Difference that those would show, share.
    pub difference_within_cap: Option<f64>,
}

/// What a plan is asked for.
#[derive(Clone, Debug)]
pub struct PlanInput<'a> {
    /// Number of choices.
    pub choices: &'a [&'a ChoiceOutlook],
    /// Difference that matters, share.
    pub difference: f64,
    /// Of single tests, as measured here; [`USUAL_SCATTER`] where it was not.
    pub scatter: Option<f64>,
    /// Of visits within a block, as earlier rounds here showed it; by the tests' own where there were none.
    pub visit_scatter: Option<f64>,
    /// How long attaching took, s.
    pub reattach_s: Option<f64>,
    /// How speed is measured.
    pub speed_test: &'a SpeedTestSettings,
    /// What was measured on the setup, Mbit/s down and up; none before any test.
    pub measured_mbps: Option<(f64, f64)>,
    /// Data that may be used, MB.
    pub cap_mb: Option<f64>,
}

/// The cost of a round.
pub fn plan(input: &PlanInput) -> PlanCost {
    let scatter = input.scatter.unwrap_or(USUAL_SCATTER).clamp(0.02, 1.5);
    let of_visits = input.visit_scatter.map_or_else(|| visit_scatter(scatter), |one| one.clamp(0.02, 1.5));
    let choices = input.choices.len();
    let per_visit = f64::from(TESTS_A_VISIT);
    let blocks = planned_blocks(choices, input.difference, of_visits);
    let both = if input.speed_test.upload_url.is_some() { 2.0 } else { 1.0 };
    let test_s = (input.speed_test.warm_up_s + input.speed_test.phase_s) * both + 2.0;
    let visit_s = input.reattach_s.unwrap_or(USUAL_REATTACH_S) + ASIDE_S + per_visit * test_s;
    // Of what could be carried, as much as the first choice carried; half before that is known (common practice, no
    // source).
    let likely = |range: Option<crate::capacity::Estimate>| range.map(|one| one.likely);
    let first = input.choices.first().and_then(|one| likely(one.prediction.down_mbps));
    let share = match (input.measured_mbps, first) {
        (Some((down, _)), Some(could)) if could > 0.0 => (down / could).clamp(0.05, 1.0),
        _ => 0.5,
    };
    let (down, up) = input.measured_mbps.unwrap_or(UNKNOWN_MBPS);
    let rates = |one: &ChoiceOutlook| {
        let of = |range, else_: f64| likely(range).map_or(else_, |mbps| mbps * share);
        (of(one.prediction.down_mbps, down), of(one.prediction.up_mbps, up))
    };
    let a_block_mb: f64 =
        input.choices.iter().map(|one| per_visit * input.speed_test.test_mb(rates(one))).sum();
    let visits = choices as f64 * f64::from(blocks);
    let likely_visits = choices as f64 * 2.0 + (choices as f64 / 2.0).ceil() * (f64::from(blocks) - 2.0);
    let minutes = visits * visit_s / 60.0;
    let megabytes = a_block_mb * f64::from(blocks);
    let part = if visits > 0.0 { likely_visits / visits } else { 1.0 };
    let over_cap_mb = input.cap_mb.map(|cap| megabytes - cap).filter(|over| *over > 0.0);
    let tests_within_cap = input
        .cap_mb
        .filter(|_| over_cap_mb.is_some())
        .map(|cap| (cap / a_block_mb.max(1e-9)).floor() as usize * usize::from(TESTS_A_VISIT));
    PlanCost {
        choices,
        tests_each: usize::from(blocks) * usize::from(TESTS_A_VISIT),
        tests_a_visit: TESTS_A_VISIT,
        blocks,
        minutes,
        megabytes,
        likely_minutes: minutes * part,
        likely_megabytes: megabytes * part,
        sittings: (minutes * part / SITTING_MIN).ceil().max(1.0) as u16,
        scatter,
        over_cap_mb,
        difference_within_cap: tests_within_cap
            .and_then(|tests| difference_shown(choices, tests / usize::from(TESTS_A_VISIT), of_visits)),
        tests_within_cap,
    }
}

/// Scatter of visits by that of single tests (standard deviations of the logarithms): what tests of one minute share is not averaged
/// away.
pub fn visit_scatter(scatter: f64) -> f64 {
    let own = (1.0 - SHARED_VARIANCE) / f64::from(TESTS_A_VISIT);
    scatter * (SHARED_VARIANCE + own).sqrt()
}

/// Blocks in which one of `choices` that is better than all others by a `difference` (share) is found and told better, four times in
/// five. `visit_scatter`: of visits within a block, standard deviation of the logarithms.
pub fn planned_blocks(choices: usize, difference: f64, visit_scatter: f64) -> u16 {
    let fixed = blocks_planned(choices, difference, visit_scatter, DECIDING);
    ((f64::from(fixed) * LOOKED_AT_EACH_BLOCK).ceil() as u16).max(FEWEST_BLOCKS)
}

/// Smallest difference, in steps of a hundredth, that so many blocks show.
fn difference_shown(choices: usize, blocks: usize, visit_scatter: f64) -> Option<f64> {
    (5..=200)
        .map(|percent| f64::from(percent) / 100.0)
        .find(|share| usize::from(planned_blocks(choices, *share, visit_scatter)) <= blocks)
}
