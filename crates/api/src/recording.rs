//! Recordings and speed tests: they run in the server, so that a closed page neither stops nor loses them.

use crate::clocks::Clocks;
use crate::jobs::{Job, RecordingPlan};
use crate::link::LinkLease;
use crate::measurer::MeasuringLease;
use crate::problem::Problem;
use crate::sampling::{begin_trickle, next_counting};
use crate::state::{AppState, Changed};
use chrono::{DateTime, Utc};
use open_beacon_core::model::{
    Activity, Completion, RunId, Sample, SampleId, SiteSettings, Source, SpeedTest, SpeedTestId,
    without_token,
};
use open_beacon_gateway::Look;
use open_beacon_speedtest::{Outcome, Plan, measure};
use std::sync::Arc;
use uuid::Uuid;

/// Starts a job whose run is stored already.
///
/// # Errors
/// The lease is given back when it has ended.
pub fn start(
    app: &AppState,
    plan: RecordingPlan,
    settings: SiteSettings,
    measuring: MeasuringLease,
) -> Result<(), Problem> {
    let job = app.jobs.take_on(plan)?;
    tokio::spawn(run(app.clone(), plan, settings, job, measuring));
    Ok(())
}

async fn run(
    app: AppState,
    plan: RecordingPlan,
    settings: SiteSettings,
    job: Arc<Job>,
    measuring: MeasuringLease,
) {
    let mut lease = app.links.lease(plan.site_id);
    let clocks = Clocks::begin(&app.outside.clock);
    let ended = steps(&app, plan, &settings, &job, &mut lease, &measuring).await;
    let period_s = lease.state.borrow().refresh_period_s;
    let completion = if ended.is_ok() { Completion::Complete } else { Completion::Partial };
    let reason = ended.err();
    let words = reason.clone();
    let (jumped, ended_at) = (clocks.jumped(), app.now());
    let stored = app
        .db(move |store| {
            if let Some(words) = jumped {
                store.note_run(plan.run_id, &words)?;
            }
            store.end_run(plan.run_id, ended_at, completion, words.as_deref(), period_s)
        })
        .await;
    if let Err(problem) = stored {
        tracing::error!(?problem, "a run could not be ended");
    }
    app.changed_in(plan.site_id, Changed::Record(plan.setup_id));
    drop(measuring);
    job.state.send_modify(|state| {
        state.running = false;
        state.test = None;
        state.problem = reason;
    });
}

async fn steps(
    app: &AppState,
    plan: RecordingPlan,
    settings: &SiteSettings,
    job: &Job,
    lease: &mut LinkLease,
    measuring: &MeasuringLease,
) -> Result<(), String> {
    let how = settings.speed_test.as_ref().filter(|_| plan.speed_tests > 0).map(Plan::from);
    measuring.plan(
        plan.samples,
        if how.is_some() { plan.speed_tests } else { 0 },
        how.as_ref(),
        lease.state.borrow().refresh_period_s,
    );
    if plan.samples > 0 {
        record(app, plan, settings, job, lease, measuring).await?;
    }
    let Some(how) = how else { return Ok(()) };
    for _ in 0..plan.speed_tests {
        test(app, plan, &how, job, lease, measuring).await?;
        app.changed_in(plan.site_id, Changed::Record(plan.setup_id));
    }
    Ok(())
}

/// Takes independent samples with a trickle of traffic, so that idle carriers do not vanish.
async fn record(
    app: &AppState,
    plan: RecordingPlan,
    settings: &SiteSettings,
    job: &Job,
    lease: &mut LinkLease,
    measuring: &MeasuringLease,
) -> Result<(), String> {
    let quiet = job.cancel.child_token();
    let _stop_trickle = quiet.clone().drop_guard();
    let activity = begin_trickle(settings, quiet).await;
    // What the page shows first may be older than the trickle; it is looked at, not kept.
    let mut settled = false;
    let mut taken = 0;
    while taken < plan.samples {
        let look = next_counting(&job.cancel, lease)
            .await
            .map_err(|why| format!("{why} {taken} of {} samples were taken.", plan.samples))?;
        if !settled {
            settled = true;
            continue;
        }
        keep(app, plan.run_id, activity, look).await?;
        taken += 1;
        measuring.sampled();
        job.state.send_modify(|state| state.samples_taken = taken);
    }
    Ok(())
}

async fn keep(app: &AppState, run_id: RunId, activity: Activity, look: Look) -> Result<(), String> {
    let id = SampleId(Uuid::now_v7());
    let sample = Sample { id, run_id, taken_at: look.at, activity, reading: look.reading };
    app.db(move |store| store.add_sample(&sample)).await.map_err(|problem| problem.detail)
}

/// A speed test that was measured here, as it is kept in a run.
pub(crate) fn measured_test(
    run_id: RunId,
    started_at: DateTime<Utc>,
    how: &Plan,
    outcome: Outcome,
) -> SpeedTest {
    let whole = outcome.problem.is_none();
    SpeedTest {
        id: SpeedTestId(Uuid::now_v7()),
        run_id,
        sitting_id: None,
        started_at,
        source: Source::Live,
        completion: if whole { Completion::Complete } else { Completion::Partial },
        reason: outcome.problem,
        server: without_token(&how.download_url),
        surroundings: outcome.surroundings,
        figures: outcome.figures,
    }
}

/// One speed test; what the gateway says meanwhile is kept as loaded samples.
async fn test(
    app: &AppState,
    plan: RecordingPlan,
    how: &Plan,
    job: &Job,
    lease: &mut LinkLease,
    measuring: &MeasuringLease,
) -> Result<(), String> {
    let started_at = app.now();
    let told = |progress| job.state.send_modify(|state| state.test = Some(progress));
    let measured = measure(how, &job.cancel, told);
    tokio::pin!(measured);
    let outcome = loop {
        tokio::select! {
            outcome = &mut measured => break outcome,
            look = lease.looks.recv() => if let Ok(look) = look && look.novelty.counts() {
                keep(app, plan.run_id, Activity::Loaded, look).await?;
            },
        }
    };
    let problem = outcome.problem.clone();
    measuring.tested(&outcome.figures);
    let course = outcome.course.clone();
    let test = measured_test(plan.run_id, started_at, how, outcome);
    app.db(move |store| store.add_speed_test(&test, course)).await.map_err(|problem| problem.detail)?;
    job.state.send_modify(|state| {
        state.test = None;
        state.tests_done += 1;
    });
    problem.map_or(Ok(()), Err)
}
