//! The sheet of what was built: drawn up, corrected, shown, and given away as a file.

use super::created;
use super::exchange::download;
use crate::edits::Edited;
use crate::problem::{Body, Path, Problem, Query};
use crate::state::AppState;
use crate::views::as_built::{AsBuiltView, SheetsView, drawn_up, sheets, view};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::Response;
use chrono::{DateTime, Utc};
use open_beacon_core::as_built::share;
use open_beacon_core::check::Checker;
use open_beacon_core::model::{
    AsBuilt, AsBuiltDetails, AsBuiltId, AsBuiltSharing, SetupId, SiteBundle, SiteId,
};
use open_beacon_exchange::write_json;
use open_beacon_store::StoreError;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(get_sheets, draw_up))
        .routes(routes!(get_sheet, write_details))
        .routes(routes!(sheet_file))
        .routes(routes!(archive_sheet))
        .routes(routes!(restore_sheet))
}

/// What is shown and given away beside what anyone may see.
#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Shared {
    /// Address, coordinates, masts.
    #[serde(default)]
    place: bool,
    /// Who built it.
    #[serde(default)]
    people: bool,
    /// Serial numbers.
    #[serde(default)]
    serials: bool,
    /// Plan, account and SIM card.
    #[serde(default)]
    account: bool,
    /// Photographs.
    #[serde(default)]
    photos: bool,
}

impl From<Shared> for AsBuiltSharing {
    fn from(Shared { place, people, serials, account, photos }: Shared) -> Self {
        Self { place, people, serials, account, photos }
    }
}

/// Sheets of a site, and what a new one can be of.
#[utoipa::path(get, path = "/api/sites/{id}/as-built", params(("id" = SiteId, Path)),
    responses((status = 200, body = SheetsView), (status = 404, body = Problem)))]
async fn get_sheets(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
) -> Result<Json<SheetsView>, Problem> {
    app.db(move |store| sheets(store, id)).await.map(Json)
}

/// A sheet to draw up; the identifier is made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NewSheet {
    pub id: AsBuiltId,
    /// The setup that was built.
    pub setup_id: SetupId,
    #[serde(default)]
    pub details: AsBuiltDetails,
}

/// Draws up a sheet of a setup, with what was measured on it until now.
#[utoipa::path(post, path = "/api/sites/{id}/as-built", params(("id" = SiteId, Path)), request_body = NewSheet,
    responses((status = 201, body = AsBuilt), (status = 200, body = AsBuilt), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn draw_up(
    State(app): State<AppState>,
    Path(site_id): Path<SiteId>,
    Body(new): Body<NewSheet>,
) -> Result<(StatusCode, Json<AsBuilt>), Problem> {
    Problem::unless_valid(Checker::default().as_built(&new.details).done())?;
    let now = app.now();
    let (made, sheet) = app
        .db(move |store| {
            let sheet = drawn_up(store, (new.id, new.setup_id), new.details.clone(), now)?;
            if sheet.site_id != site_id {
                return Err(StoreError::NotFound("setup at this site"));
            }
            let made = store.add_as_built(&sheet, &(site_id, &new))?;
            Ok((made, store.as_built(new.id)?))
        })
        .await?;
    app.changed(site_id);
    Ok((created(made), Json(sheet)))
}

/// A sheet, without what is not shared.
#[utoipa::path(get, path = "/api/as-built/{id}", params(("id" = AsBuiltId, Path), Shared),
    responses((status = 200, body = AsBuiltView), (status = 404, body = Problem)))]
async fn get_sheet(
    State(app): State<AppState>,
    Path(id): Path<AsBuiltId>,
    Query(with): Query<Shared>,
) -> Result<Json<AsBuiltView>, Problem> {
    let origin = app.lan.get().map(crate::pairing::Lan::origin);
    app.db(move |store| {
        let site = store.as_built(id)?.site_id;
        let link = origin.map(|origin| format!("{origin}/sites/{site}/as-built?sheet={id}"));
        view(store, id, with.into(), link)
    })
    .await
    .map(Json)
}

/// Changes what a person wrote on a sheet. What was measured stays as it was drawn up.
#[utoipa::path(put, path = "/api/as-built/{id}", params(("id" = AsBuiltId, Path)), request_body = Edited<AsBuiltDetails>,
    responses((status = 200, body = AsBuilt), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn write_details(
    State(app): State<AppState>,
    Path(id): Path<AsBuiltId>,
    Body(Edited { body, seen }): Body<Edited<AsBuiltDetails>>,
) -> Result<Json<AsBuilt>, Problem> {
    Problem::unless_valid(Checker::default().as_built(&body).done())?;
    let sheet = app
        .edit(move |store| {
            let kept = store.as_built(id)?;
            seen.still(&kept.details, &body)?;
            let sheet = AsBuilt { details: body, ..kept };
            store.put_entities(sheet.site_id, std::slice::from_ref(&sheet))?;
            Ok(sheet)
        })
        .await?;
    app.changed(sheet.site_id);
    Ok(Json(sheet))
}

/// A sheet as a file: a site export with the setup, its kit and the sheet, without what is not shared.
#[utoipa::path(get, path = "/api/as-built/{id}/file.json", params(("id" = AsBuiltId, Path), Shared),
    responses((status = 200, body = SiteBundle), (status = 404, body = Problem)))]
async fn sheet_file(
    State(app): State<AppState>,
    Path(id): Path<AsBuiltId>,
    Query(with): Query<Shared>,
) -> Result<Response, Problem> {
    let bundle = app
        .db(move |store| {
            let sheet = store.as_built(id)?;
            Ok(share(store.bundle(sheet.site_id)?, &sheet, with.into()))
        })
        .await?;
    Ok(download(bundle, "as-built.json", "application/json", write_json))
}

async fn archived(app: &AppState, id: AsBuiltId, at: Option<DateTime<Utc>>) -> Result<StatusCode, Problem> {
    let site = app
        .edit(move |store| {
            let sheet = AsBuilt { archived_at: at, ..store.as_built(id)? };
            store.put_entities(sheet.site_id, std::slice::from_ref(&sheet))?;
            Ok(sheet.site_id)
        })
        .await?;
    app.changed(site);
    Ok(StatusCode::NO_CONTENT)
}

/// Puts a sheet away. Nothing is lost.
#[utoipa::path(post, path = "/api/as-built/{id}/archive", params(("id" = AsBuiltId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn archive_sheet(
    State(app): State<AppState>,
    Path(id): Path<AsBuiltId>,
) -> Result<StatusCode, Problem> {
    archived(&app, id, Some(app.now())).await
}

/// Brings an archived sheet back.
#[utoipa::path(post, path = "/api/as-built/{id}/restore", params(("id" = AsBuiltId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn restore_sheet(
    State(app): State<AppState>,
    Path(id): Path<AsBuiltId>,
) -> Result<StatusCode, Problem> {
    archived(&app, id, None).await
}
