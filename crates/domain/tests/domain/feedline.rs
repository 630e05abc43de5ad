use open_beacon_domain::antenna::pattern::Pattern;
use open_beacon_domain::antenna::polarisation::{pair_capacity_share, single_element_loss_db};
use open_beacon_domain::feedline::cable::{CableError, CableKind, cable_loss_db};
use open_beacon_domain::feedline::ethernet::{PowerError, PoweredPairs, far_end};
use open_beacon_domain::feedline::joint::*;
use open_beacon_domain::feedline::noise::{CascadeStage, cascade_noise_figure_db};
use open_beacon_domain::propagation::tr38901::{Rural, RuralError, rural_loss};
use proptest::prelude::*;

fn per_100_m(kind: CableKind, mhz: f64) -> f64 {
    cable_loss_db(kind, 100.0, mhz, 20.0).unwrap()
}

/// Handbook points, dB in 100 m at 20 °C, 100 to 3000 MHz (from memory): four RG numbers and five generic classes.
#[test]
fn the_loss_law_meets_handbook_points() {
    let points: [(CableKind, &[(f64, f64)]); 9] = [
        (CableKind::Rg174, &[(100.0, 27.6), (400.0, 62.3), (1000.0, 111.5)]),
        (CableKind::Rg58, &[(100.0, 16.1), (400.0, 37.0), (1000.0, 70.5)]),
        (CableKind::Rg8x, &[(100.0, 12.1), (400.0, 26.6), (1000.0, 44.3)]),
        (CableKind::Rg213, &[(100.0, 6.9), (400.0, 15.5), (1000.0, 26.9)]),
        (CableKind::Class100, &[(150.0, 29.4), (900.0, 74.9), (2500.0, 130.6)]),
        (CableKind::Class200, &[(150.0, 13.1), (450.0, 22.8), (900.0, 32.6), (2500.0, 55.4)]),
        (CableKind::Class240, &[(150.0, 9.9), (450.0, 17.3), (900.0, 24.8), (2500.0, 42.4)]),
        (CableKind::Class400, &[(150.0, 5.0), (450.0, 8.9), (900.0, 12.8), (2500.0, 22.2)]),
        (CableKind::Class600, &[(150.0, 3.2), (450.0, 5.6), (900.0, 8.2), (2500.0, 14.5)]),
    ];
    for (kind, of) in points {
        for (mhz, wanted) in of {
            let here = per_100_m(kind, *mhz);
            assert!((here / wanted - 1.0).abs() < 0.03, "{kind:?} at {mhz} MHz: {here:.2} against {wanted}");
        }
    }
}

/// Common practice, no source: 9.1 m (30 ft) of 400-class lose 1.7 dB and of 240-class 3.3 dB at 1.8 GHz; 2.4 and
/// 4.6 dB at 3.5 GHz.
#[test]
fn the_loss_law_meets_common_practice() {
    let of = |kind, mhz| cable_loss_db(kind, 9.144, mhz, 20.0).unwrap();
    assert!((of(CableKind::Class400, 1800.0) - 1.7).abs() < 0.05);
    assert!((of(CableKind::Class240, 1800.0) - 3.3).abs() < 0.06);
    assert!((of(CableKind::Class400, 3500.0) - 2.4).abs() < 0.06);
    assert!((of(CableKind::Class240, 3500.0) - 4.6).abs() < 0.07);
}

/// Copper's 0.393 % a kelvin under the root of skin effect: 40 K more make √1.157 = 1.0757 of the k1 part, by hand.
#[test]
fn warmth_raises_the_loss_by_its_root() {
    let cold = cable_loss_db(CableKind::Class400, 10.0, 900.0, 20.0).unwrap();
    let warm = cable_loss_db(CableKind::Class400, 10.0, 900.0, 60.0).unwrap();
    let conductor = 0.4012 * 900.0_f64.sqrt() / 10.0;
    assert!((warm - cold - conductor * (1.157_2_f64.sqrt() - 1.0)).abs() < 1e-6);
    assert_eq!(cable_loss_db(CableKind::Rg58, 10.0, 5.0, 20.0), Err(CableError::Frequency));
    assert_eq!(cable_loss_db(CableKind::Rg58, -1.0, 500.0, 20.0), Err(CableError::Length));
    assert_eq!(cable_loss_db(CableKind::Rg58, 1.0, 500.0, 200.0), Err(CableError::Temperature));
}

