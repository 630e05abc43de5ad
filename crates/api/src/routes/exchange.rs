//! A whole site out and in.

use crate::importing::{ImportProgress, Waits, Watched};
use crate::problem::{Path, Problem, Query};
use crate::spool::Spool;
use crate::state::AppState;
use axum::Json;
use axum::body::Body;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use open_beacon_core::limits::{LARGEST_IMPORT_BYTES, LARGEST_JSON_BYTES};
use open_beacon_core::model::{BUNDLE_VERSION, SiteBundle, SiteId};
use open_beacon_core::words::outward;
use open_beacon_exchange::{
    RowProblem, TAKEN, beyond_zip, fits_json, from_source, site_to_geojson, site_to_html, site_to_kml,
    with_new_ids, write_json, write_parquet_zip, write_zip,
};
use open_beacon_store::StoreError;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use std::io::{BufWriter, Write};
use tokio::io::DuplexStream;
use tokio_util::io::{ReaderStream, SyncIoBridge};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(preview_import))
        .routes(routes!(import))
        .routes(routes!(import_progress, stop_import))
        .routes(routes!(exports))
        .routes(routes!(export_json))
        .routes(routes!(export_zip))
        .routes(routes!(export_parquet))
        .routes(routes!(report_html))
        .routes(routes!(map_geojson))
        .routes(routes!(map_kml))
        .routes(routes!(export_schema))
}

/// Bytes on their way to the client while the next are made.
const UNDER_WAY: usize = 256 << 10;

/// Where a file is written to on its way.
pub(super) type Target = BufWriter<SyncIoBridge<DuplexStream>>;

/// A file that leaves while it is written; where the client goes, writing ends.
pub(super) fn download(
    bundle: SiteBundle,
    ending: &str,
    media_type: &str,
    write: impl FnOnce(&SiteBundle, Target) -> std::io::Result<()> + Send + 'static,
) -> Response {
    let plain: String = bundle
        .site
        .name
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' })
        .collect();
    let disposition = format!("attachment; filename=\"{plain}.{ending}\"");
    let (near, far) = tokio::io::duplex(UNDER_WAY);
    let target = BufWriter::with_capacity(UNDER_WAY, SyncIoBridge::new(far));
    tokio::task::spawn_blocking(move || write(&bundle, target));
    let content = Body::from_stream(ReaderStream::with_capacity(near, UNDER_WAY));
    ([(header::CONTENT_TYPE, media_type.to_owned()), (header::CONTENT_DISPOSITION, disposition)], content)
        .into_response()
}

/// Whether a site's exports can be brought in again.
#[derive(Clone, Debug, Serialize, ToSchema)]
struct ExportsView {
    /// Why the zip cannot be imported again, and what to do; none where it can.
    zip_problem: Option<String>,
    /// Why there is no JSON export, and what to do; none where there is.
    json_problem: Option<String>,
}

fn json_problem(bundle: &SiteBundle) -> std::io::Result<Option<String>> {
    let most_mib = LARGEST_JSON_BYTES >> 20;
    Ok((!fits_json(bundle, LARGEST_JSON_BYTES)?).then(|| {
        format!(
            "As JSON this site is larger than the {most_mib} MiB that can be brought in again. Export it as a zip instead."
        )
    }))
}

fn zip_problem(bundle: &SiteBundle) -> std::io::Result<Option<String>> {
    Ok(beyond_zip(bundle, TAKEN)?.map(|limit| {
        format!(
            "The zip can be read by other programs, but not imported again: {limit}. To keep this site, copy the whole database with the command open-beacon backup."
        )
    }))
}

/// Whether the site's exports can be imported again: a very large one cannot.
#[utoipa::path(get, path = "/api/sites/{id}/exports", params(("id" = SiteId, Path)),
    responses((status = 200, body = ExportsView), (status = 404, body = Problem)))]
async fn exports(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Json<ExportsView>, Problem> {
    let view = app.db(move |store| {
        let bundle = store.bundle(id)?;
        // A site of 100,000 samples takes seconds each way.
        let (zip, json) = std::thread::scope(|scope| {
            let zip = scope.spawn(|| zip_problem(&bundle));
            let json = json_problem(&bundle);
            (zip.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)), json)
        });
        Ok(ExportsView { zip_problem: zip?, json_problem: json? })
    });
    Ok(Json(view.await?))
}

/// The whole site as JSON; its schema is at `/api/export-schema.json`.
#[utoipa::path(get, path = "/api/sites/{id}/export.json", params(("id" = SiteId, Path)),
    responses((status = 200, body = SiteBundle), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn export_json(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let (bundle, problem) = app
        .db(move |store| {
            let bundle = store.bundle(id)?;
            let problem = json_problem(&bundle)?;
            Ok((bundle, problem))
        })
        .await?;
    if let Some(problem) = problem {
        return Err(Problem::conflict(problem));
    }
    Ok(download(bundle, "json", "application/json", write_json))
}

/// The whole site as a zip with one CSV a table and the attachments.
#[utoipa::path(get, path = "/api/sites/{id}/export.zip", params(("id" = SiteId, Path)),
    responses((status = 200, content_type = "application/zip", body = Vec<u8>), (status = 404, body = Problem)))]
