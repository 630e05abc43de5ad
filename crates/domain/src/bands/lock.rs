//! Bit masks that devices take for band locks: band n is bit n − 1 (common practice, no source). Bands above 64 lie
//! in a second word of 64 bits.

use serde::{Deserialize, Serialize};

/// A set of bands 1..=128 as two words.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LockMask {
    /// Bands 1..=64.
    pub low: u64,
    /// Bands 65..=128.
    pub high: u64,
}

/// Why a list of bands makes no mask.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum LockError {
    /// A band that this technology does not have.
    #[error("Band {0} has no place in a mask of 128 bits: bands 1 to 128 have.")]
    Band(u16),
}

impl LockMask {
    /// Mask of a list of bands; order and repeats do not matter.
    ///
    /// ```
    /// let mask = open_beacon_domain::bands::LockMask::of(&[3, 20]).unwrap();
    /// assert_eq!(mask.low, 0x8_0004);
    /// ```
    ///
    /// # Errors
    /// [`LockError::Band`] for a band outside 1..=128.
    pub fn of(bands: &[u16]) -> Result<Self, LockError> {
        let mut mask = Self::default();
        for band in bands {
            match band {
                1..=64 => mask.low |= 1 << (band - 1),
                65..=128 => mask.high |= 1 << (band - 65),
                _ => return Err(LockError::Band(*band)),
            }
        }
        Ok(mask)
    }

    /// Bands of the mask in rising order.
    pub fn bands(self) -> Vec<u16> {
        let whole = u128::from(self.low) | u128::from(self.high) << 64;
        (1..=128).filter(|band| whole >> (band - 1) & 1 == 1).collect()
    }
}
