//! Setups side by side.

use super::style;
use crate::problem::{Path, Problem, Query};
use crate::state::AppState;
use axum::extract::State;
use axum::response::Response;
use open_beacon_core::judge::{ComparisonRow, NextAction, Said, SetupEvidence, compare, say, verdict_advice};
use open_beacon_core::model::{SetupId, SiteId};
use open_beacon_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(super) fn routes() -> OpenApiRouter<AppState> {
    OpenApiRouter::new().routes(routes!(get_comparison))
}

#[derive(Clone, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Choice {
    /// The setup that others are compared with; if not said, the site's chosen one, else its first with tests.
    baseline: Option<SetupId>,
    /// Setups to compare, separated by commas; if not said, all in use that have something recorded.
    setups: Option<String>,
}

/// A comparison in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ComparisonView {
    pub title: String,
    pub detail: String,
    pub next: NextAction,
    pub baseline: Option<SetupId>,
    pub rows: Vec<ComparisonRowView>,
}

/// One setup of a comparison.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ComparisonRowView {
    #[serde(flatten)]
    pub row: ComparisonRow,
    /// Kit, bearing, tilt, height, leads and lock, in words.
    pub built: String,
    /// The row's findings in words.
    pub said: Vec<Said>,
    /// What else differed, in words.
    pub differed_said: Vec<Said>,
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
    let question = format!("compare {id} {:?} {chosen:?}", choice.baseline);
    app.kept_answer(question, app.db(move |store| view(store, id, choice.baseline, chosen))).await
}

fn view(
    store: &Store,
    site_id: SiteId,
    baseline: Option<SetupId>,
    chosen: Option<Vec<SetupId>>,
) -> Result<ComparisonView, StoreError> {
    let site = store.site(site_id)?;
    let settings = store.settings(site_id)?;
    let recorded = recorded(store, site_id)?;
    let baseline = baseline
        .or(settings.baseline_setup_id)
        .filter(|id| recorded.contains(id))
        .or_else(|| recorded.first().copied());
    let Some(baseline_id) = baseline else {
        let nothing = verdict_advice(&open_beacon_core::judge::Comparison { rows: Vec::new() });
        let (title, detail) = say::advice(&nothing, style(&settings));
        return Ok(ComparisonView { title, detail, next: nothing.next, baseline: None, rows: Vec::new() });
    };
    let mut wanted = vec![baseline_id];
    wanted.extend(chosen.unwrap_or(recorded).into_iter().filter(|id| *id != baseline_id));
    let (labels, built) = labels(store, &wanted, style(&settings))?;
    let evidence: Vec<SetupEvidence> = wanted
        .iter()
        .zip(labels)
        .map(|(id, label)| Ok(store.evidence(*id, label, None)?.of_network(&settings.network)))
        .collect::<Result<_, StoreError>>()?;
    let comparison = compare(&evidence[0], &evidence[1..], site.time_zone);
    let advice = verdict_advice(&comparison);
    let (title, detail) = say::advice(&advice, style(&settings));
    let said = |findings: &[open_beacon_core::judge::Finding]| -> Vec<Said> {
        findings.iter().map(|finding| say::said(finding.clone(), style(&settings))).collect()
    };
    let rows = comparison
        .rows
        .into_iter()
        .zip(built)
        .map(|(row, built)| ComparisonRowView {
            built,
            said: said(&row.findings),
            differed_said: said(&row.differed),
            row,
        })
        .collect();
    Ok(ComparisonView { title, detail, next: advice.next, baseline: Some(baseline_id), rows })
}

/// Names of setups, and what stands there.
fn labels(
    store: &Store,
    ids: &[SetupId],
    style: say::Style,
) -> Result<(Vec<String>, Vec<String>), StoreError> {
    let setups = ids.iter().map(|id| store.setup(*id)).collect::<Result<Vec<_>, _>>()?;
    let positions =
        setups.iter().map(|setup| store.position(setup.position_id)).collect::<Result<Vec<_>, _>>()?;
    let named: Vec<_> = positions.iter().zip(setups.iter().map(|setup| &setup.spec)).collect();
    let built = named
        .iter()
        .map(|(position, spec)| {
            let kit = spec.kit_id.and_then(|id| store.kit(id).ok()).map(|kit| kit.name);
            say::setup_facts(position, spec, kit.as_deref(), style)
        })
        .collect();
    Ok((say::distinct_labels(&named), built))
}

/// Setups in use that have something recorded, in order of making.
fn recorded(store: &Store, site: SiteId) -> Result<Vec<SetupId>, StoreError> {
    let counts = store.setup_counts(site)?;
    let positions = store.positions(site)?;
    let in_use = |setup: &open_beacon_core::model::Setup| {
        setup.archived_at.is_none()
            && positions
                .iter()
                .any(|position| position.id == setup.position_id && position.archived_at.is_none())
            && counts.get(&setup.id).is_some_and(|counts| counts.samples + counts.tests > 0)
    };
    Ok(store.setups(site)?.iter().filter(|setup| in_use(setup)).map(|setup| setup.id).collect())
}
