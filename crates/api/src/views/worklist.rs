//! What was measured on every setup of a site, and what comes next.

use super::comparison::labels;
use crate::catalogue::style;
use chrono::{DateTime, Utc};
use open_beacon_core::judge::{
    BestSetup, Described, EVENING_HOURS, NextWork, SetupEvidence, Weighing, WorkRow, best_setup,
    compare_described, worklist,
};
use open_beacon_core::kit::need::{Need, need};
use open_beacon_core::model::{Position, Setup, SetupId, SiteId};
use open_beacon_core::words;
use open_beacon_store::{Store, StoreError};
use serde::Serialize;
use utoipa::ToSchema;

/// All setups in use, and what comes next.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct WorklistView {
    pub rows: Vec<WorkRowView>,
    /// None where nothing is missing.
    pub next: Option<NextWork>,
    /// The same in a sentence or two.
    pub next_said: String,
    /// First and last hour of the day in which networks are the busiest, site time.
    pub evening_from: u8,
    pub evening_to: u8,
}

/// One setup's line.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct WorkRowView {
    #[serde(flatten)]
    pub row: WorkRow,
    /// The place by itself.
    pub position: String,
    /// The setup at that place by itself.
    pub aim: String,
    /// What it lacks, in words.
    pub missing_said: String,
}

/// Setups in use with their positions, one position after the other.
pub(crate) fn in_use(store: &Store, site_id: SiteId) -> Result<Vec<(Position, Setup)>, StoreError> {
    let setups = store.setups(site_id)?;
    let mut found = Vec::new();
    for place in store.positions(site_id)?.into_iter().filter(|place| place.archived_at.is_none()) {
        let here = setups.iter().filter(|setup| setup.position_id == place.id && setup.archived_at.is_none());
        found.extend(here.map(|setup| (place.clone(), setup.clone())));
    }
    Ok(found)
}

/// Which setup is the best as it stands; none where fewer than two were tested.
fn verdict(
    tested: impl Iterator<Item = Described>,
    baseline: Option<SetupId>,
    need: &Need,
) -> Option<BestSetup> {
    let mut tested: Vec<Described> = tested.collect();
    if tested.len() < 2 {
        return None;
    }
    tested.sort_by_key(|one| Some(one.setup_id()) != baseline);
    let mut tested = tested.into_iter();
    let comparison = compare_described(tested.next()?, tested);
    best_setup(&comparison, need, Weighing::default())
}

pub(crate) fn view(store: &Store, site_id: SiteId, now: DateTime<Utc>) -> Result<WorklistView, StoreError> {
    let site = store.site(site_id)?;
    let settings = store.settings(site_id)?;
    let in_use = in_use(store, site_id)?;
    let ids: Vec<SetupId> = in_use.iter().map(|(_, setup)| setup.id).collect();
    let (labels, _) = labels(store, &ids, style(&settings))?;
    let labelled: Vec<(SetupId, String)> = ids.into_iter().zip(labels).collect();
    let both = |evidence: SetupEvidence| {
        (WorkRow::of(&evidence, site.time_zone), Described::of(&evidence, site.time_zone))
    };
    let (rows, described): (Vec<WorkRow>, Vec<Described>) =
        store.evidence_of(&labelled, &settings.network, both)?.into_iter().unzip();
    let tested = rows.iter().zip(described).filter(|(row, _)| row.tests > 0).map(|(_, one)| one);
    let verdict = verdict(tested, settings.baseline_setup_id, &need(&settings.kit.uses));
    let list = worklist(rows, settings.active_setup_id, verdict.as_ref(), now, site.time_zone);
    let next_said = words::worklist::next(&list);
    let rows = list.rows.into_iter().zip(in_use).map(|(row, (position, setup))| WorkRowView {
        missing_said: words::worklist::missing(&row),
        position: position.name,
        aim: words::setup_aim(&setup.spec),
        row,
    });
    let (evening_from, evening_to) = EVENING_HOURS.into_inner();
    Ok(WorklistView { rows: rows.collect(), next: list.next, next_said, evening_from, evening_to })
}
