//! A speed test: real bytes moved, with latency idle and under load.

use super::{Completion, RunId, SittingId, Source, SpeedTestId, Surroundings};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// One speed test. A phase that was not measured is `None`, never zero.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SpeedTest {
    /// Identifier.
    pub id: SpeedTestId,
    /// The run.
    pub run_id: RunId,
    /// The visit to one hour that it is of; given by its time where nothing says it.
    #[serde(default)]
    pub sitting_id: Option<SittingId>,
    /// When it began.
    pub started_at: DateTime<Utc>,
    /// Where it comes from.
    pub source: Source,
    /// Whether it went on to its end.
    pub completion: Completion,
    /// Why a partial test stopped.
    #[serde(default)]
    pub reason: Option<String>,
    /// The address measured against, or what the user said of it.
    #[serde(default)]
    pub server: String,
    /// What it went over, and what else went on; none where it was not measured by this program, or before that was kept.
    #[serde(default)]
    pub surroundings: Option<Surroundings>,
    /// What was measured.
    #[serde(flatten)]
    pub figures: SpeedFigures,
}

/// The measured figures of a speed test.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SpeedFigures {
    /// Download rate of payload after warm-up, Mbit/s.
    #[serde(default)]
    pub download_mbps: Option<f64>,
    /// Upload rate of payload after warm-up, Mbit/s.
    #[serde(default)]
    pub upload_mbps: Option<f64>,
    /// Median round trip on an idle line, ms.
    #[serde(default)]
    pub idle_latency_ms: Option<f64>,
    /// Median round trip while downloading, ms.
    #[serde(default)]
    pub download_latency_ms: Option<f64>,
    /// Median round trip while uploading, ms.
    #[serde(default)]
    pub upload_latency_ms: Option<f64>,
    /// Probes lost or timed out, share 0..=1.
    #[serde(default)]
    pub probe_loss: Option<f64>,
    /// Payload bytes received, warm-up included.
    #[serde(default)]
    pub bytes_down: u64,
    /// Payload bytes sent, warm-up included.
    #[serde(default)]
    pub bytes_up: u64,
    /// Parallel connections used.
    #[serde(default)]
    pub connections: Option<u8>,
    /// Tests that the figures are the average of, 2..=100; none for a single test. Only of typed and imported ones.
    #[serde(default)]
    pub average_of: Option<u16>,
}

impl SpeedFigures {
    /// Tests that stand behind the figures, at least 1.
    pub fn tests(&self) -> usize {
        usize::from(self.average_of.unwrap_or(1).max(1))
    }
}

/// A figure of a speed test that setups are compared by.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum SpeedFigure {
    /// Download, Mbit/s.
    Download,
    /// Upload, Mbit/s.
    Upload,
    /// Latency on an idle line, ms.
    IdleLatency,
    /// Latency while downloading, ms.
    DownloadLatency,
    /// Latency while uploading, ms.
    UploadLatency,
}

impl SpeedFigure {
    /// Every figure, in the order shown.
    pub const ALL: [Self; 5] =
        [Self::Download, Self::Upload, Self::IdleLatency, Self::DownloadLatency, Self::UploadLatency];

    /// True where a larger value is the better one.
    pub fn larger_is_better(self) -> bool {
        matches!(self, Self::Download | Self::Upload)
    }

    /// The figure's value in `figures`: Mbit/s for rates, ms for latencies.
    pub fn of(self, figures: &SpeedFigures) -> Option<f64> {
        match self {
            Self::Download => figures.download_mbps,
            Self::Upload => figures.upload_mbps,
            Self::IdleLatency => figures.idle_latency_ms,
            Self::DownloadLatency => figures.download_latency_ms,
            Self::UploadLatency => figures.upload_latency_ms,
        }
    }
}
