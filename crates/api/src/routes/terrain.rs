//! Files of terrain, and the plan's picture made of them.

use crate::pictures;
use crate::problem::{Body, Path, Problem, Query};
use crate::spool::Spool;
use crate::state::AppState;
use axum::Json;
use axum::body::Body as Sent;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use chrono::Utc;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::limits::LARGEST_TERRAIN_BYTES;
use open_beacon_core::model::{GeoSpan, SiteId, SurfaceKind, TerrainTile, TileFile, TileId};
use open_beacon_exchange::terrain::read_new_tile;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(add_tile))
        .routes(routes!(change_tile))
        .routes(routes!(ground_height))
        .routes(routes!(plan_picture))
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct TileNamed {
    /// Made by the client (UUIDv7).
    id: TileId,
    file_name: String,
    surface: SurfaceKind,
}

/// A terrain file that was taken.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct TileAdded {
    pub tile: TerrainTile,
    /// Said beside it: where a zone was taken from, that it does not hold the house.
    pub notes: Vec<String>,
}

/// Keeps a terrain file: SRTM .hgt, ESRI ASCII grid or GeoTIFF.
#[utoipa::path(post, path = "/api/sites/{id}/tiles", params(("id" = SiteId, Path), TileNamed),
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 201, body = TileAdded), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 413, body = Problem)))]
async fn add_tile(
    State(app): State<AppState>,
    Path(site_id): Path<SiteId>,
    Query(named): Query<TileNamed>,
    headers: HeaderMap,
    content: Sent,
) -> Result<(StatusCode, Json<TileAdded>), Problem> {
    // The types that a form elsewhere could send without asking first are refused.
    if headers.get(header::CONTENT_TYPE).is_none_or(|sent| sent != "application/octet-stream") {
        return Err(Problem::unreadable("Send the file itself, as application/octet-stream."));
    }
    let waits = app.imports.begun(None);
    let file = Spool::taken(content, LARGEST_TERRAIN_BYTES, app.store.folder(), &app.imports, &waits).await?;
    let added = app
        .db(move |store| {
            let house = store.site(site_id)?.place;
            let (tile, notes) = match examined(site_id, named, &file, house) {
                Ok(read) => read,
                Err(reason) => return Ok(Err(reason)),
            };
            store.add_file(&TileFile { tile: tile.clone(), content: file.content() })?;
            Ok(Ok(TileAdded { tile, notes }))
        })
        .await?
        .map_err(Problem::unreadable)?;
    app.changed(site_id);
    Ok((StatusCode::CREATED, Json(added)))
}

/// A file's extent and heights, with what is to be said beside it; else why it cannot be used.
fn examined(
    site_id: SiteId,
    named: TileNamed,
    file: &Spool,
    house: Option<GeoPoint>,
) -> Result<(TerrainTile, Vec<String>), String> {
    let read = read_new_tile(&named.file_name, file.clone(), house)?;
    let extremes = read.grid.extremes().map_err(|error| error.to_string())?;
    let span = read.grid.span();
    let (columns, rows) = read.grid.size();
    let (step_east_m, step_north_m) = read.grid.step_m();
    let mut notes = read.notes;
    if house.is_some_and(|house| !span.holds(house)) {
        notes.push(
            "The house is not on it: this is terrain of another place, or the site's position is wrong."
                .into(),
        );
    }
    let tile = TerrainTile {
        id: named.id,
        site_id,
        file_name: named.file_name,
        format: read.format.into(),
        surface: named.surface,
        span,
        columns: columns as u32,
        rows: rows as u32,
        step_east_m,
        step_north_m,
        voids: extremes.voids,
        lowest_m: extremes.lowest_m,
        highest_m: extremes.highest_m,
        bytes: file.length_bytes(),
        added_at: Utc::now(),
        archived_at: None,
    };
    Ok((tile, notes))
}

