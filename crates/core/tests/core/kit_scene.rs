//! Where predictions start from, and what of them must hold for any kit.

use crate::kits::*;
use open_beacon_core::capacity::Ranged;
use open_beacon_core::judge::{SpotEvidence, SpotView, entry_loss_db, spot_views};
use open_beacon_core::kit::assess::{Assessment, Place, assess, gateway_alone};
use open_beacon_core::hardware::catalogue::{Catalogue, built_in};
use open_beacon_core::kit::effort::{effort, parts_list};
use open_beacon_core::kit::finding::KitFinding as F;
use open_beacon_core::kit::job::{JobStep, job};
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::kit::scene::{Origin, Scene, open_change_db, scene as made_scene};
use open_beacon_core::kit::suggest::suggest;
use open_beacon_core::model::*;
use proptest::prelude::*;

/// A spot of the story's kind with one carrier.
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
    evidence.samples =
        vec![Sample { run_id, ..crate::samples::sample(n, 1, Activity::Trickle, vec![carrier]) }];
    let spot = SpotEvidence { position: position.clone(), evidence };
    let mut views = spot_views(&spot, "", &LinkAssumptions::default());
    (position, views.remove(0))
}

fn origin_spot(scene: &Scene, band: BandName) -> String {
    match &scene.carriers.iter().find(|one| one.band == band).unwrap().origin {
        Origin::Heard { spot, .. } => spot.clone(),
        Origin::Path { .. } => "path".into(),
    }
}

#[test]
fn a_cell_is_taken_from_the_spot_outside_else_from_the_stronger_and_never_from_a_phone_beside_a_gateway() {
    let heard = |rsrp: f64| crate::samples::lte(3, 11, rsrp, 6.0);
    let gateway = Instrument::Gateway;
    let spots = [
        view(1, "Sill", Mount::Indoor, heard(-108.0), gateway),
        view(2, "Landing", Mount::Window, heard(-101.0), gateway),
        view(3, "Yard", Mount::Pole, heard(-104.0), gateway),
        view(4, "Garden", Mount::Pole, heard(-80.0), Instrument::Phone),
    ];
    let made = |count: usize| {
        let views: Vec<SpotView> = spots[..count].iter().map(|(_, view)| view.clone()).collect();
        let positions: Vec<Position> = spots.iter().map(|(position, _)| position.clone()).collect();
        made_scene(&views, &positions, Some(views[0].setup_id), &SiteSettings::default())
    };
    assert_eq!(origin_spot(&made(1), lte(3)), "Sill");
    assert_eq!(origin_spot(&made(2), lte(3)), "Landing");
    assert_eq!(origin_spot(&made(4), lte(3)), "Yard");
    let scene = made(4);
    assert_eq!(scene.base_spot.as_deref(), Some("Sill"));
    // The one central figure: a geometric mean, ∛(40 · 42 · 44) = 41.97.
    assert!((scene.measured_down_mbps.unwrap() - 41.968).abs() < 1e-3);
    assert_eq!(scene.carriers.len(), 1);
    // Only the phone was there: better than nothing.
    let (position, phone) = spots[3].clone();
    let alone = made_scene(&[phone], &[position], None, &SiteSettings::default());
    assert_eq!(origin_spot(&alone, lte(3)), "Garden");
}

#[test]
fn bands_that_were_heard_are_not_estimated_again() {
    let (position, spot) =
        view(1, "Sill", Mount::Indoor, crate::samples::lte(3, 11, -100.0, 6.0), Instrument::Gateway);
    let mut settings = SiteSettings::default();
    let expected = |band, bandwidth_mhz| ExpectedCarrier { band, bandwidth_mhz };
    settings.kit.expected = vec![expected(lte(3), 10.0), expected(lte(20), 10.0)];
    let without_mast =
        made_scene(std::slice::from_ref(&spot), std::slice::from_ref(&position), None, &settings);
    assert_eq!(without_mast.carriers.len(), 1, "a path needs a distance");
    settings.known_mast = Some(KnownMast { name: String::new(), bearing_deg: 0.0, distance_m: Some(4000.0) });
    let with_mast = made_scene(&[spot], &[position], None, &settings);
    assert_eq!(
        (origin_spot(&with_mast, lte(3)), origin_spot(&with_mast, lte(20))),
        ("Sill".into(), "path".into())
    );
}

