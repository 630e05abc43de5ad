//! What limits a carrier: noise, interference, load, or nothing much.

use super::relation::{db_to_linear, linear_to_db};
use super::{Class, Metric, careful_sinr_db, class_of_value, implied_load};
use crate::bands::carrier_blocks;
use crate::model::Carrier;
use serde::{Deserialize, Serialize};

/// What keeps a carrier's signal from being cleaner.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Limit {
    /// The receiver's own noise: more signal helps dB for dB.
    Noise,
    /// Other cells on the channel: direction helps, gain alone does not.
    Interference,
    /// Both about alike.
    Both,
    /// The signal is clean as it is.
    Fine,
    /// RSRP or SINR is not known.
    Unknown,
}

/// A carrier's limit with the powers it was found by.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Limits {
    /// What limits it.
    pub limit: Limit,
    /// Interference and noise in one resource element, RSRP − SINR, dBm.
    pub disturbance_dbm: Option<f64>,
    /// The receiver's own noise in one resource element, dBm.
    pub noise_dbm: f64,
    /// Share of the cell that others use, from RSRQ and SINR, 0..=1.
    pub load: Option<f64>,
}

/// Noise figure of a gateway's receiver, dB: between the 9 dB that TS 36.101 assumes for reference sensitivity and
/// the 5 dB of good ones (common practice, no source).
pub const NOISE_FIGURE_DB: f64 = 7.0;

/// Thermal noise and noise figure in one resource element, dBm: −174 dBm/Hz + 10 lg spacing + NF.
pub fn noise_per_element_dbm(spacing_khz: u16, noise_figure_db: f64) -> f64 {
    -174.0 + 10.0 * (f64::from(spacing_khz) * 1e3).log10() + noise_figure_db
}

/// Disturbance this far above the receiver's own noise is others' doing, dB; as far below that, noise rules.
const RULES_DB: f64 = 4.0;

/// What limits a carrier. "Fine" where the SINR is ample (above 20 dB): there is little left to gain.
pub fn limits(carrier: &Carrier) -> Limits {
    // Where the width is not known, 15 kHz is the likelier spacing.
    let spacing_khz = carrier_blocks(carrier).map_or(15, |(_, spacing)| spacing);
    let noise_dbm = noise_per_element_dbm(spacing_khz, NOISE_FIGURE_DB);
    let load = implied_load(carrier);
    let (Some(rsrp_dbm), Some(sinr_db)) = (carrier.rsrp_dbm, careful_sinr_db(carrier)) else {
        return Limits { limit: Limit::Unknown, disturbance_dbm: None, noise_dbm, load };
    };
    let disturbance_dbm = rsrp_dbm - sinr_db;
    let over_db = disturbance_dbm - noise_dbm;
    let limit = if class_of_value(Metric::Sinr, sinr_db) == Some(Class::Ample) {
        Limit::Fine
    } else if over_db > 3.0 + RULES_DB {
        Limit::Interference
    } else if over_db < RULES_DB {
        Limit::Noise
    } else {
        Limit::Both
    };
    Limits { limit, disturbance_dbm: Some(disturbance_dbm), noise_dbm, load }
}

/// Interference alone in one resource element, dBm: what is left of the disturbance after the receiver's own noise.
/// `None` where noise explains all of it.
pub fn interference_dbm(disturbance_dbm: f64, noise_dbm: f64) -> Option<f64> {
    let left = db_to_linear(disturbance_dbm) - db_to_linear(noise_dbm);
    (left > 0.0).then(|| linear_to_db(left))
}
