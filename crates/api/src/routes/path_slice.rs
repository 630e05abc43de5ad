//! One path: the slice from antenna to mast, and what height brings.

use super::survey::{ChoiceSaid, choice_of};
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use open_beacon_core::capacity::Estimate;
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::model::{MastId, ObstacleKind, PositionId, SiteId};
use open_beacon_core::propagation::p525::{earth_bulge_m, fresnel_radius_m};
use open_beacon_core::survey::rank::{Choice, choices_at};
use open_beacon_core::survey::say;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(path_slice))
}

/// A path that is asked for.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct SliceRequest {
    pub position: PositionId,
    pub mast: MastId,
    /// m above ground; the position's own where not said.
    #[serde(default)]
    pub height_m: Option<f64>,
}

/// One point of the ground below the path.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct SlicePoint {
    pub distance_m: f64,
    /// Ground with the earth's bulge, m above the chord at sea level.
    pub ground_m: f64,
    /// The line between the antennas there.
    pub line_m: f64,
    /// Radius of the first Fresnel zone on the lowest band, m.
    pub fresnel_m: f64,
}

/// Trees or a building on the path.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SliceObstacle {
    pub name: String,
    pub kind: ObstacleKind,
    pub from_m: f64,
    pub to_m: f64,
    /// Top above ground, m.
    pub height_m: f64,
}

/// Signal at one height.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct HeightPoint {
    pub height_m: f64,
    /// On the band that moves the most.
    pub rsrp_dbm: Estimate,
    pub sinr_db: Estimate,
    pub down_mbps: Estimate,
}

/// A path taken apart.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SliceView {
    pub choice: Choice,
    pub said: ChoiceSaid,
    /// Empty without terrain.
    pub points: Vec<SlicePoint>,
    pub obstacles: Vec<SliceObstacle>,
    /// MHz that zone and clearance are drawn for.
    pub frequency_mhz: f64,
    pub curve: Vec<HeightPoint>,
}

/// Most points of a drawn slice.
const DRAWN: usize = 400;

/// A path with its slice, its figures and the curve of signal against height.
#[utoipa::path(post, path = "/api/sites/{id}/survey/path", params(("id" = SiteId, Path)), request_body = SliceRequest,
    responses((status = 200, body = SliceView), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn path_slice(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<SliceRequest>,
) -> Result<Json<SliceView>, Problem> {
    app.record(id, move |data| {
        let (position, location) = data.location(asked.position, asked.height_m)?;
        let mast = data.mast_at(asked.mast)?;
        let chosen = choice_of(data, position, location, mast)?;
        let place = location.place.unwrap_or(data.masts[mast].place);
        let own_m = position.height_above_ground_m.unwrap_or(location.height_m);
        let style = data.style();
        data.with(|air| {
            let question = air.question();
            let landscape = &air.env.landscape;
            let at = |height_m: f64| {
                let location = AntennaLocation { height_m, ..location };
                let raised_m = height_m - own_m;
                choices_at(air.env, &question, position, location, raised_m, WhatIf::default())
                    .into_iter()
                    .find(|one| one.mast_id == data.masts[mast].id)
            };
            let route = landscape.route(place, mast);
            let frequency_mhz = chosen.bands.first().map_or(800.0, |band| band.frequency_mhz);
            let (mut points, mut obstacles) = (Vec::new(), Vec::new());
            if let Some(cut) = route.cut() {
                let last = cut.distances_m.len() - 1;
                let length_m = cut.distances_m[last];
                let first_m = cut.ground_m[0] + location.height_m;
                let last_m = cut.ground_m[last] + landscape.mast_height_m(&data.masts[mast]);
                let k = data
                    .settings
                    .survey
                    .earth_factor
                    .unwrap_or(open_beacon_core::geo::geodesic::STANDARD_K_FACTOR);
                let every = last.div_ceil(DRAWN).max(1);
                points = (0..=last)
                    .filter(|index| index % every == 0 || *index == last)
                    .map(|index| {
                        let distance_m = cut.distances_m[index];
                        let inside = distance_m > 0.0 && distance_m < length_m;
                        SlicePoint {
                            distance_m,
                            ground_m: cut.ground_m[index] + earth_bulge_m(length_m, distance_m, k),
                            line_m: first_m + (last_m - first_m) * distance_m / length_m,
                            fresnel_m: if inside {
                                fresnel_radius_m(length_m, distance_m, frequency_mhz)
                            } else {
                                0.0
                            },
                        }
                    })
                    .collect();
                obstacles = route
                    .crossings()
                    .iter()
                    .map(|crossing| {
                        let one = &data.obstacles[crossing.obstacle];
                        SliceObstacle {
                            name: one.name.clone(),
                            kind: one.kind,
                            from_m: crossing.from_m,
                            to_m: crossing.to_m,
                            height_m: one.height_m,
                        }
                    })
                    .collect();
            }
            let top_m = (own_m.max(location.height_m) + 8.0).max(12.0);
            let steps = 16;
            let curve = (0..=steps)
                .map(|step| 1.0 + (top_m - 1.0) * f64::from(step) / f64::from(steps))
                .filter_map(|height_m| {
                    let one = at(height_m)?;
                    let band = one.bands.first()?;
                    Some(HeightPoint {
                        height_m,
                        rsrp_dbm: band.rsrp_dbm,
                        sinr_db: band.sinr_db,
                        down_mbps: one.down_mbps,
                    })
                })
                .collect();
            Ok(SliceView {
                said: ChoiceSaid {
                    source: say::source(&chosen.source, style),
                    clearance: chosen.clearance.map(|found| say::clearance(&found, &data.obstacles, style)),
                    access: say::access(chosen.access).into(),
                },
                choice: chosen,
                points,
                obstacles,
                frequency_mhz,
                curve,
            })
        })
    })
    .await
    .map(Json)
}
