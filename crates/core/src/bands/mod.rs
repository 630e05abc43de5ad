//! Operating bands and channel numbers.
//!
//! LTE: 3GPP TS 36.101 tables 5.5-1 and 5.7.3-1. NR: TS 38.104 clause 5.4.2.1.

mod lte;
mod nr;

pub use lte::{LteBand, lte_band_of_earfcn, lte_downlink_mhz};
pub use nr::nr_frequency_mhz;

use crate::model::{Carrier, Technology};

/// Downlink frequency of a carrier's channel number, MHz, or `None` where it is not known or not in the tables.
pub fn carrier_frequency_mhz(carrier: &Carrier) -> Option<f64> {
    let channel = carrier.channel?;
    match carrier.technology {
        Technology::Lte => lte_downlink_mhz(channel),
        Technology::Nr => nr_frequency_mhz(channel),
    }
}

/// "B3" for LTE band 3, "n78" for NR band 78.
pub fn band_name(technology: Technology, band: u16) -> String {
    match technology {
        Technology::Lte => format!("B{band}"),
        Technology::Nr => format!("n{band}"),
    }
}
