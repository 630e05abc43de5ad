//! What a gain is owed to: only to what was built where nothing else that matters differed.

use crate::samples::*;
use chrono::{Duration, TimeDelta};
use fastrand::Rng;
use open_beacon_core::judge::*;
use open_beacon_core::model::*;
use open_beacon_core::protocol::{ChangedPart, Confounder, Credit, CreditGroup, SettlingTest, credit};
use open_beacon_core::words;

const UTC: chrono_tz::Tz = chrono_tz::UTC;
const ANTENNA: [ChangedPart; 2] = [ChangedPart::Position, ChangedPart::Bearing];

/// Four sittings of three tests on following days, all moved by so much.
fn tested(label: &str, mbps: f64, moved: TimeDelta) -> SetupEvidence {
    let mut made = evidence(label, &[0.9, 0.95, 1.05, 1.1].map(|busy| mbps * busy));
    for test in &mut made.tests {
        test.started_at += moved;
    }
    made
}

fn found(
    base: &SetupEvidence,
    other: &SetupEvidence,
    changed: &[ChangedPart],
    events: &[SiteEvent],
) -> Option<Credit> {
    let told = compare(base, std::slice::from_ref(other), UTC);
    credit(&told.rows[1], &told.rows[0], changed, events)
}

fn event(kind: EventKind, after: TimeDelta) -> SiteEvent {
    let happened_at = morning() + after;
    let (id, site_id) = (EventId(id(9)), SiteId(id(1)));
    SiteEvent {
        id,
        site_id,
        happened_at,
        kind,
        text: "New firmware.".into(),
        noted_at: happened_at,
        archived_at: None,
    }
}

#[test]
fn a_gain_is_the_antennas_only_where_nothing_else_differed() {
    let (before, after) =
        (tested("sill", 40.0, Duration::zero()), tested("gable", 160.0, Duration::minutes(5)));
    let alone = found(&before, &after, &ANTENNA, &[]).unwrap();
    assert_eq!((alone.owed_to, alone.settle, alone.gain), (Some(CreditGroup::Antenna), None, true));
    let said = words::credit::credit("gable", "sill", &alone);
    assert_eq!(
        said,
        "The gain in download is owed to the position and bearing together: nothing else that matters differed."
    );
    let lost = found(&after, &before, &ANTENNA, &[]).unwrap();
    assert!(!lost.gain && words::credit::credit("sill", "gable", &lost).starts_with("The loss in download"));
    // Two things were changed that one test tells apart: the cheap one first.
    for (more, settle, words_of) in [
        (
            vec![ChangedPart::Lock, ChangedPart::Ports],
            SettlingTest::BaselineLock,
            "with the band lock of sill",
        ),
        (vec![ChangedPart::Ports], SettlingTest::BaselinePorts, "plug the leads in as at sill"),
        (
            vec![ChangedPart::GatewayPlace],
            SettlingTest::BaselineGatewayPlace,
            "put the gateway where it stood at sill",
        ),
    ] {
        let changed = [&ANTENNA[..], &more].concat();
        let open = found(&before, &after, &changed, &[]).unwrap();
        assert_eq!((open.owed_to, open.settle), (None, Some(settle)));
        let said = words::credit::credit("gable", "sill", &open);
        assert!(said.contains(words_of) && said.contains("is open"), "{said}");
    }
    let lock = found(&before, &after, &[ChangedPart::Lock], &[]).unwrap();
    assert_eq!(lock.owed_to, Some(CreditGroup::Lock));
    assert_eq!(found(&before, &after, &[], &[]), None, "nothing was built differently");
    assert_eq!(
        found(&before, &tested("same", 40.0, Duration::minutes(5)), &ANTENNA, &[]),
        None,
        "no difference"
    );
}

#[test]
fn what_may_explain_it_too_is_named_with_the_test_that_tells() {
    let before = tested("sill", 40.0, Duration::zero());
    let with = |moved: TimeDelta, change: fn(&mut SetupEvidence), events: &[SiteEvent]| {
        let mut after = tested("gable", 160.0, moved);
        change(&mut after);
        let open = found(&before, &after, &ANTENNA, events).unwrap();
        assert_eq!((open.owed_to, open.settle), (None, Some(SettlingTest::SameHour)), "{open:?}");
        let said = words::credit::credit("gable", "sill", &open);
        assert!(said.contains("within the same hour") && said.contains("is open"), "{said}");
        (open, said)
    };
    let (evening, said) = with(Duration::hours(10), |_| (), &[]);
    assert_eq!(evening.confounders, [Confounder::Hours]);
    assert!(said.contains("hours of the day"), "{said}");
    let (weeks, said) = with(Duration::days(40), |_| (), &[]);
    assert_eq!(weeks.confounders, [Confounder::Weeks]);
    assert!(said.contains("times of the year"), "{said}");
    let elsewhere =
        |made: &mut SetupEvidence| made.tests.iter_mut().for_each(|one| one.server = "other".into());
    assert_eq!(with(Duration::minutes(5), elsewhere, &[]).0.confounders, [Confounder::Server]);
    // Firmware between the last test here and the first there counts; before both, or while both were tested, it does not.
    let (noted, said) = with(Duration::days(9), |_| (), &[event(EventKind::Gateway, Duration::days(5))]);
    assert_eq!(noted.confounders, [Confounder::Events]);
    assert!(said.contains("“New firmware”"), "{said}");
    let after = tested("gable", 160.0, Duration::days(9));
    for harmless in [
        event(EventKind::Gateway, Duration::days(-1)),
        event(EventKind::Gateway, Duration::days(1)),
        event(EventKind::Other, Duration::days(5)),
        SiteEvent { archived_at: Some(morning()), ..event(EventKind::Gateway, Duration::days(5)) },
    ] {
        let alone = found(&before, &after, &ANTENNA, &[harmless]).unwrap();
        assert_eq!(alone.owed_to, Some(CreditGroup::Antenna), "{alone:?}");
    }
}

/// Households in which an antenna does nothing and the hour, the season or another server does all: never once is it given the credit.
#[test]
fn an_antenna_that_does_nothing_is_given_no_credit() {
    let mut dice = Rng::with_seed(4);
    let (mut told, mut credited) = (0, 0);
    for _ in 0..200 {
        let before = tested("sill", 30.0 + 50.0 * dice.f64(), Duration::zero());
        let gain = 1.6 + 2.0 * dice.f64();
        let mean = SpeedFigure::Download.of(&before.tests[0].figures).unwrap() / 0.9;
        let hidden = dice.u8(..3);
        let moved = match hidden {
            0 => Duration::hours(6 + dice.i64(0..10)),
            1 => Duration::weeks(4 + dice.i64(0..20)),
            _ => Duration::minutes(dice.i64(0..20)),
        };
        let mut after = tested("gable", mean * gain, moved);
        if hidden == 2 {
            after.tests.iter_mut().for_each(|one| one.server = "faster".into());
        }
        if let Some(found) = found(&before, &after, &ANTENNA, &[]) {
            told += 1;
            credited += usize::from(found.owed_to.is_some());
        }
    }
    assert!(told > 150, "{told}");
    assert_eq!(credited, 0, "of {told}");
}
