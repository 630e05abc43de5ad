//! The catalogue: built-in parts with the user's own over them.

use crate::catalogue::catalogue;
use crate::edits::Edited;
use crate::problem::{Body, Path, Problem, Query};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use chrono::Utc;
use open_beacon_core::check::FieldProblem;
use open_beacon_core::hardware::catalogue::{
    CATALOGUE_FORMAT, CATALOGUE_VERSION, Catalogue, CatalogueFile, CatalogueReport, built_in, check_part,
};
use open_beacon_core::model::{Part, PartId, PatternPoint};
use open_beacon_core::spelling::lists_of;
use open_beacon_exchange::read_pattern;
use open_beacon_store::StoreError;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(get_catalogue))
        .routes(routes!(put_part, reset_part))
        .routes(routes!(archive_part))
        .routes(routes!(restore_part))
        .routes(routes!(export_catalogue))
        .routes(routes!(import_catalogue))
        .routes(routes!(pattern_text))
}

/// A part with where it comes from.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CatalogueEntry {
    pub part: Part,
    /// The user's own, or changed by them.
    pub own: bool,
    /// Comes with the program; resetting it brings that version back.
    pub built_in: bool,
    /// Its lists in their short spellings, by the path of the field.
    pub lists: BTreeMap<String, String>,
}

/// All parts, archived ones too, in order of kind and price.
#[utoipa::path(get, path = "/api/catalogue", responses((status = 200, body = Vec<CatalogueEntry>)))]
async fn get_catalogue(State(app): State<AppState>) -> Result<Json<Vec<CatalogueEntry>>, Problem> {
    app.db(|store| Ok(Json(entries(&catalogue(store)?, &store.own_parts()?)))).await
}

fn entries(catalogue: &Catalogue, own: &[Part]) -> Vec<CatalogueEntry> {
    let own: BTreeSet<PartId> = own.iter().map(|part| part.id).collect();
    let shipped: BTreeSet<PartId> = built_in().iter().map(|part| part.id).collect();
    let entry = |part: &Part| CatalogueEntry {
        part: part.clone(),
        own: own.contains(&part.id),
        built_in: shipped.contains(&part.id),
        lists: lists_of(&part.spec).into_iter().map(|(path, text)| (path.to_owned(), text)).collect(),
    };
    let mut entries: Vec<CatalogueEntry> = catalogue.all().map(entry).collect();
    let price = |entry: &CatalogueEntry| entry.part.price.unwrap_or(f64::INFINITY);
    entries.sort_by(|a, b| {
        let kinds = a.part.spec.kind().cmp(&b.part.spec.kind());
        kinds.then(price(a).total_cmp(&price(b))).then_with(|| a.part.name.cmp(&b.part.name))
    });
    entries
}

/// Adds a part, or changes one; the identifier is made by the client (UUIDv7) or is the part's own.
#[utoipa::path(put, path = "/api/catalogue/{id}", params(("id" = PartId, Path)), request_body = Edited<Part>,
    responses((status = 200, body = Part), (status = 422, body = Problem)))]
async fn put_part(
    State(app): State<AppState>,
    Path(id): Path<PartId>,
    Body(Edited { body: mut part, seen }): Body<Edited<Part>>,
) -> Result<Json<Part>, Problem> {
    part.id = id;
    part.name = part.name.trim().to_owned();
    Problem::unless_valid(check_part(&part))?;
    app.edit(move |store| {
        if let Some(stored) = catalogue(store)?.part(id) {
            seen.still(stored, &part)?;
        }
        store.put_parts(std::slice::from_ref(&part))?;
        Ok(part)
    })
    .await
    .map(Json)
}

/// Forgets the user's changes to a built-in part.
#[utoipa::path(delete, path = "/api/catalogue/{id}", params(("id" = PartId, Path)),
    responses((status = 204), (status = 409, body = Problem)))]
