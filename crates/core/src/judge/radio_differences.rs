//! What carriers gained and lost between two setups, and where speed does not follow the radio.

use super::compare::ComparisonRow;
use super::evidence::CarrierSummary;
use super::over_time::{HeardCell, usual_scatter};
use super::{CellName, Finding};
use crate::metrics::Metric;
use crate::model::{Activity, Carrier, SpeedFigure};
use crate::stats::{COVERAGE, Interval, half_width_between};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Difference of medians on a carrier that both setups heard under the same traffic.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CarrierDifference {
    /// The cell.
    pub cell: CellName,
    /// Traffic on the line meanwhile.
    pub activity: Activity,
    /// Which metric it is.
    pub metric: Metric,
    /// Setup less baseline, dB.
    pub difference_db: f64,
    /// Holds the difference over visits like those made, dB; none where the gateway did not hear both.
    pub interval: Option<Interval>,
    /// False where another cell (PCI) was heard on the same channel.
    pub same_cell: bool,
}

/// What the gateway heard, visit by visit.
pub(super) type Visits = BTreeMap<HeardCell, Vec<(i64, Carrier)>>;

/// Like with like: the same technology, band, channel and kind of traffic.
pub(super) fn carrier_differences(
    (here, visits_here): (&[CarrierSummary], &Visits),
    (there, visits_there): (&[CarrierSummary], &Visits),
) -> Vec<CarrierDifference> {
    let mut found = Vec::new();
    for carrier in here {
        let alike = |other: &&CarrierSummary| {
            other.activity == carrier.activity
                && other.cell.technology == carrier.cell.technology
                && other.cell.band == carrier.cell.band
                && (other.channel == carrier.channel || other.channel.is_none() || carrier.channel.is_none())
        };
        let candidates: Vec<&CarrierSummary> = there.iter().filter(alike).collect();
        let Some(other) = candidates
            .iter()
            .find(|other| other.cell.pci == carrier.cell.pci)
            .or_else(|| candidates.iter().max_by_key(|other| other.samples))
        else {
            continue;
        };
        for metric in Metric::ALL {
            if let (Some(a), Some(b)) = (carrier.of(metric), other.of(metric)) {
                let difference_db = a.median - b.median;
                let visited = (by_visit(visits_here, carrier, metric), by_visit(visits_there, other, metric));
                let half_db = half_width_between(&visited.0, &visited.1, usual_scatter(metric), COVERAGE);
                let interval = |half_db: f64| Interval {
                    low: difference_db - half_db,
                    high: difference_db + half_db,
                    coverage: COVERAGE,
                };
                found.push(CarrierDifference {
                    cell: carrier.cell,
                    activity: carrier.activity,
                    metric,
                    difference_db,
                    interval: half_db.map(interval),
                    same_cell: other.cell.pci == carrier.cell.pci,
                });
            }
        }
    }
    found
}

/// A carrier's values, one a visit.
fn by_visit(visits: &Visits, carrier: &CarrierSummary, metric: Metric) -> Vec<f64> {
    let CellName { technology, band, pci } = carrier.cell;
    let heard = visits.get(&(technology, band, carrier.channel, pci, carrier.activity));
    heard.into_iter().flatten().filter_map(|(_, one)| one.value(metric)).collect()
}

/// More signal by this much, dB, and less quality by that much, with signal-to-noise that hardly moved: other cells came up as well
/// (common practice, no source).
const STRONGER_DB: f64 = 6.0;
const LESS_QUALITY_DB: f64 = 3.0;
const NO_CLEANER_DB: f64 = 3.0;
/// Signal that is not weaker, dB, with an upload below this share.
const NOT_WEAKER_DB: f64 = 3.0;
const MUCH_LESS: f64 = 0.8;

/// Better metrics do not always mean better speed; that is said, never averaged away.
pub(super) fn speed_against_radio(row: &ComparisonRow) -> Vec<Finding> {
    let mut found = Vec::new();
    found.extend(radio_without_speed(row));
    found.extend(no_cleaner(row));
    found.extend(upload_without_radio(row));
    found
}

/// Carriers that both sides heard, with how much more of a metric the setup has; those under the same traffic.
fn differences(row: &ComparisonRow, of: Metric) -> impl Iterator<Item = &CarrierDifference> {
    row.carrier_differences.iter().filter(move |one| one.metric == of)
}

fn beside(row: &ComparisonRow, one: &CarrierDifference, of: Metric) -> Option<f64> {
    let same = |other: &&CarrierDifference| (other.cell, other.activity) == (one.cell, one.activity);
    differences(row, of).find(same).map(|other| other.difference_db)
}

/// More power that brought no cleaner signal: the antenna hears the other cells better as well.
fn no_cleaner(row: &ComparisonRow) -> Option<Finding> {
    differences(row, Metric::Rsrp).filter(|one| one.difference_db >= STRONGER_DB).find_map(|power| {
        let quality_db = beside(row, power, Metric::Rsrq).filter(|db| *db <= -LESS_QUALITY_DB)?;
        let cleaner = beside(row, power, Metric::Sinr).is_some_and(|db| db >= NO_CLEANER_DB);
        let (cell, power_db) = (power.cell, power.difference_db);
        (!cleaner).then_some(Finding::StrongerNoCleaner { cell, power_db, quality_db })
    })
}

/// Much less upload with a signal that is stronger: what the downlink shows does not explain it.
fn upload_without_radio(row: &ComparisonRow) -> Option<Finding> {
    let upload = row.figures.iter().find(|figure| figure.figure == SpeedFigure::Upload)?.versus?;
    let power = differences(row, Metric::Rsrp).max_by(|a, b| a.difference_db.total_cmp(&b.difference_db))?;
    (power.difference_db >= NOT_WEAKER_DB && upload.of.ratio < MUCH_LESS).then_some(
        Finding::UploadWithoutRadio {
            cell: power.cell,
            power_db: power.difference_db,
            upload_ratio: upload.of.ratio,
        },
    )
}

/// Better metrics do not always mean better speed; that is said, never averaged away.
fn radio_without_speed(row: &ComparisonRow) -> Option<Finding> {
    let download = row.figures.iter().find(|figure| figure.figure == SpeedFigure::Download)?.versus?;
    let best = row
        .carrier_differences
        .iter()
        .filter(|difference| difference.metric == Metric::Sinr)
        .max_by(|a, b| a.difference_db.total_cmp(&b.difference_db))?;
    (best.difference_db >= 3.0 && download.of.ratio < 0.8).then_some(Finding::RadioWithoutSpeed {
        cell: best.cell,
        sinr_difference_db: best.difference_db,
        download_ratio: download.of.ratio,
    })
}
