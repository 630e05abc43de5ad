//! Modulations: bits a symbol and where their points lie.

use serde::{Deserialize, Serialize};

/// Modulations of LTE and NR: 3GPP TS 36.211 clause 7.1, TS 38.211 clause 5.1.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Modulation {
    /// QPSK, 2 bits a symbol.
    Qpsk,
    /// 16-QAM, 4 bits a symbol.
    Qam16,
    /// 64-QAM, 6 bits a symbol.
    Qam64,
    /// 256-QAM, 8 bits a symbol.
    Qam256,
}

impl Modulation {
    /// From the sturdiest to the densest.
    pub const ALL: [Self; 4] = [Self::Qpsk, Self::Qam16, Self::Qam64, Self::Qam256];

    /// Bits a symbol.
    pub fn bits(self) -> u8 {
        match self {
            Self::Qpsk => 2,
            Self::Qam16 => 4,
            Self::Qam64 => 6,
            Self::Qam256 => 8,
        }
    }

    /// Levels of one axis at unit mean power: odd numbers over sqrt(2 (M − 1) / 3).
    pub fn levels(self) -> Vec<f64> {
        let side = 1_i32 << (self.bits() / 2);
        let scale = (2.0 * f64::from(side * side - 1) / 3.0).sqrt();
        (0..side).map(|k| f64::from(2 * k - side + 1) / scale).collect()
    }
}
