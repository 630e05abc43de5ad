//! Antenna positions.

use super::created;
use crate::edits::Edited;
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use chrono::Utc;
use open_beacon_core::check::Checker;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::geodesic::way;
use open_beacon_core::model::{Mount, Position, PositionId, SiteId, Spot};
use open_beacon_exchange::points::{FoundPoint, read_points};
use open_beacon_store::Archivable;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(create_position))
        .routes(routes!(update_position))
        .routes(routes!(archive_position))
        .routes(routes!(restore_position))
        .routes(routes!(read_file))
}

/// What a position is made or changed from.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct PositionBody {
    pub name: String,
    #[serde(default)]
    pub place: Option<GeoPoint>,
    /// m, 0..=200.
    #[serde(default)]
    pub height_above_ground_m: Option<f64>,
    pub mount: Mount,
    #[serde(default)]
    pub spot: Spot,
    #[serde(default)]
    pub notes: String,
}

/// A new position; the identifier is made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NewPosition {
    pub id: PositionId,
    #[serde(flatten)]
    pub body: PositionBody,
}

impl PositionBody {
    fn check(&self) -> Result<(), Problem> {
        let checker = Checker::default()
            .name("/name", &self.name, "East gable")
            .text("/notes", &self.notes)
            .text("/spot/floor", &self.spot.floor)
            .text("/spot/room", &self.spot.room)
            .text("/spot/window", &self.spot.window)
            .range("/spot/facing_deg", self.spot.facing_deg, 0.0, 359.999, "degrees from true north")
            .place("/place", self.place)
            .range("/height_above_ground_m", self.height_above_ground_m, 0.0, 200.0, "m above ground");
        Problem::unless_valid(checker.done())
    }
}

/// Adds a position to a site.
#[utoipa::path(post, path = "/api/sites/{id}/positions", params(("id" = SiteId, Path)), request_body = NewPosition,
    responses((status = 201, body = Position), (status = 200, body = Position), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn create_position(
    State(app): State<AppState>,
    Path(site_id): Path<SiteId>,
    Body(new): Body<NewPosition>,
) -> Result<(StatusCode, Json<Position>), Problem> {
    new.body.check()?;
    let position = Position {
        id: new.id,
        site_id,
        name: new.body.name.trim().to_owned(),
        place: new.body.place,
        height_above_ground_m: new.body.height_above_ground_m,
        mount: new.body.mount,
        spot: new.body.spot.clone(),
        notes: new.body.notes.clone(),
        created_at: Utc::now(),
        archived_at: None,
    };
    let (made, position) = app
        .db(move |store| {
            let made = store.create_position(&position, &(site_id, &new))?;
            Ok((made, store.position(position.id)?))
        })
        .await?;
    app.changed(site_id);
    Ok((created(made), Json(position)))
}

/// Changes a position.
#[utoipa::path(put, path = "/api/positions/{id}", params(("id" = PositionId, Path)), request_body = Edited<PositionBody>,
    responses((status = 200, body = Position), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn update_position(
    State(app): State<AppState>,
    Path(id): Path<PositionId>,
    Body(Edited { body, seen }): Body<Edited<PositionBody>>,
) -> Result<Json<Position>, Problem> {
    body.check()?;
    let position = app
        .edit(move |store| {
            let stored = store.position(id)?;
            let mut position = stored.clone();
            position.name = body.name.trim().to_owned();
            position.place = body.place;
            position.height_above_ground_m = body.height_above_ground_m;
            position.mount = body.mount;
            position.spot = body.spot;
            position.notes = body.notes;
            seen.still(&stored, &position)?;
            store.update_position(&position)?;
            Ok(position)
        })
        .await?;
    app.changed(position.site_id);
    Ok(Json(position))
}

async fn archived(app: &AppState, id: PositionId, away: bool) -> Result<StatusCode, Problem> {
    let at = away.then(Utc::now);
    let site = app
        .db(move |store| {
            store.set_archived(Archivable::Position, &id.to_string(), at)?;
            Ok(store.position(id)?.site_id)
        })
        .await?;
    app.changed(site);
    Ok(StatusCode::NO_CONTENT)
}

/// Puts a position away with its setups. Nothing is lost.
#[utoipa::path(post, path = "/api/positions/{id}/archive", params(("id" = PositionId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn archive_position(
    State(app): State<AppState>,
    Path(id): Path<PositionId>,
) -> Result<StatusCode, Problem> {
    archived(&app, id, true).await
}

/// Brings an archived position back.
#[utoipa::path(post, path = "/api/positions/{id}/restore", params(("id" = PositionId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn restore_position(
    State(app): State<AppState>,
    Path(id): Path<PositionId>,
) -> Result<StatusCode, Problem> {
    archived(&app, id, false).await
}

/// A file of points.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct PointsFile {
    pub file_name: String,
    /// Its text: GPX, KML, GeoJSON or CSV.
    pub text: String,
}

/// A point of a file, seen from the house.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PointHere {
    pub point: FoundPoint,
    /// m; none where it is not known where the house stands.
    pub distance_m: Option<f64>,
    /// Degrees from true north.
    pub bearing_deg: Option<f64>,
}

/// Reads the points of a file that positions can be made of, the nearest to the house first; nothing is stored.
#[utoipa::path(post, path = "/api/sites/{id}/points", params(("id" = SiteId, Path)), request_body = PointsFile,
    responses((status = 200, body = Vec<PointHere>), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn read_file(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(file): Body<PointsFile>,
) -> Result<Json<Vec<PointHere>>, Problem> {
    let house = app.db(move |store| Ok(store.site(id)?.place)).await?;
    let found = read_points(&file.file_name, &file.text).map_err(Problem::unreadable)?;
    let mut points: Vec<PointHere> = found.into_iter().map(|point| seen_from(house, point)).collect();
    points.sort_by(|a, b| a.distance_m.unwrap_or(0.0).total_cmp(&b.distance_m.unwrap_or(0.0)));
    Ok(Json(points))
}

fn seen_from(house: Option<GeoPoint>, point: FoundPoint) -> PointHere {
    let way = house.map(|house| way(house, point.place));
    PointHere {
        distance_m: way.map(|way| way.distance_m),
        bearing_deg: way.map(|way| way.bearing_deg),
        point,
    }
}
