//! ITU-R P.2109 (edition 1, 2019): building entry loss, a statistic over buildings. It has no attic case.

use crate::model::Building;
use statrs::distribution::{ContinuousCDF, Normal};

/// Table 1 of the Recommendation: r, s, t, u, v, w, x, y, z.
const fn coefficients(building: Building) -> [f64; 9] {
    match building {
        Building::Traditional => [12.64, 3.72, 0.96, 9.6, 2.0, 9.1, -3.0, 4.5, -2.0],
        Building::ThermallyEfficient => [28.19, -3.0, 8.48, 13.5, 3.8, 27.8, -2.9, 9.4, -2.1],
    }
}

/// Loss that a share of buildings and places in them stays below, dB: equation (1).
///
/// `frequency_mhz`: 80..=100000. `elevation_deg`: of the path at the wall, the sign does not matter. `share`: 0..1,
/// not included. `None` outside.
pub fn building_entry_loss_db(
    building: Building,
    frequency_mhz: f64,
    elevation_deg: f64,
    share: f64,
) -> Option<f64> {
    if !((80.0..=100_000.0).contains(&frequency_mhz) && share > 0.0 && share < 1.0) {
        return None;
    }
    let [r, s, t, u, v, w, x, y, z] = coefficients(building);
    let lg_f = (frequency_mhz / 1000.0).log10();
    let horizontal = r + s * lg_f + t * lg_f * lg_f;
    let mean_1 = horizontal + 0.212 * elevation_deg.abs();
    let mean_2 = w + x * lg_f;
    let (deviation_1, deviation_2) = (u + v * lg_f, y + z * lg_f);
    let normal = Normal::new(0.0, 1.0).ok()?.inverse_cdf(share);
    let (a, b, c) = (normal * deviation_1 + mean_1, normal * deviation_2 + mean_2, -3.0);
    let power = |db: f64| 10f64.powf(0.1 * db);
    Some(10.0 * (power(a) + power(b) + power(c)).log10())
}
