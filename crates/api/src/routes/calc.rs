//! Every calculation a screen uses, on its own, so that it can be scripted and checked from outside.

use crate::problem::{Body, Problem};
use crate::state::AppState;
use axum::Json;
use open_beacon_core::check::FieldProblem;
use open_beacon_core::judge::{Versus, compare_figure};
use open_beacon_core::metrics::{
    CarrierClass, ClassEdges, Entry, Metric, Quantity, RefreshLearner, ReportingRange, THRESHOLD_ORIGIN,
    class_edges, class_of_carrier, read_entry, reporting_range, rsrq_from_rssi_db,
};
use open_beacon_core::model::{Carrier, CarrierRole, SpeedFigure, Technology};
use open_beacon_core::stats::{COVERAGE, Interval, Summary, geometric_mean_interval, summarise};
use open_beacon_core::{bands, geo};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(entry))
        .routes(routes!(class))
        .routes(routes!(rsrq))
        .routes(routes!(channel))
        .routes(routes!(summary))
        .routes(routes!(ratio))
        .routes(routes!(refresh))
        .routes(routes!(turn))
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

/// A carrier's two limiting metrics.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ClassRequest {
    pub technology: Technology,
    /// dBm
    pub rsrp_dbm: Option<f64>,
    /// dB
    pub sinr_db: Option<f64>,
}

/// A carrier's class with the edges it was found by.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClassAnswer {
    pub class: Option<CarrierClass>,
    pub rsrp_edges_dbm: Option<ClassEdges>,
    pub sinr_edges_db: Option<ClassEdges>,
    pub rsrp_range_dbm: ReportingRange,
    pub sinr_range_db: ReportingRange,
    /// Where the edges come from.
    pub origin: String,
}

/// Class of a carrier: the worse of what limits it.
#[utoipa::path(post, path = "/api/calc/class", request_body = ClassRequest, responses((status = 200, body = ClassAnswer)))]
async fn class(Body(asked): Body<ClassRequest>) -> Json<ClassAnswer> {
    let mut carrier = Carrier::empty(asked.technology, CarrierRole::Unknown);
    carrier.rsrp_dbm = asked.rsrp_dbm;
    carrier.sinr_db = asked.sinr_db;
    Json(ClassAnswer {
        class: class_of_carrier(&carrier),
        rsrp_edges_dbm: class_edges(Metric::Rsrp),
        sinr_edges_db: class_edges(Metric::Sinr),
        rsrp_range_dbm: reporting_range(asked.technology, Metric::Rsrp),
        sinr_range_db: reporting_range(asked.technology, Metric::Sinr),
        origin: THRESHOLD_ORIGIN.into(),
    })
}

/// What RSRQ follows from.
#[derive(Debug, Deserialize, ToSchema)]
pub struct RsrqRequest {
    pub rsrp_dbm: f64,
    /// Over the whole carrier, dBm.
    pub rssi_dbm: f64,
    /// LTE channel bandwidth, MHz: 1.4, 3, 5, 10, 15 or 20.
    pub bandwidth_mhz: f64,
}

/// RSRQ as TS 36.214 clause 5.1.3 defines it.
#[derive(Debug, Serialize, ToSchema)]
pub struct RsrqAnswer {
    pub resource_blocks: u16,
    pub rsrq_db: f64,
}

/// RSRQ from RSRP and RSSI.
#[utoipa::path(post, path = "/api/calc/rsrq", request_body = RsrqRequest,
    responses((status = 200, body = RsrqAnswer), (status = 422, body = Problem)))]
async fn rsrq(Body(asked): Body<RsrqRequest>) -> Result<Json<RsrqAnswer>, Problem> {
    let blocks = bands::lte_resource_blocks(asked.bandwidth_mhz)
        .ok_or_else(|| invalid("/bandwidth_mhz", "1.4, 3, 5, 10, 15 or 20\u{202f}MHz."))?;
    let rsrq_db = rsrq_from_rssi_db(asked.rsrp_dbm, asked.rssi_dbm, blocks);
    Ok(Json(RsrqAnswer { resource_blocks: blocks, rsrq_db }))
}

/// A channel number.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ChannelRequest {
    pub technology: Technology,
    /// Downlink EARFCN or NR-ARFCN.
    pub channel: u32,
}

/// Where a channel lies.
#[derive(Debug, Serialize, ToSchema)]
pub struct ChannelAnswer {
    /// Downlink, MHz.
    pub frequency_mhz: f64,
    /// Bands the number may belong to: one for LTE, several for NR.
    pub bands: Vec<u16>,
}

/// Frequency of a channel number.
#[utoipa::path(post, path = "/api/calc/channel", request_body = ChannelRequest,
    responses((status = 200, body = ChannelAnswer), (status = 422, body = Problem)))]
