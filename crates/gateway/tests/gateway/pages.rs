//! Pages in other layouts, pointers, and maps from what can be recognised.

use open_beacon_domain::check::is_pointer;
use open_beacon_domain::model::*;
use open_beacon_gateway::*;
use open_beacon_simulator::device::Device;
use open_beacon_simulator::layouts::{html_page, other_page, xml_page};
use serde_json::{Value, json};

fn heard() -> Reading {
    let mut device = Device::new(7);
    device.pose.mount = "roof_mast".into();
    device.pose.antenna = "external".into();
    device.pose.azimuth_deg = 143.0;
    device.pose.height_above_ground_m = 8.0;
    device.traffic(1.79e9);
    device.reading(1.79e9)
}

fn first(reading: &Reading, technology: Technology) -> &Carrier {
    reading.carriers.iter().find(|one| one.technology == technology).unwrap_or_else(|| panic!("{reading:?}"))
}

/// RFC 6901 section 5: the document and every example of it.
#[test]
fn pointers_are_those_of_the_standard() {
    let document = json!({"foo": ["bar", "baz"], "": 0, "a/b": 1, "c%d": 2, "e^f": 3, "g|h": 4, "i\\j": 5, "k\"l": 6,
        " ": 7, "m~n": 8});
    assert_eq!(document.pointer(""), Some(&document));
    assert_eq!(document.pointer("/foo"), Some(&json!(["bar", "baz"])));
    assert_eq!(document.pointer("/foo/0"), Some(&json!("bar")));
    for (pointer, value) in [
        ("/", 0),
        ("/a~1b", 1),
        ("/c%d", 2),
        ("/e^f", 3),
        ("/g|h", 4),
        ("/i\\j", 5),
        ("/k\"l", 6),
        ("/ ", 7),
        ("/m~0n", 8),
    ] {
        assert!(is_pointer(pointer), "{pointer}");
        assert_eq!(document.pointer(pointer), Some(&json!(value)), "{pointer}");
    }
    // Section 3's grammar, and section 4: no leading zeros, and a list's end (`-`) holds no value.
    for pointer in ["foo", "/m~n", "/a~2", "~"] {
        assert!(!is_pointer(pointer), "{pointer}");
    }
    assert_eq!(document.pointer("/foo/01"), None);
    assert_eq!(document.pointer("/foo/-"), None);
}

#[test]
fn a_page_with_units_of_its_own_is_read_through_the_map_that_was_suggested() {
    let reading = heard();
    let page = other_page(&reading);
    let map = suggest_map(&page).unwrap();
    assert_eq!(
        map.carriers.iter().map(|group| group.at.as_str()).collect::<Vec<_>>(),
        ["/wwan/lte", "/wwan/nr"]
    );
    for group in &map.carriers {
        let sinr = group.fields.iter().find(|one| one.field == PageField::SinrDb).unwrap();
        // 220 can be no SINR, 22.0 can.
        assert_eq!(sinr.scale, 0.1);
    }
    let read = read_fields(&page, &map).unwrap();
    for technology in [Technology::Lte, Technology::Nr] {
        let (was, is) = (first(&reading, technology), first(&read, technology));
        assert_eq!((was.rsrp_dbm, was.band, was.pci), (is.rsrp_dbm, is.band, is.pci));
        assert_eq!((was.bandwidth_mhz, was.cell_identity), (is.bandwidth_mhz, is.cell_identity));
        assert!((was.sinr_db.unwrap() - is.sinr_db.unwrap()).abs() < 0.051);
    }
    assert_eq!(read.mode, ConnectionMode::Nsa);
    let mut alone = page.clone();
    alone["wwan"]["nr"] = Value::Null;
    assert_eq!(read_fields(&alone, &map).unwrap().mode, ConnectionMode::Lte);
}

#[test]
fn xml_and_html_are_read_by_the_same_pointers() {
    let reading = heard();
    let page = parse_page(&xml_page(&reading), PageFormat::Xml).unwrap();
    let field = |field, at: &str| FieldAt::plain(field, at);
    let fields = vec![
        field(PageField::Technology, "/@rat"),
        field(PageField::RsrpDbm, "/rsrp"),
        field(PageField::Band, "/band"),
    ];
    let map = FieldMap {
        mode: None,
        carriers: vec![CarrierGroup { at: "/response/cells/cell".into(), fields }],
        neighbours: Vec::new(),
    };
    let read = read_fields(&page, &map).unwrap();
    assert_eq!(read.carriers.len(), reading.carriers.len());
    assert_eq!(read.carriers[0].rsrp_dbm, reading.carriers[0].rsrp_dbm);

    let page = parse_page(&html_page(&reading), PageFormat::Html).unwrap();
    let read = read_fields(&page, &suggest_map(&page).unwrap()).unwrap();
    let (was, is) = (first(&reading, Technology::Lte), &read.carriers[0]);
    assert_eq!((was.rsrp_dbm, was.sinr_db, was.band, was.pci), (is.rsrp_dbm, is.sinr_db, is.band, is.pci));

    assert!(parse_page("<a><b></a>", PageFormat::Xml).unwrap_err().contains("not XML"));
    assert_eq!(looks_like("  <?xml version=\"1.0\"?><a/>"), PageFormat::Xml);
    assert_eq!(looks_like("<!DOCTYPE html><p>"), PageFormat::Html);
    assert_eq!(looks_like("[1]"), PageFormat::Json);
}

