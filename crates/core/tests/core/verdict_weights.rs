//! What a comparison makes of averages, and of how well the radio was heard.

use crate::samples::*;
use crate::verdicts::{download, only_download};
use fastrand::Rng;
use open_beacon_core::judge::*;
use open_beacon_core::model::*;
use open_beacon_core::stats::Interval;

const UTC: chrono_tz::Tz = chrono_tz::UTC;

/// An average counts as the tests that it is of: as sure as they are where they agree, surer than one test.
#[test]
fn an_average_counts_as_its_tests() {
    let level = |n: u128, mbps: f64, of: Option<u16>| {
        let mut made = only_download(n, mbps);
        made.sitting_id = Some(SittingId(id(1 + n % 2)));
        made.figures.average_of = of;
        made
    };
    let side = |label: &str, mbps: f64, of: Option<u16>| {
        let mut made = evidence(label, &[]);
        made.tests = (0..2).map(|n| level(n, mbps, of)).collect();
        made
    };
    let against =
        |of: Option<u16>| compare(&side("sill", 42.0, of), &[side("gable", 55.0, of)], UTC).rows.remove(1);
    let (single, average) = (against(None), against(Some(3)));
    assert_eq!((single.tests, average.tests), (2, 6));
    assert_eq!(average.figures[0].tests, 6);
    let width = |row: &ComparisonRow| {
        let Interval { low, high, .. } = download(row).model.interval;
        (high / low).ln()
    };
    assert!(width(&average) < width(&single), "{} and {}", width(&average), width(&single));
    let next = log_advice(Some(&side("gable", 55.0, Some(3)))).next;
    assert!(!matches!(next, NextAction::SpeedTest { .. }), "six tests are enough: {next:?}");
}

/// Runs in which the same carriers were heard worse are slower for that: the comparison knows it, and its interval is narrower than
/// where it is not told.
#[test]
fn how_well_the_radio_was_heard_explains_scatter() {
    let mut dice = Rng::with_seed(5);
    let mut side = |label: &str, level: f64| {
        let mut made = evidence(label, &[]);
        for n in 0..12_u128 {
            let off_db = 8.0 * (dice.f64() - 0.5);
            let run = RunId(id(n + 50));
            let mbps = (level.ln() + 0.06 * off_db + 0.02 * (dice.f64() - 0.5)).exp();
            let at = SittingId(id(made.setup_id.0.as_u128() + n));
            made.tests.push(SpeedTest { sitting_id: Some(at), run_id: run, ..only_download(n, mbps) });
            let heard = sample(n, run.0.as_u128(), Activity::Loaded, vec![lte(3, 211, -90.0, 14.0 + off_db)]);
            made.radio.push((run, RadioDigest::of([&heard])));
        }
        made
    };
    let (sill, gable) = (side("sill", 40.0), side("gable", 48.0));
    let deaf = |of: &SetupEvidence| SetupEvidence { radio: Vec::new(), ..of.clone() };
    let width = |row: &ComparisonRow| {
        let Interval { low, high, .. } = download(row).model.interval;
        (high / low).ln()
    };
    let heard = width(&compare(&sill, std::slice::from_ref(&gable), UTC).rows[1]);
    let not_heard = width(&compare(&deaf(&sill), &[deaf(&gable)], UTC).rows[1]);
    assert!(heard < 0.8 * not_heard, "{heard} with, {not_heard} without");
}
