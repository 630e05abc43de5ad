//! Sound kits out of the built-in catalogue, and a site to try them at.

use open_beacon_core::hardware::catalogue::{Catalogue, built_in};
use open_beacon_core::kit::scenario::{Scenario, Today};
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::{Facts, Observation};
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::landscape::AntennaLocation;
use open_beacon_core::model::*;
use open_beacon_core::terrain::Ground;

pub fn catalogue() -> Catalogue {
    Catalogue::of(built_in())
}

/// The built-in part whose name begins like this.
pub fn part(name: &str) -> PartId {
    built_in().iter().find(|part| part.name.starts_with(name)).unwrap_or_else(|| panic!("no {name}")).id
}

pub fn placed(name: &str, length_m: Option<f64>) -> ChainPart {
    ChainPart { part_id: part(name), length_m, turned: false, outdoors: false }
}

pub fn lte(band: u16) -> BandName {
    BandName { technology: Technology::Lte, band }
}

pub fn nr(band: u16) -> BandName {
    BandName { technology: Technology::Nr, band }
}

/// Four-port gateway, wide panel with two leads of N sockets, 10 m of 400-class, arrestor, adapter.
pub fn sound() -> KitSpec {
    KitSpec {
        gateway: Some(part("Vinkel 5 Pro")),
        antenna: Some(part("Rive log-periodic")),
        antenna_count: 1,
        leads: 2,
        chain: vec![
            placed("400-class line, N plug to N plug", Some(10.0)),
            placed("Gas arrestor, N socket to N socket", None),
            // Its N plug meets the arrestor's socket, its SMA plug the gateway's.
            ChainPart { turned: true, ..placed("Adapter, SMA socket to N plug", None) },
            placed("Adapter, SMA plug to SMA plug", None),
        ],
        mount: Some(part("Gable bracket")),
        passage: Passage::Hole { diameter_mm: 40.0 },
        ..KitSpec::default()
    }
}

/// A carrier heard indoors at 1.5 m.
pub fn heard(band: BandName, width: f64, rsrp_dbm: f64, sinr_db: f64, role: CarrierRole) -> Carrier {
    let mut carrier = Carrier::empty(band.technology, role);
    carrier.band = Some(band.band);
    carrier.bandwidth_mhz = Some(width);
    carrier.rsrp_dbm = Some(rsrp_dbm);
    carrier.sinr_db = Some(sinr_db);
    carrier
}

/// A house with a gateway on its own antennas in its kitchen.
#[derive(Clone, Debug)]
pub struct House {
    pub carriers: Vec<Carrier>,
    pub settings: SiteSettings,
    pub measured_down_mbps: Option<f64>,
    pub measured_up_mbps: Option<f64>,
}

/// Where the gateway stands.
pub const KITCHEN: AntennaLocation = AntennaLocation {
    place: None,
    height_m: 1.5,
    mount: Mount::Indoor,
    position: Some(PositionId(uuid::Uuid::from_u128(71))),
};

impl House {
    /// Its air. A test's house lives as long as the test runs.
    pub fn environment(&self) -> &'static Environment<'static> {
        let settings: &'static SiteSettings = Box::leak(Box::new(self.settings.clone()));
        let ground: &'static Ground = Box::leak(Box::new(Ground::new(Vec::new())));
        let observation = Observation {
            spot: "Kitchen".into(),
            location: KITCHEN,
            antenna: AimAntenna::Stock,
            aim: None,
            turned: false,
            carriers: self.carriers.clone(),
            mode: ConnectionMode::Nsa,
            lock: BandChoice::default(),
            samples: 20,
            download_mbps: self.measured_down_mbps,
            upload_mbps: self.measured_up_mbps,
        };
        let observations = if self.carriers.is_empty() { Vec::new() } else { vec![observation] };
        let mode = ConnectionMode::Nsa;
        let (masts, obstacles) = (&[][..], &[][..]);
        let facts = Facts { masts, obstacles, ground, settings, house: None, observations, mode };
        Box::leak(Box::new(Environment::new(facts)))
    }

    /// The house as kits are judged at it: outside, they go on the wall at the settings' height.
    pub fn scenario(&self) -> Scenario<'static> {
        let reference = AntennaLocation {
            height_m: self.settings.kit.height_m,
            mount: Mount::Wall,
            position: None,
            ..KITCHEN
        };
        let today = Today {
            spot: "Kitchen".into(),
            location: KITCHEN,
            measured_down_mbps: self.measured_down_mbps,
            measured_up_mbps: self.measured_up_mbps,
        };
        Scenario::new(self.environment(), Some(today), reference)
    }
}

pub fn house(carriers: Vec<Carrier>) -> House {
    House { carriers, settings: SiteSettings::default(), measured_down_mbps: None, measured_up_mbps: None }
}

/// A weak, noise-limited anchor and a wide NR carrier.
pub fn weak() -> House {
    house(vec![
        heard(nr(78), 80.0, -112.0, 3.0, CarrierRole::Primary),
        heard(lte(3), 20.0, -110.0, 4.0, CarrierRole::Anchor),
    ])
}
