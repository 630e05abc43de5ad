//! Setups. One that has runs is never changed: an edit makes a new one from it.

use super::created;
use crate::edits::Edited;
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use crate::views::diagnosis::DiagnosisView;
use crate::views::outlook::{SetupOutlookView, view};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::Response;
use chrono::Utc;
use open_beacon_core::check::Checker;
use open_beacon_core::model::{PositionId, Setup, SetupId, SetupOrigin, SetupSpec};
use open_beacon_store::{Aggregate, Archivable};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(create_setup))
        .routes(routes!(edit_setup))
        .routes(routes!(archive_setup))
        .routes(routes!(restore_setup))
        .routes(routes!(get_setup_outlook))
        .routes(routes!(get_diagnosis))
}

/// A new setup; the identifier is made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NewSetup {
    pub id: SetupId,
    /// The setup this one is a copy of.
    #[serde(default)]
    pub made_from: Option<SetupId>,
    #[serde(default)]
    pub origin: SetupOrigin,
    #[serde(flatten)]
    pub spec: SetupSpec,
}

/// An edit. Where the setup has runs, a new one is made under `new_id`.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct EditSetup {
    pub new_id: SetupId,
    #[serde(flatten)]
    pub spec: SetupSpec,
}

fn check(spec: &SetupSpec) -> Result<(), Problem> {
    Problem::unless_valid(Checker::default().setup(spec).done())
}

/// Adds a setup to a position.
#[utoipa::path(post, path = "/api/positions/{id}/setups", params(("id" = PositionId, Path)), request_body = NewSetup,
    responses((status = 201, body = Setup), (status = 200, body = Setup), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn create_setup(
    State(app): State<AppState>,
    Path(position_id): Path<PositionId>,
    Body(new): Body<NewSetup>,
) -> Result<(StatusCode, Json<Setup>), Problem> {
    check(&new.spec)?;
    let setup = Setup {
        id: new.id,
        position_id,
        made_from: new.made_from,
        origin: new.origin,
        spec: new.spec.clone(),
        created_at: Utc::now(),
        archived_at: None,
    };
    let (made, setup, site) = app
        .db(move |store| {
            let made = store.create_setup(&setup, &(position_id, &new))?;
            Ok((made, store.setup(setup.id)?, store.site_of_setup(setup.id)?))
        })
        .await?;
    app.changed(site);
    Ok((created(made), Json(setup)))
}

/// Changes a setup in place (200), or, where it has runs, makes a new one from it (201). A name alone is always
/// changed in place.
#[utoipa::path(put, path = "/api/setups/{id}", params(("id" = SetupId, Path)), request_body = Edited<EditSetup>,
    responses((status = 200, body = Setup), (status = 201, body = Setup), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn edit_setup(
    State(app): State<AppState>,
    Path(id): Path<SetupId>,
    Body(Edited { body: edit, seen }): Body<Edited<EditSetup>>,
) -> Result<(StatusCode, Json<Setup>), Problem> {
    check(&edit.spec)?;
    let (status, setup, site) = app
        .edit(move |store| {
            let site = store.site_of_setup(id)?;
            let old = store.setup(id)?;
            seen.still(&old.spec, &edit.spec)?;
            if store.edit_setup_without_runs(id, &edit.spec)? {
                return Ok((StatusCode::OK, store.setup(id)?, site));
            }
            let setup = Setup {
                id: edit.new_id,
                position_id: old.position_id,
                made_from: Some(id),
                origin: SetupOrigin::ByHand,
                spec: edit.spec.clone(),
                created_at: Utc::now(),
                archived_at: None,
            };
            let made = store.create_setup(&setup, &(id, &edit))?;
            Ok((created(made), store.setup(edit.new_id)?, site))
        })
        .await?;
    app.changed(site);
    Ok((status, Json(setup)))
}

/// What is expected of a setup as it is recorded, beside what was measured with it, with the reasons.
#[utoipa::path(get, path = "/api/setups/{id}/outlook", params(("id" = SetupId, Path)),
    responses((status = 200, body = SetupOutlookView), (status = 404, body = Problem)))]
async fn get_setup_outlook(
    State(app): State<AppState>,
    Path(id): Path<SetupId>,
) -> Result<Response, Problem> {
    let site = app.db(move |store| store.site_of_setup(id)).await?;
    let rests_on = [Aggregate::Record, Aggregate::Surroundings];
    let work_out = app.record(site, move |data| Ok(view(data, id)));
    app.kept_answer(format!("outlook {id}"), &rests_on, work_out).await
}

async fn archived(app: &AppState, id: SetupId, away: bool) -> Result<StatusCode, Problem> {
    let at = away.then(Utc::now);
    let site = app
        .db(move |store| {
            store.set_archived(Archivable::Setup, &id.to_string(), at)?;
            store.site_of_setup(id)
        })
        .await?;
    app.changed(site);
    Ok(StatusCode::NO_CONTENT)
}

/// Puts a setup away with its runs. Nothing is lost.
#[utoipa::path(post, path = "/api/setups/{id}/archive", params(("id" = SetupId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn archive_setup(State(app): State<AppState>, Path(id): Path<SetupId>) -> Result<StatusCode, Problem> {
    archived(&app, id, true).await
}

/// Brings an archived setup back.
#[utoipa::path(post, path = "/api/setups/{id}/restore", params(("id" = SetupId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn restore_setup(State(app): State<AppState>, Path(id): Path<SetupId>) -> Result<StatusCode, Problem> {
    archived(&app, id, false).await
}

/// What limits a setup by everything recorded on it, with what speaks for and against each cause; null where nothing was recorded.
#[utoipa::path(get, path = "/api/setups/{id}/diagnosis", params(("id" = SetupId, Path)),
    responses((status = 200, body = Option<DiagnosisView>), (status = 404, body = Problem)))]
async fn get_diagnosis(State(app): State<AppState>, Path(id): Path<SetupId>) -> Result<Response, Problem> {
    let rests_on = [Aggregate::Record, Aggregate::Surroundings];
    let work_out = app.db(move |store| crate::views::diagnosis::view(store, id));
    app.kept_answer(format!("diagnosis {id}"), &rests_on, work_out).await
}
