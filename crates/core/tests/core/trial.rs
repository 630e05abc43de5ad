//! Band trials: what a gateway is told, whether it obeyed, how long a plan is, what comes next, who wins.

use super::aim_world::Dice;
use chrono::{DateTime, TimeDelta, TimeZone, Utc};
use open_beacon_core::kit::need::Need;
use open_beacon_core::model::*;
use open_beacon_core::stats::{BlockValue, block_fit, blocks_planned};
use open_beacon_core::trial::confirm::{Confirmed, confirm, confirm_undone};
use open_beacon_core::trial::judge::{
    BlockComparison, DECIDING, Dropped, ScoringContext, Winner, by_hour, dropped, winner,
};
use open_beacon_core::trial::next::{Course, Next, next};
use open_beacon_core::trial::order::{OrderError, lock_values, order};
use open_beacon_core::trial::plan::{planned_blocks, visit_scatter};
use open_beacon_core::words;
use proptest::prelude::*;
use std::cell::RefCell;
use uuid::Uuid;

pub(crate) const NEED: Need = Need { down_mbps: 20.0, up_mbps: 5.0, loaded_latency_ms: None };

pub(crate) fn choice(access: BandAccess, lte: &[u16], nr: &[u16]) -> BandChoice {
    BandChoice { access, lte: lte.to_vec(), nr: nr.to_vec() }
}

pub(crate) fn band(name: &str) -> BandName {
    let (kind, number) = name.split_at(1);
    let technology = if kind == "B" { Technology::Lte } else { Technology::Nr };
    BandName { technology, band: number.parse().unwrap() }
}

pub(crate) fn carrier(name: &str, role: CarrierRole, rsrp: f64, sinr: f64, mhz: f64) -> Carrier {
    let one = band(name);
    let mut carrier = Carrier::empty(one.technology, role);
    carrier.band = Some(one.band);
    carrier.rsrp_dbm = Some(rsrp);
    carrier.sinr_db = Some(sinr);
    carrier.bandwidth_mhz = Some(mhz);
    carrier
}

/// Band n is bit n − 1, from band 65 on in the second word (common practice, no source): B3 is 4, B20 is 0x80000, B66 is
/// bit 1 of the second word; n78 is bit 13 there, 8192.
#[test]
fn a_choice_is_told_as_lists_and_masks() {
    let has: Vec<BandName> = ["B3", "B20", "B66", "n28", "n78"].map(band).to_vec();
    let told = |choice: &BandChoice| {
        let order = order(choice, Some(&has)).unwrap();
        lock_values(&order, &LockRecipe::default())
    };
    let of = |values: &[(&str, String)], name: &str| {
        values.iter().find(|(one, _)| *one == name).map(|(_, value)| value.clone()).unwrap()
    };
    let anchor = told(&choice(BandAccess::Nsa, &[66, 3], &[]));
    assert_eq!(of(&anchor, "lte_bands"), "3,66");
    assert_eq!((of(&anchor, "lte_mask"), of(&anchor, "lte_mask_high")), ("4".into(), "2".into()));
    // What is left free is told as all that the gateway has.
    assert_eq!((of(&anchor, "nr_bands"), of(&anchor, "nr_mask_high_hex")), ("28,78".into(), "2000".into()));
    assert_eq!((of(&anchor, "nr_mask"), of(&anchor, "access")), ((1_u64 << 27).to_string(), "nsa".into()));
    let lte = told(&choice(BandAccess::Lte, &[20], &[]));
    assert_eq!((of(&lte, "lte_mask_hex"), of(&lte, "nr_bands")), ("80000".into(), String::new()));
    let words = LockRecipe {
        access_words: vec![Named { name: "sa".into(), value: "NR5G".into() }],
        ..LockRecipe::default()
    };
    let sa = order(&choice(BandAccess::Sa, &[], &[]), Some(&has)).unwrap();
    assert_eq!(of(&lock_values(&sa, &words), "access"), "NR5G");
    assert_eq!(
        words::trial::masks(&sa),
        [("NR bands 1 to 64".into(), 1 << 27), ("NR bands 65 to 128".into(), 1 << 13)]
    );
}

