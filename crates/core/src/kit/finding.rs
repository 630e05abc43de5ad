//! What was found in a kit, as kinds with typed values; [`crate::words::kit`] words them.

use crate::capacity::Estimate;
use crate::feedline::joint::Connector;
use crate::model::{BandName, GatewayPlace, Metric, PowerKind};
use serde::{Deserialize, Serialize};

/// How much it weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Severity {
    /// It does not work like this.
    Wrong,
    /// It works and costs signal, speed or life.
    Costs,
    /// To be known or done.
    Mind,
}

/// Where in the kit.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "at", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum At {
    Kit,
    Antenna,
    /// Place 0 is at the antenna.
    Joint {
        place: usize,
    },
    /// Place 0 is the first part of the chain.
    Part {
        place: usize,
    },
    Gateway,
    Ethernet,
    Mount,
}

/// A finding in its place.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Found {
    /// How grave it is.
    pub severity: Severity,
    /// When.
    pub at: At,
    /// What was found.
    pub finding: KitFinding,
}

impl Found {
    pub(super) fn wrong(at: At, finding: KitFinding) -> Self {
        Self { severity: Severity::Wrong, at, finding }
    }
    pub(super) fn costs(at: At, finding: KitFinding) -> Self {
        Self { severity: Severity::Costs, at, finding }
    }
    pub(super) fn mind(at: At, finding: KitFinding) -> Self {
        Self { severity: Severity::Mind, at, finding }
    }
}

/// What an Ethernet feed can lack.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "fault", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum PowerFault {
    NoCable,
    NoInjector,
    KindsMixed { unit: PowerKind, injector: PowerKind },
    TooMuchVoltage { injector_v: f64, highest_v: f64 },
    TooLittleVoltage { arrives_v: f64, lowest_v: f64 },
    TooMuchPower { needs_w: f64, gives_w: f64 },
    TooLong { length_m: f64 },
    Starves,
}

/// A kind of finding with its values.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum KitFinding {
    // What is missing.
    NoGateway,
    PartsGone {
        count: usize,
    },
    LengthMissing {
        name: String,
    },
    NoPorts {
        gateway: String,
    },
    NeedsAntenna,
    // Joints.
    SameGender {
        from: Connector,
        to: Connector,
        loss_db: f64,
    },
    ReversePolarity {
        from: Connector,
        to: Connector,
        loss_db: f64,
    },
    OtherSeries {
        from: Connector,
        to: Connector,
        loss_db: f64,
    },
    Fragile {
        socket: Connector,
        thickness_mm: f64,
    },
    OutdoorJoints {
        count: usize,
    },
    NotForOutdoors {
        joint: Connector,
    },
    CableNotForOutdoors {
        name: String,
    },
    // Ports and bands.
    BandMissedByAntenna {
        bands: Vec<BandName>,
        low_mhz: f64,
        high_mhz: f64,
    },
    BandMissedByGateway {
        bands: Vec<BandName>,
    },
    BandNotOnPorts {
        bands: Vec<BandName>,
    },
    TransmitLeftOut {
        ports: Vec<String>,
    },
    OneBranch,
    PairSplit {
        leads: [u8; 2],
    },
    NotCrossed {
        apart_deg: f64,
    },
    AllUpright,
    LeadsOpen {
        count: u8,
    },
    PortsOpen {
        ports: Vec<String>,
    },
    PortUnknown {
        lead: u8,
        port: String,
    },
    PortTwice {
        port: String,
    },
    SwitchBySetting,
    SwitchedForGood,
    CaseOpened,
    // Place and mount.
    HoleTooSmall {
        hole_mm: f64,
        needs_mm: f64,
    },
    WindowNeedsFlat,
    WayInMissing,
    Bends {
        radius_mm: f64,
        room_mm: f64,
        name: String,
    },
    ClampMisfit {
        pole_mm: f64,
        low_mm: f64,
        high_mm: f64,
    },
    NoFixing {
        to: FixTo,
    },
    NotWeatherproof {
        name: String,
    },
    TooHotOrCold {
        place: GatewayPlace,
        low_c: f64,
        high_c: f64,
        expected_low_c: f64,
        expected_high_c: f64,
    },
    TooHeavy {
        weight_kg: f64,
        carries_kg: f64,
    },
    Wind {
        wind_m_s: f64,
        force_n: f64,
        moment_nm: f64,
        limit_nm: Option<f64>,
    },
    Holes {
        holes: u8,
    },
    NoArrestor,
    ArrestorRange {
        bands: Vec<BandName>,
        low_mhz: f64,
        high_mhz: f64,
    },
    BondArrestor,
    Power {
        fault: PowerFault,
    },
    PowerArrives {
        voltage_v: f64,
        lost_w: f64,
    },
    // What the gateway cannot do.
    ModeMissing {
        standalone: bool,
    },
    DoesNotShow {
        metrics: Vec<Metric>,
    },
    CannotLock,
    NotEnoughStock {
        name: String,
        have: u32,
        need: u32,
    },
    // What it does here.
    LanCaps {
        lan_mbps: f64,
        radio_mbps: f64,
    },
    FeedEatsGain {
        band: BandName,
        feed_loss_db: f64,
        gain_dbi: f64,
    },
    UplinkPays {
        loss_db: f64,
    },
    RadiatesTooMuch {
        eirp_dbm: f64,
        permitted_dbm: f64,
    },
    Radiates {
        eirp_dbm: f64,
    },
    NoiseRises {
        band: BandName,
        signal_db: f64,
        disturbance_db: f64,
    },
    DirectionHelps {
        band: BandName,
        rejection_db: f64,
    },
    SecondPairPays {
        with_mbps: f64,
        without_mbps: f64,
    },
    SecondPairIdle {
        with_mbps: f64,
        without_mbps: f64,
    },
    /// The kit's outlook in one line.
    Reaches {
        down_mbps: Estimate,
        up_mbps: Option<Estimate>,
        margin_db: Option<f64>,
    },
    MissesNeed {
        down_mbps: Estimate,
        need_down_mbps: f64,
        up_mbps: Option<Estimate>,
        need_up_mbps: f64,
    },
    NothingToPredict,
    /// What is there today already meets the need.
    MetToday {
        spot: String,
        down_mbps: f64,
        up_mbps: f64,
    },
}

/// What an antenna is to be fixed to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum FixTo {
    /// Clamped to a pole.
    Pole,
    /// Screwed to a wall.
    Wall,
    /// Stuck to a pane.
    Glass,
}
