//! Where predictions start from, and what of them must hold for any kit.

use crate::kits::*;
use open_beacon_core::capacity::Estimate;
use open_beacon_core::hardware::catalogue::{Catalogue, built_in};
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::judge::{HeardOn, SpotEvidence, SpotView, observations, spot_views};
use open_beacon_core::kit::assess::{Assessment, Place, assess, gateway_alone};
use open_beacon_core::kit::effort::{effort, parts_list};
use open_beacon_core::kit::finding::KitFinding as F;
use open_beacon_core::kit::job::{JobStep, job};
use open_beacon_core::kit::need::need;
use open_beacon_core::kit::suggest::compose::Composer;
use open_beacon_core::kit::suggest::{Suggestion, fastest, suggest, weigh_all};
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::{Facts, Origin};
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::landscape::{AntennaLocation, WhatIf};
use open_beacon_core::link::walls::wall_loss_db;
use open_beacon_core::model::*;
use open_beacon_core::terrain::Ground;
use proptest::prelude::*;

/// A spot of the demo's kind with one carrier.
fn view(n: u128, name: &str, mount: Mount, carrier: Carrier, instrument: Instrument) -> (Position, SpotView) {
    let position = Position {
        id: PositionId(crate::samples::id(n)),
        site_id: SiteId(crate::samples::id(1)),
        name: name.into(),
        place: None,
        height_above_ground_m: Some(2.0),
        mount,
        spot: Spot::default(),
        notes: String::new(),
        created_at: crate::samples::morning(),
        archived_at: None,
    };
    let mut evidence = crate::samples::evidence(name, &[40.0, 42.0, 44.0]);
    evidence.setup_id = SetupId(crate::samples::id(100 + n));
    let conditions = Conditions { instrument, ..Conditions::default() };
    evidence.runs = vec![Run { conditions, ..crate::samples::run(n) }];
    let run_id = evidence.runs[0].id;
    for test in &mut evidence.tests {
        test.run_id = run_id;
    }
    evidence.heard(&[Sample { run_id, ..crate::samples::sample(n, 1, Activity::Trickle, vec![carrier]) }]);
    let spot = SpotEvidence { position: position.clone(), evidence };
    let mut views = spot_views(&spot, "", &LinkAssumptions::default());
    (position, views.remove(0))
}

/// Where a band was heard, as the house's radio environment has it.
fn origin_spot(spots: &[(Position, SpotView)], settings: &SiteSettings, band: BandName) -> Option<String> {
    let setup = SetupSpec::on(AntennaSwitch::Internal);
    let of = |(position, spot): &'_ (Position, SpotView)| (position.clone(), spot.clone());
    let spots: Vec<(Position, SpotView)> = spots.iter().map(of).collect();
    let antenna = AimAntenna::Stock;
    let heard: Vec<HeardOn> = spots
        .iter()
        .map(|(position, spot)| HeardOn { spot, setup: &setup, position, antenna, turned: false })
        .collect();
    let ground = Ground::new(Vec::new());
    let env = Environment::new(Facts {
        masts: &[],
        obstacles: &[],
        ground: &ground,
        settings,
        house: None,
        observations: observations(&heard, None),
        mode: ConnectionMode::Lte,
    });
    env.cells.iter().find(|cell| cell.band == band).map(|cell| match &cell.origin {
        Origin::Heard { spot, .. } => spot.clone(),
        Origin::Path { .. } => "path".into(),
        Origin::Mast { mast } => mast.clone(),
    })
}

#[test]
fn a_cell_is_known_from_the_spot_outside_and_never_from_a_phone_beside_a_gateway() {
    let heard = |rsrp: f64| crate::samples::lte(3, 11, rsrp, 6.0);
    let gateway = Instrument::Gateway;
    let spots = [
        view(1, "Sill", Mount::Indoor, heard(-108.0), gateway),
        view(2, "Landing", Mount::Window, heard(-101.0), gateway),
        view(3, "Yard", Mount::Pole, heard(-104.0), gateway),
        view(4, "Garden", Mount::Pole, heard(-80.0), Instrument::Phone),
    ];
    let settings = SiteSettings::default();
    let of = |spots: &[(Position, SpotView)]| origin_spot(spots, &settings, lte(3)).unwrap();
    assert_eq!((of(&spots[..2]), of(&spots)), ("Sill".into(), "Yard".into()));
    // Only the phone was there: better than nothing.
    assert_eq!(of(&spots[3..]), "Garden");
    // The one central figure: a geometric mean, ∛(40 · 42 · 44) = 41.97.
    assert!((SpotView::typical(&spots[0].1.download).unwrap() - 41.968).abs() < 1e-3);
}

