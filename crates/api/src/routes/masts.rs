//! Masts of a site: entered, imported, merged, exported; trees, buildings and landmarks of the plan.

use super::style;
use crate::edits::Edited;
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use crate::views::survey::{EntryMistakeSaid, said_slips};
use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use chrono::Utc;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::limits::{LARGEST_MASTS_BYTES, MOST_MASTS};
use open_beacon_core::model::{
    Landmark, LandmarkId, Mast, MastCell, MastColumn, MastId, Obstacle, ObstacleId, ObstacleKind, SiteId,
};
use open_beacon_core::survey::check::{check_landmark, check_mast, check_obstacle};
use open_beacon_exchange::masts::{
    ReadMasts, guess_columns, masts_of, masts_to_csv, masts_to_geojson, masts_to_kml, read_mast_table,
};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(preview_masts))
        .routes(routes!(import_masts))
        .layer(axum::extract::DefaultBodyLimit::max(LARGEST_MASTS_BYTES))
        .routes(routes!(put_mast))
        .routes(routes!(merge_masts))
        .routes(routes!(masts_csv))
        .routes(routes!(masts_geojson))
        .routes(routes!(masts_kml))
        .routes(routes!(put_obstacle))
        .routes(routes!(put_landmark))
}

/// A mast as it is entered.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct MastBody {
    pub name: String,
    #[serde(default)]
    pub operator: String,
    pub place: GeoPoint,
    /// m, 1..=350.
    #[serde(default)]
    pub height_m: Option<f64>,
    #[serde(default)]
    pub cells: Vec<MastCell>,
    #[serde(default)]
    pub notes: String,
    /// Archived; nothing is lost.
    #[serde(default)]
    pub archived: bool,
}

/// Adds a mast or changes it; the identifier is made by the client (UUIDv7).
#[utoipa::path(put, path = "/api/sites/{id}/masts/{mast}", params(("id" = SiteId, Path), ("mast" = MastId, Path)),
    request_body = Edited<MastBody>,
    responses((status = 200, body = Mast), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn put_mast(
    State(app): State<AppState>,
    Path((site_id, id)): Path<(SiteId, MastId)>,
    Body(Edited { body, seen }): Body<Edited<MastBody>>,
) -> Result<Json<Mast>, Problem> {
    let mast = Mast {
        id,
        site_id,
        name: body.name.trim().to_owned(),
        operator: body.operator.trim().to_owned(),
        place: body.place,
        height_m: body.height_m,
        cells: body.cells,
        notes: body.notes,
        archived_at: body.archived.then(Utc::now),
    };
    Problem::unless_valid(check_mast(&mast))?;
    let mast = app
        .edit(move |store| {
            if let Some(stored) = store.entities::<Mast>(site_id)?.into_iter().find(|one| one.id == id) {
                seen.still(&stored, &mast)?;
            }
            store.put_entities(site_id, std::slice::from_ref(&mast))?;
            Ok(mast)
        })
        .await?;
    app.changed(site_id);
    Ok(Json(mast))
}

/// A masts file, and how its columns are to be taken.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct MastsFile {
    pub file_name: String,
    /// Its text: CSV, GeoJSON or KML.
    pub text: String,
    /// As mapped by the user; guessed where empty.
    #[serde(default)]
    pub columns: Vec<MastColumn>,
}

/// A mast of the file.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MastFound {
    pub mast: Mast,
    pub slips: Vec<EntryMistakeSaid>,
    /// It is here already, by name and place.
    pub known: bool,
}

/// A row that could not be read.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MastRowProblem {
    pub line: Option<u64>,
    pub reason: String,
}

/// What a masts file holds.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MastsPreview {
    /// "CSV", "GeoJSON", "KML".
    pub kind: String,
    pub columns: Vec<MastColumn>,
    /// The first rows as they stand.
    pub first_rows: Vec<Vec<String>>,
    pub rows: usize,
    pub masts: Vec<MastFound>,
    pub problems: Vec<MastRowProblem>,
    /// Rows of technologies before LTE, left out.
    pub older: usize,
}

/// Rows shown of a file.
const SHOWN_ROWS: usize = 4;
/// Masts listed of a file, and problems.
const SHOWN_MASTS: usize = MOST_MASTS;
const SHOWN_PROBLEMS: usize = 200;

