//! Operating bands, channel numbers, cell identities and lock masks.
//!
//! | Part | Source |
//! |---|---|
//! | [`lte_band`], [`lte_downlink_mhz`] … | 3GPP TS 36.101 tables 5.5-1, 5.6.1-1, 5.7.3-1 |
//! | [`nr_band`], [`nr_frequency_mhz`] … | TS 38.104 tables 5.2-1, 5.4.2.1-1 |
//! | [`lte_resource_blocks`], [`nr_resource_blocks`] | TS 36.101 table 5.6-1, TS 38.101-1 table 5.3.2-1 |
//! | [`CellIdentity`] | TS 36.413 clause 9.2.1.37, TS 38.413 clause 9.3.1.6 |
//! | [`LockMask`] | common practice, no source |

mod blocks;
mod identity;
mod lock;
mod lte;
mod nr;
mod nr_table;
mod place;
mod widths;

pub use blocks::{NR_BANDWIDTHS_MHZ, carrier_blocks, lte_resource_blocks, nr_resource_blocks};
pub use identity::{CellIdentity, IdentityError, NodeBits};
pub use lock::{LockError, LockMask};
pub use lte::{LteBand, lte_band, lte_band_of_earfcn, lte_downlink_mhz, lte_earfcn, lte_uplink_mhz};
pub use nr::{nr_arfcn, nr_band, nr_bands_of_arfcn, nr_frequency_mhz};
pub use nr_table::NrBand;
pub use place::{BandOverlap, BandPlace, FrequencySpan, Overlap, all_bands, band_place, overlaps_of};
pub use widths::{UsualWidths, usual_widths, usual_widths_of};

use crate::model::{Carrier, Technology};
use serde::{Deserialize, Serialize};

/// How a band divides up and down.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Duplex {
    /// Two frequency ranges, one each way.
    Fdd,
    /// One range, turns taken in time.
    Tdd,
    /// Downlink only, beside another band.
    Sdl,
    /// Uplink only, beside another band.
    Sul,
}

/// Downlink frequency of a carrier's channel number, MHz, or `None` where it is not known or not in the tables.
pub fn carrier_frequency_mhz(carrier: &Carrier) -> Option<f64> {
    let channel = carrier.channel?;
    match carrier.technology {
        Technology::Lte => lte_downlink_mhz(channel),
        Technology::Nr => nr_frequency_mhz(channel),
    }
}

/// All bands that a downlink channel number may belong to: one for LTE, several for NR.
pub fn bands_of_channel(technology: Technology, channel: u32) -> Vec<u16> {
    match technology {
        Technology::Lte => lte_band_of_earfcn(channel).map(|row| row.band).into_iter().collect(),
        Technology::Nr => nr_bands_of_arfcn(channel),
    }
}

/// "B3" for LTE band 3, "n78" for NR band 78.
pub fn band_name(technology: Technology, band: u16) -> String {
    match technology {
        Technology::Lte => format!("B{band}"),
        Technology::Nr => format!("n{band}"),
    }
}
