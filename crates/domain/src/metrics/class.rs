//! Words for numbers. The thresholds are common practice, no source; they stand in this one table.

use super::{Metric, careful_sinr_db};
use crate::model::Carrier;
use serde::{Deserialize, Serialize};

/// How good a value is, from worst to best.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Class {
    /// Hardly anything gets through.
    Starved,
    /// It works, slowly.
    Thin,
    /// Enough for ordinary use.
    Usable,
    /// Good.
    Solid,
    /// As good as it gets.
    Ample,
}

/// Where the class thresholds come from.
pub const THRESHOLD_ORIGIN: &str = "common practice, no source";

/// Lower edges of thin, usable, solid and ample, in the metric's unit. A value on an edge belongs to the class
/// above it, but for "ample", which begins beyond its edge.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ClassEdges {
    /// From here on: thin.
    pub thin: f64,
    /// From here on: usable.
    pub usable: f64,
    /// From here on: solid.
    pub solid: f64,
    /// From here on: ample.
    pub ample: f64,
}

/// Class edges of a metric. `None` for RSRQ and RSSI, which say nothing without the cell's load.
pub fn class_edges(metric: Metric) -> Option<ClassEdges> {
    match metric {
        Metric::Sinr => Some(ClassEdges { thin: 0.0, usable: 8.0, solid: 13.0, ample: 20.0 }),
        Metric::Rsrp => Some(ClassEdges { thin: -115.0, usable: -105.0, solid: -95.0, ample: -80.0 }),
        Metric::Rsrq | Metric::Rssi => None,
    }
}

/// Class of one value; `None` where the metric has no class of its own.
pub fn class_of_value(metric: Metric, value: f64) -> Option<Class> {
    let edges = class_edges(metric)?;
    Some(if value > edges.ample {
        Class::Ample
    } else if value >= edges.solid {
        Class::Solid
    } else if value >= edges.usable {
        Class::Usable
    } else if value >= edges.thin {
        Class::Thin
    } else {
        Class::Starved
    })
}

/// A carrier's class and the metric that sets it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CarrierClass {
    /// How good it is.
    pub class: Class,
    /// The metric that decides the class.
    pub limited_by: Metric,
}

/// The worse of what limits a carrier (SINR, RSRP, or an RSRQ that contradicts the SINR), and which. On a tie SINR
/// is named, because it decides the rate. `None` where neither SINR nor RSRP is known.
pub fn class_of_carrier(carrier: &Carrier) -> Option<CarrierClass> {
    let careful = careful_sinr_db(carrier);
    let witness = if careful == carrier.sinr_db { Metric::Sinr } else { Metric::Rsrq };
    [(witness, Metric::Sinr, careful), (Metric::Rsrp, Metric::Rsrp, carrier.rsrp_dbm)]
        .into_iter()
        .filter_map(|(limited_by, metric, value)| {
            Some(CarrierClass { class: class_of_value(metric, value?)?, limited_by })
        })
        .min_by_key(|found| found.class)
}
