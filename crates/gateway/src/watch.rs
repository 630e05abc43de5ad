//! Looking at a gateway again and again: link state and independent readings.

use crate::clock::Clock;
use crate::driver::Driver;
use crate::http::DriverError;
use chrono::{DateTime, Utc};
use open_beacon_domain::metrics::{Novelty, RefreshLearner};
use open_beacon_domain::model::{Carrier, Reading, Technology};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;
use std::time::Duration;
use tokio::time::Instant;

/// How the gateway answers.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum LinkStatus {
    /// No gateway address is set.
    NotSet,
    /// The site came from a file; nothing is sent before the user has seen what it is.
    Asleep,
    /// Asked, no answer yet.
    Waiting,
    Live,
    /// It answers, but the page has not changed for long.
    Stale,
    /// It does not answer.
    Unreachable {
        since: DateTime<Utc>,
        problem: String,
    },
    /// It answers something that is not a status page.
    Nonsense {
        since: DateTime<Utc>,
        problem: String,
        said: String,
    },
    /// It does not let this program in; no further login is tried where `stopped`.
    LoginFailed {
        since: DateTime<Utc>,
        problem: String,
        stopped: bool,
    },
    /// It shows a certificate that nobody vouches for.
    Untrusted {
        since: DateTime<Utc>,
        certificate_sha256: String,
    },
}

impl LinkStatus {
    /// Since when it has not answered as it should.
    fn since(&self) -> Option<DateTime<Utc>> {
        match self {
            Self::NotSet | Self::Asleep | Self::Waiting | Self::Live | Self::Stale => None,
            Self::Unreachable { since, .. }
            | Self::Nonsense { since, .. }
            | Self::LoginFailed { since, .. }
            | Self::Untrusted { since, .. } => Some(*since),
        }
    }
}

/// What is known of the link at one instant.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LinkState {
    pub status: LinkStatus,
    /// The last good reading, kept while the gateway does not answer.
    pub reading: Option<Reading>,
    /// When the last reading was first seen.
    pub heard_at: Option<DateTime<Utc>>,
    /// The gateway's own refresh period as learned, s.
    pub refresh_period_s: Option<f64>,
}

/// One look at the page.
#[derive(Clone, Debug, PartialEq)]
pub struct Look {
    pub at: DateTime<Utc>,
    /// What was measured anew: a carrier whose block only repeats what it showed before is there without its values, whatever
    /// else on the page has changed.
    pub reading: Reading,
    pub novelty: Novelty,
}

/// A page whose content is older than this many refresh periods is stale.
const STALE_PERIODS: f64 = 4.0;
/// Before a period is learned, a page unchanged for this long is stale, s.
const STALE_UNLEARNED_S: f64 = 30.0;

/// Share of the learned refresh period for which a page that has just been renewed is not looked at. Less than one, so
/// that a device that grows quicker is noticed.
const RESTS: f64 = 0.6;
/// A block whose own refresh period is this many times the page's is renewed less often than the page.
const SLOWER: f64 = 1.5;
/// Whole numbers come out the same by chance now and then: so many unchanged blocks on changed pages are let pass (common
/// practice, no source).
const CHANCE_REPEATS: u32 = 1;
/// Pause after the first failure.
const FIRST_PAUSE: Duration = Duration::from_secs(2);

/// What is known of one carrier's block on the page.
#[derive(Debug, Default)]
struct Block {
    learner: RefreshLearner,
    /// How often the page changed and this block did not, one after the other.
    repeats: u32,
}

/// Keeps what is known of one gateway between looks.
#[derive(Debug)]
pub struct Watcher {
    driver: Arc<Driver>,
    clock: Clock,
    learner: RefreshLearner,
    /// Each carrier's own block: some are renewed less often than the page, some not at all.
    carriers: HashMap<CarrierKey, Block>,
    began: Instant,
    changed_at: Instant,
    /// The last look brought a new measurement.
    fresh: bool,
    /// Looks that failed, one after the other.
    failures: u32,
    state: LinkState,
}

impl Watcher {
    /// A watcher that has not looked yet.
    pub fn new(driver: impl Into<Arc<Driver>>) -> Self {
        let now = Instant::now();
        Self {
            driver: driver.into(),
            clock: Clock::default(),
            learner: RefreshLearner::default(),
            carriers: HashMap::new(),
            began: now,
            changed_at: now,
            fresh: false,
            failures: 0,
            state: LinkState {
                status: LinkStatus::Waiting,
                reading: None,
                heard_at: None,
                refresh_period_s: None,
            },
        }
    }

    /// The same with its looks dated by another clock.
    #[must_use]
    pub fn dated_by(mut self, clock: Clock) -> Self {
        self.clock = clock;
        self
    }

    /// What is known now.
    pub fn state(&self) -> &LinkState {
        &self.state
    }

    /// Looks once. Answers the look if a reading came; the state is brought up to date in any case.
    pub async fn look(&mut self) -> Option<Look> {
        let answer = self.driver.read().await;
        let at = self.clock.now();
        match answer {
            Ok(reading) => {
                self.failures = 0;
                Some(self.take(at, reading))
            }
            Err(error) => {
                self.failures = self.failures.saturating_add(1);
                self.state.status = self.failed(at, error);
                None
            }
        }
    }

