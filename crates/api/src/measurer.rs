//! One measurer a site: whatever reads the gateway for the record, loads the line or tells the gateway its bands takes one
//! lease. Two at once would spoil each other: a speed test loads the line while a bearing is read.

use crate::problem::Problem;
use open_beacon_core::model::SiteId;
use serde::Serialize;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use utoipa::ToSchema;

/// What takes the lease.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Measuring {
    Recording,
    SpeedTests,
    SweepPoint,
    BandRound,
    /// A lock is being set to stay.
    Lock,
    /// The gateway is going back to its last known good bands.
    LockRestore,
}

impl Measuring {
    fn words(self) -> &'static str {
        match self {
            Self::Recording => "A recording is going on",
            Self::SpeedTests => "Speed tests are going on",
            Self::SweepPoint => "A sweep point is being measured",
            Self::BandRound => "A round of band trials, begun perhaps from another browser, is going on",
            Self::Lock => "The gateway is being locked",
            Self::LockRestore => "The gateway is going back to its bands",
        }
    }
}

type Holders = HashMap<SiteId, (u64, Measuring)>;

#[derive(Debug, Default)]
struct State {
    holders: Holders,
    next: u64,
}

/// The leases of all sites; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct Measurer(Arc<Mutex<State>>);

/// Held as long as something is measured; given back when dropped, also where the task that holds it ends early.
#[derive(Debug)]
pub struct MeasuringLease {
    of: Measurer,
    site: SiteId,
    number: u64,
}

impl Measurer {
    fn lock(&self) -> MutexGuard<'_, State> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// What is going on at a site.
    pub fn now(&self, site: SiteId) -> Option<Measuring> {
        self.lock().holders.get(&site).map(|(_, what)| *what)
    }

    /// Takes the site's lease.
    ///
    /// # Errors
    /// 409, kind `problems/busy`, that says what is going on.
    pub fn take(&self, site: SiteId, what: Measuring) -> Result<MeasuringLease, Problem> {
        let mut state = self.lock();
        if let Some((_, holder)) = state.holders.get(&site) {
            return Err(Problem::busy(format!(
                "{} at this site. Wait until it has ended, or cancel it first.",
                holder.words()
            )));
        }
        state.next += 1;
        let number = state.next;
        state.holders.insert(site, (number, what));
        Ok(MeasuringLease { of: self.clone(), site, number })
    }
}

impl Drop for MeasuringLease {
    fn drop(&mut self) {
        let mut state = self.of.lock();
        if state.holders.get(&self.site).is_some_and(|(number, _)| *number == self.number) {
            state.holders.remove(&self.site);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use uuid::Uuid;

    const ALL: [Measuring; 6] = [
        Measuring::Recording,
        Measuring::SpeedTests,
        Measuring::SweepPoint,
        Measuring::BandRound,
        Measuring::Lock,
        Measuring::LockRestore,
    ];

    /// Every order of two: the second is refused with the name of the first, and may begin when it has ended.
    #[test]
    fn of_two_the_second_waits_and_is_told_why() {
        let site = SiteId(Uuid::from_u128(1));
        for first in ALL {
            for second in ALL {
                let measurer = Measurer::default();
                let held = measurer.take(site, first).unwrap_or_else(|problem| panic!("{problem:?}"));
                let refused =
                    measurer.take(site, second).err().map(|problem| (problem.status, problem.detail));
                let Some((409, detail)) = refused else { panic!("{first:?} and {second:?} at once") };
                assert!(detail.starts_with(first.words()), "{detail}");
                assert!(measurer.take(SiteId(Uuid::from_u128(2)), second).is_ok(), "another site is free");
                drop(held);
                assert!(measurer.take(site, second).is_ok() && measurer.now(site).is_none());
            }
        }
    }
}
