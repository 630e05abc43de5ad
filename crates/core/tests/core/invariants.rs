//! What must hold of the physics for any values, by the laws themselves.

use crate::kits::{catalogue, part};
use open_beacon_core::antenna::pattern::{Pattern, measured_below_db, rejection_db};
use open_beacon_core::antenna::polarisation::{pair_capacity_share, single_element_loss_db};
use open_beacon_core::feedline::cable::{CableKind, cable_loss_db};
use open_beacon_core::feedline::ethernet::{PoweredPairs, far_end};
use open_beacon_core::feedline::joint::{Connector, Gender, Mating, Series, adapter_for, mates};
use open_beacon_core::feedline::noise::{CascadeStage, cascade_noise_figure_db};
use open_beacon_core::hardware::budget::gain_at_dbi;
use open_beacon_core::kit::mounting::{clamp_moment_nm, wind_force_n};
use open_beacon_core::kit::need::need;
use open_beacon_core::link::rural::{height_term_db, path_loss_db};
use open_beacon_core::model::*;
use open_beacon_core::propagation::p2109::building_entry_loss_db;
use open_beacon_core::propagation::tr38901::{Rural, rural_loss};
use proptest::prelude::*;

const SERIES: [Series; 6] = [Series::N, Series::Sma, Series::RpSma, Series::Ts9, Series::Crc9, Series::UFl];

fn ends() -> Vec<Connector> {
    let both = |series| [Gender::Male, Gender::Female].map(|gender| Connector { series, gender });
    SERIES.into_iter().flat_map(both).collect()
}

#[test]
fn every_two_ends_mate_or_have_an_adapter_that_does() {
    for a in ends() {
        for b in ends() {
            assert_eq!(mates(a, b) == Mating::Mates, mates(b, a) == Mating::Mates, "{a:?} {b:?}");
            match adapter_for(a, b) {
                None => assert_eq!(mates(a, b), Mating::Mates),
                Some((near, far)) => {
                    assert_eq!(
                        (mates(a, near), mates(far, b)),
                        (Mating::Mates, Mating::Mates),
                        "{a:?} {b:?}"
                    );
                }
            }
        }
    }
}

#[test]
fn thicker_cable_of_a_family_loses_less_everywhere() {
    let classes = [
        CableKind::Class100,
        CableKind::Class200,
        CableKind::Class240,
        CableKind::Class400,
        CableKind::Class600,
    ];
    for mhz in [100.0, 700.0, 1800.0, 2600.0, 3500.0, 5900.0] {
        let loss = |kind| cable_loss_db(kind, 10.0, mhz, 20.0).unwrap();
        assert!(classes.windows(2).all(|pair| loss(pair[0]) > loss(pair[1])), "{mhz}");
        assert!(classes.windows(2).all(|pair| pair[0].cable().diameter_mm < pair[1].cable().diameter_mm));
    }
}

