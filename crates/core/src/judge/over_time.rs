//! What one setup's record says of change over time.

use super::evidence::SetupEvidence;
use crate::link::over_time::OverTime;
use crate::metrics::Metric;
use crate::model::{Activity, Carrier, Completion, Instrument, Run, RunId, SpeedFigure, Technology};
use crate::stats::UsualScatter;
use chrono::Timelike;
use std::collections::BTreeMap;

/// Visits are at least this far apart, s.
const APART_S: i64 = 3600;

/// A cell under one kind of traffic: technology, band, channel and PCI. One PCI is often used on several bands of a mast, and not every
/// page names the channel.
pub type HeardCell = (Technology, Option<u16>, Option<u32>, Option<u16>, Activity);

fn by_gateway(evidence: &SetupEvidence, id: RunId) -> Option<&Run> {
    evidence.runs.iter().find(|run| run.id == id && run.conditions.instrument == Instrument::Gateway)
}

/// How metrics scatter from visit to visit at one setup where few visits tell (common practice, no source); SINR and RSRQ follow the load
/// of the cells as well.
pub(crate) fn usual_scatter(metric: Metric) -> UsualScatter {
    let spread = match metric {
        Metric::Rsrp | Metric::Rssi | Metric::Rsrq => 2.0,
        Metric::Sinr => 3.0,
    };
    UsualScatter { spread, visits: 5.0 }
}

/// What the gateway heard of each cell on one setup, visit by visit: seconds since 1970 and the medians of what was heard then. Runs
/// less than an hour apart are one visit, of which the first counts.
pub fn visits(evidence: &SetupEvidence) -> BTreeMap<HeardCell, Vec<(i64, Carrier)>> {
    let mut cells: BTreeMap<HeardCell, Vec<(i64, Carrier)>> = BTreeMap::new();
    let heard = evidence.radio.iter().filter_map(|(id, heard)| Some((by_gateway(evidence, *id)?, heard)));
    for (run, heard) in heard {
        let at = run.started_at.timestamp();
        for one in &heard.carriers {
            let carrier = one.typical();
            let key = (carrier.technology, carrier.band, carrier.channel, carrier.pci, one.activity);
            let visits = cells.entry(key).or_default();
            if carrier.rsrp_dbm.is_some() && visits.iter().all(|(before, _)| (at - before).abs() >= APART_S) {
                visits.push((at, carrier));
            }
        }
    }
    cells
}

/// Power of each cell at each visit, and downloads by the hour of the day in `zone`: what the gateway heard and carried on one setup.
pub fn over_time(evidence: &SetupEvidence, zone: chrono_tz::Tz) -> OverTime {
    let power = |visits: Vec<(i64, Carrier)>| visits.iter().filter_map(|(_, one)| one.rsrp_dbm).collect();
    let visits_dbm = visits(evidence).into_values().map(power);
    let downloads = evidence
        .tests
        .iter()
        .filter(|test| test.completion == Completion::Complete && by_gateway(evidence, test.run_id).is_some())
        .filter_map(|test| {
            let at = test.started_at.with_timezone(&zone);
            let hour = f64::from(at.num_seconds_from_midnight()) / 3600.0;
            Some((hour, SpeedFigure::Download.of(&test.figures)?))
        });
    OverTime { visits_dbm: visits_dbm.collect(), downloads: downloads.collect() }
}
