use open_beacon_domain::stats::*;
use proptest::prelude::*;

fn numbers(text: &str) -> Vec<f64> {
    text.split(' ').map(|number| number.parse().unwrap()).collect()
}

fn close(here: f64, there: f64) -> bool {
    ((here - there) / there).abs() < 1e-6
}

/// Against scipy 1.17.1 (tests/vectors/make.py): median, MAD, Student's t interval and Welch's interval on logarithms.
#[test]
fn summaries_and_intervals_match_the_reference_library() {
    let text = include_str!("../../../../tests/vectors/statistics.csv");
    let mut reader = csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(text.as_bytes());
    let mut compared = 0;
    for row in reader.records().map(|row| row.unwrap()) {
        let (a, b) = (numbers(&row[0]), numbers(&row[1]));
        let wanted: Vec<f64> = (2..9).map(|column| row[column].parse().unwrap()).collect();
        let summary = summarise(&a).unwrap();
        let own = geometric_mean_interval(&a, 0.90).unwrap();
        let ratio = ratio_of_geometric_means(&a, &b, 0.90).unwrap();
        let here = [
            summary.median,
            summary.mad,
            own.low,
            own.high,
            ratio.ratio,
            ratio.interval.low,
            ratio.interval.high,
        ];
        for (column, (here, there)) in here.iter().zip(&wanted).enumerate() {
            assert!(close(*here, *there), "row {compared}, column {column}: {here} against {there}");
        }
        compared += 1;
    }
    assert_eq!(compared, 12);
}

#[test]
fn three_a_side_is_the_least() {
    assert_eq!(geometric_mean_interval(&[10.0, 12.0], COVERAGE), None);
    assert_eq!(ratio_of_geometric_means(&[10.0, 12.0, 11.0], &[5.0, 6.0], COVERAGE), None);
    assert!(geometric_mean_interval(&[10.0, 12.0, 11.0], COVERAGE).is_some());
}

#[test]
fn what_is_not_positive_has_no_geometric_mean() {
    assert_eq!(geometric_mean_interval(&[10.0, 0.0, 11.0], COVERAGE), None);
    assert_eq!(geometric_mean_interval(&[10.0, f64::NAN, 11.0], COVERAGE), None);
}

#[test]
fn equal_values_have_a_ratio_and_no_width() {
    let estimate = ratio_of_geometric_means(&[20.0; 3], &[10.0; 4], COVERAGE).unwrap();
    assert!((estimate.ratio - 2.0).abs() < 1e-12);
    assert!((estimate.interval.high - estimate.interval.low).abs() < 1e-9);
    assert_eq!(estimate.scatter, 0.0);
}

#[test]
fn an_empty_list_has_no_summary() {
    assert_eq!(summarise(&[]), None);
    assert_eq!(quantile(&[], 0.5), None);
    assert_eq!(median(&[4.0]), Some(4.0));
}

proptest! {
    /// The order in which tests were made does not matter.
    #[test]
    fn order_does_not_matter(mut values in prop::collection::vec(0.1..1e4f64, 1..20)) {
        let before = summarise(&values).unwrap();
        values.reverse();
        prop_assert_eq!(before, summarise(&values).unwrap());
    }

    /// The interval holds the geometric mean, and the ratio of a list to itself is one.
    #[test]
    fn intervals_hold_what_they_are_about(values in prop::collection::vec(0.1..1e4f64, 3..20)) {
        let logs = values.iter().map(|value| value.ln()).sum::<f64>() / values.len() as f64;
        let interval = geometric_mean_interval(&values, COVERAGE).unwrap();
        prop_assert!(interval.low <= logs.exp() * (1.0 + 1e-9) && interval.high >= logs.exp() * (1.0 - 1e-9));
        let own = ratio_of_geometric_means(&values, &values, COVERAGE).unwrap();
        prop_assert!((own.ratio - 1.0).abs() < 1e-9);
    }

    /// Swapping the sides turns the ratio over.
    #[test]
    fn ratios_turn_over(a in prop::collection::vec(1.0..1e3f64, 3..9), b in prop::collection::vec(1.0..1e3f64, 3..9)) {
        let there = ratio_of_geometric_means(&a, &b, COVERAGE).unwrap();
        let back = ratio_of_geometric_means(&b, &a, COVERAGE).unwrap();
        prop_assert!((there.ratio * back.ratio - 1.0).abs() < 1e-9);
        prop_assert!((there.interval.low * back.interval.high - 1.0).abs() < 1e-6);
    }
}

