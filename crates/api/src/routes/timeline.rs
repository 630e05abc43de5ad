//! The time line of a site.

use crate::problem::{Path, Problem, Query};
use crate::state::AppState;
use crate::views::over_time::{self, OverTimeQuery, OverTimeView};
use crate::views::timeline::{TimelineQuery, TimelineView, view};
use axum::Json;
use axum::extract::State;
use axum::response::Response;
use open_beacon_core::model::SiteId;
use open_beacon_store::Aggregate;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_timeline)).routes(routes!(get_over_time))
}

/// Everything that was done and happened at a site, the newest first, archived things too.
#[utoipa::path(get, path = "/api/sites/{id}/timeline", params(("id" = SiteId, Path), TimelineQuery),
    responses((status = 200, body = TimelineView), (status = 404, body = Problem)))]
async fn get_timeline(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(query): Query<TimelineQuery>,
) -> Result<Json<TimelineView>, Problem> {
    app.db(move |store| view(store, id, &query)).await.map(Json)
}

/// One figure or signal of a site over time, thinned without losing an extreme, with what happened meanwhile.
#[utoipa::path(get, path = "/api/sites/{id}/over-time", params(("id" = SiteId, Path), OverTimeQuery),
    responses((status = 200, body = OverTimeView), (status = 404, body = Problem)))]
async fn get_over_time(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(query): Query<OverTimeQuery>,
) -> Result<Response, Problem> {
    let question = format!("over time {id} {query:?}");
    let work_out = app.db(move |store| over_time::view(store, id, &query));
    app.kept_answer(question, &[Aggregate::Record, Aggregate::Aside], work_out).await
}
