//! Short spellings of lists: what is written is read back, and what cannot be is told with what would work.

use open_beacon_domain::feedline::joint::{Connector, Gender, Series};
use open_beacon_domain::model::*;
use open_beacon_domain::spelling::*;
use proptest::prelude::*;

fn refused<T: Spelled + std::fmt::Debug>(texts: &[&str], works: &str) {
    for text in texts {
        let error = read_list::<T>(text).unwrap_err().to_string();
        assert!(error.contains(works) && error.contains(text.trim()), "{text}: {error}");
    }
}

const fn lte(band: u16) -> BandName {
    BandName { technology: Technology::Lte, band }
}
const fn nr(band: u16) -> BandName {
    BandName { technology: Technology::Nr, band }
}

#[test]
fn bands_with_their_streams() {
    let list: Vec<BandSupport> = read_list("B3:2, b20:2\nN78:4 n1").unwrap();
    let expected = [(lte(3), 2), (lte(20), 2), (nr(78), 4), (nr(1), 2)];
    assert_eq!(list, expected.map(|(band, layers)| BandSupport { band, layers }));
    assert_eq!(write_list(&list), "B3:2 B20:2 n78:4 n1:2");
    assert!(read_list::<BandSupport>(" ").unwrap().is_empty());
    refused::<BandSupport>(
        &["X3:2", "B3:9", "B:2", "3:2", "B3:two", "B3:0", "B1234:2"],
        "for instance B3:2 or n78:4",
    );
}

#[test]
fn gains_negative_ones_too() {
    let list: Vec<GainPoint> = read_list("698:−1.5 1710:8, 3800:9.25").unwrap();
    let expected = [(698.0, -1.5), (1710.0, 8.0), (3800.0, 9.25)];
    assert_eq!(list, expected.map(|(frequency_mhz, gain_dbi)| GainPoint { frequency_mhz, gain_dbi }));
    assert_eq!(write_list(&list), "698:-1.5 1710:8 3800:9.25");
    refused::<GainPoint>(&["1710", "0:8", "-5:8", "1710:", "1710:NaN", "1710:inf"], "for instance 1710:8");
}

#[test]
fn ports_one_a_line() {
    let text = "1 sma-f pair1\n2 SMA-F Pair1 rx\n3 ts9-m pair2 rx B3 n78\n4 ufl-f pair2\n\n5 crc9-m pair3\n6 rpsma-m pair4";
    let list: Vec<GatewayPort> = read_list(text).unwrap();
    assert_eq!(
        list[2],
        GatewayPort {
            name: "3".into(),
            connector: Connector { series: Series::Ts9, gender: Gender::Male },
            bands: vec![lte(3), nr(78)],
            direction: PortDirection::Receive,
            pair: 2,
        }
    );
    assert_eq!(list[3].connector, Connector { series: Series::UFl, gender: Gender::Female });
    assert_eq!(list[5].connector, Connector { series: Series::RpSma, gender: Gender::Male });
    assert_eq!(read_list::<GatewayPort>(&write_list(&list)).unwrap(), list);
    refused::<GatewayPort>(
        &[
            "1",
            "1 sma pair1",
            "1 sma-f pair7",
            "1 bnc-f pair1",
            "1 sma-f pair1 B3 what",
            "Main port sma-f pair1",
        ],
        "for instance 3 sma-f pair2 rx B3 n78",
    );
}

#[test]
fn expected_carriers_with_their_width() {
    let list: Vec<ExpectedCarrier> = read_list("B20 10, n78 80; B3 1.4").unwrap();
    let expected = [(lte(20), 10.0), (nr(78), 80.0), (lte(3), 1.4)];
    assert_eq!(list, expected.map(|(band, bandwidth_mhz)| ExpectedCarrier { band, bandwidth_mhz }));
    assert_eq!(write_list(&list), "B20 10, n78 80, B3 1.4");
    refused::<ExpectedCarrier>(&["B20", "B20 wide", "20 10", "B20 -5", "B20 10 n78"], "for instance B20 10");
}

