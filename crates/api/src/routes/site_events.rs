//! What happened at a site, noted by the user on a computer or a phone.

use super::created;
use crate::problem::{Body, Path, Problem};
use crate::state::{AppState, Changed};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use chrono::{DateTime, Utc};
use open_beacon_core::check::Checker;
use open_beacon_core::model::{EventId, EventKind, SiteEvent, SiteId};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(note_event))
        .routes(routes!(archive_event))
        .routes(routes!(restore_event))
}

/// An event to note; the identifier is made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NewEvent {
    pub id: EventId,
    /// When it happened or began.
    pub happened_at: DateTime<Utc>,
    #[serde(default)]
    pub kind: EventKind,
    /// What happened.
    pub text: String,
}

/// Notes something that happened.
#[utoipa::path(post, path = "/api/sites/{id}/noted-events", params(("id" = SiteId, Path)), request_body = NewEvent,
    responses((status = 201, body = SiteEvent), (status = 200, body = SiteEvent), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn note_event(
    State(app): State<AppState>,
    Path(site_id): Path<SiteId>,
    Body(new): Body<NewEvent>,
) -> Result<(StatusCode, Json<SiteEvent>), Problem> {
    let now = app.now();
    let NewEvent { id, happened_at, kind, text } = new.clone();
    let event = SiteEvent {
        id,
        site_id,
        happened_at,
        kind,
        text: text.trim().into(),
        noted_at: now,
        archived_at: None,
    };
    Problem::unless_valid(
        Checker::default().event(&event).measured_at("/happened_at", happened_at, now).done(),
    )?;
    let kept = event.clone();
    let made = app.db(move |store| store.add_event(&kept, &(site_id, new))).await?;
    app.changed_in(site_id, Changed::Timeline);
    Ok((created(made), Json(event)))
}

async fn archived(
    app: &AppState,
    id: EventId,
    at: Option<DateTime<Utc>>,
) -> Result<Json<SiteEvent>, Problem> {
    let event = app.db(move |store| store.archive_event(id, at)).await?;
    app.changed_in(event.site_id, Changed::Timeline);
    Ok(Json(event))
}

/// Leaves an event out. Nothing is lost.
#[utoipa::path(post, path = "/api/noted-events/{id}/archive", params(("id" = EventId, Path)),
    responses((status = 200, body = SiteEvent), (status = 404, body = Problem)))]
async fn archive_event(
    State(app): State<AppState>,
    Path(id): Path<EventId>,
) -> Result<Json<SiteEvent>, Problem> {
    archived(&app, id, Some(app.now())).await
}

/// Takes an archived event back in.
#[utoipa::path(post, path = "/api/noted-events/{id}/restore", params(("id" = EventId, Path)),
    responses((status = 200, body = SiteEvent), (status = 404, body = Problem)))]
async fn restore_event(
    State(app): State<AppState>,
    Path(id): Path<EventId>,
) -> Result<Json<SiteEvent>, Problem> {
    archived(&app, id, None).await
}
