//! What is known of a gateway's bands: of its catalogue entry, of what was heard, of earlier trials; and which trials are judged
//! together.

use super::judge::obtained;
use super::order::{LockOrder, OrderError, order};
use crate::model::{
    BandAccess, BandChoice, BandName, BandRound, Carrier, Mast, Reading, RoundId, Technology, Trial,
};
use chrono::{DateTime, Timelike, Utc};
use chrono_tz::Tz;
use std::collections::BTreeSet;

/// Rounds whose hours lie nearer than this are of one hour, h. Common practice, no source: the busy hour of a cell is about as wide.
const SAME_HOUR_H: f64 = 1.5;

/// Bands that a gateway has, as far as that is known.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct KnownBands {
    /// Each band once, LTE before NR, rising.
    pub bands: Vec<BandName>,
    /// By the catalogue: what is not there it has not got. Else what was seen here or is said of the masts.
    pub sure: bool,
}

impl KnownBands {
    /// Bands of a gateway of the catalogue.
    pub fn listed(bands: impl IntoIterator<Item = BandName>) -> Self {
        Self { bands: bands.into_iter().collect(), sure: true }
    }

    /// Bands that were seen: of the masts, in trials, in what is heard.
    pub fn seen(masts: &[Mast], trials: &[Trial], heard: &[Carrier]) -> Self {
        let name = |one: &Carrier| Some(BandName { technology: one.technology, band: one.band? });
        let of_masts =
            masts.iter().flat_map(|mast| &mast.cells).filter_map(crate::model::MastCell::band_name);
        let samples = trials.iter().flat_map(|trial| &trial.samples);
        let of_trials = samples.flat_map(|sample| &sample.carriers).filter_map(name);
        let all: BTreeSet<BandName> =
            of_masts.chain(of_trials).chain(heard.iter().filter_map(name)).collect();
        Self { bands: all.into_iter().collect(), sure: false }
    }

    /// A choice as the gateway is told it. Where its bands are not sure, those that are named are taken to be there, and
    /// what is left free is all that was seen.
    ///
    /// # Errors
    /// [`OrderError`].
    pub fn order(&self, choice: &BandChoice) -> Result<LockOrder, OrderError> {
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

/// Trials that are judged together: of the same setup, and for the next step at about the same hour.
pub fn pooled(rounds: &[BandRound], trials: Vec<Trial>, of: &BandRound, zone: Option<Tz>) -> Vec<Trial> {
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

/// Carriers heard on a setup: of every carrier in any of the newest samples its medians, then what each choice tried obtained.
pub fn heard_carriers(newest: &[Reading], trials: &[Trial]) -> Vec<Carrier> {
    let key = |one: &Carrier| (one.technology, one.band, one.channel);
    let mut found: Vec<Carrier> = Vec::new();
    for carrier in newest.iter().flat_map(|sample| &sample.carriers) {
        if found.iter().all(|one| key(one) != key(carrier)) {
            let holds = |other: &&Reading| other.carriers.iter().any(|one| key(one) == key(carrier));
            let with: Vec<&Reading> = newest.iter().filter(holds).collect();
            found.extend(obtained(&with).1.into_iter().find(|one| key(one) == key(carrier)));
        }
    }
    let mut choices: Vec<&BandChoice> = Vec::new();
    for trial in trials {
        if !choices.contains(&&trial.choice) {
            choices.push(&trial.choice);
        }
    }
    for choice in choices {
        let same = trials.iter().filter(|trial| trial.choice == *choice);
        found.extend(obtained(&same.flat_map(|trial| &trial.samples).collect::<Vec<_>>()).1);
    }
    found
}
