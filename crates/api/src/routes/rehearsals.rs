//! Rehearsals: beginning one, and the score once the antenna is set.

use crate::problem::{Body, Path, Problem};
use crate::rehearse;
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::StatusCode;
use open_beacon_core::aim::score::{Score, TruePoint, score, score_words};
use open_beacon_core::model::{
    PositionId, Rehearsal, RehearsalKind, Site, SiteId, Sweep, SweepAxis, SweepId,
};
use open_beacon_simulator::rehearsal::rehearsal;
use open_beacon_simulator::truth::truth;
use open_beacon_store::StoreError;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(begin_rehearsal)).routes(routes!(get_score))
}

/// A rehearsal to begin; identifiers are made by the client (UUIDv7).
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NewRehearsal {
    pub id: SiteId,
    pub position_id: PositionId,
    pub kind: RehearsalKind,
}

/// Begins a rehearsal as a site of its own, with a simulated gateway and an antenna turned on the screen.
#[utoipa::path(post, path = "/api/rehearsals", request_body = NewRehearsal,
    responses((status = 201, body = Site), (status = 409, body = Problem), (status = 502, body = Problem)))]
async fn begin_rehearsal(
    State(app): State<AppState>,
    Body(new): Body<NewRehearsal>,
) -> Result<(StatusCode, Json<Site>), Problem> {
    // The identifier's own random bits hide where the masts stand.
    let seed = new.id.0.as_u128() as u32;
    let site = rehearse::create(&app, new.id, new.position_id, Rehearsal { kind: new.kind, seed }).await?;
    Ok((StatusCode::CREATED, Json(site)))
}

/// How well a rehearsed sweep went, and the truth that was hidden.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ScoreView {
    pub score: Score,
    pub words: String,
    /// The truth round the compass.
    pub truth: Vec<TruePoint>,
}

/// The score of a sweep of a rehearsal; not before the antenna is set.
#[utoipa::path(get, path = "/api/sites/{id}/sweeps/{sweep}/score", params(("id" = SiteId, Path), ("sweep" = SweepId, Path)),
    responses((status = 200, body = ScoreView), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn get_score(
    State(app): State<AppState>,
    Path((site, id)): Path<(SiteId, SweepId)>,
) -> Result<Json<ScoreView>, Problem> {
    let (settings, sweep, points) = app
        .db(move |store| {
            let sweeps: Vec<Sweep> = store.entities(site)?;
            let sweep = sweeps.into_iter().find(|one| one.id == id).ok_or(StoreError::NotFound("sweep"))?;
            let stops = store.sweep_stops(site)?;
            let points = stops.iter().filter(|stop| stop.sweep_id == id && !stop.samples.is_empty()).count();
            Ok((store.settings(site)?, sweep, points))
        })
        .await?;
    let Some(of) = settings.rehearsal else {
        return Err(Problem::not_found("This site is no rehearsal: nobody knows its truth."));
    };
    let (Some(set_deg), Some(ended), SweepAxis::Azimuth) = (sweep.set_deg, sweep.ended_at, sweep.axis) else {
        return Err(Problem::conflict("The truth is shown once the antenna is set in azimuth."));
    };
    let minutes = (ended - sweep.started_at).num_seconds() as f64 / 60.0;
    let masts = rehearsal(of.kind, u64::from(of.seed));
    let wanted: Vec<usize> = match of.kind {
        RehearsalKind::Interferer => vec![0],
        RehearsalKind::CleanMast | RehearsalKind::Hopping => (0..masts.len()).collect(),
    };
    let work = move || truth(u64::from(of.seed), &masts, &wanted, &rehearse::pose(), ended);
    let truth = tokio::task::spawn_blocking(work)
        .await
        .map_err(|_| Problem::device("The truth could not be worked out."))?;
    let score = score(&truth, settings.aim_criterion, set_deg, minutes, points)
        .ok_or_else(|| Problem::not_found("This rehearsal has no truth."))?;
    Ok(Json(ScoreView { words: score_words(&score), score, truth: truth.points }))
}
