//! Which mast a setup is aimed at.

use crate::geo::geodesic::way;
use crate::geo::{GeoPoint, turn_deg};
use crate::model::{Mast, Setup, SetupOrigin};

/// A mast farther than this beside the antenna's bearing is not what it was aimed at, degrees (common practice, no source).
const BESIDE_DEG: f64 = 20.0;

/// The mast that the survey chose for a setup; else the nearest the way it points. `from`: where the antenna stands, if known.
pub fn mast_aimed_at<'a>(setup: &Setup, from: Option<GeoPoint>, masts: &'a [Mast]) -> Option<&'a Mast> {
    let in_use = || masts.iter().filter(|mast| mast.archived_at.is_none());
    let chosen = match setup.origin {
        SetupOrigin::SurveyChoice { mast_id } => in_use().find(|mast| Some(mast.id) == mast_id),
        _ => None,
    };
    let ahead = || {
        let (from, azimuth) = (from?, setup.spec.azimuth_deg?);
        let ways = in_use().map(|mast| (mast, way(from, mast.place)));
        let near = ways.filter(|(_, way)| turn_deg(azimuth, way.bearing_deg).abs() <= BESIDE_DEG);
        near.min_by(|(_, a), (_, b)| a.distance_m.total_cmp(&b.distance_m)).map(|(mast, _)| mast)
    };
    chosen.or_else(ahead)
}
