//! Looking at a gateway again and again: link state and independent readings.

use crate::driver::Driver;
use crate::http_json::DriverError;
use chrono::{DateTime, Utc};
use open_beacon_core::metrics::{Novelty, RefreshLearner};
use open_beacon_core::model::Reading;
use serde::{Deserialize, Serialize};
use std::hash::{DefaultHasher, Hash, Hasher};
use std::time::Instant;

/// How the gateway answers.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum LinkStatus {
    /// No gateway address is set.
    NotSet,
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
    pub reading: Reading,
    pub novelty: Novelty,
}

/// A page whose content is older than this many refresh periods is stale.
const STALE_PERIODS: f64 = 4.0;
/// Before a period is learned, a page unchanged for this long is stale, s.
const STALE_UNLEARNED_S: f64 = 30.0;

/// Keeps what is known of one gateway between looks.
#[derive(Debug)]
pub struct Watcher {
    driver: Driver,
    learner: RefreshLearner,
    began: Instant,
    changed_at: Instant,
    state: LinkState,
}

impl Watcher {
    /// A watcher that has not looked yet.
    pub fn new(driver: Driver) -> Self {
        let now = Instant::now();
        Self {
            driver,
            learner: RefreshLearner::default(),
            began: now,
            changed_at: now,
            state: LinkState {
                status: LinkStatus::Waiting,
                reading: None,
                heard_at: None,
                refresh_period_s: None,
            },
        }
    }

    /// What is known now.
    pub fn state(&self) -> &LinkState {
        &self.state
    }

    /// Looks once. Answers the look if a reading came; the state is brought up to date in any case.
    pub async fn look(&mut self) -> Option<Look> {
        let answer = self.driver.read().await;
        let at = Utc::now();
        match answer {
            Ok(reading) => Some(self.take(at, reading)),
            Err(error) => {
                self.state.status = self.failed(at, error);
                None
            }
        }
    }

    fn take(&mut self, at: DateTime<Utc>, reading: Reading) -> Look {
        let novelty = self.learner.look(self.began.elapsed().as_secs_f64(), fingerprint(&reading));
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
        Look { at, reading, novelty }
    }

    fn failed(&self, at: DateTime<Utc>, error: DriverError) -> LinkStatus {
        match error {
            DriverError::Unreachable(problem) => {
                let since = match &self.state.status {
                    LinkStatus::Unreachable { since, .. } => *since,
                    _ => at,
                };
                LinkStatus::Unreachable { since, problem }
            }
            DriverError::Nonsense { problem, said } => {
                let since = match &self.state.status {
                    LinkStatus::Nonsense { since, .. } => *since,
                    _ => at,
                };
                LinkStatus::Nonsense { since, problem, said }
            }
        }
    }
}

/// A hash of every measured value of a reading: two pages with the same one show the same measurement.
pub fn fingerprint(reading: &Reading) -> u64 {
    let mut hasher = DefaultHasher::new();
    // The debug form holds every field; readings are small and looks are rare.
    format!("{reading:?}").hash(&mut hasher);
    hasher.finish()
}
