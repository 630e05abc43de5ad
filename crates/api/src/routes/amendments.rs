//! Corrections of what was typed in.

use super::runs::{TypedRun, check_typed, samples_of, tests_of};
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use open_beacon_core::check::Checker;
use open_beacon_core::limits::is_visible;
use open_beacon_core::model::{AmendmentId, Run, RunId, TypedContent};
use open_beacon_store::NewAmendment;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(amend_run))
}

/// A correction; its identifier is made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct Correction {
    pub id: AmendmentId,
    /// Why.
    pub why: String,
    /// Who corrects it; empty where nobody says.
    #[serde(default)]
    pub by: String,
    /// Corrections of the run that were seen when this one was begun.
    pub seen: usize,
    /// What the run is to hold.
    pub run: TypedRun,
}

/// Corrects a run that was typed in; what stood there before is kept with it.
#[utoipa::path(put, path = "/api/runs/{id}/typed", params(("id" = RunId, Path)), request_body = Correction,
    responses((status = 200, body = Run), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn amend_run(
    State(app): State<AppState>,
    Path(id): Path<RunId>,
    Body(correction): Body<Correction>,
) -> Result<Json<Run>, Problem> {
    let checker = Checker::default().text("/why", &correction.why).short("/by", &correction.by);
    let why = "Say why, for instance “minus sign was missing”.";
    let checker = if is_visible(&correction.why) { checker } else { checker.problem("/why", why) };
    Problem::unless_valid(checker.done())?;
    check_typed(&correction.run, app.now())?;
    let new = of(id, &correction, app.now());
    let (run, site) = app
        .db(move |store| {
            store.amend_run(&new, &(id, &correction))?;
            let run = store.run(id)?;
            let site = store.site_of_setup(run.setup_id)?;
            Ok((run, site))
        })
        .await?;
    app.changed(site);
    Ok(Json(run))
}

fn of(run_id: RunId, correction: &Correction, at: chrono::DateTime<chrono::Utc>) -> NewAmendment {
    let typed = TypedRun { id: run_id, ..correction.run.clone() };
    NewAmendment {
        id: correction.id,
        run_id,
        at,
        by: correction.by.trim().into(),
        why: correction.why.trim().into(),
        seen: correction.seen,
        content: TypedContent {
            measured_at: typed.measured_at,
            conditions: typed.conditions.clone(),
            samples: samples_of(&typed),
            speed_tests: tests_of(&typed),
        },
    }
}
