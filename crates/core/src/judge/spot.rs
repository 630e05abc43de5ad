//! One spot in the house on one network: what was heard there, what it could carry, what was measured.

use super::RadioDigest;
use super::compare::{FigureRow, figure_row};
use super::evidence::{SetupEvidence, cell_of};
use super::explain::{ExplainedCarrier, explain};
use crate::bands::usual_widths_of;
use crate::capacity::Estimate;
use crate::capacity::possible::{AchievableRate, measured_share, possible};
use crate::metrics::flag_oddities;
use crate::model::{
    Activity, Carrier, ConnectionMode, Instrument, LinkAssumptions, Mount, Position, PositionId, SetupId,
    SpeedFigure,
};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A position with everything recorded on its setup on stock antennas.
#[derive(Clone, Debug, PartialEq)]
pub struct SpotEvidence {
    /// The position.
    pub position: Position,
    /// What it rests on.
    pub evidence: SetupEvidence,
}

/// What one spot says on one network.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SpotView {
    /// The position.
    pub position_id: PositionId,
    /// The setup.
    pub setup_id: SetupId,
    /// The position's name.
    pub name: String,
    /// Floor, room and window in short.
    pub place: String,
    /// Bearing it faces, degrees.
    pub facing_deg: Option<f64>,
    /// What it stands on.
    pub mount: Mount,
    /// As the user calls the operator; empty for the one in use.
    pub network: String,
    /// What read it.
    pub instrument: Instrument,
    /// Samples.
    pub samples: usize,
    /// Speed tests.
    pub tests: usize,
    /// How carriers are bundled.
    pub mode: ConnectionMode,
    /// Medians of each carrier, the widest first.
    pub carriers: Vec<ExplainedCarrier>,
    /// Possible on an empty cell.
    pub possible: AchievableRate,
    /// Download.
    pub download: FigureRow,
    /// Upload.
    pub upload: FigureRow,
    /// Latency on an idle line.
    pub idle_latency: FigureRow,
    /// Measured download over possible download.
    pub download_share: Option<Estimate>,
    /// Measured upload over possible upload.
    pub upload_share: Option<Estimate>,
}

impl SpotView {
    /// A figure's geometric mean over sittings, if it was measured.
    pub fn typical(row: &FigureRow) -> Option<f64> {
        row.geometric_mean
    }

    /// The carrier that moves the most bits, by width.
    pub fn widest(&self) -> Option<&ExplainedCarrier> {
        self.carriers.first()
    }
}

/// Splits a spot's runs by network and instrument and sums each up. `in_use` names the network whose runs say
/// nothing of theirs.
pub fn spot_views(spot: &SpotEvidence, in_use: &str, assumed: &LinkAssumptions) -> Vec<SpotView> {
    let mut groups: BTreeMap<(String, Instrument), SetupEvidence> = BTreeMap::new();
    let name_of = |network: &str| if network.is_empty() { in_use.to_owned() } else { network.to_owned() };
    for run in &spot.evidence.runs {
        let key = (name_of(&run.conditions.network), run.conditions.instrument);
        let part = groups.entry(key).or_insert_with(|| SetupEvidence {
            runs: Vec::new(),
            radio: Vec::new(),
            tests: Vec::new(),
            setup_id: spot.evidence.setup_id,
            label: spot.evidence.label.clone(),
        });
        part.runs.push(run.clone());
        part.radio.extend(spot.evidence.radio.iter().filter(|(id, _)| *id == run.id).cloned());
        part.tests.extend(spot.evidence.tests.iter().filter(|test| test.run_id == run.id).cloned());
    }
    groups
        .into_iter()
        .map(|((network, instrument), part)| view(&spot.position, network, instrument, &part, assumed))
        .collect()
}

fn view(
    position: &Position,
    network: String,
    instrument: Instrument,
    evidence: &SetupEvidence,
    assumed: &LinkAssumptions,
) -> SpotView {
    let heard = best_traffic(&evidence.whole_radio());
    let mode = commonest_mode(&heard);
    let mut carriers = typical_carriers(&heard);
    let width = |carrier: &Carrier| {
        carrier.bandwidth_mhz.or_else(|| Some(usual_widths_of(carrier)?.likely_mhz)).unwrap_or(0.0)
    };
    carriers.sort_by(|a, b| width(b).total_cmp(&width(a)));
    let possible = possible(&carriers, mode, assumed);
    let explained =
        carriers.iter().zip(&possible.carriers).map(|(carrier, rates)| explain(carrier, *rates)).collect();
    let download = figure_row(evidence, SpeedFigure::Download);
    let upload = figure_row(evidence, SpeedFigure::Upload);
    SpotView {
        position_id: position.id,
        setup_id: evidence.setup_id,
        name: position.name.clone(),
        place: place_words(position),
        facing_deg: position.spot.facing_deg,
        mount: position.mount,
        network,
        instrument,
        samples: heard.samples(),
        tests: download.tests.max(upload.tests),
        mode,
        carriers: explained,
        download_share: measured_share(SpotView::typical(&download), possible.down_mbps),
        upload_share: measured_share(SpotView::typical(&upload), possible.up_mbps),
        idle_latency: figure_row(evidence, SpeedFigure::IdleLatency),
        possible,
        download,
        upload,
    }
}

fn place_words(position: &Position) -> String {
    let spot = &position.spot;
    let window = if spot.window.is_empty() { String::new() } else { format!("by {}", spot.window) };
    let parts = [spot.floor.clone(), spot.room.clone(), window];
    parts.into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(", ")
}

/// What was heard under the kind of traffic that shows most: with a trickle, else under load, else as typed, else idle
/// (which misses NR).
fn best_traffic(radio: &RadioDigest) -> RadioDigest {
    [Activity::Trickle, Activity::Loaded, Activity::Unknown, Activity::Idle]
        .into_iter()
        .map(|wanted| radio.under(wanted))
        .find(|found| found.samples() > 0)
        .unwrap_or_default()
}

fn commonest_mode(heard: &RadioDigest) -> ConnectionMode {
    use ConnectionMode::{Lte, NoService, Nsa, Sa, Unknown};
    let count = |mode: &ConnectionMode| -> usize {
        heard.modes.iter().filter(|one| one.mode == *mode).map(|one| one.samples).sum()
    };
    [Unknown, NoService, Lte, Nsa, Sa].into_iter().max_by_key(count).unwrap_or(Unknown)
}

/// Medians of every carrier that was heard in at least a third of the samples.
fn typical_carriers(heard: &RadioDigest) -> Vec<Carrier> {
    let enough = heard.samples().div_ceil(3);
    let mut often: Vec<_> = heard.carriers.iter().filter(|one| one.samples >= enough).collect();
    often.sort_by_key(|one| (one.carrier.role, cell_of(&one.carrier), one.carrier.channel));
    often
        .into_iter()
        .map(|one| {
            let mut carrier = one.typical();
            flag_oddities(&mut carrier);
            carrier
        })
        .collect()
}
