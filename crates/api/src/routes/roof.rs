//! What is kept from the roof beside points: notes and photographs of a sweep.

use crate::problem::{Body, Path, Problem, Query};
use crate::served;
use crate::state::AppState;
use axum::Json;
use axum::body::Bytes;
use axum::extract::{DefaultBodyLimit, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::Response;
use chrono::{DateTime, Utc};
use open_beacon_core::check::Checker;
use open_beacon_core::limits::{LARGEST_PICTURE_BYTES, picture_type};
use open_beacon_core::model::{
    SiteId, Sweep, SweepId, SweepNote, SweepNoteId, SweepPhoto, SweepPhotoFile, SweepPhotoId,
};
use open_beacon_store::StoreError;
use serde::Deserialize;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(add_photo))
        .layer(DefaultBodyLimit::max(LARGEST_PICTURE_BYTES))
        .routes(routes!(photo_picture))
        .routes(routes!(add_note))
}

/// A note to keep with a sweep.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct NewNote {
    /// Made by the client (UUIDv7).
    pub id: SweepNoteId,
    pub text: String,
    /// When it was written, where that was before it could be sent.
    #[serde(default)]
    pub at: Option<DateTime<Utc>>,
}

/// Keeps a note with a sweep. A repeat of the same identifier changes nothing.
#[utoipa::path(post, path = "/api/sites/{id}/sweeps/{sweep}/notes", params(("id" = SiteId, Path), ("sweep" = SweepId, Path)),
    request_body = NewNote, responses((status = 201, body = Sweep), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn add_note(
    State(app): State<AppState>,
    Path((site, id)): Path<(SiteId, SweepId)>,
    Body(new): Body<NewNote>,
) -> Result<(StatusCode, Json<Sweep>), Problem> {
    let checker =
        Checker::default().name("/text", &new.text, "Fir in the way at 150°").text("/text", &new.text);
    Problem::unless_valid(checker.done())?;
    // One after another: of two notes at once, neither is lost.
    let sweep = app
        .edit(move |store| {
            let sweeps: Vec<Sweep> = store.entities(site)?;
            let mut sweep =
                sweeps.into_iter().find(|one| one.id == id).ok_or(StoreError::NotFound("sweep"))?;
            if sweep.notes.iter().all(|note| note.id != new.id) {
                let at = new.at.unwrap_or_else(Utc::now);
                sweep.notes.push(SweepNote { id: new.id, at, text: new.text.trim().to_owned() });
                store.put_entities(site, std::slice::from_ref(&sweep))?;
            }
            Ok(sweep)
        })
        .await?;
    app.changed(site);
    Ok((StatusCode::CREATED, Json(sweep)))
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct PhotoNamed {
    /// Made by the client (UUIDv7).
    id: SweepPhotoId,
    file_name: String,
    /// When it was taken, where that was before it could be sent.
    taken_at: Option<DateTime<Utc>>,
}

/// Keeps a photograph (PNG, JPEG or WebP, at most 12 MiB) with a sweep. A repeat of the same identifier changes nothing.
#[utoipa::path(post, path = "/api/sites/{id}/sweeps/{sweep}/photos",
    params(("id" = SiteId, Path), ("sweep" = SweepId, Path), PhotoNamed),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = SweepPhoto), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn add_photo(
    State(app): State<AppState>,
    Path((site, sweep)): Path<(SiteId, SweepId)>,
    Query(named): Query<PhotoNamed>,
    headers: HeaderMap,
    content: Bytes,
) -> Result<(StatusCode, Json<SweepPhoto>), Problem> {
    // The types that a form elsewhere could send without asking first are refused.
    if headers.get(header::CONTENT_TYPE).is_none_or(|sent| sent != "application/octet-stream") {
        return Err(Problem::unreadable("Send the picture itself, as application/octet-stream."));
    }
    let media_type = picture_type(&content)
        .ok_or_else(|| Problem::unreadable("This is not a PNG, JPEG or WebP picture."))?;
    super::sweeps::find(&app, site, sweep).await?;
    let photo = SweepPhoto {
        id: named.id,
        site_id: site,
        sweep_id: sweep,
        file_name: named.file_name.chars().filter(|c| !c.is_control()).take(120).collect(),
        media_type: media_type.into(),
        bytes: content.len() as u64,
        taken_at: named.taken_at.unwrap_or_else(Utc::now),
        archived_at: None,
    };
    let file = SweepPhotoFile { photo: photo.clone(), content: content.to_vec().into() };
    app.db(move |store| store.add_file(&file)).await?;
    app.changed(site);
    Ok((StatusCode::CREATED, Json(photo)))
}

/// The photograph itself.
#[utoipa::path(get, path = "/api/sweep-photos/{id}", params(("id" = SweepPhotoId, Path)),
    responses((status = 200, content_type = "image/*", body = Vec<u8>), (status = 404, body = Problem)))]
async fn photo_picture(
    State(app): State<AppState>,
    Path(id): Path<SweepPhotoId>,
) -> Result<Response, Problem> {
    let content =
        app.db(move |store| Ok(store.site_file::<SweepPhotoFile>(id)?.content.read()?.into_owned())).await?;
    Ok(served::file(content, id, true))
}
