use crate::samples::*;
use chrono::Duration;
use open_beacon_core::judge::*;
use open_beacon_core::model::*;

const OSLO: chrono_tz::Tz = chrono_tz::Europe::Oslo;

/// Every value in a sitting of its own, the two sides never in the same one.
fn apart(figure: SpeedFigure, values: &[f64], baseline: &[f64]) -> Option<Versus> {
    let side = |values: &[f64], from: usize| -> Vec<(usize, f64)> {
        values.iter().enumerate().map(|(at, value)| (from + at, *value)).collect()
    };
    compare_figure(figure, &side(values, 0), &side(baseline, 1000))
}

fn verdict(values: &[f64], baseline: &[f64]) -> VersusVerdict {
    apart(SpeedFigure::Download, values, baseline).unwrap().verdict
}

#[test]
fn fewer_than_three_sittings_are_too_few_to_tell() {
    assert_eq!(verdict(&[100.0, 125.0], &[80.0, 110.0, 95.0]), VersusVerdict::TooFew);
    assert_eq!(verdict(&[100.0, 125.0, 110.0], &[80.0]), VersusVerdict::TooFew);
    // What no scatter of hours explains is likely, and never clear.
    assert_eq!(verdict(&[100.0, 101.0], &[10.0, 10.0, 10.0]), VersusVerdict::LikelyGain);
    assert_eq!(verdict(&[10.0], &[100.0]), VersusVerdict::LikelyLoss);
    let versus = apart(SpeedFigure::Download, &[100.0], &[50.0]).unwrap();
    assert!((versus.of.ratio - 2.0).abs() < 1e-12 && versus.of.estimate.is_none());
    assert_eq!(apart(SpeedFigure::Download, &[], &[50.0]), None);
}

/// Three tests of one hour are one sitting: however alike they are, they say nothing of the next hour.
#[test]
fn tests_of_one_hour_count_once() {
    let in_one = |values: [f64; 3], sitting| values.map(|value| (sitting, value));
    let (here, there) = (in_one([100.0, 101.0, 99.0], 1), in_one([50.0, 50.5, 49.5], 2));
    let versus = compare_figure(SpeedFigure::Download, &here, &there).unwrap();
    assert_eq!((versus.verdict, versus.of.sittings), (VersusVerdict::TooFew, 1));
    assert!((versus.of.ratio - 2.0).abs() < 0.01);
    // The same setups within the same two hours: the hour falls away, and two are enough.
    let here = [(1, 100.0), (1, 104.0), (2, 52.0), (2, 50.0)];
    let there = [(1, 50.0), (1, 52.0), (2, 25.0), (2, 26.0)];
    let versus = compare_figure(SpeedFigure::Download, &here, &there).unwrap();
    assert_eq!((versus.verdict, versus.of.shared), (VersusVerdict::ClearGain, 2));
}

/// One estimator, named: whatever is shown beside a setup is what the ratio is made of, from the first test on.
#[test]
fn the_ratio_is_of_the_figures_shown() {
    for (here, there) in [
        (vec![266.0], vec![40.1]),
        (vec![266.0, 306.0], vec![40.1]),
        (vec![266.0, 306.0, 190.0], vec![40.1, 44.0, 31.0, 52.0]),
    ] {
        let comparison = compare(&evidence("A", &there), &[evidence("B", &here)], OSLO);
        for figure in [SpeedFigure::Download, SpeedFigure::Upload] {
            let of =
                |row: usize| comparison.rows[row].figures.iter().find(|one| one.figure == figure).unwrap();
            let shown = of(1).geometric_mean.unwrap() / of(0).geometric_mean.unwrap();
            assert!((of(1).versus.unwrap().of.ratio - shown).abs() < 1e-9);
        }
    }
}

/// "About the same" is said only where the whole interval lies within 5 %.
#[test]
fn the_same_needs_an_interval_that_says_so() {
    assert_eq!(verdict(&[100.0, 101.0, 99.0], &[100.0, 100.5, 99.5]), VersusVerdict::Same);
    assert_eq!(verdict(&[60.0, 100.0, 160.0], &[62.0, 100.0, 161.0]), VersusVerdict::CannotTell);
    // Clear, and too small to matter: the interval excludes equality and lies within 5 %.
    let (here, there) =
        ([102.0, 102.4, 101.6, 102.2, 101.8, 102.0], [100.0, 100.4, 99.6, 100.2, 99.8, 100.0]);
    assert_eq!(verdict(&here, &there), VersusVerdict::Same);
}

