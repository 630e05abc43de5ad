//! How far each stage of the job is, for the navigation.

use serde::{Deserialize, Serialize};

/// A stage of the job that exists in this version, in the order of the work.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Stage {
    /// What is there today.
    Baseline,
    /// Which parts.
    Kit,
    /// Where, and at which mast.
    Survey,
    /// Putting it up.
    Mount,
    /// Turning it.
    Aim,
    /// Which bands.
    Bands,
    /// What is measured.
    Log,
    /// What came of it.
    Verdict,
}

/// How far a stage is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum StageState {
    /// Nothing was done.
    Open,
    /// Begun, or something waits.
    Attention,
    /// Done.
    Done,
}

/// A stage with its state.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StageStatus {
    /// Which stage it is.
    pub stage: Stage,
    /// How far it is.
    pub state: StageState,
}

/// What a setup has, as far as the stages go by it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SetupTally {
    /// On the gateway's own antennas.
    pub stock_antennas: bool,
    /// Samples.
    pub samples: usize,
    /// Complete speed tests.
    pub tests: usize,
}

/// What the earlier stages have.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Planned {
    /// Number of kits.
    pub kits: usize,
    /// Masts.
    pub masts: usize,
    /// Number of tiles.
    pub tiles: usize,
    /// Sweeps that ended with the antenna set, and those still going on.
    pub sweeps_set: usize,
    /// Sweeps not ended.
    pub sweeps_open: usize,
    /// Rounds of band trials that came to a winner or ran their course.
    pub rounds_done: usize,
    /// One is going on, or a gateway is not back from its lock.
    pub lock_open: bool,
}

/// States of the stages from the setups in use.
///
/// Baseline is done when one setup on stock antennas has a reading and three tests, and wants attention while it has
/// less than that but something; Kit is done with one kit; Survey with a mast and terrain, and wants attention with only one of the two; Mount is done with two setups; Aim
/// with a sweep that ended, and wants attention while one is going on; Bands with a round of trials that ended of itself, and
/// wants attention while a lock is open; Log when two setups have three tests, and wants
/// attention while one has some but fewer; Verdict is done when there is something to compare.
pub fn stage_states(setups: &[SetupTally], planned: Planned) -> Vec<StageStatus> {
    let tests_per_setup: Vec<usize> = setups.iter().map(|setup| setup.tests).collect();
    let stock = || setups.iter().filter(|setup| setup.stock_antennas);
    let baseline = stock().any(|setup| setup.samples > 0 && setup.tests >= crate::stats::FEWEST_TESTS);
    let baseline_begun = stock().any(|setup| setup.samples > 0 || setup.tests > 0);
    let enough = tests_per_setup.iter().filter(|tests| **tests >= crate::stats::FEWEST_TESTS).count();
    let begun = tests_per_setup.iter().any(|tests| (1..crate::stats::FEWEST_TESTS).contains(tests));
    let surveyed = planned.masts > 0 && planned.tiles > 0;
    let survey_begun = planned.masts > 0 || planned.tiles > 0;
    let state = |done: bool, attention: bool| match (done, attention) {
        (_, true) => StageState::Attention,
        (true, false) => StageState::Done,
        (false, false) => StageState::Open,
    };
    vec![
        StageStatus { stage: Stage::Baseline, state: state(baseline, baseline_begun && !baseline) },
        StageStatus { stage: Stage::Kit, state: state(planned.kits > 0, false) },
        StageStatus { stage: Stage::Survey, state: state(surveyed, survey_begun && !surveyed) },
        StageStatus { stage: Stage::Mount, state: state(tests_per_setup.len() >= 2, false) },
        StageStatus { stage: Stage::Aim, state: state(planned.sweeps_set > 0, planned.sweeps_open > 0) },
        StageStatus { stage: Stage::Bands, state: state(planned.rounds_done > 0, planned.lock_open) },
        StageStatus { stage: Stage::Log, state: state(enough >= 2, begun) },
        StageStatus { stage: Stage::Verdict, state: state(enough >= 2, false) },
    ]
}
