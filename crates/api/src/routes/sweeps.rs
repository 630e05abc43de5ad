//! The Aim stage: sweeps, their stops, and what they come to.

use super::carry_on::keep_sweep;
use crate::edits::Edited;
use crate::late::{LateStop, recover};
use crate::problem::{Body, Path, Problem};
use crate::site_record::SiteRecord;
use crate::state::{AppState, Changed};
use crate::stops;
use crate::sweeping::{StopPlan, StopState};
use crate::views::sweep::{SweepView, name_of, view};
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use chrono::{DateTime, Utc};
use open_beacon_core::aim::fit::Nominal;
use open_beacon_core::aim::sweep::CellKey;
use open_beacon_core::check::Checker;
use open_beacon_core::model::{
    Attach, Completion, PositionId, RunId, SiteId, Sweep, SweepAxis, SweepId, SweepPhoto, SweepStop,
    SweepStopId,
};
use open_beacon_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::time::Duration;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(list_sweeps, create_sweep))
        .routes(routes!(get_sweep, end_sweep))
        .routes(routes!(choose_cell))
        .routes(routes!(measure_stop, cancel_stop))
        .routes(routes!(change_stop))
}

/// A sweep to begin.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct NewSweep {
    /// Made by the client (UUIDv7).
    pub id: SweepId,
    pub position_id: PositionId,
    #[serde(default)]
    pub axis: SweepAxis,
    /// Where the mast is expected; by the survey's best choice for the position where not said.
    #[serde(default)]
    pub expected_deg: Option<f64>,
    #[serde(default)]
    pub attach: Attach,
    /// A speed test at each turn of a port-map test.
    #[serde(default)]
    pub speed_tests: bool,
}

impl NewSweep {
    fn check(&self, data: &SiteRecord) -> Result<(), Problem> {
        let (low, high) = match self.axis {
            SweepAxis::Azimuth | SweepAxis::Ports => (0.0, 360.0),
            SweepAxis::Tilt => (-45.0, 45.0),
        };
        let mut checker = Checker::default().range("/expected_deg", self.expected_deg, low, high, "°");
        if self.speed_tests && self.axis != SweepAxis::Ports {
            checker.refuse(
                "/speed_tests",
                "Speed tests are for port maps: while an antenna is turned, they would load the line.",
            );
        }
        if self.speed_tests && data.settings.speed_test.is_none() {
            checker.refuse("/speed_tests", "Enter a speed-test address under Settings first, or go without.");
        }
        if self.speed_tests && data.stands_at(self.position_id).is_none() {
            checker.refuse(
                "/speed_tests",
                "Say first which setup stands at this position: its tests belong to it.",
            );
        }
        Problem::unless_valid(checker.done())
    }

    fn sweep(&self, site_id: SiteId, data: &SiteRecord) -> Result<Sweep, Problem> {
        data.position(self.position_id)?;
        self.check(data)?;
        let Nominal { beamwidth_deg, front_to_back_db } = nominal(data, self.axis);
        let by_survey = || data.expected(self.position_id, self.axis);
        Ok(Sweep {
            id: self.id,
            site_id,
            position_id: self.position_id,
            setup_id: data.stands_at(self.position_id).map(|setup| setup.id),
            axis: self.axis,
            beamwidth_deg,
            front_to_back_db,
            expected_deg: self.expected_deg.or_else(by_survey),
            cell: None,
            speed_tests: self.speed_tests,
            attach: self.attach,
            notes: Vec::new(),
            started_at: Utc::now(),
            set_deg: None,
            ended_at: None,
            archived_at: None,
        })
    }
}

/// A sweep in a list.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SweepLine {
    pub sweep: Sweep,
    pub position: String,
    pub stops: usize,
}

/// Where nothing is known of the antenna: the assumed panel (common practice, no source).
const ASSUMED: Nominal = Nominal { beamwidth_deg: 60.0, front_to_back_db: 20.0 };
/// The gateway is watched this long after the last point: a phone on the roof may be out of reach meanwhile, and what it
/// points at then is taken from what was heard.
const HOLD_WHILE_SWEEPING: Duration = Duration::from_secs(45 * 60);
/// Refresh period taken before one was learned, s.
const USUAL_PERIOD_S: f64 = 2.0;

