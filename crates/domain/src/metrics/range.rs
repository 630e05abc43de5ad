//! Reporting ranges: 3GPP TS 36.133 clause 9.1 (LTE), TS 38.133 clause 10.1 (NR).

use crate::model::{Carrier, FieldFlag, FlagKind, Metric, Technology};
use serde::{Deserialize, Serialize};

/// Closed range within which a metric is reported, in the metric's unit.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ReportingRange {
    /// Lower end.
    pub low: f64,
    /// Upper end.
    pub high: f64,
}

impl ReportingRange {
    /// True where `value` can be reported.
    pub fn holds(self, value: f64) -> bool {
        (self.low..=self.high).contains(&value)
    }
}

/// The reporting range of a metric.
///
/// | | LTE (TS 36.133) | NR (TS 38.133) |
/// |---|---|---|
/// | RSRP, dBm | −156..−44 (9.1.4, with the extended low end) | −156..−31 (10.1.6) |
/// | RSRQ, dB | −34..2.5 (9.1.7, extended) | −43..20 (10.1.11) |
/// | SINR, dB | −23..40 (9.1.17) | −23..40 (10.1.16) |
/// | RSSI, dBm | −120..0, common practice, no source (no range is standardised for the carrier RSSI that gateways show) | the same |
pub fn reporting_range(technology: Technology, metric: Metric) -> ReportingRange {
    let (low, high) = match (technology, metric) {
        (Technology::Lte, Metric::Rsrp) => (-156.0, -44.0),
        (Technology::Nr, Metric::Rsrp) => (-156.0, -31.0),
        (Technology::Lte, Metric::Rsrq) => (-34.0, 2.5),
        (Technology::Nr, Metric::Rsrq) => (-43.0, 20.0),
        (_, Metric::Sinr) => (-23.0, 40.0),
        (_, Metric::Rssi) => (-120.0, 0.0),
    };
    ReportingRange { low, high }
}

/// Marks every value of a live reading that lies outside its reporting range. What a gateway says is never
/// refused, only flagged; flags that are there already stay.
pub fn flag_out_of_range(carrier: &mut Carrier) {
    for metric in Metric::ALL {
        let outside = carrier
            .value(metric)
            .is_some_and(|value| !reporting_range(carrier.technology, metric).holds(value));
        if outside && !carrier.flags.iter().any(|flag| flag.metric == metric) {
            carrier.flags.push(FieldFlag { metric, kind: FlagKind::OutsideReportingRange });
        }
    }
}
