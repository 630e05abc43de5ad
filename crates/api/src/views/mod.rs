//! From facts to what a page shows: no access to the store's writing side, no rule. What is decided is decided in the core.

pub(crate) mod as_built;
pub(crate) mod bands;
pub(crate) mod baseline;
pub(crate) mod comparison;
pub(crate) mod diagnosis;
pub(crate) mod metrics;
pub(crate) mod near_best;
pub(crate) mod outlook;
pub(crate) mod over_time;
pub(crate) mod site;
pub(crate) mod survey;
pub(crate) mod sweep;
pub(crate) mod test_plan;
pub(crate) mod timeline;
pub(crate) mod track;
pub(crate) mod worklist;
