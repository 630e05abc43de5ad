//! What was measured on every setup of a site, and what comes next.

use crate::problem::{Path, Problem};
use crate::state::AppState;
use crate::views::worklist::{WorklistView, view};
use axum::extract::State;
use axum::response::Response;
use open_beacon_core::model::SiteId;
use open_beacon_store::Aggregate;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// What comes next depends on the hour: an answer is kept no longer than this, s.
const KEPT_S: i64 = 300;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_worklist))
}

/// Every setup in use with what was measured on it and what it lacks, and what to measure next.
#[utoipa::path(get, path = "/api/sites/{id}/worklist", params(("id" = SiteId, Path)),
    responses((status = 200, body = WorklistView), (status = 404, body = Problem)))]
async fn get_worklist(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let now = app.now();
    let question = format!("worklist {id} {}", now.timestamp() / KEPT_S);
    let work_out = app.db(move |store| view(store, id, now));
    app.kept_answer(question, &[Aggregate::Record], work_out).await
}
