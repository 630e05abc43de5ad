//! Calculations of antennas and feed lines, and of the rural path.

use super::calc::invalid;
use crate::problem::{Body, Problem};
use crate::state::AppState;
use axum::Json;
use open_beacon_core::antenna::pattern::Pattern;
use open_beacon_core::feedline::cable::{CableError, CableKind, cable_loss_db};
use open_beacon_core::feedline::ethernet::{FarEnd, PoweredPairs, far_end};
use open_beacon_core::feedline::joint::{Connector, Mating, adapter_for, mates};
use open_beacon_core::feedline::noise::{CascadeStage, cascade_noise_figure_db};
use open_beacon_core::kit::mounting::{clamp_moment_nm, wind_force_n};
use open_beacon_core::propagation::tr38901::{Rural, RuralLoss, rural_loss};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(cable))
        .routes(routes!(joint))
        .routes(routes!(noise_figure))
        .routes(routes!(power))
        .routes(routes!(pattern))
        .routes(routes!(rural))
        .routes(routes!(wind))
}

fn usual_temperature() -> f64 {
    20.0
}

/// A length of cable.
#[derive(Debug, Deserialize, ToSchema)]
pub struct CableRequest {
    pub kind: CableKind,
    /// m, 0..=200.
    pub length_m: f64,
    /// MHz, 10..=6000.
    pub frequency_mhz: f64,
    /// °C, −55..=85; 20 if not said.
    #[serde(default = "usual_temperature")]
    pub temperature_c: f64,
}

/// A loss.
#[derive(Debug, Serialize, ToSchema)]
pub struct LossAnswer {
    pub loss_db: f64,
}

/// Loss of a length of coaxial cable.
#[utoipa::path(post, path = "/api/calc/cable-loss", request_body = CableRequest,
    responses((status = 200, body = LossAnswer), (status = 422, body = Problem)))]
async fn cable(Body(asked): Body<CableRequest>) -> Result<Json<LossAnswer>, Problem> {
    cable_loss_db(asked.kind, asked.length_m, asked.frequency_mhz, asked.temperature_c)
        .map(|loss_db| Json(LossAnswer { loss_db }))
        .map_err(|error| {
            let pointer = match error {
                CableError::Frequency => "/frequency_mhz",
                CableError::Length => "/length_m",
                CableError::Temperature => "/temperature_c",
            };
            invalid(pointer, error.to_string())
        })
}

/// Two connector ends.
#[derive(Debug, Deserialize, ToSchema)]
pub struct JointRequest {
    pub a: Connector,
    pub b: Connector,
    /// MHz
    pub frequency_mhz: f64,
}

/// Whether they mate, and the adapter that joins them otherwise.
#[derive(Debug, Serialize, ToSchema)]
pub struct JointAnswer {
    pub mating: Mating,
    /// Loss of the joint, adapter's second pair included, dB (common practice, no source).
    pub loss_db: f64,
    /// The adapter's two ends.
    pub adapter: Option<AdapterEnds>,
}

/// An adapter's ends: one for each of the two that it joins.
#[derive(Debug, Serialize, ToSchema)]
pub struct AdapterEnds {
    pub to_a: Connector,
    pub to_b: Connector,
}

/// Whether two connectors mate.
#[utoipa::path(post, path = "/api/calc/joint", request_body = JointRequest, responses((status = 200, body = JointAnswer)))]
async fn joint(Body(asked): Body<JointRequest>) -> Json<JointAnswer> {
    let adapter = adapter_for(asked.a, asked.b).map(|(to_a, to_b)| AdapterEnds { to_a, to_b });
    let one = asked.a.series.joint_loss_db(asked.frequency_mhz);
    let second = if adapter.is_some() { asked.b.series.joint_loss_db(asked.frequency_mhz) } else { 0.0 };
    Json(JointAnswer { mating: mates(asked.a, asked.b), loss_db: one + second, adapter })
}

/// Noise figure of a chain.
#[derive(Debug, Serialize, ToSchema)]
pub struct NoiseAnswer {
    pub noise_figure_db: f64,
}

/// Noise figure of cascaded stages (Friis), antenna side first.
#[utoipa::path(post, path = "/api/calc/noise-figure", request_body = Vec<CascadeStage>, responses((status = 200, body = NoiseAnswer)))]
async fn noise_figure(Body(stages): Body<Vec<CascadeStage>>) -> Json<NoiseAnswer> {
    Json(NoiseAnswer { noise_figure_db: cascade_noise_figure_db(&stages) })
}

