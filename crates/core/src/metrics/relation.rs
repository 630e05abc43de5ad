//! How the metrics hang together.

/// Resource blocks of an LTE carrier by its bandwidth: 3GPP TS 36.101 table 5.6-1. `None` for other widths.
pub fn resource_blocks(bandwidth_mhz: f64) -> Option<u16> {
    const TABLE: [(f64, u16); 6] = [(1.4, 6), (3.0, 15), (5.0, 25), (10.0, 50), (15.0, 75), (20.0, 100)];
    TABLE.iter().find(|(width, _)| (width - bandwidth_mhz).abs() < 1e-6).map(|(_, blocks)| *blocks)
}

/// RSRQ = 10 lg N + RSRP − RSSI, dB: 3GPP TS 36.214 clause 5.1.3, N the number of resource blocks that the RSSI
/// was measured over (1..=273).
pub fn rsrq_from_rssi_db(rsrp_dbm: f64, rssi_dbm: f64, resource_blocks: u16) -> f64 {
    10.0 * f64::from(resource_blocks).log10() + rsrp_dbm - rssi_dbm
}
