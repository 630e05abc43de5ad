//! Large files under way: one is looked at after the other, each can be watched and stopped.

use open_beacon_store::{ImportStep, StoreError};
use serde::Serialize;
use std::collections::HashMap;
use std::ops::ControlFlow;
use std::sync::{Arc, Mutex, PoisonError};
use tokio::sync::{OwnedSemaphorePermit, Semaphore};
use tokio_util::sync::CancellationToken;
use utoipa::ToSchema;
use uuid::Uuid;

/// What is being done with a file.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ImportStage {
    /// Another file is looked at first.
    #[default]
    Waiting,
    Reading,
    /// Against what is here.
    Comparing,
    Storing,
}

/// How far a file has come.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct ImportProgress {
    pub stage: ImportStage,
    /// Bytes read, or rows compared or stored.
    pub done: u64,
    /// How many there are.
    pub of: u64,
}

/// A file under way, as those see it who work at it and those who wait for it.
#[derive(Clone, Debug, Default)]
pub(crate) struct Watched {
    progress: Arc<Mutex<ImportProgress>>,
    /// Cancelled where it is stopped or whoever sent it has left.
    pub(crate) stop: CancellationToken,
}

impl Watched {
    /// Notes how far it has come; a break where it is to end.
    pub(crate) fn at(&self, stage: ImportStage, done: u64, of: u64) -> ControlFlow<()> {
        let mut progress = self.progress.lock().unwrap_or_else(PoisonError::into_inner);
        // Photographs are read of the file while the rest is stored: no step back.
        if stage >= progress.stage {
            *progress = ImportProgress { stage, done, of };
        }
        drop(progress);
        if self.stop.is_cancelled() { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
    }

    /// Whether it is to go on.
    ///
    /// # Errors
    /// [`StoreError::Stopped`] where it is not.
    pub(crate) fn go_on(&self) -> Result<(), StoreError> {
        if self.stop.is_cancelled() { Err(StoreError::Stopped) } else { Ok(()) }
    }

    /// Notes how far the store has come.
    pub(crate) fn steps(&self) -> impl Fn(ImportStep, usize, usize) -> ControlFlow<()> + '_ {
        |step, done, of| {
            let stage = match step {
                ImportStep::Comparing => ImportStage::Comparing,
                ImportStep::Storing => ImportStage::Storing,
            };
            self.at(stage, done as u64, of as u64)
        }
    }
}

/// Files under way, by the identifiers that whoever sent them watches them by.
#[derive(Clone, Debug)]
pub(crate) struct Imports {
    turn: Arc<Semaphore>,
    watched: Arc<Mutex<HashMap<Uuid, Watched>>>,
}

impl Default for Imports {
    fn default() -> Self {
        Self { turn: Arc::new(Semaphore::new(1)), watched: Arc::default() }
    }
}

/// Held by whoever waits for the answer: where it is dropped, reading ends, and nothing is to be watched any more.
#[derive(Debug)]
pub(crate) struct Waits {
    watched: Watched,
    of: Option<(Uuid, Imports)>,
}

impl Drop for Waits {
    fn drop(&mut self) {
        self.watched.stop.cancel();
        if let Some((id, imports)) = &self.of {
            imports.all().remove(id);
        }
    }
}

impl Waits {
    /// The file under way.
    pub(crate) fn watched(&self) -> Watched {
        self.watched.clone()
    }
}

impl Imports {
    fn all(&self) -> std::sync::MutexGuard<'_, HashMap<Uuid, Watched>> {
        self.watched.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// For a file on its way, to be watched under `id`, if any, once it is here.
    pub(crate) fn begun(&self, id: Option<Uuid>) -> Waits {
        Waits { watched: Watched::default(), of: id.map(|id| (id, self.clone())) }
    }

    /// Begins to tell of a file that is here. Before, it is not waiting for another but still being sent.
    pub(crate) fn here(&self, waits: &Waits) {
        if let Some((id, _)) = &waits.of {
            self.all().insert(*id, waits.watched());
        }
    }

    /// Waits for a file's turn: what looking at one takes of the memory is bounded, not how many are sent at once.
    pub(crate) async fn turn(&self) -> Arc<OwnedSemaphorePermit> {
        let turn = self.turn.clone().acquire_owned().await;
        Arc::new(turn.unwrap_or_else(|closed| unreachable!("turns are never closed: {closed}")))
    }

    /// How far a file has come.
    pub(crate) fn progress(&self, id: Uuid) -> Option<ImportProgress> {
        let all = self.all();
        all.get(&id).map(|one| *one.progress.lock().unwrap_or_else(PoisonError::into_inner))
    }

    /// Asks for an end; false where it is over already.
    pub(crate) fn stop(&self, id: Uuid) -> bool {
        self.all().get(&id).map(|one| one.stop.cancel()).is_some()
    }
}