/// Friis' formula, worked by hand: amplifier 20 dB gain, 1 dB figure; then 6 dB of cable; then a receiver of 7 dB:
/// F = 1.2589 + (3.981 − 1)/100 + (5.012 − 1)/(100 · 0.2512) = 1.4484, 1.609 dB. Without the amplifier 13 dB.
#[test]
fn a_cascade_worked_by_hand() {
    let amplifier = CascadeStage { gain_db: 20.0, noise_figure_db: 1.0 };
    let receiver = CascadeStage { gain_db: 0.0, noise_figure_db: 7.0 };
    let with = cascade_noise_figure_db(&[amplifier, CascadeStage::loss(6.0), receiver]);
    assert!((with - 1.609).abs() < 0.002, "{with}");
    assert!((cascade_noise_figure_db(&[CascadeStage::loss(6.0), receiver]) - 13.0).abs() < 1e-9);
}

/// Power over Ethernet by hand: 48 V, 12 W, 80 m of cable with 50 Ω a pair loop in 100 m, over two pairs: each pole has two
/// wires side by side, so R = 50 · 0.8 / 2 = 20 Ω, V = (48 + √(2304 − 960))/2 = 42.33 V, I = 0.2835 A, 1.607 W lost.
/// Over four pairs R = 10 Ω, V = (48 + √(2304 − 480))/2 = 45.354 V.
#[test]
fn power_over_ethernet_worked_by_hand() {
    let found = far_end(48.0, 12.0, 80.0, 50.0, PoweredPairs::Two).unwrap();
    assert!((found.voltage_v - 42.330).abs() < 0.001, "{found:?}");
    assert!((found.current_a - 0.283_49).abs() < 1e-4);
    assert!((found.lost_w - 1.607_3).abs() < 1e-3);
    let four = far_end(48.0, 12.0, 80.0, 50.0, PoweredPairs::Four).unwrap();
    assert!((four.voltage_v - 45.354).abs() < 0.001 && four.lost_w < found.lost_w, "{four:?}");
    assert_eq!(far_end(48.0, 12.0, 101.0, 25.0, PoweredPairs::Two), Err(PowerError::TooLong));
    assert_eq!(far_end(12.0, 12.0, 80.0, 25.0, PoweredPairs::Two), Err(PowerError::Starves));
    assert_eq!(far_end(0.0, 12.0, 80.0, 25.0, PoweredPairs::Two), Err(PowerError::NotPositive));
}

/// IEEE 802.3 type 1: 15.4 W and 44 V at the injector, a channel of 20 Ω (category 3: 40 Ω a pair loop), leave 12.95 W
/// and 37 V. Type 2 (802.3at): 50 V and 25.5 W over 100 m of category 5 (25 Ω a pair loop, 12.5 Ω the channel) leave
/// 42.5 V, from 30 W at the injector.
#[test]
fn the_standards_own_budgets_are_met() {
    let one = far_end(44.0, 12.95, 100.0, 40.0, PoweredPairs::Two).unwrap();
    assert!((one.lost_w + 12.95 - 15.4).abs() < 0.05, "{one:?}");
    assert!((one.voltage_v - 37.0).abs() < 0.1, "the least a device of type 1 may be given is 37 V");
    let two = far_end(50.0, 25.5, 100.0, 25.0, PoweredPairs::Two).unwrap();
    assert!((two.voltage_v - 42.5).abs() < 0.05, "{two:?}");
    assert!((two.lost_w + 25.5 - 30.0).abs() < 0.05, "{two:?}");
}

const GENDERS: [Gender; 2] = [Gender::Male, Gender::Female];
const SERIES: [Series; 6] = [Series::N, Series::Sma, Series::RpSma, Series::Ts9, Series::Crc9, Series::UFl];

fn end(series: Series, gender: Gender) -> Connector {
    Connector { series, gender }
}

