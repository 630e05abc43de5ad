//! How a table of results made elsewhere is read.

use super::Instrument;
use serde::{Deserialize, Serialize};

/// What a column of a table of results can be.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ResultField {
    /// Date and time together.
    Time,
    /// The date alone.
    Date,
    /// The time of day alone.
    Clock,
    /// Position or setup.
    Place,
    /// Bearing of the antenna, degrees from true north.
    Bearing,
    /// Band of the signal.
    Band,
    /// Physical cell identity.
    Pci,
    /// Signal power.
    Rsrp,
    /// Signal-to-noise ratio.
    Sinr,
    /// Signal quality.
    Rsrq,
    /// Download rate.
    Download,
    /// Upload rate.
    Upload,
    /// Latency on the idle line.
    Latency,
    /// Tests that the speeds are the average of.
    AverageOf,
    /// Server of the speed test.
    Server,
    /// Free text.
    Notes,
    /// None of this.
    Ignored,
}

/// A column of a table of results and what it is taken as.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ResultColumn {
    /// Its heading.
    pub heading: String,
    /// Which field it is.
    pub field: ResultField,
    /// Unit of its values where they bear none themselves; empty for Mbit/s, ms, dBm and dB.
    #[serde(default)]
    pub unit: String,
}

/// The decimal sign.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum DecimalSign {
    /// 1,234.5
    Point,
    /// 1.234,5
    Comma,
}

/// Which number of a date comes first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum DateOrder {
    /// 31/12/2026
    DayFirst,
    /// 12/31/2026
    MonthFirst,
}

/// Whose time a time without an offset is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TableZone {
    /// That of the house.
    House,
    /// Coordinated universal time.
    Utc,
}

/// How a table of results is read: its columns, and what was answered where it can be read in two ways.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ResultTableReading {
    /// Columns in the order of the table; guessed where there are none.
    pub columns: Vec<ResultColumn>,
    /// None where the table itself tells.
    pub decimal: Option<DecimalSign>,
    /// None where the table itself tells.
    pub date_order: Option<DateOrder>,
    /// None where every time says its offset.
    pub zone: Option<TableZone>,
    /// Band of the signal where no column says it, as it is written.
    pub band: String,
    /// What it was read from.
    pub instrument: Instrument,
}
