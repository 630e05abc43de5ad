//! Calculations of the way to a mast: distance, bearings, elevation, free space, diffraction over ground.

use super::calc::invalid;
use crate::problem::{Body, Problem, Query};
use crate::state::AppState;
use axum::Json;
use chrono::NaiveDate;
use open_beacon_core::aim::pair::{PairCheck, pair_check};
use open_beacon_core::check::Checker;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::coordinates::read_point;
use open_beacon_core::geo::geodesic::{Geodesic, STANDARD_K_FACTOR, elevation_angle_deg, way};
use open_beacon_core::geo::magnetic::{Declination, MagneticError, declination, magnetic_bearing_deg};
use open_beacon_core::propagation::p525::{earth_bulge_m, free_space_loss_db, fresnel_radius_m};
use open_beacon_core::propagation::p526::{
    Diffraction, Terrain, TerrainError, WavePolarisation, delta_bullington,
};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(mast_way))
        .routes(routes!(compass))
        .routes(routes!(open_path))
        .routes(routes!(diffraction))
        .routes(routes!(coordinates))
        .routes(routes!(pair_of_antennas))
}

/// Two points, with heights above sea level where they are known.
#[derive(Debug, Deserialize, ToSchema)]
pub struct WayRequest {
    pub from: GeoPoint,
    pub to: GeoPoint,
    /// m above sea level.
    #[serde(default)]
    pub from_height_m: Option<f64>,
    #[serde(default)]
    pub to_height_m: Option<f64>,
}

/// The way, and the angle it is seen at.
#[derive(Debug, Serialize, ToSchema)]
pub struct WayAnswer {
    pub way: Geodesic,
    /// Degrees above the horizon, refraction of an ordinary atmosphere counted; none without both heights.
    pub elevation_deg: Option<f64>,
}

fn checked(pointer: &str, point: GeoPoint) -> Result<GeoPoint, Problem> {
    point.check().map_err(|error| invalid(pointer, error.to_string()))
}

/// Distance, bearings and elevation angle between two points.
#[utoipa::path(post, path = "/api/calc/way", request_body = WayRequest,
    responses((status = 200, body = WayAnswer), (status = 422, body = Problem)))]
async fn mast_way(Body(asked): Body<WayRequest>) -> Result<Json<WayAnswer>, Problem> {
    let way = way(checked("/from", asked.from)?, checked("/to", asked.to)?);
    let elevation_deg = asked
        .from_height_m
        .zip(asked.to_height_m)
        .filter(|_| way.distance_m > 0.0)
        .map(|(from, to)| elevation_angle_deg(from, to, way.distance_m, STANDARD_K_FACTOR));
    Ok(Json(WayAnswer { way, elevation_deg }))
}

/// A place and a day.
#[derive(Debug, Deserialize, ToSchema)]
pub struct CompassRequest {
    pub at: GeoPoint,
    /// m above sea level.
    #[serde(default)]
    pub height_m: f64,
    pub on: NaiveDate,
    /// Degrees from true north, to be turned into what a compass shows.
    #[serde(default)]
    pub true_bearing_deg: Option<f64>,
}

/// What a compass shows there.
#[derive(Debug, Serialize, ToSchema)]
pub struct CompassAnswer {
    pub declination: Declination,
    pub magnetic_bearing_deg: Option<f64>,
}

/// Magnetic declination (World Magnetic Model 2025), and a true bearing as a compass shows it.
#[utoipa::path(post, path = "/api/calc/compass", request_body = CompassRequest,
    responses((status = 200, body = CompassAnswer), (status = 422, body = Problem)))]
async fn compass(Body(asked): Body<CompassRequest>) -> Result<Json<CompassAnswer>, Problem> {
    let declination = declination(asked.at, asked.height_m, asked.on).map_err(|error| {
        let pointer = match error {
            MagneticError::Date => "/on",
            MagneticError::Place => "/at",
        };
        invalid(pointer, error.to_string())
    })?;
    let turned = |bearing| magnetic_bearing_deg(bearing, declination.declination_deg);
    Ok(Json(CompassAnswer { magnetic_bearing_deg: asked.true_bearing_deg.map(turned), declination }))
}

/// A path in the open, and a point on it.
#[derive(Debug, Deserialize, ToSchema)]
pub struct OpenPathRequest {
    /// m, above 0.
    pub distance_m: f64,
    pub frequency_mhz: f64,
    /// m from the first end.
    pub from_m: f64,
}

/// Free space, and what the path needs at that point.
#[derive(Debug, Serialize, ToSchema)]
pub struct OpenPathAnswer {
    pub free_space_db: f64,
    pub fresnel_radius_m: f64,
    pub earth_bulge_m: f64,
}

/// Loss in free space, first Fresnel zone and earth's bulge.
#[utoipa::path(post, path = "/api/calc/open-path", request_body = OpenPathRequest,
    responses((status = 200, body = OpenPathAnswer), (status = 422, body = Problem)))]