#[test]
fn bands_that_were_heard_are_not_estimated_again() {
    let spots =
        [view(1, "Sill", Mount::Indoor, crate::samples::lte(3, 11, -100.0, 6.0), Instrument::Gateway)];
    let mut settings = SiteSettings::default();
    let expected = |band, bandwidth_mhz| ExpectedCarrier { band, bandwidth_mhz };
    settings.kit.expected = vec![expected(lte(3), 10.0), expected(lte(20), 10.0)];
    assert_eq!(origin_spot(&spots, &settings, lte(20)), None, "a path needs a distance");
    settings.known_mast = Some(KnownMast { name: String::new(), bearing_deg: 0.0, distance_m: Some(4000.0) });
    assert_eq!(origin_spot(&spots, &settings, lte(3)).unwrap(), "Sill");
    assert_eq!(origin_spot(&spots, &settings, lte(20)).unwrap(), "path");
}

#[test]
fn walls_left_behind_are_won_and_walls_to_come_are_lost() {
    let mut house = house(vec![heard(lte(3), 20.0, -110.0, 3.0, CarrierRole::Anchor)]);
    house.settings.outdoor.building = Some(Building::Traditional);
    let env = house.environment();
    let at = |mount, height_m| {
        let location = AntennaLocation { mount, height_m, position: None, ..KITCHEN };
        env.arriving(&location, &AimAntenna::Stock, WhatIf::default())[0].clone()
    };
    let wall = wall_loss_db(Mount::Indoor, &house.settings, 1842.5);
    // Where it was heard: 1 dBi of the gateway's own antennas.
    let here = env.arriving(&KITCHEN, &AimAntenna::Stock, WhatIf::default())[0].power_dbm;
    assert!((here.mean + 111.0).abs() < 1e-6 && here.spread < 1.5, "{here:?}");
    // Outside at the same height the wall alone is won; its doubt is what is left, with shadowing and the reading's own.
    let out = at(Mount::Wall, 1.5).power_dbm;
    assert!((out.mean - here.mean - wall.mean).abs() < 1e-6);
    assert!(out.spread > 0.95 * wall.spread && out.spread < wall.spread.hypot(4.0), "{out:?} {wall:?}");
    // An attic gets less than the open; higher up is better.
    assert!(at(Mount::Attic, 1.5).power_dbm.mean < out.mean);
    assert!(at(Mount::Wall, 8.0).power_dbm.mean > out.mean + 3.0);
}

fn judged(kit: &KitSpec, house: &House) -> Assessment {
    assess(&Resolved::new(kit, &catalogue()), &house.scenario(), Place::default())
}

#[test]
fn a_gateway_on_its_own_antennas_stays_what_it_was() {
    let alone = judged(&gateway_alone(part("Vinkel 5 indoor")), &weak());
    for band in &alone.outlook.bands {
        let radio = band.radio.unwrap();
        assert!(radio.rsrp_change_db.likely.abs() < 1e-6 && band.budget.feed_loss_db == 0.0);
        assert!(radio.sinr_change_db.abs() < 1e-6);
    }
    assert_eq!((alone.chain.leads, alone.port_maps.len(), alone.effort.holes), (0, 1, 0));
    // A quieter receiver is worth its noise figure's difference at the most.
    let quieter = judged(&gateway_alone(part("Vinkel 5 Pro")), &weak());
    let gained = quieter.outlook.bands[0].radio.unwrap().sinr_change_db;
    assert!(gained > 0.0 && gained <= 1.0 + 1e-9, "{gained}");
}