/// A device fed over Ethernet.
#[derive(Debug, Deserialize, ToSchema)]
pub struct PowerRequest {
    pub source_v: f64,
    pub load_w: f64,
    /// m, 0..=100.
    pub length_m: f64,
    /// Ω in 100 m; at most 25 for two pairs of category 5.
    pub pair_loop_ohm_100m: f64,
    pub pairs: PoweredPairs,
}

/// Voltage, current and loss at the far end of an Ethernet cable.
#[utoipa::path(post, path = "/api/calc/ethernet-power", request_body = PowerRequest,
    responses((status = 200, body = FarEnd), (status = 422, body = Problem)))]
async fn power(Body(asked): Body<PowerRequest>) -> Result<Json<FarEnd>, Problem> {
    far_end(asked.source_v, asked.load_w, asked.length_m, asked.pair_loop_ohm_100m, asked.pairs)
        .map(Json)
        .map_err(|error| invalid("/length_m", error.to_string()))
}

/// A direction from the middle of a beam.
#[derive(Debug, Deserialize, ToSchema)]
pub struct PatternRequest {
    pub pattern: Pattern,
    pub off_azimuth_deg: f64,
    pub off_elevation_deg: f64,
}

/// Gain there.
#[derive(Debug, Serialize, ToSchema)]
pub struct PatternAnswer {
    pub gain_dbi: f64,
    /// What the beamwidths allow at the best, dBi.
    pub directivity_dbi: f64,
}

/// Gain of an antenna off the middle of its beam, by its catalogue figures.
#[utoipa::path(post, path = "/api/calc/pattern", request_body = PatternRequest, responses((status = 200, body = PatternAnswer)))]
async fn pattern(Body(asked): Body<PatternRequest>) -> Json<PatternAnswer> {
    Json(PatternAnswer {
        gain_dbi: asked.pattern.gain_dbi(asked.off_azimuth_deg, asked.off_elevation_deg),
        directivity_dbi: asked.pattern.directivity_dbi(),
    })
}

/// A path without terrain data.
#[derive(Debug, Deserialize, ToSchema)]
pub struct RuralRequest {
    #[serde(default)]
    pub scene: Rural,
    /// Along the ground, m, 10..=10000.
    pub distance_m: f64,
    /// MHz, 500..=30000.
    pub frequency_mhz: f64,
}

/// Rural macro path loss (3GPP TR 38.901).
#[utoipa::path(post, path = "/api/calc/rural-loss", request_body = RuralRequest,
    responses((status = 200, body = RuralLoss), (status = 422, body = Problem)))]
async fn rural(Body(asked): Body<RuralRequest>) -> Result<Json<RuralLoss>, Problem> {
    rural_loss(&asked.scene, asked.distance_m, asked.frequency_mhz)
        .map(Json)
        .map_err(|error| invalid("/distance_m", error.to_string()))
}

/// An antenna on a pole in the wind.
#[derive(Debug, Deserialize, ToSchema)]
pub struct WindRequest {
    /// m/s, 0..=80.
    pub wind_m_s: f64,
    pub area_m2: f64,
    #[serde(default)]
    pub pole_mm: f64,
    #[serde(default)]
    pub free_length_m: f64,
}

/// What the wind does: an indication, not a structural design.
#[derive(Debug, Serialize, ToSchema)]
pub struct WindAnswer {
    pub force_n: f64,
    /// At the pole's last clamp.
    pub moment_nm: f64,
}

/// Force and bending moment of the wind.
#[utoipa::path(post, path = "/api/calc/wind", request_body = WindRequest,
    responses((status = 200, body = WindAnswer), (status = 422, body = Problem)))]
async fn wind(Body(asked): Body<WindRequest>) -> Result<Json<WindAnswer>, Problem> {
    if !(0.0..=80.0).contains(&asked.wind_m_s) {
        return Err(invalid("/wind_m_s", "Between 0 and 80\u{202f}m/s."));
    }
    Ok(Json(WindAnswer {
        force_n: wind_force_n(asked.wind_m_s, asked.area_m2),
        moment_nm: clamp_moment_nm(asked.wind_m_s, asked.area_m2, asked.pole_mm, asked.free_length_m),
    }))
}