/// Against scipy 1.17.1 (tests/vectors/make_next_visit.py); a third of the rows are the textbook prediction interval.
#[test]
fn what_the_next_visit_finds_matches_the_reference_library() {
    let text = include_str!("../../../../tests/vectors/next_visit.csv");
    let mut reader = csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(text.as_bytes());
    let mut compared = 0;
    for row in reader.records().map(|row| row.unwrap()) {
        let wanted: Vec<f64> = (1..6).map(|column| row[column].parse().unwrap()).collect();
        let usual = UsualScatter { spread: wanted[0], visits: wanted[1] };
        let (_, range) = next_visit(&numbers(&row[0]), usual, wanted[2]).unwrap();
        assert!(
            (range.low - wanted[3]).abs() < 1e-6 && (range.high - wanted[4]).abs() < 1e-6,
            "{range:?} {row:?}"
        );
        compared += 1;
    }
    assert_eq!(compared, 60);
    assert_eq!(next_visit(&[], UsualScatter { spread: 2.0, visits: 5.0 }, 0.9), None);
}

/// Against scipy (tests/vectors/make_half_width.py); a third of the rows are the textbook interval by `ttest_ind`.
#[test]
fn how_far_two_visited_places_lie_apart_matches_the_reference_library() {
    let text = include_str!("../../../../tests/vectors/half_width.csv");
    let mut reader = csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(text.as_bytes());
    let rows: Vec<_> = reader.records().map(|row| row.unwrap()).collect();
    for row in &rows {
        let wanted: Vec<f64> = (2..6).map(|column| row[column].parse().unwrap()).collect();
        let usual = UsualScatter { spread: wanted[0], visits: wanted[1] };
        let half = half_width_between(&numbers(&row[0]), &numbers(&row[1]), usual, wanted[2]).unwrap();
        assert!((half - wanted[3]).abs() < 1e-6, "{half} {row:?}");
    }
    assert_eq!(rows.len(), 60);
    let usual = UsualScatter { spread: 2.0, visits: 5.0 };
    assert_eq!(half_width_between(&[], &[1.0], usual, 0.9), None);
    // One visit a side, by hand: 2 dB · √2 · 2.015, Student's t of 5 (from any table).
    let half = half_width_between(&[-90.0], &[-95.0], usual, 0.9).unwrap();
    assert!((half - 2.0 * 2.0_f64.sqrt() * 2.015).abs() < 0.001, "{half}");
}

proptest! {
    /// Thinning keeps order, both ends, every extreme of every column, and no more than four points of each; few points stay all.
    #[test]
    fn thinning_loses_no_extreme(
        steps in prop::collection::vec((0_i64..50, -120.0..120.0_f64), 1..400), columns in 1_usize..40,
    ) {
        let mut at = 0;
        let points: Vec<(i64, f64)> = steps.iter().map(|(step, value)| { at += step; (at, *value) }).collect();
        let kept = thinned(&points, columns);
        prop_assert!(kept.windows(2).all(|two| two[0] < two[1]));
        prop_assert_eq!((kept[0], *kept.last().unwrap()), (0, points.len() - 1));
        if points.len() <= 4 * columns {
            prop_assert_eq!(kept.len(), points.len());
        }
        prop_assert!(kept.len() <= 4 * columns);
        let span = (points.last().unwrap().0 - points[0].0).max(1) as f64;
        let column = |n: usize| (((points[n].0 - points[0].0) as f64 / span * columns as f64) as usize).min(columns - 1);
        for wanted in 0..columns {
            let values = |of: &[usize]| -> Vec<f64> {
                of.iter().filter(|n| column(**n) == wanted).map(|n| points[*n].1).collect()
            };
            let all = values(&(0..points.len()).collect::<Vec<_>>());
            let shown = values(&kept);
            let least = |values: &[f64]| values.iter().copied().fold(f64::INFINITY, f64::min);
            let most = |values: &[f64]| values.iter().copied().fold(f64::NEG_INFINITY, f64::max);
            prop_assert_eq!((least(&all), most(&all)), (least(&shown), most(&shown)));
        }
    }
}
