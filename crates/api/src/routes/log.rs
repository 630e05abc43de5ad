//! The log of one setup.

use super::{labelled, runs, style};
use crate::problem::{Path, Problem};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use open_beacon_core::judge::{FigureRow, NextAction, RadioSummary, figure_row, log_advice};
use open_beacon_core::model::{SetupId, SpeedFigure};
use open_beacon_core::words;
use open_beacon_store::Store;
use serde::Serialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_log))
}

/// How many runs the log opens with, and how many its figures rest on: the newest.
pub const RUNS_IN_LOG: u32 = 25;

/// What the Log stage shows of a setup. Figures rest on the newest runs in use, 25 at most, of the network in use.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct LogView {
    /// The sentence on top.
    pub title: String,
    pub detail: String,
    pub next: NextAction,
    pub figures: Vec<FigureRow>,
    pub radio: RadioSummary,
    /// The newest first, archived ones too.
    pub runs: Vec<runs::RunRow>,
}

/// The log of one setup.
#[utoipa::path(get, path = "/api/setups/{id}/log", params(("id" = SetupId, Path)),
    responses((status = 200, body = LogView), (status = 404, body = Problem)))]
async fn get_log(State(app): State<AppState>, Path(id): Path<SetupId>) -> Result<Json<LogView>, Problem> {
    app.db(move |store| view(store, id)).await.map(Json)
}

fn view(store: &Store, id: SetupId) -> Result<LogView, open_beacon_store::StoreError> {
    let (_, site, label) = labelled(store, id)?;
    let settings = store.settings(site)?;
    let evidence = store.evidence(id, label, Some(RUNS_IN_LOG))?.of_network(&settings.network);
    let advice = log_advice(Some(&evidence));
    let (title, detail) = words::advice(&advice, style(&settings));
    Ok(LogView {
        title,
        detail,
        next: advice.next,
        figures: SpeedFigure::ALL.iter().map(|figure| figure_row(&evidence, *figure)).collect(),
        radio: evidence.whole_radio().summary(),
        runs: runs::rows(store, store.runs_of_setup(id, None, RUNS_IN_LOG)?)?,
    })
}