#[test]
fn what_the_gateway_lacks_and_no_band_at_all_are_refused_with_what_would_work() {
    let has: Vec<BandName> = ["B3", "B20"].map(band).to_vec();
    let refused = |choice: BandChoice| order(&choice, Some(&has)).unwrap_err().to_string();
    assert_eq!(refused(choice(BandAccess::Lte, &[3, 7], &[])), "This gateway has no B7. It has B3 and B20.");
    assert!(refused(choice(BandAccess::Sa, &[], &[])).starts_with("This would leave no band at all"));
    assert!(refused(choice(BandAccess::Nsa, &[3], &[])).contains("for instance B3"));
    assert_eq!(order(&choice(BandAccess::Lte, &[], &[]), None), Err(OrderError::Unknown));
    assert!(order(&choice(BandAccess::Lte, &[3], &[]), None).is_ok());
}

#[test]
fn a_lock_is_read_back_from_mode_and_bands() {
    let reading = |mode, names: &[&str]| Reading {
        mode,
        carriers: names.iter().map(|name| carrier(name, CarrierRole::Unknown, -90.0, 10.0, 10.0)).collect(),
        neighbours: Vec::new(),
    };
    use ConnectionMode::{Lte, NoService, Nsa, Sa};
    let cases = [
        (choice(BandAccess::Nsa, &[20], &[]), reading(Nsa, &["B20", "n78"]), Confirmed::Yes),
        // NR has not been added yet.
        (choice(BandAccess::Nsa, &[20], &[]), reading(Lte, &["B20"]), Confirmed::NotYet),
        (choice(BandAccess::Nsa, &[20], &[]), reading(Nsa, &["B3", "n78"]), Confirmed::Otherwise),
        (choice(BandAccess::Nsa, &[], &[78]), reading(Sa, &["n78"]), Confirmed::Otherwise),
        (choice(BandAccess::Sa, &[], &[]), reading(Nsa, &["B3", "n78"]), Confirmed::Otherwise),
        (choice(BandAccess::Sa, &[], &[78]), reading(Sa, &["n78"]), Confirmed::Yes),
        (choice(BandAccess::Lte, &[], &[]), reading(Nsa, &["B3", "n78"]), Confirmed::Otherwise),
        (choice(BandAccess::Any, &[], &[28]), reading(Lte, &["B3"]), Confirmed::NotYet),
        (BandChoice::default(), reading(NoService, &[]), Confirmed::NotYet),
        (BandChoice::default(), reading(Lte, &["B3"]), Confirmed::Yes),
    ];
    for (choice, reading, wanted) in cases {
        assert_eq!(
            confirm(&choice, &reading),
            wanted,
            "{} with {:?}",
            words::trial::choice_words(&choice),
            reading.mode
        );
    }
}

/// A connection that the lock would allow as well does not show that it is gone, where more was used before it.
#[test]
fn an_undone_lock_shows_what_it_shut_out() {
    let reading = |bands: &[&str]| Reading {
        mode: if bands.is_empty() { ConnectionMode::NoService } else { ConnectionMode::Nsa },
        carriers: bands.iter().map(|name| carrier(name, CarrierRole::Unknown, -90.0, 10.0, 10.0)).collect(),
        neighbours: Vec::new(),
    };
    let free = BandChoice::default();
    let b3 = choice(BandAccess::Lte, &[3], &[]);
    let b20 = choice(BandAccess::Lte, &[20], &[]);
    let intent = |good: &BandChoice, before: &[&str]| LockIntent {
        site_id: SiteId(Uuid::from_u128(1)),
        wanted: choice(BandAccess::Lte, &[20], &[]),
        good: good.clone(),
        before: reading(before).carriers,
        noted_at: Utc.with_ymd_and_hms(2026, 11, 9, 9, 0, 0).unwrap(),
    };
    let cases = [
        (&free, &["B3", "n78"][..], &["B20"][..], Confirmed::Otherwise),
        (&free, &["B3", "n78"], &["B20", "n78"], Confirmed::Yes),
        (&free, &["B3", "n78"], &["B3"], Confirmed::Yes),
        (&free, &["B3", "n78"], &[], Confirmed::NotYet),
        // It used no other band before: nothing else is expected of it.
        (&free, &["B20"], &["B20"], Confirmed::Yes),
        (&free, &[], &["B20"], Confirmed::Yes),
        (&b3, &["B3"], &["B20"], Confirmed::Otherwise),
        (&b3, &["B3"], &["B3"], Confirmed::Yes),
        // A restart had taken the lock away that it goes back to: what it used then, it may not use now.
        (&b20, &["B3", "n78"], &["B20"], Confirmed::Yes),
        (&b20, &["B3", "n78"], &["B3"], Confirmed::Otherwise),
    ];
    for (good, before, now, wanted) in cases {
        assert_eq!(confirm_undone(&intent(good, before), &reading(now)), wanted, "{before:?}, then {now:?}");
    }
}

