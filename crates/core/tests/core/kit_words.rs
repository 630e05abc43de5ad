//! The words of the Kit stage: each finding says its values in the user's units, and what mends it.

use crate::kits::{lte, nr};
use open_beacon_core::capacity::Estimate;
use open_beacon_core::feedline::joint::{Connector, Gender, Series};
use open_beacon_core::kit::finding::{FixTo, KitFinding as F, PowerFault};
use open_beacon_core::kit::job::{Caution, JobStep, Tool};
use open_beacon_core::kit::suggest::WhyNot;
use open_beacon_core::model::*;
use open_beacon_core::words::Style;
use open_beacon_core::words::{job as job_words, kit as say};

fn words(finding: &F) -> String {
    say::sentence(finding, Style::default()).replace('\u{202f}', " ")
}

fn end(series: Series, gender: Gender) -> Connector {
    Connector { series, gender }
}

#[test]
fn joints_are_named_by_series_and_gender_with_the_adapter() {
    let (from, to) = (end(Series::N, Gender::Male), end(Series::Ts9, Gender::Female));
    assert_eq!(
        words(&F::OtherSeries { from, to, loss_db: 0.4 }),
        "N-male does not fit TS9-female. Add N-female to TS9-male, about 0.4 dB."
    );
    let (from, to) = (end(Series::Sma, Gender::Male), end(Series::Sma, Gender::Male));
    assert_eq!(
        words(&F::SameGender { from, to, loss_db: 0.24 }),
        "SMA-male on SMA-male: two of a kind. Add SMA-female to SMA-female, about 0.2 dB."
    );
    let to = end(Series::RpSma, Gender::Female);
    assert!(words(&F::ReversePolarity { from, to, loss_db: 0.2 }).contains("screws on and does not connect"));
    let socket = end(Series::UFl, Gender::Female);
    assert!(words(&F::Fragile { socket, thickness_mm: 0.0 }).contains("30 matings"));
    assert!(
        words(&F::Fragile { socket, thickness_mm: 6.1 })
            .starts_with("A cable 6 mm thick on a u.FL-female socket")
    );
}

#[test]
fn counts_and_verbs_agree() {
    assert_eq!(
        words(&F::PartsGone { count: 1 }),
        "One part of this kit is not in the catalogue. Choose again, or import the catalogue it came from."
    );
    assert!(words(&F::PartsGone { count: 3 }).starts_with("3 parts of this kit are not"));
    assert!(words(&F::OutdoorJoints { count: 1 }).starts_with("One joint in the open"));
    assert!(words(&F::LeadsOpen { count: 1 }).starts_with("One lead of the antenna stays unused. Cap it"));
    assert!(words(&F::LeadsOpen { count: 2 }).starts_with("2 leads of the antenna stay unused. Cap them"));
    let open = |ports: &[&str]| words(&F::PortsOpen { ports: ports.iter().map(|&p| p.to_owned()).collect() });
    assert!(open(&["3"]).starts_with("Port 3 of the gateway stays open"));
    assert!(open(&["3", "4"]).starts_with("Ports 3 and 4 of the gateway stay open"));
    assert!(words(&F::Holes { holes: 1 }).starts_with("One hole to drill"));
    let one = F::BandNotOnPorts { bands: vec![lte(20)] };
    assert!(words(&one).starts_with("B20 is not on the ports"));
    let two = F::BandNotOnPorts { bands: vec![lte(20), nr(28)] };
    assert!(words(&two).starts_with("B20 and n28 are not on the ports"));
    assert!(
        words(&F::TransmitLeftOut { ports: vec!["1".into(), "2".into()] })
            .ends_with("Plug a lead into 1 or 2.")
    );
}

