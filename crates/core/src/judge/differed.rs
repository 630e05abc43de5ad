//! What else was different between two setups' runs: reasons to doubt a comparison.

use super::evidence::{SetupEvidence, cell_of};
use super::{CellName, Finding, HourSpan, RadioDigest};
use crate::bands::band_name;
use crate::model::{Activity, Attach, Instrument, InterfaceKind, Source};
use chrono::{DateTime, Timelike, Utc};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// Under what a setup was measured, as far as it may explain a difference.
#[derive(Clone, Debug)]
pub(super) struct Circumstances {
    hours: Option<HourSpan>,
    /// When its first and its last test began.
    pub(super) tested: Option<Tested>,
    weather: BTreeSet<String>,
    cells: BTreeSet<CellName>,
    bands: BTreeSet<String>,
    traffic: BTreeSet<Activity>,
    instruments: BTreeSet<Instrument>,
    sources: Vec<Source>,
    servers: BTreeSet<String>,
    interfaces: BTreeSet<InterfaceKind>,
    /// Whether tests went over IPv6, each answer that occurs.
    over_v6: BTreeSet<bool>,
    attach: BTreeSet<u8>,
}

impl Circumstances {
    /// `heard` is what was heard in all its runs; `zone` tells the hours of the day.
    pub(super) fn of(evidence: &SetupEvidence, heard: &RadioDigest, zone: chrono_tz::Tz) -> Self {
        let carriers = || heard.carriers.iter().map(|one| &one.carrier);
        Self {
            hours: hours(evidence, zone),
            tested: Tested::of(evidence),
            weather: weather(evidence),
            cells: carriers().filter(|carrier| carrier.pci.is_some()).map(cell_of).collect(),
            bands: carriers()
                .filter_map(|carrier| Some((carrier.technology, carrier.band?)))
                .map(|(technology, band)| band_name(technology, band))
                .collect(),
            traffic: heard.modes.iter().filter(|one| one.samples > 0).map(|one| one.activity).collect(),
            instruments: evidence.runs.iter().map(|run| run.conditions.instrument).collect(),
            sources: sources(evidence),
            servers: servers(evidence),
            interfaces: interfaces(evidence),
            over_v6: over_v6(evidence),
            attach: attach(evidence),
        }
    }
}

/// Lists time of day, date, weather, serving cells, bands, traffic, source, server, interface and attachment where they differ.
pub(super) fn what_else_differed(setup: &Circumstances, baseline: &Circumstances) -> Vec<Finding> {
    let mut findings = Vec::new();
    if let (Some(setup), Some(baseline)) = (setup.hours, baseline.hours)
        && (setup.last < baseline.first || baseline.last < setup.first)
    {
        findings.push(Finding::HoursDiffer { setup, baseline });
    }
    if let Some(weeks) = setup.tested.zip(baseline.tested).and_then(|(a, b)| a.weeks_from(b)) {
        findings.push(Finding::WeeksApart { weeks });
    }
    let (weather_a, weather_b) = (&setup.weather, &baseline.weather);
    if !weather_a.is_empty() && !weather_b.is_empty() && weather_a.is_disjoint(weather_b) {
        findings.push(Finding::WeatherDiffers { setup: listed(weather_a), baseline: listed(weather_b) });
    }
    let (cells_a, cells_b) = (&setup.cells, &baseline.cells);
    if !cells_a.is_empty() && !cells_b.is_empty() && cells_a.is_disjoint(cells_b) {
        findings.push(Finding::ServingCellDiffers { setup: listed(cells_a), baseline: listed(cells_b) });
    }
    let (bands_a, bands_b) = (&setup.bands, &baseline.bands);
    if !bands_a.is_empty() && !bands_b.is_empty() && bands_a != bands_b {
        findings.push(Finding::BandsDiffer {
            only_setup: bands_a.difference(bands_b).cloned().collect(),
            only_baseline: bands_b.difference(bands_a).cloned().collect(),
        });
    }
    let (traffic_a, traffic_b) = (&setup.traffic, &baseline.traffic);
    if !traffic_a.is_empty() && !traffic_b.is_empty() && traffic_a.is_disjoint(traffic_b) {
        findings.push(Finding::ActivityDiffers { setup: listed(traffic_a), baseline: listed(traffic_b) });
    }
    let (read_a, read_b) = (&setup.instruments, &baseline.instruments);
    if !read_a.is_empty() && !read_b.is_empty() && read_a != read_b {
        findings.push(Finding::InstrumentDiffers { setup: listed(read_a), baseline: listed(read_b) });
    }
    let (sources_a, sources_b) = (&setup.sources, &baseline.sources);
    if !sources_a.is_empty() && !sources_b.is_empty() && sources_a != sources_b {
        findings.push(Finding::SourceDiffers { setup: sources_a.clone(), baseline: sources_b.clone() });
    }
    let (servers_a, servers_b) = (&setup.servers, &baseline.servers);
    if !servers_a.is_empty() && !servers_b.is_empty() && servers_a != servers_b {
        findings.push(Finding::ServerDiffers { setup: listed(servers_a), baseline: listed(servers_b) });
    }
    let (over_a, over_b) = (&setup.interfaces, &baseline.interfaces);
    if !over_a.is_empty() && !over_b.is_empty() && over_a != over_b {
        findings.push(Finding::InterfaceDiffers { setup: listed(over_a), baseline: listed(over_b) });
    }
    if let (Some(setup_v6), false) = (setup.over_v6.first(), baseline.over_v6.is_empty())
        && setup.over_v6.is_disjoint(&baseline.over_v6)
    {
        findings.push(Finding::AddressVersionDiffers { setup_v6: *setup_v6 });
    }
    if setup.attach != baseline.attach {
        findings.push(Finding::AttachDiffers);
    }
    findings
}