async fn read_file(
    app: &AppState,
    id: SiteId,
    file: &MastsFile,
) -> Result<(MastsPreview, Vec<Mast>), Problem> {
    let (settings, house, here) = app
        .db(move |store| Ok((store.settings(id)?, store.site(id)?.place, store.entities::<Mast>(id)?)))
        .await?;
    let table = read_mast_table(&file.file_name, file.text.as_bytes()).map_err(Problem::unreadable)?;
    let columns = if file.columns.is_empty() {
        guess_columns(&table.headings, &settings.survey.mast_columns)
    } else {
        file.columns.clone()
    };
    let ReadMasts { masts, problems, older } = masts_of(&table, &columns, id);
    let style = style(&settings);
    let preview = MastsPreview {
        kind: table.kind.clone(),
        first_rows: table.rows.iter().take(SHOWN_ROWS).cloned().collect(),
        rows: table.rows.len(),
        masts: masts
            .iter()
            .take(SHOWN_MASTS)
            .map(|mast| MastFound {
                slips: said_slips(mast, house, style),
                known: here.iter().any(|one| one.id == mast.id),
                mast: mast.clone(),
            })
            .collect(),
        problems: problems
            .into_iter()
            .take(SHOWN_PROBLEMS)
            .map(|one| MastRowProblem { line: one.line, reason: one.reason })
            .collect(),
        columns,
        older,
    };
    let fresh = masts.into_iter().filter(|mast| here.iter().all(|one| one.id != mast.id)).collect();
    Ok((preview, fresh))
}

/// Reads a masts file and says what it would bring, changing nothing.
#[utoipa::path(post, path = "/api/sites/{id}/masts/preview", params(("id" = SiteId, Path)), request_body = MastsFile,
    responses((status = 200, body = MastsPreview), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn preview_masts(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(file): Body<MastsFile>,
) -> Result<Json<MastsPreview>, Problem> {
    Ok(Json(read_file(&app, id, &file).await?.0))
}

/// What an import of masts did.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct MastsImported {
    pub added: usize,
    /// Here already, left as they are.
    pub known: usize,
    /// Left out because a field is impossible.
    pub refused: usize,
}

/// Brings the masts of a file in and remembers the mapping of its columns.
#[utoipa::path(post, path = "/api/sites/{id}/masts/import", params(("id" = SiteId, Path)), request_body = MastsFile,
    responses((status = 200, body = MastsImported), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn import_masts(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(file): Body<MastsFile>,
) -> Result<Json<MastsImported>, Problem> {
    let (preview, fresh) = read_file(&app, id, &file).await?;
    let all = fresh.len();
    let fine: Vec<Mast> = fresh.into_iter().filter(|mast| check_mast(mast).is_empty()).collect();
    let here = app.db(move |store| Ok(store.entities::<Mast>(id)?.len())).await?;
    if here + fine.len() > MOST_MASTS {
        return Err(Problem::conflict(format!(
            "A site has at most {MOST_MASTS} masts, and this would make {}. Cut out the part of the file round your house.",
            here + fine.len()
        )));
    }
    let done = MastsImported {
        added: fine.len(),
        known: preview.masts.iter().filter(|one| one.known).count(),
        refused: all - fine.len(),
    };
    app.db(move |store| {
        store.put_entities(id, &fine)?;
        store.update_settings(id, |settings| settings.survey.mast_columns = preview.columns)
    })
    .await?;
    app.changed(id);
    Ok(Json(done))
}

/// Masts that are one.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct MergeMasts {
    /// Keeps its name and place.
    pub keep: MastId,
    /// Their cells go to it; they are archived.
    pub others: Vec<MastId>,
}

/// Makes several masts one: the cells of the others go to the one kept, the others are archived.
#[utoipa::path(post, path = "/api/sites/{id}/masts/merge", params(("id" = SiteId, Path)), request_body = MergeMasts,
    responses((status = 200, body = Mast), (status = 404, body = Problem)))]
async fn merge_masts(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<MergeMasts>,
) -> Result<Json<Mast>, Problem> {
    let merged = app
        .db(move |store| {
            let masts: Vec<Mast> = store.entities(id)?;
            let find = |wanted: MastId| masts.iter().find(|mast| mast.id == wanted).cloned();
            let mut keep = find(asked.keep).ok_or(open_beacon_store::StoreError::NotFound("mast"))?;
            let mut changed = Vec::new();
            let others = asked.others.into_iter().filter(|other| *other != asked.keep);
            for other in others.filter_map(find) {
                keep = open_beacon_core::survey::check::merged(keep, &other);
                changed.push(Mast { archived_at: Some(Utc::now()), ..other });
            }
            changed.push(keep.clone());
            store.put_entities(id, &changed)?;
            Ok(keep)
        })
        .await?;
    app.changed(id);
    Ok(Json(merged))
}

