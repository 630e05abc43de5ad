//! A visit to a choice of bands as part of the one record: its readings and tests are a run of a setup that has this choice
//! as its lock. The round keeps which visit it was; the figures stand in the run.

use crate::model::{
    Activity, BandChoice, BandRound, Completion, Conditions, Reading, Run, RunContext, RunId, Sample,
    SampleId, Setup, SetupId, SetupOrigin, Source, SpeedCourse, SpeedCourseId, SpeedTest, SpeedTestId, Trial,
    TrialOutcome, TrialTest, without_token,
};
use chrono::Duration;
use uuid::Uuid;

/// What a visit adds to the record. Identifiers follow from the visit's, so that the same visit always gives the same rows.
#[derive(Clone, Debug, PartialEq)]
pub struct VisitRecord {
    /// The setup the run is of: the round's own where its lock is this choice, else one like it with this lock.
    pub setup: Setup,
    /// The run.
    pub run: Run,
    /// Samples.
    pub samples: Vec<Sample>,
    /// Speed tests.
    pub tests: Vec<SpeedTest>,
    /// How they went, as far as that is known.
    pub courses: Vec<SpeedCourse>,
}

/// The setup that stands like `base` with the gateway locked to `choice`; `base` itself where that is its lock.
pub fn setup_with_lock(base: &Setup, choice: &BandChoice, origin: SetupOrigin) -> Setup {
    if base.spec.lock == *choice {
        return base.clone();
    }
    let key = serde_json::to_vec(choice).unwrap_or_default();
    let mut setup = base.clone();
    setup.id = SetupId(Uuid::new_v5(&base.id.0, &key));
    setup.made_from = Some(base.id);
    setup.origin = origin;
    setup.spec.lock = choice.clone();
    setup.spec.lock_note = String::new();
    setup
}

/// True where two setups differ in their lock at the most: a round at one is a round at the other.
pub fn same_but_lock(one: &Setup, other: &Setup) -> bool {
    let free = |setup: &Setup| crate::model::SetupSpec { lock: BandChoice::default(), ..setup.spec.clone() };
    one.position_id == other.position_id && free(one).stands_like(&free(other))
}

/// The record of one visit, and the visit as it is kept beside it: without the figures, with the run that has them.
pub fn visit_record(round: &BandRound, base: &Setup, trial: &Trial, server: &str) -> (VisitRecord, Trial) {
    let setup = setup_with_lock(base, &trial.choice, SetupOrigin::BandTrial { round_id: round.id });
    let run_id = RunId(Uuid::new_v5(&trial.id.0, b"run"));
    let completion = match trial.outcome {
        TrialOutcome::Measured => Completion::Complete,
        _ => Completion::Partial,
    };
    // A visit keeps when it began and when each test did; readings come in order after the beginning.
    let samples: Vec<Sample> = (0_i64..)
        .zip(&trial.samples)
        .map(|(at, reading)| Sample {
            id: SampleId(Uuid::new_v5(&run_id.0, format!("sample {at}").as_bytes())),
            run_id,
            taken_at: trial.started_at + Duration::milliseconds(at),
            activity: Activity::Trickle,
            reading: reading.clone(),
        })
        .collect();
    let tests: Vec<SpeedTest> = trial
        .tests
        .iter()
        .enumerate()
        .map(|(at, test)| SpeedTest {
            id: SpeedTestId(Uuid::new_v5(&run_id.0, format!("test {at}").as_bytes())),
            run_id,
            sitting_id: None,
            started_at: test.started_at,
            source: Source::Live,
            completion: if test.problem.is_none() { Completion::Complete } else { Completion::Partial },
            reason: test.problem.clone(),
            server: without_token(server),
            surroundings: test.surroundings.clone(),
            figures: test.figures.clone(),
        })
        .collect();
    let run = Run {
        id: run_id,
        setup_id: setup.id,
        source: Source::Live,
        started_at: trial.started_at,
        ended_at: tests.last().map(|test| test.started_at),
        completion,
        reason: trial.reason.clone(),
        planned_samples: samples.len() as u32,
        planned_speed_tests: u32::from(round.tests_a_visit),
        refresh_period_s: None,
        conditions: Conditions::default(),
        context: RunContext::BandVisit { round_id: round.id, trial_id: trial.id },
        archived_at: trial.archived_at,
    };
    let kept = Trial { run_id: Some(run_id), samples: Vec::new(), tests: Vec::new(), ..trial.clone() };
    let went = tests.iter().zip(&trial.tests).filter_map(|(test, of)| {
        let course = of.course.clone()?;
        Some(SpeedCourse { id: SpeedCourseId(test.id.0), site_id: trial.site_id, test_id: test.id, course })
    });
    let courses = went.collect();
    (VisitRecord { setup, run, samples, tests, courses }, kept)
}

/// A visit with the figures of its run.
pub fn with_record(mut trial: Trial, samples: Vec<Sample>, tests: Vec<SpeedTest>) -> Trial {
    let reading = |sample: Sample| -> Reading { sample.reading };
    trial.samples = samples.into_iter().map(reading).collect();
    trial.tests = tests
        .into_iter()
        .map(|test| TrialTest {
            started_at: test.started_at,
            figures: test.figures,
            problem: test.reason,
            surroundings: test.surroundings,
            course: None,
        })
        .collect();
    trial
}
