//! Samples in short: what summaries and comparisons need of them, so that a long record is not read again for every page.

use super::evidence::{CarrierSummary, RadioSummary, cell_of, serving};
use super::{CellName, Finding};
use crate::bands::carrier_frequency_mhz;
use crate::metrics::{Metric, class_of_carrier};
use crate::model::{
    Activity, Carrier, CarrierRole, ChannelKind, ConnectionMode, FlagKind, RunId, Sample, Technology,
};
use crate::stats::Counted;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// One carrier under one kind of traffic.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(from = "Packed", into = "Packed")]
pub struct CarrierDigest {
    /// Traffic on the line meanwhile.
    pub activity: Activity,
    /// As it was heard last, without its measured values, and with the newest cell identity and timing advance heard of it.
    pub carrier: Carrier,
    /// Samples in which it was heard.
    pub samples: usize,
    /// Values heard, in the order of [`Metric::ALL`].
    pub values: [Counted; 4],
    /// Samples with a value outside the reporting range, in the order of [`Metric::ALL`].
    pub outside_range: [usize; 4],
}

/// How many samples had one kind of traffic and one way of bundling carriers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct ModeCount {
    /// Traffic on the line meanwhile.
    pub activity: Activity,
    /// How carriers are bundled.
    pub mode: ConnectionMode,
    /// Samples.
    pub samples: usize,
}

/// Changes of the serving cell within runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct CellChanges {
    /// The first one.
    pub from: CellName,
    /// What it changed to.
    pub to: CellName,
    /// Samples of its run before it.
    pub after_samples: usize,
    /// How many there were.
    pub changes: usize,
}

/// A list of samples in short. Digests of several runs are put together without loss.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct RadioDigest {
    /// Samples by traffic and bundling.
    pub modes: Vec<ModeCount>,
    /// Samples in which NR was heard.
    pub with_nr: usize,
    /// Changes of the serving cell.
    pub cell_changes: Option<CellChanges>,
    /// By traffic, technology, band, channel and cell; like is kept with like.
    pub carriers: Vec<CarrierDigest>,
}

/// Digests of a setup's runs, taken one after the other. Of a very long record neighbours in time are put together, so that it is never in
/// memory whole: runs then go by the first of their neighbours.
#[derive(Clone, Debug)]
pub struct RadioFold {
    kept: Vec<(RunId, RadioDigest)>,
    /// Runs that one kept digest is of.
    together: usize,
    /// Runs that the last kept digest is of.
    in_last: usize,
}

/// Digests kept apart. A run an hour for a month is not put together.
const MOST_APART: usize = 1024;

impl Default for RadioFold {
    fn default() -> Self {
        Self { kept: Vec::new(), together: 1, in_last: 0 }
    }
}

impl RadioFold {
    /// Adds the next run in order of time.
    pub fn add(&mut self, run: RunId, next: RadioDigest) {
        if let Some((_, last)) = self.kept.last_mut()
            && self.in_last < self.together
        {
            *last = RadioDigest::merged([&*last, &next]);
            self.in_last += 1;
            return;
        }
        if self.kept.len() == MOST_APART {
            let pair = |pair: &[(RunId, RadioDigest)]| {
                (pair[0].0, RadioDigest::merged(pair.iter().map(|(_, one)| one)))
            };
            self.kept = self.kept.chunks(2).map(pair).collect();
            self.together *= 2;
        }
        self.kept.push((run, next));
        self.in_last = 1;
    }

    /// All of them in order of time.
    pub fn done(self) -> Vec<(RunId, RadioDigest)> {
        self.kept
    }
}

type Group = (Activity, Technology, Option<u16>, Option<u32>, Option<u16>);

fn group(activity: Activity, carrier: &Carrier) -> Group {
    (activity, carrier.technology, carrier.band, carrier.channel, carrier.pci)
}

