use crate::kits::*;
use open_beacon_core::feedline::ethernet::{PoweredPairs, far_end};
use open_beacon_core::hardware::catalogue::{Catalogue, built_in, check_part};
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::kit::check::{Wanted, check};
use open_beacon_core::kit::finding::{At, Found, KitFinding as F, PowerFault, Severity};
use open_beacon_core::kit::mounting::{Placing, clamp_moment_nm, wind_force_n};
use open_beacon_core::kit::ports::port_maps;
use open_beacon_core::model::*;
use open_beacon_core::words;
use open_beacon_core::words::Style;

fn wanted() -> Wanted {
    let bands = vec![(lte(3), 1842.5), (nr(78), 3500.0)];
    Wanted {
        mode: Some(ConnectionMode::Nsa),
        placing: Placing { mount: None, wind_m_s: 30.0, tenant: false, bands: bands.clone() },
        bands,
    }
}

fn found_in(kit: &KitSpec, catalogue: &Catalogue, wanted: &Wanted) -> Vec<Found> {
    check(&Resolved::new(kit, catalogue), wanted)
}

fn found(kit: &KitSpec) -> Vec<Found> {
    found_in(kit, &catalogue(), &wanted())
}

#[test]
fn the_built_in_catalogue_holds_its_own_checks() {
    let parts = built_in();
    for part in &parts {
        assert_eq!(check_part(part), Vec::new(), "{}", part.name);
        assert!(part.price.is_some(), "{}", part.name);
    }
    let mut ids: Vec<PartId> = parts.iter().map(|part| part.id).collect();
    ids.dedup();
    assert_eq!(ids.len(), parts.len());
}

#[test]
fn a_sound_kit_has_nothing_wrong() {
    let wrong: Vec<Found> =
        found(&sound()).into_iter().filter(|one| one.severity == Severity::Wrong).collect();
    assert_eq!(wrong, Vec::new());
}

/// What the catalogue's outdoor unit needs, sound.
fn unit() -> KitSpec {
    KitSpec {
        gateway: Some(part("Utvei 5")),
        ethernet: Some(part("Outdoor Ethernet")),
        ethernet_m: Some(30.0),
        injector: Some(part("Injector, standard")),
        ethernet_arrestor: Some(part("Ethernet arrestor")),
        mount: Some(part("Wall arm")),
        passage: Passage::Hole { diameter_mm: 16.0 },
        ..KitSpec::default()
    }
}

#[test]
fn a_sound_outdoor_unit_has_nothing_wrong() {
    assert!(found(&unit()).iter().all(|one| one.severity != Severity::Wrong), "{:?}", found(&unit()));
}

