//! A setup's samples and tests, and what its samples say in short.

use super::{CellName, Finding};
use crate::bands::carrier_frequency_mhz;
use crate::metrics::{CarrierClass, Metric, class_of_carrier};
use crate::model::{
    Activity, Carrier, CarrierRole, FlagKind, Run, RunId, Sample, SetupId, SpeedTest, Technology,
};
use crate::stats::{Summary, summarise};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet};

/// Everything recorded on one setup.
#[derive(Clone, Debug, PartialEq)]
pub struct SetupEvidence {
    pub setup_id: SetupId,
    /// The setup's name as the user knows it.
    pub label: String,
    pub runs: Vec<Run>,
    /// In order of time.
    pub samples: Vec<Sample>,
    /// In order of time.
    pub tests: Vec<SpeedTest>,
}

impl SetupEvidence {
    /// Only the runs on one network: those that name it, and those that name none, which are of the one in use.
    pub fn of_network(mut self, in_use: &str) -> Self {
        self.runs.retain(|run| run.conditions.network.is_empty() || run.conditions.network == in_use);
        let kept: BTreeSet<RunId> = self.runs.iter().map(|run| run.id).collect();
        self.samples.retain(|sample| kept.contains(&sample.run_id));
        self.tests.retain(|test| kept.contains(&test.run_id));
        self
    }
}

/// Medians and spreads of one carrier under one kind of traffic.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CarrierSummary {
    pub cell: CellName,
    pub role: CarrierRole,
    pub activity: Activity,
    pub channel: Option<u32>,
    pub bandwidth_mhz: Option<f64>,
    /// Downlink frequency by the channel number, MHz.
    pub frequency_mhz: Option<f64>,
    /// Samples in which the carrier was heard.
    pub samples: usize,
    pub rsrp_dbm: Option<Summary>,
    pub rsrq_db: Option<Summary>,
    pub sinr_db: Option<Summary>,
    pub rssi_dbm: Option<Summary>,
    /// Class of the medians.
    pub class: Option<CarrierClass>,
}

impl CarrierSummary {
    /// Summary of one metric.
    pub fn of(&self, metric: Metric) -> Option<Summary> {
        match metric {
            Metric::Rsrp => self.rsrp_dbm,
            Metric::Rsrq => self.rsrq_db,
            Metric::Sinr => self.sinr_db,
            Metric::Rssi => self.rssi_dbm,
        }
    }
}

/// What a list of samples says: a summary a carrier and kind of traffic, and what is odd about them.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct RadioSummary {
    pub samples: usize,
    pub carriers: Vec<CarrierSummary>,
    pub findings: Vec<Finding>,
}

/// The user's name of a carrier's cell.
pub(super) fn cell_of(carrier: &Carrier) -> CellName {
    CellName { technology: carrier.technology, band: carrier.band, pci: carrier.pci }
}

/// The cell that holds the connection: the anchor, else the primary, else the first carrier.
fn serving(sample: &Sample) -> Option<&Carrier> {
    let carriers = &sample.reading.carriers;
    let with_role = |role| carriers.iter().find(|carrier| carrier.role == role);
    with_role(CarrierRole::Anchor).or_else(|| with_role(CarrierRole::Primary)).or_else(|| carriers.first())
}

type Group = (Activity, Technology, Option<u16>, Option<u32>, Option<u16>);

/// Groups samples by traffic, carrier and cell and summarises each group; like is kept with like.
pub fn summarise_samples(samples: &[Sample]) -> RadioSummary {
    let mut groups: BTreeMap<Group, Vec<&Carrier>> = BTreeMap::new();
    for sample in samples {
        for carrier in &sample.reading.carriers {
            let key = (sample.activity, carrier.technology, carrier.band, carrier.channel, carrier.pci);
            groups.entry(key).or_default().push(carrier);
        }
    }
    let mut carriers: Vec<CarrierSummary> =
        groups.iter().map(|((activity, ..), heard)| summarise_carrier(*activity, heard)).collect();
    carriers.sort_by_key(|carrier| (carrier.activity, carrier.role, carrier.cell, carrier.channel));
    let mut findings = Vec::new();
    findings.extend(cell_changes(samples));
    findings.extend(nr_came_and_went(samples));
    findings.extend(outside_range(&groups));
    RadioSummary { samples: samples.len(), carriers, findings }
}

fn summarise_carrier(activity: Activity, heard: &[&Carrier]) -> CarrierSummary {
    let of = |metric| {
        let values: Vec<f64> = heard.iter().filter_map(|carrier| carrier.value(metric)).collect();
        summarise(&values)
    };
    let last = heard[heard.len() - 1];
    let mut typical = last.clone();
    typical.flags.clear();
    typical.rsrp_dbm = of(Metric::Rsrp).map(|summary| summary.median);
    typical.rsrq_db = of(Metric::Rsrq).map(|summary| summary.median);
    typical.sinr_db = of(Metric::Sinr).map(|summary| summary.median);
    typical.rssi_dbm = of(Metric::Rssi).map(|summary| summary.median);
    CarrierSummary {
        cell: cell_of(last),
        role: last.role,
        activity,
        channel: last.channel,
        bandwidth_mhz: last.bandwidth_mhz,
        frequency_mhz: carrier_frequency_mhz(last),
        samples: heard.len(),
        rsrp_dbm: of(Metric::Rsrp),
        rsrq_db: of(Metric::Rsrq),
        sinr_db: of(Metric::Sinr),
        rssi_dbm: of(Metric::Rssi),
        class: class_of_carrier(&typical),
    }
}

fn cell_changes(samples: &[Sample]) -> Vec<Finding> {
    let mut changes = Vec::new();
    let mut before: Option<(&Sample, CellName)> = None;
    let mut since = 0;
    for sample in samples {
        let Some(now) = serving(sample).map(cell_of) else { continue };
        if let Some((last, from)) = before
            && last.run_id == sample.run_id
        {
            since += 1;
            if from != now {
                changes.push(Finding::CellChanged { from, to: now, after_samples: since });
            }
        } else {
            since = 0;
        }
        before = Some((sample, now));
    }
    changes
}

fn nr_came_and_went(samples: &[Sample]) -> Option<Finding> {
    let heard = samples
        .iter()
        .filter(|sample| sample.reading.carriers.iter().any(|carrier| carrier.technology == Technology::Nr))
        .count();
    (heard > 0 && heard < samples.len()).then_some(Finding::NrCameAndWent { heard, of: samples.len() })
}

fn outside_range(groups: &BTreeMap<Group, Vec<&Carrier>>) -> Vec<Finding> {
    let mut findings = Vec::new();
    for heard in groups.values() {
        for metric in Metric::ALL {
            let samples = heard
                .iter()
                .filter(|carrier| {
                    carrier
                        .flags
                        .iter()
                        .any(|flag| flag.metric == metric && flag.kind == FlagKind::OutsideReportingRange)
                })
                .count();
            if samples > 0 {
                findings.push(Finding::OutsideRange { cell: cell_of(heard[0]), metric, samples });
            }
        }
    }
    findings
}
