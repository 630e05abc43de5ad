//! Tables of results made elsewhere: looked at, then brought in.

use super::notebook::known;
use crate::foretelling;
use crate::grounds::Grounds;
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use chrono::{DateTime, TimeDelta, Utc};
use open_beacon_core::check::Checker;
use open_beacon_core::limits::LARGEST_MASTS_BYTES;
use open_beacon_core::model::{ResultTableReading, SetupId, SiteId};
use open_beacon_exchange::notebook::NameMeans;
use open_beacon_exchange::results::{
    KnownTest, ReadingWith, ResultRow, ResultTable, TableQuestion, leave_out_known, read_results, runs_of,
};
use open_beacon_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(preview_results))
        .routes(routes!(import_results))
        .layer(axum::extract::DefaultBodyLimit::max(LARGEST_MASTS_BYTES))
}

/// A table, and how it is to be read.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct ResultsFile {
    pub file_name: String,
    /// Its text: CSV with commas, semicolons or tabs.
    pub text: String,
    /// As mapped and answered by the user; without columns they are guessed.
    #[serde(default)]
    pub reading: ResultTableReading,
    /// What names were said to mean.
    #[serde(default)]
    pub names: Vec<NameMeans>,
    /// The setup that rows without a name are of.
    #[serde(default)]
    pub chosen: Option<SetupId>,
}

/// A row that cannot be read.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ResultRowProblem {
    pub line: Option<u64>,
    pub reason: String,
}

/// What a table of results holds.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ResultsPreview {
    pub reading: ResultTableReading,
    /// Units to choose from, for each column.
    pub units: Vec<Vec<String>>,
    /// The first rows as they stand.
    pub first_rows: Vec<Vec<String>>,
    pub rows: usize,
    /// What is to be answered first.
    pub questions: Vec<TableQuestion>,
    /// The first rows as they are understood.
    pub understood: Vec<ResultRow>,
    /// Rows that are new.
    pub fresh: usize,
    /// Rows that are here already.
    pub known: usize,
    /// Rows that stand in the file before.
    pub twice: usize,
    /// Rows that are left out, the first of them.
    pub problems: Vec<ResultRowProblem>,
    pub problem_rows: usize,
}

/// Rows shown as they are understood, and problems.
const SHOWN_ROWS: usize = 12;
const SHOWN_PROBLEMS: usize = 20;
/// Tests this near in time may be the same.
const NEAR: TimeDelta = TimeDelta::minutes(1);

fn is_new(row: &ResultRow) -> bool {
    row.new_signal || row.new_speeds
}

fn read(
    store: &Store,
    id: SiteId,
    file: &ResultsFile,
    now: DateTime<Utc>,
) -> Result<Result<ResultTable, String>, StoreError> {
    let site = store.site(id)?;
    let settings = store.settings(id)?;
    let with = ReadingWith {
        reading: &file.reading,
        remembered: &settings.result_table.columns,
        names: &file.names,
        known: &known(store, id)?,
        chosen: file.chosen,
        site: id,
        zone: site.time_zone,
        now,
    };
    let mut table = match read_results(&file.file_name, &file.text, &with) {
        Ok(table) => table,
        Err(reason) => return Ok(Err(reason)),
    };
    let times = || table.understood.iter().map(|row| row.at);
    if let (Some(first), Some(last)) = (times().min(), times().max()) {
        let between = (first - NEAR, last + NEAR);
        let here = store.tests_here(id, between)?.into_iter().map(|test| KnownTest {
            setup_id: test.setup_id,
            at: test.started_at,
            download_mbps: test.download_mbps,
            upload_mbps: test.upload_mbps,
        });
        leave_out_known(
            &mut table.understood,
            id,
            &store.result_ids(id, between)?,
            &here.collect::<Vec<_>>(),
        );
    }
    Ok(Ok(table))
}

/// Reads a table of results and says what it would bring, changing nothing.
#[utoipa::path(post, path = "/api/sites/{id}/result-tables/preview", params(("id" = SiteId, Path)), request_body = ResultsFile,
    responses((status = 200, body = ResultsPreview), (status = 400, body = Problem), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn preview_results(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(file): Body<ResultsFile>,
) -> Result<Json<ResultsPreview>, Problem> {
    Problem::unless_valid(Checker::default().short("/file_name", &file.file_name).done())?;
    let now = app.now();
    let table = app.db(move |store| read(store, id, &file, now)).await?;
    Ok(Json(preview_of(table.map_err(Problem::unreadable)?)))
}

fn preview_of(table: ResultTable) -> ResultsPreview {
    let fresh = table.understood.iter().filter(|row| is_new(row)).count();
    let problem =
        |one: open_beacon_exchange::RowProblem| ResultRowProblem { line: one.line, reason: one.reason };
    let names = |units: &&[&str]| units.iter().map(|unit| (*unit).to_owned()).collect();
    ResultsPreview {
        units: table.units.iter().map(names).collect(),
        first_rows: table.first_rows,
        rows: table.rows,
        questions: table.questions,
        fresh,
        known: table.understood.len() - fresh,
        twice: table.twice,
        problem_rows: table.problems.len(),
        problems: table.problems.into_iter().take(SHOWN_PROBLEMS).map(problem).collect(),
        understood: table.understood.into_iter().take(SHOWN_ROWS).collect(),
        reading: table.reading,
    }
}

/// What an import of results did.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct ResultsImported {
    /// Rows that are new.
    pub added: usize,
    /// Runs made of them.
    pub runs: usize,
    /// Rows that are here already, or stand in the file twice.
    pub known: usize,
    /// Rows left out because they cannot be read.
    pub refused: usize,
}

/// Brings the rows of a table in, all or none, and remembers how it was read.
#[utoipa::path(post, path = "/api/sites/{id}/result-tables/import", params(("id" = SiteId, Path)), request_body = ResultsFile,
    responses((status = 200, body = ResultsImported), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn import_results(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(file): Body<ResultsFile>,
) -> Result<Json<ResultsImported>, Problem> {
    Problem::unless_valid(Checker::default().short("/file_name", &file.file_name).done())?;
    let (now, grounds) = (app.now(), app.grounds.clone());
    let done = app.db(move |store| bring(store, id, (&file, now), &grounds)).await??;
    app.changed(id);
    Ok(Json(done))
}

fn bring(
    store: &Store,
    id: SiteId,
    (file, now): (&ResultsFile, DateTime<Utc>),
    grounds: &Grounds,
) -> Result<Result<ResultsImported, Problem>, StoreError> {
    let table = match read(store, id, file, now)? {
        Ok(table) => table,
        Err(reason) => return Ok(Err(Problem::unreadable(reason))),
    };
    if let Some(question) = table.questions.first() {
        return Ok(Err(Problem::unreadable(&question.text)));
    }
    let runs = runs_of(&table.understood, &file.file_name, table.reading.instrument, id);
    let setups: BTreeSet<SetupId> = runs.iter().map(|one| one.run.setup_id).collect();
    for setup in setups {
        foretelling::keep(store, grounds, setup, now);
    }
    let added = table.understood.iter().filter(|row| is_new(row)).count();
    let done = ResultsImported {
        added,
        runs: runs.len(),
        known: table.understood.len() - added + table.twice,
        refused: table.problems.len(),
    };
    let whole: Vec<_> = runs.into_iter().map(|one| (one.run, one.samples, one.tests)).collect();
    store.add_runs(id, &whole)?;
    store.update_settings(id, |settings| settings.result_table = table.reading)?;
    Ok(Ok(done))
}
