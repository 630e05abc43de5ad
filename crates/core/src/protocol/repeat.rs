//! Tests that the program runs by itself: when the next is due, and what holds it up.

use crate::model::RepeatSettings;
use chrono::{DateTime, Duration, Utc};
use serde::{Deserialize, Serialize};

/// Each repeat comes up to this share of the interval sooner or later, so that neither every house nor every day has the same minute.
const STAGGER: f64 = 0.1;
/// Other traffic from which on somebody uses the line, Mbit/s both ways together (common practice, no source).
pub const LINE_IN_USE_MBPS: f64 = 2.0;
/// After something held it up it is tried again after this, min.
pub const TRY_AGAIN_MIN: i64 = 15;

/// Why a repeat that is due does not run.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Held {
    /// No address is set to test against.
    NoAddress,
    /// Nothing was measured yet: where the antenna stands is not known.
    NothingStands,
    /// Somebody has a sitting open: tests in between would spoil its order.
    SittingOpen,
    /// Something else is being measured.
    Measuring,
    /// The month's data is used up.
    Budget { used_mb: f64, monthly_mb: f64 },
    /// Others use the line.
    LineInUse { mbps: f64 },
}

/// When the next one is due after one at `last`; at once where there was none. `seed` is the site's.
pub fn next_repeat(
    settings: &RepeatSettings,
    last: Option<DateTime<Utc>>,
    seed: u64,
    now: DateTime<Utc>,
) -> DateTime<Utc> {
    let Some(last) = last else { return now };
    // A few bits of both, spread over the range; the same each time it is asked (SplitMix64).
    let mut mixed = (seed ^ last.timestamp().cast_unsigned()).wrapping_add(0x9E37_79B9_7F4A_7C15);
    mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    let part = ((mixed ^ (mixed >> 31)) >> 11) as f64 / (1_u64 << 53) as f64;
    let hours = settings.every_h * (1.0 + STAGGER * (2.0 * part - 1.0));
    last + Duration::seconds((hours * 3600.0) as i64)
}

/// Whether the month's data is enough for one more: `used_mb` so far, `next_mb` as large as it may be.
pub fn within_budget(settings: &RepeatSettings, used_mb: f64, next_mb: f64) -> Result<(), Held> {
    if used_mb + next_mb <= settings.monthly_mb {
        Ok(())
    } else {
        Err(Held::Budget { used_mb, monthly_mb: settings.monthly_mb })
    }
}
