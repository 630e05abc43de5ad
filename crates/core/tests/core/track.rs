//! Predicted and measured: what counts as held, what misses teach, and when ranges are called too narrow or too wide.

use open_beacon_core::capacity::Estimate;
use open_beacon_core::judge::{
    Narrowing, OneMoreReading, TrackRecord, TrackVerdict, Tracked, TrackedQuantity, track_records,
};
use open_beacon_core::words::track::{lessons, narrowing, rests_on, title};
use proptest::prelude::*;

fn figure(quantity: TrackedQuantity, foretold: [f64; 3], measured: f64) -> Tracked {
    let [low, likely, high] = foretold;
    let foretold = Estimate { low, likely, high };
    Tracked { quantity, band: None, foretold, measured, held: (low..=high).contains(&measured) }
}

/// Setups with one range each, the first `held` of which held.
fn setups(count: usize, held: usize) -> Vec<Vec<Tracked>> {
    let of = |at: usize| {
        figure(TrackedQuantity::Rsrp, [-95.0, -90.0, -85.0], if at < held { -90.0 } else { -80.0 })
    };
    (0..count).map(|at| vec![of(at)]).collect()
}

fn verdict(count: usize, held: usize) -> TrackVerdict {
    track_records(&setups(count, held))[0].verdict
}

/// Tables of the binomial distribution at 0.8: of 5 at most 2 has 5.8 %, at most 1 has 0.67 %; of 10 at most 5 has 3.3 %; of 20 all have
/// 1.15 %, at least 19 have 6.9 %.
#[test]
fn ranges_are_called_wrong_when_the_binomial_distribution_says_so() {
    assert_eq!([verdict(4, 0), verdict(4, 4)], [TrackVerdict::TooFew; 2]);
    assert_eq!([verdict(5, 1), verdict(5, 2)], [TrackVerdict::TooNarrow, TrackVerdict::AsPromised]);
    assert_eq!([verdict(10, 5), verdict(10, 6)], [TrackVerdict::TooNarrow, TrackVerdict::AsPromised]);
    assert_eq!([verdict(20, 20), verdict(20, 19)], [TrackVerdict::TooWide, TrackVerdict::AsPromised]);
    assert_eq!(verdict(10, 10), TrackVerdict::AsPromised, "10.7 % of the time all of ten hold");
}

/// As often as the level says, and no more, ranges that are as promised are called wrong: 20,000 seeded houses.
#[test]
fn good_ranges_are_seldom_called_wrong() {
    let mut dice = fastrand::Rng::with_seed(17);
    for count in [5, 12, 30] {
        let wrong = |_| {
            let held = (0..count).filter(|_| dice.f64() < 0.8).count();
            !matches!(verdict(count, held), TrackVerdict::AsPromised)
        };
        let share = (0..20_000).map(wrong).filter(|wrong| *wrong).count() as f64 / 20_000.0;
        // 5 % to either side, and three standard errors.
        assert!(share < 0.1 + 3.0 * (0.1f64 * 0.9 / 20_000.0).sqrt(), "{count} setups: {share}");
    }
}

/// Ranges of one setup hang together: twelve carriers of one setup are one trial, not twelve.
#[test]
fn a_setup_counts_once() {
    let missed = figure(TrackedQuantity::Sinr, [0.0, 5.0, 10.0], 20.0);
    let found = track_records(&[vec![missed; 12]]);
    assert_eq!((found[0].setups, found[0].ranges, found[0].held), (1, 12, 0));
    assert_eq!(found[0].verdict, TrackVerdict::TooFew);
    // 15 dB at the one, 0 dB at the other: 7.5 dB, however many carriers each has.
    let hit = figure(TrackedQuantity::Sinr, [0.0, 5.0, 10.0], 5.0);
    let both = track_records(&[vec![missed; 12], vec![hit]]);
    assert!((both[0].mean_off - 7.5).abs() < 1e-9);
}

#[test]
fn misses_teach_in_words() {
    assert!(title(&[]).starts_with("Nothing to compare yet."));
    assert_eq!(rests_on(0, 0), "assumptions only");
    assert_eq!(rests_on(1, 2), "1 earlier setup and 2 masts");
    let rate = |mbps: f64| vec![figure(TrackedQuantity::Download, [40.0, 80.0, 160.0], mbps)];
    // 160 and 320 for 80: the geometric mean of 2 and 4 is 2.83.
    let found = track_records(&[rate(160.0), rate(320.0)]);
    assert_eq!(title(&found), "Of 2 predicted ranges, 1 held what was measured; 8 in 10 should.");
    assert_eq!(
        lessons(&found),
        ["Download came out 2.8 times as fast as predicted, on average over 2 setups."]
    );
    // A half and a quarter of it: 0.354.
    let slow = lessons(&track_records(&[rate(40.0), rate(20.0)]));
    assert!(slow[0].starts_with("Download came out 65\u{202f}% slower than predicted"), "{slow:?}");
    let weak = track_records(&setups(6, 0));
    assert_eq!(
        lessons(&weak),
        [
            "Signal strength (RSRP) came out 10\u{202f}dB better than predicted, on average over 6 setups. Its ranges are too narrow here: expect more spread than they show."
        ]
    );
    assert!(lessons(&track_records(&setups(6, 5))).is_empty(), "1.7 dB teach nothing");
}

proptest! {
    /// However setups are ordered, the record is the same, and what held is never more than what was asked.
    #[test]
    fn the_order_of_setups_is_no_matter(
        values in prop::collection::vec((-110.0..-70.0f64, 1usize..4), 1..12),
        turn in 0usize..12,
    ) {
        let one = |(dbm, carriers): &(f64, usize)| vec![figure(TrackedQuantity::Rsrp, [-95.0, -90.0, -85.0], *dbm); *carriers];
        let all: Vec<Vec<Tracked>> = values.iter().map(one).collect();
        let mut turned = all.clone();
        turned.rotate_left(turn % all.len());
        let (here, there): (TrackRecord, TrackRecord) = (track_records(&all)[0], track_records(&turned)[0]);
        prop_assert!((here.mean_off - there.mean_off).abs() < 1e-9);
        prop_assert_eq!((here.held, here.ranges, here.verdict), (there.held, there.ranges, there.verdict));
        prop_assert!(here.held <= here.ranges);
    }
}

#[test]
fn a_reading_is_told_with_what_it_takes() {
    let one = Narrowing {
        reading: OneMoreReading::OutsideByHand,
        signal_db: Some((15.6, 7.8)),
        download: 0.34,
        minutes: 5,
        climbs: 0,
    };
    assert_eq!(
        narrowing(&one),
        "A reading outside, gateway held against the wall: the signal known to ±8\u{202f}dB, not ±16; the download’s range 34\u{202f}% narrower. About 5\u{202f}minutes, no climb."
    );
    let up =
        Narrowing { reading: OneMoreReading::AtTheAntenna, download: 0.04, minutes: 20, climbs: 1, ..one };
    assert_eq!(
        narrowing(&up),
        "A reading where the antenna would be: the signal known to ±8\u{202f}dB, not ±16. About 20\u{202f}minutes, one climb."
    );
    let tests = Narrowing { reading: OneMoreReading::TestsNow, signal_db: None, download: 0.2, ..one };
    assert_eq!(
        narrowing(&tests),
        "Three speed tests at another hour, with what stands there now: the download’s range 20\u{202f}% narrower. About 5\u{202f}minutes, no climb."
    );
}
