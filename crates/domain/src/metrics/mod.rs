//! Readings: what each metric may be, what it means, how it is typed, and when it is a new one.

mod class;
mod codes;
mod consistency;
mod entry;
mod limit;
mod range;
mod refresh;
mod relation;

pub use crate::model::Metric;
pub use class::{
    CarrierClass, Class, ClassEdges, THRESHOLD_ORIGIN, class_edges, class_of_carrier, class_of_value,
};
pub use codes::{CodeError, CodeInterval, CodeKind, decode};
pub use consistency::{Oddity, SINR_DISAGREEMENT_DB, careful_sinr_db, flag_oddities, oddities};
pub use entry::{Entry, EntryError, Note, Quantity, read_entry};
pub use limit::{Limit, Limits, NOISE_FIGURE_DB, interference_dbm, limits, noise_per_element_dbm};
pub use range::{ReportingRange, flag_out_of_range, reporting_range};
pub use refresh::{Novelty, RefreshLearner};
pub use relation::{ImpliedSinr, idle_share, implied_load, implied_sinr, rsrq_from_rssi_db, rsrq_of_load_db};
pub use relation::{db_to_linear, linear_to_db};