async fn open_path(Body(asked): Body<OpenPathRequest>) -> Result<Json<OpenPathAnswer>, Problem> {
    let OpenPathRequest { distance_m, frequency_mhz, from_m } = asked;
    if distance_m <= 0.0 || frequency_mhz <= 0.0 {
        return Err(invalid("/distance_m", "A distance and a frequency above zero."));
    }
    if !(0.0..=distance_m).contains(&from_m) {
        return Err(invalid("/from_m", "A point on the path: from 0 to its distance."));
    }
    Ok(Json(OpenPathAnswer {
        free_space_db: free_space_loss_db(distance_m, frequency_mhz),
        fresnel_radius_m: fresnel_radius_m(distance_m, from_m, frequency_mhz),
        earth_bulge_m: earth_bulge_m(distance_m, from_m, STANDARD_K_FACTOR),
    }))
}

/// A profile of the ground between two antennas.
#[derive(Debug, Deserialize, ToSchema)]
pub struct DiffractionRequest {
    /// m from the first end, rising from 0, at least three.
    pub distances_m: Vec<f64>,
    /// m above sea level, one for each distance.
    pub heights_m: Vec<f64>,
    /// m above ground.
    pub first_above_m: f64,
    pub last_above_m: f64,
    pub frequency_mhz: f64,
    #[serde(default = "upright")]
    pub swing: WavePolarisation,
}

fn upright() -> WavePolarisation {
    WavePolarisation::Vertical
}

/// Diffraction loss over ground beyond free space (ITU-R P.526).
#[utoipa::path(post, path = "/api/calc/diffraction", request_body = DiffractionRequest,
    responses((status = 200, body = Diffraction), (status = 422, body = Problem)))]
async fn diffraction(Body(asked): Body<DiffractionRequest>) -> Result<Json<Diffraction>, Problem> {
    if asked.first_above_m <= 0.0 || asked.last_above_m <= 0.0 {
        return Err(invalid("/first_above_m", "Antennas stand above the ground, for instance 6\u{202f}m."));
    }
    let terrain = Terrain {
        distances_m: &asked.distances_m,
        heights_m: &asked.heights_m,
        first_above_m: asked.first_above_m,
        last_above_m: asked.last_above_m,
    };
    delta_bullington(&terrain, asked.frequency_mhz, STANDARD_K_FACTOR, asked.swing).map(Json).map_err(
        |error| {
            let pointer = match error {
                TerrainError::Profile => "/distances_m",
                TerrainError::Frequency => "/frequency_mhz",
            };
            invalid(pointer, error.to_string())
        },
    )
}

/// Coordinates as they were typed, one point a line.
#[derive(Debug, Deserialize, ToSchema)]
pub struct CoordinatesRequest {
    pub text: String,
}

/// Points that were read.
#[derive(Debug, Serialize, ToSchema)]
pub struct CoordinatesAnswer {
    pub points: Vec<GeoPoint>,
}

/// Reads points, one a line, latitude first: decimal, or degrees with minutes and seconds.
#[utoipa::path(post, path = "/api/calc/coordinates", request_body = CoordinatesRequest,
    responses((status = 200, body = CoordinatesAnswer), (status = 422, body = Problem)))]
async fn coordinates(Body(asked): Body<CoordinatesRequest>) -> Result<Json<CoordinatesAnswer>, Problem> {
    let lines = asked.text.lines().map(str::trim).filter(|line| !line.is_empty());
    let points = lines
        .map(|line| read_point(line).map_err(|error| invalid("/text", format!("“{line}”: {error}"))))
        .collect::<Result<_, _>>()?;
    Ok(Json(CoordinatesAnswer { points }))
}

/// Two single antennas beside each other.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct PairRequest {
    /// Slant of the first, degrees from upright, −180..=180.
    first_deg: f64,
    second_deg: f64,
    /// m, 0.01..=100.
    apart_m: f64,
    /// MHz, 400..=8000.
    frequency_mhz: f64,
}

/// Whether two single antennas make a good pair.
#[utoipa::path(get, path = "/api/calc/pair", params(PairRequest),
    responses((status = 200, body = PairCheck), (status = 422, body = Problem)))]
async fn pair_of_antennas(Query(asked): Query<PairRequest>) -> Result<Json<PairCheck>, Problem> {
    let checker = Checker::default()
        .range("/first_deg", Some(asked.first_deg), -180.0, 180.0, "° from upright")
        .range("/second_deg", Some(asked.second_deg), -180.0, 180.0, "° from upright")
        .range("/apart_m", Some(asked.apart_m), 0.01, 100.0, "m")
        .range("/frequency_mhz", Some(asked.frequency_mhz), 400.0, 8000.0, "MHz");
    Problem::unless_valid(checker.done())?;
    Ok(Json(pair_check(asked.first_deg, asked.second_deg, asked.apart_m, asked.frequency_mhz)))
}
