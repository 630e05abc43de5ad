//! Second opinions on the prediction: whole paths by another model, and the posterior by importance sampling.

use crate::kits::{heard, lte};
use crate::survey::{cell, mast, panel};
use open_beacon_core::capacity::Estimate;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::link::antenna::{Aim, AimAntenna};
use open_beacon_core::link::cells::{Facts, Observation};
use open_beacon_core::link::draws::draws;
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::gaussian::Z_90;
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::link::predict::{LinkPrediction, LinkSetup, predictions};
use open_beacon_core::link::rural::near_ground_db;
use open_beacon_core::model::*;
use open_beacon_core::propagation::p525::free_space_loss_db;
use open_beacon_core::propagation::p526::{Terrain, WavePolarisation, delta_bullington};
use open_beacon_core::terrain::Ground;
use statrs::statistics::Statistics;
use uuid::Uuid;

/// The Irregular Terrain Model (itmlogic 1.2, tests/vectors/make_second_opinion.py) on 40 invented profiles: another model, so not the same
/// figures. How far the two are apart is stated in decision 0009.
#[test]
fn another_model_of_whole_paths_agrees_in_the_mean() {
    let table = include_str!("../../../../tests/vectors/second_opinion.csv");
    let mut apart = Vec::new();
    for row in csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(table.as_bytes()).records() {
        let row = row.unwrap();
        let number = |column: usize| row[column].parse::<f64>().unwrap();
        let heights_m: Vec<f64> = row[4].split(' ').map(|cell| cell.parse().unwrap()).collect();
        let distances_m: Vec<f64> = (0..heights_m.len()).map(|step| step as f64 * number(3)).collect();
        let path = Terrain {
            distances_m: &distances_m,
            heights_m: &heights_m,
            first_above_m: number(1),
            last_above_m: number(2),
        };
        let over_ground =
            delta_bullington(&path, number(0), 4.0 / 3.0, WavePolarisation::Vertical).unwrap().loss_db;
        let free_db = free_space_loss_db(*distances_m.last().unwrap(), number(0));
        let here_db = free_db + over_ground + near_ground_db(number(1), number(0));
        apart.push(here_db - number(5));
    }
    let (off, spread) = ((&apart).mean(), (&apart).std_dev());
    println!(
        "ours less the second opinion: {off:.1} dB, standard deviation {spread:.1} dB, of {}",
        apart.len()
    );
    assert_eq!(apart.len(), 40);
    assert!(off.abs() < 6.0 && spread < 14.0, "{off} {spread}");
}

const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };

/// A house between two masts that share a channel.
struct Two {
    masts: [Mast; 2],
    settings: SiteSettings,
    ground: Ground,
}

impl Two {
    fn drawn(dice: &mut fastrand::Rng) -> Self {
        let mut between = |low: f64, high: f64| low + (high - low) * dice.f64();
        let (near_m, far_m) = (between(1500.0, 5000.0), between(3000.0, 9000.0));
        // Their sectors look at the house.
        let of = |pci, from_deg: f64| MastCell {
            bandwidth_mhz: Some(20.0),
            load: Some(0.5),
            bearing_deg: Some((from_deg + 180.0) % 360.0),
            ..cell(3, 1300, pci)
        };
        let far_deg = between(60.0, 180.0);
        let masts = [
            mast(1, "Near", 0.0, near_m, vec![of(11, 0.0)]),
            mast(2, "Far", far_deg, far_m, vec![of(12, far_deg)]),
        ];
        Self { masts, settings: SiteSettings::default(), ground: Ground::new(Vec::new()) }
    }