/// Against simulated power (tests/vectors/make_trials.py): the plan's length reaches 80 % and is not much longer than it must be.
#[test]
fn a_plan_is_as_long_as_the_power_asks() {
    let text = include_str!("../../../../tests/vectors/power.csv");
    let mut reader = csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(text.as_bytes());
    let (mut long_enough, mut not_too_long) = (0, 0);
    for row in reader.records().map(|row| row.unwrap()) {
        let of = |column: usize| row[column].parse::<f64>().unwrap();
        let (choices, blocks, power) = (of(0) as usize, of(1) as u16, of(4));
        let planned = blocks_planned(choices, of(2), of(3), DECIDING);
        // A hundredth for the simulation's own scatter and the t approximation.
        if blocks >= planned {
            assert!(power >= 0.79, "{row:?}: {planned} planned");
            long_enough += 1;
        } else if f64::from(blocks) <= 0.7 * f64::from(planned) {
            assert!(power < 0.81, "{row:?}: {planned} planned");
            not_too_long += 1;
        }
    }
    assert!(long_enough >= 100 && not_too_long >= 100, "{long_enough} and {not_too_long}");
}

/// A whole round as it is played, stopped early where the winner is clear: hours that drift, visits with a minute of their own, and now
/// and then a test that went wrong, which the analysis knows nothing of. The first choice is `better`, times.
fn drawn_round(choices: &[BandChoice], blocks: u16, better: f64, seed: u64) -> (Winner, RoundEnd) {
    let dice = RefCell::new(Dice::seeded(seed));
    let normal = || dice.borrow_mut().normal();
    let of = round(choices, blocks);
    let (mut trials, mut hour): (Vec<Trial>, f64) = (Vec::new(), 0.0);
    loop {
        match next(&Course { round: &of, trials: &trials, need: NEED, moved_mb: 0.0, now: begins() }) {
            Next::End { end } => return (winner(&trials, TrialGoal::Download, &NEED).unwrap(), end),
            Next::Visit { choice, block } => {
                hour += 0.05 * normal();
                let minute = hour + 0.2 * 0.5_f64.sqrt() * normal();
                let own = if choice == choices[0] { better.ln() } else { 0.0 };
                let test = || {
                    let stray = if dice.borrow_mut().next() < 0.02 { -0.7 } else { 0.0 };
                    (4.0 + own + minute + stray + 0.2 * 0.5_f64.sqrt() * normal()).exp()
                };
                let rates = [test(), test()];
                trials.push(trial(&of, &choice, block, TrialOutcome::Measured, &rates));
            }
        }
    }
}

/// Four times in five, as promised, and no more than one in ten where all are alike. 400 rounds of each kind: two standard errors are
/// 4 and 3 %.
#[test]
fn a_planned_round_finds_the_best_four_times_in_five() {
    let all: Vec<BandChoice> =
        [3_u16, 20, 7, 1, 28].map(|band| choice(BandAccess::Lte, &[band], &[])).to_vec();
    for choices in [2, 3, 5] {
        let choices = &all[..choices];
        let blocks = planned_blocks(choices.len(), 0.2, visit_scatter(0.2));
        let share = |better: f64, counts: &dyn Fn(&(Winner, RoundEnd)) -> bool| {
            let rounds = (0..400).map(|seed| drawn_round(choices, blocks, better, seed));
            f64::from(rounds.filter(counts).count() as u32) / 400.0
        };
        let found =
            share(1.2, &|(best, end)| best.choice == choices[0] && (best.sure || *end == RoundEnd::Clear));
        let mistaken = share(1.0, &|(best, _)| best.sure);
        println!("{} choices, {blocks} blocks: {found} found, {mistaken} mistaken", choices.len());
        assert!((0.76..=0.90).contains(&found), "{} choices, {blocks} blocks: {found}", choices.len());
        assert!(mistaken <= 0.13, "{} choices, {blocks} blocks: {mistaken}", choices.len());
    }
}

