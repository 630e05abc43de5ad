//! What was foretold of a setup before anything was measured on it, kept as it was said.

use super::{BandName, MastId, PredictionId, SetupId, SiteId};
use crate::capacity::Estimate;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// What is foretold and measured.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TrackedQuantity {
    /// Reference signal received power, dBm.
    Rsrp,
    /// Signal to interference and noise ratio, dB.
    Sinr,
    /// Download, Mbit/s.
    Download,
    /// Upload, Mbit/s.
    Upload,
}

impl TrackedQuantity {
    /// Whether errors are ratios and not differences in dB.
    pub fn is_rate(self) -> bool {
        matches!(self, Self::Download | Self::Upload)
    }
}

/// One figure that is foretold.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PredictedFigure {
    /// What it is.
    pub quantity: TrackedQuantity,
    /// Of this carrier; none for rates, which are of all together.
    #[serde(default)]
    pub band: Option<BandName>,
    /// Channel number of the carrier, where it is known.
    #[serde(default)]
    pub channel: Option<u32>,
    /// From 10 to 90 %: dBm, dB or Mbit/s.
    pub range: Estimate,
}

/// A prediction, made before the first measurement on a setup. There is one a setup: what is measured later changes it no more.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KeptPrediction {
    /// Identifier, the same as the setup's.
    pub id: PredictionId,
    /// The site.
    pub site_id: SiteId,
    /// The setup.
    pub setup_id: SetupId,
    /// When it was made.
    pub made_at: DateTime<Utc>,
    /// Version of the program that made it.
    pub program: String,
    /// Setups whose measurements it rests on.
    pub setups: Vec<SetupId>,
    /// Masts that it was computed from.
    pub masts: Vec<MastId>,
    /// What it says.
    pub figures: Vec<PredictedFigure>,
}
