//! When a reading counts. The rules are common practice, no source; these tests hold them to what they promise.

use open_beacon_domain::metrics::{Novelty, RefreshLearner};
use proptest::prelude::*;

/// Looks at a page that is renewed every `period_s`, every `interval_s`, for `duration_s`. Answers how often it
/// counted, how many renewals there were to see, and what was learned.
fn watch(period_s: f64, interval_s: f64, duration_s: f64) -> (usize, usize, Option<f64>) {
    let mut learner = RefreshLearner::default();
    let mut counted = 0;
    let mut contents = std::collections::BTreeSet::new();
    let mut at_s = 0.0;
    while at_s < duration_s {
        let content = (at_s / period_s).floor() as u64;
        contents.insert(content);
        counted += usize::from(learner.look(at_s, content).counts());
        at_s += interval_s;
    }
    (counted, contents.len(), learner.period_s())
}

#[test]
fn a_repeated_page_counts_once() {
    let mut learner = RefreshLearner::default();
    assert_eq!(learner.look(0.0, 1), Novelty::Fresh);
    assert_eq!(learner.look(0.5, 1), Novelty::Repeat);
    assert_eq!(learner.look(1.0, 1), Novelty::Repeat);
    assert_eq!(learner.look(1.5, 2), Novelty::Fresh);
}

#[test]
fn ten_samples_in_ten_seconds_may_be_two() {
    let (counted, renewals, _) = watch(5.0, 1.0, 10.0);
    assert_eq!((counted, renewals), (2, 2));
}

#[test]
fn the_period_is_learned() {
    for (period_s, interval_s) in [(2.0, 0.5), (3.0, 0.7), (10.0, 1.0)] {
        let (counted, renewals, learned) = watch(period_s, interval_s, 120.0);
        assert_eq!(counted, renewals, "period {period_s}");
        let learned = learned.unwrap();
        assert!((learned - period_s).abs() <= interval_s, "{learned} against {period_s}");
    }
}

#[test]
fn a_steady_value_counts_again_after_two_periods_but_not_for_ever() {
    let mut learner = RefreshLearner::default();
    for n in 0..6u32 {
        learner.look(f64::from(n) * 2.0, u64::from(n));
    }
    // From now on the page does not change.
    let looks: Vec<Novelty> = (1..40).map(|n| learner.look(10.0 + f64::from(n), 5)).collect();
    let same = looks.iter().filter(|novelty| **novelty == Novelty::SameAgain).count();
    assert_eq!(same, 3);
    assert_eq!(looks.last(), Some(&Novelty::Frozen));
    assert_eq!(learner.look(60.0, 6), Novelty::Fresh, "a change thaws it");
}

#[test]
fn the_first_sight_is_not_timed() {
    let mut learner = RefreshLearner::default();
    learner.look(0.0, 1);
    learner.look(0.1, 2);
    for n in 0..4u32 {
        learner.look(3.1 + 3.0 * f64::from(n), 3 + u64::from(n));
    }
    assert!((learner.period_s().unwrap() - 3.0).abs() < 1e-9, "the short first gap must not count");
}

proptest! {
    /// Never more samples than renewals when the page changes each time, whatever the rhythm.
    #[test]
    fn never_counted_twice(period_s in 1.0..10.0f64, interval_s in 0.2..5.0f64) {
        let (counted, renewals, _) = watch(period_s, interval_s, 90.0);
        prop_assert_eq!(counted, renewals);
    }
}