/// Against statsmodels' least squares (tests/vectors/make_trials.py), with gaps where choices were dropped.
#[test]
fn the_hour_is_taken_out_as_the_reference_library_does() {
    let text = include_str!("../../../../tests/vectors/blocks.csv");
    let mut reader = csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(text.as_bytes());
    let rows: Vec<_> = reader.records().map(|row| row.unwrap()).collect();
    assert_eq!(rows.len(), 4);
    for row in rows {
        let values: Vec<BlockValue> = row[0]
            .split(' ')
            .map(|one| {
                let parts: Vec<&str> = one.split(':').collect();
                BlockValue {
                    treatment: parts[0].parse().unwrap(),
                    block: parts[1].parse().unwrap(),
                    value: parts[2].parse().unwrap(),
                }
            })
            .collect();
        let fit = block_fit(&values).unwrap();
        let (difference, half) = fit.difference(fit.effects.len() - 1, 0, 0.95).unwrap();
        for (here, column) in [(difference, 1), (half, 2), (fit.spread, 3)] {
            let there: f64 = row[column].parse().unwrap();
            assert!(((here - there) / there).abs() < 1e-8, "{here} against {there}");
        }
    }
    // Two treatments that never met cannot be told from their blocks.
    let apart = [(0, 0), (1, 1)].map(|(treatment, block)| BlockValue { treatment, block, value: 1.0 });
    assert_eq!(block_fit(&apart), None);
}

fn begins() -> DateTime<Utc> {
    Utc.with_ymd_and_hms(2026, 3, 2, 19, 0, 0).unwrap()
}

pub(crate) fn round(choices: &[BandChoice], blocks: u16) -> BandRound {
    BandRound {
        id: RoundId(Uuid::from_u128(1)),
        site_id: SiteId(Uuid::nil()),
        setup_id: None,
        goal: TrialGoal::Download,
        choices: choices.to_vec(),
        tests_a_visit: 2,
        blocks,
        difference: 0.2,
        cap_mb: None,
        by_hand: false,
        started_at: begins(),
        ended_at: None,
        end: None,
        reason: None,
        kept: None,
        archived_at: None,
    }
}

pub(crate) fn trial(
    round: &BandRound,
    choice: &BandChoice,
    block: u16,
    outcome: TrialOutcome,
    mbps: &[f64],
) -> Trial {
    let started_at = begins() + TimeDelta::minutes(i64::from(block) * 5);
    let test = |mbps: &f64| TrialTest {
        surroundings: None,
        course: None,
        started_at,
        figures: SpeedFigures {
            download_mbps: Some(*mbps),
            upload_mbps: Some(10.0),
            bytes_down: (*mbps * 1e6) as u64,
            ..SpeedFigures::default()
        },
        problem: None,
    };
    Trial {
        run_id: None,
        id: TrialId(Uuid::nil()),
        site_id: round.site_id,
        round_id: round.id,
        choice: choice.clone(),
        block,
        started_at,
        reattach_s: None,
        outcome,
        reason: None,
        samples: Vec::new(),
        tests: mbps.iter().map(test).collect(),
        archived_at: None,
    }
}

/// Plays a round to its end: `rate` of a choice in a block, Mbit/s; none for no service.
fn play(round: &BandRound, rate: impl Fn(&BandChoice, u16) -> Option<f64>) -> (Vec<Trial>, RoundEnd) {
    let mut trials: Vec<Trial> = Vec::new();
    loop {
        let moved_mb = open_beacon_core::trial::next::moved_mb(&trials);
        let now = begins() + TimeDelta::minutes(trials.len() as i64);
        match next(&Course { round, trials: &trials, need: NEED, moved_mb, now }) {
            Next::End { end } => return (trials, end),
            Next::Visit { choice, block } => trials.push(match rate(&choice, block) {
                Some(mbps) => {
                    // A little scatter, the same for each test of a place.
                    let off = 1.0 + 0.02 * f64::from((trials.len() as u32 * 7) % 5) - 0.04;
                    trial(round, &choice, block, TrialOutcome::Measured, &[mbps * off, mbps / off])
                }
                None => trial(round, &choice, block, TrialOutcome::NoService, &[]),
            }),
        }
    }
}

