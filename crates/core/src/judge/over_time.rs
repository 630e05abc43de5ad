//! What one setup's record says of change over time.

use super::evidence::SetupEvidence;
use crate::link::over_time::OverTime;
use crate::model::{Completion, Instrument, RunId, SpeedFigure};
use chrono::Timelike;
use std::collections::BTreeMap;

/// Visits are at least this far apart, s.
const APART_S: i64 = 3600;

/// Power of each cell at each visit, and downloads by the hour of the day in `zone`: what the gateway heard and carried on one setup.
pub fn over_time(evidence: &SetupEvidence, zone: chrono_tz::Tz) -> OverTime {
    let by_gateway = |id: RunId| {
        evidence.runs.iter().find(|run| run.id == id && run.conditions.instrument == Instrument::Gateway)
    };
    let mut cells: BTreeMap<_, Vec<(i64, f64)>> = BTreeMap::new();
    for (run, heard) in evidence.radio.iter().filter_map(|(id, heard)| Some((by_gateway(*id)?, heard))) {
        let at = run.started_at.timestamp();
        for one in &heard.carriers {
            let Some(rsrp_dbm) = one.typical().rsrp_dbm else { continue };
            let carrier = &one.carrier;
            let key = (carrier.technology, carrier.channel, carrier.pci, one.activity);
            let visits = cells.entry(key).or_default();
            if visits.iter().all(|(before, _)| (at - before).abs() >= APART_S) {
                visits.push((at, rsrp_dbm));
            }
        }
    }
    let visits_dbm = cells.into_values().map(|visits| visits.into_iter().map(|(_, dbm)| dbm).collect());
    let downloads = evidence
        .tests
        .iter()
        .filter(|test| test.completion == Completion::Complete && by_gateway(test.run_id).is_some())
        .filter_map(|test| {
            let at = test.started_at.with_timezone(&zone);
            let hour = f64::from(at.num_seconds_from_midnight()) / 3600.0;
            Some((hour, SpeedFigure::Download.of(&test.figures)?))
        });
    OverTime { visits_dbm: visits_dbm.collect(), downloads: downloads.collect() }
}
