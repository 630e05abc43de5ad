//! A sweep: the antenna turned bearing by bearing (or tilted step by step), and what was read at each.

use super::{Attach, Carrier, PositionId, Reading, RunId, SetupId, SiteId, SweepId, SweepStopId, Technology};
use crate::geo::normalise_bearing_deg;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// What is turned.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum SweepAxis {
    /// The bearing.
    #[default]
    Azimuth,
    /// The tilt.
    Tilt,
    /// Nothing is turned: two ways of plugging the leads in are tried by turns; the angle is 0 for map A, 1 for map B.
    Ports,
}

impl SweepAxis {
    /// An angle as it is kept: a bearing in 0..360, a tilt as it is, 0 or 1 for a port map.
    pub fn angle(self, angle_deg: f64) -> f64 {
        match self {
            Self::Azimuth => normalise_bearing_deg(angle_deg),
            Self::Tilt => angle_deg,
            Self::Ports => angle_deg.clamp(0.0, 1.0).round(),
        }
    }
}

/// What is aimed for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum AimCriterion {
    /// The strongest signal (RSRP).
    Signal,
    /// The cleanest signal (SINR).
    #[default]
    Quality,
    /// The fastest: both are tried by speed tests.
    Speed,
}

/// Which cell answered.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CellKey {
    /// LTE or NR.
    pub technology: Technology,
    /// Operating band.
    pub band: Option<u16>,
    /// EARFCN or NR-ARFCN.
    pub channel: Option<u32>,
    /// Physical cell identity.
    pub pci: Option<u16>,
}

impl CellKey {
    /// Of a carrier that was read.
    pub fn of(carrier: &Carrier) -> Self {
        Self {
            technology: carrier.technology,
            band: carrier.band,
            channel: carrier.channel,
            pci: carrier.pci,
        }
    }
}

/// A sweep.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sweep {
    /// Identifier.
    pub id: SweepId,
    /// The site.
    pub site_id: SiteId,
    /// The position.
    pub position_id: PositionId,
    /// The setup that stood there, of which the points are runs; `None` as long as none is known.
    #[serde(default)]
    pub setup_id: Option<SetupId>,
    /// What is turned.
    #[serde(default)]
    pub axis: SweepAxis,
    /// Of the antenna in the plane that is swept, as its maker says, degrees, 3..=180.
    pub beamwidth_deg: f64,
    /// Front-to-back ratio, dB.
    pub front_to_back_db: f64,
    /// Where the mast is expected, degrees from true north or above the horizon.
    #[serde(default)]
    pub expected_deg: Option<f64>,
    /// The cell that is aimed at, where somebody chose it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cell: Option<CellKey>,
    /// A speed test at each turn of a port-map test.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub speed_tests: bool,
    /// Whether the gateway stayed attached before.
    #[serde(default)]
    pub attach: Attach,
    /// Written on the roof, in the order they came in.
    #[serde(default)]
    pub notes: Vec<SweepNote>,
    /// When it began.
    pub started_at: DateTime<Utc>,
    /// What the antenna was set to in the end.
    #[serde(default)]
    pub set_deg: Option<f64>,
    /// When it ended; none while it goes on.
    #[serde(default)]
    pub ended_at: Option<DateTime<Utc>>,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// One bearing (or tilt) with the independent samples read there.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SweepStop {
    /// Identifier.
    pub id: SweepStopId,
    /// The site.
    pub site_id: SiteId,
    /// The sweep.
    pub sweep_id: SweepId,
    /// Angle that was set, degrees.
    pub angle_deg: f64,
    /// When it was taken.
    pub taken_at: DateTime<Utc>,
    /// The run that has its samples; `None` where no setup is known, and they stand here.
    #[serde(default)]
    pub run_id: Option<RunId>,
    /// Samples.
    pub samples: Vec<Reading>,
    /// Read off the gateway's own page by somebody, and typed.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub typed: bool,
    /// Where a phone was out of reach when it was pressed: when that was by the phone's own clock.
    #[serde(default)]
    pub pressed_at: Option<DateTime<Utc>>,
    /// How far the phone's clock was behind this program's, ms, as last measured.
    #[serde(default)]
    pub clock_offset_ms: Option<i64>,
    /// Left out by hand; nothing is lost.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// A note taken at the antenna.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SweepNote {
    /// Identifier.
    pub id: super::SweepNoteId,
    /// When.
    pub at: DateTime<Utc>,
    /// The text.
    pub text: String,
}

/// A photograph taken at the antenna.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SweepPhoto {
    /// Identifier.
    pub id: super::SweepPhotoId,
    /// The site.
    pub site_id: SiteId,
    /// The sweep.
    pub sweep_id: SweepId,
    /// Name of the file as it was given.
    pub file_name: String,
    /// Media type by content.
    pub media_type: String,
    /// Size, bytes.
    pub bytes: u64,
    /// When it was taken.
    pub taken_at: DateTime<Utc>,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}
