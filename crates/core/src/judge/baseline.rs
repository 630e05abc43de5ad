//! The Baseline stage as a whole: spots, networks side by side, and the go or no-go.

use super::go::{Answer, GoNoGo, go_no_go};
use super::spot::SpotView;
use super::{Finding, NextAction};
use crate::bands::band_name;
use crate::capacity::Estimate;
use crate::geo::turn_deg;
use crate::link::environment::Environment;
use crate::link::landscape::AntennaLocation;
use crate::metrics::Class;
use crate::model::{Instrument, KnownMast};
use crate::stats::FEWEST_TESTS;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// One operator's network by its best spot.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NetworkRow {
    /// Blank: the operator in use where it has no name.
    pub network: String,
    /// Whether it is the one in use.
    pub in_use: bool,
    /// Number of spots.
    pub spots: usize,
    /// All bands heard on it.
    pub bands: Vec<String>,
    /// Name of the best spot.
    pub best_spot: String,
    /// What read it.
    pub instrument: Instrument,
    /// How good it is.
    pub class: Option<Class>,
    /// Possible download on an empty cell, Mbit/s.
    pub possible_down_mbps: Option<Estimate>,
    /// Possible upload on an empty cell, Mbit/s.
    pub possible_up_mbps: Option<Estimate>,
    /// Medians of what was measured at that spot, Mbit/s.
    pub download_mbps: Option<f64>,
    /// Upload, Mbit/s.
    pub upload_mbps: Option<f64>,
}

/// Everything the Baseline stage shows.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Baseline {
    /// The network that spots and verdict are of.
    pub network: String,
    /// How each spot faces the known mast.
    pub facing: Vec<Finding>,
    /// Networks, one an entry.
    pub networks: Vec<NetworkRow>,
    /// What stands out between networks.
    pub network_findings: Vec<Finding>,
    /// Of the chosen network, in order of the positions.
    pub spots: Vec<SpotView>,
    /// What it comes to.
    pub verdict: GoNoGo,
    /// The next sensible action.
    pub next: NextAction,
}

/// Puts the stage together. `spots`: how many there are, with readings or without; `views`: of the gateway's own antennas, all
/// networks; `outside`: where an outdoor antenna would be. `network`: which one to show; the one in use if not said or not known.
pub fn baseline(
    spots: usize,
    views: Vec<SpotView>,
    network: Option<&str>,
    env: &Environment,
    outside: AntennaLocation,
) -> Baseline {
    let settings = env.settings;
    let in_use = settings.network.as_str();
    let known: BTreeSet<&str> = views.iter().map(|view| view.network.as_str()).collect();
    let chosen = network.filter(|name| known.contains(name)).unwrap_or(in_use).to_owned();
    let networks: Vec<NetworkRow> = known.iter().map(|name| row(name, in_use, &views)).collect();
    let network_findings = same_spot_comparison(&views).into_iter().collect();
    let own: Vec<SpotView> = views.into_iter().filter(|view| view.network == chosen).collect();
    let verdict = go_no_go(&own, env, outside);
    let facing = settings.known_mast.iter().flat_map(|mast| faces(mast, &own)).collect();
    let next = next_action(spots, &own, &verdict);
    Baseline { network: chosen, facing, networks, network_findings, spots: own, verdict, next }
}

fn faces(mast: &KnownMast, own: &[SpotView]) -> Vec<Finding> {
    let mut seen = BTreeSet::new();
    own.iter()
        .filter(|view| seen.insert(view.position_id))
        .filter_map(|view| {
            Some(Finding::FacesMast {
                spot: view.name.clone(),
                mast: mast.name.clone(),
                off_deg: turn_deg(view.facing_deg?, mast.bearing_deg).abs(),
            })
        })
        .collect()
}

fn next_action(spots: usize, own: &[SpotView], verdict: &GoNoGo) -> NextAction {
    if spots == 0 {
        return NextAction::AddSetup;
    }
    let from = own.iter().find(|view| Some(view.setup_id) == verdict.from_setup);
    match from {
        None => NextAction::Record,
        Some(view) if view.tests < FEWEST_TESTS => NextAction::SpeedTest { tests: FEWEST_TESTS - view.tests },
        Some(_) if verdict.answer == Answer::Measure => NextAction::Record,
        Some(_) => NextAction::Nothing,
    }
}

fn likely_down(view: &SpotView) -> f64 {
    view.possible.down_mbps.map_or(0.0, |range| range.likely)
}

fn row(network: &str, in_use: &str, views: &[SpotView]) -> NetworkRow {
    let own: Vec<&SpotView> = views.iter().filter(|view| view.network == network).collect();
    let best = own.iter().max_by(|a, b| likely_down(a).total_cmp(&likely_down(b)));
    let bands: BTreeSet<String> = own
        .iter()
        .flat_map(|view| &view.carriers)
        .filter_map(|one| Some(band_name(one.cell.technology, one.cell.band?)))
        .collect();
    NetworkRow {
        network: network.to_owned(),
        in_use: network == in_use,
        spots: own.len(),
        bands: bands.into_iter().collect(),
        best_spot: best.map(|view| view.name.clone()).unwrap_or_default(),
        instrument: best.map_or(Instrument::Gateway, |view| view.instrument),
        class: best
            .and_then(|view| view.carriers.iter().filter_map(|one| one.class).map(|class| class.class).max()),
        possible_down_mbps: best.and_then(|view| view.possible.down_mbps),
        possible_up_mbps: best.and_then(|view| view.possible.up_mbps),
        download_mbps: best.and_then(|view| SpotView::typical(&view.download)),
        upload_mbps: best.and_then(|view| SpotView::typical(&view.upload)),
    }
}

/// The two best networks at one spot; readings of different spots are never compared.
fn same_spot_comparison(views: &[SpotView]) -> Option<Finding> {
    let mut best: Option<(f64, Finding)> = None;
    for here in views {
        for there in views {
            let same_spot = here.position_id == there.position_id;
            let alike = here.instrument == there.instrument;
            let (a, b) = (likely_down(here), likely_down(there));
            if !same_spot || here.network == there.network || a <= b || b <= 0.0 {
                continue;
            }
            if best.as_ref().is_none_or(|(most, _)| a > *most) {
                let sure = match (here.possible.down_mbps, there.possible.down_mbps) {
                    (Some(a), Some(b)) => alike && a.low > b.high,
                    _ => false,
                };
                let finding = Finding::NetworkCompare {
                    better: here.network.clone(),
                    other: there.network.clone(),
                    spot: here.name.clone(),
                    ratio: a / b,
                    alike,
                    sure,
                };
                best = Some((a, finding));
            }
        }
    }
    best.map(|(_, finding)| finding)
}
