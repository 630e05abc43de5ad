//! The number in the hand while the antenna turns.

use super::aim::carrier;
use open_beacon_core::aim::live::{LiveLearner, Trend};
use open_beacon_core::model::*;

fn reading(carriers: Vec<Carrier>) -> Reading {
    Reading { mode: ConnectionMode::Lte, carriers, neighbours: Vec::new() }
}

/// Closed form: a step of 10 dB has shown 1 − e⁻³ = 95 % of itself after three time constants of 1 s.
#[test]
fn the_live_number_settles_in_three_seconds_and_keeps_the_best() {
    let mut learner = LiveLearner::default();
    let mut at = |seconds: f64, dbm: f64| {
        let live = learner.take(&reading(vec![carrier(211, dbm)]), seconds).unwrap();
        (live.rsrp.unwrap(), live.cell_changed)
    };
    assert_eq!(at(0.0, -100.0).0.value, -100.0);
    let mut last = at(0.0, -100.0).0;
    for tenth in 1..=30 {
        last = at(f64::from(tenth) / 10.0, -90.0).0;
    }
    assert!((last.value + 90.0 + 10.0 * (-3.0f64).exp()).abs() < 1e-9, "{last:?}");
    assert_eq!((last.trend, last.best), (Trend::Rising, last.value));
    for tenth in 31..=200 {
        last = at(f64::from(tenth) / 10.0, -95.0).0;
    }
    assert!((last.value + 95.0).abs() < 0.01 && last.best > -91.0 && last.trend == Trend::Steady, "{last:?}");
    assert_eq!(at(20.3, -110.0).0.trend, Trend::Falling);
}

#[test]
fn another_cell_is_told_and_begins_anew_and_the_widest_is_shown() {
    let mut learner = LiveLearner::default();
    let narrow = Carrier { bandwidth_mhz: Some(10.0), ..carrier(7, -70.0) };
    let first = learner.take(&reading(vec![narrow.clone(), carrier(211, -90.0)]), 0.0).unwrap();
    assert_eq!((first.cell.pci, first.cell_changed), (Some(211), false));
    let hopped = learner.take(&reading(vec![carrier(212, -99.0), narrow]), 1.0).unwrap();
    assert!(hopped.cell_changed);
    assert_eq!(hopped.rsrp.unwrap().best, -99.0, "the other cell's best is not this one's");
    let same = learner.take(&reading(vec![carrier(212, -99.0)]), 2.0).unwrap();
    assert!(!same.cell_changed);
    assert!(learner.take(&reading(Vec::new()), 3.0).is_none());
}