async fn channel(Body(asked): Body<ChannelRequest>) -> Result<Json<ChannelAnswer>, Problem> {
    let frequency = match asked.technology {
        Technology::Lte => bands::lte_downlink_mhz(asked.channel),
        Technology::Nr => bands::nr_frequency_mhz(asked.channel),
    };
    let frequency_mhz = frequency.ok_or_else(|| {
        invalid("/channel", "A downlink EARFCN of TS 36.101, or an NR-ARFCN up to 3279165.")
    })?;
    Ok(Json(ChannelAnswer { frequency_mhz, bands: bands::bands_of_channel(asked.technology, asked.channel) }))
}

/// A list of measured values.
#[derive(Debug, Deserialize, ToSchema)]
pub struct SummaryRequest {
    /// In any unit; positive for the interval.
    pub values: Vec<f64>,
}

/// Median, spread, and the interval of the geometric mean.
#[derive(Debug, Serialize, ToSchema)]
pub struct SummaryAnswer {
    pub summary: Summary,
    /// 90 %, Student's t on the logarithms; `null` below three values.
    pub interval: Option<Interval>,
}

/// Median and spread of a list.
#[utoipa::path(post, path = "/api/calc/summary", request_body = SummaryRequest,
    responses((status = 200, body = SummaryAnswer), (status = 422, body = Problem)))]
async fn summary(Body(asked): Body<SummaryRequest>) -> Result<Json<SummaryAnswer>, Problem> {
    let summary = summarise(&asked.values).ok_or_else(|| invalid("/values", "At least one number."))?;
    Ok(Json(SummaryAnswer { summary, interval: geometric_mean_interval(&asked.values, COVERAGE) }))
}

/// Two lists of one figure.
#[derive(Debug, Deserialize, ToSchema)]
pub struct RatioRequest {
    pub figure: SpeedFigure,
    pub values: Vec<SittingValue>,
    pub baseline: Vec<SittingValue>,
}

/// A value with the visit to one hour it was taken in.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct SittingValue {
    /// Any number; the same on both sides where both were tested in that hour.
    pub sitting: u32,
    /// Mbit/s or ms.
    pub value: f64,
}

/// How one setup's figure stands against another's.
#[utoipa::path(post, path = "/api/calc/ratio", request_body = RatioRequest,
    responses((status = 200, body = Versus), (status = 422, body = Problem)))]
async fn ratio(Body(asked): Body<RatioRequest>) -> Result<Json<Versus>, Problem> {
    let side = |values: &[SittingValue]| -> Vec<(u32, f64)> {
        values.iter().map(|one| (one.sitting, one.value)).collect()
    };
    compare_figure(asked.figure, &side(&asked.values), &side(&asked.baseline))
        .map(Json)
        .ok_or_else(|| invalid("/values", "At least one number above zero on each side."))
}

/// One look at a page.
#[derive(Debug, Deserialize, ToSchema)]
pub struct LookRequest {
    /// Seconds on any steady clock, not falling.
    pub at_s: f64,
    /// Any number that stands for what the page showed.
    pub content: u64,
}

/// What the looks tell.
#[derive(Debug, Serialize, ToSchema)]
pub struct RefreshAnswer {
    /// For each look, whether it counts as an independent sample.
    pub counts: Vec<bool>,
    /// Learned refresh period, s.
    pub period_s: Option<f64>,
}

/// Learns a page's refresh period and counts independent samples.
#[utoipa::path(post, path = "/api/calc/refresh", request_body = Vec<LookRequest>, responses((status = 200, body = RefreshAnswer)))]
async fn refresh(Body(looks): Body<Vec<LookRequest>>) -> Json<RefreshAnswer> {
    let mut learner = RefreshLearner::default();
    let counts = looks.iter().map(|look| learner.look(look.at_s, look.content).counts()).collect();
    Json(RefreshAnswer { counts, period_s: learner.period_s() })
}

/// Two bearings, degrees from true north.
#[derive(Debug, Deserialize, ToSchema)]
pub struct TurnRequest {
    pub from_deg: f64,
    pub to_deg: f64,
}

/// The way from one bearing to another.
#[derive(Debug, Serialize, ToSchema)]
pub struct TurnAnswer {
    /// Degrees in (−180, 180], positive clockwise.
    pub turn_deg: f64,
}

/// Smallest turn between two bearings.
#[utoipa::path(post, path = "/api/calc/turn", request_body = TurnRequest, responses((status = 200, body = TurnAnswer)))]
async fn turn(Body(asked): Body<TurnRequest>) -> Json<TurnAnswer> {
    Json(TurnAnswer { turn_deg: geo::turn_deg(asked.from_deg, asked.to_deg) })
}
