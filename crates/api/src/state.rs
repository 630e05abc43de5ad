//! What every route can reach.

use crate::answers::Answers;
use crate::grounds::Grounds;
use crate::importing::Imports;
use crate::jobs::Jobs;
use crate::link::LinkHub;
use crate::measurer::Measurer;
use crate::outside::Outside;
use crate::page_recording::PageRecordings;
use crate::pairing::{Lan, Pairing};
use crate::problem::Problem;
use crate::rasters::Rasters;
use crate::repeats::Repeats;
use crate::round_registry::RoundRegistry;
use crate::site_record::{SiteRecord, SiteRecords};
use crate::sweeping::Sweeping;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use chrono::{DateTime, Utc};
use open_beacon_core::model::{SetupId, SiteId, SweepId};
use open_beacon_store::{Aggregate, Store, StoreError};
use serde::Serialize;
use std::future::Future;
use std::sync::{Arc, Mutex, OnceLock};
use tokio::sync::broadcast;
use tokio_util::sync::CancellationToken;
use utoipa::ToSchema;

/// Shared by all routes; cheap to clone.
#[derive(Clone, Debug)]
pub struct AppState {
    pub store: Arc<Store>,
    pub links: LinkHub,
    pub jobs: Jobs,
    pub grounds: Grounds,
    pub rasters: Rasters,
    pub sweeping: Sweeping,
    pub rounds: RoundRegistry,
    /// Tests that the program runs by itself.
    pub repeats: Repeats,
    pub pairing: Pairing,
    /// Set once, where the program is reached over the local network too.
    pub lan: Arc<OnceLock<Lan>>,
    /// Heavy answers, kept while nothing changes.
    pub answers: Answers,
    /// Sites as they were last read.
    pub records: SiteRecords,
    /// One measurer a site.
    pub measurer: Measurer,
    /// Sites of which something stored has changed, and what.
    pub changes: broadcast::Sender<(SiteId, Changed)>,
    /// A device was turned away: open event streams end, and those who may come back do.
    pub turned_away: broadcast::Sender<()>,
    /// Held while an edit looks at what is stored and changes it.
    pub editing: Arc<Mutex<()>>,
    /// Large files under way.
    pub(crate) imports: Imports,
    /// The recording of a gateway's page.
    pub(crate) page_recordings: PageRecordings,
    pub http: reqwest::Client,
    pub outside: Outside,
    /// Cancelled when the program ends; open event streams end with it.
    pub stopping: CancellationToken,
}

impl AppState {
    /// State over an open store. Closes runs that were going on when the program last ended.
    ///
    /// # Errors
    /// Where the database does not answer, or no HTTP client can be made.
    pub fn new(store: Store) -> Result<Self, StartError> {
        Self::within(store, Outside::default())
    }

    /// The same, with devices and time of another kind.
    ///
    /// # Errors
    /// As [`AppState::new`].
    pub fn within(store: Store, outside: Outside) -> Result<Self, StartError> {
        let interrupted = store
            .close_interrupted_runs("The program ended while this was running; what was taken is kept.")?;
        if interrupted > 0 {
            tracing::warn!(interrupted, "runs were cut short when the program last ended");
        }
        store.record_interrupted_visits()?;
        let store = Arc::new(store);
        let http = open_beacon_outbound::client(open_beacon_outbound::Redirects::SameOrigin)
            .timeout(std::time::Duration::from_secs(5))
            .build()?;
        Ok(Self {
            links: LinkHub::new(store.clone(), outside.clone()),
            jobs: Jobs::default(),
            grounds: Grounds::default(),
            rasters: Rasters::default(),
            sweeping: Sweeping::default(),
            rounds: RoundRegistry::default(),
            repeats: Repeats::default(),
            pairing: Pairing::default(),
            lan: Arc::default(),
            answers: Answers::default(),
            records: SiteRecords::default(),
            measurer: Measurer::of(store.clone()),
            changes: broadcast::channel(64).0,
            turned_away: broadcast::channel(4).0,
            editing: Arc::default(),
            imports: Imports::default(),
            page_recordings: PageRecordings::default(),
            store,
            http,
            outside,
            stopping: CancellationToken::new(),
        })
    }

