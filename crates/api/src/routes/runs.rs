//! Runs: what was recorded, typed-in ones, and their conditions.

use super::{created, labelled, style};
use crate::edits::Edited;
use crate::foretelling;
use crate::problem::{Body, Path, Problem, Query};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use chrono::{DateTime, Utc};
use open_beacon_core::check::Checker;
use open_beacon_core::judge::{Finding, RadioSummary, Said, summarise_samples, tests_doubted};
use open_beacon_core::metrics::flag_oddities;
use open_beacon_core::model::{
    Activity, Amendment, Attachment, Carrier, Completion, Conditions, ConnectionMode, Course, Reading, Run,
    RunContext, RunId, Sample, SampleId, SetupId, Source, SpeedCourse, SpeedFigures, SpeedTest, SpeedTestId,
};
use open_beacon_core::words;
use open_beacon_store::{Archivable, RunCounts, Store, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(list_runs))
        .routes(routes!(get_run))
        .routes(routes!(type_in))
        .routes(routes!(put_conditions))
        .routes(routes!(archive_run))
        .routes(routes!(restore_run))
}

/// A run in a list.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RunRow {
    pub run: Run,
    pub samples: usize,
    pub tests: usize,
}

/// A run with everything in it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RunView {
    pub run: Run,
    pub radio: RadioSummary,
    /// What is odd about it, in words.
    pub findings: Vec<Said>,
    pub samples: Vec<Sample>,
    pub speed_tests: Vec<SpeedTest>,
    /// Over what they were made, in words.
    pub tested_over: Option<String>,
    /// How long a page took to load meanwhile, in words.
    pub page_load: Option<String>,
    /// How they went, as far as that was kept.
    pub courses: Vec<CourseView>,
    pub attachments: Vec<Attachment>,
    /// Corrections, the oldest first.
    pub amendments: Vec<AmendmentView>,
}

/// A correction in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct AmendmentView {
    pub amendment: Amendment,
    /// What stood there before.
    pub before_said: Vec<String>,
}

/// How a speed test went, in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CourseView {
    pub test_id: SpeedTestId,
    pub course: Course,
    pub said: Vec<String>,
}

/// Which page of runs.
#[derive(Clone, Copy, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Page {
    /// Runs that began before this; none means from the newest.
    before: Option<DateTime<Utc>>,
    /// 1..=200, 50 if not said.
    limit: Option<u32>,
}

/// A reading typed in.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct TypedReading {
    pub id: SampleId,
    pub mode: ConnectionMode,
    pub activity: Activity,
    pub carriers: Vec<Carrier>,
}

/// A speed test typed in.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct TypedTest {
    pub id: SpeedTestId,
    /// What it was measured with or against.
    #[serde(default)]
    pub server: String,
    #[serde(flatten)]
    pub figures: SpeedFigures,
}

/// A run typed in; identifiers are made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct TypedRun {
    pub id: RunId,
    /// When it was measured.
    pub measured_at: DateTime<Utc>,
    #[serde(default)]
    pub conditions: Conditions,
    #[serde(default)]
    pub readings: Vec<TypedReading>,
    #[serde(default)]
    pub speed_tests: Vec<TypedTest>,
}

pub(super) fn rows(store: &Store, runs: Vec<Run>) -> Result<Vec<RunRow>, StoreError> {
    let counts = store.run_counts(&runs)?;
    let row = |run: Run| {
        let RunCounts { samples, tests } = counts.get(&run.id).copied().unwrap_or_default();
        RunRow { run, samples, tests }
    };
    Ok(runs.into_iter().map(row).collect())
}

/// A setup's runs, the newest first, archived ones too.
#[utoipa::path(get, path = "/api/setups/{id}/runs", params(("id" = SetupId, Path), Page),
    responses((status = 200, body = Vec<RunRow>)))]
async fn list_runs(
    State(app): State<AppState>,
    Path(id): Path<SetupId>,
    Query(page): Query<Page>,
) -> Result<Json<Vec<RunRow>>, Problem> {
    let limit = page.limit.unwrap_or(50).clamp(1, 200);
    app.db(move |store| rows(store, store.runs_of_setup(id, page.before, limit)?)).await.map(Json)
}