impl RadioDigest {
    /// Digest of samples in order of time, of one run or of several.
    pub fn of<'a>(samples: impl IntoIterator<Item = &'a Sample> + Clone) -> Self {
        let mut modes = Vec::new();
        let mut groups: BTreeMap<Group, Vec<&Carrier>> = BTreeMap::new();
        let mut with_nr = 0;
        for sample in samples.clone() {
            add_mode(
                &mut modes,
                ModeCount { activity: sample.activity, mode: sample.reading.mode, samples: 1 },
            );
            let carriers = &sample.reading.carriers;
            with_nr += usize::from(carriers.iter().any(|carrier| carrier.technology == Technology::Nr));
            for carrier in carriers {
                groups.entry(group(sample.activity, carrier)).or_default().push(carrier);
            }
        }
        let carriers =
            groups.iter().map(|((activity, ..), heard)| digest_carrier(*activity, heard)).collect();
        Self { modes, with_nr, cell_changes: cell_changes(samples), carriers }
    }

    /// Several digests as one. `parts` are in order of time.
    pub fn merged<'a>(parts: impl IntoIterator<Item = &'a RadioDigest>) -> Self {
        let mut whole = Self::default();
        let mut groups: BTreeMap<Group, Vec<&CarrierDigest>> = BTreeMap::new();
        for part in parts {
            for mode in &part.modes {
                add_mode(&mut whole.modes, *mode);
            }
            whole.with_nr += part.with_nr;
            whole.cell_changes = match (whole.cell_changes, part.cell_changes) {
                (Some(first), Some(more)) => {
                    Some(CellChanges { changes: first.changes + more.changes, ..first })
                }
                (first, more) => first.or(more),
            };
            for one in &part.carriers {
                groups.entry(group(one.activity, &one.carrier)).or_default().push(one);
            }
        }
        whole.carriers = groups.values().map(|parts| merge_carrier(parts)).collect();
        whole
    }

    /// Only what was heard under one kind of traffic. Changes of the cell and how often NR was heard are not told apart by
    /// traffic and are left out.
    pub fn under(&self, activity: Activity) -> Self {
        Self {
            modes: self.modes.iter().filter(|one| one.activity == activity).copied().collect(),
            carriers: self.carriers.iter().filter(|one| one.activity == activity).cloned().collect(),
            with_nr: 0,
            cell_changes: None,
        }
    }

    /// Number of samples.
    pub fn samples(&self) -> usize {
        self.modes.iter().map(|one| one.samples).sum()
    }

    /// A summary a carrier and kind of traffic, and what is odd about the samples.
    pub fn summary(&self) -> RadioSummary {
        let samples = self.samples();
        let mut carriers: Vec<CarrierSummary> = self.carriers.iter().map(CarrierDigest::summary).collect();
        carriers.sort_by_key(|carrier| (carrier.activity, carrier.role, carrier.cell, carrier.channel));
        let mut findings = Vec::new();
        findings.extend(self.cell_changes.map(|CellChanges { from, to, after_samples, changes }| {
            Finding::CellChanged { from, to, after_samples, changes }
        }));
        if self.with_nr > 0 && self.with_nr < samples {
            findings.push(Finding::NrCameAndWent { heard: self.with_nr, of: samples });
        }
        findings.extend(self.carriers.iter().flat_map(CarrierDigest::outside_range));
        RadioSummary { samples, carriers, findings }
    }
}

fn add_mode(modes: &mut Vec<ModeCount>, more: ModeCount) {
    match modes.iter_mut().find(|one| (one.activity, one.mode) == (more.activity, more.mode)) {
        Some(one) => one.samples += more.samples,
        None => modes.push(more),
    }
}

fn digest_carrier(activity: Activity, heard: &[&Carrier]) -> CarrierDigest {
    let outside = |metric: Metric| {
        let odd = |carrier: &&&Carrier| {
            let flags = &carrier.flags;
            flags.iter().any(|flag| flag.metric == metric && flag.kind == FlagKind::OutsideReportingRange)
        };
        heard.iter().filter(odd).count()
    };
    let last = heard[heard.len() - 1];
    let mut carrier = Carrier::empty(last.technology, last.role);
    (carrier.band, carrier.channel, carrier.channel_kind) = (last.band, last.channel, last.channel_kind);
    (carrier.bandwidth_mhz, carrier.pci) = (last.bandwidth_mhz, last.pci);
    carrier.cell_identity = heard.iter().rev().find_map(|one| one.cell_identity);
    carrier.timing_advance = heard.iter().rev().find_map(|one| one.timing_advance);
    CarrierDigest {
        activity,
        carrier,
        samples: heard.len(),
        values: Metric::ALL.map(|metric| Counted::of(heard.iter().filter_map(|one| one.value(metric)))),
        outside_range: Metric::ALL.map(outside),
    }
}