type Fault = (&'static str, fn(&mut KitSpec), fn(&F) -> bool, Severity);

/// Each takes the sound kit, breaks one thing and must be told that very thing.
const FAULTS: &[Fault] = &[
    ("no gateway", |kit| kit.gateway = None, |f| matches!(f, F::NoGateway), Severity::Wrong),
    (
        "a part that is gone",
        |kit| kit.mount = Some(PartId(uuid::Uuid::from_u128(9))),
        |f| matches!(f, F::PartsGone { count: 1 }),
        Severity::Wrong,
    ),
    (
        "no length",
        |kit| kit.chain[0].length_m = None,
        |f| matches!(f, F::LengthMissing { .. }),
        Severity::Wrong,
    ),
    (
        "a gateway without ports",
        |kit| kit.gateway = Some(part("Utvei 4")),
        |f| matches!(f, F::NoPorts { .. }),
        Severity::Wrong,
    ),
    (
        "two plugs",
        |kit| {
            kit.chain.pop();
        },
        |f| matches!(f, F::SameGender { .. }),
        Severity::Wrong,
    ),
    (
        "reverse polarity",
        |kit| kit.chain[3] = ChainPart { turned: true, ..placed("Adapter, RP-SMA plug", None) },
        |f| matches!(f, F::ReversePolarity { .. }),
        Severity::Wrong,
    ),
    ("N on SMA", |kit| kit.chain.truncate(1), |f| matches!(f, F::OtherSeries { .. }), Severity::Wrong),
    (
        "thick cable near TS9",
        |kit| {
            kit.gateway = Some(part("Vinkel 5 indoor"));
            kit.chain = vec![placed("400-class line, N plug to SMA plug", Some(5.0))];
        },
        |f| matches!(f, F::Fragile { thickness_mm, .. } if *thickness_mm > 10.0),
        Severity::Costs,
    ),
    (
        "indoor cable in the open",
        |kit| {
            kit.antenna = Some(part("Lade wide panel, 2"));
            kit.chain = vec![placed("RG-58", Some(5.0))];
        },
        |f| matches!(f, F::CableNotForOutdoors { .. }),
        Severity::Costs,
    ),
    (
        "antenna misses NR",
        |kit| {
            kit.gateway = Some(part("Utvei 4"));
            kit.antenna = None;
        },
        |f| matches!(f, F::BandMissedByAntenna { bands, .. } if *bands == vec![nr(78)]),
        Severity::Costs,
    ),
    (
        "gateway misses NR",
        |kit| kit.gateway = Some(part("Vinkel 4")),
        |f| matches!(f, F::BandMissedByGateway { bands } if *bands == vec![nr(78)]),
        Severity::Costs,
    ),
    (
        "pair on ports of two pairs",
        |kit| {
            kit.ports = vec![PortLink { lead: 1, port: "1".into() }, PortLink { lead: 2, port: "3".into() }]
        },
        |f| matches!(f, F::PairSplit { leads: [1, 2] }),
        Severity::Costs,
    ),
    (
        "no lead on a port that transmits",
        |kit| {
            kit.ports = vec![PortLink { lead: 1, port: "3".into() }, PortLink { lead: 2, port: "4".into() }]
        },
        |f| matches!(f, F::TransmitLeftOut { .. }),
        Severity::Wrong,
    ),
    (
        "a port it has not got",
        |kit| kit.ports = vec![PortLink { lead: 1, port: "9".into() }],
        |f| matches!(f, F::PortUnknown { lead: 1, .. }),
        Severity::Wrong,
    ),
    (
        "two leads on one port",
        |kit| {
            kit.ports = vec![PortLink { lead: 1, port: "1".into() }, PortLink { lead: 2, port: "1".into() }]
        },
        |f| matches!(f, F::PortTwice { .. }),
        Severity::Wrong,
    ),
    ("one lead only", |kit| kit.leads = 1, |f| matches!(f, F::OneBranch), Severity::Costs),
    (
        "four leads, two brought down",
        |kit| kit.antenna = Some(part("Rund omni crossed")),
        |f| matches!(f, F::LeadsOpen { count: 2 }),
        Severity::Mind,
    ),
    ("ports left open", |_| {}, |f| matches!(f, F::PortsOpen { ports } if ports.len() == 2), Severity::Mind),
    (
        "two singles side by side",
        |kit| {
            kit.antenna = Some(part("Blad single"));
            kit.antenna_count = 2;
            kit.crossed_deg = Some(0.0);
        },
        |f| matches!(f, F::NotCrossed { .. }),
        Severity::Costs,
    ),
    (
        "upright elements",
        |kit| kit.antenna = Some(part("Rund omni, 2")),
        |f| matches!(f, F::AllUpright),
        Severity::Costs,
    ),
    (
        "hole too small",
        |kit| kit.passage = Passage::Hole { diameter_mm: 12.0 },
        |f| matches!(f, F::HoleTooSmall { .. }),
        Severity::Wrong,
    ),
    (
        "window without a flat jumper",
        |kit| kit.passage = Passage::Window,
        |f| matches!(f, F::WindowNeedsFlat),
        Severity::Wrong,
    ),
    ("no way in", |kit| kit.passage = Passage::None, |f| matches!(f, F::WayInMissing), Severity::Mind),
    (
        "thick cable right at the gateway",
        |kit| kit.chain.truncate(1),
        |f| matches!(f, F::Bends { .. }),
        Severity::Costs,
    ),
    (
        "clamp too small for the pole",
        |kit| kit.mount = Some(part("Pole in the garden")),
        |f| matches!(f, F::ClampMisfit { .. }),
        Severity::Wrong,
    ),
    (
        "window antenna in the open",
        |kit| kit.antenna = Some(part("Rute window")),
        |f| matches!(f, F::NotWeatherproof { .. }),
        Severity::Wrong,
    ),
    (
        "gateway in a hot attic",
        |kit| kit.gateway_place = GatewayPlace::Attic,
        |f| matches!(f, F::TooHotOrCold { .. }),
        Severity::Costs,
    ),
    (
        "no arrestor",
        |kit| {
            kit.chain.remove(1);
        },
        |f| matches!(f, F::NoArrestor),
        Severity::Mind,
    ),
    (
        "arrestor too narrow",
        |kit| kit.chain[1] = placed("Gas arrestor, SMA socket to SMA plug", None),
        |f| matches!(f, F::ArrestorRange { bands, .. } if *bands == vec![nr(78)]),
        Severity::Wrong,
    ),
    (
        "case to be opened",
        |kit| kit.gateway = Some(part("Krok indoor")),
        |f| matches!(f, F::CaseOpened),
        Severity::Costs,
    ),
    (
        "no clean signal shown",
        |kit| kit.gateway = Some(part("Krok SMA")),
        |f| matches!(f, F::DoesNotShow { .. }),
        Severity::Costs,
    ),
    (
        "NSA on an LTE gateway",
        |kit| kit.gateway = Some(part("Stue travel")),
        |f| matches!(f, F::ModeMissing { standalone: false }),
        Severity::Costs,
    ),
];

#[test]
fn every_fault_is_found_for_what_it_is() {
    for (name, break_it, expected, severity) in FAULTS {
        let mut kit = sound();
        break_it(&mut kit);
        let told = found(&kit);
        let hit = told.iter().find(|one| expected(&one.finding));
        assert!(hit.is_some_and(|one| one.severity == *severity), "{name}: {told:#?}");
    }
    assert!(FAULTS.len() >= 20);
}

#[test]
fn every_fault_is_said_in_whole_sentences_with_a_fix() {
    for (name, break_it, ..) in FAULTS {
        let mut kit = sound();
        break_it(&mut kit);
        for one in found(&kit) {
            let text = words::kit::sentence(&one.finding, Style::default());
            assert!(text.ends_with('.') && text.len() > 15, "{name}: {text:?}");
        }
    }
    let mut kit = sound();
    kit.chain.truncate(1);
    let told = found(&kit);
    let joint = told.iter().find(|one| matches!(one.at, At::Joint { place: 1 })).unwrap();
    // The issue's own example: the adapter is named with its ends and about 0.2 dB.
    assert_eq!(
        words::kit::sentence(&joint.finding, Style::default()),
        "N-male does not fit SMA-female. Add N-female to SMA-male, about 0.2\u{202f}dB."
    );
}

#[test]
fn power_over_ethernet_faults_are_told_apart() {
    type Broken = (fn(&mut KitSpec), fn(&PowerFault) -> bool);
    let cases: [Broken; 5] = [
        (|kit| kit.ethernet = None, |f| matches!(f, PowerFault::NoCable)),
        (|kit| kit.injector = None, |f| matches!(f, PowerFault::NoInjector)),
        (
            |kit| kit.injector = Some(part("Injector, passive 48")),
            |f| matches!(f, PowerFault::KindsMixed { .. }),
        ),
        (|kit| kit.ethernet_m = Some(120.0), |f| matches!(f, PowerFault::TooLong { .. })),
        (
            |kit| {
                kit.gateway = Some(part("Utvei 4"));
                kit.injector = Some(part("Injector, passive 24"));
                // By hand: 28 Ω a pair loop, two wires a pole: R = 13.3 Ω, and 9 W leave 12 + √(144 − 119.7) = 16.9 V.
                kit.ethernet = Some(part("Indoor Ethernet cable, thin"));
                kit.ethernet_m = Some(95.0);
            },
            |f| matches!(f, PowerFault::TooLittleVoltage { .. }),
        ),
    ];
    // With the outdoor cable 65 m are no fault: 21.4 V arrive (two wires a pole).
    let mut good = unit();
    good.gateway = Some(part("Utvei 4"));
    good.injector = Some(part("Injector, passive 24"));
    good.ethernet_m = Some(65.0);
    assert!(found(&good).iter().all(|one| !matches!(one.finding, F::Power { .. })));
    for (break_it, expected) in cases {
        let mut kit = unit();
        break_it(&mut kit);
        let told = found(&kit);
        let hit = told.iter().any(|one| matches!(&one.finding, F::Power { fault } if expected(fault)));
        assert!(hit, "{told:#?}");
    }
    // Worked by hand: 24 V, 9 W, 40 m at 18.8 Ω a pair loop in 100 m, two wires a pole: R = 18.8 · 0.4 / 2 = 3.76 Ω,
    // V = 12 + √(144 − 33.84) = 22.496 V.
    let end = far_end(24.0, 9.0, 40.0, 18.8, PoweredPairs::Two).unwrap();
    assert!((end.voltage_v - 22.496).abs() < 0.01);
}

#[test]
fn wind_and_weight_follow_the_worked_example() {
    // Worked by hand: panel 0.06 m² at 30 m/s: 0.5·1.225·900·1.2·0.06 = 39.7 N; on 0.4 m of a 38 mm pole:
    // 39.7·0.4 + (0.5·1.225·900·1.2·0.0152)·0.2 = 15.9 + 2.0 N m.
    assert!((wind_force_n(30.0, 0.06) - 39.69).abs() < 0.01);
    assert!((clamp_moment_nm(30.0, 0.06, 38.0, 0.4) - 17.886).abs() < 0.01);
    let mut kit = sound();
    kit.antenna = Some(part("Lade wide panel, 4"));
    kit.mount = Some(part("Roof mast"));
    let strong = Wanted { placing: Placing { wind_m_s: 60.0, ..wanted().placing }, ..wanted() };
    let told = found_in(&kit, &catalogue(), &strong);
    assert!(told.iter().any(|one| one.severity == Severity::Wrong && matches!(one.finding, F::Wind { .. })));
}

#[test]
fn a_tenant_is_told_of_holes_and_stock_is_counted() {
    let tenant = Wanted { placing: Placing { tenant: true, ..wanted().placing }, ..wanted() };
    let told = found_in(&sound(), &catalogue(), &tenant);
    assert!(told.iter().any(|one| matches!(one.finding, F::Holes { holes: 5 })));
    let mut parts = built_in();
    for part in &mut parts {
        part.stock = Some(1);
    }
    let told = found_in(&sound(), &Catalogue::of(parts), &wanted());
    let short =
        |f: &F| matches!(f, F::NotEnoughStock { have: 1, need: 2, name } if name.starts_with("400-class"));
    assert!(told.iter().any(|one| short(&one.finding)), "{told:#?}");
}

#[test]
fn other_port_maps_use_every_lead_once() {
    let mut kit = sound();
    kit.antenna = Some(part("Lade wide panel, 4"));
    kit.leads = 4;
    for leads in [2, 4] {
        kit.leads = leads;
        let catalogue = catalogue();
        let maps = port_maps(&Resolved::new(&kit, &catalogue));
        assert_eq!(maps.len(), 3);
        for map in &maps {
            let mut ports: Vec<&str> = map.iter().map(|link| link.port.as_str()).collect();
            ports.sort_unstable();
            ports.dedup();
            assert_eq!(ports.len(), usize::from(leads));
        }
    }
}

#[test]
fn a_catalogue_entry_with_bad_values_says_what_would_do() {
    let mut panel = built_in().into_iter().find(|part| part.name.starts_with("Spyd")).unwrap();
    if let PartSpec::Antenna(spec) = &mut panel.spec {
        spec.gain.iter_mut().for_each(|point| point.gain_dbi += 12.0);
        spec.elements = 0;
    }
    panel.name = " ".into();
    let pointers: Vec<String> = check_part(&panel).into_iter().map(|problem| problem.pointer).collect();
    assert_eq!(pointers, ["/name", "/spec/gain", "/spec/elements"]);
    let mut box_ = built_in().into_iter().find(|part| part.name.starts_with("Vinkel 4")).unwrap();
    if let PartSpec::Gateway(spec) = &mut box_.spec {
        spec.bands[0].band.band = 999;
        spec.ports[1].name = "1".into();
        spec.lan_mbps = 0.0;
    }
    let pointers: Vec<String> = check_part(&box_).into_iter().map(|problem| problem.pointer).collect();
    assert_eq!(pointers, ["/spec/bands/0", "/spec/ports/1", "/spec/lan_mbps"]);
}
