//! One figure or signal of a site over time.

use chrono::{DateTime, Utc};
use open_beacon_core::bands::band_name;
use open_beacon_core::judge::{CarrierSummary, RadioDigest};
use open_beacon_core::model::{RunId, SetupId, SiteEvent, SiteId, SpeedFigure};
use open_beacon_core::stats::thinned;
use open_beacon_store::{Store, StoreError, TestedAt};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use utoipa::{IntoParams, ToSchema};

/// Columns of the drawing, each with four points at the most.
const COLUMNS: usize = 300;

/// What can be drawn over time.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum OverTimeQuantity {
    /// Download, Mbit/s.
    Download,
    /// Upload, Mbit/s.
    Upload,
    /// Latency of the idle line, ms.
    IdleLatency,
    /// Latency while downloading, ms.
    DownloadLatency,
    /// Latency while uploading, ms.
    UploadLatency,
    /// Signal strength of a band, the median of each run, dBm.
    Rsrp,
    /// Signal-to-noise of a band, the median of each run, dB.
    Sinr,
}

/// What is asked for.
#[derive(Clone, Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct OverTimeQuery {
    /// Download if not said.
    pub quantity: Option<OverTimeQuantity>,
    /// Of this setup only.
    pub setup: Option<SetupId>,
    /// Of this band, for signals; the strongest carrier of each run if not said.
    pub band: Option<String>,
}

/// A point.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct TimePoint {
    pub at: DateTime<Utc>,
    /// Mbit/s, ms, dBm or dB.
    pub value: f64,
    pub setup_id: SetupId,
    pub run_id: RunId,
}

/// Something that happened meanwhile.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct TimeMark {
    pub at: DateTime<Utc>,
    pub text: String,
}

/// A course over time.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct OverTimeView {
    pub quantity: OverTimeQuantity,
    /// In order of time; of many the first, last, least and greatest of each column of the drawing.
    pub points: Vec<TimePoint>,
    /// How many there are in all.
    pub of: usize,
    /// In order of time.
    pub events: Vec<TimeMark>,
    /// Bands that were heard, for signals.
    pub bands: Vec<String>,
}

fn figure(quantity: OverTimeQuantity) -> Option<SpeedFigure> {
    Some(match quantity {
        OverTimeQuantity::Download => SpeedFigure::Download,
        OverTimeQuantity::Upload => SpeedFigure::Upload,
        OverTimeQuantity::IdleLatency => SpeedFigure::IdleLatency,
        OverTimeQuantity::DownloadLatency => SpeedFigure::DownloadLatency,
        OverTimeQuantity::UploadLatency => SpeedFigure::UploadLatency,
        OverTimeQuantity::Rsrp | OverTimeQuantity::Sinr => return None,
    })
}

fn name(carrier: &CarrierSummary) -> Option<String> {
    Some(band_name(carrier.cell.technology, carrier.cell.band?))
}

/// The median of a band's strongest carrier in a run.
fn signal(heard: &RadioDigest, query: &OverTimeQuery, bands: &mut BTreeSet<String>) -> Option<f64> {
    let summary = heard.summary();
    bands.extend(summary.carriers.iter().filter_map(name));
    let wanted = |carrier: &&CarrierSummary| query.band.is_none() || name(carrier) == query.band;
    let rsrp = |carrier: &CarrierSummary| carrier.rsrp_dbm.map(|rsrp| rsrp.median);
    let strongest = summary
        .carriers
        .iter()
        .filter(wanted)
        .filter(|carrier| rsrp(carrier).is_some())
        .max_by(|a, b| rsrp(a).unwrap_or(f64::MIN).total_cmp(&rsrp(b).unwrap_or(f64::MIN)))?;
    if query.quantity == Some(OverTimeQuantity::Rsrp) {
        rsrp(strongest)
    } else {
        Some(strongest.sinr_db?.median)
    }
}

pub(crate) fn view(
    store: &Store,
    site_id: SiteId,
    query: &OverTimeQuery,
) -> Result<OverTimeView, StoreError> {
    store.site(site_id)?;
    let mut bands = BTreeSet::new();
    let quantity = query.quantity.unwrap_or(OverTimeQuantity::Download);
    let mut points: Vec<TimePoint> = match figure(quantity) {
        Some(figure) => store
            .figures_by_time(site_id, figure)?
            .into_iter()
            .map(|TestedAt { at, value, setup_id, run_id }| TimePoint { at, value, setup_id, run_id })
            .collect(),
        None => {
            let mut runs =
                store.runs_by_time(site_id, None, usize::MAX, |run, _| run.archived_at.is_none())?;
            runs.reverse();
            let point = |(run, heard): &(open_beacon_core::model::Run, RadioDigest)| {
                let value = signal(heard, query, &mut bands)?;
                Some(TimePoint { at: run.started_at, value, setup_id: run.setup_id, run_id: run.id })
            };
            runs.iter().filter_map(point).collect()
        }
    };
    points.retain(|point| query.setup.is_none_or(|wanted| wanted == point.setup_id));
    let values: Vec<(i64, f64)> = points.iter().map(|one| (one.at.timestamp_millis(), one.value)).collect();
    let kept = thinned(&values, COLUMNS);
    let mut events: Vec<SiteEvent> = store.entities(site_id)?;
    events.retain(|event| event.archived_at.is_none());
    events.sort_by_key(|event| event.happened_at);
    Ok(OverTimeView {
        quantity,
        of: points.len(),
        points: kept.into_iter().map(|at| points[at]).collect(),
        events: events.into_iter().map(|one| TimeMark { at: one.happened_at, text: one.text }).collect(),
        bands: bands.into_iter().collect(),
    })
}