#[test]
fn values_stand_in_their_sentences() {
    let cases: Vec<(F, &str)> = vec![
        (
            F::BandMissedByAntenna { bands: vec![nr(78)], low_mhz: 694.0, high_mhz: 2690.0 },
            "made for 694 to 2690 MHz and misses n78",
        ),
        (F::PairSplit { leads: [3, 4] }, "Leads 3 and 4 are one crossed pair"),
        (F::NotCrossed { apart_deg: 30.0 }, "here they are 30° apart"),
        (F::PortUnknown { lead: 2, port: "X".into() }, "Lead 2 goes to port “X”"),
        (
            F::HoleTooSmall { hole_mm: 12.0, needs_mm: 20.4 },
            "A hole of 12 mm is too small: cables and one connector need 21 mm",
        ),
        (
            F::Bends { radius_mm: 51.0, room_mm: 50.0, name: "Thick".into() },
            "Thick must not bend tighter than 51 mm",
        ),
        (
            F::ClampMisfit { pole_mm: 60.0, low_mm: 30.0, high_mm: 55.0 },
            "takes poles of 30 to 55 mm, this one is 60 mm",
        ),
        (
            F::TooHotOrCold {
                place: GatewayPlace::SealedBox,
                low_c: 0.0,
                high_c: 40.0,
                expected_low_c: -25.0,
                expected_high_c: 65.0,
            },
            "A closed box in the sun goes from −25 to 65 °C, the gateway is made for 0 to 40 °C",
        ),
        (F::TooHeavy { weight_kg: 3.25, carries_kg: 2.0 }, "weighs 3.2 kg, the mount is sold for 2.0 kg"),
        (
            F::Wind { wind_m_s: 35.0, force_n: 90.0, moment_nm: 45.0, limit_nm: None },
            "about 90 N and bends the mount with 45 N m. An indication, not a structural design.",
        ),
        (
            F::Wind { wind_m_s: 35.0, force_n: 90.0, moment_nm: 45.0, limit_nm: Some(40.0) },
            "of 40 N m that the mount is sold for. More than it is sold for",
        ),
        (
            F::ArrestorRange { bands: vec![nr(78)], low_mhz: 0.0, high_mhz: 3000.0 },
            "made for 0 to 3000 MHz and blocks n78",
        ),
        (
            F::PowerArrives { voltage_v: 51.24, lost_w: 1.02 },
            "51.2 V arrive at the unit; the cable turns 1.0 W to heat",
        ),
        (F::NotEnoughStock { name: "Thick".into(), have: 1, need: 2 }, "Thick: 1 in stock, 2 needed."),
        (
            F::LanCaps { lan_mbps: 94.9, radio_mbps: 213.0 },
            "carry 95 Mbit/s, the radio could bring 210 Mbit/s",
        ),
        (
            F::FeedEatsGain { band: lte(3), feed_loss_db: 8.0, gain_dbi: 10.5 },
            "On B3 the feed line takes 8 dB of 10.5 dBi gain",
        ),
        (F::UplinkPays { loss_db: 3.5 }, "The upload pays the feed line's 3.5 dB in full"),
        (
            F::RadiatesTooMuch { eirp_dbm: 38.2, permitted_dbm: 33.0 },
            "radiates 38 dBm (EIRP), 33 dBm is permitted",
        ),
        (
            F::NoiseRises { band: lte(3), signal_db: 9.0, disturbance_db: 8.5 },
            "hears 9 dB more signal and 8.5 dB more of the other masts",
        ),
        (F::DirectionHelps { band: nr(78), rejection_db: 8.0 }, "hears the other masts 8 dB less"),
        (
            F::SecondPairIdle { with_mbps: 101.0, without_mbps: 99.0 },
            "adds next to nothing here: 100 Mbit/s against 99 Mbit/s",
        ),
        (
            F::SecondPairPays { with_mbps: 190.0, without_mbps: 99.0 },
            "pays here: 190 Mbit/s against 99 Mbit/s",
        ),
        (
            F::MetToday { spot: "Sill".into(), down_mbps: 58.2, up_mbps: 9.66 },
            "at Sill already meets the need (58 Mbit/s down, 9.7 Mbit/s up)",
        ),
        (F::ModeMissing { standalone: true }, "5G on its own (SA), which this gateway cannot"),
        (
            F::DoesNotShow { metrics: vec![Metric::Rsrp, Metric::Sinr] },
            "do not show signal power (RSRP) and signal-to-noise (SINR)",
        ),
    ];
    for (finding, expected) in cases {
        let text = words(&finding);
        assert!(text.contains(expected) && text.ends_with('.'), "{text:?} without {expected:?}");
    }
}

#[test]
fn the_title_gives_two_figures_and_what_is_short() {
    let down_mbps = Estimate { low: 88.6, likely: 120.0, high: 186.4 };
    let up_mbps = Some(Estimate::exactly(9.96));
    assert_eq!(
        words(&F::Reaches { down_mbps, up_mbps, margin_db: Some(12.6) }),
        "Expect 89 to 190 Mbit/s down and 10 Mbit/s up: enough for the household, with 12.5 dB to spare."
    );
    let short_down = F::MissesNeed { down_mbps, need_down_mbps: 250.0, up_mbps: None, need_up_mbps: 5.0 };
    assert_eq!(words(&short_down), "Expect 89 to 190 Mbit/s down: the household needs 250 Mbit/s down.");
    let short_up = F::MissesNeed { down_mbps, need_down_mbps: 25.0, up_mbps, need_up_mbps: 15.0 };
    assert!(words(&short_up).ends_with("the household needs 15 Mbit/s up."));
}

