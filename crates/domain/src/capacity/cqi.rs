//! Channel quality indicators: modulation, code rate and efficiency.
//!
//! Tables: 3GPP TS 36.213 7.2.3-1 (to 64QAM, also TS 38.214 5.2.2.1-2) and 7.2.3-2 (to 256QAM, also TS 38.214
//! 5.2.2.1-3). No standard says at which SINR a CQI is reached: the thresholds are common practice, no source.

use super::modulation::Modulation;
use serde::{Deserialize, Serialize};

/// One row of a CQI table.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CqiRow {
    /// 1..=15.
    pub cqi: u8,
    /// Modulation.
    pub modulation: Modulation,
    /// Code rate times 1024.
    pub rate_1024: u16,
    /// Bits a symbol, as printed in the table.
    pub efficiency: f64,
}

/// Which table a link uses.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum CqiTable {
    /// Table 1, up to 64-QAM.
    To64Qam,
    /// Table 2, up to 256-QAM.
    To256Qam,
}

const fn row(cqi: u8, modulation: Modulation, rate_1024: u16, efficiency: f64) -> CqiRow {
    CqiRow { cqi, modulation, rate_1024, efficiency }
}

use Modulation::{Qam16, Qam64, Qam256, Qpsk};

const TO_64QAM: [CqiRow; 15] = [
    row(1, Qpsk, 78, 0.1523),
    row(2, Qpsk, 120, 0.2344),
    row(3, Qpsk, 193, 0.3770),
    row(4, Qpsk, 308, 0.6016),
    row(5, Qpsk, 449, 0.8770),
    row(6, Qpsk, 602, 1.1758),
    row(7, Qam16, 378, 1.4766),
    row(8, Qam16, 490, 1.9141),
    row(9, Qam16, 616, 2.4063),
    row(10, Qam64, 466, 2.7305),
    row(11, Qam64, 567, 3.3223),
    row(12, Qam64, 666, 3.9023),
    row(13, Qam64, 772, 4.5234),
    row(14, Qam64, 873, 5.1152),
    row(15, Qam64, 948, 5.5547),
];

const TO_256QAM: [CqiRow; 15] = [
    row(1, Qpsk, 78, 0.1523),
    row(2, Qpsk, 193, 0.3770),
    row(3, Qpsk, 449, 0.8770),
    row(4, Qam16, 378, 1.4766),
    row(5, Qam16, 490, 1.9141),
    row(6, Qam16, 616, 2.4063),
    row(7, Qam64, 466, 2.7305),
    row(8, Qam64, 567, 3.3223),
    row(9, Qam64, 666, 3.9023),
    row(10, Qam64, 772, 4.5234),
    row(11, Qam64, 873, 5.1152),
    row(12, Qam256, 711, 5.5547),
    row(13, Qam256, 797, 6.2266),
    row(14, Qam256, 885, 6.9141),
    row(15, Qam256, 948, 7.4063),
];

/// SINR from which each row of the 64QAM table is used at about a tenth of blocks lost, dB. Common practice, no
/// source.
const SINR_TO_64QAM_DB: [f64; 15] =
    [-6.7, -4.7, -2.3, 0.2, 2.4, 4.3, 5.9, 8.1, 10.3, 11.7, 14.1, 16.3, 18.7, 21.0, 22.7];
/// The same for the 256QAM rows 12 to 15, about 1.9 dB a step onward. Common practice, no source.
const SINR_256QAM_DB: [f64; 4] = [22.7, 25.0, 27.3, 29.3];

impl CqiTable {
    /// All 15 rows.
    pub fn rows(self) -> &'static [CqiRow; 15] {
        match self {
            Self::To64Qam => &TO_64QAM,
            Self::To256Qam => &TO_256QAM,
        }
    }
}

/// SINR from which a row is used, dB (common practice, no source).
pub fn threshold_db(table: CqiTable, cqi: u8) -> Option<f64> {
    let row = table.rows().iter().find(|row| row.cqi == cqi)?;
    if row.modulation == Qam256 {
        return SINR_256QAM_DB.get(usize::from(cqi) - 12).copied();
    }
    // Rows of the two tables that have the same modulation and code rate need the same SINR.
    let at = TO_64QAM
        .iter()
        .position(|other| other.modulation == row.modulation && other.rate_1024 == row.rate_1024)?;
    Some(SINR_TO_64QAM_DB[at])
}

/// The row in use at a SINR; `None` below the lowest.
pub fn row_at(table: CqiTable, sinr_db: f64) -> Option<&'static CqiRow> {
    table
        .rows()
        .iter()
        .rev()
        .find(|row| threshold_db(table, row.cqi).is_some_and(|threshold| sinr_db >= threshold))
}
