//! What is taken up the ladder: bearing by map, by compass and by landmark, tilt, and what should then be heard.

use super::rank::Choice;
use crate::geo::geodesic::way;
use crate::geo::magnetic::{Declination, declination, magnetic_bearing_deg};
use crate::geo::{GeoPoint, turn_deg};
use crate::model::{Landmark, LandmarkId};
use chrono::NaiveDate;
use serde::{Deserialize, Serialize};

/// The mast's direction beside something seen.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LandmarkAim {
    /// The landmark.
    pub landmark_id: LandmarkId,
    /// Name.
    pub name: String,
    /// Degrees from true north.
    pub bearing_deg: f64,
    /// Distance, m.
    pub distance_m: f64,
    /// Turn from the landmark to the mast, degrees, positive to the right.
    pub turn_deg: f64,
    /// What a landmark placed [`PLACE_DOUBT_M`] wrong turns it by, degrees.
    pub doubt_deg: f64,
}

/// How well a landmark is placed on a plan, m (common practice, no source).
pub const PLACE_DOUBT_M: f64 = 5.0;

/// A card for the person at the antenna.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AimCard {
    /// Which bands are allowed.
    pub choice: Choice,
    /// Magnetic declination, where it is known.
    pub declination: Option<Declination>,
    /// Degrees on a compass; none where there is no declination.
    pub magnetic_deg: Option<f64>,
    /// Nearest to the mast's direction first.
    pub landmarks: Vec<LandmarkAim>,
}

/// The card for a choice at a day. `from`: where the antenna stands.
pub fn card(choice: &Choice, from: GeoPoint, landmarks: &[Landmark], on: NaiveDate) -> AimCard {
    let declination = declination(from, 0.0, on).ok();
    let mut beside: Vec<LandmarkAim> = landmarks
        .iter()
        .filter(|one| one.archived_at.is_none())
        .filter_map(|one| {
            let way = way(from, one.place);
            (way.distance_m > PLACE_DOUBT_M).then(|| LandmarkAim {
                landmark_id: one.id,
                name: one.name.clone(),
                bearing_deg: way.bearing_deg,
                distance_m: way.distance_m,
                turn_deg: turn_deg(way.bearing_deg, choice.bearing_deg),
                doubt_deg: (PLACE_DOUBT_M / way.distance_m).atan().to_degrees(),
            })
        })
        .collect();
    beside.sort_by(|a, b| a.turn_deg.abs().total_cmp(&b.turn_deg.abs()));
    AimCard {
        choice: choice.clone(),
        magnetic_deg: declination
            .map(|found| magnetic_bearing_deg(choice.bearing_deg, found.declination_deg)),
        declination,
        landmarks: beside,
    }
}
