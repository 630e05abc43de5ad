//! Invented readings for tests, of this crate and of those above.

// Each crate uses its own part.
#![allow(dead_code)]

use chrono::{DateTime, Duration, TimeZone, Utc};
use open_beacon_domain::model::*;
use uuid::Uuid;

pub fn id(n: u128) -> Uuid {
    Uuid::from_u128(n)
}

/// 09:00 UTC is 10:00 in Oslo in November.
pub fn morning() -> DateTime<Utc> {
    Utc.with_ymd_and_hms(2026, 11, 9, 9, 0, 0).unwrap()
}

pub fn lte(band: u16, pci: u16, rsrp_dbm: f64, sinr_db: f64) -> Carrier {
    let mut carrier = Carrier::empty(Technology::Lte, CarrierRole::Primary);
    carrier.band = Some(band);
    carrier.pci = Some(pci);
    carrier.rsrp_dbm = Some(rsrp_dbm);
    carrier.sinr_db = Some(sinr_db);
    carrier.bandwidth_mhz = Some(20.0);
    carrier
}

pub fn nr(band: u16, pci: u16, rsrp_dbm: f64, sinr_db: f64) -> Carrier {
    let mut carrier = lte(band, pci, rsrp_dbm, sinr_db);
    carrier.technology = Technology::Nr;
    carrier.bandwidth_mhz = Some(90.0);
    carrier
}

pub fn sample(n: u128, run: u128, activity: Activity, carriers: Vec<Carrier>) -> Sample {
    Sample {
        id: SampleId(id(n)),
        run_id: RunId(id(run)),
        taken_at: morning() + Duration::seconds(n as i64),
        activity,
        reading: Reading { mode: ConnectionMode::Lte, carriers, neighbours: Vec::new() },
    }
}

pub fn test(n: u128, at: DateTime<Utc>, download: f64, upload: f64) -> SpeedTest {
    SpeedTest {
        id: SpeedTestId(id(n)),
        run_id: RunId(id(1)),
        sitting_id: None,
        started_at: at,
        source: Source::Live,
        completion: Completion::Complete,
        reason: None,
        server: "http://127.0.0.1/down".into(),
        surroundings: None,
        figures: SpeedFigures {
            download_mbps: Some(download),
            upload_mbps: Some(upload),
            idle_latency_ms: Some(35.0),
            ..SpeedFigures::default()
        },
    }
}

/// A complete run on setup 1000 + `n`.
pub fn run(n: u128) -> Run {
    Run {
        id: RunId(id(5000 + n)),
        setup_id: SetupId(id(1000 + n)),
        source: Source::Live,
        started_at: morning(),
        ended_at: None,
        completion: Completion::Complete,
        reason: None,
        planned_samples: 10,
        planned_speed_tests: 3,
        refresh_period_s: None,
        conditions: Conditions::default(),
        context: RunContext::Log,
        archived_at: None,
    }
}
