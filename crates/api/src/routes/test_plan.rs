//! The test plan, its calendar, and sittings opened and closed on the page.

use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use crate::views::test_plan::{TestPlanView, view};
use axum::Json;
use axum::extract::State;
use axum::http::{HeaderName, header};
use axum::response::Response;
use open_beacon_core::check::Checker;
use open_beacon_core::model::{SiteId, Sitting, SittingId};
use open_beacon_exchange::{CalendarEntry, calendar};
use open_beacon_store::Aggregate;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

/// A plan depends on the hour: an answer is kept no longer than this, s.
const KEPT_S: i64 = 60;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(get_plan))
        .routes(routes!(get_calendar))
        .routes(routes!(open_sitting))
        .routes(routes!(close_sitting))
        .routes(routes!(name_sitting))
}

/// What to test, in which order, how often and when; and the sitting that is open.
#[utoipa::path(get, path = "/api/sites/{id}/test-plan", params(("id" = SiteId, Path)),
    responses((status = 200, body = TestPlanView), (status = 404, body = Problem)))]
async fn get_plan(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let now = app.now();
    let held = app.repeats.held(id).map(|(_, held)| held);
    let question = format!("test plan {id} {} {held:?}", now.timestamp() / KEPT_S);
    let work_out = app.db(move |store| view(store, id, held, now));
    app.kept_answer(question, &[Aggregate::Record], work_out).await
}

/// The visits of the plan as a calendar (iCalendar, RFC 5545).
#[utoipa::path(get, path = "/api/sites/{id}/test-plan.ics", params(("id" = SiteId, Path)),
    responses((status = 200, body = String, content_type = "text/calendar"), (status = 404, body = Problem)))]
async fn get_calendar(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
) -> Result<([(HeaderName, &'static str); 2], String), Problem> {
    let now = app.now();
    let (site, plan) = app.db(move |store| Ok((store.site(id)?, view(store, id, None, now)?))).await?;
    let entries = plan.visits.iter().map(|visit| CalendarEntry {
        starts_at: visit.visit.starts_at,
        minutes: visit.visit.minutes.ceil() as i64,
        title: format!("Speed tests at {}", site.name),
        detail: format!("{}. {}", visit.stops_said, visit.takes),
    });
    let name = (header::CONTENT_DISPOSITION, "attachment; filename=\"test-plan.ics\"");
    let kind = (header::CONTENT_TYPE, "text/calendar; charset=utf-8");
    Ok(([kind, name], calendar(id, &entries.collect::<Vec<_>>(), now)))
}

/// A sitting to open; the identifier is made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NewSitting {
    pub id: SittingId,
    /// What it is called; empty for its day and hour.
    #[serde(default)]
    pub name: String,
}

/// Opens a sitting: tests are of it until it is closed, for two hours at the most. Where the tests before are of the same hour,
/// theirs is opened.
#[utoipa::path(post, path = "/api/sites/{id}/sittings", params(("id" = SiteId, Path)), request_body = NewSitting,
    responses((status = 200, body = Sitting), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn open_sitting(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(new): Body<NewSitting>,
) -> Result<Json<Sitting>, Problem> {
    Problem::unless_valid(Checker::default().short("/name", &new.name).done())?;
    let now = app.now();
    let sitting = app.db(move |store| store.open_sitting(id, new.id, new.name.trim(), now)).await?;
    app.changed(id);
    Ok(Json(sitting))
}

/// Closes a sitting.
#[utoipa::path(post, path = "/api/sittings/{id}/close", params(("id" = SittingId, Path)),
    responses((status = 200, body = Sitting), (status = 404, body = Problem)))]
async fn close_sitting(
    State(app): State<AppState>,
    Path(id): Path<SittingId>,
) -> Result<Json<Sitting>, Problem> {
    let now = app.now();
    let sitting = app.db(move |store| store.close_sitting(id, now)).await?;
    app.changed(sitting.site_id);
    Ok(Json(sitting))
}

/// What a sitting is called.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct SittingName {
    pub name: String,
}

/// Gives a sitting another name.
#[utoipa::path(put, path = "/api/sittings/{id}/name", params(("id" = SittingId, Path)), request_body = SittingName,
    responses((status = 200, body = Sitting), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn name_sitting(
    State(app): State<AppState>,
    Path(id): Path<SittingId>,
    Body(SittingName { name }): Body<SittingName>,
) -> Result<Json<Sitting>, Problem> {
    Problem::unless_valid(Checker::default().short("/name", &name).done())?;
    let sitting = app.db(move |store| store.name_sitting(id, name.trim())).await?;
    app.changed(sitting.site_id);
    Ok(Json(sitting))
}
