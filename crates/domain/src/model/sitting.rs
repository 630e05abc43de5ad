//! A sitting: one visit to one hour. Tests in it share the hour's load, so they are not independent of one another: a
//! comparison counts sittings, never tests.

use super::{SiteId, SittingId, SpeedTest};
use chrono::{DateTime, Duration, Utc};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use uuid::Uuid;

/// Tests further apart than this are of different sittings, min (common practice, no source).
pub const SITTING_GAP_MIN: i64 = 30;
/// A sitting is one hour at the most, min (common practice, no source).
pub const SITTING_LENGTH_MIN: i64 = 60;
/// One that was opened on the page may last longer, min: climbs take time, and every setup has its turn in it (common practice, no
/// source).
pub const OPEN_SITTING_MIN: i64 = 120;

/// One visit to one hour at a site. It belongs to the site, so that setups tested within it are paired.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sitting {
    /// Identifier.
    pub id: SittingId,
    /// The site.
    pub site_id: SiteId,
    /// First test.
    pub started_at: DateTime<Utc>,
    /// Last test so far.
    pub ended_at: DateTime<Utc>,
    /// What the user calls it; empty for its day and hour.
    #[serde(default)]
    pub name: String,
    /// Whether it was opened on the page; else it was told by the time between tests.
    #[serde(default)]
    pub by_hand: bool,
    /// When it was closed on the page.
    #[serde(default)]
    pub closed_at: Option<DateTime<Utc>>,
}

impl Sitting {
    /// One told by the time of a test.
    pub fn at(id: SittingId, site_id: SiteId, at: DateTime<Utc>) -> Self {
        Self {
            id,
            site_id,
            started_at: at,
            ended_at: at,
            name: String::new(),
            by_hand: false,
            closed_at: None,
        }
    }

    /// When it ends by itself, where it was opened on the page.
    pub fn ends_at(&self) -> DateTime<Utc> {
        self.started_at + Duration::minutes(OPEN_SITTING_MIN)
    }

    /// Whether it was opened on the page and goes on.
    pub fn is_open(&self, now: DateTime<Utc>) -> bool {
        self.by_hand && self.closed_at.is_none() && now <= self.ends_at()
    }

    /// Whether a test at `at` is of this sitting: near enough to its tests, and within the hour; or within the time for which it
    /// was open on the page. Closing it does not make a test a minute later one of another hour.
    pub fn takes(&self, at: DateTime<Utc>) -> bool {
        let gap = Duration::minutes(SITTING_GAP_MIN);
        let near = self.started_at - gap <= at && at <= self.ended_at + gap;
        let length = self.ended_at.max(at) - self.started_at.min(at);
        let longest = if self.by_hand { OPEN_SITTING_MIN } else { SITTING_LENGTH_MIN };
        let open = self.by_hand
            && self.started_at <= at
            && at <= self.closed_at.unwrap_or_else(|| self.ends_at()).min(self.ends_at());
        open || near && length <= Duration::minutes(longest)
    }
}

/// Gives every test without a sitting one of `known`, which is added to and stretched. Tests are taken in order of time; a
/// new sitting's identifier follows from its first test, so that the same record always gives the same sittings.
pub fn assign_sittings<'a>(
    site_id: SiteId,
    tests: impl IntoIterator<Item = &'a mut SpeedTest>,
    known: &mut Vec<Sitting>,
) {
    let mut open: Vec<&mut SpeedTest> = tests.into_iter().filter(|test| test.sitting_id.is_none()).collect();
    open.sort_by_key(|test| (test.started_at, test.id));
    // A table of years has thousands of both: sittings are looked up by when they began.
    let mut begun: BTreeSet<(DateTime<Utc>, usize)> =
        known.iter().enumerate().map(|(place, sitting)| (sitting.started_at, place)).collect();
    let longest = Duration::minutes(SITTING_LENGTH_MIN.max(OPEN_SITTING_MIN));
    let gap = Duration::minutes(SITTING_GAP_MIN);
    for test in open {
        let at = test.started_at;
        let takes = |place: &usize| known[*place].site_id == site_id && known[*place].takes(at);
        let near = begun.range((at - longest, 0)..=(at + gap, usize::MAX)).map(|(_, place)| *place);
        let place = near.filter(takes).max().unwrap_or_else(|| {
            let id = SittingId(Uuid::new_v5(&test.id.0, b"sitting"));
            known.push(Sitting::at(id, site_id, at));
            known.len() - 1
        });
        let sitting = &mut known[place];
        begun.remove(&(sitting.started_at, place));
        begun.insert((sitting.started_at.min(at), place));
        sitting.started_at = sitting.started_at.min(at);
        sitting.ended_at = sitting.ended_at.max(at);
        test.sitting_id = Some(sitting.id);
    }
}