#[test]
fn walls_left_behind_are_won_and_walls_to_come_are_lost() {
    let one = heard(lte(3), 20.0, -110.0, 3.0, CarrierRole::Anchor);
    let settings = SiteSettings::default();
    let wall = entry_loss_db(Mount::Indoor, &settings.outdoor, one.frequency_mhz);
    let out = open_change_db(&one, Mount::Wall, 1.5, &settings);
    assert_eq!(out, wall, "same height: the wall alone");
    // Back inside to the same kind of place nothing changes; an attic gets less than the open.
    assert_eq!(open_change_db(&one, Mount::Indoor, 1.5, &settings), Ranged::exactly(0.0));
    assert!(open_change_db(&one, Mount::Attic, 1.5, &settings).likely < out.likely);
    assert!(open_change_db(&one, Mount::Wall, 8.0, &settings).likely > out.likely + 3.0);
}

fn judged(kit: &KitSpec, scene: &Scene) -> Assessment {
    assess(&Resolved::new(kit, &catalogue()), scene, Place::default())
}

#[test]
fn a_gateway_on_its_own_antennas_stays_what_it_was() {
    let alone = judged(&gateway_alone(part("Vinkel 5 indoor")), &weak());
    for band in &alone.outlook.bands {
        let radio = band.radio.unwrap();
        assert_eq!((radio.rsrp_change_db, band.budget.feed_loss_db), (Ranged::exactly(0.0), 0.0));
        assert!(radio.sinr_change_db.abs() < 1e-9);
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
    let found = suggest(&catalogue(), &weak(), None);
    let told = found.losers.iter().find(|one| one.gateway == part("Krok SMA") && one.antenna.is_none());
    assert!(told.is_none_or(|one| one.why_not_cheapest == open_beacon_core::kit::suggest::Why::NeedsAntenna));
}

#[test]
fn without_nsa_a_gateway_falls_back_to_lte_and_aggregates_no_more_than_it_can() {
    let mut rich = scene(vec![
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
    assert!((old.outlook.possible_down_mbps.unwrap().likely - best_two).abs() < 1e-9);
    // The anchor's band is not on this one: another LTE carrier bears the uplink.
    rich.carriers[1].band = lte(40);
    rich.carriers[1].carrier.band = Some(40);
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
        let found = assess(&resolved, &weak(), Place::default());
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
    assert_eq!(site.met_today(), None, "nothing was measured");
    site.measured_down_mbps = Some(60.0);
    site.measured_up_mbps = Some(8.0);
    assert_eq!(site.met_today(), None, "9 up are needed");
    site.measured_up_mbps = Some(9.5);
    assert!(matches!(site.met_today(), Some(F::MetToday { .. })));
}

#[test]
fn warm_cable_loses_more() {
    let mut summer = weak();
    summer.settings.kit.cable_temperature_c = 60.0;
    let loss = |scene: &Scene| judged(&sound(), scene).outlook.bands[0].budget.feed_loss_db;
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
        let site = scene(vec![
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
        let ordered = |range: Ranged| range.low <= range.likely + 1e-9 && range.likely <= range.high + 1e-9;
        for band in &found.outlook.bands {
            let sum: f64 = band.budget.steps.iter().map(|step| step.loss_db).sum();
            prop_assert!((sum - band.budget.feed_loss_db).abs() < 1e-9 && sum >= 0.0);
            if let Some(radio) = band.radio {
                prop_assert!(ordered(radio.rsrp_dbm) && ordered(radio.sinr_db) && ordered(radio.margin_db));
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
            let text = open_beacon_core::kit::say::sentence(&one.finding, open_beacon_core::judge::say::Style::default());
            prop_assert!(text.ends_with('.'), "{:?}: {text:?}", one.finding);
        }
    }

    /// More money never buys a slower best, and a larger catalogue never a dearer cheapest.
    #[test]
    fn suggestions_are_monotone(limit in 150.0..700.0f64, more in 0.0..400.0f64, left_out in 0..8usize) {
        let all = catalogue();
        let (low, high) = (suggest(&all, &weak(), Some(limit)), suggest(&all, &weak(), Some(limit + more)));
        let speed = |found: &open_beacon_core::kit::suggest::Suggestion| found.best.as_ref().map_or(0.0, |one| one.down_mbps);
        prop_assert!(speed(&high) >= speed(&low) - 1e-9);
        prop_assert!(low.best.as_ref().is_none_or(|one| one.price <= limit));
        let antennas: Vec<PartId> = all.of_kind(PartKind::Antenna).iter().map(|part| part.id).collect();
        let fewer = Catalogue::of(built_in().into_iter().filter(|part| part.id != antennas[left_out]).collect());
        let price = |found: &open_beacon_core::kit::suggest::Suggestion| found.cheapest.as_ref().map_or(f64::INFINITY, |one| one.price);
        prop_assert!(price(&suggest(&all, &weak(), None)) <= price(&suggest(&fewer, &weak(), None)) + 1e-9);
    }
}