proptest! {
    #[test]
    fn cable_loss_adds_up_along_its_length(a in 0.1..90.0f64, b in 0.1..90.0f64, mhz in 10.0..6000.0f64, at in -40.0..80.0f64) {
        for kind in CableKind::ALL {
            let loss = |length: f64| cable_loss_db(kind, length, mhz, at).unwrap();
            prop_assert!((loss(a) + loss(b) - loss(a + b)).abs() < 1e-9);
            prop_assert!(cable_loss_db(kind, a, mhz, at + 5.0).unwrap() > loss(a));
        }
    }

    /// Friis: whatever comes after, loss in front adds its decibels; order of passive parts does not matter.
    #[test]
    fn loss_in_front_adds_its_decibels(first in 0.0..10.0f64, second in 0.0..10.0f64, nf in 0.5..12.0f64) {
        let receiver = CascadeStage { gain_db: 0.0, noise_figure_db: nf };
        let one = cascade_noise_figure_db(&[CascadeStage::loss(first), CascadeStage::loss(second), receiver]);
        let other = cascade_noise_figure_db(&[CascadeStage::loss(second), CascadeStage::loss(first), receiver]);
        prop_assert!((one - (first + second + nf)).abs() < 1e-9 && (one - other).abs() < 1e-9);
    }

    /// What the source gives is what the load takes and what the cable turns to heat.
    #[test]
    fn power_over_ethernet_balances(source in 20.0..57.0f64, load in 1.0..25.0f64, length in 0.0..100.0f64, ohm in 8.0..30.0f64) {
        if let Ok(end) = far_end(source, load, length, ohm, PoweredPairs::Two) {
            prop_assert!((source * end.current_a - load - end.lost_w).abs() < 1e-9 * source);
            prop_assert!(end.voltage_v <= source && end.voltage_v >= source / 2.0);
            let four = far_end(source, load, length, ohm, PoweredPairs::Four).unwrap();
            prop_assert!(four.voltage_v >= end.voltage_v);
        }
    }

    /// TR 36.814: 12 (θ/θ3dB)² is 3 dB at half the beamwidth, symmetric, never below the front-to-back ratio.
    #[test]
    fn patterns_fall_by_three_decibels_at_half_their_width(width in 10.0..120.0f64, ratio in 10.0..35.0f64, off in -180.0..180.0f64) {
        let pattern = Pattern { gain_dbi: 8.0, beamwidth_azimuth_deg: width, beamwidth_elevation_deg: width, front_to_back_db: ratio };
        prop_assert!((pattern.gain_dbi(width / 2.0, 0.0) - 5.0).abs() < 1e-9);
        prop_assert!((pattern.gain_dbi(off, 0.0) - pattern.gain_dbi(-off, 0.0)).abs() < 1e-9);
        prop_assert!(pattern.gain_dbi(off, off) >= 8.0 - ratio - 1e-9);
        let below = |angle: f64| 8.0 - pattern.gain_dbi(angle, 0.0);
        let rejected = rejection_db(below, &[]);
        prop_assert!(rejected >= 0.0 && rejected <= ratio);
        prop_assert!((rejection_db(below, &[off]) - below(off)).abs() < 1e-9);
    }

    #[test]
    fn a_measured_pattern_is_met_at_its_points_and_between_them(values in proptest::collection::vec(0.0..40.0f64, 12), at in -180.0..180.0f64) {
        let points: Vec<PatternPoint> = values.iter().enumerate()
            .map(|(step, below_db)| PatternPoint { off_deg: step as f64 * 30.0 - 165.0, below_db: *below_db })
            .collect();
        for point in &points {
            prop_assert!((measured_below_db(&points, point.off_deg).unwrap() - point.below_db).abs() < 1e-9);
        }
        let (least, most) = values.iter().fold((f64::MAX, 0.0f64), |(a, b), v| (a.min(*v), b.max(*v)));
        prop_assert!((least - 1e-9..=most + 1e-9).contains(&measured_below_db(&points, at).unwrap()));
    }

    /// A rigid orthogonal pair turned as a whole costs nothing; any other pair costs; a single element never more than
    /// its discrimination.
    #[test]
    fn only_what_is_not_orthogonal_loses(turn in 0.0..180.0f64, lean in 1.0..89.0f64, snr in 0.0..30.0f64, xpd in 5.0..30.0f64) {
        prop_assert!((pair_capacity_share(turn, turn + 90.0, snr) - 1.0).abs() < 1e-9);
        prop_assert!(pair_capacity_share(turn, turn + lean, snr) < 1.0);
        let loss = single_element_loss_db(turn, xpd);
        prop_assert!(loss >= -1e-9 && loss <= xpd);
        prop_assert!((loss - single_element_loss_db(180.0 - turn, xpd)).abs() < 1e-6);
    }

    /// P.2109: a larger share of buildings loses more; coated glass and foil more than timber.
    #[test]
    fn entry_loss_rises_with_the_share_of_buildings(mhz in 100.0..6000.0f64, share in 0.05..0.9f64) {
        let loss = |building, share| building_entry_loss_db(building, mhz, 0.0, share).unwrap();
        for building in [Building::Traditional, Building::ThermallyEfficient] {
            prop_assert!(loss(building, share + 0.05) > loss(building, share));
        }
        prop_assert!(loss(Building::ThermallyEfficient, 0.5) > loss(Building::Traditional, 0.5));
    }

    /// TR 38.901: farther and higher in frequency loses more, obstructed never less than clear, higher up never more.
    #[test]
    fn the_rural_model_is_monotone(metres in 100.0..4500.0f64, mhz in 600.0..5000.0f64, height in 1.5..9.0f64) {
        let at = |metres: f64, mhz: f64, terminal_height_m: f64| {
            rural_loss(&Rural { terminal_height_m, ..Rural::default() }, metres, mhz).unwrap()
        };
        let here = at(metres, mhz, height);
        let obstructed = here.obstructed_db.unwrap();
        prop_assert!(obstructed >= here.line_of_sight_db);
        prop_assert!(at(metres * 1.1, mhz, height).line_of_sight_db > here.line_of_sight_db);
        prop_assert!(at(metres * 1.1, mhz, height).obstructed_db.unwrap() > obstructed);
        prop_assert!(at(metres, mhz * 1.1, height).obstructed_db.unwrap() > obstructed);
        prop_assert!(at(metres, mhz, height + 1.0).obstructed_db.unwrap() <= obstructed + 1e-9);
        let (range, beyond) = path_loss_db(&KitSettings::default(), metres, height, mhz);
        prop_assert!(!beyond && range.low <= range.likely && range.likely <= range.high);
    }

    #[test]
    fn higher_is_never_worse_in_the_open(from in 1.0..15.0f64, up in 0.0..5.0f64) {
        prop_assert!(height_term_db(from + up, 1800.0) >= height_term_db(from, 1800.0));
    }

    #[test]
    fn wind_grows_with_the_square_of_its_speed(speed in 1.0..40.0f64, area in 0.001..1.0f64, free in 0.1..5.0f64) {
        prop_assert!((wind_force_n(2.0 * speed, area) - 4.0 * wind_force_n(speed, area)).abs() < 1e-6);
        prop_assert!(clamp_moment_nm(speed, area, 40.0, free + 0.1) > clamp_moment_nm(speed, area, 40.0, free));
        prop_assert!((clamp_moment_nm(speed, area, 0.0, free) - wind_force_n(speed, area) * free).abs() < 1e-9);
    }

    #[test]
    fn need_is_the_sum_of_its_uses(count in 0..10u8, down in 0.0..50.0f64, up in 0.0..20.0f64) {
        let one = HouseholdUse { kind: UseKind::Upload, count, down_mbps: down, up_mbps: up };
        let (once, twice) = (need(&[one]), need(&[one, one]));
        prop_assert!((twice.down_mbps - 2.0 * once.down_mbps).abs() < 1e-9);
        prop_assert!((twice.up_mbps - 2.0 * once.up_mbps).abs() < 1e-9);
        prop_assert_eq!(once.loaded_latency_ms, None);
    }

    #[test]
    fn gain_stays_between_its_neighbours(mhz in 500.0..5000.0f64) {
        let catalogue = catalogue();
        let PartSpec::Antenna(panel) = &catalogue.part(part("Lade wide panel, 4")).unwrap().spec else { panic!("antenna") };
        let inside = (617.0..=4200.0).contains(&mhz);
        prop_assert_eq!(gain_at_dbi(panel, mhz).is_some(), inside);
        if let Some(gain) = gain_at_dbi(panel, mhz) {
            prop_assert!((5.0..=9.0).contains(&gain));
        }
    }
}

#[test]
fn gaming_asks_for_the_shortest_delay() {
    let of = |kind, count| HouseholdUse { kind, count, down_mbps: 1.0, up_mbps: 1.0 };
    let calls = of(UseKind::VideoCall, 1);
    assert_eq!(need(&[calls, of(UseKind::Gaming, 0)]).loaded_latency_ms, Some(150.0));
    assert_eq!(need(&[calls, of(UseKind::Gaming, 1)]).loaded_latency_ms, Some(80.0));
}
