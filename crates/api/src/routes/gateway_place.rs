//! Where the gateway itself stands, where bands stay on its own antennas.

use crate::problem::{Body, Path, Problem};
use crate::site_record::SiteRecord;
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use chrono::Utc;
use open_beacon_core::check::Checker;
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::model::{BandName, Carrier, Setup, SetupId, SetupOrigin, SetupSpec};
use open_beacon_core::protocol::{gateway_turns, inner_bands};
use open_beacon_core::words;
use open_beacon_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_gateway_place, make_turns))
}

/// What the gateway's own place matters for.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct GatewayPlaceView {
    pub title: String,
    /// How it is tested.
    pub detail: String,
    /// Ways of standing that no setup has yet.
    pub untried: usize,
}

/// Identifiers for the setups to be made, made by the client (UUIDv7), as many as are untried, four for another place.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct TurnGateway {
    pub setup_ids: Vec<SetupId>,
    /// Another place for the gateway; none for where it stands.
    #[serde(default)]
    pub place: Option<String>,
}

fn bands(data: &SiteRecord, id: SetupId) -> Vec<BandName> {
    let of = |one: &Carrier| Some(BandName { technology: one.technology, band: one.band? });
    let carriers = data.by_gateway().flat_map(|spot| &spot.carriers);
    let mut heard: Vec<BandName> = carriers.filter_map(|one| of(&one.carrier)).collect();
    heard.sort();
    heard.dedup();
    let kit = data.kit_of(id);
    kit.map_or(Vec::new(), |kit| inner_bands(&Resolved::new(kit, &data.catalogue), &heard))
}

/// Why the gateway's own place matters for a setup; null where no band stays on its own antennas.
#[utoipa::path(get, path = "/api/setups/{id}/gateway-place", params(("id" = SetupId, Path)),
    responses((status = 200, body = Option<GatewayPlaceView>), (status = 404, body = Problem)))]
async fn get_gateway_place(
    State(app): State<AppState>,
    Path(id): Path<SetupId>,
) -> Result<Json<Option<GatewayPlaceView>>, Problem> {
    let site = app.db(move |store| store.site_of_setup(id)).await?;
    app.record(site, move |data| Ok(Json(view(data, id)))).await
}

fn view(data: &SiteRecord, id: SetupId) -> Option<GatewayPlaceView> {
    let own = data.setups.iter().find(|one| one.setup.id == id)?;
    let others: Vec<&Setup> = data.setups.iter().map(|one| &one.setup).collect();
    let untried = gateway_turns(&own.setup, None, &others).len();
    let bands = bands(data, id);
    (!bands.is_empty()).then(|| GatewayPlaceView {
        title: words::gateway_place::title(&bands),
        detail: words::gateway_place::detail(untried),
        untried,
    })
}

/// Makes a setup for each way that the gateway can face with the antenna left alone: the Log stage lists them as untested, Verdict judges
/// them like any other.
#[utoipa::path(post, path = "/api/setups/{id}/gateway-place", params(("id" = SetupId, Path)), request_body = TurnGateway,
    responses((status = 201, body = Vec<Setup>), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn make_turns(
    State(app): State<AppState>,
    Path(id): Path<SetupId>,
    Body(asked): Body<TurnGateway>,
) -> Result<(StatusCode, Json<Vec<Setup>>), Problem> {
    Problem::unless_valid(
        Checker::default().short("/place", asked.place.as_deref().unwrap_or_default()).done(),
    )?;
    let (site, setups) =
        app.db(move |store| Ok((store.site_of_setup(id)?, turned(store, id, &asked)?))).await?;
    app.changed(site);
    Ok((StatusCode::CREATED, Json(setups)))
}

fn turned(store: &Store, id: SetupId, asked: &TurnGateway) -> Result<Vec<Setup>, StoreError> {
    let base = store.setup(id)?;
    let all = store.setups(store.site_of_setup(id)?)?;
    // Those of the same request sent twice are not in its way.
    let others: Vec<&Setup> = all.iter().filter(|one| !asked.setup_ids.contains(&one.id)).collect();
    let specs = gateway_turns(&base, asked.place.as_deref(), &others);
    let make = |(mut spec, setup_id): (SetupSpec, &SetupId)| {
        spec.name = words::gateway_place::name(&base.spec, &spec);
        let (made_from, origin, position_id) = (Some(id), SetupOrigin::ByHand, base.position_id);
        let (created_at, archived_at) = (Utc::now(), None);
        let setup = Setup { id: *setup_id, position_id, made_from, origin, spec, created_at, archived_at };
        store.create_setup(&setup, &(id, setup_id))?;
        store.setup(*setup_id)
    };
    specs.into_iter().zip(&asked.setup_ids).map(make).collect()
}