async fn reset_part(State(app): State<AppState>, Path(id): Path<PartId>) -> Result<StatusCode, Problem> {
    if !built_in().iter().any(|part| part.id == id) {
        return Err(Problem::conflict("This part is your own; archive it instead, so that nothing is lost."));
    }
    app.db(move |store| store.forget_part(id)).await?;
    Ok(StatusCode::NO_CONTENT)
}

async fn archived(app: &AppState, id: PartId, away: bool) -> Result<StatusCode, Problem> {
    app.db(move |store| {
        let mut part = catalogue(store)?.part(id).cloned().ok_or(StoreError::NotFound("part"))?;
        part.archived_at = away.then(Utc::now);
        store.put_parts(&[part])
    })
    .await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Puts a part away; kits that have it keep it.
#[utoipa::path(post, path = "/api/catalogue/{id}/archive", params(("id" = PartId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn archive_part(State(app): State<AppState>, Path(id): Path<PartId>) -> Result<StatusCode, Problem> {
    archived(&app, id, true).await
}

/// Brings an archived part back.
#[utoipa::path(post, path = "/api/catalogue/{id}/restore", params(("id" = PartId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn restore_part(State(app): State<AppState>, Path(id): Path<PartId>) -> Result<StatusCode, Problem> {
    archived(&app, id, false).await
}

#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Which {
    /// Only the user's own parts and those they changed.
    #[serde(default)]
    own: bool,
}

/// The catalogue as a JSON file.
#[utoipa::path(get, path = "/api/catalogue/export.json", params(Which), responses((status = 200, body = CatalogueFile)))]
async fn export_catalogue(
    State(app): State<AppState>,
    Query(which): Query<Which>,
) -> Result<impl IntoResponse, Problem> {
    let parts = app
        .db(
            move |store| {
                if which.own { store.own_parts() } else { Ok(catalogue(store)?.all().cloned().collect()) }
            },
        )
        .await?;
    let name = "attachment; filename=\"catalogue.json\"";
    Ok(([(header::CONTENT_DISPOSITION, name)], Json(CatalogueFile::of(parts))))
}

#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct ImportHow {
    /// Says what would happen and changes nothing.
    #[serde(default)]
    preview: bool,
}

/// Brings a catalogue in, all or nothing; a part that is here already takes the file's values.
#[utoipa::path(post, path = "/api/catalogue/import", params(ImportHow), request_body = CatalogueFile,
    responses((status = 200, body = CatalogueReport), (status = 400, body = Problem), (status = 422, body = Problem)))]
async fn import_catalogue(
    State(app): State<AppState>,
    Query(how): Query<ImportHow>,
    Body(file): Body<CatalogueFile>,
) -> Result<Json<CatalogueReport>, Problem> {
    if !file.is_readable() {
        return Err(Problem::unreadable(format!(
            "This is not a catalogue that this version reads: the format must be {CATALOGUE_FORMAT}, the version at most {CATALOGUE_VERSION}."
        )));
    }
    Problem::unless_valid(file.problems())?;
    app.db(move |store| {
        let (report, taken) = catalogue(store)?.compare(file.parts);
        if !how.preview {
            store.put_parts(&taken)?;
        }
        Ok(Json(report))
    })
    .await
}

/// A pattern as text.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct PatternText {
    /// CSV: angle in degrees, gain in dB.
    pub text: String,
}

/// Reads a measured pattern.
#[utoipa::path(post, path = "/api/calc/pattern-text", request_body = PatternText,
    responses((status = 200, body = Vec<PatternPoint>), (status = 422, body = Problem)))]
async fn pattern_text(Body(asked): Body<PatternText>) -> Result<Json<Vec<PatternPoint>>, Problem> {
    read_pattern(&asked.text).map(Json).map_err(|problems| {
        let told = |problem: &open_beacon_exchange::RowProblem| match problem.line {
            Some(line) => format!("Line {line}: {}.", problem.reason),
            None => format!("{}.", problem.reason),
        };
        let detail = problems.iter().take(3).map(told).collect::<Vec<_>>().join(" ");
        Problem::invalid(vec![FieldProblem { pointer: "/text".into(), detail }])
    })
}
