//! Do the numbers of one carrier go together? What does not is named and flagged, never mended.

use super::relation::ImpliedSinr;
use super::{Metric, implied_sinr, reporting_range, rsrq_from_rssi_db};
use crate::bands::{band_place, bands_of_channel, carrier_blocks};
use crate::model::{Carrier, FieldFlag, FlagKind, Technology};
use serde::{Deserialize, Serialize};

/// One thing about a carrier's numbers that cannot be, or hardly.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "oddity", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Oddity {
    /// Outside the standard's reporting range.
    OutOfRange { metric: Metric, value: f64, low: f64, high: f64 },
    /// The channel number is in other bands than the one reported.
    BandChannel { band: u16, channel: u32, fits: Vec<u16> },
    /// The channel number is in no band.
    NoSuchChannel { channel: u32 },
    /// The tables have no such band.
    NoSuchBand { band: u16 },
    /// The standard does not allow this width in this band.
    Bandwidth { band: u16, bandwidth_mhz: f64, allowed_mhz: Vec<f64> },
    /// Physical cell identities run to 503 (LTE) or 1007 (NR).
    Pci { pci: u16, highest: u16 },
    /// One resource element cannot hold more power than the whole carrier.
    RsrpAboveRssi { rsrp_dbm: f64, rssi_dbm: f64 },
    /// RSRQ is not what RSRP and RSSI make of it at this width.
    RsrqRssi { rsrq_db: f64, computed_db: f64 },
    /// RSRQ and SINR imply each other within bounds, and these do not: `by_db` beyond them, positive where the
    /// SINR is better than the RSRQ allows.
    RsrqSinr { rsrq_db: f64, sinr_db: f64, implied: ImpliedSinr, by_db: f64 },
    /// An RSRQ that not even an idle cell without interference shows.
    RsrqTooGood { rsrq_db: f64, best_db: f64 },
}

impl Oddity {
    /// The metrics that are in doubt.
    pub fn metrics(&self) -> &'static [Metric] {
        match self {
            Self::OutOfRange { metric: Metric::Rsrp, .. } => &[Metric::Rsrp],
            Self::OutOfRange { metric: Metric::Rsrq, .. } | Self::RsrqTooGood { .. } => &[Metric::Rsrq],
            Self::OutOfRange { metric: Metric::Sinr, .. } => &[Metric::Sinr],
            Self::OutOfRange { metric: Metric::Rssi, .. } => &[Metric::Rssi],
            Self::RsrpAboveRssi { .. } => &[Metric::Rsrp, Metric::Rssi],
            Self::RsrqRssi { .. } => &[Metric::Rsrq, Metric::Rssi],
            Self::RsrqSinr { .. } => &[Metric::Rsrq, Metric::Sinr],
            _ => &[],
        }
    }
}

/// RSRQ and SINR may disagree by this much before it is worth a word, dB: the SINR is vendor-made, and the two are
/// rarely of the same instant (common practice, no source).
pub const SINR_DISAGREEMENT_DB: f64 = 6.0;
/// RSRQ against RSRP and RSSI: rounding of three whole numbers and moments apart (common practice, no source).
const RSRQ_DISAGREEMENT_DB: f64 = 3.0;

/// Everything odd about one carrier, in the order of the fields.
pub fn oddities(carrier: &Carrier) -> Vec<Oddity> {
    let mut found = Vec::new();
    placement(carrier, &mut found);
    for metric in Metric::ALL {
        let range = reporting_range(carrier.technology, metric);
        if let Some(value) = carrier.value(metric).filter(|value| !range.holds(*value)) {
            found.push(Oddity::OutOfRange { metric, value, low: range.low, high: range.high });
        }
    }
    powers(carrier, &mut found);
    found
}

