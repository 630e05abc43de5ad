//! Photographs and screenshots kept with a run.

use crate::problem::{Path, Problem, Query};
use crate::served;
use crate::state::AppState;
use axum::Json;
use axum::body::Bytes;
use axum::extract::{DefaultBodyLimit, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::Response;
use chrono::Utc;
use open_beacon_core::limits::{LARGEST_PICTURE_BYTES, picture_type};
use open_beacon_core::model::{Attachment, AttachmentId, RunId};
use serde::Deserialize;
use utoipa::IntoParams;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(add_attachment))
        .layer(DefaultBodyLimit::max(LARGEST_PICTURE_BYTES))
        .routes(routes!(get_attachment))
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Named {
    /// Made by the client (UUIDv7).
    id: AttachmentId,
    file_name: String,
}

/// Keeps a picture (PNG, JPEG or WebP, at most 12 MiB) with a run.
#[utoipa::path(post, path = "/api/runs/{id}/attachments", params(("id" = RunId, Path), Named),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = Attachment), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn add_attachment(
    State(app): State<AppState>,
    Path(run_id): Path<RunId>,
    Query(named): Query<Named>,
    headers: HeaderMap,
    content: Bytes,
) -> Result<(StatusCode, Json<Attachment>), Problem> {
    let sent_as = headers.get(header::CONTENT_TYPE).and_then(|value| value.to_str().ok()).unwrap_or_default();
    // The types that a form elsewhere could send without asking first are refused.
    if !(sent_as.starts_with("image/") || sent_as == "application/octet-stream") {
        return Err(Problem::unreadable("Send the picture itself, with its own content type."));
    }
    let media_type = picture_type(&content)
        .ok_or_else(|| Problem::unreadable("This is not a PNG, JPEG or WebP picture."))?;
    let file_name: String = named.file_name.chars().filter(|c| !c.is_control()).take(120).collect();
    let (attachment, site) = app
        .db(move |store| {
            let run = store.run(run_id)?;
            let attachment = store.add_attachment(
                named.id,
                run_id,
                &file_name,
                media_type,
                content.to_vec(),
                Utc::now(),
            )?;
            Ok((attachment, store.site_of_setup(run.setup_id)?))
        })
        .await?;
    app.changed(site);
    Ok((StatusCode::CREATED, Json(attachment)))
}

/// The picture itself.
#[utoipa::path(get, path = "/api/attachments/{id}", params(("id" = AttachmentId, Path)),
    responses((status = 200, content_type = "image/*", body = Vec<u8>), (status = 404, body = Problem)))]
async fn get_attachment(
    State(app): State<AppState>,
    Path(id): Path<AttachmentId>,
) -> Result<Response, Problem> {
    let content = app.db(move |store| Ok(store.attachment(id)?.content.read()?.into_owned())).await?;
    Ok(served::file(content, id, false))
}