#[test]
fn every_fault_of_the_feed_says_what_to_take() {
    let faults = [
        (PowerFault::NoCable, "Add one."),
        (PowerFault::NoInjector, "Add an injector"),
        (
            PowerFault::KindsMixed { unit: PowerKind::Standard, injector: PowerKind::Passive },
            "wants standard (802.3) power, the injector gives passive: never mix them",
        ),
        (PowerFault::TooMuchVoltage { injector_v: 54.0, highest_v: 26.0 }, "gives 54 V, the unit bears 26 V"),
        (
            PowerFault::TooLittleVoltage { arrives_v: 17.3, lowest_v: 18.0 },
            "Only 17.3 V arrive, the unit needs 18 V",
        ),
        (PowerFault::TooMuchPower { needs_w: 31.2, gives_w: 30.0 }, "take 31.2 W, the injector gives 30 W"),
        (PowerFault::TooLong { length_m: 120.0 }, "120.0 m of Ethernet: it reaches 100.0 m"),
        (PowerFault::Starves, "Shorten it"),
    ];
    for (fault, expected) in faults {
        let text = words(&F::Power { fault });
        assert!(text.contains(expected), "{text:?}");
    }
    let imperial = Style { units: Units::Imperial };
    let text = say::sentence(&F::Power { fault: PowerFault::TooLong { length_m: 120.0 } }, imperial);
    assert!(text.replace('\u{202f}', " ").starts_with("394 ft of Ethernet: it reaches 328 ft"), "{text}");
}

#[test]
fn whys_are_in_the_sites_currency() {
    let told = |why: WhyNot| say::why(&why, "SEK").replace('\u{202f}', " ");
    assert_eq!(told(WhyNot::Dearer { by: 60.4 }), "Also enough, but 60 SEK dearer.");
    assert_eq!(told(WhyNot::OverPrice { by: 12.0 }), "12 SEK over the price.");
    assert_eq!(told(WhyNot::Slower { by_mbps: 81.3 }), "81 Mbit/s slower.");
    assert_eq!(told(WhyNot::MissesUp { short_mbps: 4.31 }), "4.3 Mbit/s short of the upload needed.");
    for plain in [
        WhyNot::Chosen,
        WhyNot::NoBand,
        WhyNot::NoWayToConnect,
        WhyNot::NothingHolds,
        WhyNot::CannotStand,
        WhyNot::NoPower,
        WhyNot::NeedsAntenna,
    ] {
        assert!(told(plain).ends_with('.'));
    }
}

#[test]
fn overhead_lines_within_reach_forbid_the_mast() {
    let line = |distance_m: Option<f64>, within_reach: bool| {
        let caution = Caution::OverheadLine { reach_m: 7.0, distance_m, within_reach };
        job_words::caution(&caution, Style::default()).replace('\u{202f}', " ")
    };
    assert!(line(Some(6.0), true).contains("Do not raise it here"));
    assert!(line(Some(20.0), false).contains("keep all of it farther than that"));
    assert!(line(None, false).contains("look for them before the ladder goes up"));
}

#[test]
fn steps_and_tools_are_in_plain_words_and_units() {
    let cable = JobStep::LayCable { length_m: 9.144, bend_radius_mm: Some(51.0), drip_loop: true };
    let metric = job_words::step(&cable, Style::default()).replace('\u{202f}', " ");
    assert!(metric.starts_with("Lay the cables, 9.1 m each, nowhere tighter than 51 mm"), "{metric}");
    let imperial = job_words::step(&cable, Style { units: Units::Imperial }).replace('\u{202f}', " ");
    assert!(imperial.contains("30 ft each") && imperial.contains("loop below the way in"));
    let link = |lead, port: &str| PortLink { lead, port: port.into() };
    let plug = job_words::step(&JobStep::Plug { links: vec![link(1, "A"), link(2, "B")] }, Style::default());
    assert_eq!(plug, "With the gateway off: lead 1 to port A, lead 2 to port B. Finger-tight.");
    for mount in
        [Mount::Wall, Mount::RoofMast, Mount::Chimney, Mount::Pole, Mount::Attic, Mount::Window, Mount::Other]
    {
        let text = job_words::step(&JobStep::FixMount { mount, name: "arm".into() }, Style::default());
        assert!(text.starts_with("Fix “arm” ") && text.ends_with('.'));
    }
    // No torque, in newton metres or otherwise, is asked of a household.
    for text in [metric, plug] {
        assert!(!text.contains("N m"));
    }
    assert_eq!(job_words::tool(Tool::Ladder), "Ladder, and a second person");
    for fix in [FixTo::Pole, FixTo::Wall, FixTo::Glass] {
        assert!(words(&F::NoFixing { to: fix }).ends_with('.'));
    }
}
