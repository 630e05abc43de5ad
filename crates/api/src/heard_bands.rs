//! What is read of the store to know a site's bands and the kit in use; the rules are [`open_beacon_core::trial::known`]'s and
//! [`open_beacon_core::handover`]'s.

use crate::catalogue::catalogue;
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::model::{BandRound, Carrier, Kit, Mast, Reading, Setup, SiteId, SiteSettings, Trial};
use open_beacon_core::trial::known::{self, KnownBands, pooled};
use open_beacon_core::trial::visit::same_but_lock;
use open_beacon_store::{Store, StoreError};

/// Newest runs of the setup being worked on that are read, and the newest of their samples that count.
const RUNS: u32 = 6;
const SAMPLES: usize = 40;

fn active(store: &Store, settings: &SiteSettings) -> Option<Setup> {
    settings.active_setup_id.and_then(|id| store.setup(id).ok())
}

/// The kit in use.
pub(crate) fn kit_in_use(
    store: &Store,
    site: SiteId,
    settings: &SiteSettings,
) -> Result<Option<Kit>, StoreError> {
    let kits = store.kits(site)?;
    Ok(open_beacon_core::handover::kit_in_use(&kits, active(store, settings).as_ref(), &settings.survey))
}

/// Bands of a site's gateway.
pub(crate) fn bands_known(
    store: &Store,
    site: SiteId,
    settings: &SiteSettings,
) -> Result<KnownBands, StoreError> {
    let parts = catalogue(store)?;
    let kit = kit_in_use(store, site, settings)?;
    let resolved = kit.as_ref().map(|kit| Resolved::new(&kit.spec, &parts));
    if let Some((_, gateway)) = resolved.as_ref().and_then(|kit| kit.gateway) {
        return Ok(KnownBands::listed(gateway.bands.iter().map(|one| one.band)));
    }
    let heard = heard_carriers(store, site, settings)?;
    Ok(KnownBands::seen(&store.entities::<Mast>(site)?, &store.trials(site)?, &heard))
}

/// Carriers heard on the setup being worked on.
pub(crate) fn heard_carriers(
    store: &Store,
    site: SiteId,
    settings: &SiteSettings,
) -> Result<Vec<Carrier>, StoreError> {
    let mut newest: Vec<Reading> = Vec::new();
    if let Some(setup) = active(store, settings) {
        let samples = store.newest_samples(setup.id, &settings.network, RUNS)?;
        let older = samples.len().saturating_sub(SAMPLES);
        newest.extend(samples.into_iter().skip(older).map(|sample| sample.reading));
    }
    Ok(known::heard_carriers(&newest, &of_setup(store, site, settings)?.1))
}

/// Rounds and trials of the setup being worked on, the newest round last.
pub(crate) fn of_setup(
    store: &Store,
    site: SiteId,
    settings: &SiteSettings,
) -> Result<(Vec<BandRound>, Vec<Trial>), StoreError> {
    let mut rounds: Vec<BandRound> = store.entities(site)?;
    // A round tried locks: it is of every setup that differs in its lock at the most.
    let active = active(store, settings);
    let setups = store.setups(site)?;
    let of_active = |round: &BandRound| match (&active, round.setup_id) {
        (Some(active), Some(id)) => {
            setups.iter().find(|setup| setup.id == id).is_some_and(|setup| same_but_lock(setup, active))
        }
        (None, None) => true,
        _ => false,
    };
    rounds.retain(|one| one.archived_at.is_none() && of_active(one));
    let trials = store.trials(site)?;
    let of = match rounds.last() {
        Some(last) => pooled(&rounds, trials, last, None),
        None => Vec::new(),
    };
    Ok((rounds, of))
}
