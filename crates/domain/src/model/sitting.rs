//! A sitting: one visit to one hour. Tests in it share the hour's load, so they are not independent of one another: a
//! comparison counts sittings, never tests.

use super::{SiteId, SittingId, SpeedTest};
use chrono::{DateTime, Duration, Utc};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Tests further apart than this are of different sittings, min (common practice, no source).
pub const SITTING_GAP_MIN: i64 = 30;
/// A sitting is one hour at the most, min (common practice, no source).
pub const SITTING_LENGTH_MIN: i64 = 60;

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
}

impl Sitting {
    /// Whether a test at `at` is of this sitting: near enough to its tests, and within the hour.
    pub fn takes(&self, at: DateTime<Utc>) -> bool {
        let gap = Duration::minutes(SITTING_GAP_MIN);
        let near = self.started_at - gap <= at && at <= self.ended_at + gap;
        let length = self.ended_at.max(at) - self.started_at.min(at);
        near && length <= Duration::minutes(SITTING_LENGTH_MIN)
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
    for test in open {
        let at = test.started_at;
        let found = known.iter().rposition(|sitting| sitting.site_id == site_id && sitting.takes(at));
        let sitting = match found {
            Some(place) => &mut known[place],
            None => {
                let id = SittingId(Uuid::new_v5(&test.id.0, b"sitting"));
                known.push(Sitting { id, site_id, started_at: at, ended_at: at });
                let last = known.len() - 1;
                &mut known[last]
            }
        };
        sitting.started_at = sitting.started_at.min(at);
        sitting.ended_at = sitting.ended_at.max(at);
        test.sitting_id = Some(sitting.id);
    }
}