/// From a setup's first test to its last.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tested {
    /// When the first began.
    pub from: DateTime<Utc>,
    /// When the last began.
    pub to: DateTime<Utc>,
}

/// Tests this far apart are of other times of the year, weeks (common practice, no source).
const WEEKS_THAT_MATTER: i64 = 2;

impl Tested {
    fn of(evidence: &SetupEvidence) -> Option<Self> {
        let times = || evidence.tests.iter().map(|test| test.started_at);
        Some(Self { from: times().min()?, to: times().max()? })
    }

    /// Whether a moment lies after all tests of one and before all of the other.
    pub fn is_between(at: DateTime<Utc>, one: Self, other: Self) -> bool {
        let (before, after) = if one.from <= other.from { (one, other) } else { (other, one) };
        before.to < at && at < after.from
    }

    /// Whole weeks between the last test of the earlier and the first of the later; none where that is little.
    fn weeks_from(self, other: Self) -> Option<u32> {
        let gap = (self.from - other.to).max(other.from - self.to).num_weeks();
        (gap >= WEEKS_THAT_MATTER).then_some(gap as u32)
    }
}

/// What was noted of the weather, in small letters.
fn weather(evidence: &SetupEvidence) -> BTreeSet<String> {
    let noted = evidence.runs.iter().map(|run| run.conditions.weather.trim().to_lowercase());
    noted.filter(|text| !text.is_empty()).collect()
}

fn listed<T: Clone>(all: &BTreeSet<T>) -> Vec<T> {
    all.iter().cloned().collect()
}

fn hours(evidence: &SetupEvidence, zone: chrono_tz::Tz) -> Option<HourSpan> {
    let hour = |at: chrono::DateTime<Utc>| at.with_timezone(&zone).hour() as u8;
    // Tests of the same quarter of an hour are in the same hour, in every zone in use.
    let quarters: BTreeSet<i64> =
        evidence.tests.iter().map(|test| test.started_at.timestamp().div_euclid(900)).collect();
    let starts = quarters.iter().filter_map(|quarter| chrono::DateTime::from_timestamp(quarter * 900, 0));
    let hours: BTreeSet<u8> = starts.map(hour).collect();
    Some(HourSpan { first: *hours.first()?, last: *hours.last()? })
}

fn sources(evidence: &SetupEvidence) -> Vec<Source> {
    [Source::Live, Source::Typed]
        .into_iter()
        .filter(|source| evidence.tests.iter().any(|test| test.source == *source))
        .collect()
}

fn servers(evidence: &SetupEvidence) -> BTreeSet<String> {
    let named: BTreeSet<&str> = evidence.tests.iter().map(|test| test.server.as_str()).collect();
    named.into_iter().filter(|server| !server.is_empty()).map(str::to_owned).collect()
}

fn interfaces(evidence: &SetupEvidence) -> BTreeSet<InterfaceKind> {
    let around = evidence.tests.iter().filter_map(|test| test.surroundings.as_ref());
    around.filter_map(|around| Some(around.interface.as_ref()?.kind)).collect()
}

fn over_v6(evidence: &SetupEvidence) -> BTreeSet<bool> {
    let around = evidence.tests.iter().filter_map(|test| test.surroundings.as_ref());
    around.filter_map(|around| Some(around.server_address.as_ref()?.contains(':'))).collect()
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