/// Common practice, no source: a 20 % change inside 40 % scatter is nothing until more tests say so.
#[test]
fn a_fifth_inside_two_fifths_scatter_is_nothing() {
    let baseline = [60.0, 100.0, 140.0];
    let better: Vec<f64> = baseline.iter().map(|value| value * 1.2).collect();
    assert_eq!(verdict(&better, &baseline), VersusVerdict::CannotTell);
}

/// Common practice, no source: indoor to outdoor antenna 162 → 453 down; ratios in words, "2.8 times".
#[test]
fn a_clear_gain_is_called_one() {
    let versus = apart(SpeedFigure::Download, &[453.0, 440.0, 470.0], &[162.0, 150.0, 175.0]).unwrap();
    assert_eq!(versus.verdict, VersusVerdict::ClearGain);
    assert!((versus.of.ratio - 2.8).abs() < 0.05, "{}", versus.of.ratio);
    assert_eq!(verdict(&[162.0, 150.0, 175.0], &[453.0, 440.0, 470.0]), VersusVerdict::ClearLoss);
}

/// Common practice, no source: a 1 ms latency change is nothing.
#[test]
fn a_millisecond_is_nothing() {
    let versus = apart(SpeedFigure::IdleLatency, &[31.0, 31.0, 31.1], &[30.0, 30.0, 30.1]).unwrap();
    assert_eq!(versus.verdict, VersusVerdict::Same);
    let lower = apart(SpeedFigure::IdleLatency, &[20.0, 20.5, 21.0], &[49.0, 50.0, 51.0]).unwrap();
    assert_eq!(lower.verdict, VersusVerdict::ClearGain, "less latency is better");
}

#[test]
fn the_baseline_stands_first_and_is_compared_with_nothing() {
    let comparison =
        compare(&evidence("A", &[10.0, 11.0, 12.0]), &[evidence("B", &[20.0, 22.0, 24.0])], OSLO);
    assert!(comparison.rows[0].is_baseline && comparison.rows[0].label == "A");
    assert!(comparison.rows[0].figures.iter().all(|figure| figure.versus.is_none()));
    assert_eq!(comparison.rows[1].tests, 3);
    let gains = |kind: SpeedFigure| {
        comparison.rows[1].findings.iter().any(
            |finding| matches!(finding, Finding::ClearGain { figure, ratio, .. } if *figure == kind && (*ratio - 2.0).abs() < 1e-9),
        )
    };
    assert!(gains(SpeedFigure::Download) && gains(SpeedFigure::Upload));
}

#[test]
fn partial_tests_are_left_out_and_said() {
    let mut with_partial = evidence("B", &[20.0, 22.0, 24.0, 500.0]);
    with_partial.tests[3].completion = Completion::Partial;
    let comparison = compare(&evidence("A", &[10.0, 11.0, 12.0]), &[with_partial], OSLO);
    let row = &comparison.rows[1];
    assert_eq!(row.figures[0].values.len(), 3);
    assert!(row.findings.contains(&Finding::PartialLeftOut { tests: 1 }));
}

#[test]
fn carriers_are_compared_under_the_same_traffic_only() {
    let mut here = evidence("B", &[]);
    here.heard(&[sample(1, 1, Activity::Trickle, vec![lte(3, 211, -90.0, 15.0)])]);
    let mut there = evidence("A", &[]);
    there.heard(&[sample(2, 2, Activity::Idle, vec![lte(3, 211, -110.0, 5.0)])]);
    let comparison = compare(&there, &[here.clone()], OSLO);
    assert!(comparison.rows[1].carrier_differences.is_empty());
    assert!(
        comparison.rows[1].differed.iter().any(|finding| matches!(finding, Finding::ActivityDiffers { .. }))
    );

    there.heard(&[sample(2, 2, Activity::Trickle, vec![lte(3, 211, -110.0, 5.0)])]);
    let comparison = compare(&there, &[here], OSLO);
    let rsrp = comparison.rows[1].carrier_differences[0];
    assert_eq!((rsrp.difference_db, rsrp.same_cell), (20.0, true));
}

#[test]
fn another_cell_on_the_same_channel_is_marked() {
    let mut here = evidence("B", &[]);
    here.heard(&[sample(1, 1, Activity::Trickle, vec![lte(3, 87, -90.0, 15.0)])]);
    let mut there = evidence("A", &[]);
    there.heard(&[sample(2, 2, Activity::Trickle, vec![lte(3, 211, -110.0, 5.0)])]);
    let row = &compare(&there, &[here], OSLO).rows[1];
    assert!(row.carrier_differences.iter().all(|difference| !difference.same_cell));
    assert!(row.differed.iter().any(|finding| matches!(finding, Finding::ServingCellDiffers { .. })));
}

