//! What is known at a site of its bands: of the gateway, of what was heard, of earlier trials.

use crate::catalogue::catalogue;
use chrono::{DateTime, Timelike, Utc};
use chrono_tz::Tz;
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::model::{
    BandAccess, BandChoice, BandName, BandRound, Carrier, Kit, Mast, Reading, RoundId, Sample, SiteId,
    SiteSettings, Technology, Trial,
};
use open_beacon_core::trial::judge::obtained;
use open_beacon_core::trial::order::{LockOrder, OrderError, order};
use open_beacon_core::trial::visit::same_but_lock;
use open_beacon_store::{Store, StoreError};
use std::collections::BTreeSet;

/// Rounds whose hours lie nearer than this are of one hour, h.
const SAME_HOUR_H: f64 = 1.5;

/// The kit in use: the one of the setup being worked on; where that names none, the one the survey was asked for, else the
/// one that was bought last.
pub(crate) fn kit_in_use(
    store: &Store,
    site: SiteId,
    settings: &SiteSettings,
) -> Result<Option<Kit>, StoreError> {
    let stands =
        settings.active_setup_id.and_then(|id| store.setup(id).ok()).and_then(|setup| setup.spec.kit_id);
    if let Some(kit) = stands.and_then(|id| store.kit(id).ok()) {
        return Ok(Some(kit));
    }
    if let Some(kit) = settings.survey.kit_id.and_then(|id| store.kit(id).ok()) {
        return Ok(Some(kit));
    }
    let bought =
        store.kits(site)?.into_iter().filter(|kit| kit.archived_at.is_none() && kit.bought_on.is_some());
    Ok(bought.max_by_key(|kit| kit.bought_on))
}

/// Bands that a gateway has, as far as that is known.
#[derive(Clone, Debug)]
pub(crate) struct KnownBands {
    pub(crate) bands: Vec<BandName>,
    /// By the catalogue: what is not there it has not got. Else what was seen here or is said of the masts.
    pub(crate) sure: bool,
}

impl KnownBands {
    /// A choice as the gateway is told it. Where its bands are not sure, those that are named are taken to be there, and
    /// what is left free is all that was seen.
    ///
    /// # Errors
    /// [`OrderError`].
    pub(crate) fn order(&self, choice: &BandChoice) -> Result<LockOrder, OrderError> {
        if self.sure {
            return order(choice, Some(&self.bands));
        }
        let named = |technology, list: &[u16]| {
            list.iter().map(|band| BandName { technology, band: *band }).collect::<Vec<BandName>>()
        };
        let mut all = self.bands.clone();
        all.extend(named(Technology::Lte, &choice.lte));
        all.extend(named(Technology::Nr, &choice.nr));
        let has = |technology| all.iter().any(|one| one.technology == technology);
        let enough = match choice.access {
            BandAccess::Any => true,
            BandAccess::Lte => has(Technology::Lte),
            BandAccess::Nsa => has(Technology::Lte) && has(Technology::Nr),
            BandAccess::Sa => has(Technology::Nr),
        };
        order(choice, enough.then_some(all.as_slice()))
    }
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
        return Ok(KnownBands { bands: gateway.bands.iter().map(|one| one.band).collect(), sure: true });
    }
    let mut all: BTreeSet<BandName> = BTreeSet::new();
    let name = |technology: Technology, band: Option<u16>| Some(BandName { technology, band: band? });
    for mast in store.entities::<Mast>(site)? {
        all.extend(mast.cells.iter().filter_map(open_beacon_core::model::MastCell::band_name));
    }
    for trial in store.trials(site)? {
        let carriers = trial.samples.iter().flat_map(|one| &one.carriers);
        all.extend(carriers.filter_map(|one| name(one.technology, one.band)));
    }
    for carrier in heard_carriers(store, site, settings)? {
        all.extend(name(carrier.technology, carrier.band));
    }
    Ok(KnownBands { bands: all.into_iter().collect(), sure: false })
}

/// Trials that are judged together: of the same setup, and for the next step at about the same hour.
pub(crate) fn pooled(
    rounds: &[BandRound],
    trials: Vec<Trial>,
    of: &BandRound,
    zone: Option<Tz>,
) -> Vec<Trial> {
    let hour = |at: &DateTime<Utc>, zone: Tz| {
        let local = at.with_timezone(&zone);
        f64::from(local.hour()) + f64::from(local.minute()) / 60.0
    };
    let same = |other: &BandRound| {
        let near = zone.is_none_or(|zone| {
            let apart = (hour(&other.started_at, zone) - hour(&of.started_at, zone)).abs();
            apart.min(24.0 - apart) <= SAME_HOUR_H
        });
        other.id == of.id || other.archived_at.is_none() && other.setup_id == of.setup_id && near
    };
    let ids: Vec<RoundId> = rounds.iter().filter(|one| same(one)).map(|one| one.id).collect();
    trials.into_iter().filter(|one| one.archived_at.is_none() && ids.contains(&one.round_id)).collect()
}

/// Carriers heard on the setup being worked on: medians of its newest samples, and what trials obtained.
pub(crate) fn heard_carriers(
    store: &Store,
    site: SiteId,
    settings: &SiteSettings,
) -> Result<Vec<Carrier>, StoreError> {
    let mut all = Vec::new();
    if let Some(setup) = settings.active_setup_id.filter(|id| store.setup(*id).is_ok()) {
        let evidence = store.evidence(setup, String::new(), Some(6))?.of_network(&settings.network);
        let newest: Vec<Reading> = evidence.samples.iter().rev().take(40).rev().map(reading).collect();
        all.extend(every_carrier(&newest.iter().collect::<Vec<_>>()));
    }
    for (_, trials) in by_choice(&of_setup(store, site, settings)?.1) {
        all.extend(obtained(&trials.iter().flat_map(|one| &one.samples).collect::<Vec<_>>()).1);
    }
    Ok(all)
}

fn reading(sample: &Sample) -> Reading {
    sample.reading.clone()
}

/// Medians of every carrier in any of the samples.
fn every_carrier(samples: &[&Reading]) -> Vec<Carrier> {
    let key = |one: &Carrier| (one.technology, one.band, one.channel);
    let mut found: Vec<Carrier> = Vec::new();
    for sample in samples {
        for carrier in &sample.carriers {
            if found.iter().all(|one| key(one) != key(carrier)) {
                let with: Vec<&Reading> = samples
                    .iter()
                    .filter(|other| other.carriers.iter().any(|one| key(one) == key(carrier)))
                    .copied()
                    .collect();
                found.extend(obtained(&with).1.into_iter().find(|one| key(one) == key(carrier)));
            }
        }
    }
    found
}

fn by_choice(trials: &[Trial]) -> Vec<(BandChoice, Vec<Trial>)> {
    let mut groups: Vec<(BandChoice, Vec<Trial>)> = Vec::new();
    for trial in trials {
        match groups.iter_mut().find(|(choice, _)| *choice == trial.choice) {
            Some((_, list)) => list.push(trial.clone()),
            None => groups.push((trial.choice.clone(), vec![trial.clone()])),
        }
    }
    groups
}

/// Rounds and trials of the setup being worked on, the newest round last.
pub(crate) fn of_setup(
    store: &Store,
    site: SiteId,
    settings: &SiteSettings,
) -> Result<(Vec<BandRound>, Vec<Trial>), StoreError> {
    let mut rounds: Vec<BandRound> = store.entities(site)?;
    // A round tried locks: it is of every setup that differs in its lock at the most.
    let active = settings.active_setup_id.and_then(|id| store.setup(id).ok());
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