    /// What time it is.
    pub(crate) fn now(&self) -> DateTime<Utc> {
        self.outside.clock.now()
    }

    /// Runs a store call where it may block.
    ///
    /// # Errors
    /// What the call answers, as a [`Problem`].
    pub async fn db<T: Send + 'static>(
        &self,
        call: impl FnOnce(&Store) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, Problem> {
        let store = self.store.clone();
        match tokio::task::spawn_blocking(move || call(&store)).await {
            Ok(answer) => answer.map_err(Problem::from),
            Err(_) => Err(StoreError::Refused("the database call was broken off".into()).into()),
        }
    }

    /// A site's record, from memory where nothing was written since it was read. Blocks.
    pub(crate) fn site_record(&self, store: &Store, id: SiteId) -> Result<Arc<SiteRecord>, StoreError> {
        let version = store.version(&[Aggregate::Record, Aggregate::Surroundings]);
        if let Some(known) = self.records.get(id, version) {
            return Ok(known);
        }
        let record = Arc::new(SiteRecord::read(store, &self.grounds, id)?);
        self.records.keep(id, version, &record);
        Ok(record)
    }

    /// Reads a site's record and calls with it, where it may block.
    pub(crate) async fn record<T: Send + 'static>(
        &self,
        id: SiteId,
        call: impl FnOnce(&SiteRecord) -> Result<T, Problem> + Send + 'static,
    ) -> Result<T, Problem> {
        let app = self.clone();
        self.db(move |store| Ok(call(&*app.site_record(store, id)?))).await?
    }

    /// Answers a question from what was kept where nothing was written to what it rests on, else works it out and keeps it.
    /// `question` names everything the answer rests on beside the store.
    ///
    /// # Errors
    /// What working it out answers; that is not kept.
    pub(crate) async fn kept_answer<T: Serialize>(
        &self,
        question: String,
        rests_on: &[Aggregate],
        work_out: impl Future<Output = Result<T, Problem>>,
    ) -> Result<Response, Problem> {
        // Read before the data: a write in between makes the answer older than it says, never younger.
        let version = self.store.version(rests_on);
        let bytes = match self.answers.get(&question, version) {
            Some(bytes) => bytes,
            None => {
                let answer = work_out.await?;
                let bytes: Arc<[u8]> = serde_json::to_vec(&answer).unwrap_or_default().into();
                self.answers.keep(question, version, bytes.clone());
                bytes
            }
        };
        Ok(([(header::CONTENT_TYPE, "application/json")], bytes.to_vec()).into_response())
    }

    /// Tells open pages what of a site changed.
    pub fn changed_in(&self, site: SiteId, what: Changed) {
        // Nobody listening is fine.
        let _ = self.changes.send((site, what));
    }

    /// Tells open pages that anything of a site may have changed.
    pub fn changed(&self, site: SiteId) {
        self.changed_in(site, Changed::Everything);
    }
}

/// What of a site changed, so that pages fetch only that.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(tag = "of", content = "id", rename_all = "snake_case")]
pub enum Changed {
    /// Name, place, positions, settings: anything.
    Everything,
    /// Setups and which of them is being worked on.
    Setups,
    /// Readings or tests of a setup.
    Record(SetupId),
    /// Points of a sweep, or what is being measured of one.
    Sweep(SweepId),
    /// A round of band trials, its visits, a lock.
    Bands,
    /// Something that happened was noted.
    Timeline,
}

/// What can keep the state from being made.
#[derive(Debug, thiserror::Error)]
pub enum StartError {
    #[error(transparent)]
    Store(#[from] StoreError),
    #[error("no HTTP client can be made: {0}")]
    Http(#[from] reqwest::Error),
}
