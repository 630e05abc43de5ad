//! The running or last stop of each site's sweep, and how far it is.

use crate::problem::Problem;
use open_beacon_core::model::{SiteId, SweepId, SweepStop, SweepStopId};
use serde::Serialize;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};
use tokio_util::sync::CancellationToken;
use utoipa::ToSchema;

/// A stop that is being measured, or why it was not.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct StopState {
    pub stop_id: SweepStopId,
    pub sweep_id: SweepId,
    pub angle_deg: f64,
    pub taken: u32,
    pub planned: u32,
    pub running: bool,
    /// The samples are taken; a speed test is going on.
    pub testing: bool,
    pub problem: Option<String>,
}

impl StopState {
    /// Of a stop that is stored.
    pub(crate) fn done(stop: &SweepStop) -> Self {
        let taken = stop.samples.len() as u32;
        Self {
            stop_id: stop.id,
            sweep_id: stop.sweep_id,
            angle_deg: stop.angle_deg,
            taken,
            planned: taken,
            running: false,
            testing: false,
            problem: None,
        }
    }
}

/// What is asked of a stop.
#[derive(Clone, Copy, Debug)]
pub struct StopPlan {
    pub site_id: SiteId,
    pub sweep_id: SweepId,
    pub stop_id: SweepStopId,
    pub angle_deg: f64,
    pub samples: u32,
    /// A speed test follows the samples.
    pub speed_test: bool,
}

type Known = HashMap<SiteId, (StopState, CancellationToken)>;

/// The running or last stop of each site; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct Sweeping(Arc<Mutex<Known>>);

impl Sweeping {
    /// The site's running or last stop.
    pub fn state(&self, site: SiteId) -> Option<StopState> {
        self.lock().get(&site).map(|(state, _)| state.clone())
    }

    /// Whether this stop is being measured.
    pub(crate) fn measures(&self, site: SiteId, stop: SweepStopId) -> bool {
        self.lock().get(&site).is_some_and(|(state, _)| state.running && state.stop_id == stop)
    }

    /// Breaks a running stop off; nothing of it is kept, for too few samples are no point.
    pub fn cancel(&self, site: SiteId) {
        if let Some((_, cancel)) = self.lock().get(&site) {
            cancel.cancel();
        }
    }

    fn lock(&self) -> std::sync::MutexGuard<'_, Known> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    pub(crate) fn tell(&self, site: SiteId, change: impl FnOnce(&mut StopState)) {
        if let Some((state, _)) = self.lock().get_mut(&site) {
            change(state);
        }
    }

    /// Takes a stop on; it is measured by [`stops::begin`](crate::stops::begin). `None` where it is measured already.
    ///
    /// # Errors
    /// 409 where another is being measured at the site.
    pub(crate) fn take_on(
        &self,
        plan: StopPlan,
        cancel: CancellationToken,
    ) -> Result<Option<StopState>, Problem> {
        let StopPlan { site_id, sweep_id, stop_id, angle_deg, samples: planned, .. } = plan;
        let mut known = self.lock();
        match known.get(&site_id) {
            Some((state, _)) if state.running && state.stop_id == stop_id => return Ok(None),
            Some((state, _)) if state.running => {
                return Err(Problem::conflict(
                    "A point is being measured. Hold still until it is done, or cancel it.",
                ));
            }
            _ => {}
        }
        let state = StopState {
            stop_id,
            sweep_id,
            angle_deg,
            taken: 0,
            planned,
            running: true,
            testing: false,
            problem: None,
        };
        known.insert(site_id, (state.clone(), cancel));
        Ok(Some(state))
    }
}
