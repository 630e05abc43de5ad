//! Recordings and speed tests: they run in the server, so that a closed page neither stops nor loses them.

use crate::link::LinkLease;
use crate::problem::Problem;
use crate::sampling::{begin_trickle, next_counting};
use crate::state::AppState;
use chrono::Utc;
use open_beacon_core::model::{
    Activity, Completion, RunId, Sample, SampleId, SetupId, SiteId, SiteSettings, Source, SpeedTest,
    SpeedTestId,
};
use open_beacon_gateway::Look;
use open_beacon_speedtest::{Plan, Progress, measure};
use serde::Serialize;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::sync::watch;
use tokio_util::sync::CancellationToken;
use utoipa::ToSchema;
use uuid::Uuid;

/// Where a job is.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct JobState {
    pub run_id: RunId,
    pub setup_id: SetupId,
    pub running: bool,
    pub samples_taken: u32,
    pub samples_planned: u32,
    pub tests_done: u32,
    pub tests_planned: u32,
    /// The running test's step.
    pub test: Option<Progress>,
    /// Why it ended early.
    pub problem: Option<String>,
}

/// What is asked of a job.
#[derive(Clone, Copy, Debug)]
pub struct JobPlan {
    pub site_id: SiteId,
    pub run_id: RunId,
    pub setup_id: SetupId,
    pub samples: u32,
    pub speed_tests: u32,
}

#[derive(Debug)]
struct Job {
    state: watch::Sender<JobState>,
    cancel: CancellationToken,
}

/// The running or last job of each site.
#[derive(Clone, Debug, Default)]
pub struct Jobs {
    jobs: Arc<Mutex<HashMap<SiteId, Arc<Job>>>>,
    /// Counts up whenever a job starts, so that open event streams take the new one up.
    started: Arc<watch::Sender<u64>>,
}

impl Jobs {
    /// The state of the site's running or last job.
    pub fn state(&self, site: SiteId) -> Option<watch::Receiver<JobState>> {
        let jobs = self.jobs.lock().unwrap_or_else(PoisonError::into_inner);
        jobs.get(&site).map(|job| job.state.subscribe())
    }

    /// Tells when a job starts anywhere.
    pub fn started(&self) -> watch::Receiver<u64> {
        self.started.subscribe()
    }

    /// Whether a job is running at the site.
    pub fn running(&self, site: SiteId) -> Option<RunId> {
        self.state(site).filter(|state| state.borrow().running).map(|state| state.borrow().run_id)
    }

    /// Stops a running job; what it took is kept.
    ///
    /// # Errors
    /// 404 where no such job is running.
    pub fn cancel(&self, run: RunId) -> Result<(), Problem> {
        let jobs = self.jobs.lock().unwrap_or_else(PoisonError::into_inner);
        let job = jobs.values().find(|job| job.state.borrow().run_id == run && job.state.borrow().running);
        job.map(|job| job.cancel.cancel()).ok_or_else(|| Problem::not_found("This run is not going on."))
    }

    /// Stops all jobs and waits until they have written what they took.
    pub async fn stop_all(&self) {
        let all: Vec<Arc<Job>> =
            self.jobs.lock().unwrap_or_else(PoisonError::into_inner).values().cloned().collect();
        for job in all {
            job.cancel.cancel();
            let mut state = job.state.subscribe();
            let _ =
                tokio::time::timeout(Duration::from_secs(8), state.wait_for(|state| !state.running)).await;
        }
    }

    /// Starts a job whose run is stored already.
    ///
    /// # Errors
    /// 409 where one is running at the site.
    pub fn start(&self, app: &AppState, plan: JobPlan, settings: SiteSettings) -> Result<(), Problem> {
        let mut jobs = self.jobs.lock().unwrap_or_else(PoisonError::into_inner);
        if jobs.get(&plan.site_id).is_some_and(|job| job.state.borrow().running) {
            return Err(Problem::conflict(
                "A recording is going on at this site. Wait for it or cancel it first.",
            ));
        }
        let state = JobState {
            run_id: plan.run_id,
            setup_id: plan.setup_id,
            running: true,
            samples_taken: 0,
            samples_planned: plan.samples,
            tests_done: 0,
            tests_planned: plan.speed_tests,
            test: None,
            problem: None,
        };
        let job = Arc::new(Job { state: watch::channel(state).0, cancel: CancellationToken::new() });
        jobs.insert(plan.site_id, job.clone());
        self.started.send_modify(|count| *count += 1);
        tokio::spawn(run(app.clone(), plan, settings, job));
        Ok(())
    }
}