fn nominal(data: &SiteRecord, axis: SweepAxis) -> Nominal {
    let antenna = data.antenna_spec();
    antenna.map_or(ASSUMED, |one| Nominal {
        beamwidth_deg: match axis {
            SweepAxis::Azimuth | SweepAxis::Ports => one.beamwidth_azimuth_deg,
            SweepAxis::Tilt => one.beamwidth_elevation_deg,
        }
        .clamp(3.0, 180.0),
        front_to_back_db: one.front_to_back_db,
    })
}

/// Sweeps of a site, the newest first.
#[utoipa::path(get, path = "/api/sites/{id}/sweeps", params(("id" = SiteId, Path)),
    responses((status = 200, body = Vec<SweepLine>), (status = 404, body = Problem)))]
async fn list_sweeps(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
) -> Result<Json<Vec<SweepLine>>, Problem> {
    let lines = app.db(move |store| {
        store.site(id)?;
        let sweeps: Vec<Sweep> = store.entities(id)?;
        let stops = store.sweep_stops(id)?;
        let positions = store.positions(id)?;
        let line = |sweep: Sweep| SweepLine {
            position: name_of(&positions, sweep.position_id),
            stops: stops
                .iter()
                .filter(|stop| stop.sweep_id == sweep.id && stop.archived_at.is_none())
                .count(),
            sweep,
        };
        Ok(sweeps.into_iter().rev().filter(|sweep| sweep.archived_at.is_none()).map(line).collect())
    });
    Ok(Json(lines.await?))
}

/// Begins a sweep at a position.
#[utoipa::path(post, path = "/api/sites/{id}/sweeps", params(("id" = SiteId, Path)), request_body = NewSweep,
    responses((status = 201, body = Sweep), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn create_sweep(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(new): Body<NewSweep>,
) -> Result<(StatusCode, Json<Sweep>), Problem> {
    let sweep = app.record(id, move |data| new.sweep(id, data)).await?;
    let kept = app
        .db(move |store| {
            let known: Vec<Sweep> = store.entities(id)?;
            if let Some(known) = known.into_iter().find(|one| one.id == sweep.id) {
                return Ok(known);
            }
            store.put_entities(id, std::slice::from_ref(&sweep))?;
            Ok(sweep)
        })
        .await?;
    app.links.hold(id, HOLD_WHILE_SWEEPING);
    app.changed(id);
    Ok((StatusCode::CREATED, Json(kept)))
}

pub(super) async fn find(
    app: &AppState,
    site: SiteId,
    id: SweepId,
) -> Result<(Sweep, Vec<SweepStop>), Problem> {
    let found = app.db(move |store| {
        let sweeps: Vec<Sweep> = store.entities(site)?;
        let sweep = sweeps.into_iter().find(|one| one.id == id).ok_or(StoreError::NotFound("sweep"))?;
        let mut stops = store.sweep_stops(site)?;
        stops.retain(|stop| stop.sweep_id == id);
        Ok((sweep, stops))
    });
    found.await
}

/// Download of the last complete speed test of each run.
fn downloads(store: &Store, runs: &[Option<RunId>]) -> Result<HashMap<RunId, f64>, StoreError> {
    let mut found = HashMap::new();
    for run in runs.iter().flatten() {
        let tests = store.speed_tests_of_run(*run)?;
        let whole = tests.iter().rev().filter(|test| test.completion == Completion::Complete);
        if let Some(mbps) = whole.filter_map(|test| test.figures.download_mbps).next() {
            found.insert(*run, mbps);
        }
    }
    Ok(found)
}

/// A sweep with its fit and the next step.
#[utoipa::path(get, path = "/api/sites/{id}/sweeps/{sweep}", params(("id" = SiteId, Path), ("sweep" = SweepId, Path)),
    responses((status = 200, body = SweepView), (status = 404, body = Problem)))]
async fn get_sweep(
    State(app): State<AppState>,
    Path((site, id)): Path<(SiteId, SweepId)>,
) -> Result<Json<SweepView>, Problem> {
    let (sweep, stops) = find(&app, site, id).await?;
    let measuring = app.sweeping.state(site).filter(|state| state.sweep_id == id);
    let period_s = app.links.peek(site).and_then(|state| state.refresh_period_s).unwrap_or(USUAL_PERIOD_S);
    let runs: Vec<Option<RunId>> =
        stops.iter().map(|stop| stop.run_id).filter(|_| sweep.speed_tests).collect();
    let (photos, downloads) =
        app.db(move |store| Ok((store.entities::<SweepPhoto>(site)?, downloads(store, &runs)?))).await?;
    let photos = photos.into_iter().filter(|photo| photo.sweep_id == id).collect();
    app.record(site, move |data| {
        Ok(Json(SweepView { photos, ..view(data, sweep, &stops, &downloads, measuring, period_s) }))
    })
    .await
}