#[test]
fn what_else_differed_is_told() {
    let mut evening = evidence("B", &[20.0, 22.0, 24.0]);
    for test in &mut evening.tests {
        test.started_at += Duration::hours(10);
        test.server = "another".into();
        test.source = Source::Typed;
    }
    evening.heard(&[sample(1, 1, Activity::Trickle, vec![nr(78, 1, -90.0, 15.0)])]);
    let mut morning = evidence("A", &[10.0, 11.0, 12.0]);
    morning.heard(&[sample(2, 2, Activity::Trickle, vec![lte(3, 1, -90.0, 15.0)])]);
    let differed = compare(&morning, &[evening], OSLO).rows[1].differed.clone();
    // 09:00 UTC is 10 o'clock in the valley, ten hours later 20 o'clock.
    let hours = Finding::HoursDiffer {
        setup: HourSpan { first: 20, last: 20 },
        baseline: HourSpan { first: 10, last: 10 },
    };
    assert!(differed.contains(&hours), "{differed:?}");
    let kinds = |wanted: fn(&Finding) -> bool| differed.iter().any(wanted);
    assert!(kinds(|finding| matches!(finding, Finding::BandsDiffer { .. })));
    assert!(kinds(|finding| matches!(finding, Finding::ServerDiffers { .. })));
    assert!(kinds(|finding| matches!(finding, Finding::SourceDiffers { .. })));
}

/// Common practice, no source: SINR 9 → 15, RSRP −75 → −63, download 700-990 → 70 (another sector or a busy cell). The
/// tool must say so.
#[test]
fn better_radio_without_speed_is_named() {
    let mut before = evidence("A", &[700.0, 850.0, 990.0]);
    before.heard(&[sample(1, 1, Activity::Trickle, vec![nr(78, 1, -75.0, 9.0)])]);
    let mut after = evidence("B", &[70.0, 68.0, 75.0]);
    after.heard(&[sample(2, 2, Activity::Trickle, vec![nr(78, 1, -63.0, 15.0)])]);
    let row = &compare(&before, &[after], OSLO).rows[1];
    assert!(row.findings.iter().any(|finding| matches!(
        finding,
        Finding::RadioWithoutSpeed { sinr_difference_db, .. } if *sinr_difference_db == 6.0
    )));
}

/// Common practice, no source: RSRP +9 dB, RSRQ −6 dB, SINR +0.2 dB, upload down by 58 %. A seasoned installer says: the antenna hears
/// the other cells better too, so take a directional one; and that the upload is not explained by it, so look at cell, carrier and port.
#[test]
fn more_power_without_a_cleaner_signal_is_named() {
    let carrier = |rsrp_dbm: f64, rsrq_db: f64, sinr_db: f64| Carrier {
        rsrq_db: Some(rsrq_db),
        ..lte(3, 211, rsrp_dbm, sinr_db)
    };
    let side = |label: &str, of: Carrier, down: f64, up: f64| {
        let mut made = evidence(label, &[down, down, down]);
        made.tests.iter_mut().for_each(|test| test.figures.upload_mbps = Some(up));
        made.heard(&[sample(1, 1, Activity::Loaded, vec![of])]);
        made
    };
    let before = side("A", carrier(-101.0, -9.0, 8.0), 60.0, 12.0);
    let told = |after: SetupEvidence| compare(&before, &[after], OSLO).rows.remove(1).findings;
    let found = told(side("B", carrier(-92.0, -15.0, 8.2), 61.0, 5.0));
    let named = |finding: &Finding| match finding {
        Finding::StrongerNoCleaner { power_db, quality_db, .. } => Some((*power_db, *quality_db)),
        _ => None,
    };
    assert_eq!(found.iter().find_map(named), Some((9.0, -6.0)), "{found:?}");
    let upload = |finding: &Finding| match finding {
        Finding::UploadWithoutRadio { upload_ratio, .. } => Some((upload_ratio * 100.0).round()),
        _ => None,
    };
    assert_eq!(found.iter().find_map(upload), Some(42.0), "{found:?}");
    // Cleaner with it: that is the antenna's doing. An upload that grew needs no explanation.
    let found = told(side("B", carrier(-92.0, -7.0, 16.0), 61.0, 14.0));
    assert!(found.iter().all(|one| named(one).is_none() && upload(one).is_none()), "{found:?}");
    // Less RSRQ by the traffic's own load alone, with no more power: nothing is said.
    let found = told(side("B", carrier(-100.0, -15.0, 8.0), 61.0, 12.0));
    assert!(found.iter().all(|one| named(one).is_none()), "{found:?}");
}
