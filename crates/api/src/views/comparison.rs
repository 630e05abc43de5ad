//! Setups side by side.

use crate::catalogue::{catalogue, style};
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::judge::{
    BestSetup, Comparison, ComparisonRow, Described, NextAction, Said, SetupEvidence, Takes, Weighing,
    best_setup, compare_described, ease, verdict_advice,
};
use open_beacon_core::kit::effort::effort;
use open_beacon_core::kit::need::{Need, need};
use open_beacon_core::model::{AntennaSwitch, SetupId, SiteEvent, SiteId};
use open_beacon_core::protocol::{Built, ChangedPart, changes, credit};
use open_beacon_core::survey::rank::Access;
use open_beacon_core::words;
use open_beacon_store::{Store, StoreError};
use serde::Serialize;
use utoipa::ToSchema;

/// A comparison in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ComparisonView {
    pub title: String,
    pub detail: String,
    pub next: NextAction,
    /// Which setup serves the household best; none where no speed was tested.
    pub best: Option<BestView>,
    pub baseline: Option<SetupId>,
    pub rows: Vec<ComparisonRowView>,
}

/// The best setup in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BestView {
    #[serde(flatten)]
    pub best: BestSetup,
    /// What came first.
    pub weighing: Weighing,
    /// What it was chosen by, Mbit/s and ms.
    pub need: Need,
    /// The winner, by how much, how sure.
    pub title: String,
    /// Whether it meets the need, what would turn the choice, what to test next.
    pub detail: String,
    /// Of each standing whether the need is met, in words.
    pub standings_said: Vec<String>,
}

/// What is compared, and how it is weighed.
#[derive(Clone, Debug, Default)]
pub(crate) struct Asked {
    /// The setup that others are compared with.
    pub baseline: Option<SetupId>,
    /// Setups to compare.
    pub chosen: Option<Vec<SetupId>>,
    pub weighing: Weighing,
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
    /// What was changed against the baseline, in words; none for the baseline itself.
    pub changed_said: Option<String>,
    /// What a difference of speed is owed to, in words; none where there is none, or nothing was built differently.
    pub credit_said: Option<String>,
}

pub(crate) fn view(
    store: &Store,
    site_id: SiteId,
    Asked { baseline, chosen, weighing }: Asked,
) -> Result<ComparisonView, StoreError> {
    let site = store.site(site_id)?;
    let settings = store.settings(site_id)?;
    let recorded = recorded(store, site_id)?;
    let baseline = baseline
        .or(settings.baseline_setup_id)
        .filter(|id| recorded.contains(id))
        .or_else(|| recorded.first().copied());
    let Some(baseline_id) = baseline else {
        let nothing = verdict_advice(&Comparison::default());
        let (title, detail) = words::advice(&nothing, style(&settings));
        let (next, rows) = (nothing.next, Vec::new());
        return Ok(ComparisonView { title, detail, next, best: None, baseline: None, rows });
    };
    let mut wanted = vec![baseline_id];
    wanted.extend(chosen.unwrap_or(recorded).into_iter().filter(|id| *id != baseline_id));
    let (labels, built) = labels(store, &wanted, style(&settings))?;
    let changed = changed(store, &wanted)?;
    let events: Vec<SiteEvent> = store.entities(site_id)?;
    let labelled: Vec<(SetupId, String)> = wanted.into_iter().zip(labels).collect();
    let described = |evidence: SetupEvidence| Described::of(&evidence, site.time_zone);
    let mut described = store.evidence_of(&labelled, &settings.network, described)?.into_iter();
    let base = described.next();
    let comparison = base.map_or_else(Comparison::default, |base| compare_described(base, described));
    let ids = comparison.rows.iter().map(|row| row.setup_id).collect::<Vec<_>>();
    let comparison = Comparison { ease: ease(&takes(store, site_id, &ids)?), ..comparison };
    let advice = verdict_advice(&comparison);
    let (title, detail) = words::advice(&advice, style(&settings));
    let need = need(&settings.kit.uses);
    let best = best_setup(&comparison, &need, weighing).map(|best| BestView {
        title: words::best::title(&comparison, &best),
        detail: words::best::detail(&comparison, &best, &need),
        standings_said: best.standings.iter().map(|one| words::best::standing(&best, one, &need)).collect(),
        weighing,
        need,
        best,
    });
    let said = |findings: &[open_beacon_core::judge::Finding]| -> Vec<Said> {
        findings.iter().map(|finding| words::said(finding.clone(), style(&settings))).collect()
    };
    let owed = comparison.rows.iter().zip(&changed).map(|(row, changed)| {
        let base = &comparison.rows[0];
        let found = credit(row, base, changed, &events)?;
        Some(words::credit::credit(&row.label, &base.label, &found))
    });
    let owed: Vec<Option<String>> = owed.collect();
    let first = comparison.rows.first().map_or(String::new(), |row| row.label.clone());
    let rows = comparison
        .rows
        .into_iter()
        .zip(built.into_iter().zip(changed))
        .zip(owed)
        .map(|((row, (built, changed)), credit_said)| ComparisonRowView {
            built,
            changed_said: words::protocol::changes(&first, &changed),
            credit_said,
            said: said(&row.findings),
            differed_said: said(&row.differed),
            row,
        })
        .collect();
    Ok(ComparisonView { title, detail, next: advice.next, best, baseline: Some(baseline_id), rows })
}

