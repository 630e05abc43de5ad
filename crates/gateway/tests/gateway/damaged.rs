//! A gateway's pages and a modem's lines as they come when the gateway restarts in the middle, or is not what it says: whatever
//! bytes there are, every reader answers, and what it reads are numbers. Short fuzzing with fixed budgets in the shape of property
//! tests.

use open_beacon_domain::model::*;
use open_beacon_gateway::{Answers, looks_like, parse_page, read_answers, read_fields, suggest_map};
use open_beacon_simulator::device::Device;
use open_beacon_simulator::layouts::{html_page, other_page, xml_page};
use proptest::prelude::*;
use std::sync::OnceLock;

fn pages() -> &'static [String; 3] {
    static PAGES: OnceLock<[String; 3]> = OnceLock::new();
    PAGES.get_or_init(|| {
        let mut device = Device::new(7);
        device.traffic(1.79e9);
        let reading = device.reading(1.79e9);
        [xml_page(&reading), html_page(&reading), other_page(&reading).to_string()]
    })
}

fn torn(whole: &str, from: f64, to: f64, put: &str) -> String {
    let cut = |share: f64| {
        let mut at = (whole.len() as f64 * share) as usize;
        while !whole.is_char_boundary(at) {
            at -= 1;
        }
        at
    };
    let (first, second) = (cut(from.min(to)), cut(from.max(to)));
    format!("{}{put}{}", &whole[..first], &whole[second..])
}

const WORDS: [&str; 12] =
    ["", "<", "</table>", "<td>", "\"", "}", "[", "&amp;&x;", "\0", "1e999", "NaN dB", "<div><div><div>"];

/// How many cases: few among the other tests, as many as are asked for by `cargo xtask fuzz`.
fn budget(few: u32) -> ProptestConfig {
    let asked = std::env::var("OPEN_BEACON_CASES").ok().and_then(|cases| cases.parse().ok());
    ProptestConfig { cases: asked.unwrap_or(few), ..ProptestConfig::default() }
}

proptest! {
    #![proptest_config(budget(500))]

    /// A torn page is refused, or what is read of it are finite numbers.
    #[test]
    fn a_torn_page_gives_numbers_or_a_reason(
        which in 0_usize..3,
        from in 0.0_f64..1.0,
        to in 0.0_f64..1.0,
        put in prop::sample::select(&WORDS[..]),
    ) {
        let page = torn(&pages()[which], from, to, put);
        for format in [PageFormat::Json, PageFormat::Xml, PageFormat::Html, looks_like(&page)] {
            let tree = match parse_page(&page, format) {
                Ok(tree) => tree,
                Err(reason) => {
                    prop_assert!(!reason.is_empty());
                    continue;
                }
            };
            let Some(map) = suggest_map(&tree) else { continue };
            if let Ok(reading) = read_fields(&tree, &map) {
                for one in &reading.carriers {
                    for value in [one.rsrp_dbm, one.rsrq_db, one.sinr_db, one.rssi_dbm, one.bandwidth_mhz] {
                        prop_assert!(value.is_none_or(f64::is_finite), "{one:?}");
                    }
                }
            }
        }
    }

    /// Whatever a modem says, it is read or refused; codes beyond the standard's tables are no values.
    #[test]
    fn any_line_of_a_modem_is_read_or_refused(
        codes in prop::collection::vec(-5_i32..300, 0..9),
        head in prop::sample::select(&["+CESQ: ", "+CSQ: ", "+COPS: ", "+CEREG: ", "", "ERROR", "+CESQ:"][..]),
        tail in "[ -~]{0,20}",
    ) {
        let list = codes.iter().map(i32::to_string).collect::<Vec<_>>().join(",");
        let line = Some(format!("{head}{list}{tail}"));
        for answers in [
            Answers { cesq: line.clone(), ..Answers::default() },
            Answers { csq: line.clone(), ..Answers::default() },
            Answers { cesq: line.clone(), cereg: line.clone(), cops: line.clone(), c5greg: line, ..Answers::default() },
        ] {
            if let Ok(reading) = read_answers(&answers) {
                for one in &reading.carriers {
                    // TS 27.007 section 8.69 and TS 36.133 section 9.1: what the codes can say.
                    prop_assert!(one.rsrp_dbm.is_none_or(|dbm| (-157.0..=-29.0).contains(&dbm)), "{one:?}");
                    prop_assert!(one.rsrq_db.is_none_or(|db| (-45.0..=21.0).contains(&db)), "{one:?}");
                    prop_assert!(one.rssi_dbm.is_none_or(|dbm| (-120.0..=-25.0).contains(&dbm)), "{one:?}");
                }
            }
        }
    }
}
