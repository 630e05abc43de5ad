//! Readings: what each metric may be, what it means, how it is typed, and when it is a new one.

mod class;
mod entry;
mod range;
mod refresh;
mod relation;

pub use class::{
    CarrierClass, Class, ClassEdges, THRESHOLD_ORIGIN, class_edges, class_of_carrier, class_of_value,
};
pub use entry::{Entry, EntryError, Note, Quantity, read_entry};
pub use range::{Metric, ReportingRange, flag_out_of_range, reporting_range};
pub use refresh::{Novelty, RefreshLearner};
pub use relation::{resource_blocks, rsrq_from_rssi_db};
