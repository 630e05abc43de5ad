//! Pairs of antennas, port maps by turns, the score of a rehearsal.

use open_beacon_core::aim::advice::Ask;
use open_beacon_core::aim::pair::pair_check;
use open_beacon_core::aim::ports::{PortEvidence, PortVerdict, ask_ports, map_at, port_verdict};
use open_beacon_core::aim::score::{TruePoint, Truth, score, score_words};
use open_beacon_core::aim::sweep::{CellKey, CellSweep, Stop, SweepPoint, by_cell};
use open_beacon_core::model::*;
use proptest::prelude::*;

fn trial(sinr: &[f64]) -> CellSweep {
    let point = |(place, sinr): (usize, &f64)| SweepPoint {
        angle_deg: map_at(place),
        rsrp_dbm: -95.0,
        sinr_db: Some(*sinr),
        samples: 4,
    };
    let cell = CellKey::of(&Carrier::empty(Technology::Lte, CarrierRole::Primary));
    CellSweep {
        cell,
        bandwidth_mhz: None,
        points: sinr.iter().enumerate().map(point).collect(),
        stops: (0..sinr.len()).collect(),
        unanswered_deg: Vec::new(),
    }
}

/// Malus' law for fields: two linear polarisations 45° apart share half the power, 3.01 dB; free space of ITU-R P.525-4
/// equation 4 at one wavelength is 20 lg 4π = 21.98 dB.
#[test]
fn slants_and_distance_are_judged_by_closed_forms() {
    let right = pair_check(-45.0, 45.0, 0.5, 1800.0);
    assert_eq!(right.between_deg, 90.0);
    assert!(right.coupling_db <= -50.0 && right.words[0].contains("hears its own"), "{right:?}");
    let half = pair_check(0.0, 45.0, 0.5, 1800.0);
    assert!((half.coupling_db + 3.0103).abs() < 1e-3);
    assert!(half.words[0].contains("Turn the second antenna 45° clockwise"), "{half:?}");
    assert!(pair_check(0.0, 135.0, 0.5, 1800.0).words[0].contains("45° anticlockwise"));
    assert!((pair_check(0.0, 0.0, 0.299_792_458, 1000.0).isolation_db - 21.984).abs() < 1e-3);
    assert_eq!(pair_check(10.0, 190.0, 1.0, 1800.0).between_deg, 0.0, "half a turn is the same slant");
    assert!(pair_check(-45.0, 45.0, 0.1, 800.0).words[1].contains("closer than one wavelength"));
    assert!(pair_check(0.0, 20.0, 0.2, 1800.0).words[1].contains("Move them to"));
}

#[test]
fn a_steady_drift_falls_on_both_maps_alike() {
    // Half a decibel from stop to stop, no difference between the maps.
    let drift: Vec<f64> = (0..8).map(|place| 10.0 + 0.5 * place as f64).collect();
    let found = port_verdict(&trial(&drift), &[], &[]).unwrap();
    assert!(found.difference.abs() < 1e-9 && found.better.is_none(), "{found:?}");
    // B is better by 2 dB under the same drift.
    let better: Vec<f64> = drift.iter().enumerate().map(|(place, sinr)| sinr + 2.0 * map_at(place)).collect();
    let found = port_verdict(&trial(&better), &[], &[]).unwrap();
    assert!((found.difference - 2.0).abs() < 1e-9 && found.better == Some(1) && found.enough, "{found:?}");
    assert!(found.words.contains("Map B is better by 2.0"));
}