/// What each setup takes: the gateway where it stands takes nothing.
fn takes(store: &Store, site: SiteId, ids: &[SetupId]) -> Result<Vec<Takes>, StoreError> {
    let (kits, catalogue) = (store.kits(site)?, catalogue(store)?);
    let of = |id: &SetupId| {
        let setup = store.setup(*id)?;
        let position = store.position(setup.position_id)?;
        let height_m = setup.spec.height_above_ground_m.or(position.height_above_ground_m).unwrap_or(0.0);
        let climb = matches!(Access::of(position.mount, height_m), Access::Ladder | Access::Roof);
        let kit = kits.iter().find(|kit| Some(kit.id) == setup.spec.kit_id);
        let kit = kit.filter(|_| setup.spec.antenna == AntennaSwitch::External);
        let effort = kit.map(|kit| effort(&Resolved::new(&kit.spec, &catalogue)));
        Ok(Takes {
            price: effort.map_or(0.0, |effort| effort.price),
            hours: effort.map_or(0.0, |effort| effort.hours),
            reversible: effort.is_none_or(|effort| effort.reversible),
            climb,
        })
    };
    ids.iter().map(of).collect()
}

/// What was changed of each setup against the first.
fn changed(store: &Store, ids: &[SetupId]) -> Result<Vec<Vec<ChangedPart>>, StoreError> {
    let all = ids.iter().map(|id| {
        let setup = store.setup(*id)?;
        Ok((store.position(setup.position_id)?, setup))
    });
    let all = all.collect::<Result<Vec<_>, StoreError>>()?;
    let built: Vec<Built> = all.iter().map(|(position, setup)| Built { setup, position }).collect();
    Ok(built.iter().map(|one| changes(built[0], *one)).collect())
}

/// Names of setups, and what stands there.
pub(crate) fn labels(
    store: &Store,
    ids: &[SetupId],
    style: words::Style,
) -> Result<(Vec<String>, Vec<String>), StoreError> {
    let setups = ids.iter().map(|id| store.setup(*id)).collect::<Result<Vec<_>, _>>()?;
    let positions =
        setups.iter().map(|setup| store.position(setup.position_id)).collect::<Result<Vec<_>, _>>()?;
    let named: Vec<_> = positions.iter().zip(setups.iter().map(|setup| &setup.spec)).collect();
    let built = named
        .iter()
        .map(|(position, spec)| {
            let kit = spec.kit_id.and_then(|id| store.kit(id).ok()).map(|kit| kit.name);
            words::setup_facts(position, spec, kit.as_deref(), style)
        })
        .collect();
    Ok((words::distinct_labels(&named), built))
}

/// Setups in use that have something recorded, in order of making.
pub(crate) fn recorded(store: &Store, site: SiteId) -> Result<Vec<SetupId>, StoreError> {
    let recorded = store.recorded_setups(site)?;
    let positions = store.positions(site)?;
    let in_use = |setup: &open_beacon_core::model::Setup| {
        setup.archived_at.is_none()
            && positions
                .iter()
                .any(|position| position.id == setup.position_id && position.archived_at.is_none())
            && recorded.contains(&setup.id)
    };
    Ok(store.setups(site)?.iter().filter(|setup| in_use(setup)).map(|setup| setup.id).collect())
}