#[test]
fn only_one_series_and_two_genders_mate() {
    for a in SERIES {
        for b in SERIES {
            for (x, y) in [(0, 0), (0, 1), (1, 0), (1, 1)] {
                let found = mates(end(a, GENDERS[x]), end(b, GENDERS[y]));
                assert_eq!(found == Mating::Mates, a == b && x != y, "{a:?} {b:?}");
                assert_eq!(found, mates(end(b, GENDERS[y]), end(a, GENDERS[x])), "either way round");
            }
        }
    }
    assert_eq!(
        mates(end(Series::Sma, Gender::Male), end(Series::RpSma, Gender::Female)),
        Mating::ReversePolarity
    );
}

/// Both ends of an adapter mate with what they join; where nothing is needed there is none.
#[test]
fn an_adapter_mates_at_both_ends() {
    for (a, b) in SERIES.into_iter().flat_map(|a| SERIES.map(|b| (a, b))) {
        for (x, y) in [(0, 0), (0, 1)] {
            let (left, right) = (end(a, GENDERS[x]), end(b, GENDERS[y]));
            match adapter_for(left, right) {
                None => assert_eq!(mates(left, right), Mating::Mates),
                Some((to_left, to_right)) => {
                    assert_eq!(mates(left, to_left), Mating::Mates);
                    assert_eq!(mates(right, to_right), Mating::Mates);
                }
            }
        }
    }
    assert!(Series::Ts9.is_fragile() && !Series::N.is_fragile());
    assert!(Series::N.is_for_outdoors() && !Series::UFl.is_for_outdoors());
}

/// Common practice, no source: joints cost some tenths of a decibel each.
#[test]
fn joints_cost_tenths() {
    for series in SERIES {
        let loss = series.joint_loss_db(1800.0);
        assert!((0.05..=0.5).contains(&loss), "{series:?} {loss}");
    }
}

/// TR 36.814 table A.2.1.1-2, closed form: 0.33 dB at 10° off a 60° beam, 3 dB at half the width, the cap behind.
#[test]
fn a_pattern_in_closed_form() {
    let panel = Pattern {
        gain_dbi: 10.0,
        beamwidth_azimuth_deg: 60.0,
        beamwidth_elevation_deg: 30.0,
        front_to_back_db: 20.0,
    };
    assert!((10.0 - panel.gain_dbi(10.0, 0.0) - 1.0 / 3.0).abs() < 1e-9);
    assert!((panel.gain_dbi(-30.0, 0.0) - 7.0).abs() < 1e-9);
    assert_eq!(panel.gain_dbi(180.0, 0.0), -10.0);
    assert_eq!(panel.gain_dbi(180.0, 90.0), -10.0, "capped once more");
    assert!((panel.gain_dbi(350.0, 0.0) - panel.gain_dbi(-10.0, 0.0)).abs() < 1e-9);
    let omni = Pattern { beamwidth_azimuth_deg: 360.0, ..panel };
    assert_eq!(omni.gain_dbi(77.0, 0.0), 10.0);
    // 41253 / (60 · 30) = 22.9, 13.6 dBi, by hand.
    assert!((panel.directivity_dbi() - 13.602).abs() < 0.001);
}

/// −20 lg cos 60° = 6.02 dB; a rigid orthogonal pair loses nothing at any turn, a pair in line loses one stream.
#[test]
fn turning_costs_single_elements_and_not_orthogonal_pairs() {
    assert!((single_element_loss_db(60.0, 30.0) - 6.0206).abs() < 1e-3);
    assert_eq!(single_element_loss_db(0.0, 30.0), 0.0);
    for turn in [0.0, 17.0, 45.0, 80.0] {
        assert!((pair_capacity_share(turn - 45.0, turn + 45.0, 20.0) - 1.0).abs() < 1e-9);
    }
    // Both elements alike: one stream of twice the power: lg(1 + 200)/(2 lg(1 + 100)) = 0.5746, by hand.
    assert!(
        (pair_capacity_share(30.0, 30.0, 20.0) - 201.0_f64.log2() / (2.0 * 101.0_f64.log2())).abs() < 1e-9
    );
}

