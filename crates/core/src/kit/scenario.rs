//! A house as kits are judged at it: its environment, what stands there today, and where a kit would go.

use super::finding::KitFinding;
use super::need::need;
use crate::link::antenna::AimAntenna;
use crate::link::cells::{LinkCell, Origin, SILL_M};
use crate::link::environment::Environment;
use crate::link::landscape::{AntennaLocation, WhatIf, same_channel};
use crate::link::predict::{LinkPrediction, LinkSetup, predict};
use crate::link::received::Received;
use crate::model::{BandName, Mount, OutdoorKind, SiteSettings};

/// What stands at the house today: the gateway on its own antennas where speeds stand for the house.
#[derive(Clone, Debug, PartialEq)]
pub struct Today {
    /// The spot.
    pub spot: String,
    /// Where the antenna is.
    pub location: AntennaLocation,
    /// Geometric means over sittings, Mbit/s.
    pub measured_down_mbps: Option<f64>,
    /// Measured upload, Mbit/s.
    pub measured_up_mbps: Option<f64>,
}

/// Everything that judging a kit needs of the site.
#[derive(Clone, Debug)]
pub struct Scenario<'a> {
    /// The radio environment of the house.
    pub env: &'a Environment<'a>,
    /// What stands today.
    pub today: Option<Today>,
    /// Where a kit goes that says no position.
    pub reference: AntennaLocation,
    /// Cells that kits are judged by, places in the environment's, the widest first.
    pub cells: Vec<usize>,
    /// Expected of what stands there today, Mbit/s.
    pub today_down_mbps: Option<f64>,
    /// Upload today, Mbit/s.
    pub today_up_mbps: Option<f64>,
    /// Each cell as it is received there today; those that are.
    received_today: Vec<(usize, Received)>,
}

impl<'a> Scenario<'a> {
    /// Puts environment and places together.
    pub fn new(env: &'a Environment<'a>, today: Option<Today>, reference: AntennaLocation) -> Self {
        let mut made = Self {
            env,
            today,
            reference,
            cells: Vec::new(),
            today_down_mbps: None,
            today_up_mbps: None,
            received_today: Vec::new(),
        };
        let stands = made.stock_location();
        let now = predict(env, &LinkSetup::new(stands, AimAntenna::Stock));
        let panel = env.settings.outdoor.kinds.iter().find(|one| one.kind == OutdoorKind::Panel);
        let outside =
            panel.and_then(|kind| predict(env, &LinkSetup::new(reference, AimAntenna::Assumed(kind))));
        // The cells of the mast that serves best outside; of what serves today, and of what was heard at all, the bands that it
        // has not got.
        let of = |found: &Option<LinkPrediction>| -> Vec<usize> {
            found.iter().flat_map(|one| &one.carriers).map(|one| one.cell).collect()
        };
        let heard =
            (0..env.cells.len()).filter(|cell| matches!(env.cells[*cell].origin, Origin::Heard { .. }));
        for more in [of(&outside), of(&now), heard.collect()] {
            let had: Vec<BandName> = made.cells.iter().map(|cell| env.cells[*cell].band).collect();
            let mut own: Vec<usize> = Vec::new();
            for cell in more {
                let carrier = &env.cells[cell].carrier;
                let twice = own.iter().any(|other| same_channel(&env.cells[*other].carrier, carrier));
                if !twice && !had.contains(&env.cells[cell].band) {
                    own.push(cell);
                }
            }
            made.cells.extend(own);
        }
        let width = |cell: &usize| env.cells[*cell].carrier.bandwidth_mhz.unwrap_or(0.0);
        made.cells.sort_by(|a, b| width(b).total_cmp(&width(a)));
        let arriving = env.arriving(&stands, &AimAntenna::Stock, WhatIf::default());
        let noise_figure_db = crate::metrics::NOISE_FIGURE_DB;
        for cell in &made.cells {
            let here = env.received(*cell, &stands, &arriving, &AimAntenna::Stock, None, noise_figure_db);
            made.received_today.extend(here.map(|here| (*cell, here)));
        }
        made.today_down_mbps = now.as_ref().and_then(|one| one.down_mbps).map(|range| range.likely);
        made.today_up_mbps = now.as_ref().and_then(|one| one.up_mbps).map(|range| range.likely);
        made
    }

    /// The site's settings.
    pub fn settings(&self) -> &'a SiteSettings {
        self.env.settings
    }

    /// Cells that kits are judged by, the widest first.
    pub fn listed(&self) -> impl Iterator<Item = &'a LinkCell> {
        self.cells.iter().map(|cell| &self.env.cells[*cell])
    }

    /// Where a gateway on its own antennas stands that says no position: where it stands today, else on a sill.
    pub fn stock_location(&self) -> AntennaLocation {
        self.today
            .as_ref()
            .map_or(AntennaLocation { height_m: SILL_M, mount: Mount::Indoor, ..self.reference }, |today| {
                today.location
            })
    }

    /// A cell as it is received today.
    pub fn received_today(&self, cell: usize) -> Option<&Received> {
        self.received_today.iter().find(|(at, _)| *at == cell).map(|(_, received)| received)
    }

    /// Said where what was measured today meets the household's need.
    pub fn met_today(&self) -> Option<KitFinding> {
        let today = self.today.as_ref()?;
        let (down_mbps, up_mbps) = (today.measured_down_mbps?, today.measured_up_mbps?);
        let need = need(&self.settings().kit.uses);
        (down_mbps >= need.down_mbps && up_mbps >= need.up_mbps).then(|| KitFinding::MetToday {
            spot: today.spot.clone(),
            down_mbps,
            up_mbps,
        })
    }
}
