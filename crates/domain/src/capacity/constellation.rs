//! What a SINR looks like: points of a modulation with noise on them, which modulations survive, what 3 dB more bring.

use super::cqi::{CqiTable, row_at, threshold_db};
use super::modulation::Modulation;
use super::shannon::{Direction, efficiency_bps_hz};
use crate::metrics::db_to_linear;
use crate::model::Technology;
use serde::{Deserialize, Serialize};

/// One received symbol.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Symbol {
    /// In-phase part.
    pub i: f64,
    /// Quadrature part.
    pub q: f64,
    /// True where it lies nearest to another point than the one sent.
    pub mistaken: bool,
}

/// Received symbols of a modulation at a SINR, repeatable for a seed. Unit mean power; the noise is as strong as
/// the SINR says.
pub fn symbols(modulation: Modulation, sinr_db: f64, count: usize, seed: u64) -> Vec<Symbol> {
    let levels = modulation.levels();
    let deviation = (db_to_linear(-sinr_db) / 2.0).sqrt();
    let mut draw = fastrand::Rng::with_seed(seed);
    let nearest = |value: f64| {
        let closer = |a: &&f64, b: &&f64| (*a - value).abs().total_cmp(&(*b - value).abs());
        levels.iter().min_by(closer).copied().unwrap_or(0.0)
    };
    (0..count)
        .map(|_| {
            let mut pick = || draw.choice(&levels).copied().unwrap_or(0.0);
            let (sent_i, sent_q) = (pick(), pick());
            let (noise_i, noise_q) = normal_pair(&mut draw);
            let (i, q) = (sent_i + deviation * noise_i, sent_q + deviation * noise_q);
            let mistaken = nearest(i) != sent_i || nearest(q) != sent_q;
            Symbol { i, q, mistaken }
        })
        .collect()
}

/// Two normal numbers by the transform of Box and Muller (1958).
fn normal_pair(draw: &mut fastrand::Rng) -> (f64, f64) {
    let radius = (-2.0 * (1.0 - draw.f64()).ln()).sqrt();
    let angle = std::f64::consts::TAU * draw.f64();
    (radius * angle.cos(), radius * angle.sin())
}

/// What a SINR buys on one carrier.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ModulationMargin {
    /// Modulations with the SINR their sturdiest code needs (common practice, no source), and whether this SINR
    /// reaches it.
    pub modulations: Vec<Survival>,
    /// The densest that survives.
    pub densest: Option<Modulation>,
    /// bit/s/Hz of one layer now, by the attenuated Shannon bound.
    pub bps_hz: f64,
    /// bit/s/Hz of one layer with 3 dB more.
    pub bps_hz_with_3_db: f64,
}

/// Whether a modulation survives.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Survival {
    /// Modulation.
    pub modulation: Modulation,
    /// dB
    pub needs_db: f64,
    /// Whether it can be told apart.
    pub survives: bool,
}

/// What a SINR buys, and what 3 dB more would.
pub fn buys(technology: Technology, sinr_db: f64) -> ModulationMargin {
    let table = CqiTable::To256Qam;
    let needs = |modulation: Modulation| {
        let first = table.rows().iter().find(|row| row.modulation == modulation);
        first.and_then(|row| threshold_db(table, row.cqi)).unwrap_or(f64::INFINITY)
    };
    let modulations = Modulation::ALL
        .into_iter()
        .map(|modulation| {
            let needs_db = needs(modulation);
            Survival { modulation, needs_db, survives: sinr_db >= needs_db }
        })
        .collect();
    ModulationMargin {
        modulations,
        densest: row_at(table, sinr_db).map(|row| row.modulation),
        bps_hz: efficiency_bps_hz(technology, Direction::Down, sinr_db),
        bps_hz_with_3_db: efficiency_bps_hz(technology, Direction::Down, sinr_db + 3.0),
    }
}
