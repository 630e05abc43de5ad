//! Power over Ethernet at the far end of a cable. IEEE 802.3: 100 m limit, at most 25 Ω loop resistance in 100 m for
//! two pairs of category 5 (12.5 Ω when powered over four); far-end voltage from the constant-power load.

use serde::{Deserialize, Serialize};

/// Longest channel, m: IEEE 802.3 and ISO/IEC 11801.
pub const LONGEST_M: f64 = 100.0;

/// Pairs that carry power.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PoweredPairs {
    Two,
    Four,
}

/// What arrives.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FarEnd {
    pub voltage_v: f64,
    pub current_a: f64,
    /// Power turned to heat in the cable, W.
    pub lost_w: f64,
}

/// Why a device cannot be fed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PowerError {
    #[error("Ethernet reaches 100\u{202f}m; a switch or a media converter carries it on.")]
    TooLong,
    #[error(
        "The cable takes more than the injector gives: shorten it, use thicker wire, or a higher voltage."
    )]
    Starves,
    #[error("Voltage, power and resistance above zero.")]
    NotPositive,
}

/// Voltage, current and loss at a load of constant power: V² − V_s V + P R = 0, the larger root.
///
/// `loop_ohm_100m`: 25 at the most for two pairs of category 5 (IEEE 802.3), about 19 for 24 AWG.
///
/// # Errors
/// [`PowerError`].
pub fn far_end(
    source_v: f64,
    load_w: f64,
    length_m: f64,
    loop_ohm_100m: f64,
    pairs: PoweredPairs,
) -> Result<FarEnd, PowerError> {
    if !(source_v > 0.0 && load_w > 0.0 && loop_ohm_100m > 0.0 && length_m >= 0.0) {
        return Err(PowerError::NotPositive);
    }
    if length_m > LONGEST_M {
        return Err(PowerError::TooLong);
    }
    let sharing = match pairs {
        PoweredPairs::Two => 1.0,
        PoweredPairs::Four => 0.5,
    };
    let resistance = loop_ohm_100m * length_m / 100.0 * sharing;
    let under_root = source_v * source_v - 4.0 * load_w * resistance;
    if under_root < 0.0 {
        return Err(PowerError::Starves);
    }
    let voltage_v = f64::midpoint(source_v, under_root.sqrt());
    let current_a = load_w / voltage_v;
    Ok(FarEnd { voltage_v, current_a, lost_w: current_a * current_a * resistance })
}