    fn environment(&self, observations: Vec<Observation<'static>>) -> Environment<'_> {
        Environment::new(Facts {
            masts: &self.masts,
            obstacles: &[],
            ground: &self.ground,
            settings: &self.settings,
            house: Some(HOUSE),
            observations,
            mode: ConnectionMode::Lte,
        })
    }
}

fn location(number: u128, mount: Mount, height_m: f64) -> AntennaLocation {
    let position = Some(PositionId(Uuid::from_u128(number)));
    AntennaLocation { place: Some(HOUSE), height_m, mount, position }
}

/// By the cells of one of the masts.
fn by<'a>(mast: usize, env: &'a Environment, setup: &LinkSetup<'a>) -> LinkPrediction<'a> {
    let all = predictions(env, setup, WhatIf::default());
    all.into_iter().find(|one| one.mast == Some(mast)).unwrap()
}

/// Middle and half the range of weighed values: 10, 50 and 90 % quantiles.
fn weighed(values: &[f64], weights: &[f64]) -> (f64, f64) {
    let mut order: Vec<usize> = (0..values.len()).collect();
    order.sort_by(|a, b| values[*a].total_cmp(&values[*b]));
    let all: f64 = weights.iter().sum();
    let at = |share: f64| {
        let mut so_far = 0.0;
        let found = order.iter().find(|at| {
            so_far += weights[**at];
            so_far >= share * all
        });
        values[*found.unwrap()]
    };
    (at(0.5), (at(0.9) - at(0.1)) / (2.0 * Z_90))
}

/// Of 120,000 the quantiles are −0.19 0.35 0.82 dB for power and −0.33 0.00 0.28 dB for the signal-to-noise, spreads 0.97 1.01 1.04 and 0.97
/// 1.08 1.14: what is more here is the sampling's own noise.
const DRAWN: usize = 24_000;

/// 30 houses, one reading inside: the prior is drawn, each draw weighed by how likely it makes the reading, against the posterior in closed
/// form, whose interference is made linear about what is likely.
#[test]
fn the_posterior_agrees_with_importance_sampling() {
    let (mut off, mut ratios) = ([Vec::new(), Vec::new()], [Vec::new(), Vec::new()]);
    let mut dice = fastrand::Rng::with_seed(5);
    let mut houses = 0;
    while houses < 30 {
        let two = Two::drawn(&mut dice);
        let before = two.environment(Vec::new());
        let inside = LinkSetup::new(location(1, Mount::Indoor, 1.5), AimAntenna::Stock);
        let aim = Some(Aim { azimuth_deg: 0.0, elevation_deg: 0.0 });
        let outside =
            LinkSetup { aim, ..LinkSetup::new(location(2, Mount::Pole, 6.0), panel(&two.settings)) };
        let found = [by(0, &before, &inside), by(0, &before, &outside), by(1, &before, &inside)];
        let asked = [(&inside, &found[0]), (&outside, &found[1]), (&inside, &found[2])];
        let drawn = draws(&before, &asked, WhatIf::default(), DRAWN, dice.u64(..));
        let (read, there) = (&drawn[0].carriers[0], &drawn[1].carriers[0]);
        // What is true is one of the draws, and is read with the noise that readings are taken to have.
        // The gateway would have taken the far mast's cell had it been stronger by more than 3 dB.
        let taken = |at: usize| drawn[2].carriers[0].rsrp_dbm[at] <= read.rsrp_dbm[at] + 3.0;
        let truth = dice.usize(..DRAWN);
        if !taken(truth) {
            continue;
        }
        let mut noisy =
            |value: f64, spread: f64| value + spread * ((0..12).map(|_| dice.f64()).sum::<f64>() - 6.0);
        let (rsrp_dbm, sinr_db) = (noisy(read.rsrp_dbm[truth], 3.0), noisy(read.sinr_db[truth], 2.0));
        // Where noise hides interference only a bound is known, which is another rule.
        if !(-125.0..-60.0).contains(&rsrp_dbm) || rsrp_dbm - sinr_db < -118.0 || sinr_db > 25.0 {
            continue;
        }
        houses += 1;
        let weights: Vec<f64> = (0..DRAWN)
            .map(|at| {
                let (power, clean) = (read.rsrp_dbm[at] - rsrp_dbm, read.sinr_db[at] - sinr_db);
                let likely = (-0.5 * ((power / 3.0).powi(2) + (clean / 2.0).powi(2))).exp();
                if taken(at) { likely } else { 0.0 }
            })
            .collect();
        let mut carrier = heard(lte(3), 20.0, rsrp_dbm, sinr_db, CarrierRole::Primary);
        (carrier.channel, carrier.pci) = (Some(1300), Some(11));
        let observation = Observation {
            spot: "Inside".into(),
            location: inside.location,
            antenna: AimAntenna::Stock,
            aim: None,
            turned: false,
            carriers: vec![carrier],
            mode: ConnectionMode::Lte,
            lock: BandChoice::default(),
            samples: 1,
            download_mbps: None,
            upload_mbps: None,
        };
        let after = two.environment(vec![observation]);
        let posterior = by(0, &after, &outside);
        let one = &posterior.carriers[0];
        for (what, (closed, sampled)) in
            [(one.rsrp_dbm(), &there.rsrp_dbm), (one.sinr_db(), &there.sinr_db)].into_iter().enumerate()
        {
            let (middle, spread) = weighed(sampled, &weights);
            let half = |range: Estimate| (range.high - range.low) / (2.0 * Z_90);
            // At the bound that no receiver reads beyond nothing is left to be in doubt.
            if spread < 0.5 {
                continue;
            }
            off[what].push(closed.likely - middle);
            ratios[what].push(half(closed) / spread);
        }
    }
    for (what, name) in ["RSRP", "SINR"].into_iter().enumerate() {
        let sorted = |mut all: Vec<f64>| {
            all.sort_by(f64::total_cmp);
            all
        };
        let (off, ratios) = (sorted(off[what].clone()), sorted(ratios[what].clone()));
        assert!(off.len() > 20);
        let [low, middle, high] = [1, 5, 9].map(|tenths| tenths * (off.len() - 1) / 10);
        println!(
            "{name} against importance sampling: middles {:.2} {:.2} {:.2} dB, spreads {:.2} {:.2} {:.2}",
            off[low], off[middle], off[high], ratios[low], ratios[middle], ratios[high]
        );
        // Of the 30 houses the 10, 50 and 90 % quantiles.
        assert!(off[middle].abs() < 0.5 && off[low] > -1.3 && off[high] < 1.3, "{name}: {off:.2?}");
        assert!(ratios[low] > 0.8 && ratios[high] < 1.2, "{name}: {ratios:.2?}");
    }
}