/// Ends a sweep, or takes it up again.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct SweepEnd {
    /// What the antenna was set to; none to take the sweep up again.
    pub set_deg: Option<f64>,
    /// Archived; nothing is lost.
    #[serde(default)]
    pub archived: bool,
}

/// Says what the antenna was set to in the end: from then on that is the setup being worked on.
#[utoipa::path(put, path = "/api/sites/{id}/sweeps/{sweep}", params(("id" = SiteId, Path), ("sweep" = SweepId, Path)),
    request_body = Edited<SweepEnd>, responses((status = 200, body = Sweep), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn end_sweep(
    State(app): State<AppState>,
    Path((site, id)): Path<(SiteId, SweepId)>,
    Body(Edited { body: end, seen }): Body<Edited<SweepEnd>>,
) -> Result<Json<Sweep>, Problem> {
    Problem::unless_valid(Checker::default().range("/set_deg", end.set_deg, -90.0, 360.0, "°").done())?;
    let sweep = app
        .edit(move |store| {
            let sweeps: Vec<Sweep> = store.entities(site)?;
            let stored = sweeps.into_iter().find(|one| one.id == id).ok_or(StoreError::NotFound("sweep"))?;
            let mut sweep = stored.clone();
            sweep.set_deg = end.set_deg;
            sweep.ended_at = end.set_deg.map(|_| Utc::now());
            sweep.archived_at = end.archived.then(Utc::now);
            seen.still(&stored, &sweep)?;
            store.put_entities(site, std::slice::from_ref(&sweep))?;
            Ok(sweep)
        })
        .await?;
    if sweep.archived_at.is_none() {
        keep_sweep(&app, &sweep).await?;
    }
    app.changed(site);
    Ok(Json(sweep))
}

/// Which cell is aimed at.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct ChosenCell {
    /// `None`: the one that answered when the sweep began.
    pub cell: Option<CellKey>,
}

/// Says which cell is aimed at, where several answered.
#[utoipa::path(put, path = "/api/sites/{id}/sweeps/{sweep}/cell", params(("id" = SiteId, Path), ("sweep" = SweepId, Path)),
    request_body = ChosenCell, responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn choose_cell(
    State(app): State<AppState>,
    Path((site, id)): Path<(SiteId, SweepId)>,
    Body(chosen): Body<ChosenCell>,
) -> Result<StatusCode, Problem> {
    let (_, stops) = find(&app, site, id).await?;
    let carriers = || stops.iter().flat_map(|stop| &stop.samples).flat_map(|reading| &reading.carriers);
    if chosen.cell.is_some_and(|cell| carriers().all(|carrier| CellKey::of(carrier) != cell)) {
        let unheard = "This cell answered at no bearing of the sweep. Choose one that did.";
        return Err(Problem::invalid(Checker::default().problem("/cell", unheard).done()));
    }
    app.edit(move |store| {
        let sweeps: Vec<Sweep> = store.entities(site)?;
        let stored = sweeps.into_iter().find(|one| one.id == id).ok_or(StoreError::NotFound("sweep"))?;
        store.put_entities(site, &[Sweep { cell: chosen.cell, ..stored }])?;
        Ok(())
    })
    .await?;
    app.changed_in(site, Changed::Sweep(id));
    Ok(StatusCode::NO_CONTENT)
}

/// A stop to measure now, with the antenna pointing there.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct NewStop {
    /// Made by the client (UUIDv7).
    pub id: SweepStopId,
    /// Degrees from true north, 0..=360, or tilt, −90..=90.
    pub angle_deg: f64,
    /// Independent samples, 1..=20.
    pub samples: u32,
    /// When it was pressed by the phone's own clock, where that was before this could be sent.
    #[serde(default)]
    pub pressed_at: Option<DateTime<Utc>>,
    /// How far the phone's clock is behind this program's, ms.
    #[serde(default)]
    pub clock_offset_ms: Option<i64>,
    /// How long the antenna was held still from then on, s, 1..=600.
    #[serde(default)]
    pub held_s: Option<f64>,
}

