//! Measuring a line by moving real bytes, and the serving end that can be measured against.
//!
//! | Module | |
//! |---|---|
//! | [`measure`] | one whole test: idle latency, download, upload, latency under load |
//! | `serve` | the serving end: `GET /down`, `POST /up`, `GET /ping` |
//! | [`limited`] | the same on a rented host: with a token, and within limits |
//! | [`line_in_use_mbps`] | what this computer moves beside it |
//! | [`probe_address`] | a short look at an address before it is relied on |
//! | [`trickle`] | a trickle of traffic that keeps idle carriers from vanishing |

mod address;
mod body;
mod guard;
mod in_use;
mod measure;
mod page;
mod plan;
mod probe;
mod serve;
mod system;
mod transfer;
mod trickle;

pub use address::probe_address;
pub use guard::{Limits, limited};
pub use in_use::{interface_to, line_in_use_mbps};
pub use measure::{Outcome, Progress, Step, measure};
pub use plan::Plan;
pub use serve::{Direction, Shape, Unshaped, router, without_delay};
pub use trickle::trickle;
