//! The highest rate a carrier can be set to. NR: 3GPP TS 38.306 clause 4.1.2. LTE: transport block sizes of TS
//! 36.213 table 7.1.7.2.1-1.

use super::shannon::Direction;
use crate::bands::lte_resource_blocks;

/// Peak rate of one NR carrier, Mbit/s, without TDD share: v Qm f Rmax (12 N_PRB / Ts) (1 − OH), Rmax = 948/1024,
/// OH 0.14 down and 0.08 up in FR1, f = 1. `bits_a_symbol`: 8 for 256QAM.
///
/// ```
/// use open_beacon_domain::capacity::{peak::nr_peak_mbps, shannon::Direction};
/// // 100 MHz at 30 kHz, 273 blocks, four layers, 256QAM: 2337 Mbit/s.
/// assert_eq!(nr_peak_mbps(Direction::Down, 273, 30, 4, 8).round(), 2337.0);
/// ```
pub fn nr_peak_mbps(
    direction: Direction,
    blocks: u16,
    spacing_khz: u16,
    layers: u8,
    bits_a_symbol: u8,
) -> f64 {
    let overhead = match direction {
        Direction::Down => 0.14,
        Direction::Up => 0.08,
    };
    // Average symbol length: 1 ms over 14 symbols of each of 2^µ slots.
    let symbols_a_second = 14.0 * 1e3 * f64::from(spacing_khz) / 15.0;
    let bits = f64::from(layers) * f64::from(bits_a_symbol) * (948.0 / 1024.0) * 12.0 * f64::from(blocks);
    bits * symbols_a_second * (1.0 - overhead) / 1e6
}

/// Largest transport block of one layer at 64QAM (I_TBS 26), bits a millisecond, for 6, 15, 25, 50, 75 and 100
/// blocks. The last is a published worked value; the others are from memory of table 7.1.7.2.1-1.
const LTE_BLOCK_BITS: [(u16, f64); 6] =
    [(6, 4392.0), (15, 11_064.0), (25, 18_336.0), (50, 36_696.0), (75, 55_056.0), (100, 75_376.0)];

/// How much more 256QAM (I_TBS 33, 97896 bits for 100 blocks) carries at the best than 64QAM (I_TBS 26); from memory
/// of the same table.
pub const LTE_256QAM_OVER_64QAM: f64 = 97_896.0 / 75_376.0;

/// Peak downlink rate of one LTE carrier at 64QAM, Mbit/s, without TDD share; `None` for a width LTE does not have.
///
/// ```
/// // 20 MHz, two layers: 2 × 75376 bits a millisecond = 150.8 Mbit/s.
/// let peak = open_beacon_domain::capacity::peak::lte_peak_mbps(20.0, 2).unwrap();
/// assert!((peak - 150.752).abs() < 1e-9);
/// ```
pub fn lte_peak_mbps(bandwidth_mhz: f64, layers: u8) -> Option<f64> {
    let blocks = lte_resource_blocks(bandwidth_mhz)?;
    let (_, bits) = LTE_BLOCK_BITS.iter().find(|(of, _)| *of == blocks)?;
    Some(f64::from(layers) * bits / 1e3)
}
