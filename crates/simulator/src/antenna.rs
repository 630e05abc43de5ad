//! The stand-in's own antennas.

/// Half-power width of the panel's main lobe, degrees; its catalogue says 60.
const PANEL_WIDTH_DEG: f64 = 54.0;
const PANEL_GAIN_DBI: f64 = 10.0;
const FRONT_TO_BACK_DB: f64 = 21.0;

/// Gain of the external panel `off_deg` from its axis in azimuth and `up_deg` in elevation, dBi.
///
/// The main lobe and side lobes are those of (sin u)/u with u in proportion to the angle, which puts the first side
/// lobe, 13 dB down, out at the sides; all of it on a floor set by the front-to-back ratio, with a ripple of half a
/// decibel.
pub fn panel_gain_dbi(off_deg: f64, up_deg: f64) -> f64 {
    // (sin u)/u falls to half power at u = 1.3916.
    let stretch = 1.3916 / (PANEL_WIDTH_DEG / 2.0).to_radians();
    let lobe = |angle_deg: f64| {
        let u = stretch * angle_deg.to_radians();
        if u.abs() < 1e-6 { 1.0 } else { (u.sin() / u).powi(2) }
    };
    let floor = 10f64.powf(-FRONT_TO_BACK_DB / 10.0);
    let power =
        (lobe(off_deg) * lobe(up_deg * 0.8)).max(floor * (1.0 + 0.4 * (3.0 * off_deg.to_radians()).cos()));
    PANEL_GAIN_DBI + 10.0 * power.log10() + 0.5 * (7.0 * off_deg.to_radians()).cos() - 0.5
}

/// Gain of the gateway's own antennas: nearly all round, with dents, dBi.
pub fn internal_gain_dbi(off_deg: f64) -> f64 {
    let angle = off_deg.to_radians();
    1.5 + 1.8 * angle.cos() - 1.2 * (2.0 * angle + 0.6).cos()
}

/// Loss of cable and joints before the gateway, dB: about 8 m of thin cable.
pub fn feed_loss_db(frequency_mhz: f64) -> f64 {
    0.6 + 2.2 * (frequency_mhz / 1800.0).sqrt()
}