#[test]
fn combinations() {
    let list: Vec<Vec<BandName>> = read_list("B3+n78 B20+n28,B1+B3+B7").unwrap();
    assert_eq!(list, [vec![lte(3), nr(78)], vec![lte(20), nr(28)], vec![lte(1), lte(3), lte(7)]]);
    assert_eq!(write_list(&list), "B3+n78, B20+n28, B1+B3+B7");
    refused::<Vec<BandName>>(&["B3", "B3+x", "B3+"], "for instance B3+B20");
}

#[test]
fn metrics_in_their_own_order() {
    assert_eq!(read_metrics("sinr, RSRP rsrp").unwrap(), [Metric::Rsrp, Metric::Sinr]);
    assert_eq!(write_list(&[Metric::Rsrp, Metric::Sinr]), "RSRP SINR");
    assert!(read_metrics("").unwrap().is_empty());
    refused::<Metric>(&["bars"], "for instance RSRP SINR");
}

fn band() -> impl Strategy<Value = BandName> {
    (any::<bool>(), 1..=999_u16).prop_map(|(new, band)| if new { nr(band) } else { lte(band) })
}

/// Numbers as catalogues have them, to a hundredth.
fn number(low: i32, high: i32) -> impl Strategy<Value = f64> {
    (low * 100..=high * 100).prop_map(|hundredths| f64::from(hundredths) / 100.0)
}

fn port() -> impl Strategy<Value = GatewayPort> {
    let series = prop::sample::select(vec![
        Series::N,
        Series::Sma,
        Series::RpSma,
        Series::Ts9,
        Series::Crc9,
        Series::UFl,
    ]);
    let end = (series, any::<bool>()).prop_map(|(series, male)| Connector {
        series,
        gender: if male { Gender::Male } else { Gender::Female },
    });
    ("[A-Za-z0-9]{1,8}", end, prop::collection::vec(band(), 0..4), any::<bool>(), 1..=4_u8).prop_map(
        |(name, connector, bands, receive, pair)| GatewayPort {
            name,
            connector,
            bands,
            direction: if receive { PortDirection::Receive } else { PortDirection::Both },
            pair,
        },
    )
}

fn comes_back<T: Spelled + PartialEq + std::fmt::Debug>(list: Vec<T>) -> Result<(), TestCaseError> {
    prop_assert_eq!(read_list::<T>(&write_list(&list)).unwrap(), list);
    Ok(())
}

proptest! {
    #[test]
    fn what_is_written_is_read_back(
        support in prop::collection::vec((band(), 1..=4_u8).prop_map(|(band, layers)| BandSupport { band, layers }), 0..6),
        gain in prop::collection::vec((number(1, 9000), number(-20, 30)).prop_map(|(frequency_mhz, gain_dbi)| GainPoint { frequency_mhz, gain_dbi }), 0..6),
        expected in prop::collection::vec((band(), number(1, 200)).prop_map(|(band, bandwidth_mhz)| ExpectedCarrier { band, bandwidth_mhz }), 0..6),
        combinations in prop::collection::vec(prop::collection::vec(band(), 2..5), 0..6),
        ports in prop::collection::vec(port(), 0..6),
    ) {
        comes_back(support)?;
        comes_back(gain)?;
        comes_back(expected)?;
        comes_back(combinations)?;
        comes_back(ports)?;
    }

    #[test]
    fn no_text_breaks_a_reader(text in "[BbNn0-9:;,+ .\n−-]{0,40}|\\PC{0,40}") {
        let _ = (read_list::<BandSupport>(&text), read_list::<GainPoint>(&text), read_list::<GatewayPort>(&text));
        let _ = (read_list::<ExpectedCarrier>(&text), read_list::<Vec<BandName>>(&text), read_metrics(&text));
    }
}
