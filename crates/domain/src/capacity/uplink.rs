//! What a phone-class transmitter reaches. The same antennas and path carry both ways, so the coupling loss that
//! the downlink shows holds for the uplink: coupling loss = conducted power of one reference element − RSRP.

use super::Estimate;
use super::shannon::{Direction, LEAST_SINR_DB, efficiency_bps_hz};
use crate::model::Technology;
use serde::{Deserialize, Serialize};

/// What is assumed of transmitter and mast.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct UplinkAssumptions {
    /// Highest transmit power, dBm: 23 for power class 3 (3GPP TS 36.101 table 6.2.2-1), 26 for class 2.
    pub transmit_power_dbm: f64,
    /// Noise figure of the mast's receiver, dB: 5, TR 36.942 table 4.8.
    pub mast_noise_figure_db: f64,
    /// Rise of the mast's noise by others' uplinks, dB (common practice, no source).
    pub noise_rise_db: Estimate,
    /// Conducted power of one reference element at the mast, dBm (common practice, no source).
    pub reference_power_dbm: Estimate,
}

impl UplinkAssumptions {
    /// For a technology and, with NR, whether the band is TDD: masts there send with many elements, and the
    /// synchronisation beam is wider than the one that receives.
    pub fn usual(technology: Technology, tdd: bool) -> Self {
        let reference_power_dbm = match (technology, tdd) {
            (Technology::Nr, true) => Estimate { low: 14.0, likely: 17.0, high: 21.0 },
            _ => Estimate { low: 12.0, likely: 15.0, high: 18.0 },
        };
        Self {
            transmit_power_dbm: 23.0,
            mast_noise_figure_db: 5.0,
            noise_rise_db: Estimate { low: 6.0, likely: 3.0, high: 1.0 },
            reference_power_dbm,
        }
    }
}

/// What the uplink reaches.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Uplink {
    /// Rate of all the time; the TDD share comes afterwards, Mbit/s.
    pub rate_mbps: f64,
    /// Blocks it does best with.
    pub blocks: u16,
    /// SINR at the mast over these blocks, dB.
    pub sinr_db: f64,
    /// True where the transmitter's power is what limits, not the table's cap.
    pub power_limited: bool,
}

/// Coupling loss, dB: what is lost between the mast's transmitter and the gateway's receiver, antennas included.
pub fn coupling_loss_db(reference_power_dbm: f64, rsrp_dbm: f64) -> f64 {
    reference_power_dbm - rsrp_dbm
}

/// Best uplink over any number of blocks up to `blocks` (of 12 × `spacing_khz`). The power is spread over the
/// blocks in use, so few blocks reach farther and many carry more.
pub fn uplink(
    technology: Technology,
    coupling_loss_db: f64,
    blocks: u16,
    spacing_khz: u16,
    transmit_power_dbm: f64,
    mast_noise_db: f64,
) -> Uplink {
    let of = |used: u16| {
        let hertz = f64::from(used) * 12.0 * f64::from(spacing_khz) * 1e3;
        let noise_dbm = -174.0 + 10.0 * hertz.log10() + mast_noise_db;
        let sinr_db = transmit_power_dbm - coupling_loss_db - noise_dbm;
        let rate_mbps = efficiency_bps_hz(technology, Direction::Up, sinr_db) * hertz / 1e6;
        (rate_mbps, used, sinr_db)
    };
    // n log(1 + C/n) grows with n, so the best number is the largest that stays above the least SINR.
    let (.., one_block_db) = of(1);
    let reach = 10f64.powf((one_block_db - LEAST_SINR_DB) / 10.0).clamp(1.0, f64::from(blocks.max(1)));
    let most = reach as u16;
    let (rate_mbps, used, sinr_db) = of(most);
    let cap = efficiency_bps_hz(technology, Direction::Up, 99.0);
    let capped = efficiency_bps_hz(technology, Direction::Up, sinr_db) >= cap;
    Uplink { rate_mbps, blocks: used, sinr_db, power_limited: !capped }
}
