//! NR global frequency raster: 3GPP TS 38.104 clause 5.4.2.1, table 5.4.2.1-1.

use super::nr_table::{NR_BANDS, NrBand};

/// Frequency of an NR-ARFCN, MHz: F = F_offs + ΔF (N − N_offs). Valid for 0..=3279165; `None` beyond.
///
/// ```
/// assert_eq!(open_beacon_domain::bands::nr_frequency_mhz(600_000), Some(3000.0));
/// ```
pub fn nr_frequency_mhz(nr_arfcn: u32) -> Option<f64> {
    let n = f64::from(nr_arfcn);
    match nr_arfcn {
        0..600_000 => Some(n * 5.0 / 1000.0),
        600_000..2_016_667 => Some(3000.0 + (n - 600_000.0) * 15.0 / 1000.0),
        2_016_667..=3_279_165 => Some(24_250.08 + (n - 2_016_667.0) * 60.0 / 1000.0),
        _ => None,
    }
}

/// NR-ARFCN nearest to a frequency, MHz; `None` outside 0..100000 MHz.
pub fn nr_arfcn(frequency_mhz: f64) -> Option<u32> {
    let n = match frequency_mhz {
        f if !(0.0..100_000.0).contains(&f) => return None,
        f if f < 3000.0 => f / 0.005,
        f if f < 24_250.0 => 600_000.0 + (f - 3000.0) / 0.015,
        f => 2_016_667.0 + (f - 24_250.08) / 0.06,
    };
    Some(n.round() as u32)
}

/// The FR1 band of this number, if the table has it.
pub fn nr_band(band: u16) -> Option<&'static NrBand> {
    NR_BANDS.iter().find(|row| row.band == band)
}

/// All FR1 bands whose downlink holds an NR-ARFCN, in order of number. One channel number may belong to several
/// bands: 636666 is n77 and n78. Empty where none does.
pub fn nr_bands_of_arfcn(nr_arfcn: u32) -> Vec<u16> {
    let Some(frequency_mhz) = nr_frequency_mhz(nr_arfcn) else { return Vec::new() };
    NR_BANDS
        .iter()
        .filter(|row| row.downlink_mhz.is_some_and(|(low, high)| (low..=high).contains(&frequency_mhz)))
        .map(|row| row.band)
        .collect()
}
