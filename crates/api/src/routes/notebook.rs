//! Lines of a notebook: what they mean. They are kept as typed runs.

use crate::catalogue::style;
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use crate::views::comparison::labels;
use crate::views::worklist::in_use;
use axum::Json;
use axum::extract::State;
use open_beacon_core::check::Checker;
use open_beacon_core::model::{SetupId, SiteId};
use open_beacon_exchange::notebook::{KnownSetup, NameMeans, NotebookLine, read_notebook};
use open_beacon_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(read_lines))
}

/// Lines to be read.
#[derive(Clone, Debug, Serialize, Deserialize, ToSchema)]
pub struct NotebookText {
    /// A result a line.
    pub text: String,
    /// The setup that lines without a name are of.
    #[serde(default)]
    pub chosen: Option<SetupId>,
    /// What names were said to mean.
    #[serde(default)]
    pub means: Vec<NameMeans>,
}

/// Reads lines of a notebook, a result each; nothing is stored.
#[utoipa::path(post, path = "/api/sites/{id}/notebook", params(("id" = SiteId, Path)), request_body = NotebookText,
    responses((status = 200, body = Vec<NotebookLine>), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn read_lines(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<NotebookText>,
) -> Result<Json<Vec<NotebookLine>>, Problem> {
    Problem::unless_valid(Checker::default().text("/text", &asked.text).done())?;
    let known = app.db(move |store| known(store, id)).await?;
    Ok(Json(read_notebook(&asked.text, &known, asked.chosen, &asked.means)))
}

/// Setups in use that a line may be of.
pub(super) fn known(store: &Store, site: SiteId) -> Result<Vec<KnownSetup>, StoreError> {
    let settings = store.settings(site)?;
    let in_use = in_use(store, site)?;
    let ids: Vec<SetupId> = in_use.iter().map(|(_, setup)| setup.id).collect();
    let (labels, _) = labels(store, &ids, style(&settings))?;
    let known = in_use.into_iter().zip(labels).map(|((position, setup), label)| KnownSetup {
        setup_id: setup.id,
        position: position.name,
        label,
        azimuth_deg: setup.spec.azimuth_deg,
        locked: !setup.spec.lock.is_free(),
    });
    Ok(known.collect())
}
