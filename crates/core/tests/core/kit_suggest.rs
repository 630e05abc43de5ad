use crate::kits::*;
use open_beacon_core::hardware::catalogue::{Catalogue, built_in};
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::kit::assess::{Place, assess, gateway_alone, location_of, works};
use open_beacon_core::kit::need::{Need, need};
use open_beacon_core::kit::scenario::Scenario;
use open_beacon_core::kit::suggest::compose::Composer;
use open_beacon_core::kit::suggest::{WhyNot, fastest, nearly_enough, suggest, weigh_all};
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::predict::{LinkSetup, predict};
use open_beacon_core::model::*;
use proptest::prelude::*;

/// Price and quick figures, down and up, of every kit, one after the other through the whole prediction.
fn enumerated(catalogue: &Catalogue, scenario: &Scenario) -> Vec<(f64, f64, f64)> {
    let composer = Composer::new(catalogue, scenario);
    let mut kits: Vec<KitSpec> = Vec::new();
    for gateway in &composer.gateways {
        let PartSpec::Gateway(spec) = &gateway.spec else { continue };
        if spec.outdoor.is_some() {
            kits.extend(composer.units(gateway).unwrap_or_default());
        } else {
            kits.push(gateway_alone(gateway.id));
        }
        for antenna in &composer.antennas {
            let PartSpec::Antenna(of) = &antenna.spec else { continue };
            let most = (of.elements * Composer::count(of)).min(spec.ports.len() as u8);
            for leads in [1, 2, 4].into_iter().filter(|leads| *leads <= most && (*leads > 1 || most == 1)) {
                for line in composer.lines.iter().map(|line| Some(*line)).chain([None]) {
                    kits.extend(composer.coax(gateway, antenna, line, leads).ok());
                }
            }
        }
    }
    kits.iter()
        .filter_map(|kit| {
            let resolved = Resolved::new(kit, catalogue);
            let location = location_of(&resolved, scenario, Place::default());
            resolved.gateway?;
            let found = predict(scenario.env, &LinkSetup::new(location, AimAntenna::Kit(&resolved)))?;
            let price = assess(&resolved, scenario, Place::default()).effort.price;
            Some((price, found.at_means_mbps.0, found.at_means_mbps.1))
        })
        .collect()
}

fn close(a: f64, b: f64) -> bool {
    (a - b).abs() <= 1e-6 * a.abs().max(1.0)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// The quick way and plain enumeration agree on a small catalogue, at sites from noisy to quiet.
    #[test]
    fn suggestions_equal_enumeration(rsrp in -122.0..-85.0f64, sinr in -3.0..20.0f64, cable in 3.0..25.0f64,
        streams in 0..4u8, limit in 150.0..900.0f64, seed in 0..1000u64)
    {
        let mut parts = built_in();
        // Prices and gains of its own for each case, so that winners differ.
        for (at, part) in parts.iter_mut().enumerate() {
            let jitter = 0.6 + ((seed * 31 + at as u64 * 17) % 89) as f64 / 100.0;
            part.price = part.price.map(|price| (price * jitter).round());
        }
        let catalogue = Catalogue::of(parts);
        let mut site = house(vec![
            heard(nr(78), 80.0, rsrp - 4.0, sinr, CarrierRole::Primary),
            heard(lte(3), 20.0, rsrp, sinr, CarrierRole::Anchor),
            heard(lte(20), 10.0, rsrp + 6.0, sinr - 2.0, CarrierRole::Secondary),
        ]);
        // A house where speeds were measured: the share of the gateway's own antennas is theirs alone.
        site.measured_down_mbps = (seed % 2 == 0).then_some(4.0);
        site.measured_up_mbps = (seed % 2 == 0).then_some(0.4);
        site.settings.kit.cable_m = cable;
        site.settings.kit.uses[2].count = streams;
        site.settings.kit.wind_m_s = 25.0;
        let need = need(&site.settings.kit.uses);
        let site = site.scenario();
        let all = enumerated(&catalogue, &site);
        let found = suggest(&catalogue, &site, Some(limit));
        let floor = Need {
            down_mbps: need.down_mbps.max(site.today_down_mbps.unwrap_or(0.0)),
            up_mbps: need.up_mbps.max(site.today_up_mbps.unwrap_or(0.0)),
            ..need
        };
        let cheapest = all.iter()
            .filter(|(_, down, up)| *down >= floor.down_mbps && *up >= floor.up_mbps)
            .map(|(price, ..)| *price).min_by(f64::total_cmp);
        let best = all.iter().filter(|(price, ..)| *price <= limit).map(|(_, down, _)| *down).max_by(f64::total_cmp);
        let composer = Composer::new(&catalogue, &site);
        let (pairs, _) = weigh_all(&composer, &floor, Some(limit));
        let weighed = nearly_enough(&pairs, &floor).into_iter().find(|one| one.meets(&floor));
        match (cheapest, weighed) {
            (Some(price), Some(taken)) => prop_assert!(close(price, taken.price), "{price} {taken:?}"),
            (None, None) => {}
            other => prop_assert!(false, "{other:?}"),
        }
        match (best, fastest(&pairs, Some(limit)).first()) {
            (Some(down), Some(taken)) => prop_assert!(close(down, taken.down_mbps), "{down} {taken:?}"),
            (None, None) => {}
            other => prop_assert!(false, "{other:?}"),
        }
        prop_assert_eq!(found.best.is_some(), best.is_some());
        if let Some(taken) = &found.cheapest {
            prop_assert!(taken.down_mbps >= floor.down_mbps && taken.up_mbps >= floor.up_mbps, "{taken:?}");
        }
        // What is suggested is a kit that works, and does what was promised.
        for taken in found.cheapest.iter().chain(&found.best) {
            let resolved = Resolved::new(&taken.kit, &catalogue);
            let judged = assess(&resolved, &site, Place::default());
            prop_assert!(works(&judged.found), "{:#?}", judged.found);
            prop_assert!(close(judged.effort.price, taken.price));
            prop_assert!(close(judged.outlook.down_mbps.unwrap().likely, taken.down_mbps));
            prop_assert!(close(judged.outlook.up_mbps.map_or(0.0, |up| up.likely), taken.up_mbps));
        }
    }
}

