//! Joint draws: what setups have in common counts for all of them, the same seed draws the same, and values that are nearly normal keep
//! their quantiles. That the closed form agrees with them is held among the hidden households.

use crate::kits::{heard, lte, nr};
use open_beacon_core::kit::need::Need;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::{Facts, Observation};
use open_beacon_core::link::doubts::NotKnown;
use open_beacon_core::link::draws::{SetupDraws, chances_of_best, draws, range};
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::gaussian::Z_90;
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::link::moments::Moments;
use open_beacon_core::link::predict::{LinkPrediction, LinkSetup, predict};
use open_beacon_core::model::*;
use open_beacon_core::terrain::Ground;
use proptest::prelude::*;
use statrs::distribution::{ContinuousCDF, Gamma, LogNormal};
use std::sync::OnceLock;
use uuid::Uuid;

/// A house with one reading inside.
fn house() -> &'static Environment<'static> {
    static FOUND: OnceLock<Environment<'static>> = OnceLock::new();
    FOUND.get_or_init(|| {
        let ground: &'static Ground = Box::leak(Box::new(Ground::new(Vec::new())));
        let settings: &'static SiteSettings = Box::leak(Box::new(SiteSettings::default()));
        let inside = Observation {
            spot: "Kitchen".into(),
            location: place(1, Mount::Indoor, 1.0),
            antenna: AimAntenna::Stock,
            aim: None,
            turned: false,
            carriers: vec![
                heard(nr(78), 80.0, -104.0, 8.0, CarrierRole::Primary),
                heard(lte(3), 20.0, -98.0, 9.0, CarrierRole::Anchor),
            ],
            mode: ConnectionMode::Nsa,
            lock: BandChoice::default(),
            samples: 9,
            download_mbps: Some(90.0),
            upload_mbps: Some(11.0),
        };
        Environment::new(Facts {
            masts: &[],
            obstacles: &[],
            ground,
            settings,
            house: None,
            observations: vec![inside],
            mode: ConnectionMode::Nsa,
        })
    })
}

fn place(number: u128, mount: Mount, height_m: f64) -> AntennaLocation {
    AntennaLocation { place: None, height_m, mount, position: Some(PositionId(Uuid::from_u128(number))) }
}

fn drawn(setups: &[LinkSetup], count: usize, seed: u64) -> Vec<SetupDraws> {
    let found: Vec<_> = setups.iter().map(|setup| predict(house(), setup).unwrap()).collect();
    let asked: Vec<_> = setups.iter().zip(&found).collect();
    draws(house(), &asked, WhatIf::default(), count, seed)
}

fn stock(location: AntennaLocation) -> LinkSetup<'static> {
    LinkSetup::new(location, AimAntenna::Stock)
}

fn chances(setups: &[LinkSetup], count: usize) -> Vec<f64> {
    let downs: Vec<Vec<f64>> = drawn(setups, count, 3).into_iter().map(|one| one.down_mbps).collect();
    chances_of_best(&downs, 0.0)
}

#[test]
fn the_same_seed_draws_the_same() {
    let setups = [stock(place(1, Mount::Indoor, 1.0)), stock(place(2, Mount::Pole, 6.0))];
    assert_eq!(drawn(&setups, 101, 7), drawn(&setups, 101, 7));
    assert_ne!(drawn(&setups, 101, 7), drawn(&setups, 101, 8));
    assert!(drawn(&setups, 101, 7).iter().all(|one| one.down_mbps.len() == 101 && one.up_mbps.len() == 101));
}

/// Outside and higher is better in nearly every draw, though the ranges of the two overlap: the house and its cells are the same.
#[test]
fn what_two_setups_share_does_not_blur_which_is_better() {
    let (low, high) = (stock(place(2, Mount::Pole, 2.0)), stock(place(2, Mount::Pole, 6.0)));
    let of = drawn(&[low.clone(), high.clone()], 2000, 3);
    let rsrp = |at: usize| range(&of[at].carriers[0].rsrp_dbm).unwrap();
    assert!(rsrp(0).high > rsrp(1).low + 3.0, "{:?} {:?}", rsrp(0), rsrp(1));
    let stronger = of[0].carriers[0].rsrp_dbm.iter().zip(&of[1].carriers[0].rsrp_dbm);
    let share = stronger.filter(|(low, high)| high > low).count() as f64 / 2000.0;
    assert!(share > 0.95, "{share}");
    let [worse, better] = chances(&[low, high], 2000)[..] else { panic!() };
    // Of the download each has its own doubt besides, as far as it is not measured.
    assert!(better > 0.4 && worse + better > 1.0 - 1e-9, "{worse} {better}");
}

#[test]
fn a_setup_is_no_better_than_itself() {
    let one = stock(place(2, Mount::Pole, 6.0));
    let chances = chances(&[one.clone(), one], 2000);
    // Where two are one and the same their roots differ by rounding alone, and either is ahead as often.
    assert!((chances[0] - 0.5).abs() < 0.1, "{chances:?}");
}

/// What stands there and was measured is hardly in doubt.
#[test]
fn what_was_measured_is_drawn_closely() {
    let of = drawn(&[stock(place(1, Mount::Indoor, 1.0)), stock(place(2, Mount::Pole, 6.0))], 2000, 5);
    let rsrp = |at: usize| range(&of[at].carriers[0].rsrp_dbm).unwrap();
    assert!((rsrp(0).likely - -104.0).abs() < 1.0 && rsrp(0).high - rsrp(0).low < 4.0, "{:?}", rsrp(0));
    assert!(rsrp(1).high - rsrp(1).low > 8.0, "{:?}", rsrp(1));
    let down = range(&of[0].down_mbps).unwrap();
    assert!((down.likely / 90.0).ln().abs() < 0.1 && down.high / down.low < 2.0, "{down:?}");
}

