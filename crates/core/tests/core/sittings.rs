//! Sittings: which tests belong together, and that comparisons by them are as sure as they say.

use crate::samples::*;
use chrono::Duration;
use fastrand::Rng;
use open_beacon_core::judge::*;
use open_beacon_core::model::*;
use open_beacon_core::stats::*;
use proptest::prelude::*;

fn tests_at(minutes: &[i64]) -> Vec<SpeedTest> {
    minutes
        .iter()
        .enumerate()
        .map(|(n, at)| test(n as u128, morning() + Duration::minutes(*at), 10.0, 1.0))
        .collect()
}

/// How many tests each sitting has, in order of time.
fn sizes(minutes: &[i64]) -> Vec<usize> {
    let (mut tests, mut known) = (tests_at(minutes), Vec::new());
    assign_sittings(SiteId(id(1)), &mut tests, &mut known);
    known.sort_by_key(|one| one.started_at);
    known.iter().map(|one| tests.iter().filter(|test| test.sitting_id == Some(one.id)).count()).collect()
}

#[test]
fn tests_within_half_an_hour_are_one_sitting_of_an_hour_at_the_most() {
    assert_eq!(sizes(&[0, 1, 2]), [3]);
    assert_eq!(sizes(&[0, 30, 61]), [2, 1]);
    assert_eq!(sizes(&[0, 31]), [1, 1]);
    assert_eq!(sizes(&[0, 25, 50, 75, 100]), [3, 2], "an hour, then the next");
    assert_eq!(sizes(&[0, 600, 1, 601]), [2, 2], "in any order of entry");
}

#[test]
fn a_later_test_joins_the_sitting_that_is_there() {
    let (mut tests, mut known) = (tests_at(&[0, 10]), Vec::new());
    assign_sittings(SiteId(id(1)), &mut tests[..1], &mut known);
    assign_sittings(SiteId(id(1)), &mut tests[1..], &mut known);
    assert_eq!((known.len(), tests[0].sitting_id), (1, tests[1].sitting_id));
    assert_eq!(known[0].ended_at, morning() + Duration::minutes(10));
    // Another site's sitting takes nothing.
    let mut other = tests_at(&[5]);
    assign_sittings(SiteId(id(2)), &mut other, &mut known);
    assert_eq!(known.len(), 2);
}

proptest! {
    /// Every test gets one; none is longer than its hour; the same record always gives the same sittings.
    #[test]
    fn sittings_are_hours(minutes in prop::collection::vec(0_i64..3000, 1..40)) {
        let run = || {
            let (mut tests, mut known) = (tests_at(&minutes), Vec::new());
            assign_sittings(SiteId(id(1)), &mut tests, &mut known);
            (tests, known)
        };
        let (tests, known) = run();
        prop_assert!(tests.iter().all(|test| test.sitting_id.is_some()));
        for one in &known {
            prop_assert!(one.ended_at - one.started_at <= Duration::minutes(SITTING_LENGTH_MIN));
        }
        prop_assert_eq!((tests, known), run());
    }

    /// The order of tests does not matter, and swapping the sides turns the ratio over.
    #[test]
    fn ratios_over_sittings_turn_over(a in prop::collection::vec((0_u8..6, 1.0..1e3f64), 1..12), b in prop::collection::vec((0_u8..6, 1.0..1e3f64), 1..12)) {
        let there = ratio_over_sittings(&a, &b, COVERAGE).unwrap();
        let back = ratio_over_sittings(&b, &a, COVERAGE).unwrap();
        prop_assert!((there.ratio * back.ratio - 1.0).abs() < 1e-9);
        prop_assert_eq!(there.estimate.is_some(), back.estimate.is_some());
        let mut turned = a.clone();
        turned.reverse();
        prop_assert!((ratio_over_sittings(&turned, &b, COVERAGE).unwrap().ratio / there.ratio - 1.0).abs() < 1e-9);
    }
}

/// No true difference. An hour is calm or busy (not normal: two humps and a uniform part), tests in it scatter by a
/// triangular factor: not the model of the interval. Share of comparisons in which a clear difference is called.
fn false_clear(sittings: usize, tests: usize, same_hours: bool) -> f64 {
    const ROUNDS: usize = 200;
    let mut dice = Rng::with_seed(20_261_128);
    let mut wrong = 0;
    for _ in 0..ROUNDS {
        let hour = |dice: &mut Rng| if dice.f64() < 0.4 { 0.45 } else { 1.0 } * (0.8 + 0.4 * dice.f64());
        let hours: Vec<f64> = (0..sittings).map(|_| hour(&mut dice)).collect();
        let mut side = |first: usize| -> Vec<(usize, f64)> {
            let mut values = Vec::new();
            for (at, shared) in hours.iter().enumerate() {
                let load = if same_hours { *shared } else { hour(&mut dice) };
                for _ in 0..tests {
                    values.push((first + at, 200.0 * load * (0.85 + 0.15 * (dice.f64() + dice.f64()))));
                }
            }
            values
        };
        let (here, there) = (side(0), side(if same_hours { 0 } else { 100 }));
        let verdict = compare_figure(SpeedFigure::Download, &here, &there).unwrap().verdict;
        wrong += usize::from(matches!(verdict, VersusVerdict::ClearGain | VersusVerdict::ClearLoss));
    }
    wrong as f64 / ROUNDS as f64
}

/// The intervals are of 90 %: a difference that is none may be called clear in 10 % of cases, give or take what a
/// distribution that is not the model's costs. Counted by tests it was 54 to 84 %.
#[test]
fn a_difference_that_is_none_is_seldom_called_clear() {
    assert_eq!(false_clear(1, 3, false), 0.0);
    assert_eq!(false_clear(2, 6, false), 0.0);
    assert_eq!(false_clear(1, 6, true), 0.0);
    for (sittings, tests, same_hours) in
        [(3, 3, false), (3, 12, false), (6, 3, false), (2, 3, true), (3, 3, true), (6, 6, true)]
    {
        let share = false_clear(sittings, tests, same_hours);
        assert!(share <= 0.125, "{sittings} sittings of {tests}, shared {same_hours}: {share}");
    }
}

/// By hand: sittings' geometric means √(4·16) = 8 and 2; over sittings √(8·2) = 4.
#[test]
fn the_figure_is_a_geometric_mean_of_sittings_not_of_tests() {
    let values = [(1, 4.0), (1, 16.0), (2, 2.0), (2, 2.0), (2, 2.0)];
    assert!((geometric_mean_over_sittings(&values).unwrap() - 4.0).abs() < 1e-12);
    assert_eq!(geometric_mean_over_sittings::<u8>(&[]), None);
    assert_eq!(geometric_mean_over_sittings(&[(1, 0.0)]), None);
}
