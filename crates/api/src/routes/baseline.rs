//! The Baseline stage: spots, networks, go or no-go.

use super::style;
use crate::problem::{Path, Problem, Query};
use crate::state::AppState;
use axum::Json;
use axum::extract::State;
use open_beacon_core::judge::say::Style;
use open_beacon_core::judge::{Baseline, NextAction, Said, SpotEvidence, baseline, say};
use open_beacon_core::model::{
    AntennaSwitch, KnownMast, LinkAssumptions, OutdoorAssumptions, Setup, SetupId, SiteId,
};
use open_beacon_store::{Store, StoreError};
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
    app.db(move |store| view(store, id, choice.network.as_deref())).await.map(Json)
}

/// How many of a setup's newest runs are read.
const RUNS: u32 = 50;

/// Everything recorded on setups with stock antennas, setup by setup.
pub(super) fn spots(store: &Store, site: SiteId) -> Result<Vec<SpotEvidence>, StoreError> {
    let of = spots_of(store, site, AntennaSwitch::Internal)?;
    Ok(of.into_iter().map(|(_, spot)| spot).collect())
}

/// The same with either kind of antenna, each with its setup.
pub(super) fn spots_of(
    store: &Store,
    site: SiteId,
    antenna: AntennaSwitch,
) -> Result<Vec<(Setup, SpotEvidence)>, StoreError> {
    let setups = store.setups(site)?;
    let mut spots = Vec::new();
    for position in store.positions(site)?.into_iter().filter(|position| position.archived_at.is_none()) {
        let own = setups.iter().filter(|setup| {
            setup.position_id == position.id && setup.archived_at.is_none() && setup.spec.antenna == antenna
        });
        for setup in own {
            let label = say::setup_label(&position, &setup.spec);
            let evidence = store.evidence(setup.id, label, Some(RUNS))?;
            spots.push((setup.clone(), SpotEvidence { position: position.clone(), evidence }));
        }
    }
    Ok(spots)
}

fn view(store: &Store, site: SiteId, network: Option<&str>) -> Result<BaselineView, StoreError> {
    let settings = store.settings(site)?;
    let found = baseline(&spots(store, site)?, network, &settings);
    let style = style(&settings);
    let said = |findings: &[_]| -> Vec<Said> { all_said(findings, style) };
    Ok(BaselineView {
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
        assumed: settings.outdoor,
        link: settings.link,
        known_mast: settings.known_mast,
        baseline: found,
    })
}

fn all_said(findings: &[open_beacon_core::judge::Finding], style: Style) -> Vec<Said> {
    findings.iter().cloned().map(|finding| say::said(finding, style)).collect()
}
