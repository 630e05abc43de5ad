//! Calculations of bands, channels and capacity, and the reader of pasted pages.

use super::calc::invalid;
use crate::problem::{Body, Problem, Query};
use crate::state::AppState;
use axum::Json;
use open_beacon_core::bands::{
    BandOverlap, BandPlace, CellIdentity, LockMask, NodeBits, all_bands, bands_of_channel, overlaps_of,
};
use open_beacon_core::capacity::Estimate;
use open_beacon_core::capacity::constellation::{ModulationMargin, Symbol, buys, symbols};
use open_beacon_core::capacity::modulation::Modulation;
use open_beacon_core::capacity::possible::{AchievableRate, possible};
use open_beacon_core::judge::{ExplainedCarrier, Said, explain};
use open_beacon_core::link::gaussian::Z_90;
use open_beacon_core::link::walls::wall_loss_db;
use open_beacon_core::metrics::{CodeInterval, CodeKind, decode};
use open_beacon_core::model::{
    Carrier, ConnectionMode, LinkAssumptions, Mount, OutdoorAssumptions, SiteSettings, Technology,
};
use open_beacon_core::words::{Style, said};
use open_beacon_exchange::paste::{Pasted, read_paste};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(band_list))
        .routes(routes!(cell_identity))
        .routes(routes!(lock_mask))
        .routes(routes!(code))
        .routes(routes!(capacity))
        .routes(routes!(explained))
        .routes(routes!(constellation))
        .routes(routes!(entry_loss))
        .routes(routes!(paste))
}

#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct OfTechnology {
    technology: Technology,
    /// Only bands that this channel number may belong to.
    channel: Option<u32>,
}

/// A band with the bands it shares spectrum with.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BandRow {
    #[serde(flatten)]
    pub place: BandPlace,
    /// Other bands of the technology: `same`, `holds` (the other lies inside), `inside`, `crosses`.
    pub overlaps: Vec<BandOverlap>,
}

/// All bands of a technology, or those a channel number may belong to.
#[utoipa::path(get, path = "/api/calc/bands", params(OfTechnology), responses((status = 200, body = Vec<BandRow>)))]
async fn band_list(Query(asked): Query<OfTechnology>) -> Json<Vec<BandRow>> {
    let fits = asked.channel.map(|channel| bands_of_channel(asked.technology, channel));
    let row = |place: BandPlace| BandRow { overlaps: overlaps_of(asked.technology, place.band), place };
    let wanted = |place: &BandPlace| fits.as_ref().is_none_or(|fits| fits.contains(&place.band));
    Json(all_bands(asked.technology).into_iter().filter(wanted).map(row).collect())
}

/// A whole cell identity.
#[derive(Debug, Deserialize, ToSchema)]
pub struct IdentityRequest {
    pub technology: Technology,
    /// LTE: 28 bit; NR: 36 bit.
    pub whole: u64,
    /// Bits of the base station's part; 20 (LTE) or 24 (NR) if not said.
    pub node_bits: Option<u8>,
}

/// Splits a cell identity into base station and local cell number.
#[utoipa::path(post, path = "/api/calc/cell-identity", request_body = IdentityRequest,
    responses((status = 200, body = CellIdentity), (status = 422, body = Problem)))]
async fn cell_identity(Body(asked): Body<IdentityRequest>) -> Result<Json<CellIdentity>, Problem> {
    let bits = asked.node_bits.map_or(NodeBits::usual(asked.technology), NodeBits);
    CellIdentity::split(asked.technology, asked.whole, bits)
        .map(Json)
        .map_err(|error| invalid("/whole", error.to_string()))
}

/// A list of bands as the masks that devices take.
#[derive(Debug, Serialize, ToSchema)]
pub struct MaskAnswer {
    /// Bands 1 to 64, decimal (as text: it may exceed what a script's numbers hold).
    pub low: String,
    /// Bands 65 to 128, decimal.
    pub high: String,
    /// Both words in hexadecimal.
    pub low_hex: String,
    pub high_hex: String,
    pub bands: Vec<u16>,
}

/// Lock mask of a list of bands: band n is bit n − 1.
#[utoipa::path(post, path = "/api/calc/lock-mask", request_body = Vec<u16>,
    responses((status = 200, body = MaskAnswer), (status = 422, body = Problem)))]