#[test]
fn every_loser_has_its_reason() {
    let found = suggest(&catalogue(), &weak().scenario(), Some(400.0));
    let (cheapest, best) = (found.cheapest.clone().unwrap(), found.best.clone().unwrap());
    assert!(cheapest.meets_need && best.price <= 400.0 && best.down_mbps >= cheapest.down_mbps);
    assert!(found.weighed > 100 && found.losers.len() > 20);
    for loser in &found.losers {
        assert!(loser.why_not_cheapest != WhyNot::Chosen && loser.why_not_best != WhyNot::Chosen);
        match loser.why_not_cheapest {
            WhyNot::Dearer { by } => assert!(by >= 0.0),
            WhyNot::LessThanToday => assert!(
                !loser
                    .nearest
                    .as_ref()
                    .is_some_and(|one| one.down_mbps >= found.today_down_mbps.unwrap_or(0.0)
                        && one.up_mbps >= found.today_up_mbps.unwrap_or(0.0))
            ),
            WhyNot::MissesDown { short_mbps } | WhyNot::MissesUp { short_mbps } => assert!(short_mbps > 0.0),
            _ => {}
        }
    }
    assert!(found.losers.iter().any(|loser| matches!(loser.why_not_best, WhyNot::OverPrice { .. })));
}

#[test]
fn a_tenant_is_suggested_nothing_that_is_drilled() {
    let mut site = weak();
    site.settings.kit.tenant = true;
    let catalogue = catalogue();
    let found = suggest(&catalogue, &site.scenario(), None);
    for taken in found.cheapest.iter().chain(&found.best) {
        let effort = open_beacon_core::kit::effort::effort(&Resolved::new(&taken.kit, &catalogue));
        assert_eq!(effort.holes, 0);
    }
}

/// The cheapest that meets the need is no step back from what stands there today.
#[test]
fn nothing_less_than_today_is_suggested() {
    let mut site = weak();
    let first = suggest(&catalogue(), &site.scenario(), None).cheapest.unwrap();
    // What stands there today brings half as much again, up and down.
    site.measured_down_mbps = Some(first.down_mbps * 1.5);
    site.measured_up_mbps = Some(first.up_mbps);
    let found = suggest(&catalogue(), &site.scenario(), None);
    assert!(
        found
            .cheapest
            .as_ref()
            .is_none_or(|one| one.down_mbps >= first.down_mbps * 1.5 && one.up_mbps >= first.up_mbps)
    );
    assert!(found.losers.iter().any(|loser| loser.why_not_cheapest == WhyNot::LessThanToday));
}

/// "I own this gateway": every kit is built round it, and it costs nothing more.
#[test]
fn a_gateway_that_is_owned_is_kept_and_costs_nothing() {
    let (catalogue, mut site) = (catalogue(), weak());
    let coax = suggest(&catalogue, &site.scenario(), None).best.unwrap();
    site.settings.kit.own_gateway = Some(coax.gateway);
    let found = suggest(&catalogue, &site.scenario(), None);
    for one in found
        .cheapest
        .iter()
        .chain(&found.best)
        .chain(found.losers.iter().filter_map(|loser| loser.nearest.as_ref()))
    {
        assert_eq!(one.gateway, coax.gateway);
    }
    let price = catalogue.part(coax.gateway).unwrap().price.unwrap();
    let again = found.best.unwrap();
    assert!(
        again.kit == coax.kit && (coax.price - again.price - price).abs() < 1e-9,
        "{} {} {price}",
        coax.price,
        again.price
    );
}
