use crate::samples::{lte, nr};
use open_beacon_domain::metrics::*;
use open_beacon_domain::model::{FieldFlag, FlagKind, Technology};
use proptest::prelude::*;

/// TS 36.133 9.1.4, 9.1.7, 9.1.17 and TS 38.133 10.1.6, 10.1.11, 10.1.16: ends of the reporting ranges (from memory).
#[test]
fn reporting_ranges_end_where_the_tables_end() {
    let ends = |technology, metric| {
        let range = reporting_range(technology, metric);
        (range.low, range.high)
    };
    assert_eq!(ends(Technology::Lte, Metric::Rsrp), (-156.0, -44.0));
    assert_eq!(ends(Technology::Nr, Metric::Rsrp), (-156.0, -31.0));
    assert_eq!(ends(Technology::Lte, Metric::Rsrq), (-34.0, 2.5));
    assert_eq!(ends(Technology::Nr, Metric::Rsrq), (-43.0, 20.0));
    assert_eq!(ends(Technology::Lte, Metric::Sinr), (-23.0, 40.0));
    assert_eq!(ends(Technology::Nr, Metric::Sinr), (-23.0, 40.0));
}

#[test]
fn a_live_value_outside_its_range_is_kept_and_flagged_once() {
    let mut carrier = lte(3, 1, -90.0, 60.0);
    flag_out_of_range(&mut carrier);
    flag_out_of_range(&mut carrier);
    assert_eq!(carrier.sinr_db, Some(60.0));
    assert_eq!(carrier.flags, [FieldFlag { metric: Metric::Sinr, kind: FlagKind::OutsideReportingRange }]);
    // −35 dBm is beyond LTE's range and inside NR's.
    let mut strong = nr(78, 1, -35.0, 10.0);
    flag_out_of_range(&mut strong);
    assert!(strong.flags.is_empty());
}

/// Rules of thumb: common practice, no source. −80 dBm or better excellent, about −100 weak but workable, −105
/// "doable"; SINR above 20 dB excellent, about 5 dB poor.
#[test]
fn classes_say_what_common_practice_says() {
    let rsrp = |value| class_of_value(Metric::Rsrp, value).unwrap();
    let sinr = |value| class_of_value(Metric::Sinr, value).unwrap();
    assert_eq!(rsrp(-79.0), Class::Ample);
    assert_eq!(rsrp(-80.0), Class::Solid);
    assert_eq!(rsrp(-100.0), Class::Usable);
    assert_eq!(rsrp(-105.0), Class::Usable);
    assert_eq!(rsrp(-105.5), Class::Thin);
    assert_eq!(rsrp(-116.0), Class::Starved);
    assert_eq!(sinr(20.5), Class::Ample);
    assert_eq!(sinr(20.0), Class::Solid);
    assert_eq!(sinr(5.0), Class::Thin);
    assert_eq!(sinr(-0.5), Class::Starved);
    assert_eq!(class_of_value(Metric::Rsrq, -10.0), None, "RSRQ says nothing without the load");
}

#[test]
fn a_carrier_is_classed_by_the_worse_of_its_limits() {
    let thin_by_sinr = class_of_carrier(&lte(3, 1, -70.0, 3.0)).unwrap();
    assert_eq!((thin_by_sinr.class, thin_by_sinr.limited_by), (Class::Thin, Metric::Sinr));
    let thin_by_rsrp = class_of_carrier(&lte(3, 1, -110.0, 25.0)).unwrap();
    assert_eq!((thin_by_rsrp.class, thin_by_rsrp.limited_by), (Class::Thin, Metric::Rsrp));
    let mut blank = lte(3, 1, -70.0, 3.0);
    blank.rsrp_dbm = None;
    blank.sinr_db = None;
    assert_eq!(class_of_carrier(&blank), None);
}

/// TS 36.214 5.1.3. A cell that fills every resource element at one port: RSSI per block is 12 times RSRP, so RSRQ
/// is −10 lg 12 = −10.8 dB, the ceiling of a loaded cell.
#[test]
fn a_fully_loaded_cell_reads_minus_10_8() {
    let rsrp_dbm = -95.0;
    let rssi_dbm = rsrp_dbm + 10.0 * (12.0_f64 * 100.0).log10();
    assert!((rsrq_from_rssi_db(rsrp_dbm, rssi_dbm, 100) + 10.79).abs() < 0.01);
}

proptest! {
    /// RSRQ does not change when everything gets stronger by the same amount.
    #[test]
    fn rsrq_is_a_ratio(rsrp in -140.0..-44.0f64, above in 10.0..45.0f64, shift in -30.0..30.0f64) {
        let before = rsrq_from_rssi_db(rsrp, rsrp + above, 50);
        let after = rsrq_from_rssi_db(rsrp + shift, rsrp + above + shift, 50);
        prop_assert!((before - after).abs() < 1e-9);
    }

    /// A better value never has a worse class.
    #[test]
    fn classes_rise_with_the_value(a in -30.0..45.0f64, b in -30.0..45.0f64) {
        let (low, high) = if a < b { (a, b) } else { (b, a) };
        prop_assert!(class_of_value(Metric::Sinr, low) <= class_of_value(Metric::Sinr, high));
    }
}
