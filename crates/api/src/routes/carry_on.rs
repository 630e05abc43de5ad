//! What a stage found becomes the setup the next one uses.

use crate::problem::{Body, Path, Problem};
use crate::state::{AppState, Changed};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use chrono::Utc;
use open_beacon_core::handover::{NewSpec, from_survey, from_sweep, stands_at};
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::model::{MastId, PositionId, Setup, SetupId, SetupOrigin, SiteId, Sweep};
use open_beacon_core::survey::ranking::rank;
use open_beacon_core::trial::visit::setup_with_lock;
use open_beacon_store::{Created, Store, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(mount_choice))
}

/// A choice of the survey to mount.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct MountChoice {
    /// Identifier of the setup to be made (UUIDv7).
    pub id: SetupId,
    pub position_id: PositionId,
    pub mast_id: MastId,
    /// Above ground, m; the position's own where not said.
    #[serde(default)]
    pub height_m: Option<f64>,
}

/// A setup that a stage hands on, and its name.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CarriedOn {
    pub setup: Setup,
    pub label: String,
}

/// Makes a choice of the survey the setup to mount, and the one being worked on. Where one that stands the same is there
/// already, it is that one.
#[utoipa::path(post, path = "/api/sites/{id}/survey/mount", params(("id" = SiteId, Path)), request_body = MountChoice,
    responses((status = 201, body = CarriedOn), (status = 200, body = CarriedOn), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn mount_choice(
    State(app): State<AppState>,
    Path(site): Path<SiteId>,
    Body(asked): Body<MountChoice>,
) -> Result<(StatusCode, Json<CarriedOn>), Problem> {
    let (position_id, id) = (asked.position_id, asked.id);
    let like = app.db(move |store| standing_at(store, site, position_id)).await?;
    let of_like = like.clone();
    let new = app
        .record(site, move |data| {
            let position = data.position(asked.position_id)?.clone();
            let choice = data.with(|radio| {
                let fits = |one: &open_beacon_core::survey::rank::Choice| {
                    one.position_id == asked.position_id
                        && one.mast_id == asked.mast_id
                        && asked.height_m.is_none_or(|height| (one.height_m - height).abs() < 0.05)
                };
                rank(radio.env, &radio.question()).choices.into_iter().find(fits)
            });
            let choice = choice.ok_or_else(|| {
                Problem::not_found("The survey has no such choice any more. Choose again from its list.")
            })?;
            let kit = data.kit.as_ref().map(|kit| (kit.id, Resolved::new(&kit.spec, &data.catalogue)));
            let like = of_like.as_ref().map(|setup| &setup.spec);
            Ok(from_survey(&choice, &position, kit.as_ref().map(|(id, kit)| (*id, kit)), like))
        })
        .await?;
    carry_on(&app, site, id, position_id, like.map(|setup| setup.id), new).await
}

/// A finished sweep as the setup that was really set; nothing where it turned nothing.
pub(super) async fn keep_sweep(app: &AppState, sweep: &Sweep) -> Result<Option<CarriedOn>, Problem> {
    let (site, position_id) = (sweep.site_id, sweep.position_id);
    let base = app.db(move |store| standing_at(store, site, position_id)).await?;
    let maps = app.record(site, move |data| Ok(data.port_maps_at(position_id))).await?;
    let Some(new) = from_sweep(sweep, base.as_ref(), maps.as_ref()) else { return Ok(None) };
    let id = SetupId(uuid::Uuid::now_v7());
    let (_, Json(made)) = carry_on(app, site, id, position_id, base.map(|setup| setup.id), new).await?;
    let (sweep_id, setup_id) = (sweep.id, made.setup.id);
    app.db(move |store| store.give_sweep_its_setup(site, sweep_id, setup_id)).await?;
    Ok(Some(made))
}

/// A lock that was kept as the setup with that lock; nothing where no setup is being worked on.
pub(crate) fn keep_lock(
    store: &Store,
    site: SiteId,
    lock: &open_beacon_core::model::BandChoice,
    round: Option<open_beacon_core::model::RoundId>,
) -> Result<(), StoreError> {
    let Some(base) = store.settings(site)?.active_setup_id else { return Ok(()) };
    let base = store.setup(base)?;
    let mut setup = setup_with_lock(&base, lock, SetupOrigin::KeptTrial { round_id: round });
    setup.created_at = Utc::now();
    store.carry_on(site, &setup).map(|_| ())
}

async fn carry_on(
    app: &AppState,
    site: SiteId,
    id: SetupId,
    position_id: PositionId,
    made_from: Option<SetupId>,
    new: NewSpec,
) -> Result<(StatusCode, Json<CarriedOn>), Problem> {
    let NewSpec { spec, origin } = new;
    let setup = Setup { id, position_id, made_from, origin, spec, created_at: Utc::now(), archived_at: None };
    let (made, setup, label, settings) = app
        .db(move |store| {
            let (made, id) = store.carry_on(site, &setup)?;
            let (setup, _, label) = super::labelled(store, id)?;
            Ok((made, setup, label, store.settings(site)?))
        })
        .await?;
    super::stand_in::follow(app, site, &settings).await;
    app.changed_in(site, Changed::Setups);
    let status = if made == Created::Now { StatusCode::CREATED } else { StatusCode::OK };
    Ok((status, Json(CarriedOn { setup, label })))
}

/// The setup that stands at a position.
fn standing_at(store: &Store, site: SiteId, position: PositionId) -> Result<Option<Setup>, StoreError> {
    let active = store.settings(site)?.active_setup_id;
    Ok(stands_at(&store.setups(site)?, position, active).cloned())
}
