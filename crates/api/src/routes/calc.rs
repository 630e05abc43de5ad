//! Small calculations that screens ask for while something is typed: nothing is stored.

use crate::problem::{Body, Problem, Query};
use crate::state::AppState;
use axum::Json;
use open_beacon_core::aim::pair::{PairCheck, pair_check};
use open_beacon_core::capacity::constellation::{ModulationMargin, Symbol, buys, symbols};
use open_beacon_core::capacity::modulation::Modulation;
use open_beacon_core::check::{Checker, FieldProblem};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::coordinates::read_point;
use open_beacon_core::metrics::{Entry, Quantity, read_entry};
use open_beacon_core::model::{BandName, BandSupport, ExpectedCarrier, GainPoint, GatewayPort, Technology};
use open_beacon_core::spelling::{ListKind, Spelled, SpellingError, read_list, read_metrics};
use open_beacon_exchange::paste::{Pasted, read_paste};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(entry))
        .routes(routes!(coordinates))
        .routes(routes!(pair_of_antennas))
        .routes(routes!(constellation))
        .routes(routes!(paste))
        .routes(routes!(spelled_list))
}

pub(super) fn invalid(pointer: &str, detail: impl Into<String>) -> Problem {
    Problem::invalid(vec![FieldProblem { pointer: pointer.into(), detail: detail.into() }])
}

/// A text typed into a field.
#[derive(Debug, Deserialize, ToSchema)]
pub struct EntryRequest {
    pub quantity: Quantity,
    /// Decides the reporting range; LTE if not said.
    pub technology: Option<Technology>,
    #[schema(example = "97")]
    pub text: String,
}

/// Reads what was typed or pasted into a number field.
#[utoipa::path(post, path = "/api/calc/entry", request_body = EntryRequest,
    responses((status = 200, body = Entry), (status = 422, body = Problem)))]
async fn entry(Body(asked): Body<EntryRequest>) -> Result<Json<Entry>, Problem> {
    let technology = asked.technology.unwrap_or(Technology::Lte);
    read_entry(asked.quantity, technology, &asked.text)
        .map(Json)
        .map_err(|error| invalid("/text", error.to_string()))
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

/// A SINR to be drawn.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ConstellationRequest {
    pub technology: Technology,
    /// dB
    pub sinr_db: f64,
    /// The densest that survives if not said.
    pub modulation: Option<Modulation>,
    /// Symbols, 1..=2000.
    #[schema(minimum = 1, maximum = 2000)]
    pub count: usize,
    pub seed: u64,
}

/// Received symbols and what the SINR buys.
#[derive(Debug, Serialize, ToSchema)]
pub struct ConstellationAnswer {
    pub modulation: Modulation,
    /// Points that can be sent on one axis, unit mean power.
    pub levels: Vec<f64>,
    pub symbols: Vec<Symbol>,
    /// Share of the symbols taken for another.
    pub mistaken: f64,
    pub buys: ModulationMargin,
}

/// A constellation at a SINR.
#[utoipa::path(post, path = "/api/calc/constellation", request_body = ConstellationRequest,
    responses((status = 200, body = ConstellationAnswer), (status = 422, body = Problem)))]
async fn constellation(
    Body(asked): Body<ConstellationRequest>,
) -> Result<Json<ConstellationAnswer>, Problem> {
    if !(1..=2000).contains(&asked.count) {
        return Err(invalid("/count", "Between 1 and 2000 symbols."));
    }
    if !(-30.0..=60.0).contains(&asked.sinr_db) {
        return Err(invalid("/sinr_db", "Between −30 and 60\u{202f}dB."));
    }
    let buys = buys(asked.technology, asked.sinr_db);
    let modulation = asked.modulation.or(buys.densest).unwrap_or(Modulation::Qpsk);
    let symbols = symbols(modulation, asked.sinr_db, asked.count, asked.seed);
    let mistaken = symbols.iter().filter(|symbol| symbol.mistaken).count() as f64 / asked.count as f64;
    Ok(Json(ConstellationAnswer { modulation, levels: modulation.levels(), symbols, mistaken, buys }))
}

/// A pasted status page.
#[derive(Debug, Deserialize, ToSchema)]
pub struct PasteRequest {
    #[schema(example = "RSRP: -97 dBm\nSINR: 12 dB")]
    pub text: String,
}

/// Reads a pasted status page field by field; nothing is stored.
#[utoipa::path(post, path = "/api/calc/paste", request_body = PasteRequest,
    responses((status = 200, body = Pasted), (status = 422, body = Problem)))]
async fn paste(Body(asked): Body<PasteRequest>) -> Result<Json<Pasted>, Problem> {
    read_paste(&asked.text).map(Json).map_err(|error| invalid("/text", error.to_string()))
}

/// A list in its short spelling.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ListRequest {
    pub kind: ListKind,
    #[schema(example = "B3:2 n78:4")]
    pub text: String,
}

/// The list that a text spells, its entries as the rest of the interface has them.
#[derive(Debug, Serialize, ToSchema)]
pub struct ListAnswer {
    pub list: Vec<serde_json::Value>,
}

/// Reads a list from its short spelling.
#[utoipa::path(post, path = "/api/calc/list", request_body = ListRequest,
    responses((status = 200, body = ListAnswer), (status = 422, body = Problem)))]
async fn spelled_list(Body(asked): Body<ListRequest>) -> Result<Json<ListAnswer>, Problem> {
    let text = asked.text.as_str();
    let list = match asked.kind {
        ListKind::ExpectedCarriers => entries::<ExpectedCarrier>(text),
        ListKind::Combinations => entries::<Vec<BandName>>(text),
        ListKind::BandSupport => entries::<BandSupport>(text),
        ListKind::Gain => entries::<GainPoint>(text),
        ListKind::Ports => entries::<GatewayPort>(text),
        ListKind::Metrics => read_metrics(text).map(|list| values(&list)),
    };
    list.map(|list| Json(ListAnswer { list })).map_err(|error| invalid("/text", error.to_string()))
}

fn entries<T: Spelled + Serialize>(text: &str) -> Result<Vec<serde_json::Value>, SpellingError> {
    read_list::<T>(text).map(|list| values(&list))
}

fn values<T: Serialize>(list: &[T]) -> Vec<serde_json::Value> {
    list.iter().filter_map(|one| serde_json::to_value(one).ok()).collect()
}
