//! Numbers for graphs, read by another library than the one that wrote them.

use open_beacon_exchange::{Metric, MetricKind, to_prometheus};
use prometheus_parse::{Scrape, Value};
use proptest::prelude::*;

fn scrape(text: &str) -> Scrape {
    Scrape::parse(text.lines().map(|line| Ok(line.to_owned()))).unwrap()
}

fn gauge(values: Vec<(Vec<(&'static str, String)>, f64)>) -> Metric {
    Metric { name: "open_beacon_rsrp_dbm", kind: MetricKind::Gauge, help: "Signal strength, dBm.", values }
}

#[test]
fn kinds_help_and_values_are_told() {
    let counter = Metric {
        name: "open_beacon_bytes_total",
        kind: MetricKind::Counter,
        help: "Bytes.",
        values: vec![(vec![("site", "Croft".into())], 1.5e9)],
    };
    let found = scrape(&to_prometheus(&[gauge(Vec::new()), counter]));
    assert_eq!(found.samples.len(), 1, "what has no value is left out");
    assert_eq!(found.samples[0].value, Value::Counter(1.5e9));
    assert_eq!(found.docs.get("open_beacon_bytes_total").map(String::as_str), Some("Bytes."));
}

/// What ends a value, or a line, is escaped (exposition format); the library of these tests does not undo it.
#[test]
fn quotes_backslashes_and_line_feeds_are_escaped() {
    let text = to_prometheus(&[gauge(vec![(vec![("site", "a\"b\\c\nd".into())], 1.0)])]);
    assert!(text.ends_with("open_beacon_rsrp_dbm{site=\"a\\\"b\\\\c\\nd\"} 1\n"), "{text}");
}

proptest! {
    /// Whatever a site is called, its numbers come back under its name.
    #[test]
    fn any_name_comes_back(names in prop::collection::btree_set("[a-zA-Z0-9 æøå.-]{0,20}", 1..6), value in -140.0..1e6_f64) {
        let values = names.iter().map(|name| (vec![("site", name.clone()), ("band", "n78".into())], value)).collect();
        let found = scrape(&to_prometheus(&[gauge(values)]));
        prop_assert_eq!(found.samples.len(), names.len());
        for (sample, name) in found.samples.iter().zip(&names) {
            prop_assert_eq!(sample.labels.get("site"), Some(name.as_str()));
            prop_assert_eq!(&sample.value, &Value::Gauge(value));
        }
    }
}
