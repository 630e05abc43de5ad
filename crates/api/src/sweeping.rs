//! Stops of sweeps in the making: they run in the server, so that a page that drops neither stops nor loses them.

use crate::problem::Problem;
use crate::sampling::{begin_trickle, next_counting};
use crate::state::AppState;
use chrono::Utc;
use open_beacon_core::model::{Reading, SiteId, SiteSettings, SweepId, SweepStop, SweepStopId};
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
    pub problem: Option<String>,
}

/// What is asked of a stop.
#[derive(Clone, Copy, Debug)]
pub struct StopPlan {
    pub site_id: SiteId,
    pub sweep_id: SweepId,
    pub stop_id: SweepStopId,
    pub angle_deg: f64,
    pub samples: u32,
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

    /// Breaks a running stop off; nothing of it is kept, for too few samples are no point.
    pub fn cancel(&self, site: SiteId) {
        if let Some((_, cancel)) = self.lock().get(&site) {
            cancel.cancel();
        }
    }

    fn lock(&self) -> std::sync::MutexGuard<'_, Known> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn tell(&self, site: SiteId, change: impl FnOnce(&mut StopState)) {
        if let Some((state, _)) = self.lock().get_mut(&site) {
            change(state);
        }
    }

    /// Begins a stop.
    ///
    /// # Errors
    /// 409 where another is being measured at the site.
    pub fn begin(
        &self,
        app: &AppState,
        plan: StopPlan,
        settings: SiteSettings,
    ) -> Result<StopState, Problem> {
        let StopPlan { site_id, sweep_id, stop_id, angle_deg, samples: planned } = plan;
        let mut known = self.lock();
        match known.get(&site_id) {
            Some((state, _)) if state.running && state.stop_id == stop_id => return Ok(state.clone()),
            Some((state, _)) if state.running => {
                return Err(Problem::conflict(
                    "A point is being measured. Hold still until it is done, or cancel it.",
                ));
            }
            _ => {}
        }
        let state =
            StopState { stop_id, sweep_id, angle_deg, taken: 0, planned, running: true, problem: None };
        let cancel = app.stopping.child_token();
        known.insert(site_id, (state.clone(), cancel.clone()));
        tokio::spawn(run(app.clone(), plan, settings, cancel));
        Ok(state)
    }
}

async fn run(app: AppState, plan: StopPlan, settings: SiteSettings, cancel: CancellationToken) {
    let outcome = measure(&app, plan, &settings, &cancel).await;
    app.sweeping.tell(plan.site_id, |state| {
        state.running = false;
        state.problem = outcome.err();
    });
    app.changed(plan.site_id);
}

async fn measure(
    app: &AppState,
    plan: StopPlan,
    settings: &SiteSettings,
    cancel: &CancellationToken,
) -> Result<(), String> {
    let mut lease = app.links.lease(plan.site_id);
    let quiet = cancel.child_token();
    let _stop_trickle = quiet.clone().drop_guard();
    begin_trickle(settings, quiet).await;
    // What the page shows first may be from before the antenna was turned; it is looked at, not kept.
    next_counting(cancel, &mut lease).await?;
    let mut samples: Vec<Reading> = Vec::new();
    while (samples.len() as u32) < plan.samples {
        samples.push(next_counting(cancel, &mut lease).await?.reading);
        app.sweeping.tell(plan.site_id, |state| state.taken = samples.len() as u32);
        app.changed(plan.site_id);
    }
    let stop = SweepStop {
        id: plan.stop_id,
        site_id: plan.site_id,
        sweep_id: plan.sweep_id,
        angle_deg: plan.angle_deg,
        taken_at: Utc::now(),
        samples,
        pressed_at: None,
        clock_offset_ms: None,
        archived_at: None,
    };
    app.db(move |store| store.put_survey_things(stop.site_id, std::slice::from_ref(&stop)))
        .await
        .map_err(|problem| problem.detail)
}
