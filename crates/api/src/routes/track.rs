//! Predicted and measured.

use crate::problem::{Path, Problem};
use crate::state::AppState;
use crate::views::track::{TrackRecordView, of_all, view};
use axum::extract::State;
use axum::response::Response;
use open_beacon_core::model::SiteId;
use open_beacon_store::Aggregate;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_track_record)).routes(routes!(get_all_track_records))
}

const RESTS_ON: [Aggregate; 2] = [Aggregate::Record, Aggregate::Surroundings];

/// What was predicted of each setup of a site before anything was measured on it, worked out from the record as it was then, beside what
/// was measured.
#[utoipa::path(get, path = "/api/sites/{id}/track-record", params(("id" = SiteId, Path)),
    responses((status = 200, body = TrackRecordView), (status = 404, body = Problem)))]
async fn get_track_record(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let grounds = app.grounds.clone();
    let work_out = app.db(move |store| view(store, &grounds, id));
    app.kept_answer(format!("track record {id}"), &RESTS_ON, work_out).await
}

/// The same of all sites together.
#[utoipa::path(get, path = "/api/track-record", responses((status = 200, body = TrackRecordView)))]
async fn get_all_track_records(State(app): State<AppState>) -> Result<Response, Problem> {
    let grounds = app.grounds.clone();
    let work_out = app.db(move |store| of_all(store, &grounds));
    app.kept_answer("track records".into(), &RESTS_ON, work_out).await
}
