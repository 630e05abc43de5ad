//! The test plan of a site, and the sitting that is open.

use super::comparison::labels;
use super::worklist::in_use;
use crate::catalogue::style;
use crate::repeats::{moved_this_month_mb, outlook};
use chrono::{DateTime, Utc};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::judge::{SetupEvidence, WorkRow, sitting_means, worklist};
use open_beacon_core::model::{
    Kit, Position, Setup, SetupId, SiteId, SiteSettings, Sitting, SittingId, SpeedFigure, SpeedTestSettings,
    TestOrder,
};
use open_beacon_core::protocol::{
    Built, Contender, Held, PlanInput, PlannedVisit, SittingProgress, TestPlan, changes, contenders, plan,
    progress, sitting_scatter,
};
use open_beacon_core::words;
use open_beacon_store::{SittingTest, Store, StoreError};
use serde::Serialize;
use std::collections::BTreeSet;
use utoipa::ToSchema;

/// What to test, how often and when, in values and in words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct TestPlanView {
    /// None with fewer than two setups.
    pub plan: Option<TestPlan>,
    /// The sentence on top.
    pub title: String,
    /// Why so many, and what stands in the way.
    pub reasons: Vec<String>,
    pub visits: Vec<VisitView>,
    /// All setups in use, those compared first and in the order of the plan.
    pub setups: Vec<PlanSetup>,
    pub order: TestOrder,
    /// The sitting that is open.
    pub sitting: Option<OpenSitting>,
    /// What the program does by itself, in words; none where it does nothing.
    pub repeats_said: Option<String>,
}

/// A visit with its words.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct VisitView {
    #[serde(flatten)]
    pub visit: PlannedVisit,
    /// "Two tests at Sill, then four tests at Gable".
    pub stops_said: String,
    /// The same by the letters of the setups: "A 2, B 4".
    pub stops_by_letter: String,
    /// "35 min, two climbs, 1.2 GB".
    pub takes: String,
}

/// A setup that is compared or may be.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PlanSetup {
    pub setup_id: SetupId,
    pub label: String,
    /// By which the plan names it; none where it is not compared.
    pub letter: Option<String>,
    pub compared: bool,
    /// What was changed against the baseline, in words; none for the baseline itself.
    pub changed_said: Option<String>,
}

/// The sitting that is open.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct OpenSitting {
    pub sitting: Sitting,
    /// What it is called.
    pub called: String,
    /// When it ends by itself.
    pub ends_at: DateTime<Utc>,
    pub tests: usize,
    /// What comes next in it, in words.
    pub said: String,
    /// The setup that is next.
    pub next_setup_id: Option<SetupId>,
    /// Tests left there.
    pub next_tests: Option<u16>,
    pub progress: Option<SittingProgress>,
}

/// What is known of a site's setups, gathered once.
struct Known {
    settings: SiteSettings,
    zone: chrono_tz::Tz,
    place: Option<GeoPoint>,
    in_use: Vec<(Position, Setup)>,
    labels: Vec<String>,
    rows: Vec<WorkRow>,
    /// Mean log download of each setup in each sitting.
    means: Vec<(SetupId, SittingId, f64)>,
    kits: Vec<Kit>,
}

fn known(store: &Store, site_id: SiteId, now: DateTime<Utc>) -> Result<Known, StoreError> {
    let site = store.site(site_id)?;
    let settings = store.settings(site_id)?;
    let in_use = in_use(store, site_id)?;
    let ids: Vec<SetupId> = in_use.iter().map(|(_, setup)| setup.id).collect();
    let (labels, _) = labels(store, &ids, style(&settings))?;
    let labelled: Vec<(SetupId, String)> = ids.into_iter().zip(labels.clone()).collect();
    let row = |evidence: SetupEvidence| {
        let of = |(sitting, log)| (evidence.setup_id, sitting, log);
        let means = sitting_means(&evidence, SpeedFigure::Download).into_iter().map(of);
        (means.collect::<Vec<_>>(), WorkRow::of(&evidence, site.time_zone))
    };
    let (means, rows): (Vec<_>, Vec<_>) =
        store.evidence_of(&labelled, &settings.network, row)?.into_iter().unzip();
    let rows = worklist(rows, settings.active_setup_id, None, now, site.time_zone).rows;
    let means = means.concat();
    let (zone, place, kits) = (site.time_zone, site.place, store.kits(site_id)?);
    Ok(Known { settings, zone, place, in_use, labels, rows, means, kits })
}

/// Sittings in which every one of the setups was tested.
fn shared_sittings(means: &[(SetupId, SittingId, f64)], setups: &[SetupId]) -> usize {
    let of = |setup: &SetupId| -> BTreeSet<SittingId> {
        means.iter().filter(|one| one.0 == *setup).map(|one| one.1).collect()
    };
    let all = setups.iter().map(of).reduce(|a, b| a.intersection(&b).copied().collect());
    all.map_or(0, |all| all.len())
}

/// How speed is measured where no address is set: the lengths that the form proposes.
fn usual_test() -> SpeedTestSettings {
    SpeedTestSettings {
        download_url: String::new(),
        upload_url: Some(String::new()),
        latency_url: None,
        connections: 4,
        warm_up_s: 2.0,
        phase_s: 8.0,
        most_mb: None,
        precise_to: None,
        page_part_url: None,
    }
}