#[test]
fn a_gateway_whose_antennas_were_cut_off_hears_nothing_alone() {
    let alone = judged(&gateway_alone(part("Krok SMA")), &weak());
    assert!(alone.found.iter().any(|one| one.finding == F::NeedsAntenna));
    assert!(alone.outlook.bands.iter().all(|band| band.radio.is_none()) && alone.outlook.down_mbps.is_none());
    let with_one = judged(&KitSpec { gateway: Some(part("Krok SMA")), ..sound() }, &weak());
    assert!(with_one.outlook.down_mbps.is_some());
    let found = suggest(&catalogue(), &weak().scenario(), None);
    let told = found.losers.iter().find(|one| one.gateway == part("Krok SMA") && one.antenna.is_none());
    assert!(
        told.is_none_or(|one| one.why_not_cheapest == open_beacon_core::kit::suggest::WhyNot::NeedsAntenna)
    );
}

#[test]
fn without_nsa_a_gateway_falls_back_to_lte_and_aggregates_no_more_than_it_can() {
    let mut rich = house(vec![
        heard(nr(78), 80.0, -90.0, 15.0, CarrierRole::Primary),
        heard(lte(3), 20.0, -90.0, 15.0, CarrierRole::Anchor),
        heard(lte(7), 20.0, -90.0, 12.0, CarrierRole::Secondary),
        heard(lte(1), 15.0, -90.0, 10.0, CarrierRole::Secondary),
    ]);
    let old = judged(&gateway_alone(part("Vinkel 4")), &rich);
    let carried: Vec<bool> = old.outlook.bands.iter().map(|band| band.radio.is_some()).collect();
    assert_eq!(carried, [false, true, true, true]);
    // Two carriers at the most: the two best by download.
    let down = |at: usize| old.outlook.bands[at].radio.unwrap().down_mbps.unwrap().likely;
    let best_two = down(1) + down(2).max(down(3));
    // A median of sums is not quite the sum of medians.
    let both = old.outlook.possible_down_mbps.unwrap().likely;
    assert!((both / best_two).ln().abs() < 0.2, "{both} {best_two}");
    let three = down(1) + down(2) + down(3);
    assert!((both / three).ln().abs() > (both / best_two).ln().abs(), "{both} {three}");
    // The anchor's band is not on this one: another LTE carrier bears the uplink.
    rich.carriers[1].band = Some(40);
    let other = judged(&gateway_alone(part("Vinkel 4")), &rich);
    assert!(other.outlook.up_mbps.unwrap().likely > 0.0);
}

#[test]
fn quantities_follow_leads_and_jackets() {
    let catalogue = catalogue();
    let lines = |kit: &KitSpec| parts_list(&Resolved::new(kit, &catalogue));
    let mut kit = sound();
    kit.antenna = Some(part("Lade wide panel, 4"));
    kit.leads = 4;
    kit.chain = vec![placed("240-class twin line", Some(10.0))];
    let four = lines(&kit);
    assert_eq!((four[1].pieces, four[1].price), (2, Some(2.0 * (18.0 + 44.0))), "two jackets of two");
    kit.antenna = Some(part("Blad single"));
    kit.antenna_count = 2;
    kit.leads = 2;
    let singles = lines(&kit);
    assert_eq!((singles[0].pieces, singles[0].price, singles[1].pieces), (2, Some(90.0), 1));
    let mut unpriced = built_in();
    unpriced.iter_mut().for_each(|part| part.price = None);
    let nothing = Catalogue::of(unpriced);
    let found = effort(&Resolved::new(&sound(), &nothing));
    // The feed line still costs by the metre: 2 × 10 m at 4.5.
    assert_eq!((found.price, found.unpriced), (90.0, 6));
    assert_eq!((found.holes, found.reversible), (5, false));
}

