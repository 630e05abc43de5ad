//! Predicted and measured: what was foretold of each setup before anything was measured on it.

use crate::foretelling::{foretold, heard};
use crate::grounds::Grounds;
use crate::site_record::SiteRecord;
use chrono::{DateTime, Utc};
use open_beacon_core::judge::{SpotView, TrackRecord, Tracked, track_records, tracked};
use open_beacon_core::model::{KeptPrediction, SetupId, SiteId};
use open_beacon_core::words;
use open_beacon_store::{Store, StoreError};
use serde::Serialize;
use utoipa::ToSchema;

/// How well predictions held at one house, or at all houses of this database.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct TrackRecordView {
    pub title: String,
    /// What the misses teach.
    pub lessons: Vec<String>,
    pub records: Vec<TrackRecordSaid>,
    /// Setups in the order in which they were first measured.
    pub setups: Vec<TrackedSetup>,
}

/// The record of one quantity with its name.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct TrackRecordSaid {
    pub name: String,
    #[serde(flatten)]
    pub record: TrackRecord,
}

/// One setup: what was foretold of it, and what came.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct TrackedSetup {
    pub setup_id: SetupId,
    pub label: String,
    /// When it was first measured; the prediction knows nothing that is newer.
    pub measured_from: DateTime<Utc>,
    /// When it was foretold and kept; none where that is worked out now, from the record as it was before the first measurement.
    pub foretold_at: Option<DateTime<Utc>>,
    /// "3 earlier setups and 2 masts".
    pub rests_on: String,
    pub figures: Vec<Tracked>,
}

/// Of one house.
pub(crate) fn view(store: &Store, grounds: &Grounds, id: SiteId) -> Result<TrackRecordView, StoreError> {
    Ok(said(of_house(store, grounds, id)?))
}

/// Of all houses together; setups are not told apart.
pub(crate) fn of_all(store: &Store, grounds: &Grounds) -> Result<TrackRecordView, StoreError> {
    let mut all = Vec::new();
    for site in store.sites()? {
        all.extend(of_house(store, grounds, site.id)?);
    }
    Ok(TrackRecordView { setups: Vec::new(), ..said(all) })
}

fn said(setups: Vec<TrackedSetup>) -> TrackRecordView {
    let figures: Vec<Vec<Tracked>> = setups.iter().map(|one| one.figures.clone()).collect();
    let records = track_records(&figures);
    TrackRecordView {
        title: words::track::title(&records),
        lessons: words::track::lessons(&records),
        records: records
            .into_iter()
            .map(|record| TrackRecordSaid { name: words::track::quantity(record.quantity).into(), record })
            .collect(),
        setups,
    }
}

fn of_house(store: &Store, grounds: &Grounds, id: SiteId) -> Result<Vec<TrackedSetup>, StoreError> {
    let today = SiteRecord::read(store, grounds, id)?;
    let first = store.first_runs(id)?;
    let kept: Vec<KeptPrediction> = store.entities(id)?;
    let mut found = Vec::new();
    for (own, measured) in today.setups.iter().filter_map(|one| Some((one, today.of_gateway(one)?))) {
        let Some(measured_from) = first.get(&own.setup.id).copied() else { continue };
        let said = kept.iter().find(|one| one.setup_id == own.setup.id);
        let (figures, setups, masts) = match said {
            Some(said) => (tracked(&said.figures, measured), said.setups.len(), said.masts.len()),
            None => as_of(store, grounds, id, own.setup.id, measured_from, measured)?,
        };
        found.push(TrackedSetup {
            setup_id: own.setup.id,
            label: words::setup_label(&own.position, &own.setup.spec),
            measured_from,
            foretold_at: said.map(|one| one.made_at),
            rests_on: words::track::rests_on(setups, masts),
            figures,
        });
    }
    found.retain(|one| !one.figures.is_empty());
    found.sort_by_key(|one| (one.measured_from, one.setup_id));
    Ok(found)
}

/// What would have been foretold of a setup by the record as it was then, beside what was measured; and of how many setups and masts.
fn as_of(
    store: &Store,
    grounds: &Grounds,
    id: SiteId,
    setup_id: SetupId,
    then: DateTime<Utc>,
    measured: &SpotView,
) -> Result<(Vec<Tracked>, usize, usize), StoreError> {
    let before = SiteRecord::read_before(store, grounds, id, Some(then))?;
    Ok((tracked(&foretold(&before, setup_id), measured), heard(&before).len(), before.masts.len()))
}
