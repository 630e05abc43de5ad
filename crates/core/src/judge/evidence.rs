//! A setup's samples and tests, and what its samples say in short.

use super::{CellName, Finding, RadioDigest};
use crate::metrics::{CarrierClass, Metric};
use crate::model::{Activity, Carrier, CarrierRole, Run, RunId, Sample, SetupId, SpeedTest};
use crate::stats::Summary;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// Everything recorded on one setup.
#[derive(Clone, Debug, PartialEq)]
pub struct SetupEvidence {
    /// The setup.
    pub setup_id: SetupId,
    /// The setup's name as the user knows it.
    pub label: String,
    /// In order of time.
    pub runs: Vec<Run>,
    /// What was heard in each run, in short; in order of time.
    pub radio: Vec<(RunId, RadioDigest)>,
    /// In order of time.
    pub tests: Vec<SpeedTest>,
}

impl SetupEvidence {
    /// Only the runs on one network: those that name it, and those that name none, which are of the one in use.
    pub fn of_network(mut self, in_use: &str) -> Self {
        self.runs.retain(|run| run.conditions.is_of(in_use));
        let kept: BTreeSet<RunId> = self.runs.iter().map(|run| run.id).collect();
        self.radio.retain(|(run, _)| kept.contains(run));
        self.tests.retain(|test| kept.contains(&test.run_id));
        self
    }

    /// Puts samples in the place of what was heard. `samples` are in order of time.
    pub fn heard(&mut self, samples: &[Sample]) {
        let mut runs: Vec<RunId> = Vec::new();
        for sample in samples {
            if !runs.contains(&sample.run_id) {
                runs.push(sample.run_id);
            }
        }
        let of = |run: RunId| RadioDigest::of(samples.iter().filter(move |sample| sample.run_id == run));
        self.radio = runs.into_iter().map(|run| (run, of(run))).collect();
    }

    /// What was heard in all runs.
    pub fn whole_radio(&self) -> RadioDigest {
        RadioDigest::merged(self.radio.iter().map(|(_, heard)| heard))
    }

    /// Whether any sample was taken.
    pub fn has_samples(&self) -> bool {
        self.radio.iter().any(|(_, heard)| heard.samples() > 0)
    }
}

/// Medians and spreads of one carrier under one kind of traffic.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CarrierSummary {
    /// The cell.
    pub cell: CellName,
    /// Role in the connection.
    pub role: CarrierRole,
    /// Traffic on the line meanwhile.
    pub activity: Activity,
    /// EARFCN or NR-ARFCN of the downlink.
    pub channel: Option<u32>,
    /// Channel bandwidth, MHz.
    pub bandwidth_mhz: Option<f64>,
    /// Downlink frequency by the channel number, MHz.
    pub frequency_mhz: Option<f64>,
    /// Samples in which the carrier was heard.
    pub samples: usize,
    /// Reference signal received power, dBm.
    pub rsrp_dbm: Option<Summary>,
    /// Reference signal received quality, dB.
    pub rsrq_db: Option<Summary>,
    /// Signal to interference and noise ratio, dB.
    pub sinr_db: Option<Summary>,
    /// Received signal strength, dBm.
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
    /// Samples.
    pub samples: usize,
    /// Carriers, one an entry.
    pub carriers: Vec<CarrierSummary>,
    /// What is odd or worth saying.
    pub findings: Vec<Finding>,
}

/// The user's name of a carrier's cell.
pub(super) fn cell_of(carrier: &Carrier) -> CellName {
    CellName { technology: carrier.technology, band: carrier.band, pci: carrier.pci }
}

/// The cell that holds the connection: the anchor, else the primary, else the first carrier.
pub(super) fn serving(sample: &Sample) -> Option<&Carrier> {
    let carriers = &sample.reading.carriers;
    let with_role = |role| carriers.iter().find(|carrier| carrier.role == role);
    with_role(CarrierRole::Anchor).or_else(|| with_role(CarrierRole::Primary)).or_else(|| carriers.first())
}

/// What samples say, in order of time: a summary a carrier and kind of traffic; like is kept with like.
pub fn summarise_samples(samples: &[Sample]) -> RadioSummary {
    RadioDigest::of(samples).summary()
}
