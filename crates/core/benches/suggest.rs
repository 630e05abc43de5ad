//! Prints how long a suggestion over a large catalogue takes against its target: 200 gateways, 200 antennas, 20 feed
//! lines, 6 bands, under 300 ms on one core. Nothing fails here.

use fastrand::Rng;
use open_beacon_core::feedline::cable::CableKind;
use open_beacon_core::hardware::catalogue::{Catalogue, built_in};
use open_beacon_core::kit::scenario::Scenario;
use open_beacon_core::kit::suggest::suggest;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::{Facts, Observation};
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::landscape::AntennaLocation;
use open_beacon_core::model::*;
use open_beacon_core::terrain::Ground;
use std::time::Instant;

const TARGET_MS: f64 = 300.0;

fn varied(kind: PartKind, count: usize, dice: &mut Rng) -> Vec<Part> {
    let models: Vec<Part> = built_in().into_iter().filter(|part| part.spec.kind() == kind).collect();
    (0..count)
        .map(|at| {
            let mut part = models[at % models.len()].clone();
            part.id = PartId(uuid::Uuid::from_u128(0xF000_0000 + kind as u128 * 1000 + at as u128));
            part.price = Some((20 + dice.u64(..400)) as f64);
            match &mut part.spec {
                PartSpec::Gateway(spec) => {
                    spec.noise_figure_db = 5.0 + dice.u64(..9) as f64 / 2.0;
                    spec.transmit_power_dbm = if dice.u64(..3) == 0 { 26.0 } else { 23.0 };
                    spec.aggregated_carriers = 1 + dice.u64(..5) as u8;
                    let drop = dice.u64(..7) as usize;
                    spec.bands.retain(|support| drop != usize::from(support.band.band % 7));
                }
                PartSpec::Antenna(spec) => {
                    spec.gain
                        .iter_mut()
                        .for_each(|point| point.gain_dbi += dice.u64(..40) as f64 / 10.0 - 3.0);
                    spec.beamwidth_azimuth_deg =
                        (spec.beamwidth_azimuth_deg - dice.u64(..10) as f64).max(5.0);
                }
                PartSpec::FeedLine(spec) => {
                    spec.cable = CableKind::ALL[dice.u64(..9) as usize];
                    spec.price_per_m = 0.5 + dice.u64(..90) as f64 / 10.0;
                    spec.outdoors = true;
                }
                _ => {}
            }
            part
        })
        .collect()
}

fn carrier(technology: Technology, band: u16, width: f64, rsrp: f64, sinr: f64) -> Carrier {
    let mut carrier = Carrier::empty(technology, CarrierRole::Primary);
    carrier.band = Some(band);
    carrier.bandwidth_mhz = Some(width);
    carrier.rsrp_dbm = Some(rsrp);
    carrier.sinr_db = Some(sinr);
    carrier
}

fn main() {
    let mut dice = Rng::with_seed(7);
    let mut parts: Vec<Part> = built_in()
        .into_iter()
        .filter(|part| {
            !matches!(part.spec.kind(), PartKind::Gateway | PartKind::Antenna | PartKind::FeedLine)
        })
        .collect();
    parts.extend(varied(PartKind::Gateway, 200, &mut dice));
    parts.extend(varied(PartKind::Antenna, 200, &mut dice));
    parts.extend(varied(PartKind::FeedLine, 20, &mut dice));
    let catalogue = Catalogue::of(parts);
    let carriers = [
        (Technology::Nr, 78, 80.0, -112.0, 2.0),
        (Technology::Nr, 28, 10.0, -100.0, 5.0),
        (Technology::Lte, 3, 20.0, -108.0, 4.0),
        (Technology::Lte, 7, 20.0, -114.0, 1.0),
        (Technology::Lte, 1, 15.0, -109.0, 3.0),
        (Technology::Lte, 20, 10.0, -99.0, 4.0),
    ];
    let seen = Observation {
        spot: String::new(),
        location: AntennaLocation { place: None, height_m: 1.5, mount: Mount::Indoor, position: None },
        antenna: AimAntenna::Stock,
        aim: None,
        turned: false,
        carriers: carriers
            .into_iter()
            .map(|(technology, band, width, rsrp, sinr)| carrier(technology, band, width, rsrp, sinr))
            .collect(),
        mode: ConnectionMode::Nsa,
        lock: BandChoice::default(),
        samples: 9,
        download_mbps: None,
        upload_mbps: None,
    };
    let ground = Ground::new(Vec::new());
    let outside = AntennaLocation { height_m: 6.0, mount: Mount::Wall, ..seen.location };
    for (name, streams) in [("a modest need", 1), ("a need that nothing meets", 20)] {
        let mut settings = SiteSettings::default();
        for one in &mut settings.kit.uses {
            one.count *= streams;
            one.down_mbps *= f64::from(streams);
        }
        let env = Environment::new(Facts {
            masts: &[],
            obstacles: &[],
            ground: &ground,
            settings: &settings,
            house: None,
            observations: vec![seen.clone()],
            mode: ConnectionMode::Nsa,
        });
        let scenario = Scenario::new(&env, None, outside);
        let mut times: Vec<f64> = (0..7)
            .map(|_| {
                let begun = Instant::now();
                let found = suggest(&catalogue, &scenario, Some(700.0));
                assert!(found.best.is_some());
                begun.elapsed().as_secs_f64() * 1e3
            })
            .collect();
        times.sort_by(f64::total_cmp);
        let weighed = suggest(&catalogue, &scenario, Some(700.0)).weighed;
        println!(
            "suggestion, {name}: {:>6.1} ms median of 7, {weighed} kits weighed, target {TARGET_MS} ms, {:.2} of it",
            times[3],
            times[3] / TARGET_MS
        );
    }
}
