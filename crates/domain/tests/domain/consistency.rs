use crate::samples::{lte, nr};
use open_beacon_domain::metrics::*;
use open_beacon_domain::model::{FlagKind, Technology};
use proptest::prelude::*;

/// Common practice, no source: RSRP −87, RSRQ −17, SINR 5.1 disagree by about 10 dB at full load; the carrier is
/// classed by the worse witness.
#[test]
fn a_known_contradiction_is_named_with_its_size() {
    let mut carrier = lte(3, 1, -87.0, 5.1);
    carrier.rsrq_db = Some(-17.0);
    let found = oddities(&carrier);
    let [Oddity::RsrqSinr { by_db, implied, .. }] = found.as_slice() else { panic!("{found:?}") };
    assert!((by_db - 10.1).abs() < 0.1, "{by_db}");
    assert!((implied.high_db.unwrap() + 5.0).abs() < 0.1);
    let class = class_of_carrier(&carrier).unwrap();
    assert_eq!((class.class, class.limited_by), (Class::Starved, Metric::Rsrq));
    flag_oddities(&mut carrier);
    assert_eq!(carrier.sinr_db, Some(5.1), "nothing is mended");
    assert!(carrier.flags.iter().all(|flag| flag.kind == FlagKind::Contradicted));
    assert_eq!(carrier.flags.len(), 2);
}

/// From TS 36.214's definition: an idle one-port cell shows −3 dB at the best, a full one −10.8 dB.
#[test]
fn rsrq_ceilings_follow_from_the_load() {
    assert!((rsrq_of_load_db(1.0, 90.0) + 10.79).abs() < 0.01);
    assert!((rsrq_of_load_db(1.0 / 6.0, 90.0) + 3.01).abs() < 0.01);
    let mut carrier = lte(3, 1, -90.0, 20.0);
    carrier.rsrq_db = Some(-1.0);
    assert!(matches!(oddities(&carrier)[..], [Oddity::RsrqTooGood { .. }]));
    // −3 is unusual for NR, not impossible: its RSSI may be measured where an idle cell is silent.
    let mut wide = nr(78, 1, -90.0, 20.0);
    wide.rsrq_db = Some(-3.0);
    assert!(oddities(&wide).is_empty(), "{:?}", oddities(&wide));
}

#[test]
fn placement_that_cannot_be_is_named_precisely() {
    let mut carrier = lte(7, 600, -90.0, 10.0);
    carrier.channel = Some(1300);
    carrier.bandwidth_mhz = Some(1.4);
    let found = oddities(&carrier);
    assert!(found.contains(&Oddity::BandChannel { band: 7, channel: 1300, fits: vec![3] }));
    assert!(found.contains(&Oddity::Pci { pci: 600, highest: 503 }));
    assert!(found.iter().any(|odd| matches!(odd, Oddity::Bandwidth { band: 7, .. })));
    carrier.channel = Some(200_000);
    carrier.band = Some(250);
    let found = oddities(&carrier);
    assert!(found.contains(&Oddity::NoSuchChannel { channel: 200_000 }));
    assert!(found.contains(&Oddity::NoSuchBand { band: 250 }));
}

#[test]
fn powers_that_do_not_add_up_are_named() {
    let mut carrier = lte(3, 1, -90.0, 10.0);
    carrier.rssi_dbm = Some(-95.0);
    assert!(matches!(oddities(&carrier)[..], [Oddity::RsrpAboveRssi { .. }]));
    // 20 + −90 − −60 = −10 dB by TS 36.214; the page says −15.
    carrier.rssi_dbm = Some(-60.0);
    carrier.rsrq_db = Some(-15.0);
    assert!(
        oddities(&carrier).iter().any(
            |odd| matches!(odd, Oddity::RsrqRssi { computed_db, .. } if (computed_db + 10.0).abs() < 1e-9)
        )
    );
    carrier.sinr_db = Some(60.0);
    assert!(
        oddities(&carrier).iter().any(|odd| matches!(odd, Oddity::OutOfRange { metric: Metric::Sinr, .. }))
    );
}

