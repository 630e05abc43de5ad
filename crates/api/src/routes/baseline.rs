//! The Baseline stage: spots, networks, go or no-go.

use crate::problem::{Path, Problem, Query};
use crate::site_record::SiteRecord;
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use open_beacon_core::judge::say::Style;
use open_beacon_core::judge::{Baseline, NextAction, Said, baseline, say};
use open_beacon_core::model::{
    AntennaSwitch, KnownMast, LinkAssumptions, OutdoorAssumptions, SetupId, SiteId,
};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
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

/// What the Baseline stage shows, in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BaselineView {
    pub title: String,
    pub next: NextAction,
    pub baseline: Baseline,
    /// The verdict's reasons in words, with the setup whose numbers each rests on.
    pub reasons: Vec<SaidOf>,
    pub would_change: Vec<Said>,
    pub network_said: Vec<Said>,
    /// How each spot faces the known mast, in words.
    pub facing_said: Vec<Said>,
    /// For each spot, each carrier's explanation.
    pub explained: Vec<Vec<Vec<Said>>>,
    pub assumed: OutdoorAssumptions,
    pub link: LinkAssumptions,
    pub known_mast: Option<KnownMast>,
}

/// A sentence with the setup whose numbers it rests on.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SaidOf {
    pub said: Said,
    pub setup_id: Option<SetupId>,
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

fn view(data: &SiteRecord, network: Option<&str>) -> BaselineView {
    let settings = &data.settings;
    let stock = || data.setups.iter().filter(|one| one.setup.spec.antenna == AntennaSwitch::Internal);
    let views = stock().flat_map(|one| one.views.clone()).collect();
    let found = data.with(|air| baseline(stock().count(), views, network, air.env, air.outside));
    let style = data.style();
    let said = |findings: &[_]| -> Vec<Said> { all_said(findings, style) };
    BaselineView {
        title: say::sentence(&found.verdict.title, style),
        next: found.next,
        reasons: found
            .verdict
            .reasons
            .iter()
            .map(|reason| SaidOf {
                said: say::said(reason.finding.clone(), style),
                setup_id: reason.setup_id,
            })
            .collect(),
        would_change: said(&found.verdict.would_change),
        network_said: said(&found.network_findings),
        facing_said: said(&found.facing),
        explained: found
            .spots
            .iter()
            .map(|spot| spot.carriers.iter().map(|carrier| said(&carrier.findings)).collect())
            .collect(),
        assumed: settings.outdoor.clone(),
        link: settings.link.clone(),
        known_mast: settings.known_mast.clone(),
        baseline: found,
    }
}

fn all_said(findings: &[open_beacon_core::judge::Finding], style: Style) -> Vec<Said> {
    findings.iter().cloned().map(|finding| say::said(finding, style)).collect()
}
