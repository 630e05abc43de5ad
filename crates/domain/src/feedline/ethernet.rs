//! Power over Ethernet at the far end of a cable. IEEE 802.3: 100 m limit; cable data give the loop resistance of one
//! pair (out on one wire, back on the other), at most 25 Ω in 100 m of category 5. Each pole of the supply uses both
//! wires of a pair side by side, so that half of the pair loop applies when two pairs are powered (12.5 Ω in
//! 100 m, the figure IEEE 802.3at works with), a quarter when four are. Far-end voltage from the constant-power load.

use serde::{Deserialize, Serialize};

/// Longest channel, m: IEEE 802.3 and ISO/IEC 11801.
pub const LONGEST_M: f64 = 100.0;

/// Pairs that carry power.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PoweredPairs {
    /// Two pairs carry power.
    Two,
    /// All four pairs carry power.
    Four,
}

impl PoweredPairs {
    /// Resistance of the feed as a share of one pair's loop resistance: two conductors in parallel a pole when two pairs
    /// are powered, four when four are (IEEE 802.3at clause 33, IEEE 802.3bt clause 145).
    pub fn share_of_pair_loop(self) -> f64 {
        match self {
            Self::Two => 0.5,
            Self::Four => 0.25,
        }
    }
}

/// What arrives.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FarEnd {
    /// Voltage, V.
    pub voltage_v: f64,
    /// Current, A.
    pub current_a: f64,
    /// Power turned to heat in the cable, W.
    pub lost_w: f64,
}

/// Why a device cannot be fed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PowerError {
    /// The cable is longer than the standard allows.
    #[error("Ethernet reaches 100\u{202f}m; a switch or a media converter carries it on.")]
    TooLong,
    #[error(
        "The cable takes more than the injector gives: shorten it, use thicker wire, or a higher voltage."
    )]
    /// Too little arrives.
    Starves,
    /// A length, power or voltage that is not above zero.
    #[error("Voltage, power and resistance above zero.")]
    NotPositive,
}

/// Voltage, current and loss at a load of constant power: V² − V_s V + P R = 0, the larger root.
///
/// `pair_loop_ohm_100m`: loop resistance of one pair in 100 m, Ω; 25 at the most for category 5 (IEEE 802.3), about
/// 19 for 24 AWG. `length_m`: 0..=100.
///
/// # Errors
/// [`PowerError`].
pub fn far_end(
    source_v: f64,
    load_w: f64,
    length_m: f64,
    pair_loop_ohm_100m: f64,
    pairs: PoweredPairs,
) -> Result<FarEnd, PowerError> {
    if !(source_v > 0.0 && load_w > 0.0 && pair_loop_ohm_100m > 0.0 && length_m >= 0.0) {
        return Err(PowerError::NotPositive);
    }
    if length_m > LONGEST_M {
        return Err(PowerError::TooLong);
    }
    let resistance = pair_loop_ohm_100m * length_m / 100.0 * pairs.share_of_pair_loop();
    let under_root = source_v * source_v - 4.0 * load_w * resistance;
    if under_root < 0.0 {
        return Err(PowerError::Starves);
    }
    let voltage_v = f64::midpoint(source_v, under_root.sqrt());
    let current_a = load_w / voltage_v;
    Ok(FarEnd { voltage_v, current_a, lost_w: current_a * current_a * resistance })
}
