//! A setup: a kit at a position with its aim, ports and lock.

use super::{PositionId, SetupId};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// Which antennas the gateway is switched to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum AntennaSwitch {
    /// The gateway's own antennas.
    Internal,
    /// The external antenna on its ports.
    External,
}

/// One numbered antenna lead and the gateway port it is plugged into.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PortLink {
    /// Number written on the lead, 1..=8.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 8))]
    pub lead: u8,
    /// Name printed at the gateway's port.
    pub port: String,
}

/// What can be changed between two runs at one position.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SetupSpec {
    /// Short name; empty means that the setup is known by its aim.
    #[serde(default)]
    pub name: String,
    pub antenna: AntennaSwitch,
    /// Azimuth of the main beam, degrees clockwise from true north, 0..360. None for an omni or where unknown.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(minimum = 0.0, exclusive_maximum = 360.0))]
    pub azimuth_deg: Option<f64>,
    /// Elevation of the main beam above the horizon, degrees, −90..=90; positive is up.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(minimum = -90.0, maximum = 90.0))]
    pub tilt_deg: Option<f64>,
    /// Where the gateway itself stands (some bands stay on its own antennas).
    #[serde(default)]
    pub gateway_place: String,
    /// Direction the gateway's front faces, degrees from true north, 0..360.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(minimum = 0.0, exclusive_maximum = 360.0))]
    pub gateway_azimuth_deg: Option<f64>,
    /// Numbered leads to gateway ports.
    #[serde(default)]
    pub ports: Vec<PortLink>,
    #[serde(default)]
    pub kit_note: String,
    #[serde(default)]
    pub lock_note: String,
}

/// A [`SetupSpec`] at a position. Once it has runs it does not change; an edit makes a new setup from it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Setup {
    pub id: SetupId,
    pub position_id: PositionId,
    /// The setup this one was made from by an edit.
    #[serde(default)]
    pub made_from: Option<SetupId>,
    #[serde(flatten)]
    pub spec: SetupSpec,
    pub created_at: DateTime<Utc>,
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}