pub(crate) fn three() -> Vec<BandChoice> {
    vec![BandChoice::default(), choice(BandAccess::Lte, &[3], &[]), choice(BandAccess::Sa, &[], &[])]
}

#[test]
fn blocks_are_turned_and_a_falling_hour_favours_none() {
    let all = three();
    // The line loses a tenth with every visit's block; the second is 10 % better than the others at any time.
    let (trials, end) = play(&round(&all, 12), |one, block| {
        Some(100.0 * 0.9_f64.powi(i32::from(block)) * if one.access == BandAccess::Lte { 1.1 } else { 1.0 })
    });
    let order: Vec<usize> =
        trials.iter().take(6).map(|one| all.iter().position(|other| *other == one.choice).unwrap()).collect();
    assert_eq!(order, [0, 1, 2, 2, 1, 0]);
    assert_eq!(end, RoundEnd::Clear);
    let best = winner(&trials, TrialGoal::Download, &NEED).unwrap();
    assert_eq!((best.choice, best.sure), (all[1].clone(), true));
    assert!((best.ratio.unwrap() - 1.1).abs() < 0.03, "{:?}", best.ratio);
    assert!(trials.len() < 36, "it stops when the winner is clear: {} visits", trials.len());
}

#[test]
fn hopeless_choices_are_dropped_with_the_reason() {
    let all = three();
    let (trials, end) = play(&round(&all, 12), |one, _| match one.access {
        BandAccess::Any => Some(100.0),
        BandAccess::Sa => None,
        _ => Some(30.0),
    });
    assert_eq!(end, RoundEnd::Clear);
    let visits = |one: &BandChoice| trials.iter().filter(|trial| trial.choice == *one).count();
    assert_eq!((visits(&all[1]), visits(&all[2])), (1, 1), "one look is enough");
    let out = dropped(&trials, TrialGoal::Download, &NEED);
    assert!(matches!(out[0], (_, Dropped::Slower { ratio, .. }) if ratio < 0.4), "{out:?}");
    assert_eq!(out[1].1, Dropped::NoService);
}

#[test]
fn a_round_ends_at_its_cap_its_hour_its_plan_and_when_locks_are_ignored() {
    let all = three();
    let flat = |_: &BandChoice, block: u16| Some(100.0 + 7.0 * f64::from(block % 3));
    let capped = BandRound { cap_mb: Some(900.0), ..round(&all, 12) };
    assert_eq!(play(&capped, flat).1, RoundEnd::CapReached);
    let noisy = |one: &BandChoice, block: u16| {
        let place = u16::from(one.is_free()) + 2 * u16::from(one.access == BandAccess::Sa);
        Some(100.0 * [0.6, 1.5, 0.9, 1.3, 0.7, 1.1][usize::from((block * 5 + place * 3) % 6)])
    };
    assert_eq!(play(&round(&all, 4), noisy).1, RoundEnd::Planned);
    let (long, end) = play(&round(&all, 400), noisy);
    assert!(matches!(end, RoundEnd::HourOver | RoundEnd::Clear), "{end:?} after {}", long.len());
    let of = round(&all, 12);
    let ignored: Vec<Trial> = all
        .iter()
        .map(|one| {
            let outcome = if one.is_free() { TrialOutcome::Measured } else { TrialOutcome::Ignored };
            trial(&of, one, 0, outcome, if one.is_free() { &[100.0] } else { &[] })
        })
        .collect();
    let course = Course { round: &of, trials: &ignored, need: NEED, moved_mb: 0.0, now: begins() };
    assert_eq!(next(&course), Next::End { end: RoundEnd::Ignored });
}

#[test]
fn a_visit_that_was_broken_off_is_made_again() {
    let all = three();
    let of = round(&all, 12);
    let broken = vec![trial(&of, &all[0], 0, TrialOutcome::Unfinished, &[100.0])];
    let course = Course { round: &of, trials: &broken, need: NEED, moved_mb: 0.0, now: begins() };
    assert_eq!(next(&course), Next::Visit { choice: all[0].clone(), block: 0 });
}

