//! How near the best: held against the predictions that every page shows, and against plain sense.

use crate::kits::*;
use crate::samples::{id, plain_position};
use crate::survey::panel;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::hardware::catalogue::Catalogue;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::landscape::AntennaLocation;
use open_beacon_core::link::predict::{LinkSetup, predict};
use open_beacon_core::model::*;
use open_beacon_core::near_best::{BetterStep, Elsewhere, NearBest, Reach, StepCost, near_best};
use open_beacon_core::survey::rank::Question;
use open_beacon_core::words::{Style, near_best as said};
use proptest::prelude::*;

fn nothing_to_buy() -> Catalogue {
    Catalogue::of(Vec::new())
}

fn a_pole(height_m: f64) -> AntennaLocation {
    AntennaLocation { height_m, mount: Mount::Pole, position: Some(PositionId(id(72))), ..KITCHEN }
}

fn stock() -> LinkSetup<'static> {
    LinkSetup::new(KITCHEN, AimAntenna::Stock)
}

/// The house of `house`, its gateway in the kitchen, and one setup of the record on a pole.
fn with_a_pole(house: &House, height_m: f64, price: f64) -> NearBest {
    let scenario = house.scenario();
    let catalogue = nothing_to_buy();
    let setup = LinkSetup::new(a_pole(height_m), panel(scenario.env.settings));
    let pole = Elsewhere { setup_id: SetupId(id(9)), setup, price };
    let reach = Reach { stands: stock(), setups: vec![pole], elsewhere: None, catalogue: &catalogue };
    near_best(&reach, &scenario).unwrap()
}

#[test]
fn a_better_setup_of_the_record_is_the_step() {
    let house = weak();
    let found = with_a_pole(&house, 7.0, 0.0);
    let best = found.best.as_ref().unwrap();
    assert_eq!(best.step, BetterStep::Setup { setup_id: SetupId(id(9)) });
    // Another position, up a ladder: nothing to pay.
    assert_eq!(best.cost, StepCost { price: 0.0, hours: 1.5, climbs: 1 });
    assert_eq!(found.looked_at[..2], [1, 0]);
    // The figures of every other page, which come from the closed form of the same model.
    let env = house.environment();
    let alone = |setup: &LinkSetup| predict(env, setup).unwrap().down_mbps.unwrap();
    let (now, there) = (alone(&stock()), alone(&LinkSetup::new(a_pole(7.0), panel(env.settings))));
    for (drawn, shown) in [(found.now_mbps, now), (best.down_mbps, there)] {
        let off = drawn.likely / shown.likely;
        assert!((0.93..1.07).contains(&off), "{drawn:?} drawn, {shown:?} shown");
    }
    let off = found.share.likely / (now.likely / there.likely);
    assert!((0.75..1.3).contains(&off), "{:?} of {now:?} and {there:?}", found.share);
    assert!(best.chance_of_more > 0.8, "{best:?}");

    let text = said::detail(&found, "The pole", "EUR", Style::default());
    assert!(text.contains("The pole, as it stood") && text.contains("one climb."), "{text}");
    assert!(!text.contains("EUR"), "parts that are there cost nothing: {text}");
    let text = said::detail(&with_a_pole(&house, 7.0, 240.0), "The pole", "EUR", Style::default());
    assert!(text.contains("about 240 EUR, about 1.5\u{202f}h of work and one climb"), "{text}");
}

/// Nothing to buy, nowhere to go: what stands is the best.
#[test]
fn what_stands_alone_is_the_best() {
    let scenario = weak().scenario();
    let catalogue = nothing_to_buy();
    let reach = Reach { stands: stock(), setups: Vec::new(), elsewhere: None, catalogue: &catalogue };
    let found = near_best(&reach, &scenario).unwrap();
    assert!(found.best.is_none());
    assert_eq!((found.share.low, found.share.high), (1.0, 1.0));
    assert_eq!(said::title("Kitchen", &found), "Kitchen is about the best that is foretold for this house.");
    // A house where nothing was heard and no mast is known.
    let scenario = house(Vec::new()).scenario();
    assert_eq!(near_best(&reach, &scenario), None);
}

/// A kit of the catalogue counts with its price, and the kit in use at its positions.
#[test]
fn kits_and_places_are_looked_at() {
    let house = weak();
    let scenario = house.scenario();
    let catalogue = catalogue();
    let positions = [Position {
        place: Some(GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 }),
        height_above_ground_m: Some(6.0),
        ..plain_position(73, "Barn", Mount::RoofMast)
    }];
    let question = Question { positions: &positions, antenna: panel(scenario.env.settings) };
    let reach = Reach {
        stands: stock(),
        setups: Vec::new(),
        elsewhere: Some((question, 0.0)),
        catalogue: &catalogue,
    };
    let found = near_best(&reach, &scenario).unwrap();
    assert_eq!(found.looked_at[1], 3, "three heights");
    assert!(found.looked_at[2] > 100, "{:?}", found.looked_at);
    let best = found.best.unwrap();
    match &best.step {
        BetterStep::Buy { gateway, .. } => assert!(!gateway.is_empty() && best.cost.price > 50.0, "{best:?}"),
        BetterStep::Move { position, .. } => assert_eq!((position.as_str(), best.cost.price), ("Barn", 0.0)),
        BetterStep::Setup { .. } => panic!("there is none: {best:?}"),
    }
    assert!(best.cost.climbs > 0 && best.cost.hours >= 1.0, "{best:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// A share is one, its range is in order, and a step is only called for where it brings more than what stands.
    #[test]
    fn shares_are_shares(rsrp in -120.0..-80.0f64, sinr in -3.0..22.0f64, height in 1.5..10.0f64) {
        let made = house(vec![heard(nr(78), 80.0, rsrp, sinr, CarrierRole::Primary)]);
        let found = with_a_pole(&made, height, 0.0);
        let share = found.share;
        prop_assert!(0.0 < share.low && share.low <= share.likely && share.likely <= share.high && share.high <= 1.0, "{share:?}");
        prop_assert!((0.0..=1.0).contains(&found.chance_of_need));
        match found.best {
            None => prop_assert_eq!(share.likely, 1.0),
            Some(best) => {
                prop_assert!((0.0..=1.0).contains(&best.chance_of_more));
                prop_assert!(best.down_mbps.likely > found.now_mbps.likely, "{:?} against {:?}", best, found.now_mbps);
            }
        }
    }
}
