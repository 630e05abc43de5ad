//! Setups side by side.

use crate::problem::{Path, Problem, Query};
use crate::state::AppState;
use crate::views::comparison::{Asked, ComparisonView, view};
use crate::views::near_best::NearBestView;
use axum::extract::State;
use axum::response::Response;
use open_beacon_core::judge::Weighing;
use open_beacon_core::model::{SetupId, SiteId};
use open_beacon_store::Aggregate;
use serde::Deserialize;
use utoipa::IntoParams;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_comparison)).routes(routes!(get_near_best))
}

#[derive(Clone, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Choice {
    /// The setup that others are compared with; if not said, the site's chosen one, else its first with tests.
    baseline: Option<SetupId>,
    /// Setups to compare, separated by commas; if not said, all in use that have something recorded.
    setups: Option<String>,
    /// What comes first once every need is met; if not said, all alike.
    weighing: Option<Weighing>,
}

/// Compares setups of a site against a baseline.
#[utoipa::path(get, path = "/api/sites/{id}/compare", params(("id" = SiteId, Path), Choice),
    responses((status = 200, body = ComparisonView), (status = 404, body = Problem), (status = 400, body = Problem)))]
async fn get_comparison(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Query(choice): Query<Choice>,
) -> Result<Response, Problem> {
    let chosen: Option<Vec<SetupId>> = choice
        .setups
        .as_deref()
        .map(|list| list.split(',').filter(|id| !id.is_empty()).map(str::parse).collect())
        .transpose()
        .map_err(|_| Problem::unreadable("setups: identifiers separated by commas."))?;
    let asked = Asked { baseline: choice.baseline, chosen, weighing: choice.weighing.unwrap_or_default() };
    let question = format!("compare {id} {asked:?}");
    let work_out = app.db(move |store| view(store, id, asked));
    app.kept_answer(question, &[Aggregate::Record], work_out).await
}

/// How near the best that is foretold for the house what stands now is, and what the step there costs; null where nothing is known of what it
/// receives.
#[utoipa::path(get, path = "/api/sites/{id}/near-best", params(("id" = SiteId, Path)),
    responses((status = 200, body = Option<NearBestView>), (status = 404, body = Problem)))]
async fn get_near_best(State(app): State<AppState>, Path(id): Path<SiteId>) -> Result<Response, Problem> {
    let rests_on = [Aggregate::Record, Aggregate::Surroundings];
    let work_out = app.record(id, |data| Ok(crate::views::near_best::view(data)));
    app.kept_answer(format!("near best {id}"), &rests_on, work_out).await
}