async fn run(app: AppState, plan: JobPlan, settings: SiteSettings, job: Arc<Job>) {
    let mut lease = app.links.lease(plan.site_id);
    let ended = steps(&app, plan, &settings, &job, &mut lease).await;
    let period_s = lease.state.borrow().refresh_period_s;
    let completion = if ended.is_ok() { Completion::Complete } else { Completion::Partial };
    let reason = ended.err();
    let words = reason.clone();
    let stored = app
        .db(move |store| store.end_run(plan.run_id, Utc::now(), completion, words.as_deref(), period_s))
        .await;
    if let Err(problem) = stored {
        tracing::error!(?problem, "a run could not be ended");
    }
    app.changed(plan.site_id);
    job.state.send_modify(|state| {
        state.running = false;
        state.test = None;
        state.problem = reason;
    });
}

async fn steps(
    app: &AppState,
    plan: JobPlan,
    settings: &SiteSettings,
    job: &Job,
    lease: &mut LinkLease,
) -> Result<(), String> {
    if plan.samples > 0 {
        record(app, plan, settings, job, lease).await?;
    }
    let Some(target) = settings.speed_test.as_ref().filter(|_| plan.speed_tests > 0) else {
        return Ok(());
    };
    let how = Plan::from(target);
    for _ in 0..plan.speed_tests {
        test(app, plan, &how, job, lease).await?;
        app.changed(plan.site_id);
    }
    Ok(())
}

/// Takes independent samples with a trickle of traffic, so that idle carriers do not vanish.
async fn record(
    app: &AppState,
    plan: JobPlan,
    settings: &SiteSettings,
    job: &Job,
    lease: &mut LinkLease,
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
        job.state.send_modify(|state| state.samples_taken = taken);
    }
    Ok(())
}

async fn keep(app: &AppState, run_id: RunId, activity: Activity, look: Look) -> Result<(), String> {
    let id = SampleId(Uuid::now_v7());
    let sample = Sample { id, run_id, taken_at: look.at, activity, reading: look.reading };
    app.db(move |store| store.add_sample(&sample)).await.map_err(|problem| problem.detail)
}

/// One speed test; what the gateway says meanwhile is kept as loaded samples.
async fn test(
    app: &AppState,
    plan: JobPlan,
    how: &Plan,
    job: &Job,
    lease: &mut LinkLease,
) -> Result<(), String> {
    let started_at = Utc::now();
    let told = |progress| job.state.send_modify(|state| state.test = Some(progress));
    let measuring = measure(how, &job.cancel, told);
    tokio::pin!(measuring);
    let outcome = loop {
        tokio::select! {
            outcome = &mut measuring => break outcome,
            look = lease.looks.recv() => if let Ok(look) = look && look.novelty.counts() {
                keep(app, plan.run_id, Activity::Loaded, look).await?;
            },
        }
    };
    let problem = outcome.problem.clone();
    let test = SpeedTest {
        id: SpeedTestId(Uuid::now_v7()),
        run_id: plan.run_id,
        started_at,
        source: Source::Live,
        completion: if problem.is_none() { Completion::Complete } else { Completion::Partial },
        reason: problem.clone(),
        server: how.download_url.clone(),
        figures: outcome.figures,
    };
    app.db(move |store| store.add_speed_test(&test)).await.map_err(|problem| problem.detail)?;
    job.state.send_modify(|state| {
        state.test = None;
        state.tests_done += 1;
    });
    problem.map_or(Ok(()), Err)
}
