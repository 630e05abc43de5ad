//! Starting and stopping recordings and speed tests.

use crate::foretelling;
use crate::jobs::{JobState, RecordingPlan};
use crate::problem::{Body, Path, Problem};
use crate::recording;
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use chrono::{DateTime, Utc};
use open_beacon_core::check::Checker;
use open_beacon_core::model::{
    Completion, Conditions, Measuring, MeasuringProgress, Run, RunContext, RunId, SetupId, SiteId,
    SiteSettings, Source,
};
use open_beacon_store::Created;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(start_job))
        .routes(routes!(get_job))
        .routes(routes!(cancel_job))
        .routes(routes!(get_measuring))
}

/// What is being measured at a site and how far it is; null where nothing is.
#[utoipa::path(get, path = "/api/sites/{id}/measuring", params(("id" = SiteId, Path)),
    responses((status = 200, body = Option<MeasuringProgress>)))]
async fn get_measuring(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
) -> Json<Option<MeasuringProgress>> {
    Json(app.measurer.progress(id))
}

/// A recording, speed tests, or first the one and then the other.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NewJob {
    /// Identifier of the run to be made (UUIDv7).
    pub id: RunId,
    /// Independent samples, 0..=200.
    #[schema(maximum = 200)]
    pub samples: u32,
    /// Speed tests, 0..=20.
    #[schema(maximum = 20)]
    pub speed_tests: u32,
    #[serde(default)]
    pub conditions: Conditions,
}

impl NewJob {
    fn check(&self) -> Result<(), Problem> {
        let checker = Checker::default()
            .range("/samples", Some(f64::from(self.samples)), 0.0, 200.0, "samples")
            .range("/speed_tests", Some(f64::from(self.speed_tests)), 0.0, 20.0, "tests")
            .text("/conditions/weather", &self.conditions.weather)
            .text("/conditions/notes", &self.conditions.notes);
        Problem::unless_valid(checker.done())
    }

    /// Whether there is something to do, and all that it needs.
    fn can_run(&self, settings: &SiteSettings) -> Result<(), Problem> {
        if self.samples == 0 && self.speed_tests == 0 {
            return Err(Problem::unreadable("Ask for at least one sample or one speed test."));
        }
        if self.samples > 0 && settings.gateway.is_none() {
            return Err(Problem::conflict(
                "No gateway address is set. Enter it under Settings, or type a reading in.",
            ));
        }
        if self.speed_tests > 0 && settings.speed_test.is_none() {
            return Err(Problem::conflict(
                "No speed-test address is set. Enter it under Settings, or type a test in.",
            ));
        }
        Ok(())
    }

    fn run(&self, setup_id: SetupId, started_at: DateTime<Utc>) -> Run {
        Run {
            id: self.id,
            setup_id,
            source: Source::Live,
            started_at,
            ended_at: None,
            completion: Completion::Running,
            reason: None,
            planned_samples: self.samples,
            planned_speed_tests: self.speed_tests,
            refresh_period_s: None,
            conditions: self.conditions.clone(),
            context: RunContext::Log,
            archived_at: None,
        }
    }

    fn plan(&self, site_id: SiteId, setup_id: SetupId) -> RecordingPlan {
        let Self { id: run_id, samples, speed_tests, .. } = *self;
        RecordingPlan { site_id, run_id, setup_id, samples, speed_tests }
    }
}

/// Starts a run on a setup. It goes on in the server; a closed page does not stop it.
#[utoipa::path(post, path = "/api/setups/{id}/jobs", params(("id" = SetupId, Path)), request_body = NewJob,
    responses((status = 201, body = Run), (status = 200, body = Run, description = "a repeat"), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn start_job(
    State(app): State<AppState>,
    Path(setup_id): Path<SetupId>,
    Body(new): Body<NewJob>,
) -> Result<(StatusCode, Json<Run>), Problem> {
    let (made, run) = begin(&app, setup_id, new).await?;
    Ok((super::created(made), Json(run)))
}

/// Begins a run on a setup, asked for on a page or by the program itself.
pub(crate) async fn begin(app: &AppState, setup_id: SetupId, new: NewJob) -> Result<(Created, Run), Problem> {
    new.check()?;
    let (site_id, settings, known) = app
        .db(move |store| {
            let site_id = store.site_of_setup(setup_id)?;
            Ok((site_id, store.settings(site_id)?, store.run(new.id).is_ok()))
        })
        .await?;
    if !known {
        new.can_run(&settings)?;
    }
    // Two presses at once: only one of them gets the lease, before anything is stored.
    let what = if new.samples > 0 { Measuring::Recording } else { Measuring::SpeedTests };
    let lease = if known { None } else { Some(app.measurer.take(site_id, what)?) };
    let (run, plan) = (new.run(setup_id, app.now()), new.plan(site_id, setup_id));
    let grounds = app.grounds.clone();
    let begun = app.db(move |store| foretelling::begun(store, &grounds, &run, &(setup_id, &new)));
    let (made, run) = begun.await?;
    if let (Created::Now, Some(lease)) = (made, lease) {
        work_on(app, site_id, setup_id, &settings).await?;
        recording::start(app, plan, settings, lease)?;
        app.changed(site_id);
    }
    Ok((made, run))
}

/// A recording makes its setup the one being worked on: the antenna has to stand as the setup says.
async fn work_on(
    app: &AppState,
    site: SiteId,
    setup: SetupId,
    settings: &SiteSettings,
) -> Result<(), Problem> {
    if settings.active_setup_id == Some(setup) {
        return Ok(());
    }
    let change = move |settings: &mut SiteSettings| settings.active_setup_id = Some(setup);
    let settings = app.db(move |store| store.update_settings(site, change)).await?;
    super::stand_in::follow(app, site, &settings).await;
    Ok(())
}

/// The site's running or last job; nothing where there was none since the program started.
#[utoipa::path(get, path = "/api/sites/{id}/job", params(("id" = SiteId, Path)),
    responses((status = 200, body = Option<JobState>)))]
async fn get_job(State(app): State<AppState>, Path(id): Path<SiteId>) -> Json<Option<JobState>> {
    Json(app.jobs.state(id).map(|state| state.borrow().clone()))
}

/// Stops a run that is going on; what it took is kept and marked partial.
#[utoipa::path(post, path = "/api/runs/{id}/cancel", params(("id" = RunId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn cancel_job(State(app): State<AppState>, Path(id): Path<RunId>) -> Result<StatusCode, Problem> {
    app.jobs.cancel(id)?;
    Ok(StatusCode::NO_CONTENT)
}
