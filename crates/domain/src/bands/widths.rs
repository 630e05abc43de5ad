//! How wide a carrier usually is on its band, where nothing says it. Common practice, no source; never outside the
//! channel bandwidths that TS 36.101 table 5.6.1-1 and TS 38.101-1 table 5.3.5-1 allow on the band.

use super::{Duplex, band_place, bands_of_channel};
use crate::model::{Carrier, Technology};
use serde::{Deserialize, Serialize};

/// Channel bandwidths that are usual, MHz.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct UsualWidths {
    /// Lower end, MHz.
    pub low_mhz: f64,
    /// Most usual width, MHz.
    pub likely_mhz: f64,
    /// Upper end, MHz.
    pub high_mhz: f64,
}

/// Usual widths on a band; `None` where the tables do not have the band.
pub fn usual_widths(technology: Technology, band: u16) -> Option<UsualWidths> {
    let place = band_place(technology, band)?;
    let below_1_ghz = place.downlink.is_some_and(|span| span.high_mhz < 1000.0);
    let (low, likely, high) = match (technology, place.duplex, below_1_ghz) {
        (_, _, true) => (5.0, 10.0, 20.0),
        (Technology::Lte, ..) => (10.0, 20.0, 20.0),
        (Technology::Nr, Duplex::Tdd, _) => (40.0, 80.0, 100.0),
        (Technology::Nr, ..) => (10.0, 20.0, 40.0),
    };
    let allowed = |wanted: f64| {
        place
            .bandwidths_mhz
            .iter()
            .copied()
            .min_by(|a, b| (a - wanted).abs().total_cmp(&(b - wanted).abs()))
            .unwrap_or(wanted)
    };
    Some(UsualWidths { low_mhz: allowed(low), likely_mhz: allowed(likely), high_mhz: allowed(high) })
}

/// Usual widths of a carrier that says none: by its band, else by the first band its channel number lies in. `None`
/// where its width is known, or neither says the band.
pub fn usual_widths_of(carrier: &Carrier) -> Option<UsualWidths> {
    if carrier.bandwidth_mhz.is_some() {
        return None;
    }
    let by_channel = || bands_of_channel(carrier.technology, carrier.channel?).first().copied();
    usual_widths(carrier.technology, carrier.band.or_else(by_channel)?)
}
