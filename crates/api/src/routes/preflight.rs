//! What to know before a run on a setup.

use super::labelled;
use crate::problem::{Path, Problem};
use crate::repeats::moved_this_month_mb;
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use chrono::{DateTime, Utc};
use open_beacon_core::model::{Attach, NetworkInterface, Run, SetupId, SiteEvent};
use open_beacon_core::protocol::{Built, LastRun, PreflightInput, PreflightItem, PreflightState, preflight};
use open_beacon_core::words;
use open_beacon_speedtest::interface_to;
use open_beacon_store::{Store, StoreError};
use serde::Serialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_preflight))
}

/// One thing to know, in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PreflightSaid {
    pub item: PreflightItem,
    pub state: PreflightState,
    pub text: String,
}

/// What to know before a run.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PreflightView {
    /// What would spoil a comparison first, then what is asked, then what is known.
    pub items: Vec<PreflightSaid>,
    /// What is noted of the next run unless something else is entered.
    pub attach: Attach,
    pub weather: String,
}

/// Runs that the baseline's tests are looked for in.
const RUNS_OF_BASELINE: u32 = 25;

/// What to know before a run on a setup: what is detected or carried over, what is asked, and what would spoil a comparison.
#[utoipa::path(get, path = "/api/setups/{id}/preflight", params(("id" = SetupId, Path)),
    responses((status = 200, body = PreflightView), (status = 404, body = Problem)))]
async fn get_preflight(
    State(app): State<AppState>,
    Path(id): Path<SetupId>,
) -> Result<Json<PreflightView>, Problem> {
    let settings = app.db(move |store| store.settings(store.site_of_setup(id)?)).await?;
    let interface = match &settings.speed_test {
        Some(test) => interface_to(&test.download_url).await,
        None => None,
    };
    let now = app.now();
    app.db(move |store| view(store, id, interface.as_ref(), now)).await.map(Json)
}

fn view(
    store: &Store,
    id: SetupId,
    interface: Option<&NetworkInterface>,
    now: DateTime<Utc>,
) -> Result<PreflightView, StoreError> {
    let (setup, site_id, _) = labelled(store, id)?;
    let (settings, zone) = (store.settings(site_id)?, store.site(site_id)?.time_zone);
    let position = store.position(setup.position_id)?;
    let newest = store.runs_by_time(site_id, None, 1, |run, _| run.archived_at.is_none())?.into_iter().next();
    let last = newest.map(|(run, _)| last_run(store, run)).transpose()?;
    let baseline = settings.baseline_setup_id.filter(|baseline| *baseline != id);
    let baseline = baseline.map(|baseline| store.evidence(baseline, String::new(), Some(RUNS_OF_BASELINE)));
    let baseline = baseline.transpose()?;
    let events: Vec<SiteEvent> = store.entities(site_id)?;
    let items = preflight(&PreflightInput {
        built: Built { setup: &setup, position: &position },
        last: last.as_ref().map(|(run, label, setup, position)| LastRun {
            built: Built { setup, position },
            label,
            started_at: run.started_at,
            conditions: &run.conditions,
        }),
        baseline: baseline.as_ref(),
        speed_test: settings.speed_test.as_ref(),
        interface,
        events: &events,
        used_mb: moved_this_month_mb(store, site_id, zone, now)?,
        cap_mb: settings.trials.data_cap_mb,
        now,
    });
    let attach = items.iter().find_map(|item| match item {
        PreflightItem::AttachCarried { attach } => Some(*attach),
        _ => None,
    });
    let weather = items.iter().find_map(|item| match item {
        PreflightItem::WeatherCarried { weather } => Some(weather.clone()),
        _ => None,
    });
    Ok(PreflightView {
        attach: attach.unwrap_or_default(),
        weather: weather.unwrap_or_default(),
        items: items
            .into_iter()
            .map(|item| PreflightSaid {
                state: item.state(),
                text: words::preflight::item(&item, zone),
                item,
            })
            .collect(),
    })
}

type Last = (Run, String, open_beacon_core::model::Setup, open_beacon_core::model::Position);

fn last_run(store: &Store, run: Run) -> Result<Last, StoreError> {
    let (setup, _, label) = labelled(store, run.setup_id)?;
    let position = store.position(setup.position_id)?;
    Ok((run, label, setup, position))
}