    fn take(&mut self, at: DateTime<Utc>, reading: Reading) -> Look {
        let novelty = self.learner.look(self.began.elapsed().as_secs_f64(), fingerprint(&reading));
        self.fresh = novelty == Novelty::Fresh;
        if novelty.counts() {
            self.changed_at = Instant::now();
            self.state.heard_at = Some(at);
        }
        let period = self.learner.period_s();
        let patience_s = period.map_or(STALE_UNLEARNED_S, |period| (STALE_PERIODS * period).max(5.0));
        let stale = self.changed_at.elapsed().as_secs_f64() > patience_s;
        self.state.status = if stale { LinkStatus::Stale } else { LinkStatus::Live };
        self.state.refresh_period_s = period;
        self.state.reading = Some(reading.clone());
        let (reading, standing) = self.measured_anew(reading, novelty);
        // Where only neighbours changed, and every carrier's block stands still, nothing was measured.
        let nothing = standing > 0 && standing == reading.carriers.len();
        Look { at, reading, novelty: if nothing { Novelty::Repeat } else { novelty } }
    }

    /// The reading without the values of blocks that repeat themselves while others change, and how many those are.
    fn measured_anew(&mut self, mut reading: Reading, page: Novelty) -> (Reading, usize) {
        let mut standing = 0;
        let at_s = self.began.elapsed().as_secs_f64();
        let page_s = self.learner.period_s();
        let shown: Vec<CarrierKey> = reading.carriers.iter().map(key).collect();
        self.carriers.retain(|key, _| shown.contains(key));
        for carrier in &mut reading.carriers {
            let block = self.carriers.entry(key(carrier)).or_default();
            // A page that nothing changes on may have come out the same; a block beside others that change stands still, and goes on
            // standing while they rest.
            let changed = block.learner.look(at_s, hash_of(carrier)) == Novelty::Fresh;
            block.repeats = match page {
                _ if changed => 0,
                Novelty::Fresh => block.repeats + 1,
                _ => block.repeats,
            };
            let slower = block.learner.period_s().zip(page_s).is_some_and(|(own, page)| own > SLOWER * page);
            if page.counts() && !changed && (slower || block.repeats > CHANCE_REPEATS) {
                (carrier.rsrp_dbm, carrier.rsrq_db) = (None, None);
                (carrier.sinr_db, carrier.rssi_dbm) = (None, None);
                carrier.branch_rsrp_dbm.clear();
                carrier.flags.clear();
                standing += 1;
            }
        }
        (reading, standing)
    }

    fn failed(&self, at: DateTime<Utc>, error: DriverError) -> LinkStatus {
        let before = &self.state.status;
        let since_if = |same: bool| if same { before.since().unwrap_or(at) } else { at };
        match error {
            DriverError::Unreachable(problem) => {
                let since = since_if(matches!(before, LinkStatus::Unreachable { .. }));
                LinkStatus::Unreachable { since, problem }
            }
            DriverError::Nonsense { problem, said } => {
                let since = since_if(matches!(before, LinkStatus::Nonsense { .. }));
                LinkStatus::Nonsense { since, problem, said }
            }
            DriverError::LoginFailed { problem, stopped } => {
                let since = since_if(matches!(before, LinkStatus::LoginFailed { .. }));
                LinkStatus::LoginFailed { since, problem, stopped }
            }
            DriverError::Untrusted { certificate_sha256 } => {
                let since = since_if(matches!(before, LinkStatus::Untrusted { .. }));
                LinkStatus::Untrusted { since, certificate_sha256 }
            }
        }
    }

    /// How long to wait before the next look: `interval` while it answers, longer after a new measurement; doubled with each failure, from 2 s to 10 s, so
    /// that a gateway that is starting is neither pressed nor found late.
    pub fn pause(&self, interval: Duration) -> Duration {
        match self.failures {
            // The page is renewed no sooner than it was learned to be: it is left alone for most of that time.
            0 if self.fresh => {
                interval.max(Duration::from_secs_f64(self.learner.period_s().unwrap_or(0.0) * RESTS))
            }
            0 => interval,
            failures => interval.max(FIRST_PAUSE * 2u32.pow((failures - 1).min(8)).min(5)),
        }
    }
}

/// What tells one carrier on a page from another.
type CarrierKey = (Technology, Option<u16>, Option<u32>, Option<u16>);

fn key(carrier: &Carrier) -> CarrierKey {
    (carrier.technology, carrier.band, carrier.channel, carrier.pci)
}

/// A hash of every measured value of a reading: two pages with the same one show the same measurement.
pub fn fingerprint(reading: &Reading) -> u64 {
    hash_of(reading)
}

/// The debug form holds every field; readings are small and looks are rare.
fn hash_of(shown: &impl std::fmt::Debug) -> u64 {
    let mut hasher = DefaultHasher::new();
    format!("{shown:?}").hash(&mut hasher);
    hasher.finish()
}