async fn masts_file(
    app: &AppState,
    id: SiteId,
    write: fn(&[Mast]) -> Vec<u8>,
    (ending, media_type): (&str, &'static str),
) -> Result<Response, Problem> {
    let masts: Vec<Mast> = app
        .db(move |store| {
            store.site(id)?;
            store.entities(id)
        })
        .await?;
    let named = format!("attachment; filename=\"masts.{ending}\"");
    let headers = [(header::CONTENT_TYPE, media_type.to_owned()), (header::CONTENT_DISPOSITION, named)];
    Ok((headers, write(&masts)).into_response())
}

/// The masts as CSV, one row a cell.
#[utoipa::path(get, path = "/api/sites/{id}/masts.csv", params(("id" = SiteId, Path)),
    responses((status = 200, content_type = "text/csv", body = String), (status = 404, body = Problem)))]
async fn masts_csv(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    masts_file(&app, id, masts_to_csv, ("csv", "text/csv")).await
}

/// The masts as GeoJSON (RFC 7946), one feature a cell.
#[utoipa::path(get, path = "/api/sites/{id}/masts.geojson", params(("id" = SiteId, Path)),
    responses((status = 200, content_type = "application/geo+json", body = serde_json::Map<String, serde_json::Value>), (status = 404, body = Problem)))]
async fn masts_geojson(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    masts_file(&app, id, masts_to_geojson, ("geojson", "application/geo+json")).await
}

/// The masts as KML 2.2, one placemark a cell.
#[utoipa::path(get, path = "/api/sites/{id}/masts.kml", params(("id" = SiteId, Path)),
    responses((status = 200, content_type = "application/vnd.google-earth.kml+xml", body = String), (status = 404, body = Problem)))]
async fn masts_kml(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    masts_file(&app, id, masts_to_kml, ("kml", "application/vnd.google-earth.kml+xml")).await
}

/// Trees or a building as they are drawn.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct ObstacleBody {
    pub name: String,
    pub kind: ObstacleKind,
    pub outline: Vec<GeoPoint>,
    /// m, for a line.
    #[serde(default)]
    pub width_m: Option<f64>,
    /// m above ground.
    pub height_m: f64,
    #[serde(default)]
    pub archived: bool,
}

/// Adds trees or a building to the plan, or changes them.
#[utoipa::path(put, path = "/api/sites/{id}/obstacles/{obstacle}",
    params(("id" = SiteId, Path), ("obstacle" = ObstacleId, Path)), request_body = Edited<ObstacleBody>,
    responses((status = 200, body = Obstacle), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn put_obstacle(
    State(app): State<AppState>,
    Path((site_id, id)): Path<(SiteId, ObstacleId)>,
    Body(Edited { body, seen }): Body<Edited<ObstacleBody>>,
) -> Result<Json<Obstacle>, Problem> {
    let ObstacleBody { name, kind, outline, width_m, height_m, archived } = body;
    let name = name.trim().to_owned();
    let archived_at = archived.then(Utc::now);
    let obstacle = Obstacle { id, site_id, name, kind, outline, width_m, height_m, archived_at };
    Problem::unless_valid(check_obstacle(&obstacle))?;
    let obstacle = app
        .edit(move |store| {
            if let Some(stored) = store.entities::<Obstacle>(site_id)?.into_iter().find(|one| one.id == id) {
                seen.still(&stored, &obstacle)?;
            }
            store.put_entities(site_id, std::slice::from_ref(&obstacle))?;
            Ok(obstacle)
        })
        .await?;
    app.changed(site_id);
    Ok(Json(obstacle))
}

/// A landmark as it is entered.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct LandmarkBody {
    pub name: String,
    pub place: GeoPoint,
    #[serde(default)]
    pub archived: bool,
}

/// Adds a landmark or changes it.
#[utoipa::path(put, path = "/api/sites/{id}/landmarks/{landmark}",
    params(("id" = SiteId, Path), ("landmark" = LandmarkId, Path)), request_body = Edited<LandmarkBody>,
    responses((status = 200, body = Landmark), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn put_landmark(
    State(app): State<AppState>,
    Path((site_id, id)): Path<(SiteId, LandmarkId)>,
    Body(Edited { body, seen }): Body<Edited<LandmarkBody>>,
) -> Result<Json<Landmark>, Problem> {
    let archived_at = body.archived.then(Utc::now);
    let landmark =
        Landmark { id, site_id, name: body.name.trim().to_owned(), place: body.place, archived_at };
    Problem::unless_valid(check_landmark(&landmark))?;
    let landmark = app
        .edit(move |store| {
            if let Some(stored) = store.entities::<Landmark>(site_id)?.into_iter().find(|one| one.id == id) {
                seen.still(&stored, &landmark)?;
            }
            store.put_entities(site_id, std::slice::from_ref(&landmark))?;
            Ok(landmark)
        })
        .await?;
    app.changed(site_id);
    Ok(Json(landmark))
}