fn merge_carrier(parts: &[&CarrierDigest]) -> CarrierDigest {
    let mut whole = parts[parts.len() - 1].clone();
    whole.carrier.cell_identity = parts.iter().rev().find_map(|one| one.carrier.cell_identity);
    whole.carrier.timing_advance = parts.iter().rev().find_map(|one| one.carrier.timing_advance);
    whole.samples = parts.iter().map(|one| one.samples).sum();
    whole.values = std::array::from_fn(|metric| Counted::merged(parts.iter().map(|one| &one.values[metric])));
    whole.outside_range =
        std::array::from_fn(|metric| parts.iter().map(|one| one.outside_range[metric]).sum());
    whole
}

impl CarrierDigest {
    /// The carrier with the medians of what was heard of it.
    pub fn typical(&self) -> Carrier {
        let [rsrp_dbm, rsrq_db, sinr_db, rssi_dbm] =
            std::array::from_fn(|at| self.values[at].summary().map(|summary| summary.median));
        Carrier { rsrp_dbm, rsrq_db, sinr_db, rssi_dbm, ..self.carrier.clone() }
    }

    /// Medians and spreads.
    fn summary(&self) -> CarrierSummary {
        let [rsrp_dbm, rsrq_db, sinr_db, rssi_dbm] = std::array::from_fn(|at| self.values[at].summary());
        CarrierSummary {
            cell: cell_of(&self.carrier),
            role: self.carrier.role,
            activity: self.activity,
            channel: self.carrier.channel,
            bandwidth_mhz: self.carrier.bandwidth_mhz,
            frequency_mhz: carrier_frequency_mhz(&self.carrier),
            samples: self.samples,
            rsrp_dbm,
            rsrq_db,
            sinr_db,
            rssi_dbm,
            class: class_of_carrier(&self.typical()),
        }
    }

    fn outside_range(&self) -> impl Iterator<Item = Finding> {
        let cell = cell_of(&self.carrier);
        Metric::ALL
            .into_iter()
            .zip(self.outside_range)
            .filter(|(_, samples)| *samples > 0)
            .map(move |(metric, samples)| Finding::OutsideRange { cell, metric, samples })
    }
}

fn cell_changes<'a>(samples: impl IntoIterator<Item = &'a Sample>) -> Option<CellChanges> {
    let mut found: Option<CellChanges> = None;
    let mut before: Option<(RunId, CellName)> = None;
    let mut since = 0;
    for sample in samples {
        let Some(to) = serving(sample).map(cell_of) else { continue };
        if let Some((run, from)) = before
            && run == sample.run_id
        {
            since += 1;
            if from != to {
                let first = found.get_or_insert(CellChanges { from, to, after_samples: since, changes: 0 });
                first.changes += 1;
            }
        } else {
            since = 0;
        }
        before = Some((sample.run_id, to));
    }
    found
}

/// A [`CarrierDigest`] as it is kept: a list without names, for there are many of them and they are read at every comparison.
#[derive(Serialize, Deserialize)]
struct Packed(
    Activity,
    Technology,
    CarrierRole,
    Option<u16>,
    Option<u32>,
    ChannelKind,
    Option<f64>,
    Option<u16>,
    Option<u64>,
    Option<u16>,
    usize,
    [Counted; 4],
    [usize; 4],
);

impl From<CarrierDigest> for Packed {
    fn from(digest: CarrierDigest) -> Self {
        let CarrierDigest { activity, carrier: heard, samples, values, outside_range } = digest;
        Self(
            activity,
            heard.technology,
            heard.role,
            heard.band,
            heard.channel,
            heard.channel_kind,
            heard.bandwidth_mhz,
            heard.pci,
            heard.cell_identity,
            heard.timing_advance,
            samples,
            values,
            outside_range,
        )
    }
}

impl From<Packed> for CarrierDigest {
    fn from(packed: Packed) -> Self {
        let Packed(activity, technology, role, band, channel, channel_kind, bandwidth_mhz, ..) = packed;
        let Packed(.., pci, cell_identity, timing_advance, samples, values, outside_range) = packed;
        let heard = Carrier::empty(technology, role);
        let carrier = Carrier {
            band,
            channel,
            channel_kind,
            bandwidth_mhz,
            pci,
            cell_identity,
            timing_advance,
            ..heard
        };
        Self { activity, carrier, samples, values, outside_range }
    }
}
