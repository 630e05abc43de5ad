//! What must hold of any round of band trials, whatever is measured: rules of this program, so checked by invariants over
//! made-up rates, not by its own formulas.

use super::trial::{NEED, choice, round, three, trial};
use chrono::{TimeDelta, TimeZone, Utc};
use open_beacon_core::model::*;
use open_beacon_core::trial::judge::{dropped, part_of, winner, within};
use open_beacon_core::trial::next::{Course, Next, moved_mb, next};
use proptest::prelude::*;

/// What a choice brings at a visit: Mbit/s, or how the lock ended.
type Brings<'a> = &'a dyn Fn(usize, usize) -> Result<f64, TrialOutcome>;

/// A round to its end; `brings` by the choice's place and the number of the visit.
fn played(round: &BandRound, brings: Brings) -> (Vec<Trial>, RoundEnd) {
    let mut trials: Vec<Trial> = Vec::new();
    for number in 0..2000 {
        let now = Utc.with_ymd_and_hms(2026, 3, 2, 19, 0, 0).unwrap() + TimeDelta::seconds(20 * number);
        let moved_mb = moved_mb(&trials);
        match next(&Course { round, trials: &trials, need: NEED, moved_mb, now }) {
            Next::End { end } => return (trials, end),
            Next::Visit { choice, block } => {
                let place = round.choices.iter().position(|one| *one == choice).unwrap();
                trials.push(match brings(place, trials.len()) {
                    Ok(mbps) => trial(round, &choice, block, TrialOutcome::Measured, &[mbps, mbps * 1.01]),
                    Err(outcome) => trial(round, &choice, block, outcome, &[]),
                });
            }
        }
    }
    panic!("it goes on and on: {} visits", trials.len());
}

/// Rates of every choice in every block, the same tests for all.
fn measured(of: &BandRound, rates: &[f64]) -> Vec<Trial> {
    let choices = of.choices.len();
    rates
        .iter()
        .enumerate()
        .map(|(at, mbps)| {
            let (block, place) = (at / choices, at % choices);
            trial(of, &of.choices[place], block as u16, TrialOutcome::Measured, &[*mbps])
        })
        .collect()
}

const GOALS: [TrialGoal; 3] = [TrialGoal::Download, TrialGoal::Upload, TrialGoal::Household];

