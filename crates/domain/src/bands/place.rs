//! Where a band lies, what people call it, and which bands are parts of others.

use super::lte::{LTE_BANDS, lte_band};
use super::nr_table::NR_BANDS;
use super::{Duplex, NR_BANDWIDTHS_MHZ, band_name, nr_band};
use crate::model::Technology;
use serde::{Deserialize, Serialize};

/// A range of frequencies.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FrequencySpan {
    /// Lower end, MHz.
    pub low_mhz: f64,
    /// Upper end, MHz.
    pub high_mhz: f64,
}

impl From<(f64, f64)> for FrequencySpan {
    fn from((low_mhz, high_mhz): (f64, f64)) -> Self {
        Self { low_mhz, high_mhz }
    }
}

/// A band with its ranges and names, for showing and drawing.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandPlace {
    /// LTE or NR.
    pub technology: Technology,
    /// Operating band.
    pub band: u16,
    /// "B3", "n78".
    pub name: String,
    /// How up and down share the band.
    pub duplex: Duplex,
    /// Downlink frequencies.
    pub downlink: Option<FrequencySpan>,
    /// Uplink frequencies.
    pub uplink: Option<FrequencySpan>,
    /// Allowed channel bandwidths, MHz; empty where the table here has none.
    pub bandwidths_mhz: Vec<f64>,
    /// What people call it where it is used.
    pub common_names: Vec<String>,
}

/// How another band of the same technology lies to this one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Overlap {
    /// The same range.
    Same,
    /// The other lies inside this one.
    Holds,
    /// This one lies inside the other.
    Inside,
    /// They share a part.
    Crosses,
}

/// Another band that shares spectrum.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandOverlap {
    /// Operating band.
    pub band: u16,
    /// How they overlap.
    pub overlap: Overlap,
}

/// Common names; common practice, no source.
const NAMES: &[(&[u16], &str)] = &[
    (&[1, 65, 84], "2100"),
    (&[3, 80, 9], "1800"),
    (&[7], "2600"),
    (&[38], "2600 TDD"),
    (&[8, 81], "900"),
    (&[20, 82], "800"),
    (&[28, 83], "700"),
    (&[32, 75, 50], "1500"),
    (&[76, 51], "1500 edge"),
    (&[40], "2300"),
    (&[42, 43, 78, 77, 52, 22], "3.5 GHz, C-band"),
    (&[48], "3.5 GHz, CBRS"),
    (&[2, 25], "PCS 1900"),
    (&[4, 10, 66, 86], "AWS"),
    (&[5, 26, 89], "850, cellular"),
    (&[12, 17, 85], "700 lower"),
    (&[13], "700 upper"),
    (&[14], "700 public safety"),
    (&[29, 67], "700 downlink only"),
    (&[30], "WCS 2300"),
    (&[41, 90], "2500, BRS"),
    (&[71, 105], "600"),
    (&[31, 72, 73, 87, 88], "450"),
    (&[70], "AWS-4"),
    (&[74, 11, 21], "L-band"),
    (&[79], "4.5 GHz"),
    (&[46, 47], "5 GHz unlicensed"),
    (&[96, 102, 104], "6 GHz"),
];

fn common_names(band: u16) -> Vec<String> {
    NAMES.iter().filter(|(bands, _)| bands.contains(&band)).map(|(_, name)| (*name).to_owned()).collect()
}

/// One band by technology and number; `None` where the tables do not have it.
pub fn band_place(technology: Technology, band: u16) -> Option<BandPlace> {
    let (duplex, downlink_mhz, uplink_mhz, bandwidths_mhz) = match technology {
        Technology::Lte => {
            let row = lte_band(band)?;
            (row.duplex, Some(row.downlink_mhz()), row.uplink_mhz(), row.bandwidths_mhz.to_vec())
        }
        Technology::Nr => {
            let row = nr_band(band)?;
            let widths = NR_BANDWIDTHS_MHZ.iter().filter(|width| **width <= row.widest_mhz);
            (row.duplex, row.downlink_mhz, row.uplink_mhz, widths.map(|width| f64::from(*width)).collect())
        }
    };
    let name = band_name(technology, band);
    let common_names = common_names(band);
    let (downlink, uplink) = (downlink_mhz.map(FrequencySpan::from), uplink_mhz.map(FrequencySpan::from));
    Some(BandPlace { technology, band, name, duplex, downlink, uplink, bandwidths_mhz, common_names })
}

/// Every band of a technology, in order of number.
pub fn all_bands(technology: Technology) -> Vec<BandPlace> {
    let numbers: Vec<u16> = match technology {
        Technology::Lte => LTE_BANDS.iter().map(|row| row.band).collect(),
        Technology::Nr => NR_BANDS.iter().map(|row| row.band).collect(),
    };
    numbers.into_iter().filter_map(|band| band_place(technology, band)).collect()
}

/// Bands of the same technology whose downlink shares spectrum with this one's.
pub fn overlaps_of(technology: Technology, band: u16) -> Vec<BandOverlap> {
    let Some(here) = band_place(technology, band).and_then(|place| place.downlink) else {
        return Vec::new();
    };
    all_bands(technology)
        .into_iter()
        .filter(|other| other.band != band)
        .filter_map(|other| {
            let there = other.downlink?;
            if there.high_mhz <= here.low_mhz || there.low_mhz >= here.high_mhz {
                return None;
            }
            let inside = there.low_mhz <= here.low_mhz && here.high_mhz <= there.high_mhz;
            let holds = here.low_mhz <= there.low_mhz && there.high_mhz <= here.high_mhz;
            let overlap = match (holds, inside) {
                (true, true) => Overlap::Same,
                (true, false) => Overlap::Holds,
                (false, true) => Overlap::Inside,
                (false, false) => Overlap::Crosses,
            };
            Some(BandOverlap { band: other.band, overlap })
        })
        .collect()
}
