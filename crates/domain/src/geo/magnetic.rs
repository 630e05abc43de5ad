//! Magnetic declination: the World Magnetic Model 2025, by the crate that carries its coefficients.

use super::{GeoPoint, normalise_bearing_deg};
use chrono::{Datelike, NaiveDate};
use serde::{Deserialize, Serialize};
use world_magnetic_model::GeomagneticField;
use world_magnetic_model::time::Date;
use world_magnetic_model::uom::si::angle::degree;
use world_magnetic_model::uom::si::f32::{Angle, Length};
use world_magnetic_model::uom::si::length::meter;

/// How far a compass points from true north.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Declination {
    /// Degrees, positive where the needle points east of true north.
    pub declination_deg: f64,
    /// One standard deviation of the model, degrees; iron nearby is not in it.
    pub uncertainty_deg: f64,
}

/// Why there is none.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum MagneticError {
    /// The date is outside the model's years.
    #[error("The magnetic model holds from 2020 to the end of 2029. Use a date in that span.")]
    Date,
    /// The place is not on earth.
    #[error("Near the magnetic poles and outside the earth's coordinates a compass has no declination.")]
    Place,
}

/// Declination at a place and day.
///
/// # Errors
/// [`MagneticError`].
pub fn declination(at: GeoPoint, height_m: f64, on: NaiveDate) -> Result<Declination, MagneticError> {
    let point = at.check().map_err(|_| MagneticError::Place)?;
    if !(2020..2030).contains(&on.year()) {
        return Err(MagneticError::Date);
    }
    let day = Date::from_ordinal_date(on.year(), on.ordinal() as u16).map_err(|_| MagneticError::Date)?;
    let field = GeomagneticField::new(
        Length::new::<meter>(height_m as f32),
        Angle::new::<degree>(point.latitude_deg as f32),
        Angle::new::<degree>(point.longitude_deg as f32),
        day,
    )
    .map_err(|_| MagneticError::Place)?;
    Ok(Declination {
        declination_deg: f64::from(field.declination().get::<degree>()),
        uncertainty_deg: f64::from(field.declination_uncertainty().get::<degree>()),
    })
}

/// What a compass shows for a true bearing, degrees, 0..360: true less declination.
///
/// ```
/// // Where the needle points 5° east, a mast at 143° true is at 138° on the compass.
/// assert_eq!(open_beacon_domain::geo::magnetic::magnetic_bearing_deg(143.0, 5.0), 138.0);
/// ```
pub fn magnetic_bearing_deg(true_bearing_deg: f64, declination_deg: f64) -> f64 {
    normalise_bearing_deg(true_bearing_deg - declination_deg)
}
