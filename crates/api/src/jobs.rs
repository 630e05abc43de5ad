//! The running or last recording of each site, and how far it is.

use crate::problem::Problem;
use open_beacon_core::model::{RunId, SetupId, SiteId};
use open_beacon_speedtest::Progress;
use serde::Serialize;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::sync::watch;
use tokio_util::sync::CancellationToken;
use utoipa::ToSchema;

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
pub struct RecordingPlan {
    pub site_id: SiteId,
    pub run_id: RunId,
    pub setup_id: SetupId,
    pub samples: u32,
    pub speed_tests: u32,
}

/// A job that was taken on.
#[derive(Debug)]
pub(crate) struct Job {
    pub(crate) state: watch::Sender<JobState>,
    pub(crate) cancel: CancellationToken,
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

    /// Takes a job on; its work is begun by [`recording::start`](crate::recording::start).
    ///
    /// # Errors
    /// 409 where one is running at the site.
    pub(crate) fn take_on(&self, plan: RecordingPlan) -> Result<Arc<Job>, Problem> {
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
        Ok(job)
    }
}
