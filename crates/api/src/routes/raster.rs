//! Maps of predicted signal over an area.

use super::terrain::png;
use crate::problem::{Body, Path, Problem};
use crate::rasters::{Raster, RasterPicture};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::link::environment::Environment;
use open_beacon_core::metrics::{Class, class_of_value};
use open_beacon_core::model::{GeoSpan, MastId, Metric, SiteId};
use open_beacon_core::survey::raster::{Asked, RasterQuantity, row, span_round};
use serde::{Deserialize, Serialize};
use std::sync::PoisonError;
use std::sync::atomic::{AtomicUsize, Ordering};
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
    let size = |pointer: &str, count: usize| {
        open_beacon_core::check::Checker::default()
            .range(pointer, Some(count as f64), 10.0, 600.0, "points")
            .done()
    };
    let mut problems = size("/columns", asked.columns);
    problems.extend(size("/rows", asked.rows));
    problems.extend(
        open_beacon_core::check::Checker::default()
            .range("/height_m", Some(asked.height_m), 1.0, 60.0, "m above ground")
            .range("/half_m", Some(asked.half_m), 20.0, 50_000.0, "m")
            .place("/middle", Some(asked.middle))
            .done(),
    );
    Problem::unless_valid(problems)?;
    if let Some(known) = app.rasters.find(asked.id) {
        return Ok((StatusCode::ACCEPTED, Json(state(&known))));
    }
    let span = span_round(asked.middle, asked.half_m);
    let reading = app.clone();
    let data = app.db(move |store| reading.site_record(store, id)).await?;
    let mast = data.mast_at(asked.mast)?;
    let raster = app.rasters.begin(asked.id, asked.rows, span, asked.quantity);
    let begun = state(&raster);
    tokio::task::spawn_blocking(move || {
        let rows = data.with(|air| {
            let whole = Asked {
                span,
                columns: asked.columns,
                rows: asked.rows,
                height_m: asked.height_m,
                mast,
                cell: asked.cell,
                antenna: air.antenna,
                quantity: asked.quantity,
            };
            all_rows(air.env, &whole, &raster)
        });
        raster.finish(match rows {
            Some(rows) => Ok(picture(&rows, asked.columns, asked.quantity)),
            None if raster.cancelled.load(Ordering::Relaxed) => Err("Cancelled.".into()),
            None => Err("This cell has no band, or the antenna is not made for it.".into()),
        });
    });
    Ok((StatusCode::ACCEPTED, Json(begun)))
}

/// A row by its number.
type NumberedRow = (usize, Vec<f64>);

/// All rows, shared out among the processor's cores; `None` where cancelled or impossible.
fn all_rows(env: &Environment, asked: &Asked, raster: &Raster) -> Option<Vec<Vec<f64>>> {
    let next = AtomicUsize::new(0);
    let cores = std::thread::available_parallelism().map_or(2, std::num::NonZero::get).min(8);
    let work = || {
        let mut own = Vec::new();
        loop {
            let number = next.fetch_add(1, Ordering::Relaxed);
            if number >= asked.rows {
                return Some(own);
            }
            if raster.cancelled.load(Ordering::Relaxed) {
                return None;
            }
            own.push((number, row(env, asked, number)?));
            raster.done.fetch_add(1, Ordering::Relaxed);
        }
    };
    let parts: Vec<Option<Vec<NumberedRow>>> = std::thread::scope(|scope| {
        let threads: Vec<_> = (0..cores).map(|_| scope.spawn(work)).collect();
        threads.into_iter().map(|thread| thread.join().unwrap_or(None)).collect()
    });
    let mut rows: Vec<NumberedRow> = Vec::with_capacity(asked.rows);
    for part in parts {
        rows.extend(part?);
    }
    rows.sort_by_key(|(row, _)| *row);
    Some(rows.into_iter().map(|(_, row)| row).collect())
}

/// The classes' colours of the light theme, half see-through.
fn colour(metric: Metric, value: f64) -> [u8; 4] {
    let [r, g, b] = match class_of_value(metric, value) {
        Some(Class::Ample) => [0x14, 0x58, 0x5E],
        Some(Class::Solid) => [0x2F, 0x7F, 0x74],
        Some(Class::Usable) => [0x8F, 0x7A, 0x1E],
        Some(Class::Thin) => [0xB9, 0x60, 0x2F],
        _ => [0x8C, 0x2F, 0x39],
    };
    [r, g, b, 150]
}

fn picture(rows: &[Vec<f64>], columns: usize, quantity: RasterQuantity) -> RasterPicture {
    let metric = match quantity {
        RasterQuantity::Signal => Metric::Rsrp,
        RasterQuantity::CleanSignal => Metric::Sinr,
    };
    let all = || rows.iter().flatten().copied();
    let pixels: Vec<u8> = all().flat_map(|value| colour(metric, value)).collect();
    RasterPicture {
        png: std::sync::Arc::new(png(columns, rows.len(), &pixels)),
        lowest: all().fold(f64::INFINITY, f64::min),
        highest: all().fold(f64::NEG_INFINITY, f64::max),
    }
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