impl NewStop {
    fn check(&self) -> Result<(), Problem> {
        let checker = Checker::default()
            .range("/angle_deg", Some(self.angle_deg), -90.0, 360.0, "°")
            .range("/samples", Some(f64::from(self.samples)), 1.0, 20.0, "samples")
            .range("/held_s", self.held_s, 1.0, 600.0, "s");
        Problem::unless_valid(checker.done())
    }

    fn late(&self) -> Option<LateStop> {
        let pressed_at = self.pressed_at?;
        let clock_offset_ms = self.clock_offset_ms.unwrap_or(0);
        Some(LateStop { pressed_at, clock_offset_ms, held_s: self.held_s })
    }

    fn plan(&self, sweep: &Sweep) -> StopPlan {
        let angle_deg = sweep.axis.angle(self.angle_deg);
        StopPlan {
            site_id: sweep.site_id,
            sweep_id: sweep.id,
            stop_id: self.id,
            angle_deg,
            samples: self.samples,
            speed_test: sweep.speed_tests,
        }
    }
}

/// Measures where the antenna points now; it goes on in the server. A repeat of the same identifier changes nothing.
#[utoipa::path(post, path = "/api/sites/{id}/sweeps/{sweep}/stops", params(("id" = SiteId, Path), ("sweep" = SweepId, Path)),
    request_body = NewStop, responses((status = 202, body = StopState), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn measure_stop(
    State(app): State<AppState>,
    Path((site, id)): Path<(SiteId, SweepId)>,
    Body(new): Body<NewStop>,
) -> Result<(StatusCode, Json<StopState>), Problem> {
    new.check()?;
    let (sweep, stops) = find(&app, site, id).await?;
    if let Some(known) = stops.iter().find(|stop| stop.id == new.id) {
        return Ok((StatusCode::ACCEPTED, Json(StopState::done(known))));
    }
    if sweep.ended_at.is_some() {
        return Err(Problem::conflict("This sweep has ended. Resume it, or begin a new one."));
    }
    let settings = app.db(move |store| store.settings(site)).await?;
    if settings.gateway.is_none() {
        return Err(Problem::conflict("No gateway address is set. Enter it under Settings."));
    }
    let state = match new.late() {
        // The answer to the first try may have been lost on its way back.
        _ if app.sweeping.measures(site, new.id) => app.sweeping.state(site),
        Some(late) => Some(recover(&app, &sweep, new.plan(&sweep), late).await?),
        None => None,
    };
    let state = match state {
        Some(state) => state,
        None => {
            app.links.hold(site, HOLD_WHILE_SWEEPING);
            stops::begin(&app, new.plan(&sweep), settings)?
        }
    };
    app.changed(site);
    Ok((StatusCode::ACCEPTED, Json(state)))
}

/// Breaks off what is being measured.
#[utoipa::path(delete, path = "/api/sites/{id}/sweeps/{sweep}/stops", params(("id" = SiteId, Path), ("sweep" = SweepId, Path)),
    responses((status = 204)))]
async fn cancel_stop(State(app): State<AppState>, Path((site, _id)): Path<(SiteId, SweepId)>) -> StatusCode {
    app.sweeping.cancel(site);
    StatusCode::NO_CONTENT
}

/// What of a stop can be changed.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct StopChange {
    pub left_out: bool,
}

/// Leaves a stop out of the fit, or takes it in again.
#[utoipa::path(put, path = "/api/sites/{id}/sweeps/{sweep}/stops/{stop}",
    params(("id" = SiteId, Path), ("sweep" = SweepId, Path), ("stop" = SweepStopId, Path)), request_body = StopChange,
    responses((status = 204), (status = 404, body = Problem)))]
async fn change_stop(
    State(app): State<AppState>,
    Path((site, id, stop)): Path<(SiteId, SweepId, SweepStopId)>,
    Body(change): Body<StopChange>,
) -> Result<StatusCode, Problem> {
    let (_, stops) = find(&app, site, id).await?;
    let mut found = stops.into_iter().find(|one| one.id == stop).ok_or(StoreError::NotFound("point"))?;
    found.archived_at = change.left_out.then(Utc::now);
    app.db(move |store| store.put_sweep_stop(&found)).await?;
    app.changed(site);
    Ok(StatusCode::NO_CONTENT)
}
