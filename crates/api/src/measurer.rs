//! One measurer a site: whatever reads the gateway for the record, loads the line or tells the gateway its bands takes one
//! lease. Two at once would spoil each other: a speed test loads the line while a bearing is read.

use crate::problem::Problem;
use open_beacon_core::model::{Measuring, MeasuringProgress, SiteId, SpeedFigures};
use open_beacon_core::stats::left_at_pace;
use open_beacon_core::words::measuring as words;
use open_beacon_speedtest::Plan;
use open_beacon_store::Store;
use std::collections::HashMap;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use tokio::time::Instant;

#[derive(Debug)]
struct Holder {
    number: u64,
    what: Measuring,
    began: Instant,
    samples: [u32; 2],
    tests: [u32; 2],
    /// How many samples' time a test takes.
    test_weight: f64,
    moved_mb: f64,
}

/// How long an independent sample takes where the gateway's refresh period is not known, s (common practice, no source).
const SAMPLE_S: f64 = 2.0;

impl Holder {
    fn progress(&self) -> MeasuringProgress {
        let [samples_done, samples_planned] = self.samples;
        let [tests_done, tests_planned] = self.tests;
        let work = |samples: u32, tests: u32| f64::from(samples) + f64::from(tests) * self.test_weight;
        let elapsed_s = self.began.elapsed().as_secs_f64();
        let planned = work(samples_planned, tests_planned);
        let done = work(samples_done, tests_done);
        let mut progress = MeasuringProgress {
            what: self.what,
            words: String::new(),
            share: (planned > 0.0).then(|| (done / planned).min(1.0)),
            samples_done,
            samples_planned,
            tests_done,
            tests_planned,
            moved_mb: self.moved_mb,
            remaining_s: left_at_pace(done, planned, elapsed_s),
            remaining_mb: left_at_pace(f64::from(tests_done), f64::from(tests_planned), self.moved_mb),
        };
        progress.words = words::sentence(&progress);
        progress
    }
}

/// Why nothing is measured at a site that came from a file.
pub(crate) const ASLEEP: &str = "This site came from a file. Look first at what it sends and where, at the top of its page, and allow it.";

#[derive(Debug, Default)]
struct State {
    holders: HashMap<SiteId, Holder>,
    next: u64,
}

/// The leases of all sites; cheap to clone.
#[derive(Clone, Debug, Default)]
pub struct Measurer(Arc<Mutex<State>>, Option<Arc<Store>>);

/// Held as long as something is measured; given back when dropped, also where the task that holds it ends early.
#[derive(Debug)]
pub struct MeasuringLease {
    of: Measurer,
    site: SiteId,
    number: u64,
}

impl Measurer {
    /// Leases for the sites of a store; those that sleep get none.
    pub fn of(store: Arc<Store>) -> Self {
        Self(Arc::default(), Some(store))
    }

    fn lock(&self) -> MutexGuard<'_, State> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// What is going on at a site.
    pub fn now(&self, site: SiteId) -> Option<Measuring> {
        self.lock().holders.get(&site).map(|holder| holder.what)
    }

    /// How far it is.
    pub fn progress(&self, site: SiteId) -> Option<MeasuringProgress> {
        self.lock().holders.get(&site).map(Holder::progress)
    }

    /// Takes the site's lease.
    ///
    /// # Errors
    /// 409, kind `problems/busy`, that says what is going on; 409 where the site sleeps.
    pub fn take(&self, site: SiteId, what: Measuring) -> Result<MeasuringLease, Problem> {
        if let Some(store) = &self.1
            && store.is_asleep(site)?
        {
            return Err(Problem::conflict(ASLEEP));
        }
        let mut state = self.lock();
        if let Some(holder) = state.holders.get(&site) {
            return Err(Problem::busy(format!(
                "{} at this site{}. Wait until it has ended, or cancel it first.",
                words::doing(holder.what),
                words::how_far(&holder.progress())
            )));
        }
        state.next += 1;
        let number = state.next;
        let began = Instant::now();
        let (samples, tests) = ([0; 2], [0; 2]);
        let holder = Holder { number, what, began, samples, tests, test_weight: 1.0, moved_mb: 0.0 };
        state.holders.insert(site, holder);
        Ok(MeasuringLease { of: self.clone(), site, number })
    }
}

impl MeasuringLease {
    fn tell(&self, change: impl FnOnce(&mut Holder)) {
        let mut state = self.of.lock();
        if let Some(holder) = state.holders.get_mut(&self.site).filter(|holder| holder.number == self.number)
        {
            change(holder);
        }
    }

    /// What it is going to take. `sample_s`: how long an independent sample takes here, where the gateway's refresh period is
    /// known.
    pub fn plan(&self, samples: u32, tests: u32, how: Option<&Plan>, sample_s: Option<f64>) {
        self.tell(|holder| {
            (holder.samples[1], holder.tests[1]) = (samples, tests);
            let phases =
                how.map(|how| (how.warm_up + how.phase) * if how.upload_url.is_some() { 2 } else { 1 });
            holder.test_weight =
                phases.map_or(1.0, |time| (time.as_secs_f64() + 1.0) / sample_s.unwrap_or(SAMPLE_S));
        });
    }

    /// One more independent sample.
    pub fn sampled(&self) {
        self.tell(|holder| holder.samples[0] += 1);
    }

    /// One more speed test.
    pub fn tested(&self, figures: &SpeedFigures) {
        self.tell(|holder| {
            holder.tests[0] += 1;
            holder.moved_mb += (figures.bytes_down + figures.bytes_up) as f64 / 1e6;
        });
    }
}

impl Drop for MeasuringLease {
    fn drop(&mut self) {
        let mut state = self.of.lock();
        if state.holders.get(&self.site).is_some_and(|holder| holder.number == self.number) {
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
                assert!(detail.starts_with(words::doing(first)), "{detail}");
                assert!(measurer.take(SiteId(Uuid::from_u128(2)), second).is_ok(), "another site is free");
                drop(held);
                assert!(measurer.take(site, second).is_ok() && measurer.now(site).is_none());
            }
        }
    }

    /// What is refused says how far the other is, and when it has ended nothing is left of it.
    #[test]
    fn progress_is_told_to_who_has_to_wait() {
        let site = SiteId(Uuid::from_u128(1));
        let measurer = Measurer::default();
        let lease = measurer.take(site, Measuring::Recording).unwrap_or_else(|problem| panic!("{problem:?}"));
        lease.plan(9, 2, None, None);
        let begun =
            measurer.progress(site).map(|now| (now.samples_planned, now.remaining_s, now.remaining_mb));
        assert_eq!(begun, Some((9, None, None)));
        lease.sampled();
        lease.tested(&SpeedFigures {
            bytes_down: 30_000_000,
            bytes_up: 2_000_000,
            ..SpeedFigures::default()
        });
        let Some(now) = measurer.progress(site) else { panic!("it is going on") };
        assert_eq!((now.samples_done, now.tests_done, now.moved_mb), (1, 1, 32.0));
        assert_eq!(now.remaining_mb, Some(32.0), "one of two tests is left");
        assert!(now.remaining_s.is_some());
        let refused = measurer.take(site, Measuring::BandRound).err().map(|problem| problem.detail);
        let words =
            "A recording is going on at this site, 1 of 9 samples done, 1 of 2 speed tests done, about";
        assert!(refused.as_deref().is_some_and(|detail| detail.starts_with(words)), "{refused:?}");
        drop(lease);
        assert_eq!(measurer.progress(site), None);
    }
}
