//! Runs made of rows.

use super::ResultRow;
use chrono::{DateTime, TimeDelta, Utc};
use open_beacon_core::metrics::flag_oddities;
use open_beacon_core::model::{
    Activity, Carrier, CarrierRole, Completion, Conditions, ConnectionMode, Instrument, Reading, Run,
    RunContext, RunId, Sample, SampleId, SetupId, SiteId, Source, SpeedFigures, SpeedTest, SpeedTestId,
};
use std::collections::HashSet;
use uuid::Uuid;

/// Rows of one setup that lie no further apart are of one run (common practice, no source).
const ONE_RUN: TimeDelta = TimeDelta::minutes(2);
/// The same figures of one setup this near are one test, whoever wrote it down (common practice, no source).
const SAME_TEST: TimeDelta = TimeDelta::seconds(60);
/// Rates that differ by no more than this share are the same, written with fewer digits.
const SAME_RATE: f64 = 0.005;
/// Longest notes of a run, characters.
const LONGEST_NOTES: usize = 1500;

/// A run with everything in it.
#[derive(Clone, Debug, PartialEq)]
pub struct ImportedRun {
    pub run: Run,
    pub samples: Vec<Sample>,
    pub tests: Vec<SpeedTest>,
}

/// A test that is here already, as far as it tells whether another is the same.
#[derive(Clone, Debug, PartialEq)]
pub struct KnownTest {
    pub setup_id: SetupId,
    pub at: DateTime<Utc>,
    /// Mbit/s
    pub download_mbps: Option<f64>,
    /// Mbit/s
    pub upload_mbps: Option<f64>,
}

/// Marks what is here already: a row read before, by `ids` of samples and tests, or a test of the same setup, minute and figures.
pub fn leave_out_known(rows: &mut [ResultRow], site: SiteId, ids: &HashSet<Uuid>, tests: &[KnownTest]) {
    for row in rows {
        let same = |test: &KnownTest| {
            // Without a rate there is nothing to know it by: two latencies of a minute are two.
            row.download_mbps.or(row.upload_mbps).is_some()
                && test.setup_id == row.setup_id
                && (test.at - row.at).abs() <= SAME_TEST
                && same_rate(test.download_mbps, row.download_mbps)
                && same_rate(test.upload_mbps, row.upload_mbps)
        };
        row.new_speeds &= !ids.contains(&row.test_id(site.0)) && !tests.iter().any(same);
        row.new_signal &= !ids.contains(&row.sample_id(site.0));
    }
}

fn same_rate(one: Option<f64>, other: Option<f64>) -> bool {
    match (one, other) {
        (Some(one), Some(other)) => (one - other).abs() <= SAME_RATE * one.abs().max(other.abs()),
        (one, other) => one == other,
    }
}

/// Runs of what is new in rows, each with the rows of one setup that lie together.
pub fn runs_of(
    rows: &[ResultRow],
    file_name: &str,
    instrument: Instrument,
    site: SiteId,
) -> Vec<ImportedRun> {
    let mut rows: Vec<&ResultRow> = rows.iter().filter(|row| row.new_signal || row.new_speeds).collect();
    rows.sort_by_key(|row| (row.setup_id, row.at));
    let together = |a: &&ResultRow, b: &&ResultRow| a.setup_id == b.setup_id && b.at - a.at <= ONE_RUN;
    rows.chunk_by(together).map(|rows| run_of(rows, file_name, instrument, site)).collect()
}

fn run_of(rows: &[&ResultRow], file_name: &str, instrument: Instrument, site: SiteId) -> ImportedRun {
    let (first, last) = (rows[0], rows[rows.len() - 1]);
    let begins = if first.new_speeds { first.test_id(site.0) } else { first.sample_id(site.0) };
    let id = RunId(Uuid::new_v5(&begins, b"run"));
    let samples = samples_of(rows, id, site);
    let new_speeds = rows.iter().filter(|row| row.new_speeds);
    let tests: Vec<SpeedTest> = new_speeds.map(|row| test_of(row, id, site)).collect();
    let run = Run {
        id,
        setup_id: first.setup_id,
        source: Source::Typed,
        started_at: first.at,
        ended_at: Some(last.at),
        completion: Completion::Complete,
        reason: None,
        planned_samples: samples.len() as u32,
        planned_speed_tests: tests.len() as u32,
        refresh_period_s: None,
        conditions: Conditions { instrument, notes: notes(rows, file_name), ..Conditions::default() },
        context: RunContext::Log,
        archived_at: None,
    };
    ImportedRun { run, samples, tests }
}

/// Where it comes from, and every note once.
fn notes(rows: &[&ResultRow], file_name: &str) -> String {
    let mut notes = vec![format!("From {file_name}")];
    for row in rows {
        if !row.notes.is_empty() && !notes.contains(&row.notes) {
            notes.push(row.notes.clone());
        }
    }
    notes.join("; ").chars().take(LONGEST_NOTES).collect()
}

/// Carriers of one instant are one reading.
fn samples_of(rows: &[&ResultRow], run_id: RunId, site: SiteId) -> Vec<Sample> {
    let heard: Vec<&ResultRow> = rows.iter().copied().filter(|row| row.new_signal).collect();
    let sample = |rows: &[&ResultRow]| {
        let mut carriers: Vec<Carrier> = rows.iter().filter_map(|row| carrier(row)).collect();
        carriers.iter_mut().for_each(flag_oddities);
        Sample {
            id: SampleId(rows[0].sample_id(site.0)),
            run_id,
            taken_at: rows[0].at,
            activity: Activity::Unknown,
            reading: Reading { mode: ConnectionMode::Unknown, carriers, neighbours: Vec::new() },
        }
    };
    heard.chunk_by(|a, b| a.at == b.at).map(sample).collect()
}

fn carrier(row: &ResultRow) -> Option<Carrier> {
    let band = row.band?;
    Some(Carrier {
        band: Some(band.band),
        pci: row.pci,
        rsrp_dbm: row.rsrp_dbm,
        rsrq_db: row.rsrq_db,
        sinr_db: row.sinr_db,
        ..Carrier::empty(band.technology, CarrierRole::Unknown)
    })
}

fn test_of(row: &ResultRow, run_id: RunId, site: SiteId) -> SpeedTest {
    SpeedTest {
        id: SpeedTestId(row.test_id(site.0)),
        run_id,
        sitting_id: None,
        started_at: row.at,
        source: Source::Typed,
        completion: Completion::Complete,
        reason: None,
        server: row.server.clone(),
        surroundings: None,
        figures: SpeedFigures {
            download_mbps: row.download_mbps,
            upload_mbps: row.upload_mbps,
            idle_latency_ms: row.idle_latency_ms,
            average_of: row.average_of,
            ..SpeedFigures::default()
        },
    }
}
