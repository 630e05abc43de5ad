//! Points and bearings. Bearings are degrees clockwise from true north (north 0, east 90).

pub mod coordinates;
pub mod geodesic;
pub mod magnetic;
pub mod sun;

use serde::{Deserialize, Serialize};

/// A point on the WGS 84 ellipsoid.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GeoPoint {
    /// Latitude, degrees, −90..=90, north positive.
    #[cfg_attr(feature = "schema", schema(minimum = -90.0, maximum = 90.0))]
    pub latitude_deg: f64,
    /// Longitude, degrees, −180..=180, east positive.
    #[cfg_attr(feature = "schema", schema(minimum = -180.0, maximum = 180.0))]
    pub longitude_deg: f64,
}

/// Why a point cannot be one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PointError {
    /// Beyond a pole.
    #[error("Latitude runs from −90 to 90 degrees. Were latitude and longitude swapped?")]
    Latitude,
    /// Beyond the date line.
    #[error("Longitude runs from −180 to 180 degrees.")]
    Longitude,
}

impl GeoPoint {
    /// Checks that both coordinates lie in their ranges.
    pub fn check(self) -> Result<Self, PointError> {
        if !(-90.0..=90.0).contains(&self.latitude_deg) {
            Err(PointError::Latitude)
        } else if !(-180.0..=180.0).contains(&self.longitude_deg) {
            Err(PointError::Longitude)
        } else {
            Ok(self)
        }
    }
}

/// Brings any bearing into 0..360 degrees.
///
/// ```
/// assert_eq!(open_beacon_domain::geo::normalise_bearing_deg(-90.0), 270.0);
/// ```
pub fn normalise_bearing_deg(bearing_deg: f64) -> f64 {
    let turned = bearing_deg.rem_euclid(360.0);
    // rem_euclid of a tiny negative number rounds up to 360 itself.
    if turned >= 360.0 { 0.0 } else { turned }
}

/// Smallest turn from `from_deg` to `to_deg`, degrees in (−180, 180], positive clockwise.
pub fn turn_deg(from_deg: f64, to_deg: f64) -> f64 {
    let turn = normalise_bearing_deg(to_deg - from_deg);
    if turn > 180.0 { turn - 360.0 } else { turn }
}
