//! Corrections of what was typed in: what stood there before is kept.

use super::{AmendmentId, Conditions, RunId, Sample, SiteId, SpeedTest};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// What a typed run held.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TypedContent {
    /// When it was measured.
    pub measured_at: DateTime<Utc>,
    /// Under which conditions.
    pub conditions: Conditions,
    /// Readings.
    pub samples: Vec<Sample>,
    /// Speed tests.
    pub speed_tests: Vec<SpeedTest>,
}

/// A correction of a run that was typed in. The run holds what is right; here stands what it held before.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Amendment {
    /// Identifier.
    pub id: AmendmentId,
    /// The site.
    pub site_id: SiteId,
    /// The run.
    pub run_id: RunId,
    /// When it was corrected.
    pub amended_at: DateTime<Utc>,
    /// Who corrected it; empty where nobody said.
    #[serde(default)]
    pub by: String,
    /// Why.
    pub why: String,
    /// What stood there before.
    pub before: TypedContent,
}
