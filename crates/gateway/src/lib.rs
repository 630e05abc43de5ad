//! Reading a gateway's status page.
//!
//! [`read_status`] fetches the page once and turns it into a [`Reading`](open_beacon_core::model::Reading);
//! [`watch`] looks at it again and again and tells what state the link is in.

mod at;
mod driver;
mod fields;
mod http_json;
mod watch;

pub use at::{Answers, AtDriver, read_answers};
pub use driver::Driver;
pub use fields::{FieldMap, MapError, read_fields};
pub use http_json::{DriverError, HttpJsonDriver};
pub use watch::{LinkState, LinkStatus, Look, Watcher, fingerprint};
