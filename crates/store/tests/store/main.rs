//! Tests of the store on real files.

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

mod amendments;
mod bundles;
mod digests;
mod durability;
mod imported_runs;
mod kits;
mod migration;
mod reading_back;
mod setups;
mod sittings;
mod survey;

use chrono::{TimeZone, Utc};
use open_beacon_core::model::{Site, SiteBundle, SiteId};
use open_beacon_simulator::demo_site::{Addresses, demo_site};
use open_beacon_store::Store;
use uuid::Uuid;

pub fn open() -> (tempfile::TempDir, Store) {
    let directory = tempfile::tempdir().unwrap();
    let store = Store::open(directory.path()).unwrap();
    (directory, store)
}

pub fn site(n: u128, name: &str) -> Site {
    Site {
        id: SiteId(Uuid::from_u128(n)),
        name: name.into(),
        place: None,
        time_zone: chrono_tz::Europe::Oslo,
        notes: String::new(),
        created_at: Utc.with_ymd_and_hms(2026, 11, 9, 9, 0, 0).unwrap(),
        archived_at: None,
    }
}

/// The invented demo site, with runs, samples and tests.
pub fn demo_bundle() -> SiteBundle {
    let at = |path: &str| format!("http://127.0.0.1:1/{path}");
    demo_site(7, &Addresses { status_url: at("status"), speed_url: at("speed"), control_url: at("control") })
}
