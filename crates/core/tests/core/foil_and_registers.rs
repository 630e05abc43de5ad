//! A house whose walls are not what is assumed, and one valley as two registers list it.

use crate::kits::{heard, lte};
use crate::link::observed;
use crate::survey::{cell, ground_by, mast, panel, position, radio};
use open_beacon_core::capacity::Estimate;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::{Facts, Observation};
use open_beacon_core::link::environment::{Arriving, Environment};
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::link::route::PathLoss;
use open_beacon_core::link::walls::wall_loss_db;
use open_beacon_core::model::*;
use open_beacon_core::survey::rank::{Choice, Question};
use open_beacon_core::survey::ranking::rank;
use uuid::Uuid;

const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };

fn location(number: u128, mount: Mount, height_m: f64) -> AntennaLocation {
    let position = Some(PositionId(Uuid::from_u128(number)));
    AntennaLocation { place: Some(HOUSE), height_m, mount, position }
}

/// A reading behind the wall that is 15 dB weaker than foretold moves the roof's middle by the covariance of the two over the reading's
/// variance, times 15 dB: reckoned here from the spreads as `link::field` states them. Path over ground: 10 dB, of it a fifth all masts',
/// 0.3 the mast's, a fifth the cell's, 0.3 shadowing that falls off over 50 m; two fifths of what the ground takes; 0.31 of what the last
/// metres take; the wall's own; 1.5 dB of an antenna of which no data sheet is known; 1 dB of a careful reading.
#[test]
fn a_weak_reading_behind_a_wall_moves_the_roof_by_what_the_spreads_imply() {
    let ground = ground_by(|east, _| 400.0 + 15.0 * (east / 900.0).sin());
    let mut settings = SiteSettings::default();
    settings.outdoor.building = Some(Building::Traditional);
    // Its sectors are not known: 3.05 dB, all the mast's.
    let masts = [mast(1, "Ridge", 0.0, 3000.0, vec![cell(3, 1300, 1)])];
    let (inside, roof) = (location(1, Mount::Indoor, 1.0), location(2, Mount::Pole, 7.0));
    let at = |env: &Environment, place: &AntennaLocation| -> Arriving {
        env.arriving(place, &AimAntenna::Stock, WhatIf::default()).remove(0)
    };
    let before = radio(&masts, &[], &ground, &settings);
    let (there, here) = (at(&before, &roof), at(&before, &inside));
    let stock_dbi = AimAntenna::Stock.net_gain_dbi(before.cells[0].frequency_mhz, &settings).unwrap();
    let weak_dbm = here.power_dbm.mean + stock_dbi - 15.0;
    let mut carrier = heard(lte(3), 20.0, weak_dbm, 8.0, CarrierRole::Primary);
    (carrier.channel, carrier.pci) = (Some(1300), Some(1));
    let reading = Observation { mode: ConnectionMode::Lte, ..observed(inside, vec![carrier], None) };
    let after = Environment::new(Facts {
        masts: &masts,
        obstacles: &[],
        ground: &ground,
        settings: &settings,
        house: Some(HOUSE),
        observations: vec![reading],
        mode: ConnectionMode::Lte,
    });
    let [own, other] = [&here, &there].map(|one| one.loss.as_ref().unwrap());
    let in_the_way = |loss: &PathLoss| 0.4 * loss.ground_db;
    let near = (-(7.0 - 1.0) / 50.0f64).exp();
    let of = |one: &PathLoss, two: &PathLoss, near: f64| {
        20.0 + 30.0
            + 3.05f64.powi(2)
            + 20.0
            + 30.0 * near
            + in_the_way(one) * in_the_way(two)
            + 0.31f64.powi(2) * one.near_ground_db * two.near_ground_db
    };
    let wall = wall_loss_db(Mount::Indoor, &settings, before.cells[0].frequency_mhz);
    let antenna_db = AimAntenna::Stock.gain_spread_db();
    let variance = of(own, own, 1.0) + wall.spread.powi(2) + antenna_db.powi(2) + 1.0;
    let covariance = of(own, other, near) + antenna_db.powi(2);
    let expected_db = -15.0 * covariance / variance;
    let moved_db = at(&after, &roof).power_dbm.mean - there.power_dbm.mean;
    assert!((moved_db - expected_db).abs() < 0.1, "{moved_db} against {expected_db}");
    assert!((-12.0..-4.0).contains(&moved_db), "part of it is the wall's: {moved_db}");
}

/// One valley twice: with sectors, channels and loads, and as a bare list of masts and bands. The winner is the same; of the bare one less
/// is promised for sure.
#[test]
fn a_bare_register_has_the_same_winner_and_wider_ranges() {
    let ground = ground_by(|east, north| {
        400.0 + 60.0 * (-((north - 900.0) / 250.0f64).powi(2)).exp() * f64::from(u8::from(east < 600.0))
    });
    let settings = SiteSettings::default();
    let sector = |band, channel, pci, bearing_deg| MastCell {
        bearing_deg: Some(bearing_deg),
        load: Some(0.4),
        power_dbm: Some(15.0),
        ..cell(band, channel, pci)
    };
    // Each mast has a sector that looks at the house, and one that looks away.
    let mast_of = |number: u128, name: &str, bearing_deg: f64, away_m: f64| {
        let (to, pci) = ((bearing_deg + 180.0) % 360.0, 10 * number as u16);
        let cells = vec![
            sector(3, 1575, pci, to),
            sector(3, 1575, pci + 1, bearing_deg),
            sector(20, 6300, pci, to),
            sector(20, 6300, pci + 1, bearing_deg),
        ];
        mast(number, name, bearing_deg, away_m, cells)
    };
    let full = [mast_of(1, "Behind the hill", 0.0, 2500.0), mast_of(2, "Across the lake", 110.0, 4000.0)];
    let bare = full.clone().map(|one| {
        let listed = |of: &MastCell| MastCell {
            channel: None,
            pci: None,
            node: None,
            local_cell: None,
            bearing_deg: None,
            load: None,
            bandwidth_mhz: None,
            ..of.clone()
        };
        let cells = vec![listed(&one.cells[0]), listed(&one.cells[2])];
        Mast { cells, ..one }
    });
    let positions = [
        position(1, "Gable", Mount::Gable, HOUSE, 5.0),
        position(2, "Shed", Mount::Wall, crate::survey::at(61.4203, 8.2003), 2.5),
    ];
    let best = |masts: &[Mast]| -> Choice {
        let env = radio(masts, &[], &ground, &settings);
        rank(&env, &Question { positions: &positions, antenna: panel(&settings) }).choices.remove(0)
    };
    let (full, bare) = (best(&full), best(&bare));
    assert_eq!((&full.mast, &full.position), (&bare.mast, &bare.position));
    assert_eq!(full.mast, "Across the lake");
    let width = |range: Estimate| range.high - range.low;
    let ln = |range: Estimate| range.map(|mbps| mbps.max(0.01).ln());
    assert!(width(ln(bare.down_mbps)) > width(ln(full.down_mbps)), "{bare:?} against {full:?}");
    assert!(bare.down_mbps.likely < full.down_mbps.likely, "being sparse makes no mast better");
    for band in &full.bands {
        let same = bare.bands.iter().find(|one| one.band == band.band).unwrap();
        assert!(width(same.rsrp_dbm) > width(band.rsrp_dbm), "{same:?} against {band:?}");
    }
}
