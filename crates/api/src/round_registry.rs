//! The running or last round of band trials of each site, and whether its gateway is where it should be.

use crate::problem::Problem;
use open_beacon_core::model::{BandChoice, RoundId, SiteId};
use serde::Serialize;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;
use tokio::sync::{Notify, watch};
use tokio_util::sync::CancellationToken;
use utoipa::ToSchema;

/// What a round is doing.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RoundStep {
    /// What is about to be told is being written down.
    Noting,
    /// Written down, not yet sent.
    Noted,
    /// Sent; the device has taken it.
    Told,
    /// Waiting until it is attached as told.
    Attaching,
    /// Hands have to set the lock.
    ByHand,
    Reading,
    Testing,
    /// Going back to what it was.
    Restoring,
    Done,
}

/// A round in the making.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RoundState {
    pub round_id: RoundId,
    pub running: bool,
    pub step: RoundStep,
    /// What is tried, or gone back to.
    pub choice: BandChoice,
    pub block: u16,
    pub visits_done: u32,
    pub tests_done: u32,
    pub moved_mb: f64,
    /// Why a lock that was to stay did not, a sentence.
    pub problem: Option<String>,
}

/// Whether a gateway is where it should be.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RestoreState {
    /// What it goes back to.
    pub good: BandChoice,
    /// What it may have been told instead.
    pub wanted: BandChoice,
    /// Tries so far.
    pub tries: u32,
    /// Why the last try failed, a sentence.
    pub problem: Option<String>,
    /// Only hands can put it back.
    pub by_hand: bool,
}

/// A round that was taken on.
#[derive(Debug)]
pub(crate) struct RoundHandle {
    pub(crate) state: watch::Sender<RoundState>,
    pub(crate) cancel: CancellationToken,
    /// Hands are done with what they were asked to do.
    pub(crate) done: Notify,
}

#[derive(Debug, Default)]
struct Known {
    handles: HashMap<SiteId, Arc<RoundHandle>>,
    restores: HashMap<SiteId, RestoreState>,
    /// A gateway is told one thing at a time, whoever asks.
    telling: HashMap<SiteId, Arc<tokio::sync::Mutex<()>>>,
    /// Ends the waiting of a try to put a gateway back.
    releases: HashMap<SiteId, CancellationToken>,
    breaks_at: Option<RoundStep>,
}

/// Rounds and restores of all sites; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct RoundRegistry(Arc<Mutex<Known>>);

impl RoundRegistry {
    fn lock(&self) -> MutexGuard<'_, Known> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The site's running or last round.
    pub fn state(&self, site: SiteId) -> Option<RoundState> {
        self.lock().handles.get(&site).map(|one| one.state.borrow().clone())
    }

    /// Tells of every step of the site's running or last round.
    pub fn steps(&self, site: SiteId) -> Option<watch::Receiver<RoundState>> {
        self.lock().handles.get(&site).map(|one| one.state.subscribe())
    }

    /// Whether trials are going on at the site.
    pub fn running(&self, site: SiteId) -> bool {
        self.state(site).is_some_and(|state| state.running)
    }

    /// What keeps the site's gateway from where it should be; nothing where it is there.
    pub fn restore_state(&self, site: SiteId) -> Option<RestoreState> {
        self.lock().restores.get(&site).cloned()
    }

    /// Breaks a running round off; the gateway goes back.
    pub fn cancel(&self, site: SiteId, round: RoundId) -> bool {
        let known = self.lock();
        let handle = known.handles.get(&site).filter(|one| {
            let state = one.state.borrow();
            state.running && state.round_id == round
        });
        handle.inspect(|one| one.cancel.cancel()).is_some()
    }

    /// Hands have done what they were asked to.
    pub fn hands_done(&self, site: SiteId) {
        if let Some(handle) = self.lock().handles.get(&site) {
            handle.done.notify_one();
        }
    }

    pub(crate) fn handle(&self, site: SiteId) -> Option<Arc<RoundHandle>> {
        self.lock().handles.get(&site).cloned()
    }

    pub(crate) fn telling(&self, site: SiteId) -> Arc<tokio::sync::Mutex<()>> {
        self.lock().telling.entry(site).or_default().clone()
    }

    pub(crate) fn set_restore(&self, site: SiteId, state: Option<RestoreState>) {
        let mut known = self.lock();
        match state {
            Some(state) => known.restores.insert(site, state),
            None => known.restores.remove(&site),
        };
    }

    /// A try to put a gateway back begins; the token ends its waiting.
    pub(crate) fn begin_restore(&self, site: SiteId, stopping: &CancellationToken) -> CancellationToken {
        let until = stopping.child_token();
        self.lock().releases.insert(site, until.clone());
        until
    }

    /// Hands have put the gateway back: nothing is waited for any more.
    pub(crate) fn put_back_by_hand(&self, site: SiteId) {
        self.set_restore(site, None);
        self.hurry_restore(site);
    }

    /// Ends what a try to put the gateway back waits for: the next begins, where it is not back by then.
    pub(crate) fn hurry_restore(&self, site: SiteId) {
        if let Some(until) = self.lock().releases.remove(&site) {
            until.cancel();
        }
    }

    /// Takes a round on.
    ///
    /// # Errors
    /// 409 where one is running, or the gateway is not back from the last one.
    pub(crate) fn take_on(
        &self,
        site: SiteId,
        round_id: RoundId,
        cancel: CancellationToken,
    ) -> Result<Arc<RoundHandle>, Problem> {
        let mut known = self.lock();
        if known.handles.get(&site).is_some_and(|one| one.state.borrow().running) {
            return Err(Problem::conflict(
                "Band trials are going on at this site already, perhaps from another browser. Wait for them or cancel them first.",
            ));
        }
        if known.restores.contains_key(&site) {
            return Err(Problem::conflict(
                "The gateway is not back from an earlier lock yet. Put it back first.",
            ));
        }
        let state = RoundState {
            round_id,
            running: true,
            step: RoundStep::Noting,
            choice: BandChoice::default(),
            block: 0,
            visits_done: 0,
            tests_done: 0,
            moved_mb: 0.0,
            problem: None,
        };
        let handle = Arc::new(RoundHandle { state: watch::channel(state).0, cancel, done: Notify::new() });
        known.handles.insert(site, handle.clone());
        Ok(handle)
    }

    /// Cancels all rounds and waits until their gateways are back, as long as a program's end may take.
    pub async fn stop_all(&self) {
        let all: Vec<Arc<RoundHandle>> = self.lock().handles.values().cloned().collect();
        for one in all {
            one.cancel.cancel();
            let mut state = one.state.subscribe();
            let back = state.wait_for(|state| !state.running);
            let _ = tokio::time::timeout(Duration::from_secs(8), back).await;
        }
    }

    /// For tests of what a power cut leaves behind: everything stops for good at this step.
    pub fn break_at(&self, step: Option<RoundStep>) {
        self.lock().breaks_at = step;
    }

    pub(crate) async fn may_break(&self, step: RoundStep) {
        if self.lock().breaks_at == Some(step) {
            std::future::pending::<()>().await;
        }
    }
}
