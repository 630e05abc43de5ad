//! A path cut open: the ground below it, what stands on it, and what height brings at its end.

use super::rank::{Choice, Question, choices_at};
use crate::capacity::Estimate;
use crate::geo::geodesic::STANDARD_K_FACTOR;
use crate::link::environment::Environment;
use crate::link::landscape::{AntennaLocation, WhatIf};
use crate::model::{Obstacle, ObstacleKind, Position};
use crate::propagation::p525::{earth_bulge_m, fresnel_radius_m};
use serde::Serialize;

/// One point of the ground below the path.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SlicePoint {
    /// Distance, m.
    pub distance_m: f64,
    /// Ground with the earth's bulge, m above the chord at sea level.
    pub ground_m: f64,
    /// The line between the antennas there.
    pub line_m: f64,
    /// Radius of the first Fresnel zone on the lowest band, m.
    pub fresnel_m: f64,
}

/// Trees or a building on the path.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SliceObstacle {
    /// Name.
    pub name: String,
    /// Kind.
    pub kind: ObstacleKind,
    /// Where it begins, m from the antenna.
    pub from_m: f64,
    /// Where it ends, m.
    pub to_m: f64,
    /// Top above ground, m.
    pub height_m: f64,
}

/// Signal at one height.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HeightPoint {
    /// Height above ground, m.
    pub height_m: f64,
    /// On the band that moves the most.
    pub rsrp_dbm: Estimate,
    /// Signal to interference and noise ratio, dB.
    pub sinr_db: Estimate,
    /// Download, Mbit/s.
    pub down_mbps: Estimate,
}

/// A path cut open; all of it is empty without terrain but the frequency.
#[derive(Clone, Debug, PartialEq)]
pub struct Slice {
    /// Points, in order.
    pub points: Vec<SlicePoint>,
    /// Buildings and trees.
    pub obstacles: Vec<SliceObstacle>,
    /// MHz that zone and clearance are drawn for.
    pub frequency_mhz: f64,
}

/// Most points of a slice: more than a screen has across adds nothing.
const DRAWN: usize = 400;
/// Drawn for where a mast's bands are not known, MHz (common practice, no source).
const USUAL_MHZ: f64 = 800.0;

/// The slice from an antenna at `location` to the mast numbered `mast`. `earth_factor` is the k of the bent ray,
/// [`STANDARD_K_FACTOR`] where not said (ITU-R P.530).
pub fn slice(
    env: &Environment,
    obstacles: &[Obstacle],
    chosen: &Choice,
    location: AntennaLocation,
    mast: usize,
    earth_factor: Option<f64>,
) -> Slice {
    let landscape = &env.landscape;
    let masts = landscape.masts;
    let frequency_mhz = chosen.bands.first().map_or(USUAL_MHZ, |band| band.frequency_mhz);
    let route = landscape.route(location.place.unwrap_or(masts[mast].place), mast);
    let Some(cut) = route.cut() else {
        return Slice { points: Vec::new(), obstacles: Vec::new(), frequency_mhz };
    };
    let last = cut.distances_m.len() - 1;
    let length_m = cut.distances_m[last];
    let first_m = cut.ground_m[0] + location.height_m;
    let last_m = cut.ground_m[last] + landscape.mast_height_m(&masts[mast]);
    let k = earth_factor.unwrap_or(STANDARD_K_FACTOR);
    let every = last.div_ceil(DRAWN).max(1);
    let point = |index: usize| {
        let distance_m = cut.distances_m[index];
        let inside = distance_m > 0.0 && distance_m < length_m;
        let zone_m = || fresnel_radius_m(length_m, distance_m, frequency_mhz);
        SlicePoint {
            distance_m,
            ground_m: cut.ground_m[index] + earth_bulge_m(length_m, distance_m, k),
            line_m: first_m + (last_m - first_m) * distance_m / length_m,
            fresnel_m: if inside { zone_m() } else { 0.0 },
        }
    };
    let points = (0..=last).filter(|index| index % every == 0 || *index == last).map(point).collect();
    let crossed = route.crossings();
    let obstacles = crossed
        .iter()
        .map(|crossing| {
            let one = &obstacles[crossing.obstacle];
            let (name, kind, height_m) = (one.name.clone(), one.kind, one.height_m);
            SliceObstacle { name, kind, from_m: crossing.from_m, to_m: crossing.to_m, height_m }
        })
        .collect();
    Slice { points, obstacles, frequency_mhz }
}

/// Signal at heights from 1 m to 8 m above where the antenna is meant to be (12 m at the least), towards the mast of `chosen`.
pub fn height_curve(
    env: &Environment,
    question: &Question,
    position: &Position,
    location: AntennaLocation,
    chosen: &Choice,
) -> Vec<HeightPoint> {
    let own_m = position.height_above_ground_m.unwrap_or(location.height_m);
    let top_m = (own_m.max(location.height_m) + 8.0).max(12.0);
    let steps = 16;
    let at = |height_m: f64| {
        let raised = AntennaLocation { height_m, ..location };
        let all = choices_at(env, question, position, raised, height_m - own_m, WhatIf::default());
        let one = all.into_iter().find(|one| one.mast_id == chosen.mast_id)?;
        let band = one.bands.first()?;
        Some(HeightPoint {
            height_m,
            rsrp_dbm: band.rsrp_dbm,
            sinr_db: band.sinr_db,
            down_mbps: one.down_mbps,
        })
    };
    (0..=steps).filter_map(|step| at(1.0 + (top_m - 1.0) * f64::from(step) / f64::from(steps))).collect()
}
