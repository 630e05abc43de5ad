//! How the metrics hang together.
//!
//! With S the received power of one resource element (RSRP), I the interference and noise in it, and x the share of
//! a cell's elements in use, RSSI per resource block is 12 (x S + I). From RSRQ = N RSRP / RSSI (TS 36.214 clause
//! 5.1.3) follows RSRQ = 1 / (12 (x + I/S)), with I/S = 1/SINR. One transmit port is assumed: an idle LTE cell fills
//! two of twelve elements with reference signals (x = 1/6), a full one all (x = 1).

use crate::model::{Carrier, Technology};
use serde::{Deserialize, Serialize};

/// RSRQ = 10 lg N + RSRP − RSSI, dB: 3GPP TS 36.214 clause 5.1.3, N the number of resource blocks that the RSSI
/// was measured over (1..=273).
pub fn rsrq_from_rssi_db(rsrp_dbm: f64, rssi_dbm: f64, resource_blocks: u16) -> f64 {
    10.0 * f64::from(resource_blocks).log10() + rsrp_dbm - rssi_dbm
}

/// Least share of a cell's resource elements in use where its RSSI is measured. LTE with one port: 1/6, the reference
/// signals. NR: the RSSI may be measured in symbols without any signal of an idle cell (TS 38.215 clause 5.1.3), so
/// next to nothing; 0.01 keeps the arithmetic finite and lets an RSRQ be positive, as the reporting range does.
pub fn idle_share(technology: Technology) -> f64 {
    match technology {
        Technology::Lte => 1.0 / 6.0,
        Technology::Nr => 0.01,
    }
}

/// RSRQ of a cell with a share of its elements in use and a SINR, dB.
///
/// ```
/// // A full cell with one port and no interference: TS 36.214's definition gives −10.8 dB at the best.
/// let best = open_beacon_domain::metrics::rsrq_of_load_db(1.0, 60.0);
/// assert!((best + 10.79).abs() < 0.01);
/// ```
pub fn rsrq_of_load_db(share_in_use: f64, sinr_db: f64) -> f64 {
    -10.0 * (12.0 * (share_in_use + db_to_linear(-sinr_db))).log10()
}

/// SINR that an RSRQ implies: at the lowest (idle cell) and at the highest (full cell), dB. `high_db` is `None`
/// where even a cell without interference could show this RSRQ at some load.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ImpliedSinr {
    /// Lower end, dB.
    pub low_db: f64,
    /// Upper end, dB.
    pub high_db: Option<f64>,
}

impl ImpliedSinr {
    /// How far a reported SINR lies outside what is implied, dB: positive above, negative below, zero inside.
    pub fn excess_db(self, sinr_db: f64) -> f64 {
        match self.high_db {
            Some(high_db) if sinr_db > high_db => sinr_db - high_db,
            _ if sinr_db < self.low_db => sinr_db - self.low_db,
            _ => 0.0,
        }
    }
}

/// What an RSRQ says of the SINR without knowing the load. `None` for an RSRQ that no cell of this kind can show
/// (above that of an idle cell without interference).
pub fn implied_sinr(technology: Technology, rsrq_db: f64) -> Option<ImpliedSinr> {
    let of = |share| sinr_of_rsrq_db(rsrq_db, share);
    Some(ImpliedSinr { low_db: of(idle_share(technology))?, high_db: of(1.0) })
}

/// SINR at which a cell with this share of its elements in use (2 for two full ports) shows an RSRQ, dB; `None`
/// where its own signal alone makes the RSRQ worse than that.
pub(super) fn sinr_of_rsrq_db(rsrq_db: f64, share_in_use: f64) -> Option<f64> {
    let per_element = db_to_linear(-rsrq_db) / 12.0;
    (per_element > share_in_use).then(|| -10.0 * (per_element - share_in_use).log10())
}

/// Share of the cell in use (0 idle, 1 full) that RSRQ and SINR imply together, clamped to 0..=1. `None` where
/// either is unknown. A rough figure: LTE's SINR is made by each vendor in its own way.
pub fn implied_load(carrier: &Carrier) -> Option<f64> {
    let (rsrq_db, sinr_db) = (carrier.rsrq_db?, carrier.sinr_db?);
    let idle = idle_share(carrier.technology);
    let in_use = db_to_linear(-rsrq_db) / 12.0 - db_to_linear(-sinr_db);
    Some(((in_use - idle) / (1.0 - idle)).clamp(0.0, 1.0))
}

/// 10^(x/10).
pub fn db_to_linear(db: f64) -> f64 {
    // Called millions of times: the natural power is several times as fast as 10 to some.
    (db * (std::f64::consts::LN_10 / 10.0)).exp()
}

/// 10 lg x.
pub fn linear_to_db(linear: f64) -> f64 {
    10.0 * linear.log10()
}