/// What of a terrain file can be changed.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct TileBody {
    pub surface: SurfaceKind,
    /// Archived; nothing is lost.
    pub archived: bool,
}

/// Says whether a file is of the ground or of tree tops, or puts it away.
#[utoipa::path(put, path = "/api/sites/{id}/tiles/{tile}", params(("id" = SiteId, Path), ("tile" = TileId, Path)),
    request_body = TileBody,
    responses((status = 200, body = TerrainTile), (status = 404, body = Problem)))]
async fn change_tile(
    State(app): State<AppState>,
    Path((site_id, id)): Path<(SiteId, TileId)>,
    Body(body): Body<TileBody>,
) -> Result<Json<TerrainTile>, Problem> {
    let tile = app
        .db(move |store| {
            let tiles: Vec<TerrainTile> = store.entities(site_id)?;
            let mut tile = tiles
                .into_iter()
                .find(|tile| tile.id == id)
                .ok_or(open_beacon_store::StoreError::NotFound("terrain file"))?;
            tile.surface = body.surface;
            tile.archived_at = body.archived.then(Utc::now);
            store.change_file::<TileFile>(&tile)?;
            Ok(tile)
        })
        .await?;
    app.changed(site_id);
    Ok(Json(tile))
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct PointAsked {
    latitude_deg: f64,
    longitude_deg: f64,
}

/// Height of the ground at a point.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct GroundHeight {
    /// m above sea level; none where no terrain is.
    pub height_m: Option<f64>,
}

/// Height of the ground at a point of the plan.
#[utoipa::path(get, path = "/api/sites/{id}/ground", params(("id" = SiteId, Path), PointAsked),
    responses((status = 200, body = GroundHeight), (status = 404, body = Problem)))]
async fn ground_height(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(asked): Query<PointAsked>,
) -> Result<Json<GroundHeight>, Problem> {
    let PointAsked { latitude_deg, longitude_deg } = asked;
    let at = open_beacon_core::geo::GeoPoint { latitude_deg, longitude_deg };
    app.record(id, move |data| Ok(Json(GroundHeight { height_m: data.ground.height_m(at) }))).await
}

#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct PlanAsked {
    south_deg: f64,
    west_deg: f64,
    north_deg: f64,
    east_deg: f64,
    /// Pixels, 16..=1600.
    width: usize,
    height: usize,
    /// `light` or `dark`.
    #[serde(default)]
    theme: String,
}

impl PlanAsked {
    fn span(&self) -> Result<GeoSpan, Problem> {
        let Self { south_deg, west_deg, north_deg, east_deg, width, height, .. } = *self;
        let fine = (-85.0..85.0).contains(&south_deg)
            && south_deg < north_deg
            && north_deg <= 85.0
            && west_deg < east_deg
            && east_deg - west_deg <= 20.0
            && (16..=1600).contains(&width)
            && (16..=1600).contains(&height);
        let span = GeoSpan { south_deg, west_deg, north_deg, east_deg };
        fine.then_some(span).ok_or_else(|| {
            Problem::unreadable(
                "A span with south below north and west below east, within ±85° and 20° wide, and 16 to 1600 pixels.",
            )
        })
    }
}

/// Hill shading with contour lines, as PNG; see-through where no terrain is.
#[utoipa::path(get, path = "/api/sites/{id}/plan.png", params(("id" = SiteId, Path), PlanAsked),
    responses((status = 200, content_type = "image/png", body = Vec<u8>), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn plan_picture(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(asked): Query<PlanAsked>,
) -> Result<Response, Problem> {
    let span = asked.span()?;
    let PlanAsked { width, height, theme, .. } = asked;
    let picture = app
        .record(id, move |data| Ok(pictures::hills(&data.ground, &span, (width, height), theme == "dark")));
    let cached = "private, max-age=60";
    Ok(([(header::CONTENT_TYPE, "image/png"), (header::CACHE_CONTROL, cached)], picture.await?)
        .into_response())
}