#[test]
fn steps_come_in_an_order_that_can_be_worked() {
    let catalogue = catalogue();
    let plan = |kit: &KitSpec| {
        let resolved = Resolved::new(kit, &catalogue);
        let found = assess(&resolved, &weak().scenario(), Place::default());
        job(&resolved, &found, &KitSettings::default(), None).steps
    };
    let place = |steps: &[JobStep], wanted: fn(&JobStep) -> bool| steps.iter().position(wanted);
    let coax = plan(&sound());
    let order = [
        place(&coax, |step| matches!(step, JobStep::Baseline)),
        place(&coax, |step| matches!(step, JobStep::TryFirst)),
        place(&coax, |step| matches!(step, JobStep::FixMount { .. })),
        place(&coax, |step| matches!(step, JobStep::LayCable { .. })),
        place(&coax, |step| matches!(step, JobStep::Plug { .. })),
        place(&coax, |step| matches!(step, JobStep::RestartAndRead)),
        place(&coax, |step| matches!(step, JobStep::AimAndTest)),
        place(&coax, |step| matches!(step, JobStep::Tape { .. })),
        place(&coax, |step| matches!(step, JobStep::WriteDown)),
    ];
    assert!(order.iter().all(Option::is_some) && order.is_sorted(), "{order:?}");
    let unit = plan(&KitSpec {
        gateway: Some(part("Utvei 5")),
        ethernet: Some(part("Outdoor Ethernet")),
        ethernet_m: Some(20.0),
        injector: Some(part("Injector, standard")),
        mount: Some(part("Wall arm")),
        ..KitSpec::default()
    });
    assert!(unit.contains(&JobStep::FeedPower) && unit.contains(&JobStep::LayEthernet { length_m: 20.0 }));
    assert!(!unit.iter().any(|step| matches!(
        step,
        JobStep::Plug { .. } | JobStep::Tape { .. } | JobStep::NumberLeads { .. }
    )));
    let opened = plan(&KitSpec { gateway: Some(part("Krok indoor")), ..sound() });
    assert!(opened.contains(&JobStep::OpenDevice) && opened.contains(&JobStep::Pigtail));
    let pair = KitSpec { antenna: Some(part("Blad single")), antenna_count: 2, ..sound() };
    assert!(plan(&pair).contains(&JobStep::CrossPair));
    let stays = plan(&gateway_alone(part("Vinkel 4")));
    assert_eq!(stays, [JobStep::CheckParts, JobStep::Baseline, JobStep::RestartAndRead, JobStep::WriteDown]);
}

#[test]
fn what_is_there_today_is_said_when_it_is_enough() {
    let mut site = weak();
    assert_eq!(site.scenario().met_today(), None, "nothing was measured");
    site.measured_down_mbps = Some(60.0);
    site.measured_up_mbps = Some(8.0);
    assert_eq!(site.scenario().met_today(), None, "9 up are needed");
    site.measured_up_mbps = Some(9.5);
    assert!(matches!(site.scenario().met_today(), Some(F::MetToday { .. })));
}

#[test]
fn parts_without_a_gateway_receive_nothing_yet() {
    let found = judged(&KitSpec { gateway: None, ..sound() }, &weak()).outlook;
    assert!(found.down_mbps.is_none() && found.bands.iter().all(|band| band.radio.is_none()));
    assert_eq!((found.lan_cap_mbps, found.bands.len()), (0.0, 2));
}

#[test]
fn warm_cable_loses_more() {
    let mut summer = weak();
    summer.settings.kit.cable_temperature_c = 60.0;
    let loss = |house: &House| judged(&sound(), house).outlook.bands[0].budget.feed_loss_db;
    // Copper: about 0.2 % a kelvin on the conductors' part, 40 K on 10 m of 400-class at 3.5 GHz, about 0.2 dB.
    let more = loss(&summer) - loss(&weak());
    assert!((0.1..0.3).contains(&more), "{more}");
}

