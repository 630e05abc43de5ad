//! What else was different between two setups' runs: reasons to doubt a comparison.

use super::evidence::{SetupEvidence, cell_of};
use super::{CellName, Finding, HourSpan};
use crate::bands::band_name;
use crate::model::{Activity, Attach, Carrier, Instrument, Source};
use chrono::{Timelike, Utc};
use std::collections::BTreeSet;

/// Lists time of day, serving cells, bands, traffic, source, server and attachment where they differ.
pub(super) fn what_else_differed(
    setup: &SetupEvidence,
    baseline: &SetupEvidence,
    zone: chrono_tz::Tz,
) -> Vec<Finding> {
    let mut findings = Vec::new();
    if let (Some(a), Some(b)) = (hours(setup, zone), hours(baseline, zone))
        && (a.last < b.first || b.last < a.first)
    {
        findings.push(Finding::HoursDiffer { setup: a, baseline: b });
    }
    let (cells_a, cells_b) = (cells(setup), cells(baseline));
    if !cells_a.is_empty() && !cells_b.is_empty() && cells_a.is_disjoint(&cells_b) {
        findings.push(Finding::ServingCellDiffers {
            setup: cells_a.into_iter().collect(),
            baseline: cells_b.into_iter().collect(),
        });
    }
    let (bands_a, bands_b) = (bands(setup), bands(baseline));
    if !bands_a.is_empty() && !bands_b.is_empty() && bands_a != bands_b {
        findings.push(Finding::BandsDiffer {
            only_setup: bands_a.difference(&bands_b).cloned().collect(),
            only_baseline: bands_b.difference(&bands_a).cloned().collect(),
        });
    }
    let (traffic_a, traffic_b) = (traffic(setup), traffic(baseline));
    if !traffic_a.is_empty() && !traffic_b.is_empty() && traffic_a.is_disjoint(&traffic_b) {
        findings.push(Finding::ActivityDiffers {
            setup: traffic_a.into_iter().collect(),
            baseline: traffic_b.into_iter().collect(),
        });
    }
    let (read_a, read_b) = (instruments(setup), instruments(baseline));
    if !read_a.is_empty() && !read_b.is_empty() && read_a != read_b {
        findings.push(Finding::InstrumentDiffers {
            setup: read_a.into_iter().collect(),
            baseline: read_b.into_iter().collect(),
        });
    }
    let (sources_a, sources_b) = (sources(setup), sources(baseline));
    if sources_a != sources_b && !setup.tests.is_empty() && !baseline.tests.is_empty() {
        findings.push(Finding::SourceDiffers { setup: sources_a, baseline: sources_b });
    }
    let (servers_a, servers_b) = (servers(setup), servers(baseline));
    if !servers_a.is_empty() && !servers_b.is_empty() && servers_a != servers_b {
        findings.push(Finding::ServerDiffers {
            setup: servers_a.into_iter().collect(),
            baseline: servers_b.into_iter().collect(),
        });
    }
    if attach(setup) != attach(baseline) {
        findings.push(Finding::AttachDiffers);
    }
    findings
}

fn hours(evidence: &SetupEvidence, zone: chrono_tz::Tz) -> Option<HourSpan> {
    let hour = |at: chrono::DateTime<Utc>| at.with_timezone(&zone).hour() as u8;
    let all = evidence.tests.iter().map(|test| hour(test.started_at));
    Some(HourSpan { first: all.clone().min()?, last: all.max()? })
}

fn carriers(evidence: &SetupEvidence) -> impl Iterator<Item = &Carrier> {
    evidence.radio.iter().flat_map(|(_, heard)| &heard.carriers).map(|one| &one.carrier)
}

fn cells(evidence: &SetupEvidence) -> BTreeSet<CellName> {
    carriers(evidence).filter(|carrier| carrier.pci.is_some()).map(cell_of).collect()
}

fn bands(evidence: &SetupEvidence) -> BTreeSet<String> {
    carriers(evidence).filter_map(|carrier| Some(band_name(carrier.technology, carrier.band?))).collect()
}

fn traffic(evidence: &SetupEvidence) -> BTreeSet<Activity> {
    let modes = evidence.radio.iter().flat_map(|(_, heard)| &heard.modes);
    modes.filter(|one| one.samples > 0).map(|one| one.activity).collect()
}

fn instruments(evidence: &SetupEvidence) -> BTreeSet<Instrument> {
    evidence.runs.iter().map(|run| run.conditions.instrument).collect()
}

fn sources(evidence: &SetupEvidence) -> Vec<Source> {
    [Source::Live, Source::Typed]
        .into_iter()
        .filter(|source| evidence.tests.iter().any(|test| test.source == *source))
        .collect()
}

fn servers(evidence: &SetupEvidence) -> BTreeSet<String> {
    evidence.tests.iter().map(|test| test.server.clone()).filter(|server| !server.is_empty()).collect()
}

fn attach(evidence: &SetupEvidence) -> BTreeSet<u8> {
    evidence
        .runs
        .iter()
        .map(|run| match run.conditions.attach {
            Attach::KeptAttached => 0,
            Attach::RestartedToRescan => 1,
            Attach::NotRecorded => 2,
        })
        .collect()
}
