//! Files as they come after a bad cable or from somebody who means it: whatever bytes there are, every reader answers, and none
//! brings the program down. Short fuzzing with fixed budgets in the shape of property tests; what takes a value from a damaged file
//! may differ from the whole one's, but must be one that the program can hold and write again.

use crate::demo_bundle;
use crate::terrain::{geographic, geotiff};
use open_beacon_core::model::SiteId;
use open_beacon_exchange::masts::{
    guess_columns, masts_of, masts_to_csv, masts_to_geojson, masts_to_kml, read_mast_table,
};
use open_beacon_exchange::notebook::{MOST_LINES, read_notebook};
use open_beacon_exchange::paste::read_paste;
use open_beacon_exchange::terrain::read_tile;
use open_beacon_exchange::{from_bytes, read_pattern, to_json, to_zip};
use proptest::prelude::*;
use std::sync::OnceLock;

/// One blow at a place, given as a share of the file.
#[derive(Clone, Debug)]
enum Blow {
    Flip(f64, u8),
    Cut(f64, usize),
    Twice(f64, usize),
    Put(f64, &'static str),
    End(f64),
}

/// What readers trip over.
const WORDS: [&str; 20] = [
    "<",
    "</",
    "<![CDATA[",
    "&x;",
    "{",
    "}",
    "[[[[",
    "\"",
    "\\u0000",
    "\0",
    "1e999",
    "-0",
    "NaN",
    "99999999999999999999",
    ",,,",
    "\r\n",
    "\u{feff}",
    "\u{202e}",
    "日本",
    "ncols 2000000000",
];

fn blow() -> impl Strategy<Value = Blow> {
    let place = 0.0_f64..1.0;
    prop_oneof![
        (place.clone(), any::<u8>()).prop_map(|(at, bits)| Blow::Flip(at, bits | 1)),
        (place.clone(), 1_usize..400).prop_map(|(at, length)| Blow::Cut(at, length)),
        (place.clone(), 1_usize..400).prop_map(|(at, length)| Blow::Twice(at, length)),
        (place.clone(), prop::sample::select(&WORDS[..])).prop_map(|(at, word)| Blow::Put(at, word)),
        place.prop_map(Blow::End),
    ]
}

fn blows() -> impl Strategy<Value = Vec<Blow>> {
    prop::collection::vec(blow(), 1..5)
}

fn damaged(whole: &[u8], blows: &[Blow]) -> Vec<u8> {
    let mut bytes = whole.to_vec();
    for blow in blows {
        if bytes.is_empty() {
            break;
        }
        let place = |share: f64| ((bytes.len() as f64 * share) as usize).min(bytes.len() - 1);
        match blow {
            Blow::Flip(share, bits) => {
                let at = place(*share);
                bytes[at] ^= bits;
            }
            Blow::Cut(share, length) => {
                let at = place(*share);
                bytes.drain(at..(at + length).min(bytes.len()));
            }
            Blow::Twice(share, length) => {
                let at = place(*share);
                let part = bytes[at..(at + length).min(bytes.len())].to_vec();
                bytes.splice(at..at, part);
            }
            Blow::Put(share, word) => {
                let at = place(*share);
                bytes.splice(at..at, word.bytes());
            }
            Blow::End(share) => {
                let at = place(*share);
                bytes.truncate(at);
            }
        }
    }
    bytes
}

fn site_files() -> &'static [Vec<u8>; 2] {
    static FILES: OnceLock<[Vec<u8>; 2]> = OnceLock::new();
    FILES.get_or_init(|| [to_json(&demo_bundle()), to_zip(&demo_bundle())])
}

fn mast_files() -> &'static [Vec<u8>; 3] {
    static FILES: OnceLock<[Vec<u8>; 3]> = OnceLock::new();
    FILES.get_or_init(|| {
        let masts = demo_bundle().masts;
        [masts_to_csv(&masts), masts_to_geojson(&masts), masts_to_kml(&masts)]
    })
}

