//! Where everything is kept: SQLite, and the only place with SQL.
//!
//! One file an aggregate; each adds methods to [`Store`]. Reads and writes use separate connections, so that a
//! long read does not hold up a sample being written (write-ahead log).
//!
//! Durability: WAL with `synchronous=FULL`, asserted when the store is opened. A write that returned is on disk.

mod amendments;
mod as_built;
mod asleep;
mod attachments;
mod backup;
mod bundle;
mod contents;
mod convert;
mod creation;
mod devices;
mod digests;
mod error;
mod events;
mod evidence;
mod imported_runs;
mod kits;
mod locks;
mod open;
mod parts;
mod positions;
mod predictions;
mod private;
mod readings;
mod runs;
mod secrets;
mod setups;
mod sites;
mod sittings;
mod speed_tests;
mod survey;
mod sweeps;
mod timeline;
mod trials;
mod versions;
mod watch;

pub use amendments::NewAmendment;
pub use backup::{backup, restore};
pub use bundle::{BundleConflict, BundlePlan};
pub use creation::Created;
pub use error::StoreError;
pub use evidence::{RunCounts, SetupCounts};
pub use imported_runs::TestHere;
pub use open::{Durability, Store};
pub use private::{create_private_folder, is_open_to_others};
pub use sites::Archivable;
pub use sittings::SittingTest;
pub use survey::{SiteEntity, SiteFile};
pub use timeline::TestedAt;
pub use versions::Aggregate;
pub use watch::{ImportStep, Watch};
