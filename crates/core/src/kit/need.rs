//! What the household needs of its line, from what it does with it.

use crate::model::{HouseholdUse, UseKind};
use serde::{Deserialize, Serialize};

/// Rates that must be there at once.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Need {
    /// Download, Mbit/s.
    pub down_mbps: f64,
    /// Upload, Mbit/s.
    pub up_mbps: f64,
    /// Latency under load that the most delicate use bears, ms; `None` where none minds.
    pub loaded_latency_ms: Option<f64>,
}

/// All uses at once, plus a quarter: a line filled to its brim delays everything (common practice, no source).
///
/// ```
/// use open_beacon_core::kit::need::need;
/// use open_beacon_core::model::{HouseholdUse, UseKind};
/// let call = HouseholdUse { kind: UseKind::VideoCall, count: 2, down_mbps: 3.0, up_mbps: 3.0 };
/// assert_eq!(need(&[call]).up_mbps, 7.5);
/// ```
pub fn need(uses: &[HouseholdUse]) -> Need {
    let sum =
        |of: fn(&HouseholdUse) -> f64| uses.iter().map(|one| of(one) * f64::from(one.count)).sum::<f64>();
    let bears = |kind: UseKind| match kind {
        // Common practice, no source.
        UseKind::Gaming => Some(80.0),
        UseKind::VideoCall => Some(150.0),
        _ => None,
    };
    Need {
        down_mbps: 1.25 * sum(|one| one.down_mbps),
        up_mbps: 1.25 * sum(|one| one.up_mbps),
        loaded_latency_ms: uses
            .iter()
            .filter(|one| one.count > 0)
            .filter_map(|one| bears(one.kind))
            .min_by(f64::total_cmp),
    }
}