async fn export_zip(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let bundle = app.db(move |store| store.bundle(id)).await?;
    Ok(download(bundle, "zip", "application/zip", write_zip))
}

/// The site's tables as Apache Parquet files in a zip, for programs that work on columns; not imported again.
#[utoipa::path(get, path = "/api/sites/{id}/parquet.zip", params(("id" = SiteId, Path)),
    responses((status = 200, content_type = "application/zip", body = Vec<u8>), (status = 404, body = Problem)))]
async fn export_parquet(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let bundle = app.db(move |store| store.bundle(id)).await?;
    Ok(download(bundle, "parquet.zip", "application/zip", write_parquet_zip))
}

/// The site as one HTML page that needs nothing else, for reading and printing.
#[utoipa::path(get, path = "/api/sites/{id}/report.html", params(("id" = SiteId, Path)),
    responses((status = 200, content_type = "text/html", body = String), (status = 404, body = Problem)))]
async fn report_html(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let (bundle, now) = (app.db(move |store| store.bundle(id)).await?, app.now());
    let write = move |bundle: &SiteBundle, mut out: Target| out.write_all(&site_to_html(bundle, now));
    Ok(download(bundle, "html", "text/html; charset=utf-8", write))
}

/// The site as a map in GeoJSON (RFC 7946): positions, setups with their figures, masts, landmarks, what stands in the way.
#[utoipa::path(get, path = "/api/sites/{id}/map.geojson", params(("id" = SiteId, Path)),
    responses((status = 200, content_type = "application/geo+json", body = serde_json::Map<String, Value>), (status = 404, body = Problem)))]
async fn map_geojson(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let bundle = app.db(move |store| store.bundle(id)).await?;
    let write = |bundle: &SiteBundle, mut out: Target| out.write_all(&site_to_geojson(bundle));
    Ok(download(bundle, "geojson", "application/geo+json", write))
}

/// The same as KML 2.2.
#[utoipa::path(get, path = "/api/sites/{id}/map.kml", params(("id" = SiteId, Path)),
    responses((status = 200, content_type = "application/vnd.google-earth.kml+xml", body = String), (status = 404, body = Problem)))]
async fn map_kml(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let bundle = app.db(move |store| store.bundle(id)).await?;
    let write = |bundle: &SiteBundle, mut out: Target| out.write_all(&site_to_kml(bundle));
    Ok(download(bundle, "kml", "application/vnd.google-earth.kml+xml", write))
}

/// JSON Schema (2020-12) of the JSON export.
#[utoipa::path(get, path = "/api/export-schema.json", responses((status = 200, body = Value)))]
async fn export_schema() -> Json<Value> {
    Json(schema())
}

/// The schema, made from the same types as the export itself.
pub fn schema() -> Value {
    let document =
        crate::openapi().to_json().unwrap_or_default().replace("#/components/schemas/", "#/$defs/");
    let mut document: Value = serde_json::from_str(&document).unwrap_or_default();
    json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": format!("Open Beacon site export, version {BUNDLE_VERSION}"),
        "$ref": "#/$defs/SiteBundle",
        "$defs": document["components"]["schemas"].take(),
    })
}

/// A row that cannot be taken.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ImportProblem {
    pub file: String,
    /// Line of the file, counted from one.
    pub line: Option<u64>,
    pub reason: String,
}

/// What an import would do, or did.
#[derive(Clone, Debug, Default, Serialize, ToSchema)]
pub struct ImportReport {
    pub site_id: Option<SiteId>,
    pub site_name: String,
    pub positions: usize,
    pub setups: usize,
    pub runs: usize,
    pub samples: usize,
    pub speed_tests: usize,
    pub attachments: usize,
    /// Rows that are not here yet.
    pub new: usize,
    /// Rows that are here already, just the same.
    pub same: usize,
    /// Rows that are here already with other content; import as a copy then.
    pub conflicts: usize,
    /// Rows that cannot be taken. One is enough to take none.
    pub problems: Vec<ImportProblem>,
}

#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct How {
    /// Give everything new identifiers, so that it stands beside what is here.
    #[serde(default)]
    copy: bool,
    /// An identifier to watch and stop it by, made by whoever sends it.
    watch: Option<Uuid>,
}

#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct WatchedBy {
    /// An identifier to watch and stop it by, made by whoever sends it.
    watch: Option<Uuid>,
}

async fn sent(app: &AppState, headers: &HeaderMap, content: Body, waits: &Waits) -> Result<Spool, Problem> {
    let sent_as = headers.get(header::CONTENT_TYPE).and_then(|value| value.to_str().ok()).unwrap_or_default();
    if matches!(sent_as, "application/zip" | "application/json" | "application/octet-stream") {
        Spool::taken(content, LARGEST_IMPORT_BYTES, app.store.folder(), &app.imports, waits).await
    } else {
        Err(Problem::unreadable("Send the file itself, as application/zip or application/json."))
    }
}

