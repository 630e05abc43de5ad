//! What the shell shows of a site.

use chrono::{NaiveDate, Utc};
use open_beacon_core::judge::{Planned, SetupTally, StageStatus, stage_states};
use open_beacon_core::model::{
    AntennaSwitch, BandRound, Kit, KitId, Mast, Position, RoundEnd, Setup, Site, SiteId, SiteSettings, Sweep,
    TerrainTile,
};
use open_beacon_core::words;
use open_beacon_store::{Store, StoreError};
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// A setup in the tree.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SetupNode {
    pub setup: Setup,
    /// Position and aim.
    pub label: String,
    /// The aim alone.
    pub aim: String,
    /// What the gateway is locked to, in words; none where it is free.
    pub lock: Option<String>,
    /// What it was made from, in words.
    pub origin: String,
    pub sittings: usize,
    pub runs: usize,
    pub samples: usize,
    /// Complete speed tests.
    pub tests: usize,
}

/// A position in the tree.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PositionNode {
    pub position: Position,
    pub setups: Vec<SetupNode>,
}

/// A site with everything the shell shows.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SiteView {
    pub site: Site,
    pub settings: SiteSettings,
    /// Version of each section of the settings, by its name; 0 where it was never changed.
    pub settings_versions: BTreeMap<String, u64>,
    /// What is sent for it and where, in words, while it waits to be allowed; empty where it may.
    pub waits_to_send: Vec<String>,
    /// What one speed test moves, in words; none without an address.
    pub test_data: Option<String>,
    /// Archived ones too.
    pub positions: Vec<PositionNode>,
    pub stages: Vec<StageStatus>,
    /// The next day by which a bought kit must go back, if there is one.
    pub return_deadline: Option<ReturnDeadline>,
}

/// A bought kit's last day to be given back: tests are planned to end before.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ReturnDeadline {
    pub kit_id: KitId,
    pub kit_name: String,
    pub return_by: NaiveDate,
    pub in_days: i64,
}

pub(crate) fn view(store: &Store, id: SiteId) -> Result<SiteView, StoreError> {
    let site = store.site(id)?;
    let counts = store.setup_counts(id)?;
    let setups = store.setups(id)?;
    let positions: Vec<PositionNode> = store
        .positions(id)?
        .into_iter()
        .map(|position| {
            let node = |setup: &Setup| {
                let counts = counts.get(&setup.id).copied().unwrap_or_default();
                SetupNode {
                    label: words::setup_label(&position, &setup.spec),
                    aim: words::setup_aim(&setup.spec),
                    lock: words::lock_words(&setup.spec.lock),
                    origin: words::origin_words(&setup.origin).into(),
                    sittings: counts.sittings,
                    setup: setup.clone(),
                    runs: counts.runs,
                    samples: counts.samples,
                    tests: counts.tests,
                }
            };
            let setups = setups.iter().filter(|setup| setup.position_id == position.id).map(node).collect();
            PositionNode { position, setups }
        })
        .collect();
    let in_use = positions.iter().filter(|node| node.position.archived_at.is_none());
    let tallies: Vec<SetupTally> = in_use
        .flat_map(|node| &node.setups)
        .filter(|node| node.setup.archived_at.is_none())
        .map(|node| SetupTally {
            stock_antennas: node.setup.spec.antenna == AntennaSwitch::Internal,
            samples: node.samples,
            tests: node.tests,
        })
        .collect();
    let kits: Vec<Kit> = store.kits(id)?.into_iter().filter(|kit| kit.archived_at.is_none()).collect();
    let masts: Vec<Mast> = store.entities(id)?;
    let tiles: Vec<TerrainTile> = store.entities(id)?;
    let mut sweeps: Vec<Sweep> = store.entities(id)?;
    sweeps.retain(|sweep| sweep.archived_at.is_none());
    let mut band_rounds: Vec<BandRound> = store.entities(id)?;
    band_rounds.retain(|round| round.archived_at.is_none());
    let planned = Planned {
        kits: kits.len(),
        masts: masts.iter().filter(|mast| mast.archived_at.is_none()).count(),
        tiles: tiles.iter().filter(|tile| tile.archived_at.is_none()).count(),
        sweeps_set: sweeps.iter().filter(|sweep| sweep.set_deg.is_some()).count(),
        sweeps_open: sweeps.iter().filter(|sweep| sweep.ended_at.is_none()).count(),
        rounds_done: band_rounds
            .iter()
            .filter(|round| matches!(round.end, Some(RoundEnd::Clear | RoundEnd::Planned)))
            .count(),
        lock_open: store.lock_intent(id)?.is_some()
            || band_rounds.iter().any(|round| round.ended_at.is_none()),
    };
    let today = Utc::now().with_timezone(&site.time_zone).date_naive();
    let deadline = |kit: &Kit| {
        let return_by = kit.return_by.filter(|day| *day >= today)?;
        let in_days = (return_by - today).num_days();
        Some(ReturnDeadline { kit_id: kit.id, kit_name: kit.name.clone(), return_by, in_days })
    };
    let settings = store.settings(id)?;
    Ok(SiteView {
        site,
        waits_to_send: if store.is_asleep(id)? { words::outward::requests(&settings) } else { Vec::new() },
        test_data: settings.speed_test.as_ref().map(words::measuring::test_data),
        settings,
        settings_versions: store.settings_versions(id)?,
        positions,
        stages: stage_states(&tallies, planned),
        return_deadline: kits.iter().filter_map(deadline).min_by_key(|one| one.return_by),
    })
}