/// Any kit of the catalogue's parts, sound or not.
fn any_kit() -> impl Strategy<Value = KitSpec> {
    let of = |kind: PartKind| -> Vec<PartId> {
        built_in().iter().filter(|part| part.spec.kind() == kind).map(|part| part.id).collect()
    };
    let pick = |kind| proptest::option::of(proptest::sample::select(of(kind)));
    let inner: Vec<PartId> = [PartKind::FeedLine, PartKind::Jumper, PartKind::Adapter, PartKind::Arrestor]
        .into_iter()
        .flat_map(of)
        .collect();
    let link =
        (proptest::sample::select(inner), proptest::option::of(0.5..40.0f64), any::<bool>(), any::<bool>());
    let passage = prop_oneof![
        Just(Passage::None),
        Just(Passage::Window),
        (1.0..80.0f64).prop_map(|diameter_mm| Passage::Hole { diameter_mm })
    ];
    (
        (pick(PartKind::Gateway), pick(PartKind::Antenna), pick(PartKind::Mount), pick(PartKind::Injector)),
        proptest::collection::vec(link, 0..5),
        (0..3u8, 0..5u8, proptest::option::of(1.0..12.0f64), passage),
    )
        .prop_map(
            |((gateway, antenna, mount, injector), chain, (antenna_count, leads, height, passage))| KitSpec {
                gateway,
                antenna,
                mount,
                injector,
                antenna_count,
                leads,
                height_above_ground_m: height,
                passage,
                chain: chain
                    .into_iter()
                    .map(|(part_id, length_m, turned, outdoors)| ChainPart {
                        part_id,
                        length_m,
                        turned,
                        outdoors,
                    })
                    .collect(),
                ..KitSpec::default()
            },
        )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    /// Whatever is put together: it is judged without a panic, ranges are in order, joints are one more than parts,
    /// the gravest findings come first, and what is drawn adds up.
    #[test]
    fn any_kit_is_judged_in_order(kit in any_kit(), rsrp in -125.0..-75.0f64, sinr in -8.0..25.0f64) {
        let site = house(vec![
            heard(nr(78), 80.0, rsrp, sinr, CarrierRole::Primary),
            heard(lte(20), 10.0, rsrp + 5.0, sinr, CarrierRole::Anchor),
        ]);
        let found = judged(&kit, &site);
        prop_assert!(found.found.is_sorted_by_key(|one| one.severity));
        let has_ports = kit.gateway.and_then(|id| catalogue().part(id).cloned()).is_some_and(
            |part| matches!(part.spec, PartSpec::Gateway(spec) if !spec.ports.is_empty()));
        if kit.antenna.is_some() && has_ports {
            prop_assert_eq!(found.chain.joints.len(), found.chain.items.len() + 1);
        }
        let ordered = |range: Estimate| range.low <= range.likely + 1e-9 && range.likely <= range.high + 1e-9;
        for band in &found.outlook.bands {
            let sum: f64 = band.budget.steps.iter().map(|step| step.loss_db).sum();
            prop_assert!((sum - band.budget.feed_loss_db).abs() < 1e-9 && sum >= 0.0);
            if let Some(radio) = band.radio {
                prop_assert!(ordered(radio.rsrp_dbm) && ordered(radio.sinr_db));
                prop_assert!((1..=4).contains(&radio.layers));
            }
        }
        for range in found.outlook.down_mbps.into_iter().chain(found.outlook.up_mbps) {
            prop_assert!(ordered(range) && range.low >= 0.0);
            prop_assert!(range.high <= found.outlook.lan_cap_mbps + 1e-9);
        }
        let maps = &found.port_maps;
        prop_assert!(maps.iter().all(|map| map.links.len() <= usize::from(found.chain.leads)));
        for one in &found.found {
            let text = open_beacon_core::words::kit::sentence(&one.finding, open_beacon_core::words::Style::default());
            prop_assert!(text.ends_with('.'), "{:?}: {text:?}", one.finding);
        }
    }

    /// More money never buys a slower kit by the quick figures, nor one that is worth less to the household than what counts as alike; and a
    /// larger catalogue never a dearer cheapest.
    #[test]
    fn suggestions_are_monotone(limit in 150.0..700.0f64, more in 0.0..400.0f64, left_out in 0..8usize) {
        let all = catalogue();
        let (house, need) = (weak(), need(&weak().settings.kit.uses));
        let site = house.scenario();
        let (low, high) = (suggest(&all, &site, Some(limit)), suggest(&all, &site, Some(limit + more)));
        let quickest = |limit: f64| {
            let (pairs, _) = weigh_all(&Composer::new(&all, &site), &need, Some(limit));
            fastest(&pairs, Some(limit)).first().map_or(0.0, |one| one.down_mbps)
        };
        prop_assert!(quickest(limit + more) >= quickest(limit) - 1e-9);
        let worth = |found: &Suggestion| found.best.as_ref().map_or(0.0, |one| need.worth(one.down_mbps, one.up_mbps));
        prop_assert!(worth(&high) >= worth(&low) - 0.1, "{:?} {:?}", low.best, high.best);
        prop_assert!(low.best.as_ref().is_none_or(|one| one.price <= limit));
        let antennas: Vec<PartId> = all.of_kind(PartKind::Antenna).iter().map(|part| part.id).collect();
        let fewer = Catalogue::of(built_in().into_iter().filter(|part| part.id != antennas[left_out]).collect());
        let price = |found: &Suggestion| found.cheapest.as_ref().map_or(f64::INFINITY, |one| one.price);
        prop_assert!(price(&suggest(&all, &weak().scenario(), None)) <= price(&suggest(&fewer, &weak().scenario(), None)) + 1e-9);
    }
}