fn tile_files() -> &'static [(&'static str, Vec<u8>); 4] {
    static FILES: OnceLock<[(&'static str, Vec<u8>); 4]> = OnceLock::new();
    FILES.get_or_init(|| {
        let heights: Vec<i16> = (0..24 * 20).map(|n| 500 + (n % 24) as i16).collect();
        let rows: Vec<String> = heights
            .chunks(24)
            .map(|row| row.iter().map(i16::to_string).collect::<Vec<_>>().join(" "))
            .collect();
        let text = format!(
            "ncols 24\nnrows 20\nxllcenter 8.0\nyllcenter 61.0\ncellsize 0.001\nNODATA_value -9999\n{}\n",
            rows.join("\n")
        );
        [
            ("ground.asc", text.into_bytes()),
            ("ground.tif", geotiff(&geographic(2, 0.0), 24, 20, &heights, false)),
            ("packed.tif", geotiff(&geographic(1, 0.5), 24, 20, &heights, true)),
            // The smallest of its kind: 1,201 rows of every tenth column.
            (
                "N61E008.hgt",
                (0..1201 * 121).flat_map(|n: i32| ((500 + n % 90) as i16).to_be_bytes()).collect(),
            ),
        ]
    })
}

const PAGES: [&str; 4] = [
    include_str!("pages/01-plain-lines.txt"),
    include_str!("pages/05-json-nested.txt"),
    include_str!("pages/08-table-with-heading-row.txt"),
    include_str!("pages/10-german.txt"),
];

/// How many cases: few among the other tests, as many as are asked for by `cargo xtask fuzz`.
fn budget(few: u32) -> ProptestConfig {
    let asked = std::env::var("OPEN_BEACON_CASES").ok().and_then(|cases| cases.parse().ok());
    ProptestConfig { cases: asked.unwrap_or(few), ..ProptestConfig::default() }
}

proptest! {
    #![proptest_config(budget(160))]

    /// A damaged export is refused with its reasons, or is a site that can be written and read again just the same.
    #[test]
    fn a_damaged_export_is_refused_or_whole(which in 0_usize..2, blows in blows()) {
        match from_bytes(&damaged(&site_files()[which], &blows)) {
            Ok(bundle) => {
                prop_assert_eq!(&from_bytes(&to_zip(&bundle)).unwrap(), &bundle);
                prop_assert_eq!(&from_bytes(&to_json(&bundle)).unwrap(), &bundle);
            }
            Err(problems) => {
                prop_assert!(!problems.is_empty() && problems.len() <= 101, "{}", problems.len());
                prop_assert!(problems.iter().all(|one| !one.reason.is_empty()));
            }
        }
    }
}

proptest! {
    #![proptest_config(budget(400))]

    /// A damaged table of masts: what is read has a place on earth, and everything else its line and reason.
    #[test]
    fn a_damaged_mast_file_gives_masts_on_earth(which in 0_usize..3, blows in blows()) {
        let file = damaged(&mast_files()[which], &blows);
        match read_mast_table("masts", &file) {
            Err(reason) => prop_assert!(!reason.is_empty()),
            Ok(table) => {
                prop_assert!(table.rows.iter().all(|row| row.len() <= table.headings.len() || table.kind == "CSV"));
                let columns = guess_columns(&table.headings, &[]);
                let read = masts_of(&table, &columns, SiteId(uuid::Uuid::nil()));
                for mast in read.masts {
                    prop_assert!(mast.place.check().is_ok(), "{:?}", mast.place);
                }
                for problem in read.problems {
                    prop_assert!(!problem.reason.is_empty());
                }
            }
        }
    }

    /// A damaged terrain file is refused in words, or has finite heights where it says it lies.
    #[test]
    fn a_damaged_terrain_file_has_heights_or_a_reason(which in 0_usize..4, blows in blows()) {
        let (name, whole) = &tile_files()[which];
        match read_tile(name, &damaged(whole, &blows), None) {
            Err(reason) => prop_assert!(!reason.is_empty()),
            Ok(read) => {
                let (columns, rows) = read.grid.size();
                prop_assert!(columns * rows <= 200_000_000);
                if let Ok(extremes) = read.grid.extremes() {
                    prop_assert!(extremes.lowest_m.is_finite() && extremes.highest_m >= extremes.lowest_m);
                }
            }
        }
    }

    /// A damaged page of a gateway: whatever is understood is a number that a carrier can have.
    #[test]
    fn a_damaged_page_gives_no_impossible_number(which in 0_usize..4, blows in blows()) {
        let text = String::from_utf8_lossy(&damaged(PAGES[which].as_bytes(), &blows)).into_owned();
        if let Ok(read) = read_paste(&text) {
            for carrier in &read.carriers {
                for value in [carrier.rsrp_dbm, carrier.rsrq_db, carrier.sinr_db, carrier.rssi_dbm, carrier.bandwidth_mhz] {
                    prop_assert!(value.is_none_or(f64::is_finite), "{carrier:?}");
                }
            }
        }
    }

    /// Torn lines of a notebook: each is understood, asked about or kept as notes; no figure is one that nothing can have, and all lines
    /// are answered for.
    #[test]
    fn a_damaged_notebook_gives_no_impossible_number(blows in blows()) {
        let whole = "gable 143 n78 -92 24 266/23.6/36\n-91 25 270/24/35 14:20 rain\nsill B20 -101,5 3 12/0,8\nattic 30MB/s down 900 kbit/s up\n";
        let text = String::from_utf8_lossy(&damaged(whole.as_bytes(), &blows)).into_owned();
        let lines = read_notebook(&text, &crate::notebook::known(), None, &[]);
        // What cannot be is asked about, and such a line is not kept.
        for line in lines.iter().filter(|line| line.question.is_none()) {
            let [rsrp, sinr, rsrq] = [line.rsrp_dbm, line.sinr_db, line.rsrq_db];
            prop_assert!(rsrp.is_none_or(|rsrp| (-160.0..=-20.0).contains(&rsrp)), "{line:?}");
            prop_assert!(sinr.is_none_or(|sinr| (-30.0..=60.0).contains(&sinr)), "{line:?}");
            prop_assert!(rsrq.is_none_or(|rsrq| (-50.0..=30.0).contains(&rsrq)), "{line:?}");
            for rate in [line.download_mbps, line.upload_mbps, line.idle_latency_ms].into_iter().flatten() {
                prop_assert!(rate.is_finite() && rate >= 0.0, "{line:?}");
            }
            prop_assert!(text.contains(line.text.trim()), "{line:?}");
        }
        let filled = text.lines().filter(|line| !line.trim().is_empty()).count();
        prop_assert!(lines.len() >= filled.min(MOST_LINES), "{} of {filled}", lines.len());
    }

    /// Any text is a pattern in order of its angles, or refused.
    #[test]
    fn a_damaged_pattern_is_in_order_or_refused(blows in blows()) {
        let whole: String = (0..72).map(|n| format!("{},{}\n", n * 5, -(n % 36))).collect();
        let text = String::from_utf8_lossy(&damaged(whole.as_bytes(), &blows)).into_owned();
        match read_pattern(&text) {
            Ok(points) => prop_assert!(points.windows(2).all(|two| two[0].off_deg < two[1].off_deg)),
            Err(problems) => prop_assert!(!problems.is_empty()),
        }
    }

    /// Bytes that were never any of these.
    #[test]
    fn noise_is_refused_by_every_reader(bytes in prop::collection::vec(any::<u8>(), 0..600)) {
        prop_assert!(from_bytes(&bytes).is_err());
        let _ = read_mast_table("noise", &bytes);
        for name in ["noise.asc", "noise.tif", "noise.hgt", "N61E008.hgt", "noise"] {
            prop_assert!(read_tile(name, &bytes, None).is_err(), "{name}");
        }
        let _ = read_paste(&String::from_utf8_lossy(&bytes));
    }
}