/// −174 + 10 lg 15000 + 7 = −125.2 dBm: thermal noise at 290 K in 15 kHz with a 7 dB noise figure, by hand.
#[test]
fn noise_and_interference_are_told_apart() {
    assert!((noise_per_element_dbm(15, 7.0) + 125.24).abs() < 0.01);
    // 5 dB at −118 dBm: the disturbance is −123, a little above the noise alone.
    assert_eq!(limits(&lte(3, 1, -118.0, 5.0)).limit, Limit::Noise);
    // 5 dB at −90 dBm: the disturbance is −95, 30 dB above it.
    assert_eq!(limits(&lte(3, 1, -90.0, 5.0)).limit, Limit::Interference);
    assert_eq!(limits(&lte(3, 1, -90.0, 24.0)).limit, Limit::Fine);
    let mut unknown = lte(3, 1, -90.0, 5.0);
    unknown.sinr_db = None;
    assert_eq!(limits(&unknown).limit, Limit::Unknown);
}

/// TS 27.007 8.69 with TS 36.133 9.1.4, 9.1.7 and TS 38.133 10.1.6, 10.1.11, 10.1.16 (from memory): both ends, the
/// unknown codes, and the first number beyond.
#[test]
fn modem_codes_at_both_ends() {
    let of = |kind, code| decode(kind, code).unwrap();
    let edges = |kind, code| of(kind, code).map(|found| (found.low, found.high)).unwrap();
    assert_eq!(edges(CodeKind::Rsrp, 0), (None, Some(-140.0)));
    assert_eq!(edges(CodeKind::Rsrp, 1), (Some(-140.0), Some(-139.0)));
    assert_eq!(edges(CodeKind::Rsrp, 97), (Some(-44.0), None));
    assert_eq!(edges(CodeKind::Rsrq, 0), (None, Some(-19.5)));
    assert_eq!(edges(CodeKind::Rsrq, 34), (Some(-3.0), None));
    assert_eq!(edges(CodeKind::SsRsrp, 0), (None, Some(-156.0)));
    assert_eq!(edges(CodeKind::SsRsrp, 126), (Some(-31.0), None));
    assert_eq!(edges(CodeKind::SsRsrq, 1), (Some(-43.0), Some(-42.5)));
    assert_eq!(edges(CodeKind::SsRsrq, 127), (Some(20.0), None));
    assert_eq!(edges(CodeKind::SsSinr, 0), (None, Some(-23.0)));
    assert_eq!(edges(CodeKind::SsSinr, 127), (Some(40.0), None));
    assert_eq!(edges(CodeKind::CsqRssi, 0), (None, Some(-113.0)));
    assert_eq!(edges(CodeKind::CsqRssi, 31), (Some(-51.0), None));
    assert_eq!(of(CodeKind::CsqRssi, 99), None);
    for kind in [CodeKind::Rsrp, CodeKind::Rsrq, CodeKind::SsRsrp, CodeKind::SsRsrq, CodeKind::SsSinr] {
        assert_eq!(of(kind, 255), None);
        assert!(decode(kind, 200).is_err());
    }
    assert!((of(CodeKind::Rsrp, 44).unwrap().shown() + 96.5).abs() < 1e-12);
}

proptest! {
    /// RSRQ made from a SINR and a load says that load again, and never contradicts the SINR.
    #[test]
    fn a_consistent_carrier_is_never_called_odd(load in 0.0..=1.0f64, sinr in -8.0..30.0f64, rsrp in -120.0..-60.0f64) {
        let mut carrier = lte(3, 1, rsrp, sinr);
        let idle = idle_share(Technology::Lte);
        carrier.rsrq_db = Some(rsrq_of_load_db(idle + load * (1.0 - idle), sinr));
        prop_assert!(oddities(&carrier).is_empty());
        prop_assert!((implied_load(&carrier).unwrap() - load).abs() < 1e-6);
        prop_assert_eq!(careful_sinr_db(&carrier), Some(sinr));
    }

    /// Neighbouring codes join without gap or overlap.
    #[test]
    fn codes_join(code in 0_u16..97) {
        let here = decode(CodeKind::Rsrp, code).unwrap().unwrap();
        let next = decode(CodeKind::Rsrp, code + 1).unwrap().unwrap();
        prop_assert_eq!(here.high, next.low);
    }
}
