//! Prints how long a prediction takes against its targets: a setup among 4 masts of 4 bands, in closed form and by 1,000 joint draws, and
//! what a house knows after a new reading, beside 1,000. On one core. Nothing fails here.

use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::geodesic::point_along;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::{Facts, Observation};
use open_beacon_core::link::draws::draws;
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::field::{PowerKernel, PowerPoint, SpotKey, Spreads};
use open_beacon_core::link::gaussian::{Measurement, Mixture, Normal};
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::link::predict::{LinkSetup, predict, predictions};
use open_beacon_core::model::*;
use open_beacon_core::terrain::Ground;
use std::hint::black_box;
use std::time::Instant;
use uuid::Uuid;

const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };
const BANDS: [(Technology, u16, u32, f64); 4] = [
    (Technology::Lte, 20, 6300, 10.0),
    (Technology::Lte, 3, 1575, 20.0),
    (Technology::Lte, 7, 3100, 20.0),
    (Technology::Nr, 78, 636_666, 80.0),
];

fn masts() -> Vec<Mast> {
    (0..4u16)
        .map(|at| {
            let bearing_deg = 80.0 * f64::from(at);
            let cells = BANDS.map(|(technology, band, channel, width)| MastCell {
                technology,
                band: Some(band),
                channel: Some(channel),
                bandwidth_mhz: Some(width),
                pci: Some(10 * at + band % 10),
                node: None,
                local_cell: None,
                bearing_deg: Some((bearing_deg + 180.0) % 360.0),
                power_dbm: None,
                load: Some(0.4),
            });
            Mast {
                id: MastId(Uuid::from_u128(u128::from(at) + 1)),
                site_id: SiteId(Uuid::nil()),
                name: format!("Mast {at}"),
                operator: String::new(),
                place: point_along(HOUSE, bearing_deg, 2000.0 + 900.0 * f64::from(at)),
                height_m: Some(40.0),
                cells: cells.to_vec(),
                notes: String::new(),
                archived_at: None,
            }
        })
        .collect()
}

fn location(number: u128, mount: Mount, height_m: f64) -> AntennaLocation {
    AntennaLocation {
        place: Some(HOUSE),
        height_m,
        mount,
        position: Some(PositionId(Uuid::from_u128(number))),
    }
}

/// What the gateway heard at a spot of its first mast.
fn heard(number: u128) -> Observation<'static> {
    let carriers = BANDS.map(|(technology, band, channel, width)| {
        let mut carrier = Carrier::empty(technology, CarrierRole::Primary);
        (carrier.band, carrier.channel, carrier.pci) = (Some(band), Some(channel), Some(band % 10));
        carrier.bandwidth_mhz = Some(width);
        carrier.rsrp_dbm = Some(-100.0 - (number % 17) as f64);
        carrier.sinr_db = Some(8.0 - (number % 5) as f64);
        carrier
    });
    Observation {
        spot: format!("Spot {number}"),
        location: location(number, Mount::Indoor, 1.0),
        antenna: AimAntenna::Stock,
        aim: None,
        turned: false,
        carriers: carriers.to_vec(),
        mode: ConnectionMode::Nsa,
        lock: BandChoice::default(),
        samples: 9,
        download_mbps: Some(60.0),
        upload_mbps: Some(8.0),
    }
}

/// A reading of one of sixteen cells at one of many places.
fn reading(at: usize) -> Measurement<PowerPoint> {
    let wall = Normal { mean: 12.0, spread: 7.0 };
    let height_m = 1.0 + (at / 16) as f64 * 0.1;
    let point = PowerPoint {
        cell: at % 16,
        mast: Some(at % 4),
        place: Some(HOUSE),
        spot: SpotKey {
            position: Some(PositionId(Uuid::from_u128(at as u128 / 16))),
            height_m,
            mount: Mount::Indoor,
        },
        height_m,
        walls_db: [wall, Normal { mean: 25.0, ..wall }],
        taken_wall_db: 15.0,
        height_term_db: 2.0,
        spreads: Spreads::of_path(10.0, 0.0),
        antenna: 1,
        antenna_db: 1.5,
    };
    Measurement { point, residual: (at % 13) as f64 - 6.0, noise: 3.0 }
}

fn line(what: &str, times: usize, target: f64, unit: (&str, f64), mut call: impl FnMut()) {
    let mut each: Vec<f64> = (0..7)
        .map(|_| {
            let begun = Instant::now();
            (0..times).for_each(|_| call());
            begun.elapsed().as_secs_f64() * unit.1 / times as f64
        })
        .collect();
    each.sort_by(f64::total_cmp);
    println!(
        "{what}: {:.1} {} median of 7, target {target} {}, {:.2} of it",
        each[3],
        unit.0,
        unit.0,
        each[3] / target
    );
}

fn main() {
    let (ground, settings, masts) = (Ground::new(Vec::new()), SiteSettings::default(), masts());
    let environment = |spots: u128| {
        Environment::new(Facts {
            masts: &masts,
            obstacles: &[],
            ground: &ground,
            settings: &settings,
            house: Some(HOUSE),
            observations: (1..=spots).map(heard).collect(),
            mode: ConnectionMode::Nsa,
        })
    };
    let env = environment(4);
    let panel = settings.outdoor.kinds.iter().find(|one| one.kind == OutdoorKind::Panel).expect("a panel");
    let setup = LinkSetup::new(location(900, Mount::Pole, 6.0), AimAntenna::Assumed(panel));
    let found = predict(&env, &setup).expect("a mast is known");
    line("a setup with 4 masts of 4 bands, 1,000 joint draws", 20, 2.0, ("ms", 1e3), || {
        black_box(draws(&env, &[(&setup, &found)], WhatIf::default(), 1000, 1));
    });
    line("a setup with 4 masts of 4 bands, in closed form, each mast", 50, 20.0, ("us", 1e6 / 4.0), || {
        black_box(predictions(&env, &setup, WhatIf::default()));
    });
    // Each pushed reading is one more than the one before: 1,000 to 1,140.
    let kernels = [0, 1].map(|building| (0.5, PowerKernel { building }));
    let mut known = Mixture::new(kernels, &(0..1000).map(reading).collect::<Vec<_>>());
    let mut next = 1000;
    line("what is known of power after a new reading beside 1,000", 20, 5.0, ("ms", 1e3), || {
        known.push(&reading(next));
        next += 1;
    });
    let begun = Instant::now();
    black_box(environment(250));
    println!(
        "a whole house with 250 spots and 1,000 readings, afresh: {:.2} s",
        begun.elapsed().as_secs_f64()
    );
    let begun = Instant::now();
    black_box(environment(30));
    println!(
        "a whole house with 30 spots and 120 readings, afresh: {:.1} ms",
        begun.elapsed().as_secs_f64() * 1e3
    );
}
