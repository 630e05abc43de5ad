//! The Baseline stage: spots, networks, go or no-go.

use crate::problem::{Path, Problem, Query};
use crate::state::AppState;
use crate::views::baseline::{BaselineView, view};
use axum::Json;
use axum::extract::State;
use open_beacon_core::model::SiteId;
use serde::Deserialize;
use utoipa::IntoParams;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_baseline))
}

#[derive(Clone, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Choice {
    /// Which operator's readings to show; the one in use if not said.
    network: Option<String>,
}

/// The Baseline stage of a site.
#[utoipa::path(get, path = "/api/sites/{id}/baseline", params(("id" = SiteId, Path), Choice),
    responses((status = 200, body = BaselineView), (status = 404, body = Problem)))]
async fn get_baseline(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(choice): Query<Choice>,
) -> Result<Json<BaselineView>, Problem> {
    app.record(id, move |data| Ok(Json(view(data, choice.network.as_deref())))).await
}