/// One run with its samples, medians and speed tests.
#[utoipa::path(get, path = "/api/runs/{id}", params(("id" = RunId, Path)),
    responses((status = 200, body = RunView), (status = 404, body = Problem)))]
async fn get_run(State(app): State<AppState>, Path(id): Path<RunId>) -> Result<Json<RunView>, Problem> {
    app.db(move |store| view(store, id)).await.map(Json)
}

fn view(store: &Store, id: RunId) -> Result<RunView, StoreError> {
    let run = store.run(id)?;
    let settings = store.settings(store.site_of_setup(run.setup_id)?)?;
    let samples = store.samples_of_run(id)?;
    let radio = summarise_samples(&samples);
    let mut findings = radio.findings.clone();
    if run.completion == Completion::Partial {
        findings.insert(0, Finding::PartialRun { reason: run.reason.clone() });
    }
    let speed_tests = store.speed_tests_of_run(id)?;
    findings.extend(tests_doubted(&speed_tests));
    let style = style(&settings);
    Ok(RunView {
        findings: findings.into_iter().map(|finding| words::said(finding, style)).collect(),
        tested_over: words::fairness::tested_over(&speed_tests),
        page_load: words::fairness::page_load(&speed_tests),
        speed_tests,
        courses: store.speed_courses_of_run(id)?.into_iter().map(course_view).collect(),
        attachments: store.attachments_of_run(id)?,
        amendments: store.amendments_of_run(id)?.into_iter().map(amendment_view).collect(),
        run,
        radio,
        samples,
    })
}

fn amendment_view(amendment: Amendment) -> AmendmentView {
    let before = &amendment.before;
    let heard = words::timeline::heard(&summarise_samples(&before.samples));
    let tests = before.speed_tests.iter().map(|test| words::timeline::figures(&test.figures));
    let before_said = heard.into_iter().chain(tests).collect();
    AmendmentView { amendment, before_said }
}

fn course_view(kept: SpeedCourse) -> CourseView {
    let said = words::measuring::course(&kept.course);
    CourseView { test_id: kept.test_id, course: kept.course, said }
}

