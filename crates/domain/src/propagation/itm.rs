//! Irregular Terrain Model (Hufford, The ITS Irregular Terrain Model, version 1.2.2: the algorithm; NTIA Report 82-100): how the loss of a
//! path changes from hour to hour over a year. Its loss itself is not used.

/// A curve of the model: (c₁ + c₂ / (1 + ((d − x₂) / x₃)²)) · (d/x₁)² / (1 + (d/x₁)²), by the effective distance in m.
fn curve(level: (f64, f64), scale_m: [f64; 3], effective_m: f64) -> f64 {
    let near = (effective_m / scale_m[0]).powi(2);
    let far = (effective_m - scale_m[1]) / scale_m[2];
    (level.0 + level.1 / (1.0 + far * far)) * near / (1.0 + near)
}

/// Standard deviation of hourly medians below the year's median in a continental temperate climate, dB: next to nothing on short
/// paths. `heights_m`: of both antennas above ground, 0.5 m and more; 20 MHz to 20 GHz.
///
/// ```
/// use open_beacon_domain::propagation::itm::hourly_spread_db;
/// // Next to nothing at 5 km, decibels where the path goes beyond the horizon.
/// assert!(hourly_spread_db(5_000.0, [6.0, 40.0], 1800.0) < 0.2);
/// assert!(hourly_spread_db(80_000.0, [6.0, 40.0], 1800.0) > 4.0);
/// ```
pub fn hourly_spread_db(distance_m: f64, heights_m: [f64; 2], frequency_mhz: f64) -> f64 {
    // Wave number, 1/m.
    let wave = frequency_mhz / 47.7;
    let horizons_m: f64 = heights_m.iter().map(|height_m| (18e6 * height_m.max(0.5)).sqrt()).sum();
    let reach_m = horizons_m + (575.7e12 / wave).cbrt();
    let effective_m =
        if distance_m < reach_m { 130e3 * distance_m / reach_m } else { 130e3 + distance_m - reach_m };
    let by_frequency = 0.92 + 0.25 / ((1.77 * (0.133 * wave).ln()).powi(2) + 1.0);
    curve((2.68, 7.16), [93.7e3, 186.8e3, 133.5e3], effective_m) * by_frequency
}
