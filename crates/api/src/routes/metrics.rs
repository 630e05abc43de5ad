//! Numbers for programs that graph them.

use crate::problem::Problem;
use crate::state::AppState;
use crate::views::metrics::view;
use axum::extract::State;
use axum::http::{HeaderName, header};
use open_beacon_exchange::to_prometheus;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_metrics))
}

/// The newest numbers of every site as Prometheus reads them (text format 0.0.4): what the record holds, nothing is measured for it.
#[utoipa::path(get, path = "/metrics", responses((status = 200, body = String, content_type = "text/plain")))]
async fn get_metrics(
    State(app): State<AppState>,
) -> Result<([(HeaderName, &'static str); 1], String), Problem> {
    let metrics = app.db(view).await?;
    Ok(([(header::CONTENT_TYPE, "text/plain; version=0.0.4; charset=utf-8")], to_prometheus(&metrics)))
}
