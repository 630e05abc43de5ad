//! NR global frequency raster: 3GPP TS 38.104 clause 5.4.2.1, table 5.4.2.1-1.

/// Frequency of an NR-ARFCN, MHz: F = F_offs + ΔF (N − N_offs). Valid for 0..=3279165; `None` beyond.
///
/// ```
/// assert_eq!(open_beacon_core::bands::nr_frequency_mhz(600_000), Some(3000.0));
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
