//! A setup: a kit at a position with its aim, ports and lock.

use super::{BandChoice, KitId, MastId, Polarisation, PositionId, RoundId, SetupId, SweepId};
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

/// What a setup was made from, and why.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum SetupOrigin {
    /// Entered by hand.
    #[default]
    ByHand,
    /// What stood there when the work began.
    StandsToday,
    /// A position of the survey, aimed at one of its masts.
    SurveyChoice {
        #[serde(default)]
        mast_id: Option<MastId>,
    },
    /// Where a sweep set the antenna.
    SweepResult { sweep_id: SweepId },
    /// A choice of bands that a round tried.
    BandTrial { round_id: RoundId },
    /// A choice of bands that was kept.
    KeptTrial {
        #[serde(default)]
        round_id: Option<RoundId>,
    },
    /// The better way of plugging the leads in.
    PortMapTest { sweep_id: SweepId },
}

/// What can be changed between two runs at one position.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SetupSpec {
    /// Short name; empty means that the setup is known by its aim.
    #[serde(default)]
    pub name: String,
    /// The antenna.
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
    /// The kit that stands there; none where it is not one of the site's.
    #[serde(default)]
    pub kit_id: Option<KitId>,
    /// Height of the antenna above ground, m, 0..=200, where it is not the position's.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(minimum = 0.0, maximum = 200.0))]
    pub height_above_ground_m: Option<f64>,
    /// Polarisation.
    #[serde(default)]
    pub polarisation: Option<Polarisation>,
    /// Bands the gateway is locked to; empty lists for none.
    #[serde(default)]
    pub lock: BandChoice,
    /// Beside the kit, in words.
    #[serde(default)]
    pub kit_note: String,
    /// Beside the lock, in words.
    #[serde(default)]
    pub lock_note: String,
}

impl SetupSpec {
    /// Nothing known but which antennas are in use.
    pub fn on(antenna: AntennaSwitch) -> Self {
        Self {
            name: String::new(),
            antenna,
            azimuth_deg: None,
            tilt_deg: None,
            gateway_place: String::new(),
            gateway_azimuth_deg: None,
            ports: Vec::new(),
            kit_id: None,
            height_above_ground_m: None,
            polarisation: None,
            lock: BandChoice::default(),
            kit_note: String::new(),
            lock_note: String::new(),
        }
    }

    /// True where only what a person calls it or notes beside it differs: nothing that was measured under it changes.
    pub fn stands_like(&self, other: &Self) -> bool {
        let bare = |spec: &Self| Self {
            name: String::new(),
            kit_note: String::new(),
            lock_note: String::new(),
            ..spec.clone()
        };
        bare(self) == bare(other)
    }
}

/// A [`SetupSpec`] at a position. Once it has runs it does not change; an edit makes a new setup from it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Setup {
    /// Identifier.
    pub id: SetupId,
    /// The position.
    pub position_id: PositionId,
    /// The setup this one was made from by an edit.
    #[serde(default)]
    pub made_from: Option<SetupId>,
    /// What it was made from.
    #[serde(default)]
    pub origin: SetupOrigin,
    /// What it is.
    #[serde(flatten)]
    pub spec: SetupSpec,
    /// When it was made.
    pub created_at: DateTime<Utc>,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}
