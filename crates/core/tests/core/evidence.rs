use crate::samples::*;
use open_beacon_core::judge::{Finding, summarise_samples};
use open_beacon_core::metrics::flag_out_of_range;
use open_beacon_core::model::*;

#[test]
fn medians_are_kept_apart_by_carrier_and_traffic() {
    let samples = [
        sample(1, 1, Activity::Trickle, vec![lte(3, 211, -90.0, 10.0), nr(78, 611, -95.0, 15.0)]),
        sample(2, 1, Activity::Trickle, vec![lte(3, 211, -92.0, 12.0), nr(78, 611, -97.0, 17.0)]),
        sample(3, 1, Activity::Loaded, vec![lte(3, 211, -100.0, 2.0)]),
    ];
    let radio = summarise_samples(&samples);
    assert_eq!((radio.samples, radio.carriers.len()), (3, 3));
    let of = |activity, technology| {
        radio
            .carriers
            .iter()
            .find(|carrier| carrier.activity == activity && carrier.cell.technology == technology)
            .unwrap()
    };
    let quiet = of(Activity::Trickle, Technology::Lte).rsrp_dbm.unwrap();
    assert_eq!((quiet.n, quiet.median, quiet.mad, quiet.min, quiet.max), (2, -91.0, 1.0, -92.0, -90.0));
    assert_eq!(of(Activity::Loaded, Technology::Lte).rsrp_dbm.unwrap().median, -100.0);
    assert_eq!(of(Activity::Trickle, Technology::Nr).sinr_db.unwrap().median, 16.0);
}

#[test]
fn a_change_of_the_serving_cell_is_told_with_its_place() {
    let cell = |n, pci| sample(n, 1, Activity::Trickle, vec![lte(3, pci, -90.0, 10.0)]);
    let radio = summarise_samples(&[cell(1, 211), cell(2, 211), cell(3, 87), cell(4, 87)]);
    let changes: Vec<&Finding> =
        radio.findings.iter().filter(|finding| matches!(finding, Finding::CellChanged { .. })).collect();
    let [Finding::CellChanged { from, to, after_samples, changes: 1 }] = changes[..] else {
        panic!("{changes:?}")
    };
    assert_eq!((from.pci, to.pci, *after_samples), (Some(211), Some(87), 2));
}

/// A cell that flaps all day is one sentence, not one a change.
#[test]
fn changes_of_the_serving_cell_are_counted() {
    let samples: Vec<Sample> = (0..9)
        .map(|n| {
            sample(n, 1, Activity::Trickle, vec![lte(3, if n % 3 == 2 { 87 } else { 211 }, -90.0, 10.0)])
        })
        .collect();
    let radio = summarise_samples(&samples);
    let [Finding::CellChanged { after_samples: 2, changes: 5, .. }] = radio.findings[..] else {
        panic!("{:?}", radio.findings)
    };
}

#[test]
fn two_runs_on_two_cells_are_not_a_change() {
    let cell = |n, run, pci| sample(n, run, Activity::Trickle, vec![lte(3, pci, -90.0, 10.0)]);
    let radio = summarise_samples(&[cell(1, 1, 211), cell(2, 2, 87)]);
    assert!(radio.findings.is_empty(), "{:?}", radio.findings);
}

#[test]
fn the_anchor_is_the_serving_cell_of_an_nsa_connection() {
    let with = |n, nr_pci| {
        let mut anchor = lte(3, 211, -90.0, 10.0);
        anchor.role = CarrierRole::Anchor;
        sample(n, 1, Activity::Trickle, vec![nr(78, nr_pci, -90.0, 10.0), anchor])
    };
    let radio = summarise_samples(&[with(1, 611), with(2, 612)]);
    assert!(radio.findings.iter().all(|finding| !matches!(finding, Finding::CellChanged { .. })));
}

#[test]
fn nr_that_comes_and_goes_is_told() {
    let both = sample(1, 1, Activity::Idle, vec![lte(3, 1, -90.0, 10.0), nr(78, 1, -90.0, 10.0)]);
    let one = sample(2, 1, Activity::Idle, vec![lte(3, 1, -90.0, 10.0)]);
    let radio = summarise_samples(&[both.clone(), one]);
    assert!(radio.findings.contains(&Finding::NrCameAndWent { heard: 1, of: 2 }));
    assert!(summarise_samples(&[both]).findings.is_empty());
}

#[test]
fn flagged_values_are_told() {
    let mut odd = lte(3, 1, -90.0, 60.0);
    flag_out_of_range(&mut odd);
    let radio = summarise_samples(&[sample(1, 1, Activity::Idle, vec![odd])]);
    assert!(matches!(radio.findings[..], [Finding::OutsideRange { samples: 1, .. }]));
}

#[test]
fn missing_values_leave_no_trace() {
    let mut blank = lte(3, 1, -90.0, 10.0);
    blank.sinr_db = None;
    let radio = summarise_samples(&[sample(1, 1, Activity::Idle, vec![blank])]);
    assert_eq!(radio.carriers[0].sinr_db, None);
    assert_eq!(radio.carriers[0].rsrp_dbm.unwrap().n, 1);
}
