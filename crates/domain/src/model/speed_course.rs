//! How a speed test went, beyond its figures.

use super::{SiteId, SpeedCourseId, SpeedTestId};
use serde::{Deserialize, Serialize};

/// Round trips as they scattered.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct LatencySpread {
    /// Round trips.
    pub probes: u32,
    /// Half of them took no longer, ms.
    pub median_ms: f64,
    /// 95 of 100 took no longer, ms.
    pub p95_ms: f64,
    /// Mean difference of one round trip from the one before, ms (RFC 3393, of round trips).
    pub jitter_ms: f64,
}

/// Rates and round trips of a test.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Course {
    /// Time that each rate is of, ms.
    pub step_ms: u32,
    /// Time at the beginning that was left out in any case, ms.
    #[serde(default)]
    pub warm_up_ms: u32,
    /// Download from the first byte on, what was left out of the figure too, Mbit/s.
    #[serde(default)]
    pub down_mbps: Vec<f64>,
    /// Upload likewise, what was acknowledged spread over its time, Mbit/s.
    #[serde(default)]
    pub up_mbps: Vec<f64>,
    /// First step that the download's figure is of.
    #[serde(default)]
    pub down_from: u32,
    /// First step that the upload's figure is of.
    #[serde(default)]
    pub up_from: u32,
    /// On the idle line.
    #[serde(default)]
    pub idle: Option<LatencySpread>,
    /// While downloading.
    #[serde(default)]
    pub while_down: Option<LatencySpread>,
    /// While uploading.
    #[serde(default)]
    pub while_up: Option<LatencySpread>,
    /// What ended the download early; none where its time was over.
    #[serde(default)]
    pub down_ended: Option<EndedEarly>,
    /// What ended the upload early.
    #[serde(default)]
    pub up_ended: Option<EndedEarly>,
}

/// Why a direction of a test ended before its time.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "by", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum EndedEarly {
    /// So much had been moved.
    Data { most_mb: f64 },
    /// The rate was known to within this share of it.
    Precision { precise_to: f64 },
}

/// The course of one test that is kept.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SpeedCourse {
    /// Identifier, the same as the test's.
    pub id: SpeedCourseId,
    /// The site.
    pub site_id: SiteId,
    /// The test.
    pub test_id: SpeedTestId,
    /// How it went.
    #[serde(flatten)]
    pub course: Course,
}
