//! What is missing of every setup, and what comes next.

use crate::samples::*;
use chrono::{DateTime, Duration, TimeZone, Utc};
use chrono_tz::Europe::Oslo;
use open_beacon_core::judge::*;
use open_beacon_core::model::*;
use open_beacon_core::words;
use proptest::prelude::*;

/// A setup that was read, with three tests of about `down` in each of `sittings`: days from the first, and hours in Oslo.
fn tested(label: &str, down: f64, sittings: &[(i64, u32)]) -> SetupEvidence {
    let mut all = evidence(label, &vec![down; 3 * sittings.len()]);
    for (n, test) in all.tests.iter_mut().enumerate() {
        let (day, hour) = sittings[n / 3];
        let begins = Oslo.with_ymd_and_hms(2026, 3, 2, hour, 0, 0).unwrap().with_timezone(&Utc);
        test.started_at = begins + Duration::days(day) + Duration::minutes(n as i64 % 3);
        test.sitting_id =
            Some(SittingId(id(test.id.0.as_u128() / 3 + u128::from(hour) * 100 + day as u128 * 9999)));
    }
    let heard = RadioDigest::of([sample(1, 1, Activity::Trickle, vec![lte(3, 211, -90.0, 15.0)])].iter());
    all.radio.push((RunId(id(1)), heard));
    all
}

fn list(setups: &[SetupEvidence], in_place: usize, now: DateTime<Utc>) -> Worklist {
    let place = setups.get(in_place).map(|setup| setup.setup_id);
    worklist(setups.iter().map(|setup| WorkRow::of(setup, Oslo)).collect(), place, None, now, Oslo)
}

fn noon() -> DateTime<Utc> {
    Oslo.with_ymd_and_hms(2026, 3, 20, 12, 0, 0).unwrap().with_timezone(&Utc)
}

const THREE_HOURS: [(i64, u32); 3] = [(0, 9), (1, 14), (2, 20)];

#[test]
fn each_setup_says_what_it_lacks() {
    let mut unread = tested("C", 20.0, &[(0, 9)]);
    unread.radio.clear();
    let setups =
        [tested("A", 20.0, &THREE_HOURS), tested("B", 22.0, &[(0, 9), (1, 14)]), unread, evidence("D", &[])];
    let found = list(&setups, 0, noon());
    let missing: Vec<&[Missing]> = found.rows.iter().map(|row| &row.missing[..]).collect();
    assert_eq!(missing[0], []);
    assert_eq!(missing[1], [Missing::Sittings { sittings: 1 }, Missing::Evening]);
    assert_eq!(missing[2], [Missing::Reading, Missing::Sittings { sittings: 2 }, Missing::Evening]);
    assert_eq!(missing[3][..2], [Missing::Reading, Missing::Tests { tests: 3 }]);
    assert_eq!(found.rows[0].hours, [9, 14, 20]);
    assert_eq!((found.rows[0].tests, found.rows[0].sittings), (9, 3));
    assert!((found.rows[0].down_mbps.unwrap() - 20.0).abs() < 1e-9);
    let said: Vec<String> = found.rows.iter().map(words::worklist::missing).collect();
    assert_eq!(said[..2], ["Nothing is missing", "Missing: another hour, the evening"]);
    assert_eq!(said[3], "Missing: a reading, three speed tests, three other hours, the evening");
}

/// What is clearly slower needs no more tests; what comes near the fastest does.
#[test]
fn what_is_behind_is_left_alone() {
    let slow = tested("slow", 10.0, &[(0, 9)]);
    let found =
        list(&[tested("fast", 100.0, &THREE_HOURS), slow, tested("near", 75.0, &[(0, 9)])], 0, noon());
    assert!(found.rows[1].behind && found.rows[1].missing.is_empty());
    assert!(!found.rows[2].behind && !found.rows[2].missing.is_empty());
    assert_eq!(found.next.unwrap().label, "near");
    assert_eq!(words::worklist::missing(&found.rows[1]), "Clearly slower than the fastest");
    // Slow down and the fastest up: it may be the one that is wanted.
    let mut uploads = tested("uploads", 10.0, &[(0, 9)]);
    uploads.tests.iter_mut().for_each(|test| test.figures.upload_mbps = Some(40.0));
    assert!(!list(&[tested("fast", 100.0, &THREE_HOURS), uploads], 0, noon()).rows[1].behind);
}

#[test]
fn what_needs_no_climb_and_no_waiting_comes_first() {
    let setups = [tested("A", 20.0, &[(0, 9)]), evidence("B", &[])];
    // Hours after its last test the one in place is tested again before anything is moved.
    let next = list(&setups, 0, noon()).next.unwrap();
    assert_eq!((&next.label[..], next.climb, next.later), ("A", false, false));
    // Minutes after it that would be the same sitting: then the other one.
    let soon = Oslo.with_ymd_and_hms(2026, 3, 2, 9, 20, 0).unwrap().with_timezone(&Utc);
    let next = list(&setups, 0, soon).next.unwrap();
    assert_eq!((&next.label[..], next.climb, next.missing), ("B", true, Missing::Reading));
    let said = words::worklist::next(&list(&setups, 0, soon));
    assert_eq!(said, "Next, record 10 samples at B. The antenna has to be moved for that.");
    // Alone, it waits.
    let alone = list(&setups[..1], 0, soon);
    assert!(alone.next.as_ref().unwrap().later);
    assert!(words::worklist::next(&alone).ends_with("wait an hour, since tests of one hour count once."));
    // The evening waits for the evening.
    let evening = list(&[tested("A", 20.0, &[(0, 9), (1, 12), (2, 15)])], 0, noon());
    assert!(evening.next.as_ref().unwrap().later);
    assert_eq!(
        words::worklist::next(&evening),
        "Next, test A between 18 and 23 h, when networks are the busiest. It was measured last: leave the antenna as it is until then."
    );
    let now = noon() + Duration::hours(8);
    assert!(!list(&[tested("A", 20.0, &[(0, 9), (1, 12), (2, 15)])], 0, now).next.unwrap().later);
}