async fn lock_mask(Body(bands): Body<Vec<u16>>) -> Result<Json<MaskAnswer>, Problem> {
    let mask = LockMask::of(&bands).map_err(|error| invalid("", error.to_string()))?;
    Ok(Json(MaskAnswer {
        low: mask.low.to_string(),
        high: mask.high.to_string(),
        low_hex: format!("{:X}", mask.low),
        high_hex: format!("{:X}", mask.high),
        bands: mask.bands(),
    }))
}

/// An integer code of `+CESQ` or `+CSQ`.
#[derive(Debug, Deserialize, ToSchema)]
pub struct CodeRequest {
    pub kind: CodeKind,
    pub code: u16,
}

/// What a code stands for.
#[derive(Debug, Serialize, ToSchema)]
pub struct CodeAnswer {
    /// `null` where the code says "not known".
    pub interval: Option<CodeInterval>,
    /// The middle of the interval, or the one known edge.
    pub shown: Option<f64>,
}

/// Decodes a modem's integer code.
#[utoipa::path(post, path = "/api/calc/code", request_body = CodeRequest,
    responses((status = 200, body = CodeAnswer), (status = 422, body = Problem)))]
async fn code(Body(asked): Body<CodeRequest>) -> Result<Json<CodeAnswer>, Problem> {
    let interval = decode(asked.kind, asked.code).map_err(|error| invalid("/code", error.to_string()))?;
    Ok(Json(CodeAnswer { interval, shown: interval.map(CodeInterval::shown) }))
}

/// Carriers and what is assumed of them.
#[derive(Debug, Deserialize, ToSchema)]
pub struct CapacityRequest {
    pub mode: ConnectionMode,
    pub carriers: Vec<Carrier>,
    #[serde(default)]
    pub assumed: LinkAssumptions,
}

/// What carriers could move together.
#[utoipa::path(post, path = "/api/calc/capacity", request_body = CapacityRequest, responses((status = 200, body = AchievableRate)))]
async fn capacity(Body(asked): Body<CapacityRequest>) -> Json<AchievableRate> {
    Json(possible(&asked.carriers, asked.mode, &asked.assumed))
}

/// A carrier explained in values and in words.
#[derive(Debug, Serialize, ToSchema)]
pub struct ExplainAnswer {
    pub explained: ExplainedCarrier,
    pub said: Vec<Said>,
}

/// Explains carriers: class, limit, what is odd, what each could carry.
#[utoipa::path(post, path = "/api/calc/explain", request_body = CapacityRequest, responses((status = 200, body = Vec<ExplainAnswer>)))]
async fn explained(Body(asked): Body<CapacityRequest>) -> Json<Vec<ExplainAnswer>> {
    let rates = possible(&asked.carriers, asked.mode, &asked.assumed).carriers;
    let answer = |(carrier, rates): (&Carrier, _)| {
        let explained = explain(carrier, rates);
        let words = explained.findings.iter().cloned().map(|finding| said(finding, Style::default()));
        ExplainAnswer { said: words.collect(), explained }
    };
    Json(asked.carriers.iter().zip(rates).map(answer).collect())
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

/// Where a spot is, for what walls cost.
#[derive(Debug, Deserialize, ToSchema)]
pub struct EntryLossRequest {
    pub mount: Mount,
    /// MHz, 80..=100000.
    pub frequency_mhz: f64,
    #[serde(default)]
    pub assumed: OutdoorAssumptions,
}

/// Loss between a spot in a house and the open (ITU-R P.2109), dB, from 10 to 90 %.
#[utoipa::path(post, path = "/api/calc/entry-loss", request_body = EntryLossRequest,
    responses((status = 200, body = Estimate), (status = 422, body = Problem)))]
async fn entry_loss(Body(asked): Body<EntryLossRequest>) -> Result<Json<Estimate>, Problem> {
    if !(80.0..=100_000.0).contains(&asked.frequency_mhz) {
        return Err(invalid("/frequency_mhz", "Between 80 and 100000\u{202f}MHz."));
    }
    let settings = SiteSettings { outdoor: asked.assumed, ..SiteSettings::default() };
    let loss = wall_loss_db(asked.mount, &settings, asked.frequency_mhz);
    let at = |z: f64| (loss.mean + z * loss.spread).max(0.0);
    Ok(Json(Estimate { low: at(-Z_90), likely: at(0.0), high: at(Z_90) }))
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
