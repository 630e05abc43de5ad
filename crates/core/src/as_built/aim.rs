//! Where the antenna looks: by the compass of the day, and at which mast.

use crate::geo::GeoPoint;
use crate::geo::geodesic::way;
use crate::geo::magnetic::{declination, magnetic_bearing_deg};
use crate::judge::{RadioDigest, mast_aimed_at};
use crate::link::matching::{Fit, matches};
use crate::model::{AsBuiltAim, Carrier, Mast, Setup};
use chrono::NaiveDate;

/// The aim of a setup. `from`: where the antenna stands, if known; `heard`: what the gateway heard on it; `on`: the day of the compass.
pub fn aim(
    setup: &Setup,
    from: Option<GeoPoint>,
    masts: &[Mast],
    heard: &RadioDigest,
    on: NaiveDate,
) -> AsBuiltAim {
    let azimuth_deg = setup.spec.azimuth_deg;
    let declination_deg = from.and_then(|from| Some(declination(from, 0.0, on).ok()?.declination_deg));
    let mast = serving(setup, from, masts, heard);
    let way = mast.zip(from).map(|(mast, from)| way(from, mast.place));
    AsBuiltAim {
        compass_deg: azimuth_deg
            .zip(declination_deg)
            .map(|(azimuth, east)| magnetic_bearing_deg(azimuth, east)),
        declination_deg,
        mast: mast.map(|mast| mast.name.clone()),
        mast_bearing_deg: way.map(|way| way.bearing_deg),
        mast_distance_m: way.map(|way| way.distance_m),
    }
}

/// The mast whose cells were heard most; else the one it was aimed at; else the nearest the way it points.
fn serving<'a>(
    setup: &Setup,
    from: Option<GeoPoint>,
    masts: &'a [Mast],
    heard: &RadioDigest,
) -> Option<&'a Mast> {
    let carriers: Vec<Carrier> = heard.carriers.iter().map(|one| one.typical()).collect();
    let found = matches(&carriers, masts, from);
    let samples_of = |mast: &Mast, fit: Fit| -> usize {
        let own = found.iter().filter(|one| one.mast_id == mast.id && one.fit == fit);
        own.map(|one| heard.carriers[one.carrier].samples).sum()
    };
    let by_cells = |fit: Fit| {
        masts.iter().filter(|mast| samples_of(mast, fit) > 0).max_by_key(|mast| samples_of(mast, fit))
    };
    by_cells(Fit::Confirmed).or_else(|| by_cells(Fit::Possible)).or_else(|| mast_aimed_at(setup, from, masts))
}
