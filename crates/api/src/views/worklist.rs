//! What was measured on every setup of a site, and what comes next.

use super::comparison::labels;
use crate::catalogue::style;
use chrono::{DateTime, Utc};
use open_beacon_core::judge::{EVENING_HOURS, NextWork, SetupEvidence, WorkRow, worklist};
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

pub(crate) fn view(store: &Store, site_id: SiteId, now: DateTime<Utc>) -> Result<WorklistView, StoreError> {
    let site = store.site(site_id)?;
    let settings = store.settings(site_id)?;
    let positions = store.positions(site_id)?;
    let setups = store.setups(site_id)?;
    let at = |place: &Position| {
        let place = place.id;
        setups.iter().filter(move |setup| setup.position_id == place && setup.archived_at.is_none())
    };
    let places = positions.iter().filter(|place| place.archived_at.is_none());
    let in_use: Vec<(&Position, &Setup)> =
        places.flat_map(|place| at(place).map(move |setup| (place, setup))).collect();
    let ids: Vec<SetupId> = in_use.iter().map(|(_, setup)| setup.id).collect();
    let (labels, _) = labels(store, &ids, style(&settings))?;
    let labelled: Vec<(SetupId, String)> = ids.into_iter().zip(labels).collect();
    let row = |evidence: SetupEvidence| WorkRow::of(&evidence, site.time_zone);
    let rows = store.evidence_of(&labelled, &settings.network, row)?;
    let list = worklist(rows, settings.active_setup_id, now, site.time_zone);
    let next_said = words::worklist::next(&list);
    let rows = list.rows.into_iter().zip(in_use).map(|(row, (position, setup))| WorkRowView {
        missing_said: words::worklist::missing(&row),
        position: position.name.clone(),
        aim: words::setup_aim(&setup.spec),
        row,
    });
    let (evening_from, evening_to) = EVENING_HOURS.into_inner();
    Ok(WorklistView { rows: rows.collect(), next: list.next, next_said, evening_from, evening_to })
}