/// What makes ranges wide: the parts of a power's variance add up to it; outside no wall is in doubt; where no speed was measured, how
/// busy the cells are is a large part, and hardly any where it was.
#[test]
fn doubts_add_up_and_fall_with_what_is_measured() {
    let inside = predict(house(), &stock(place(3, Mount::Indoor, 1.0))).unwrap();
    for one in &inside.carriers {
        let parts = house().power_doubts(&one.arriving);
        let sum: f64 = parts.iter().map(|(_, variance)| variance).sum();
        assert!((sum - one.arriving.power_dbm.spread.powi(2)).abs() < 1e-6, "{parts:?}");
        assert!(parts.iter().all(|(_, variance)| *variance > -1.0), "{parts:?}");
    }
    let outside = predict(house(), &stock(place(2, Mount::Pole, 6.0))).unwrap();
    let there = house().power_doubts(&outside.carriers[0].arriving);
    assert!(
        there[1].0 == NotKnown::Path && there[1].1 > there[0].1,
        "the reading is behind a wall: {there:?}"
    );
    let share = |found: &LinkPrediction, unknown: NotKnown| {
        found.doubts(house()).iter().find(|one| one.unknown == unknown).map_or(0.0, |one| one.share)
    };
    for found in [&inside, &outside] {
        let sum: f64 = found.doubts(house()).iter().map(|one| one.share).sum();
        assert!((0.8..=1.0 + 1e-9).contains(&sum), "{:?}", found.doubts(house()));
        assert!(found.doubts(house()).is_sorted_by(|a, b| a.share >= b.share));
    }
    let measured = predict(house(), &stock(place(1, Mount::Indoor, 1.0))).unwrap();
    let spread = |found: &LinkPrediction| {
        let down = found.down_mbps.unwrap();
        (down.high / down.low).ln().powi(2)
    };
    let of_load = |found: &LinkPrediction| share(found, NotKnown::Share) * spread(found);
    assert!(
        of_load(&measured) < 0.5 * of_load(&outside),
        "{:?} {:?}",
        measured.doubts(house()),
        outside.doubts(house())
    );
    let said = open_beacon_core::words::doubts::sentence(&outside.doubts(house())).unwrap();
    assert!(said.starts_with("What makes the range wide: ") && said.ends_with(")."), "{said}");
}

/// statrs' own quantiles: a gamma distribution of skewness 0.5, and a lognormal one of 0.31.
#[test]
fn quantiles_by_three_moments_match_the_reference_library() {
    let shape = 16.0;
    let gamma = Gamma::new(shape, 1.0).unwrap();
    let found = Moments { mean: shape, variance: shape, third: 2.0 * shape };
    let spread = 0.1f64;
    let lognormal = LogNormal::new(0.0, spread).unwrap();
    let grown = (spread * spread).exp();
    let variance = (grown - 1.0) * grown;
    let skewness = (grown + 2.0) * (grown - 1.0).sqrt();
    let log = Moments { mean: grown.sqrt(), variance, third: skewness * variance.powf(1.5) };
    for (z, share) in [(-Z_90, 0.1), (0.0, 0.5), (Z_90, 0.9)] {
        assert!((found.at(z) - gamma.inverse_cdf(share)).abs() < 0.03 * shape.sqrt(), "{share}");
        assert!((log.at(z) - lognormal.inverse_cdf(share)).abs() < 0.03 * variance.sqrt(), "{share}");
    }
    // By Gauss and Hermite: the mean and variance of a lognormal value, exactly (1 + σ²)^… as above.
    let by_nodes = Moments::of_normal(|z| (spread * z).exp());
    assert!((by_nodes.mean - log.mean).abs() < 1e-6 && (by_nodes.variance - log.variance).abs() < 1e-6);
}

proptest! {
    /// The worth of a line: more of either is never worth less, twice the need down is worth less than twice as much, and Swanson's rule of
    /// a line that is known is its worth.
    #[test]
    fn more_is_never_worth_less(down in 0.0..500.0f64, up in 0.0..100.0f64, more in 0.0..100.0f64,
        need_down in 0.0..100.0f64, need_up in 0.0..30.0f64)
    {
        let need = Need { down_mbps: need_down, up_mbps: need_up, loaded_latency_ms: None };
        let worth = need.worth(down, up);
        prop_assert!(need.worth(down + more, up) >= worth && need.worth(down, up + more) >= worth);
        prop_assert!(need.worth(2.0 * down, 2.0 * up) <= 2.0 * worth + 1e-12);
        let known = open_beacon_core::capacity::Estimate::exactly;
        prop_assert!((need.expected_worth(Some(known(down)), Some(known(up))) - worth).abs() < 1e-9);
    }

    /// Somebody is ahead in every draw, nobody who never is has a chance, and what counts as alike takes no chance away.
    #[test]
    fn chances_add_up(all in proptest::collection::vec(proptest::collection::vec(-3i32..4, 20), 1..6)) {
        let drawn: Vec<Vec<f64>> = all.iter().map(|one| one.iter().map(|value| f64::from(*value)).collect()).collect();
        let found = chances_of_best(&drawn, 0.0);
        prop_assert!(found.iter().sum::<f64>() >= 1.0 - 1e-9);
        let wider = chances_of_best(&drawn, 1.0);
        prop_assert!(found.iter().zip(&wider).all(|(strict, wide)| wide >= strict));
        for (at, chance) in found.iter().enumerate() {
            let ever = (0..20).any(|draw| drawn.iter().all(|other| other[draw] <= drawn[at][draw]));
            prop_assert_eq!(*chance > 0.0, ever);
        }
    }
}
