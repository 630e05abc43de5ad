//! Numbers for those who graph at home: the text format that Prometheus reads (exposition format 0.0.4).

use std::fmt::Write as _;

/// What a metric is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum MetricKind {
    /// It rises and falls.
    Gauge,
    /// It only rises.
    Counter,
}

/// A metric with its values, each under its labels.
#[derive(Clone, Debug, PartialEq)]
pub struct Metric {
    /// `[a-z_]+`, with its unit at the end.
    pub name: &'static str,
    pub kind: MetricKind,
    pub help: &'static str,
    pub values: Vec<(Vec<(&'static str, String)>, f64)>,
}

/// A label's value with backslash, quote and line feed escaped.
fn escaped(value: &str) -> String {
    value.replace('\\', "\\\\").replace('"', "\\\"").replace('\n', "\\n")
}

/// The document. Metrics without a value are left out.
pub fn to_prometheus(metrics: &[Metric]) -> String {
    let mut text = String::new();
    for metric in metrics.iter().filter(|metric| !metric.values.is_empty()) {
        let kind = match metric.kind {
            MetricKind::Gauge => "gauge",
            MetricKind::Counter => "counter",
        };
        // Writing to a string does not fail.
        let _ = writeln!(text, "# HELP {0} {1}\n# TYPE {0} {kind}", metric.name, metric.help);
        for (labels, value) in &metric.values {
            let labels: Vec<String> =
                labels.iter().map(|(name, value)| format!("{name}=\"{}\"", escaped(value))).collect();
            let _ = writeln!(text, "{}{{{}}} {value}", metric.name, labels.join(","));
        }
    }
    text
}
