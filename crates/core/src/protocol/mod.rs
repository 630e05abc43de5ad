//! How setups are tested against each other: what a change between two of them is, in which order they are tested within one
//! sitting, how many sittings the difference worth knowing takes, and when.

mod change;
mod credit;
mod gateway_place;
mod order;
mod plan;
mod preflight;
mod repeat;
mod schedule;
mod sitting;

pub use change::{Antennas, Built, ChangedPart, Move, changes};
pub use credit::{Confounder, Credit, CreditGroup, SettlingTest, credit};
pub use gateway_place::{gateway_turns, inner_bands};
pub use order::{PlanStop, stops};
pub use plan::{Contender, MOST_CONTENDERS, PlanInput, TestPlan, contenders, plan, sitting_scatter};
pub use preflight::{LastRun, PreflightInput, PreflightItem, PreflightState, preflight};
pub use repeat::{Held, LINE_IN_USE_MBPS, TRY_AGAIN_MIN, next_repeat, within_budget};
pub use schedule::{PlannedVisit, VisitKind};
pub use sitting::{SittingProgress, progress};
