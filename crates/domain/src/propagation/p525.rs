//! ITU-R P.525: loss in free space; and the first Fresnel zone and the earth's bulge of P.530.

/// Speed of light, m/s.
const LIGHT_M_S: f64 = 299_792_458.0;

/// Wavelength, m.
pub fn wavelength_m(frequency_mhz: f64) -> f64 {
    LIGHT_M_S / (frequency_mhz * 1e6)
}

/// Basic transmission loss in free space, dB: 20 lg (4π d/λ). `distance_m` and `frequency_mhz` above 0.
///
/// ```
/// // P.525 (3): 32.4 + 20 lg f + 20 lg d, MHz and km: 1800 MHz and 5 km: 111.5 dB.
/// let loss = open_beacon_domain::propagation::p525::free_space_loss_db(5000.0, 1800.0);
/// assert!((loss - 111.53).abs() < 0.01);
/// ```
pub fn free_space_loss_db(distance_m: f64, frequency_mhz: f64) -> f64 {
    20.0 * (4.0 * std::f64::consts::PI * distance_m / wavelength_m(frequency_mhz)).log10()
}

/// Radius of the first Fresnel zone, m, at `from_m` on a path of `distance_m`: √(λ d1 d2/d), P.530 clause 2.2.
///
/// ```
/// // Worked by hand: 1800 MHz, in the middle of 5 km: √(0.16655 · 2500 · 2500 / 5000) = 14.43 m.
/// let radius = open_beacon_domain::propagation::p525::fresnel_radius_m(5000.0, 2500.0, 1800.0);
/// assert!((radius - 14.429).abs() < 0.001);
/// ```
pub fn fresnel_radius_m(distance_m: f64, from_m: f64, frequency_mhz: f64) -> f64 {
    (wavelength_m(frequency_mhz) * from_m * (distance_m - from_m) / distance_m).max(0.0).sqrt()
}

/// How far the earth bulges above the chord at `from_m`, m: d1 d2/(2 k R).
///
/// ```
/// use open_beacon_domain::geo::geodesic::STANDARD_K_FACTOR;
/// // Worked by hand: the middle of 20 km: 10⁴ · 10⁴ / (2 · 4/3 · 6.371·10⁶) = 5.886 m.
/// let bulge = open_beacon_domain::propagation::p525::earth_bulge_m(20_000.0, 10_000.0, STANDARD_K_FACTOR);
/// assert!((bulge - 5.886).abs() < 0.001);
/// ```
pub fn earth_bulge_m(distance_m: f64, from_m: f64, k: f64) -> f64 {
    from_m * (distance_m - from_m) / (2.0 * k * crate::geo::geodesic::EARTH_RADIUS_M)
}
