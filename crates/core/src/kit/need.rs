//! What the household needs of its line, from what it does with it.

use crate::capacity::Estimate;
use crate::link::draws::SetupDraws;
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

/// Worth of a line that is e times the need, beyond the need's own.
const BEYOND_NEED: f64 = 0.1;
/// Lines that are worth this little less are alike: a twentieth of the need one way.
pub const ALIKE_WORTH: f64 = 0.05;
/// A need below this is taken for this, Mbit/s: a household that says none still has one.
pub(crate) const LEAST_NEED_MBPS: f64 = 1.0;

/// Worth of so many times the need: what is met of it, and little for what goes beyond.
pub(crate) fn worth_of(times: f64) -> f64 {
    if times <= 1.0 { times } else { 1.0 + BEYOND_NEED * times.ln() }
}

impl Need {
    /// What a line is worth to the household: the share of the need that is met, down and up alike; what goes beyond the need counts little
    /// and less and less (logarithmic utility: Kelly 1997, Charging and rate control for elastic traffic; how little is common
    /// practice, no source).
    ///
    /// ```
    /// use open_beacon_core::kit::need::Need;
    /// let need = Need { down_mbps: 30.0, up_mbps: 5.0, loaded_latency_ms: None };
    /// // By hand: half the download, and twice the upload: 0.5 + 1 + 0.1 ln 2.
    /// assert!((need.worth(15.0, 10.0) - 1.5693).abs() < 1e-4);
    /// ```
    pub fn worth(&self, down_mbps: f64, up_mbps: f64) -> f64 {
        let of = |has: f64, needs: f64| worth_of(has.max(0.0) / needs.max(LEAST_NEED_MBPS));
        of(down_mbps, self.down_mbps) + of(up_mbps, self.up_mbps)
    }

    /// What a line is worth in each of the draws of a setup.
    pub fn worths(&self, drawn: &SetupDraws) -> Vec<f64> {
        drawn.down_mbps.iter().zip(&drawn.up_mbps).map(|(down, up)| self.worth(*down, *up)).collect()
    }

    /// What a line is expected to be worth by its ranges: 0.3, 0.4 and 0.3 of its 10, 50 and 90 % quantiles (Swanson's rule: Hurst, Brown
    /// and Swanson 2000, AAPG Bulletin 84).
    pub fn expected_worth(&self, down_mbps: Option<Estimate>, up_mbps: Option<Estimate>) -> f64 {
        let nothing = Estimate::exactly(0.0);
        let (down, up) = (down_mbps.unwrap_or(nothing), up_mbps.unwrap_or(nothing));
        0.3 * self.worth(down.low, up.low)
            + 0.4 * self.worth(down.likely, up.likely)
            + 0.3 * self.worth(down.high, up.high)
    }
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