proptest! {
    #![proptest_config(ProptestConfig { cases: 96, ..ProptestConfig::default() })]

    /// Whatever is measured, a round ends, visits each choice once a block, and never one that was given up.
    #[test]
    fn every_round_ends_and_asks_for_nothing_twice(
        rates in prop::collection::vec(0.5_f64..400.0, 60),
        fails in prop::collection::vec(0_u8..10, 60),
        blocks in 1_u16..10,
    ) {
        let of = round(&three(), blocks);
        let brings = |place: usize, number: usize| match (place, fails[number % 60]) {
            (1.., 0) => Err(TrialOutcome::NoService),
            (1.., 1) => Err(TrialOutcome::Failed),
            _ => Ok(rates[number % 60]),
        };
        let (trials, end) = played(&of, &brings);
        prop_assert!(trials.len() <= usize::from(blocks) * of.choices.len(), "{} visits, {end:?}", trials.len());
        for (at, one) in trials.iter().enumerate() {
            let before = &trials[..at];
            prop_assert!(one.block < blocks);
            prop_assert!(before.iter().all(|other| (&other.choice, other.block) != (&one.choice, one.block)));
            let earlier: Vec<Trial> = before.iter().filter(|other| other.block < one.block).cloned().collect();
            let gone = dropped(&earlier, of.goal, &NEED);
            // How it is now is measured all along: the others are told against it.
            prop_assert!(one.choice.is_free() || gone.iter().all(|(choice, _)| *choice != one.choice), "{gone:?}");
        }
    }

    /// A unit of measurement is no matter: ten times all rates, the same winner and the same ones given up.
    #[test]
    fn a_factor_on_all_rates_changes_no_verdict(
        rates in prop::collection::vec(5.0_f64..300.0, 15),
        factor in 0.05_f64..20.0,
    ) {
        let of = round(&three(), 5);
        let scaled: Vec<f64> = rates.iter().map(|rate| rate * factor).collect();
        let (plain, other) = (measured(&of, &rates), measured(&of, &scaled));
        let found = |trials: &[Trial]| winner(trials, TrialGoal::Download, &NEED).map(|one| (one.choice, one.sure));
        prop_assert_eq!(found(&plain), found(&other));
        let names = |trials: &[Trial]| dropped(trials, TrialGoal::Download, &NEED).into_iter().map(|(one, _)| one).collect::<Vec<_>>();
        prop_assert_eq!(names(&plain), names(&other));
    }

    /// What is better by a third in every single test wins and is never given up; nobody is both winner and given up.
    #[test]
    fn what_is_better_every_time_wins(
        rates in prop::collection::vec(5.0_f64..300.0, 12),
        best in 0_usize..3,
        blocks in 2_usize..5,
    ) {
        let of = round(&three(), 5);
        let mut rates = rates[..3 * blocks.min(4)].to_vec();
        for block in rates.chunks_mut(3) {
            let top = block.iter().copied().fold(0.0, f64::max);
            block[best] = top * 1.34;
        }
        let trials = measured(&of, &rates);
        let won = winner(&trials, TrialGoal::Download, &NEED).unwrap();
        prop_assert_eq!(&won.choice, &of.choices[best]);
        prop_assert!(won.ratio.is_none_or(|ratio| ratio > 1.3));
        for goal in GOALS {
            let won = winner(&trials, goal, &NEED).unwrap().choice;
            prop_assert!(dropped(&trials, goal, &NEED).iter().all(|(one, _)| *one != won));
        }
    }

    /// The order in which trials are kept says nothing.
    #[test]
    fn the_order_of_the_record_is_no_matter(
        rates in prop::collection::vec(5.0_f64..300.0, 12),
        turn in 0_usize..12,
    ) {
        let of = round(&three(), 4);
        let trials = measured(&of, &rates);
        let mut turned = trials.clone();
        turned.rotate_left(turn);
        turned.reverse();
        let found = |trials: &[Trial]| winner(trials, TrialGoal::Download, &NEED).map(|one| (one.choice, one.sure));
        prop_assert_eq!(found(&trials), found(&turned));
    }

    /// A visit without a test (no service, a refused lock) takes nothing from what others measured.
    #[test]
    fn a_failed_visit_changes_no_figure_of_others(rates in prop::collection::vec(5.0_f64..300.0, 12)) {
        let of = round(&three(), 4);
        let trials = measured(&of, &rates);
        let absent = choice(BandAccess::Lte, &[20], &[]);
        let mut with = trials.clone();
        with.push(trial(&of, &absent, 0, TrialOutcome::NoService, &[]));
        let found = |trials: &[Trial]| winner(trials, TrialGoal::Download, &NEED);
        prop_assert_eq!(found(&trials), found(&with));
        let given_up = dropped(&with, TrialGoal::Download, &NEED);
        prop_assert!(given_up.iter().any(|(one, _)| *one == absent));
    }

    /// A cap is passed by one visit at the most.
    #[test]
    fn a_cap_holds(cap_mb in 50.0_f64..2000.0, mbps in 20.0_f64..200.0) {
        let of = BandRound { cap_mb: Some(cap_mb), ..round(&three(), 50) };
        let (trials, _) = played(&of, &|place, number| Ok(mbps * [1.0, 1.02, 0.98][(place + number) % 3]));
        let last = trials.last().map_or(0.0, |one| moved_mb(std::slice::from_ref(one)));
        prop_assert!(moved_mb(&trials) - last <= cap_mb, "{} MB moved, the cap is {cap_mb}", moved_mb(&trials));
    }

    /// Every time is in one part of the day, and the parts share all trials out.
    #[test]
    fn the_day_is_shared_out(seconds in prop::collection::vec(0_i64..86_400, 1..40)) {
        let of = round(&three(), 4);
        let zone = chrono_tz::Europe::Oslo;
        let trials: Vec<Trial> = seconds
            .iter()
            .map(|at| {
                let mut made = trial(&of, &of.choices[0], 0, TrialOutcome::Measured, &[50.0]);
                made.started_at += TimeDelta::seconds(*at);
                made
            })
            .collect();
        prop_assert!(trials.iter().all(|one| part_of(one.started_at, zone) < 8));
        let shared: usize = (0..8).map(|part| within(&trials, part, zone).len()).sum();
        prop_assert_eq!(shared, trials.len());
    }
}

/// A choice that does not come up is not tried a second time, and says so; the others go on.
#[test]
fn what_gives_no_service_is_tried_once() {
    for outcome in [TrialOutcome::NoService, TrialOutcome::Failed] {
        let of = round(&three(), 6);
        let (trials, _) = played(&of, &|place, number| {
            if place == 2 { Err(outcome) } else { Ok(100.0 + (number % 4) as f64) }
        });
        let visits = trials.iter().filter(|one| one.choice == of.choices[2]).count();
        assert_eq!(visits, 1, "{outcome:?}");
        assert!(trials.iter().filter(|one| one.choice == of.choices[1]).count() > 1, "{outcome:?}");
    }
}
