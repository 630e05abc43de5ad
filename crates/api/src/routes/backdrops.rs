//! The user's aerial pictures behind the plan.

use crate::problem::{Body, Path, Problem, Query};
use crate::served;
use crate::state::AppState;
use axum::Json;
use axum::body::Bytes;
use axum::extract::{DefaultBodyLimit, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::Response;
use chrono::Utc;
use open_beacon_core::check::Checker;
use open_beacon_core::limits::{LARGEST_PICTURE_BYTES, LONGEST_SIDE_PX, picture_type};
use open_beacon_core::model::{Backdrop, BackdropFile, BackdropId, GroundControlPoint, SiteId};
use open_beacon_core::survey::backdrop::{ImageGeoreference, check_control_points, georeference};
use open_beacon_store::StoreError;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(add_backdrop))
        .layer(DefaultBodyLimit::max(LARGEST_PICTURE_BYTES))
        .routes(routes!(change_backdrop))
        .routes(routes!(backdrop_picture))
}

/// How much of a picture is seen before anybody chose, and the least that can be chosen.
const USUAL_OPACITY: f64 = 0.8;
const LEAST_OPACITY: f64 = 0.1;

/// An aerial picture and where it lies.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BackdropView {
    pub backdrop: Backdrop,
    /// None before two known points are given.
    pub georeference: Option<ImageGeoreference>,
}

impl BackdropView {
    pub(crate) fn of(backdrop: Backdrop) -> Self {
        Self { georeference: georeference(&backdrop), backdrop }
    }
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct BackdropNamed {
    /// Made by the client (UUIDv7).
    id: BackdropId,
    file_name: String,
}

/// Keeps an aerial picture (PNG, JPEG or WebP, at most 12 MiB); two known points place it afterwards.
#[utoipa::path(post, path = "/api/sites/{id}/backdrops", params(("id" = SiteId, Path), BackdropNamed),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = BackdropView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn add_backdrop(
    State(app): State<AppState>,
    Path(site_id): Path<SiteId>,
    Query(named): Query<BackdropNamed>,
    headers: HeaderMap,
    content: Bytes,
) -> Result<(StatusCode, Json<BackdropView>), Problem> {
    // The types that a form elsewhere could send without asking first are refused.
    if headers.get(header::CONTENT_TYPE).is_none_or(|sent| sent != "application/octet-stream") {
        return Err(Problem::unreadable("Send the picture itself, as application/octet-stream."));
    }
    let backdrop = examined(site_id, named, &content)?;
    let file = BackdropFile { backdrop: backdrop.clone(), content: content.to_vec().into() };
    app.db(move |store| store.add_file(&file)).await?;
    app.changed(site_id);
    Ok((StatusCode::CREATED, Json(BackdropView::of(backdrop))))
}

/// A picture by its content: its kind and its size.
fn examined(site_id: SiteId, named: BackdropNamed, content: &[u8]) -> Result<Backdrop, Problem> {
    let media_type = picture_type(content)
        .ok_or_else(|| Problem::unreadable("This is not a PNG, JPEG or WebP picture."))?;
    let size = imagesize::blob_size(content)
        .map_err(|_| Problem::unreadable("The picture's size cannot be read: the file is damaged."))?;
    let side = |pixels: usize| u32::try_from(pixels).ok().filter(|side| (1..=LONGEST_SIDE_PX).contains(side));
    let (Some(width_px), Some(height_px)) = (side(size.width), side(size.height)) else {
        return Err(Problem::unreadable(format!(
            "The picture is {} by {} pixels. Each side may have 1 to {LONGEST_SIDE_PX}.",
            size.width, size.height
        )));
    };
    Ok(Backdrop {
        id: named.id,
        site_id,
        file_name: named.file_name.chars().filter(|c| !c.is_control()).take(120).collect(),
        media_type: media_type.into(),
        width_px,
        height_px,
        bytes: content.len() as u64,
        control_points: Vec::new(),
        opacity: USUAL_OPACITY,
        added_at: Utc::now(),
        archived_at: None,
    })
}

/// What of an aerial picture can be changed.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct BackdropBody {
    /// Two, or none.
    pub control_points: Vec<GroundControlPoint>,
    /// 0.1..=1.
    pub opacity: f64,
    /// Archived; nothing is lost.
    pub archived: bool,
}

/// Places a picture by two known points, sets how much of it is seen, or puts it away.
#[utoipa::path(put, path = "/api/sites/{id}/backdrops/{backdrop}",
    params(("id" = SiteId, Path), ("backdrop" = BackdropId, Path)), request_body = BackdropBody,
    responses((status = 200, body = BackdropView), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn change_backdrop(
    State(app): State<AppState>,
    Path((site_id, id)): Path<(SiteId, BackdropId)>,
    Body(body): Body<BackdropBody>,
) -> Result<Json<BackdropView>, Problem> {
    let all: Vec<Backdrop> = app.db(move |store| store.entities(site_id)).await?;
    let mut backdrop =
        all.into_iter().find(|one| one.id == id).ok_or(StoreError::NotFound("aerial picture"))?;
    let size = (backdrop.width_px, backdrop.height_px);
    let mut problems = check_control_points(&body.control_points, size);
    let opacity = Checker::default().range("/opacity", Some(body.opacity), LEAST_OPACITY, 1.0, "of it");
    problems.extend(opacity.done());
    Problem::unless_valid(problems)?;
    backdrop.control_points = body.control_points;
    backdrop.opacity = body.opacity;
    backdrop.archived_at = body.archived.then(Utc::now);
    let changed = backdrop.clone();
    app.db(move |store| store.change_file::<BackdropFile>(&changed)).await?;
    app.changed(site_id);
    Ok(Json(BackdropView::of(backdrop)))
}

/// The picture itself.
#[utoipa::path(get, path = "/api/backdrops/{id}", params(("id" = BackdropId, Path)),
    responses((status = 200, content_type = "image/*", body = Vec<u8>), (status = 404, body = Problem)))]
async fn backdrop_picture(
    State(app): State<AppState>,
    Path(id): Path<BackdropId>,
) -> Result<Response, Problem> {
    let content =
        app.db(move |store| Ok(store.site_file::<BackdropFile>(id)?.content.read()?.into_owned())).await?;
    Ok(served::file(content, id, true))
}