#[test]
fn numbers_with_units_and_codes_are_read_and_nonsense_is_not() {
    let of = |unit, value: Value, field| {
        let at = FieldAt { unit, ..FieldAt::plain(field, "/v") };
        let technology = FieldAt { fixed: "nr".into(), ..FieldAt::plain(PageField::Technology, "") };
        let group = CarrierGroup {
            at: String::new(),
            fields: vec![technology, FieldAt::plain(PageField::Pci, "/pci"), at],
        };
        let map = FieldMap { mode: None, carriers: vec![group], neighbours: Vec::new() };
        read_fields(&json!({ "v": value, "pci": 7 }), &map).map(|reading| reading.carriers[0].clone())
    };
    let rsrp = |unit, value: Value| of(unit, value, PageField::RsrpDbm).map(|one| one.rsrp_dbm);
    assert_eq!(rsrp(FieldUnit::Own, json!("−97,5 dBm")), Ok(Some(-97.5)));
    assert_eq!(rsrp(FieldUnit::Own, json!("--")), Ok(None));
    assert_eq!(rsrp(FieldUnit::Own, json!("N/A")), Ok(None));
    // TS 38.133 table 10.1.6.1-1: code 50 is −107 to −106 dBm, 255 is not known (TS 27.007 clause 8.69).
    assert_eq!(rsrp(FieldUnit::Code, json!(50)), Ok(Some(-106.5)));
    assert_eq!(rsrp(FieldUnit::Code, json!(255)), Ok(None));
    assert!(rsrp(FieldUnit::Code, json!(50.5)).is_err());
    for nonsense in ["-97-98", "dBm", "12 34", "--5", "1.2.3", "3 apples and a pear"] {
        assert!(rsrp(FieldUnit::Own, json!(nonsense)).is_err(), "{nonsense}");
    }
    let width = |unit, value: Value| of(unit, value, PageField::BandwidthMhz).map(|one| one.bandwidth_mhz);
    assert_eq!(width(FieldUnit::Hz, json!(20_000_000)), Ok(Some(20.0)));
    assert_eq!(width(FieldUnit::Own, json!("20MHz")), Ok(Some(20.0)));
}

#[test]
fn words_of_the_page_are_put_into_ours() {
    let words = vec![
        Named { name: "13".into(), value: "lte".into() },
        Named { name: "15".into(), value: "nr".into() },
    ];
    let technology = FieldAt { words, ..FieldAt::plain(PageField::Technology, "/act") };
    let group = CarrierGroup { at: "/list".into(), fields: vec![technology] };
    let map = FieldMap { mode: None, carriers: vec![group], neighbours: Vec::new() };
    let read = |page: Value| read_fields(&page, &map);
    let found = read(json!({"list": [{"act": 13}, {"act": "15"}]})).unwrap();
    assert_eq!(
        found.carriers.iter().map(|one| one.technology).collect::<Vec<_>>(),
        [Technology::Lte, Technology::Nr]
    );
    assert!(read(json!({"list": [{"act": 99}]})).unwrap_err().to_string().contains("“99”"));
}

/// Nested 5,000 deep, XML once overflowed the stack and HTML kept a core busy for minutes.
#[test]
fn a_page_without_end_is_refused_not_read() {
    let nested = |tag: &str, depth: usize| {
        format!("{}x{}", format!("<{tag}>").repeat(depth), format!("</{tag}>").repeat(depth))
    };
    let xml = format!("<status>{}</status>", nested("a", 5000));
    let html = format!("<!doctype html><html><body>{}</body></html>", nested("div", 50_000));
    let json = format!("{}{}", "[".repeat(50_000), "]".repeat(50_000));
    for (page, format) in [(&xml, PageFormat::Xml), (&html, PageFormat::Html), (&json, PageFormat::Json)] {
        assert!(parse_page(page, format).is_err(), "{format:?}");
    }
    // As deep as pages are.
    assert!(parse_page(&format!("<status>{}</status>", nested("a", 60)), PageFormat::Xml).is_ok());
    assert!(
        parse_page(&format!("<html><body>{}</body></html>", nested("div", 150)), PageFormat::Html).is_ok()
    );
}
