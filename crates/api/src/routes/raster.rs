//! Maps of predicted signal over an area.

use crate::problem::{Body, Path, Problem};
use crate::rasters::Raster;
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use open_beacon_core::check::Checker;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::model::{GeoSpan, MastId, SiteId};
use open_beacon_core::survey::raster::{Asked, RasterQuantity, span_round};
use serde::{Deserialize, Serialize};
use std::sync::PoisonError;
use std::sync::atomic::Ordering;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new()
        .routes(routes!(begin_raster))
        .routes(routes!(raster_progress, cancel_raster))
        .routes(routes!(raster_picture))
}

/// A map that is asked for.
#[derive(Clone, Copy, Debug, Deserialize, ToSchema)]
pub struct RasterRequest {
    /// Made by the client (UUIDv7).
    pub id: Uuid,
    /// The house, say.
    pub middle: GeoPoint,
    /// From the middle to each side, m, 20..=50 000.
    pub half_m: f64,
    #[serde(default)]
    pub quantity: RasterQuantity,
    /// 10..=600.
    pub columns: usize,
    /// 10..=600.
    pub rows: usize,
    /// Antenna above ground, m, 1..=60.
    pub height_m: f64,
    pub mast: MastId,
    /// Place in the mast's cells.
    pub cell: usize,
}

impl RasterRequest {
    fn check(&self) -> Result<(), Problem> {
        let checker = Checker::default()
            .range("/columns", Some(self.columns as f64), 10.0, 600.0, "points")
            .range("/rows", Some(self.rows as f64), 10.0, 600.0, "points")
            .range("/height_m", Some(self.height_m), 1.0, 60.0, "m above ground")
            .range("/half_m", Some(self.half_m), 20.0, 50_000.0, "m")
            .place("/middle", Some(self.middle));
        Problem::unless_valid(checker.done())
    }

    fn of<'a>(&self, span: GeoSpan, mast: usize, antenna: AimAntenna<'a>) -> Asked<'a> {
        let Self { columns, rows, height_m, cell, quantity, .. } = *self;
        Asked { span, columns, rows, height_m, mast, cell, antenna, quantity }
    }
}

/// How a map gets on.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RasterState {
    pub id: Uuid,
    pub rows: usize,
    pub rows_done: usize,
    pub finished: bool,
    pub cancelled: bool,
    pub failed: Option<String>,
    pub span: GeoSpan,
    pub quantity: RasterQuantity,
    /// Of the finished map: dBm of signal, dB of clean signal.
    pub lowest: Option<f64>,
    pub highest: Option<f64>,
}

fn state(raster: &Raster) -> RasterState {
    let outcome = raster.outcome.lock().unwrap_or_else(PoisonError::into_inner);
    let picture = outcome.as_ref().and_then(|outcome| outcome.as_ref().ok());
    RasterState {
        id: raster.id,
        rows: raster.rows,
        rows_done: raster.done.load(Ordering::Relaxed),
        finished: picture.is_some(),
        cancelled: raster.cancelled.load(Ordering::Relaxed),
        failed: outcome.as_ref().and_then(|outcome| outcome.as_ref().err().cloned()),
        span: raster.span,
        quantity: raster.quantity,
        lowest: picture.map(|picture| picture.lowest),
        highest: picture.map(|picture| picture.highest),
    }
}

/// Begins a map of predicted signal or clean signal; look how it gets on at `/api/rasters/{id}`.
#[utoipa::path(post, path = "/api/sites/{id}/survey/raster", params(("id" = SiteId, Path)), request_body = RasterRequest,
    responses((status = 202, body = RasterState), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn begin_raster(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<RasterRequest>,
) -> Result<(StatusCode, Json<RasterState>), Problem> {
    asked.check()?;
    if let Some(known) = app.rasters.find(asked.id) {
        return Ok((StatusCode::ACCEPTED, Json(state(&known))));
    }
    let reading = app.clone();
    let data = app.db(move |store| reading.site_record(store, id)).await?;
    let mast = data.mast_at(asked.mast)?;
    let span = span_round(asked.middle, asked.half_m);
    let raster = app.rasters.begin(asked.id, asked.rows, span, asked.quantity);
    let begun = state(&raster);
    tokio::task::spawn_blocking(move || raster.draw(&data, |antenna| asked.of(span, mast, antenna)));
    Ok((StatusCode::ACCEPTED, Json(begun)))
}

fn find(app: &AppState, id: Uuid) -> Result<std::sync::Arc<Raster>, Problem> {
    app.rasters.find(id).ok_or_else(|| {
        Problem::not_found(
            "This map is not there any more; maps are kept until the program ends. Make it again.",
        )
    })
}

/// How a map gets on.
#[utoipa::path(get, path = "/api/rasters/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = RasterState), (status = 404, body = Problem)))]
async fn raster_progress(
    State(app): State<AppState>,
    Path(id): Path<Uuid>,
) -> Result<Json<RasterState>, Problem> {
    Ok(Json(state(&*find(&app, id)?)))
}

/// Breaks a map off.
#[utoipa::path(delete, path = "/api/rasters/{id}", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn cancel_raster(State(app): State<AppState>, Path(id): Path<Uuid>) -> Result<StatusCode, Problem> {
    find(&app, id)?.cancelled.store(true, Ordering::Relaxed);
    Ok(StatusCode::NO_CONTENT)
}

/// The finished map, coloured by the classes of its quantity.
#[utoipa::path(get, path = "/api/rasters/{id}/picture.png", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "image/png", body = Vec<u8>), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn raster_picture(State(app): State<AppState>, Path(id): Path<Uuid>) -> Result<Response, Problem> {
    let raster = find(&app, id)?;
    let outcome = raster.outcome.lock().unwrap_or_else(PoisonError::into_inner).clone();
    match outcome {
        Some(Ok(picture)) => {
            Ok(([(header::CONTENT_TYPE, "image/png")], picture.png.as_ref().clone()).into_response())
        }
        Some(Err(reason)) => Err(Problem::conflict(reason)),
        None => Err(Problem::conflict("The map is not finished yet.")),
    }
}
