//! A look at a speed-test address before it is relied on.

use super::style;
use crate::problem::{Body, Path, Problem};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use open_beacon_core::check::Checker;
use open_beacon_core::judge::{AddressProbe, Said, judge_address};
use open_beacon_core::model::SiteId;
use open_beacon_core::words;
use open_beacon_speedtest::probe_address;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(check_address))
}

/// Which addresses to look at.
#[derive(Clone, Debug, Deserialize, ToSchema)]
pub struct AddressCheck {
    pub download_url: String,
    #[serde(default)]
    pub upload_url: Option<String>,
    /// Another download address, to unmask a slow first one.
    #[serde(default)]
    pub second_url: Option<String>,
}

/// What was found, in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct AddressView {
    pub first: AddressProbe,
    pub second: Option<AddressProbe>,
    pub said: Vec<Said>,
}

/// Looks at a speed-test address for some seconds: does it answer, is its file large enough, does it take uploads,
/// is another one faster.
#[utoipa::path(post, path = "/api/sites/{id}/address-check", params(("id" = SiteId, Path)), request_body = AddressCheck,
    responses((status = 200, body = AddressView), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
async fn check_address(
    State(app): State<AppState>,
    Path(id): Path<SiteId>,
    Body(asked): Body<AddressCheck>,
) -> Result<Json<AddressView>, Problem> {
    let checker = Checker::default()
        .address("/download_url", Some(&asked.download_url))
        .address("/upload_url", asked.upload_url.as_deref())
        .address("/second_url", asked.second_url.as_deref());
    Problem::unless_valid(checker.done())?;
    let settings = app.db(move |store| store.settings(id)).await?;
    let connections = settings.speed_test.as_ref().map_or(4, |test| test.connections);
    let stop = app.stopping.child_token();
    let first = probe_address(&asked.download_url, asked.upload_url.as_deref(), connections, &stop).await;
    let second = match &asked.second_url {
        Some(url) => Some(probe_address(url, None, connections, &stop).await),
        None => None,
    };
    let findings = judge_address(&first, second.as_ref());
    let said = findings.into_iter().map(|finding| words::said(finding, style(&settings))).collect();
    Ok(Json(AddressView { first, second, said }))
}