fn placement(carrier: &Carrier, found: &mut Vec<Oddity>) {
    let technology = carrier.technology;
    if let Some(channel) = carrier.channel {
        let fits = bands_of_channel(technology, channel);
        match carrier.band {
            _ if fits.is_empty() => found.push(Oddity::NoSuchChannel { channel }),
            Some(band) if !fits.contains(&band) => {
                found.push(Oddity::BandChannel { band, channel, fits });
            }
            _ => {}
        }
    }
    if let Some(band) = carrier.band {
        match (band_place(technology, band), carrier.bandwidth_mhz) {
            (None, _) => found.push(Oddity::NoSuchBand { band }),
            (Some(place), Some(bandwidth_mhz)) => {
                let allowed_mhz = place.bandwidths_mhz;
                let fits = allowed_mhz.iter().any(|width| (width - bandwidth_mhz).abs() < 1e-6);
                if !fits && !allowed_mhz.is_empty() {
                    found.push(Oddity::Bandwidth { band, bandwidth_mhz, allowed_mhz });
                }
            }
            _ => {}
        }
    }
    let highest = match technology {
        Technology::Lte => 503,
        Technology::Nr => 1007,
    };
    if let Some(pci) = carrier.pci.filter(|pci| *pci > highest) {
        found.push(Oddity::Pci { pci, highest });
    }
}

fn powers(carrier: &Carrier, found: &mut Vec<Oddity>) {
    let blocks = carrier_blocks(carrier).map(|(blocks, _)| blocks);
    if let (Some(rsrp_dbm), Some(rssi_dbm)) = (carrier.rsrp_dbm, carrier.rssi_dbm) {
        if rsrp_dbm > rssi_dbm {
            found.push(Oddity::RsrpAboveRssi { rsrp_dbm, rssi_dbm });
        } else if let (Some(rsrq_db), Some(blocks), Technology::Lte) =
            (carrier.rsrq_db, blocks, carrier.technology)
        {
            let computed_db = rsrq_from_rssi_db(rsrp_dbm, rssi_dbm, blocks);
            if (rsrq_db - computed_db).abs() > RSRQ_DISAGREEMENT_DB {
                found.push(Oddity::RsrqRssi { rsrq_db, computed_db });
            }
        }
    }
    if let (Some(rsrq_db), Some(sinr_db)) = (carrier.rsrq_db, carrier.sinr_db) {
        match implied_sinr(carrier.technology, rsrq_db) {
            None => {
                let idle = super::idle_share(carrier.technology);
                let best_db = -10.0 * (12.0 * idle).log10();
                // Rounding to half decibels may take an idle cell just over the edge.
                if rsrq_db > best_db + 1.0 {
                    found.push(Oddity::RsrqTooGood { rsrq_db, best_db });
                }
            }
            Some(implied) => {
                let by_db = implied.excess_db(sinr_db);
                if by_db < -SINR_DISAGREEMENT_DB || contradicts(implied, rsrq_db, sinr_db) {
                    found.push(Oddity::RsrqSinr { rsrq_db, sinr_db, implied, by_db });
                }
            }
        }
    }
}

/// True where a SINR is better than its RSRQ allows: by more than [`SINR_DISAGREEMENT_DB`] in a full cell with one
/// port, and at all in a full cell with two, whose second port adds its own power to the RSSI.
fn contradicts(implied: ImpliedSinr, rsrq_db: f64, sinr_db: f64) -> bool {
    let two_ports = super::relation::sinr_of_rsrq_db(rsrq_db, 2.0);
    implied.excess_db(sinr_db) > SINR_DISAGREEMENT_DB && two_ports.is_some_and(|highest| sinr_db > highest)
}

/// SINR to judge a carrier by: the reported one, or the highest that its RSRQ allows (full cell, one port) where the
/// reported one contradicts it. The worse of two contradicting witnesses is the safer one.
pub fn careful_sinr_db(carrier: &Carrier) -> Option<f64> {
    let sinr_db = carrier.sinr_db?;
    let implied = carrier.rsrq_db.and_then(|rsrq_db| implied_sinr(carrier.technology, rsrq_db));
    match implied.zip(carrier.rsrq_db) {
        Some((implied, rsrq_db)) if contradicts(implied, rsrq_db, sinr_db) => implied.high_db,
        _ => Some(sinr_db),
    }
}

/// Marks every metric in doubt that has no mark yet. No value is changed.
pub fn flag_oddities(carrier: &mut Carrier) {
    super::flag_out_of_range(carrier);
    for oddity in oddities(carrier) {
        for metric in oddity.metrics() {
            if !carrier.flags.iter().any(|flag| flag.metric == *metric) {
                carrier.flags.push(FieldFlag { metric: *metric, kind: FlagKind::Contradicted });
            }
        }
    }
}
