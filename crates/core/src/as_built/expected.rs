//! What the next visit is to find: each carrier and each speed with the range that nine visits of ten fall in.

use crate::judge::{SetupEvidence, sitting_means, usual_scatter, visits};
use crate::metrics::Metric;
use crate::model::{AsBuiltCarrier, AsBuiltSpeed, Carrier, ExpectedFigure, SpeedFigure};
use crate::stats::{COVERAGE, Interval, UsualScatter, next_visit};
use std::collections::BTreeMap;

/// How logarithms of rates scatter from sitting to sitting, three tests each, where few sittings tell: what the model of a speed assumes.
const USUAL_RATE: UsualScatter = UsualScatter { spread: 0.25, visits: 4.0 };
/// The same of latencies.
const USUAL_LATENCY: UsualScatter = UsualScatter { spread: 0.2, visits: 4.0 };
/// A carrier heard in fewer than this share of the visits is not one to look for.
const HEARD_IN: f64 = 0.5;

fn figure((usual, range): (f64, Interval), visits: usize, told: impl Fn(f64) -> f64) -> ExpectedFigure {
    ExpectedFigure { usual: told(usual), low: told(range.low), high: told(range.high), visits }
}

/// The carriers that the gateway heard on a setup, each under the traffic that it was heard under most often; strongest first. Those that
/// came and went are left out.
pub fn carriers(evidence: &SetupEvidence) -> Vec<AsBuiltCarrier> {
    let mut by_cell: BTreeMap<_, Vec<_>> = BTreeMap::new();
    for ((technology, band, channel, pci, activity), heard) in visits(evidence) {
        by_cell.entry((technology, band, channel, pci)).or_default().push((activity, heard));
    }
    let most_heard =
        by_cell.into_values().filter_map(|ways| ways.into_iter().max_by_key(|(_, heard)| heard.len()));
    let mut found: Vec<AsBuiltCarrier> = Vec::new();
    for (activity, heard) in most_heard {
        let Some((_, last)) = heard.last() else { continue };
        let of = |metric: Metric| {
            let values: Vec<f64> =
                heard.iter().filter_map(|(_, one): &(i64, Carrier)| one.value(metric)).collect();
            Some(figure(next_visit(&values, usual_scatter(metric), COVERAGE)?, values.len(), |value| value))
        };
        found.push(AsBuiltCarrier {
            technology: last.technology,
            band: last.band,
            channel: last.channel,
            pci: last.pci,
            bandwidth_mhz: last.bandwidth_mhz,
            activity,
            rsrp_dbm: of(Metric::Rsrp),
            rsrq_db: of(Metric::Rsrq),
            sinr_db: of(Metric::Sinr),
        });
    }
    let heard_in = |one: &AsBuiltCarrier| {
        [one.rsrp_dbm, one.rsrq_db, one.sinr_db].iter().flatten().map(|of| of.visits).max().unwrap_or(0)
    };
    let most = found.iter().map(heard_in).max().unwrap_or(0);
    found.retain(|one| heard_in(one) > 0 && heard_in(one) as f64 >= HEARD_IN * most as f64);
    let power = |one: &AsBuiltCarrier| one.rsrp_dbm.map_or(f64::NEG_INFINITY, |rsrp| rsrp.usual);
    found.sort_by(|a, b| power(b).total_cmp(&power(a)));
    found
}

/// Speeds and latencies that a setup's whole tests found, over sittings of hours like those that it was tested at.
pub fn speeds(evidence: &SetupEvidence) -> Vec<AsBuiltSpeed> {
    let of = |kind: &SpeedFigure| {
        let logs: Vec<f64> = sitting_means(evidence, *kind).into_iter().map(|(_, log)| log).collect();
        let usual = if kind.larger_is_better() { USUAL_RATE } else { USUAL_LATENCY };
        let expected = figure(next_visit(&logs, usual, COVERAGE)?, logs.len(), f64::exp);
        Some(AsBuiltSpeed { figure: *kind, expected })
    };
    SpeedFigure::ALL.iter().filter_map(of).collect()
}
