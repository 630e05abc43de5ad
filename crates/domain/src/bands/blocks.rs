//! Resource blocks of a carrier: 3GPP TS 36.101 table 5.6-1 (LTE), TS 38.101-1 table 5.3.2-1 (NR FR1).

use super::{Duplex, nr_band};
use crate::model::{Carrier, Technology};

/// Resource blocks of an LTE carrier by its bandwidth; `None` for other widths.
pub fn lte_resource_blocks(bandwidth_mhz: f64) -> Option<u16> {
    const TABLE: [(f64, u16); 6] = [(1.4, 6), (3.0, 15), (5.0, 25), (10.0, 50), (15.0, 75), (20.0, 100)];
    TABLE.iter().find(|(width, _)| (width - bandwidth_mhz).abs() < 1e-6).map(|(_, blocks)| *blocks)
}

/// NR channel bandwidths in FR1, MHz.
pub const NR_BANDWIDTHS_MHZ: [u16; 15] = [5, 10, 15, 20, 25, 30, 35, 40, 45, 50, 60, 70, 80, 90, 100];

/// Blocks at 15, 30 and 60 kHz for each of [`NR_BANDWIDTHS_MHZ`]; 0 where the combination is not defined.
const NR_BLOCKS: [[u16; 3]; 15] = [
    [25, 11, 0],
    [52, 24, 11],
    [79, 38, 18],
    [106, 51, 24],
    [133, 65, 31],
    [160, 78, 38],
    [188, 92, 44],
    [216, 106, 51],
    [242, 119, 58],
    [270, 133, 65],
    [0, 162, 79],
    [0, 189, 93],
    [0, 217, 107],
    [0, 245, 121],
    [0, 273, 135],
];

/// Resource blocks of an NR carrier. `spacing_khz`: 15, 30 or 60. `None` where the standard has no such
/// combination.
pub fn nr_resource_blocks(bandwidth_mhz: f64, spacing_khz: u16) -> Option<u16> {
    let row = NR_BANDWIDTHS_MHZ.iter().position(|width| (f64::from(*width) - bandwidth_mhz).abs() < 1e-6)?;
    let column = [15, 30, 60].iter().position(|spacing| *spacing == spacing_khz)?;
    Some(NR_BLOCKS[row][column]).filter(|blocks| *blocks > 0)
}

/// Blocks and sub-carrier spacing (kHz) of a carrier whose width is known. For NR the spacing is not in a reading:
/// 30 kHz on TDD bands and above 50 MHz, else 15 kHz (common practice, no source).
pub fn carrier_blocks(carrier: &Carrier) -> Option<(u16, u16)> {
    let width = carrier.bandwidth_mhz?;
    match carrier.technology {
        Technology::Lte => lte_resource_blocks(width).map(|blocks| (blocks, 15)),
        Technology::Nr => {
            let tdd = carrier.band.and_then(nr_band).is_some_and(|row| row.duplex == Duplex::Tdd);
            let spacing = if tdd || width > 50.0 { 30 } else { 15 };
            nr_resource_blocks(width, spacing).map(|blocks| (blocks, spacing))
        }
    }
}
