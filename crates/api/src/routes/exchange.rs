//! A whole site out and in.

use crate::problem::{Path, Problem, Query};
use crate::spool::Spool;
use crate::state::AppState;
use axum::Json;
use axum::body::Body;
use axum::extract::State;
use axum::http::{HeaderMap, header};
use axum::response::{IntoResponse, Response};
use open_beacon_core::model::{BUNDLE_VERSION, SiteBundle, SiteId};
use open_beacon_core::words::outward;
use open_beacon_exchange::{LARGEST_JSON, RowProblem, from_source, with_new_ids, write_json, write_zip};
use open_beacon_store::StoreError;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use std::io::{BufWriter, ErrorKind, Write};
use tokio::io::DuplexStream;
use tokio_util::io::{ReaderStream, SyncIoBridge};
use tokio_util::sync::DropGuard;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

/// Largest import, bytes; it is looked at on disk.
const LARGEST: u64 = 1 << 30;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(preview_import))
        .routes(routes!(import))
        .routes(routes!(export_json))
        .routes(routes!(export_zip))
        .routes(routes!(export_schema))
}

/// Bytes on their way to the client while the next are made.
const UNDER_WAY: usize = 256 << 10;

/// A file that leaves while it is written; where the client goes, writing ends.
fn download(
    bundle: SiteBundle,
    ending: &str,
    media_type: &str,
    write: impl FnOnce(&SiteBundle, BufWriter<SyncIoBridge<DuplexStream>>) -> std::io::Result<()> + Send + 'static,
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

/// Takes as many bytes as are left, and keeps none.
struct Room(u64);

impl Write for Room {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        self.0 = self.0.checked_sub(bytes.len() as u64).ok_or(ErrorKind::FileTooLarge)?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> std::io::Result<()> {
        Ok(())
    }
}

/// The whole site as JSON; its schema is at `/api/export-schema.json`.
#[utoipa::path(get, path = "/api/sites/{id}/export.json", params(("id" = SiteId, Path)),
    responses((status = 200, body = SiteBundle), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn export_json(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let (bundle, fits) = app
        .db(move |store| {
            let bundle = store.bundle(id)?;
            match write_json(&bundle, Room(LARGEST_JSON)) {
                Err(error) if error.kind() == ErrorKind::FileTooLarge => Ok((bundle, false)),
                written => written.map(|()| (bundle, true)).map_err(StoreError::from),
            }
        })
        .await?;
    if !fits {
        let limit = format!(
            "As JSON this site is larger than the {} MiB that can be brought in again",
            LARGEST_JSON >> 20
        );
        return Err(Problem::conflict(format!("{limit}. Export it as a zip instead.")));
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
}

async fn sent(app: &AppState, headers: &HeaderMap, content: Body) -> Result<(Spool, DropGuard), Problem> {
    let sent_as = headers.get(header::CONTENT_TYPE).and_then(|value| value.to_str().ok()).unwrap_or_default();
    if matches!(sent_as, "application/zip" | "application/json" | "application/octet-stream") {
        Spool::taken(content, LARGEST, app.store.folder()).await
    } else {
        Err(Problem::unreadable("Send the file itself, as application/zip or application/json."))
    }
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
#[utoipa::path(post, path = "/api/import/preview", request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    responses((status = 200, body = ImportReport), (status = 400, body = Problem), (status = 413, body = Problem)))]
async fn preview_import(
    State(app): State<AppState>,
    headers: HeaderMap,
    content: Body,
) -> Result<Json<ImportReport>, Problem> {
    let (file, _waits) = sent(&app, &headers, content).await?;
    let report = app
        .db(move |store| {
            let read = from_source(file);
            let mut report = report(&read);
            if let Ok(bundle) = &read {
                let plan = store.plan_import(bundle)?;
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
    let (file, _waits) = sent(&app, &headers, content).await?;
    let unread = |_| Problem::unreadable("The file could not be read.");
    let read = tokio::task::spawn_blocking(move || from_source(file)).await.map_err(unread)?;
    let bundle = read.map_err(|problems| not_taken(&problems))?;
    let renamed = move || if how.copy { with_new_ids(bundle, Uuid::now_v7) } else { Ok(bundle) };
    let bundle = tokio::task::spawn_blocking(renamed).await.map_err(unread)?;
    let bundle = bundle.map_err(|_| Problem::unreadable("No copy of this file could be made."))?;
    let site = bundle.site.id;
    let report = app
        .db(move |store| {
            // What a file says is sent is not sent before somebody has seen it. First asleep, then here: never the other way.
            let is_new = store.site(site).is_err();
            if is_new && !outward::requests(&bundle.settings).is_empty() {
                store.set_asleep(site, true)?;
            }
            let plan = store.import_bundle(&bundle)?;
            Ok(ImportReport { new: plan.new, same: plan.same, ..report(&Ok(bundle)) })
        })
        .await?;
    app.links.restart(site);
    app.changed(site);
    Ok(Json(report))
}
