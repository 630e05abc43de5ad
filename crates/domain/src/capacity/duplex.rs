//! How much of the time each way has. LTE: 3GPP TS 36.211 tables 4.2-1 and 4.2-2. NR: the slot pattern is an input.

use serde::{Deserialize, Serialize};

/// Share of the time for each way, 0..=1 each; guard takes the rest.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TimeShare {
    /// Share of the downlink.
    pub down: f64,
    /// Share of the uplink.
    pub up: f64,
}

impl TimeShare {
    /// Paired bands: all of the time both ways.
    pub const FDD: Self = Self { down: 1.0, up: 1.0 };
}

/// TS 36.211 table 4.2-2: downlink, special and uplink subframes of ten, by configuration 0..=6.
const LTE_SUBFRAMES: [(u8, u8, u8); 7] =
    [(2, 2, 6), (4, 2, 4), (6, 2, 2), (6, 1, 3), (7, 1, 2), (8, 1, 1), (3, 2, 5)];
/// TS 36.211 table 4.2-1, normal cyclic prefix: DwPTS and UpPTS symbols of 14, by configuration 0..=8.
const LTE_SPECIAL: [(u8, u8); 9] =
    [(3, 1), (9, 1), (10, 1), (11, 1), (12, 1), (3, 2), (9, 2), (10, 2), (11, 2)];

/// Share of an LTE TDD carrier. `configuration` 0..=6, `special` 0..=8; `None` outside. UpPTS carries no data and
/// is not counted.
///
/// ```
/// // Configuration 2 with special configuration 7: six subframes and two times 10 of 14 symbols.
/// let share = open_beacon_domain::capacity::duplex::lte_tdd_share(2, 7).unwrap();
/// assert!((share.down - (6.0 + 2.0 * 10.0 / 14.0) / 10.0).abs() < 1e-12);
/// assert!((share.up - 0.2).abs() < 1e-12);
/// ```
pub fn lte_tdd_share(configuration: u8, special: u8) -> Option<TimeShare> {
    let (down, specials, up) = *LTE_SUBFRAMES.get(usize::from(configuration))?;
    let (dwpts, _) = *LTE_SPECIAL.get(usize::from(special))?;
    Some(TimeShare {
        down: (f64::from(down) + f64::from(specials) * f64::from(dwpts) / 14.0) / 10.0,
        up: f64::from(up) / 10.0,
    })
}

/// Why a pattern cannot be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum PatternError {
    /// Letters where numbers are expected.
    #[error("A pattern is written with D, S and U, one letter a slot, for instance DDDSU.")]
    Letters,
    /// Signs that no pattern has.
    #[error("The special slot has 14 symbols for down, guard and up together, for instance 10 and 2.")]
    Symbols,
}

/// Share of an NR TDD carrier by its slot pattern ("DDDSU"); `special`: downlink and uplink symbols of 14 in S.
///
/// # Errors
/// [`PatternError`].
pub fn nr_tdd_share(pattern: &str, special: (u8, u8)) -> Result<TimeShare, PatternError> {
    let (down, up) = special;
    if down + up > 14 {
        return Err(PatternError::Symbols);
    }
    if pattern.is_empty() || !pattern.chars().all(|slot| matches!(slot, 'D' | 'S' | 'U')) {
        return Err(PatternError::Letters);
    }
    let count = |letter| pattern.chars().filter(|slot| *slot == letter).count() as f64;
    let slots = pattern.len() as f64;
    Ok(TimeShare {
        down: (count('D') + count('S') * f64::from(down) / 14.0) / slots,
        up: (count('U') + count('S') * f64::from(up) / 14.0) / slots,
    })
}