#[test]
fn winners_differ_by_goal_and_by_hour() {
    let (a, b) = (BandChoice::default(), choice(BandAccess::Sa, &[], &[]));
    let of = round(&[a.clone(), b.clone()], 8);
    let mut all = Vec::new();
    for block in 0..8 {
        for (one, down, up, ms) in [(&a, 100.0, 10.0, 60.0), (&b, 60.0, 14.0, 40.0)] {
            // By day the second is the faster one.
            let day = block >= 4;
            let down = if day && *one == b { 130.0 } else { down };
            let mut made = trial(&of, one, block, TrialOutcome::Measured, &[down, down * 1.01]);
            made.started_at = begins() - TimeDelta::hours(if day { 7 } else { 0 });
            for test in &mut made.tests {
                test.figures.upload_mbps = Some(up * (1.0 + 0.01 * f64::from(block % 3)));
                test.figures.download_latency_ms = Some(ms);
            }
            all.push(made);
        }
    }
    let best = |goal| winner(&all, goal, &NEED).unwrap().choice;
    assert_eq!((best(TrialGoal::Upload), best(TrialGoal::Latency)), (b.clone(), b.clone()));
    let ruler = ScoringContext {
        goal: TrialGoal::Download,
        need: NEED,
        offers: &[],
        link: LinkAssumptions::default(),
        zone: chrono_tz::UTC,
    };
    let hours: Vec<(u32, BandChoice)> =
        by_hour(&all, &ruler).into_iter().map(|one| (one.from_hour, one.winner.choice)).collect();
    assert_eq!(hours, [(12, b), (18, a)]);
}

proptest! {
    /// A mask names the bands it was made of, and no others.
    #[test]
    fn orders_name_exactly_their_bands(lte in prop::collection::btree_set(1_u16..=88, 1..6)) {
        let lte: Vec<u16> = lte.into_iter().collect();
        let told = order(&choice(BandAccess::Lte, &lte, &[]), None).unwrap();
        prop_assert_eq!(told.lte_mask.bands(), lte);
    }

    /// What an hour does to all choices alike changes no ratio.
    #[test]
    fn an_hour_that_hits_all_alike_changes_nothing(
        rates in prop::collection::vec(20.0_f64..200.0, 12),
        hours in prop::collection::vec(0.3_f64..1.0, 4),
    ) {
        let of = round(&three(), 4);
        let made = |hours: &[f64]| -> Vec<Trial> {
            (0..12)
                .map(|at| {
                    let (block, place) = (at / 3, at % 3);
                    let mbps = rates[at] * hours[block];
                    trial(&of, &of.choices[place], block as u16, TrialOutcome::Measured, &[mbps])
                })
                .collect()
        };
        let plain = BlockComparison::of(&made(&[1.0; 4]), TrialGoal::Download, &NEED);
        let busy = BlockComparison::of(&made(&hours), TrialGoal::Download, &NEED);
        for (one, other) in [(0, 1), (1, 2), (2, 0)] {
            prop_assert!((plain.ratio(one, other) / busy.ratio(one, other) - 1.0).abs() < 1e-9);
        }
    }
}

/// A learned wait is long enough for what it was learned from, and is not learned again from the same.
#[test]
fn a_learned_wait_covers_what_it_took() {
    use open_beacon_core::trial::wait::{given_up_after_s, learned_wait_s};
    proptest!(|(took_s in 1.0..300.0_f64, wait_s in 5.0..300.0_f64)| {
        match learned_wait_s(took_s, wait_s) {
            None => prop_assert!(took_s <= wait_s),
            Some(learned_s) => {
                prop_assert!(learned_s >= took_s && learned_s <= 300.0 && learned_s > wait_s);
                prop_assert_eq!(learned_wait_s(took_s, learned_s), None);
            }
        }
        prop_assert!(given_up_after_s(wait_s) >= wait_s.max(30.0) && given_up_after_s(wait_s) <= 300.0);
    });
    assert_eq!(
        words::trial::late_words(40.2, 30.0, 65.0),
        "The gateway was attached 40\u{202f}s after it was told; 30\u{202f}s were set. From now on 65\u{202f}s are waited for."
    );
}
