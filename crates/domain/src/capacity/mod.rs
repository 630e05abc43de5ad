//! What a channel could carry: from SINR, width, layers and time share to bit/s, down and up, with a range.
//!
//! | Part | Source |
//! |---|---|
//! | [`shannon`] | attenuated Shannon bounds, 3GPP TR 36.942 A.2 and TR 38.803 |
//! | [`cqi`] | CQI tables TS 36.213 7.2.3-1/-2, TS 38.214 5.2.2.1-2/-3; SINR thresholds common practice |
//! | [`peak`] | highest rates, TS 38.306 4.1.2 and TS 36.213 table 7.1.7.2.1-1 |
//! | [`duplex`] | TDD shares, TS 36.211 tables 4.2-1/-2, NR slot patterns |
//! | [`modulation`] | TS 36.211 clause 7.1, TS 38.211 clause 5.1 |
//! | [`uplink`] | what a phone-class transmitter reaches at a coupling loss |
//! | [`possible`] | all of it together for a reading |
//! | [`constellation`] | what a SINR looks like and which modulations survive it |

pub mod constellation;
pub mod cqi;
pub mod duplex;
mod ethernet;
pub mod modulation;
pub mod peak;
pub mod possible;
pub mod shannon;
pub mod uplink;

pub use ethernet::ethernet_payload_mbps;

use serde::{Deserialize, Serialize};

/// A value with a range: what the assumptions leave open.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Estimate {
    /// Lower end.
    pub low: f64,
    /// Most likely value.
    pub likely: f64,
    /// Upper end.
    pub high: f64,
}

impl Estimate {
    /// The same value thrice.
    pub fn exactly(value: f64) -> Self {
        Self { low: value, likely: value, high: value }
    }

    /// Each part by its own function of the three.
    pub fn map(self, f: impl Fn(f64) -> f64) -> Self {
        Self { low: f(self.low), likely: f(self.likely), high: f(self.high) }
    }

    /// Part by part; the parts are taken to move together.
    pub fn plus(self, other: Self) -> Self {
        Self { low: self.low + other.low, likely: self.likely + other.likely, high: self.high + other.high }
    }
}
