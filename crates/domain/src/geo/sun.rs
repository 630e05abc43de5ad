//! Where the sun stands: nobody should be on a ladder in the dark.

use super::GeoPoint;
use chrono::{DateTime, Utc};

/// Elevation of the sun's centre at sunrise and sunset, degrees: refraction at the horizon and half its width (The Astronomical
/// Almanac, section A).
pub const SUNSET_DEG: f64 = -0.833;

/// Elevation of the sun's centre above the horizon, without refraction, degrees.
///
/// Low-precision formulas of The Astronomical Almanac, section C: the sun's place within 0.01° from 1950 to 2050.
pub fn sun_elevation_deg(place: GeoPoint, at: DateTime<Utc>) -> f64 {
    // Days from noon of 1 January 2000 (JD 2 451 545.0).
    let days = at.timestamp_millis() as f64 / 86_400_000.0 - 10_957.5;
    let mean_longitude = 280.460 + 0.985_647_4 * days;
    let anomaly = (357.528 + 0.985_600_3 * days).to_radians();
    let longitude = (mean_longitude + 1.915 * anomaly.sin() + 0.020 * (2.0 * anomaly).sin()).to_radians();
    let obliquity = (23.439 - 0.000_000_4 * days).to_radians();
    let right_ascension = (obliquity.cos() * longitude.sin()).atan2(longitude.cos());
    let declination = (obliquity.sin() * longitude.sin()).asin();
    let sidereal_deg = 15.0 * (18.697_374_558 + 24.065_709_824_419_08 * days);
    let hour_angle = (sidereal_deg + place.longitude_deg).to_radians() - right_ascension;
    let latitude = place.latitude_deg.to_radians();
    let sine = latitude.sin() * declination.sin() + latitude.cos() * declination.cos() * hour_angle.cos();
    sine.clamp(-1.0, 1.0).asin().to_degrees()
}

/// Whether the sun is down.
pub fn is_dark(place: GeoPoint, at: DateTime<Utc>) -> bool {
    sun_elevation_deg(place, at) < SUNSET_DEG
}
