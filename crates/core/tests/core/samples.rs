//! Invented readings for the tests of this crate.

use chrono::Duration;
use open_beacon_core::judge::SetupEvidence;
use open_beacon_core::model::*;

#[path = "../../../domain/tests/domain/samples.rs"]
mod of_domain;
pub use of_domain::*;

/// A setup with tests at the given downloads (upload is a tenth), each on a day of its own: as many sittings.
pub fn evidence(label: &str, downloads: &[f64]) -> SetupEvidence {
    let key = label.bytes().fold(7, |sum, byte| sum * 31 + u128::from(byte));
    let tests = downloads
        .iter()
        .enumerate()
        .map(|(n, download)| SpeedTest {
            sitting_id: Some(SittingId(id(key * 1000 + n as u128))),
            ..test(n as u128, morning() + Duration::days(n as i64), *download, download / 10.0)
        })
        .collect();
    SetupEvidence {
        setup_id: SetupId(id(key)),
        label: label.into(),
        runs: Vec::new(),
        radio: Vec::new(),
        tests,
    }
}

/// A position of which no more is known than its name and mount.
pub fn plain_position(n: u128, name: &str, mount: Mount) -> Position {
    Position {
        id: PositionId(id(n)),
        site_id: SiteId(id(1)),
        name: name.into(),
        place: None,
        height_above_ground_m: None,
        mount,
        spot: Spot::default(),
        notes: String::new(),
        created_at: morning(),
        archived_at: None,
    }
}
