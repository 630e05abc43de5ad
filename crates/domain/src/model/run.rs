//! A run: what was taken on one setup at one go, under stated conditions.

use super::{AttachmentId, RoundId, RunId, SetupId, SweepAxis, SweepId, SweepStopId, TrialId};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// Where a run's numbers come from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Source {
    /// Read from a live gateway and measured by this program.
    Live,
    /// Entered by hand.
    Typed,
}

/// How far a run or test got.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Completion {
    /// It goes on.
    Running,
    /// It went on to its end.
    Complete,
    /// Stopped before the end; what was taken is kept.
    Partial,
}

/// What was done with the gateway's attachment after the antenna was moved.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Attach {
    /// It stayed attached.
    KeptAttached,
    /// It was restarted, so that it looked for cells anew.
    RestartedToRescan,
    /// Nobody noted it.
    #[default]
    NotRecorded,
}

/// What a run's numbers were read from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Instrument {
    /// The gateway that is to be used.
    #[default]
    Gateway,
    /// A phone on the same network: a quick scout, with another receiver and other antennas.
    Phone,
    /// A second modem, or a modem's network scan.
    Modem,
}

/// Conditions that a later comparison must know.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Conditions {
    /// Whether the gateway stayed attached before.
    #[serde(default)]
    pub attach: Attach,
    /// What read it.
    #[serde(default)]
    pub instrument: Instrument,
    /// The operator whose network was measured, as the user calls it; empty for the one in use.
    #[serde(default)]
    pub network: String,
    /// Weather, in words.
    #[serde(default)]
    pub weather: String,
    /// Free text.
    #[serde(default)]
    pub notes: String,
}

impl Conditions {
    /// Whether it was measured on a network, `in_use` being the one in use.
    pub fn is_of(&self, in_use: &str) -> bool {
        self.network.is_empty() || self.network == in_use
    }
}

/// What a run was taken for.
#[derive(Clone, Copy, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum RunContext {
    /// A recording, or entered by hand.
    #[default]
    Log,
    /// A visit to a choice of bands in a round of trials.
    BandVisit { round_id: RoundId, trial_id: TrialId },
    /// A point of a sweep or a turn of a port-map test: the setup as it stood, but for what was turned. It says nothing of the
    /// setup's own aim, so comparisons leave it out.
    SweepPoint {
        sweep_id: SweepId,
        stop_id: SweepStopId,
        axis: SweepAxis,
        /// Degrees from true north or above the horizon; 0 or 1 for port map A or B.
        angle_deg: f64,
    },
}

/// What was taken on one setup at one go. Its samples and speed tests are kept beside it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Run {
    /// Identifier.
    pub id: RunId,
    /// The setup.
    pub setup_id: SetupId,
    /// Where it comes from.
    pub source: Source,
    /// When it began.
    pub started_at: DateTime<Utc>,
    /// When it ended; none while it goes on.
    #[serde(default)]
    pub ended_at: Option<DateTime<Utc>>,
    /// Whether it went on to its end.
    pub completion: Completion,
    /// Why a partial run stopped, in the user's words.
    #[serde(default)]
    pub reason: Option<String>,
    /// Independent samples that were asked for.
    #[serde(default)]
    pub planned_samples: u32,
    /// Speed tests that were asked for.
    #[serde(default)]
    pub planned_speed_tests: u32,
    /// The gateway's refresh period as learned during the run, s.
    #[serde(default)]
    pub refresh_period_s: Option<f64>,
    /// What was noted of the circumstances.
    #[serde(default)]
    pub conditions: Conditions,
    /// What it was recorded for.
    #[serde(default)]
    pub context: RunContext,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// A photograph or screenshot kept with a run.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Attachment {
    /// Identifier.
    pub id: AttachmentId,
    /// The run.
    pub run_id: RunId,
    /// Name of the file as it was given.
    pub file_name: String,
    /// `image/png`, `image/jpeg` or `image/webp`.
    pub media_type: String,
    /// Size, bytes.
    pub bytes: u64,
    /// Lower-case hexadecimal SHA-256 of the content.
    pub sha256: String,
    /// When it was added.
    pub added_at: DateTime<Utc>,
}
