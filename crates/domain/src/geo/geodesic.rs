//! Distances, bearings and elevation angles on the earth: the geodesic of Karney (2013) on WGS 84, and the 4/3 earth of
//! ITU-R P.530 for what refraction does.

use super::{GeoPoint, normalise_bearing_deg};
use geographiclib_rs::{DirectGeodesic, Geodesic as Ellipsoid, InverseGeodesic};
use serde::{Deserialize, Serialize};

/// The way from one point to another.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Geodesic {
    /// Along the ellipsoid, m.
    pub distance_m: f64,
    /// At the first point, degrees from true north, 0..360.
    pub bearing_deg: f64,
    /// At the second point, looking back, degrees from true north, 0..360.
    pub back_bearing_deg: f64,
}

/// Mean radius of the earth, m (WGS 84, rounded as ITU-R P.452 has it).
pub const EARTH_RADIUS_M: f64 = 6_371_000.0;
/// Effective earth radius factor of an ordinary atmosphere: ITU-R P.530 clause 2.2.
pub const STANDARD_K_FACTOR: f64 = 4.0 / 3.0;

/// Distance and bearings between two points; bearing 0 where they are the same.
///
/// ```
/// use open_beacon_domain::geo::{GeoPoint, geodesic::way};
/// // One degree of latitude at the equator on WGS 84 is 110 574.4 m.
/// let at = |latitude_deg, longitude_deg| GeoPoint { latitude_deg, longitude_deg };
/// let north = way(at(0.0, 10.0), at(1.0, 10.0));
/// assert!((north.distance_m - 110_574.4).abs() < 0.1 && north.bearing_deg == 0.0);
/// assert_eq!(north.back_bearing_deg, 180.0);
/// ```
pub fn way(from: GeoPoint, to: GeoPoint) -> Geodesic {
    let earth = Ellipsoid::wgs84();
    let (distance_m, leaving_deg, arriving_deg, _arc_deg): (f64, f64, f64, f64) =
        earth.inverse(from.latitude_deg, from.longitude_deg, to.latitude_deg, to.longitude_deg);
    Geodesic {
        distance_m,
        bearing_deg: normalise_bearing_deg(leaving_deg),
        back_bearing_deg: normalise_bearing_deg(arriving_deg + 180.0),
    }
}

/// The point at a distance along a bearing.
pub fn point_along(from: GeoPoint, bearing_deg: f64, distance_m: f64) -> GeoPoint {
    let (latitude_deg, longitude_deg): (f64, f64) =
        Ellipsoid::wgs84().direct(from.latitude_deg, from.longitude_deg, bearing_deg, distance_m);
    GeoPoint { latitude_deg, longitude_deg }
}

/// Angle above the horizon at which a far point is seen, degrees: atan((h2 − h1)/d − d/(2 k R)). Heights above sea level,
/// m; `distance_m` above 0; `k`: effective earth radius factor, [`STANDARD_K_FACTOR`] for an ordinary atmosphere.
///
/// ```
/// use open_beacon_domain::geo::geodesic::{STANDARD_K_FACTOR, elevation_angle_deg};
/// // Worked by hand: 200 m higher at 5 km: 0.04 − 0.000294 rad, 2.274°.
/// assert!((elevation_angle_deg(100.0, 300.0, 5000.0, STANDARD_K_FACTOR) - 2.274).abs() < 1e-3);
/// ```
pub fn elevation_angle_deg(height_m: f64, far_height_m: f64, distance_m: f64, k: f64) -> f64 {
    let slope = (far_height_m - height_m) / distance_m - distance_m / (2.0 * k * EARTH_RADIUS_M);
    slope.atan().to_degrees()
}