/// How far a file has come that is being looked at or brought in; not found before it is here and after it is through.
#[utoipa::path(get, path = "/api/import/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = ImportProgress), (status = 404, body = Problem)))]
async fn import_progress(
    State(app): State<AppState>,
    Path(id): Path<Uuid>,
) -> Result<Json<ImportProgress>, Problem> {
    let progress = app.imports.progress(id);
    progress.map(Json).ok_or_else(|| StoreError::NotFound("file under way").into())
}

/// Stops what is done with a file. Whoever sent it is told whether that was in time.
#[utoipa::path(delete, path = "/api/import/{id}", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn stop_import(State(app): State<AppState>, Path(id): Path<Uuid>) -> Result<StatusCode, Problem> {
    if app.imports.stop(id) {
        Ok(StatusCode::NO_CONTENT)
    } else {
        Err(StoreError::NotFound("file under way").into())
    }
}

/// The site in a file, with new identifiers for a copy.
fn read(file: Spool, copy: bool, watched: &Watched) -> Result<SiteBundle, Problem> {
    let read = from_source(file);
    watched.go_on()?;
    let bundle = read.map_err(|problems| not_taken(&problems))?;
    if !copy {
        return Ok(bundle);
    }
    with_new_ids(bundle, Uuid::now_v7).map_err(|_| Problem::unreadable("No copy of this file could be made."))
}

fn report(read: &Result<SiteBundle, Vec<RowProblem>>) -> ImportReport {
    match read {
        Ok(bundle) => ImportReport {
            site_id: Some(bundle.site.id),
            site_name: bundle.site.name.clone(),
            positions: bundle.positions.len(),
            setups: bundle.setups.len(),
            runs: bundle.runs.len(),
            samples: bundle.samples.len(),
            speed_tests: bundle.speed_tests.len(),
            attachments: bundle.attachments.len(),
            ..ImportReport::default()
        },
        Err(problems) => ImportReport {
            problems: problems
                .iter()
                .map(|problem| ImportProblem {
                    file: problem.file.clone(),
                    line: problem.line,
                    reason: problem.reason.clone(),
                })
                .collect(),
            ..ImportReport::default()
        },
    }
}

/// Says what an import would do; changes nothing.
#[utoipa::path(post, path = "/api/import/preview", params(WatchedBy), request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = ImportReport), (status = 400, body = Problem), (status = 409, body = Problem),
        (status = 413, body = Problem)))]
async fn preview_import(
    State(app): State<AppState>,
    Query(WatchedBy { watch }): Query<WatchedBy>,
    headers: HeaderMap,
    content: Body,
) -> Result<Json<ImportReport>, Problem> {
    let waits = app.imports.begun(watch);
    let file = sent(&app, &headers, content, &waits).await?;
    let _turn = file.turn();
    let watched = waits.watched();
    let report = app
        .db(move |store| {
            let read = from_source(file);
            watched.go_on()?;
            let mut report = report(&read);
            if let Ok(bundle) = &read {
                let plan = store.plan_import_watched(bundle, &watched.steps())?;
                (report.new, report.same, report.conflicts) = (plan.new, plan.same, plan.conflicts.len());
            }
            Ok(report)
        })
        .await?;
    Ok(Json(report))
}

fn not_taken(problems: &[RowProblem]) -> Problem {
    let first = problems.first().map(|problem| {
        let line = problem.line.map_or_else(String::new, |line| format!(", line {line}"));
        format!("{}{line}: {}", problem.file, problem.reason)
    });
    let (count, first) = (problems.len(), first.unwrap_or_default());
    Problem::unreadable(format!("{count} rows cannot be taken, so none was. {first}"))
}

/// Brings a site in, all or nothing.
#[utoipa::path(post, path = "/api/import", params(How), request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = ImportReport), (status = 400, body = Problem), (status = 409, body = Problem), (status = 413, body = Problem)))]
async fn import(
    State(app): State<AppState>,
    Query(how): Query<How>,
    headers: HeaderMap,
    content: Body,
) -> Result<Json<ImportReport>, Problem> {
    let waits = app.imports.begun(how.watch);
    let file = sent(&app, &headers, content, &waits).await?;
    let _turn = file.turn();
    let (watched, reader) = (waits.watched(), waits.watched());
    let read = tokio::task::spawn_blocking(move || read(file, how.copy, &reader)).await;
    let bundle = read.map_err(|_| Problem::unreadable("The file could not be read."))??;
    let site = bundle.site.id;
    let report = app
        .db(move |store| {
            // What a file says is sent is not sent before somebody has seen it. First asleep, then here: never the other way.
            let is_new = store.site(site).is_err();
            if is_new && !outward::requests(&bundle.settings).is_empty() {
                store.set_asleep(site, true)?;
            }
            let plan = store.import_bundle_watched(&bundle, &watched.steps())?;
            Ok(ImportReport { new: plan.new, same: plan.same, ..report(&Ok(bundle)) })
        })
        .await?;
    app.links.restart(site);
    app.changed(site);
    Ok(Json(report))
}
