//! What a gateway says at one instant: a sample with its carriers.

use super::{RunId, SampleId};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// Radio access technology of a carrier.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Technology {
    /// LTE (4G).
    Lte,
    /// NR (5G).
    Nr,
}

/// A measured quantity of a carrier.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Metric {
    /// dBm
    Rsrp,
    /// dB
    Rsrq,
    /// dB
    Sinr,
    /// dBm
    Rssi,
}

impl Metric {
    /// Every metric, in the order shown.
    pub const ALL: [Self; 4] = [Self::Rsrp, Self::Rsrq, Self::Sinr, Self::Rssi];

    /// The unit its values are in.
    pub fn unit(self) -> &'static str {
        match self {
            Self::Rsrp | Self::Rssi => "dBm",
            Self::Rsrq | Self::Sinr => "dB",
        }
    }
}

/// What part a carrier plays in the connection.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum CarrierRole {
    /// The LTE carrier that holds an NSA connection together.
    Anchor,
    /// The primary cell of an LTE-only or SA connection, or the NR cell of an NSA one.
    Primary,
    /// A carrier added by aggregation.
    Secondary,
    /// Not told.
    Unknown,
}

/// How the carriers are bundled (TS 37.340 names NSA option 3 "EN-DC").
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ConnectionMode {
    /// LTE only.
    Lte,
    /// NR riding on an LTE anchor (EN-DC).
    Nsa,
    /// NR on its own core.
    Sa,
    /// Not attached.
    NoService,
    /// Not told.
    Unknown,
}

/// What a channel number refers to: gateways often show the SSB's, not the carrier centre's.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ChannelKind {
    /// The centre of the carrier.
    Carrier,
    /// The synchronisation block.
    Ssb,
    /// Not told.
    #[default]
    Unknown,
}

/// Why a value stands although it is unusual.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum FlagKind {
    /// Outside the standard's reporting range; said by a live gateway.
    OutsideReportingRange,
    /// Outside the standard's reporting range; typed in and kept on purpose.
    AsReported,
    /// It does not go together with the carrier's other values; kept as it was said.
    Contradicted,
}

/// A mark on one value of a carrier, which later stages respect.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FieldFlag {
    /// Which metric it is.
    pub metric: Metric,
    /// Kind.
    pub kind: FlagKind,
}

/// One carrier as heard in one sample. Every measured field is optional: gateways differ in what they show.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Carrier {
    /// LTE or NR.
    pub technology: Technology,
    /// Role in the connection.
    pub role: CarrierRole,
    /// Operating band number: 3 for B3, 78 for n78.
    #[serde(default)]
    pub band: Option<u16>,
    /// EARFCN or NR-ARFCN of the downlink.
    #[serde(default)]
    pub channel: Option<u32>,
    /// What the channel number refers to.
    #[serde(default)]
    pub channel_kind: ChannelKind,
    /// Channel bandwidth, MHz.
    #[serde(default)]
    pub bandwidth_mhz: Option<f64>,
    /// Physical cell identity: LTE 0..=503, NR 0..=1007.
    #[serde(default)]
    pub pci: Option<u16>,
    /// E-UTRAN cell identity (28 bit) or NR cell identity (36 bit).
    #[serde(default)]
    pub cell_identity: Option<u64>,
    /// Reference (LTE) or synchronisation (NR) signal received power, dBm.
    #[serde(default)]
    pub rsrp_dbm: Option<f64>,
    /// Reference signal received quality, dB.
    #[serde(default)]
    pub rsrq_db: Option<f64>,
    /// Signal to interference and noise ratio, dB.
    #[serde(default)]
    pub sinr_db: Option<f64>,
    /// Received signal strength over the carrier's width, dBm.
    #[serde(default)]
    pub rssi_dbm: Option<f64>,
    /// RSRP of each receive branch, dBm.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub branch_rsrp_dbm: Vec<f64>,
    /// Number of spatial layers in use, 1..=8.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rank: Option<u8>,
    /// Channel quality indicator, 0..=15.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cqi: Option<u8>,
    /// Modulation and coding scheme index, 0..=31.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mcs: Option<u8>,
    /// Uplink transmit power, dBm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub transmit_power_dbm: Option<f64>,
    /// Timing advance, steps of the technology (LTE: about 78 m each).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub timing_advance: Option<u16>,
    /// What is odd about its values.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub flags: Vec<FieldFlag>,
}

impl Carrier {
    /// A carrier of which nothing but technology and role is known.
    pub fn empty(technology: Technology, role: CarrierRole) -> Self {
        Self {
            technology,
            role,
            band: None,
            channel: None,
            channel_kind: ChannelKind::Unknown,
            bandwidth_mhz: None,
            pci: None,
            cell_identity: None,
            rsrp_dbm: None,
            rsrq_db: None,
            sinr_db: None,
            rssi_dbm: None,
            branch_rsrp_dbm: Vec::new(),
            rank: None,
            cqi: None,
            mcs: None,
            transmit_power_dbm: None,
            timing_advance: None,
            flags: Vec::new(),
        }
    }

    /// The value of `metric` on this carrier, in the metric's own unit.
    pub fn value(&self, metric: Metric) -> Option<f64> {
        match metric {
            Metric::Rsrp => self.rsrp_dbm,
            Metric::Rsrq => self.rsrq_db,
            Metric::Sinr => self.sinr_db,
            Metric::Rssi => self.rssi_dbm,
        }
    }
}

/// A neighbour cell the gateway lists: evidence of interference.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Neighbour {
    /// LTE or NR.
    pub technology: Technology,
    /// Operating band.
    #[serde(default)]
    pub band: Option<u16>,
    /// EARFCN or NR-ARFCN of the downlink.
    #[serde(default)]
    pub channel: Option<u32>,
    /// Physical cell identity.
    #[serde(default)]
    pub pci: Option<u16>,
    /// Reference signal received power, dBm.
    #[serde(default)]
    pub rsrp_dbm: Option<f64>,
    /// Reference signal received quality, dB.
    #[serde(default)]
    pub rsrq_db: Option<f64>,
}

/// Whether traffic was flowing when a sample was taken. Only like is compared with like: NR and secondary
/// carriers vanish on an idle line, and RSRQ falls with load.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Activity {
    /// Nothing of ours was flowing.
    Idle,
    /// A trickle kept the line awake.
    Trickle,
    /// A speed test was running.
    Loaded,
    /// Typed in or imported, not said.
    Unknown,
}

/// All carriers at one instant, without the run it may belong to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reading {
    /// How carriers are bundled.
    pub mode: ConnectionMode,
    /// Carriers, one an entry.
    pub carriers: Vec<Carrier>,
    /// Neighbour cells that the gateway lists.
    #[serde(default)]
    pub neighbours: Vec<Neighbour>,
}

impl Reading {
    /// What a gateway without service shows.
    pub fn no_service() -> Self {
        Self { mode: ConnectionMode::NoService, carriers: Vec::new(), neighbours: Vec::new() }
    }
}

/// One independent reading kept in a run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sample {
    /// Identifier.
    pub id: SampleId,
    /// The run.
    pub run_id: RunId,
    /// When it was taken.
    pub taken_at: DateTime<Utc>,
    /// Traffic on the line meanwhile.
    pub activity: Activity,
    /// What the gateway showed.
    #[serde(flatten)]
    pub reading: Reading,
}