/// Adds a run with readings and speed tests made elsewhere. Values outside the standard's reporting range need the
/// flag `as_reported`.
#[utoipa::path(post, path = "/api/setups/{id}/typed-runs", params(("id" = SetupId, Path)), request_body = TypedRun,
    responses((status = 201, body = Run), (status = 200, body = Run), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn type_in(
    State(app): State<AppState>,
    Path(setup_id): Path<SetupId>,
    Body(typed): Body<TypedRun>,
) -> Result<(StatusCode, Json<Run>), Problem> {
    check_typed(&typed, Utc::now())?;
    let run = run_of(&typed, setup_id);
    let grounds = app.grounds.clone();
    let (made, run, site) = app
        .db(move |store| {
            let (_, site, _) = labelled(store, setup_id)?;
            let (samples, tests) = (samples_of(&typed), tests_of(&typed));
            foretelling::keep(store, &grounds, setup_id, Utc::now());
            let made = store.create_whole_run(&run, &samples, &tests, &(setup_id, &typed))?;
            Ok((made, store.run(run.id)?, site))
        })
        .await?;
    app.changed(site);
    Ok((created(made), Json(run)))
}

fn run_of(typed: &TypedRun, setup_id: SetupId) -> Run {
    Run {
        id: typed.id,
        setup_id,
        source: Source::Typed,
        started_at: typed.measured_at,
        ended_at: Some(typed.measured_at),
        completion: Completion::Complete,
        reason: None,
        planned_samples: typed.readings.len() as u32,
        planned_speed_tests: typed.speed_tests.len() as u32,
        refresh_period_s: None,
        conditions: typed.conditions.clone(),
        context: RunContext::Log,
        archived_at: None,
    }
}

/// Readings of a typed run, as they are kept.
pub(super) fn samples_of(typed: &TypedRun) -> Vec<Sample> {
    typed.readings.iter().map(|reading| sample(reading, typed)).collect()
}

/// Speed tests of a typed run, as they are kept.
pub(super) fn tests_of(typed: &TypedRun) -> Vec<SpeedTest> {
    typed.speed_tests.iter().map(|test| speed_test(test, typed)).collect()
}

pub(super) fn check_typed(typed: &TypedRun, now: DateTime<Utc>) -> Result<(), Problem> {
    let mut checker = Checker::default()
        .text("/conditions/notes", &typed.conditions.notes)
        .text("/conditions/network", &typed.conditions.network)
        .measured_at("/measured_at", typed.measured_at, now);
    for (at, reading) in typed.readings.iter().enumerate() {
        checker = checker.carrier_count(&format!("/readings/{at}/carriers"), reading.carriers.len());
        for (place, carrier) in reading.carriers.iter().enumerate() {
            checker = checker.typed_carrier(&format!("/readings/{at}/carriers/{place}"), carrier);
        }
    }
    for (at, test) in typed.speed_tests.iter().enumerate() {
        let pointer = format!("/speed_tests/{at}");
        checker =
            checker.typed_figures(&pointer, &test.figures).short(&format!("{pointer}/server"), &test.server);
    }
    Problem::unless_valid(checker.done())?;
    if typed.readings.iter().all(|reading| reading.carriers.is_empty()) && typed.speed_tests.is_empty() {
        return Err(Problem::unreadable("Enter at least one carrier or one speed test."));
    }
    Ok(())
}

fn sample(reading: &TypedReading, typed: &TypedRun) -> Sample {
    let mut carriers = reading.carriers.clone();
    carriers.iter_mut().for_each(flag_oddities);
    Sample {
        id: reading.id,
        run_id: typed.id,
        taken_at: typed.measured_at,
        activity: reading.activity,
        reading: Reading { mode: reading.mode, carriers, neighbours: Vec::new() },
    }
}

fn speed_test(test: &TypedTest, typed: &TypedRun) -> SpeedTest {
    SpeedTest {
        id: test.id,
        run_id: typed.id,
        sitting_id: None,
        started_at: typed.measured_at,
        source: Source::Typed,
        completion: Completion::Complete,
        reason: None,
        server: test.server.clone(),
        surroundings: None,
        figures: test.figures.clone(),
    }
}

/// Replaces what is noted about a run's conditions.
#[utoipa::path(put, path = "/api/runs/{id}/conditions", params(("id" = RunId, Path)), request_body = Edited<Conditions>,
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn put_conditions(
    State(app): State<AppState>,
    Path(id): Path<RunId>,
    Body(Edited { body: conditions, seen }): Body<Edited<Conditions>>,
) -> Result<StatusCode, Problem> {
    let checker = Checker::default().text("/notes", &conditions.notes).text("/weather", &conditions.weather);
    Problem::unless_valid(checker.done())?;
    let site = app
        .edit(move |store| {
            let run = store.run(id)?;
            seen.still(&run.conditions, &conditions)?;
            store.update_conditions(id, &conditions)?;
            Ok(store.site_of_setup(run.setup_id)?)
        })
        .await?;
    app.changed(site);
    Ok(StatusCode::NO_CONTENT)
}

async fn archived(app: &AppState, id: RunId, away: bool) -> Result<StatusCode, Problem> {
    let at = away.then(Utc::now);
    let site = app
        .db(move |store| {
            store.set_archived(Archivable::Run, &id.to_string(), at)?;
            store.site_of_setup(store.run(id)?.setup_id)
        })
        .await?;
    app.changed(site);
    Ok(StatusCode::NO_CONTENT)
}

/// Leaves a run out of all figures. Nothing is lost.
#[utoipa::path(post, path = "/api/runs/{id}/archive", params(("id" = RunId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn archive_run(State(app): State<AppState>, Path(id): Path<RunId>) -> Result<StatusCode, Problem> {
    archived(&app, id, true).await
}

/// Takes an archived run back into the figures.
#[utoipa::path(post, path = "/api/runs/{id}/restore", params(("id" = RunId, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn restore_run(State(app): State<AppState>, Path(id): Path<RunId>) -> Result<StatusCode, Problem> {
    archived(&app, id, false).await
}
