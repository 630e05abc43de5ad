//! Sound kits out of the built-in catalogue, and a site to try them at.

use open_beacon_core::capacity::Ranged;
use open_beacon_core::hardware::catalogue::{Catalogue, built_in};
use open_beacon_core::kit::scene::{Origin, Scene, SceneCarrier};
use open_beacon_core::model::*;

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
pub fn heard(band: BandName, width: f64, rsrp_dbm: f64, sinr_db: f64, role: CarrierRole) -> SceneCarrier {
    let place = open_beacon_core::bands::band_place(band.technology, band.band).unwrap();
    let middle = |span: open_beacon_core::bands::FrequencySpan| f64::midpoint(span.low_mhz, span.high_mhz);
    let mut carrier = Carrier::empty(band.technology, role);
    carrier.band = Some(band.band);
    carrier.bandwidth_mhz = Some(width);
    carrier.rsrp_dbm = Some(rsrp_dbm);
    carrier.sinr_db = Some(sinr_db);
    let frequency_mhz = place.downlink.map(middle).unwrap();
    SceneCarrier {
        carrier,
        band,
        frequency_mhz,
        uplink_mhz: place.uplink.map_or(frequency_mhz, middle),
        origin: Origin::Heard { spot: "Kitchen".into(), mount: Mount::Indoor, height_m: None },
        heard_gain_dbi: 1.0,
        path_doubt_db: Ranged::exactly(0.0),
    }
}

pub fn scene(carriers: Vec<SceneCarrier>) -> Scene {
    Scene {
        carriers,
        mode: ConnectionMode::Nsa,
        base_spot: Some("Kitchen".into()),
        base_down_mbps: None,
        base_up_mbps: None,
        measured_down_mbps: None,
        measured_up_mbps: None,
        settings: SiteSettings::default(),
    }
}

/// A weak, noise-limited anchor and a wide NR carrier.
pub fn weak() -> Scene {
    scene(vec![
        heard(nr(78), 80.0, -112.0, 3.0, CarrierRole::Primary),
        heard(lte(3), 20.0, -110.0, 4.0, CarrierRole::Anchor),
    ])
}