/// Common practice, no source: a second layer needs branches that hear alike, and is worth more than a decibel of SINR.
#[test]
fn layers_decide_then_branches_and_signal_only_where_neither_is_shown() {
    let verdict = |shown: &dyn Fn(f64) -> (Option<u8>, Vec<f64>), sinr: [f64; 2]| {
        let carriers: Vec<Vec<Carrier>> = (0..8)
            .map(|place| {
                let (rank, branch_rsrp_dbm) = shown(map_at(place));
                let sinr_db = Some(sinr[map_at(place) as usize] + 0.1 * (place % 3) as f64);
                let empty = Carrier::empty(Technology::Lte, CarrierRole::Primary);
                vec![Carrier { rsrp_dbm: Some(-95.0), sinr_db, rank, branch_rsrp_dbm, ..empty }]
            })
            .collect();
        let stop = |(place, carriers)| Stop { angle_deg: map_at(place), samples: vec![carriers] };
        let stops: Vec<Stop> = carriers.iter().map(Vec::as_slice).enumerate().map(stop).collect();
        port_verdict(&by_cell(&stops, None)[0], &stops, &[]).unwrap()
    };
    // B has the second layer and the lower SINR.
    let layers = verdict(&|map| (Some(1 + map as u8), Vec::new()), [14.0, 11.0]);
    assert_eq!((layers.by, layers.better), (PortEvidence::Layers, Some(1)), "{layers:?}");
    assert!(layers.words.contains("1.0 ± ") && layers.words.contains("SINR is 2.9"), "{}", layers.words);
    // A's branches lie 2 dB apart, B's 12.
    let branches = verdict(&|map| (None, vec![-95.0, -97.0 - 10.0 * map]), [10.0, 10.0]);
    assert_eq!((branches.by, branches.better), (PortEvidence::BranchGap, Some(0)), "{branches:?}");
    let alike = verdict(&|_| (Some(2), vec![-95.0, -120.0]), [10.0, 13.0]);
    assert_eq!((alike.by, alike.better, alike.enough), (PortEvidence::Layers, None, true), "{alike:?}");
    let signal = verdict(&|_| (None, vec![-95.0]), [10.0, 13.0]);
    assert_eq!((signal.by, signal.better), (PortEvidence::Sinr, Some(1)));
    assert!(signal.words.contains("a speed test at each turn"), "{}", signal.words);
}

/// A port-map test with a download at each turn, by a line whose load wanders: `gain` is what map B is quicker by.
fn tested(seed: u64, gain: f64) -> (CellSweep, Vec<Option<f64>>) {
    let mut dice = fastrand::Rng::with_seed(seed);
    let mut noise = |spread: f64| spread * ((0..12).map(|_| dice.f64()).sum::<f64>() - 6.0);
    let mut load = 0.0;
    let downloads = (0..16)
        .map(|place| {
            load = 0.7 * load + noise(0.1);
            Some(80.0 * (1.0 + gain * map_at(place)) * f64::exp(load + noise(0.08)))
        })
        .collect();
    (trial(&(0..16).map(|place| 10.0 + 0.5 * f64::from(place % 3)).collect::<Vec<_>>()), downloads)
}

/// What a trial comes to by its own rule of stopping.
fn stopped((whole, downloads): &(CellSweep, Vec<Option<f64>>)) -> PortVerdict {
    let at = |points: usize| {
        let mut so_far = whole.clone();
        so_far.points.truncate(points);
        port_verdict(&so_far, &[], downloads).unwrap()
    };
    [8, 12].map(at).into_iter().find(|found| found.enough).unwrap_or_else(|| at(16))
}

/// Simulated: 400 lines with a wandering load, which the Student interval of the pairs knows nothing of.
#[test]
fn downloads_decide_where_they_were_measured_and_are_seldom_wrong() {
    let count = |gain: f64, better: Option<u8>| {
        let all = (0..400).map(|seed| stopped(&tested(seed, gain)));
        all.filter(|found| found.by == PortEvidence::Download && found.better == better).count()
    };
    let (wrong, missed) = (400 - count(0.0, None), 400 - count(0.6, Some(1)));
    assert!(wrong <= 60, "{wrong} of 400 equal maps told apart");
    assert!(missed <= 20, "{missed} of 400 maps that are 60 % quicker missed");
    let found = stopped(&tested(3, 0.6));
    assert!(
        found.words.contains("% of download") && found.words.starts_with("Map B is better"),
        "{}",
        found.words
    );
    // A test that failed takes its pair along, and no more; with none there is no word of downloads.
    let (whole, mut downloads) = tested(3, 0.6);
    downloads[2] = None;
    let found = port_verdict(&whole, &[], &downloads).unwrap();
    assert_eq!((found.by, found.pairs), (PortEvidence::Download, 7));
    assert_eq!(port_verdict(&whole, &[], &[None; 16]).unwrap().by, PortEvidence::Sinr);
}