#[test]
fn with_nothing_missing_the_page_says_what_to_do() {
    let done = || [tested("A", 20.0, &THREE_HOURS), tested("B", 22.0, &THREE_HOURS)];
    let both = list(&done(), 0, noon());
    assert_eq!(both.next, None);
    assert!(words::worklist::next(&both).ends_with("Compare them."));
    assert!(words::worklist::next(&list(&done()[..1], 0, noon())).ends_with("compare it with."));
    assert!(words::worklist::next(&Worklist::default()).starts_with("Add a position"));
}

proptest! {
    /// Whoever does what comes next again and again comes to an end, with every setup that may be the best tested in full and
    /// no more climbs than setups in each pass.
    #[test]
    fn doing_what_comes_next_ends(speeds in prop::collection::vec(5.0..300.0f64, 1..6), in_place in 0usize..6) {
        let mut setups: Vec<SetupEvidence> = (0..speeds.len()).map(|n| evidence(&format!("S{n}"), &[])).collect();
        let mut at = in_place % speeds.len();
        let mut now = noon();
        let mut steps = 0;
        while let Some(next) = list(&setups, at, now).next {
            steps += 1;
            prop_assert!(steps < 12 * speeds.len(), "{next:?}");
            at = setups.iter().position(|setup| setup.setup_id == next.setup_id).unwrap();
            let setup = &mut setups[at];
            if next.missing == Missing::Reading {
                let heard = [sample(1, 1, Activity::Trickle, vec![lte(3, 211, -90.0, 15.0)])];
                setup.radio.push((RunId(id(1)), RadioDigest::of(heard.iter())));
                now += Duration::minutes(2);
                continue;
            }
            if next.later {
                now += Duration::hours(1);
                continue;
            }
            let sitting = SittingId(id(now.timestamp().unsigned_abs().into()));
            for n in 0..3_i64 {
                let key = (now.timestamp() + n).unsigned_abs();
                setup.tests.push(SpeedTest {
                    sitting_id: Some(sitting),
                    ..test(key.into(), now + Duration::minutes(n), speeds[at], speeds[at] / 10.0)
                });
            }
            now += Duration::minutes(10);
        }
        for row in list(&setups, at, now).rows {
            prop_assert!(row.behind || (row.sittings >= 3 && row.hours.iter().any(|hour| (18..=22).contains(hour))), "{row:?}");
        }
    }
}

/// Where the verdict has no use for more sittings none are asked for; a setup that was not tested enough to be judged is asked for still.
#[test]
fn what_the_verdict_has_no_use_for_is_not_asked_for() {
    let sill = evidence("sill", &[30.0, 31.0, 29.0, 30.0]);
    let gable = evidence("gable", &[300.0, 310.0, 290.0, 305.0]);
    let new = evidence("new", &[120.0]);
    let rows = || [&sill, &gable, &new].map(|one| WorkRow::of(one, Oslo)).to_vec();
    let need = open_beacon_core::kit::need::Need { down_mbps: 25.0, up_mbps: 0.0, loaded_latency_ms: None };
    let comparison = compare(&sill, &[gable.clone(), new.clone()], Oslo);
    let best = best_setup(&comparison, &need, Weighing::Download).unwrap();
    let done = BestSetup { next: None, ..best };
    let list = worklist(rows(), None, Some(&done), morning(), Oslo);
    assert!(list.rows.iter().all(|row| row.settled));
    let asked: Vec<_> = list.rows.iter().map(|row| row.missing.clone()).collect();
    assert!(asked[1].iter().all(|one| matches!(one, Missing::Reading)), "{asked:?}");
    assert!(asked[2].contains(&Missing::Tests { tests: 2 }), "{asked:?}");
    assert!(asked.iter().flatten().all(|one| !matches!(one, Missing::Evening | Missing::Sittings { .. })));
    // It asks for one sitting of two: only what is out of the question is left alone.
    let next = NextSitting {
        setups: vec![gable.setup_id, new.setup_id],
        part: None,
        tests: 3,
        removes: 0.1,
        for_need: false,
    };
    let open = BestSetup { next: Some(next), ..done };
    let list = worklist(rows(), None, Some(&open), morning(), Oslo);
    assert_eq!(list.rows.iter().map(|row| row.settled).collect::<Vec<_>>(), [true, false, false]);
    let without = worklist(rows(), None, None, morning(), Oslo);
    assert!(without.rows.iter().all(|row| !row.settled));
}
