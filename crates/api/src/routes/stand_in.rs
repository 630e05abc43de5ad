//! The stand-in antenna of demo and rehearsal: hands must turn a real one.

use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::model::{AntennaSwitch, Position, SetupSpec, SiteId, SiteSettings};
use open_beacon_outbound::send;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_pose, put_pose))
}

/// How the stand-in antenna stands and points.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Pose {
    pub latitude_deg: f64,
    pub longitude_deg: f64,
    pub height_above_ground_m: f64,
    /// A mount as positions have it.
    pub mount: String,
    /// `internal` or `external`.
    pub antenna: String,
    /// Degrees from true north.
    pub azimuth_deg: f64,
    pub tilt_deg: f64,
}

async fn address(app: &AppState, id: SiteId) -> Result<String, Problem> {
    let settings = app.db(move |store| store.settings(id)).await?;
    let address =
        settings.stand_in_url.ok_or_else(|| Problem::not_found("This site has no stand-in antenna."))?;
    Ok(format!("{}/antenna", address.trim_end_matches('/')))
}

fn silent() -> Problem {
    Problem::device("The stand-in antenna does not answer. Is the demo still running?")
}

/// How the stand-in antenna stands now.
#[utoipa::path(get, path = "/api/sites/{id}/stand-in", params(("id" = SiteId, Path)),
    responses((status = 200, body = Pose), (status = 404, body = Problem), (status = 502, body = Problem)))]
async fn get_pose(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Json<Pose>, Problem> {
    let answer = send(app.http.get(address(&app, id).await?)).await.map_err(|_| silent())?;
    answer.json().await.map(Json).map_err(|_| silent())
}

/// Turns the stand-in antenna by hand.
#[utoipa::path(put, path = "/api/sites/{id}/stand-in", params(("id" = SiteId, Path)), request_body = Pose,
    responses((status = 204), (status = 404, body = Problem), (status = 502, body = Problem)))]
async fn put_pose(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(pose): Body<Pose>,
) -> Result<StatusCode, Problem> {
    turn(&app, &address(&app, id).await?, &pose).await?;
    Ok(StatusCode::NO_CONTENT)
}

async fn turn(app: &AppState, address: &str, pose: &Pose) -> Result<(), Problem> {
    let answer = send(app.http.put(address).json(pose)).await.map_err(|_| silent())?;
    if answer.status().is_success() { Ok(()) } else { Err(Problem::device("The stand-in antenna refused.")) }
}

impl Pose {
    fn of(setup: &SetupSpec, position: &Position, place: GeoPoint) -> Self {
        let mount = serde_json::to_value(position.mount).ok();
        let antenna = match setup.antenna {
            AntennaSwitch::Internal => "internal",
            AntennaSwitch::External => "external",
        };
        Self {
            latitude_deg: place.latitude_deg,
            longitude_deg: place.longitude_deg,
            height_above_ground_m: position.height_above_ground_m.unwrap_or(2.0),
            mount: mount.and_then(|word| word.as_str().map(str::to_owned)).unwrap_or_default(),
            antenna: antenna.into(),
            azimuth_deg: setup.azimuth_deg.unwrap_or(0.0),
            tilt_deg: setup.tilt_deg.unwrap_or(0.0),
        }
    }
}

/// Turns the stand-in antenna to the setup being worked on, where the site has one and it follows. A stand-in that
/// does not answer is no reason to refuse what the user did.
pub(super) async fn follow(app: &AppState, site: SiteId, settings: &SiteSettings) {
    let (Some(_), true, Some(setup_id)) =
        (&settings.stand_in_url, settings.stand_in_follows, settings.active_setup_id)
    else {
        return;
    };
    let found = app
        .db(move |store| {
            let setup = store.setup(setup_id)?;
            if store.is_asleep(site)? {
                return Err(open_beacon_store::StoreError::Refused("asleep".into()));
            }
            Ok((store.position(setup.position_id)?, setup, store.site(site)?))
        })
        .await;
    let (Ok((position, setup, site_row)), Ok(address)) = (found, address(app, site).await) else { return };
    let Some(place) = position.place.or(site_row.place) else { return };
    let pose = Pose::of(&setup.spec, &position, place);
    if let Err(problem) = turn(app, &address, &pose).await {
        tracing::warn!(detail = problem.detail, "stand-in");
    }
}
