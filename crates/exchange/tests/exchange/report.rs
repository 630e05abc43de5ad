//! A site as one page: whole, well-formed, and nothing in it is fetched or run.

use super::demo_bundle;
use chrono::{TimeZone, Utc};
use open_beacon_core::model::{Run, SiteBundle};
use open_beacon_exchange::site_to_html;
use proptest::prelude::*;
use roxmltree::{Document, ParsingOptions};

fn page(bundle: &SiteBundle) -> String {
    let made_at = Utc.with_ymd_and_hms(2026, 11, 20, 12, 0, 0).unwrap();
    String::from_utf8(site_to_html(bundle, made_at)).unwrap()
}

/// Read by an XML parser: HTML that is well-formed as well.
fn parsed(text: &str) -> Document<'_> {
    Document::parse_with_options(text, ParsingOptions { allow_dtd: true, ..ParsingOptions::default() })
        .unwrap()
}

fn texts<'a>(page: &'a Document<'a>, name: &str) -> Vec<&'a str> {
    page.descendants()
        .filter(|node| node.tag_name().name() == name)
        .map(|node| node.text().unwrap_or(""))
        .collect()
}

#[test]
fn everything_that_was_done_is_on_the_page() {
    let bundle = demo_bundle();
    let text = page(&bundle);
    let page = parsed(&text);
    assert_eq!(texts(&page, "h1"), [bundle.site.name.as_str()]);
    let headings = texts(&page, "h2");
    for heading in ["Verdict", "Setups", "Runs, the newest first", "What else was done or happened", "Kits"] {
        assert!(headings.contains(&heading), "{heading} in {headings:?}");
    }
    let tables: Vec<_> = page.descendants().filter(|node| node.tag_name().name() == "tbody").collect();
    let rows = |at: usize| tables[at].children().filter(|node| node.is_element()).count();
    let used = bundle.setups.iter().filter(|setup| setup.archived_at.is_none());
    let used = used.filter(|setup| {
        bundle.positions.iter().any(|place| place.id == setup.position_id && place.archived_at.is_none())
    });
    assert_eq!(rows(0), used.count());
    let is_point =
        |run: &&Run| !matches!(run.context, open_beacon_core::model::RunContext::SweepPoint { .. });
    assert_eq!(rows(1), bundle.runs.iter().filter(is_point).count());
    assert!(texts(&page, "td").iter().any(|cell| cell.contains("Mbit/s down")));
}

#[test]
fn nothing_on_the_page_is_fetched_or_tells_where_the_house_stands() {
    let bundle = demo_bundle();
    let text = page(&bundle);
    let page = parsed(&text);
    let named = |name: &str| page.descendants().any(|node| node.tag_name().name() == name);
    assert!(["script", "img", "link", "iframe", "a"].iter().all(|name| !named(name)));
    assert!(!text.contains("src=") && !text.contains("url(") && !text.contains("@import"));
    let place = bundle.site.place.unwrap();
    for number in [place.latitude_deg, place.longitude_deg] {
        assert!(!text.contains(&format!("{number:.3}")), "{number}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]
    /// Whatever a user wrote comes back as the same text, and never as markup.
    #[test]
    fn every_text_stays_text(name in "[\\PC<>&\"'\\]]{1,40}", notes in "\\PC{0,40}|<script>alert\\(1\\)</script>|]]>&lt;|\u{0}\u{b}") {
        let mut bundle = demo_bundle();
        bundle.site.name = name.clone();
        bundle.runs[0].conditions.notes = notes.clone();
        let text = page(&bundle);
        let page = parsed(&text);
        prop_assert_eq!(texts(&page, "h1").concat(), name);
        prop_assert!(!page.descendants().any(|node| node.tag_name().name() == "script"));
        let plain: String = notes.chars().map(|sign| if sign.is_control() { ' ' } else { sign }).collect();
        prop_assert!(texts(&page, "td").iter().any(|cell| cell.contains(plain.trim())), "{}", plain);
    }
}