#[test]
fn a_trial_asks_a_b_b_a_and_ends() {
    let asked = |measured, verdict| ask_ports(measured, 2.0, verdict).1;
    for (place, map) in [0.0, 1.0, 1.0, 0.0, 0.0, 1.0].into_iter().enumerate() {
        assert!(matches!(asked(place, None), Ask::Planned { angle_deg, .. } if angle_deg == map), "{place}");
    }
    let same = port_verdict(&trial(&[10.0; 8]), &[], &[]).unwrap();
    assert!(same.enough && same.words.contains("Leave it as it is"), "{same:?}");
    assert_eq!(asked(8, Some(&same)), Ask::Set { angle_deg: 0.0 });
    let unsure = port_verdict(&trial(&[10.0, 14.0, 9.0, 11.0, 12.0, 8.0, 13.0, 9.5]), &[], &[]).unwrap();
    assert!(!unsure.enough, "{unsure:?}");
    assert!(matches!(asked(8, Some(&unsure)), Ask::Planned { planned: 16, .. }));
    assert!(matches!(asked(16, Some(&unsure)), Ask::Set { .. }));
    assert_eq!(port_verdict(&trial(&[10.0, 11.0]), &[], &[]), None, "one pair is no interval");
}

#[test]
fn a_score_is_degrees_decibels_and_minutes() {
    let points = (0..360).map(|at| {
        let off = (f64::from(at) - 350.0 + 540.0).rem_euclid(360.0) - 180.0;
        // A 60° beam by the quadratic model: 12 (off / 60)² dB.
        let loss = 12.0 * (off / 60.0) * (off / 60.0);
        TruePoint { azimuth_deg: f64::from(at), rsrp_dbm: -80.0 - loss, sinr_db: 20.0 - loss }
    });
    let truth = Truth { points: points.collect() };
    let found = score(&truth, AimCriterion::Quality, 0.0, 9.0, 8).unwrap();
    assert_eq!((found.best_deg, found.degrees_off), (350.0, 10.0), "over north");
    assert!((found.db_lost - 0.3333).abs() < 1e-3, "{found:?}");
    let words = score_words(&found);
    assert!(words.starts_with("As good as it gets") && words.contains("8 points and 9 minutes"), "{words}");
    let far = score(&truth, AimCriterion::Signal, 170.0, 1.0, 1).unwrap();
    assert!(far.degrees_off == 180.0 && score_words(&far).starts_with("Worth another try"));
    assert_eq!(score(&Truth { points: Vec::new() }, AimCriterion::Speed, 0.0, 0.0, 0), None);
}

proptest! {
    #[test]
    fn a_pair_does_not_care_which_is_first(a in -180.0..180.0f64, b in -180.0..180.0f64) {
        let (one, other) = (pair_check(a, b, 0.7, 2600.0), pair_check(b, a, 0.7, 2600.0));
        prop_assert!((one.between_deg - other.between_deg).abs() < 1e-9);
        prop_assert!((0.0..=90.0).contains(&one.between_deg) && one.coupling_db <= 1e-12);
    }

    #[test]
    fn changing_the_names_of_the_maps_changes_the_sign(sinr in proptest::collection::vec(-5.0..25.0f64, 8)) {
        let found = port_verdict(&trial(&sinr), &[], &[]).unwrap();
        let mut turned = trial(&sinr);
        turned.points.iter_mut().for_each(|point| point.angle_deg = 1.0 - point.angle_deg);
        let other = port_verdict(&turned, &[], &[]).unwrap();
        prop_assert!((found.difference + other.difference).abs() < 1e-9);
        prop_assert_eq!(found.better.map(|map| 1 - map), other.better);
    }
}