/// TR 38.901 RMa against pycraf 2.1.0 (tests/vectors/make_propagation.py) over frequency, distance and heights.
#[test]
fn the_rural_model_matches_the_reference_library() {
    let mut reader = csv::ReaderBuilder::new()
        .comment(Some(b'#'))
        .from_reader(include_str!("../../../../tests/vectors/rural_macro.csv").as_bytes());
    let (mut worst, mut compared) = (0.0_f64, 0);
    for row in reader.records() {
        let row = row.unwrap();
        let number = |at: usize| row[at].parse::<f64>().unwrap();
        let scenario = Rural { mast_height_m: number(1), terminal_height_m: number(2), ..Rural::default() };
        let here = rural_loss(&scenario, number(3), number(0)).unwrap();
        worst = worst.max((here.line_of_sight_db - number(4)).abs());
        if let Some(obstructed) = here.obstructed_db {
            worst = worst.max((obstructed - number(5)).abs());
        }
        assert!((here.line_of_sight_probability - number(6)).abs() < 1e-9);
        compared += 1;
    }
    assert!(compared == 243 && worst < 0.05, "{compared} compared, largest deviation {worst} dB");
}

#[test]
fn the_rural_model_says_where_it_ends() {
    let scenario = Rural::default();
    assert_eq!(rural_loss(&scenario, 9.0, 800.0), Err(RuralError::Distance));
    assert_eq!(rural_loss(&scenario, 11_000.0, 800.0), Err(RuralError::Distance));
    assert_eq!(rural_loss(&scenario, 1000.0, 400.0), Err(RuralError::Frequency));
    assert_eq!(
        rural_loss(&Rural { terminal_height_m: 20.0, ..scenario }, 1000.0, 800.0),
        Err(RuralError::Heights)
    );
    assert_eq!(rural_loss(&scenario, 7000.0, 800.0).unwrap().obstructed_db, None);
}

fn kinds() -> impl Strategy<Value = CableKind> {
    prop::sample::select(CableKind::ALL.to_vec())
}

proptest! {
    #[test]
    fn loss_rises_with_length_frequency_and_warmth(kind in kinds(), length in 0.1..100.0f64, mhz in 20.0..5000.0f64, more in 1.01..1.9f64) {
        let of = |length, mhz, warmth| cable_loss_db(kind, length, mhz, warmth).unwrap();
        let here = of(length, mhz, 20.0);
        prop_assert!(of(length * more, mhz, 20.0) > here);
        prop_assert!(of(length, (mhz * more).min(6000.0), 20.0) > here);
        prop_assert!(of(length, mhz, 60.0) > here);
    }

    /// Adding a lossless part changes nothing, wherever it stands.
    #[test]
    fn a_lossless_part_changes_nothing(loss in 0.0..10.0f64, figure in 0.0..12.0f64, at in 0_usize..3) {
        let mut chain = vec![CascadeStage::loss(loss), CascadeStage { gain_db: 0.0, noise_figure_db: figure }];
        let before = cascade_noise_figure_db(&chain);
        chain.insert(at.min(chain.len()), CascadeStage::loss(0.0));
        prop_assert!((cascade_noise_figure_db(&chain) - before).abs() < 1e-9);
        prop_assert!((before - loss - figure).abs() < 1e-9, "loss in front adds dB for dB");
    }

    #[test]
    fn a_beam_is_strongest_in_its_middle(off in -180.0..180.0f64, up in -90.0..90.0f64, width in 10.0..120.0f64) {
        let beam = Pattern { gain_dbi: 12.0, beamwidth_azimuth_deg: width, beamwidth_elevation_deg: 30.0, front_to_back_db: 22.0 };
        let gain = beam.gain_dbi(off, up);
        prop_assert!((12.0 - 22.0 - 1e-9..=12.0).contains(&gain));
        prop_assert!((gain - beam.gain_dbi(-off, -up)).abs() < 1e-9);
    }

    #[test]
    fn far_ends_keep_the_energy(volts in 24.0..57.0f64, watts in 1.0..12.0f64, metres in 1.0..100.0f64) {
        if let Ok(found) = far_end(volts, watts, metres, 25.0, PoweredPairs::Two) {
            prop_assert!((found.voltage_v * found.current_a - watts).abs() < 1e-9);
            prop_assert!((volts * found.current_a - watts - found.lost_w).abs() < 1e-6);
        }
    }
}