pub(crate) fn view(
    store: &Store,
    site_id: SiteId,
    held: Option<Held>,
    now: DateTime<Utc>,
) -> Result<TestPlanView, StoreError> {
    let known = known(store, site_id, now)?;
    let protocol = &known.settings.protocol;
    let baseline = known.settings.baseline_setup_id;
    let all: Vec<Contender> = known
        .in_use
        .iter()
        .zip(&known.rows)
        .map(|((position, setup), row)| Contender {
            built: Built { setup, position },
            row,
            return_by: setup.spec.kit_id.and_then(|id| known.kits.iter().find(|kit| kit.id == id)?.return_by),
        })
        .collect();
    let compared = contenders(&all, &protocol.setups, baseline);
    let ids: Vec<SetupId> = compared.iter().map(|one| one.row.setup_id).collect();
    let open = store.sittings(site_id)?.into_iter().rev().find(|sitting| sitting.is_open(now));
    let in_it = open.as_ref().map(|sitting| store.tests_of_sitting(sitting.id)).transpose()?;
    let began_at = in_it.as_ref().and_then(|tests| tests.first()).map(|test| test.setup_id);
    let used_mb = moved_this_month_mb(store, site_id, known.zone, now)?;
    let test = known.settings.speed_test.clone().unwrap_or_else(usual_test);
    let cap_mb = known.settings.trials.data_cap_mb;
    let made = plan(&PlanInput {
        contenders: &compared,
        // The way of an open sitting begins where it began, wherever the antenna has got to.
        stands: began_at.or_else(|| known.rows.iter().find(|row| row.in_place).map(|row| row.setup_id)),
        order: protocol.order,
        difference: known.settings.trials.difference,
        scatter: sitting_scatter(&known.means),
        sittings_done: shared_sittings(&known.means, &ids),
        speed_test: &test,
        cap_mb,
        used_mb,
        place: known.place,
        zone: known.zone,
        now,
    });
    let label = |id: &SetupId| {
        let at = known.in_use.iter().position(|(_, setup)| setup.id == *id);
        at.map_or_else(String::new, |at| known.labels[at].clone())
    };
    let repeats_said = match (known.settings.protocol.repeats.on, held) {
        (false, _) => None,
        (true, Some(held)) => Some(words::protocol::held(held)),
        (true, None) => {
            let outlook = outlook(store, site_id, &known.settings, now)?;
            let on = outlook.setup.map(|id| label(&id));
            Some(words::protocol::next_repeat(outlook.due_at.max(now), known.zone, on.as_deref()))
        }
    };
    let names: Vec<String> = ids.iter().map(label).collect();
    let said = match &made {
        Some(plan) => (
            words::protocol::plan_title(plan),
            words::protocol::plan_reasons(plan, protocol.order, cap_mb, used_mb),
        ),
        None => (
            "A plan compares two to six setups. Choose them, or add a second setup on Mount.".to_owned(),
            Vec::new(),
        ),
    };
    let visits = made.iter().flat_map(|plan| &plan.visits).map(|visit| VisitView {
        stops_said: words::protocol::stops(visit, &names),
        stops_by_letter: words::protocol::stops_by_letter(visit),
        takes: words::protocol::visit(visit),
        visit: visit.clone(),
    });
    Ok(TestPlanView {
        title: said.0,
        reasons: said.1,
        visits: visits.collect(),
        setups: setups(&all, &ids, baseline, label),
        order: protocol.order,
        repeats_said,
        sitting: open
            .zip(in_it)
            .map(|(sitting, tests)| open_sitting(sitting, &tests, made.as_ref(), &names, known.zone)),
        plan: made,
    })
}

fn setups(
    all: &[Contender],
    compared: &[SetupId],
    baseline: Option<SetupId>,
    label: impl Fn(&SetupId) -> String,
) -> Vec<PlanSetup> {
    let base = all.iter().find(|one| Some(one.row.setup_id) == baseline);
    let one = |contender: &Contender| {
        let id = contender.row.setup_id;
        let changed_said = base
            .filter(|base| base.row.setup_id != id)
            .and_then(|base| words::protocol::changes_in_short(&changes(base.built, contender.built)));
        let at = compared.iter().position(|one| *one == id);
        let letter = at.map(words::protocol::letter);
        PlanSetup { setup_id: id, label: label(&id), letter, compared: at.is_some(), changed_said }
    };
    let mut rows: Vec<PlanSetup> = all.iter().map(one).collect();
    let place = |row: &PlanSetup| compared.iter().position(|id| *id == row.setup_id);
    rows.sort_by_key(|row| place(row).unwrap_or(usize::MAX));
    rows
}

fn open_sitting(
    sitting: Sitting,
    tests: &[SittingTest],
    plan: Option<&TestPlan>,
    labels: &[String],
    zone: chrono_tz::Tz,
) -> OpenSitting {
    let progress = plan.map(|plan| {
        let at = |test: &SittingTest| plan.setups.iter().position(|id| *id == test.setup_id);
        progress(&plan.stops, &tests.iter().map(at).collect::<Vec<_>>())
    });
    let next = progress.as_ref().and_then(|progress| progress.next);
    OpenSitting {
        called: words::protocol::sitting(&sitting, zone),
        ends_at: sitting.ends_at(),
        tests: tests.len(),
        said: progress
            .as_ref()
            .map_or_else(String::new, |progress| words::protocol::in_sitting(progress, labels, tests.len())),
        next_setup_id: next.zip(plan).map(|(stop, plan)| plan.setups[stop.at]),
        next_tests: next.map(|stop| stop.tests),
        progress,
        sitting,
    }
}
