//! Reading a gateway's status page.
//!
//! [`read_status`] fetches the page once and turns it into a [`Reading`](open_beacon_core::model::Reading);
//! [`watch`] looks at it again and again and tells what state the link is in.

mod fields;
mod http_json;
mod watch;

pub use fields::{FieldMap, MapError, read_fields};
pub use http_json::{DriverError, HttpJsonDriver};
pub use watch::{LinkState, LinkStatus, Look, Watcher, fingerprint};
