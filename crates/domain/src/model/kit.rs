//! A kit: parts chosen for one site, from antenna to gateway.

use super::{KitId, PartId, PortLink, PositionId, SiteId, Technology};
use chrono::{DateTime, NaiveDate, Utc};
use serde::{Deserialize, Serialize};

/// A band of one technology.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandName {
    /// LTE or NR.
    pub technology: Technology,
    /// Operating band.
    pub band: u16,
}

/// A part standing in every lead of the chain, from antenna to gateway.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ChainPart {
    /// The part.
    pub part_id: PartId,
    /// m, for parts sold by length, 0..=200.
    #[serde(default)]
    pub length_m: Option<f64>,
    /// Turned round: its gateway end towards the antenna.
    #[serde(default)]
    pub turned: bool,
    /// The joint towards the antenna is in the open.
    #[serde(default)]
    pub outdoors: bool,
}

/// Where the gateway stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum GatewayPlace {
    /// In a room.
    #[default]
    Room,
    /// Under the roof, not heated or cooled.
    Attic,
    /// A closed box in the open.
    SealedBox,
    /// In the open itself.
    Outside,
}

/// How the cable comes in.
#[derive(Clone, Copy, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(tag = "way", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Passage {
    /// It stays inside, or comes in through something that is there.
    #[default]
    None,
    /// A hole of this diameter, mm.
    Hole { diameter_mm: f64 },
    /// Through a closed window by a flat jumper.
    Window,
}

/// What a kit consists of.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KitSpec {
    /// The gateway.
    pub gateway: Option<PartId>,
    /// `None` for the gateway's own antennas.
    pub antenna: Option<PartId>,
    /// How many of that antenna, 1..=4.
    #[cfg_attr(feature = "schema", schema(minimum = 0, maximum = 4))]
    pub antenna_count: u8,
    /// With two antennas of one element each: the angle between them, degrees.
    pub crossed_deg: Option<f64>,
    /// Leads brought to the gateway, 0 for all that antenna and gateway have.
    pub leads: u8,
    /// Parts in each lead, from the antenna on.
    pub chain: Vec<ChainPart>,
    /// For an outdoor unit: cable, injector and arrestor of its Ethernet.
    pub ethernet: Option<PartId>,
    /// Length of the Ethernet cable, m.
    pub ethernet_m: Option<f64>,
    /// What powers it over Ethernet.
    pub injector: Option<PartId>,
    /// Surge arrestor of the Ethernet cable.
    pub ethernet_arrestor: Option<PartId>,
    /// What it stands on.
    pub mount: Option<PartId>,
    /// Where it is to go.
    pub position_id: Option<PositionId>,
    /// m; the position's own where not said.
    pub height_above_ground_m: Option<f64>,
    /// Where the gateway goes.
    pub gateway_place: GatewayPlace,
    /// How lines come into the house.
    pub passage: Passage,
    /// Leads to ports; empty for lead 1 to the first port and so on.
    pub ports: Vec<PortLink>,
}

/// A kit considered or bought for a site.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Kit {
    /// Identifier.
    pub id: KitId,
    /// The site.
    pub site_id: SiteId,
    /// Name.
    pub name: String,
    /// What it is.
    pub spec: KitSpec,
    /// Day it was bought.
    #[serde(default)]
    pub bought_on: Option<NaiveDate>,
    /// Last day it can be given back: tests are planned to end before.
    #[serde(default)]
    pub return_by: Option<NaiveDate>,
    /// Free text.
    #[serde(default)]
    pub notes: String,
    /// When it was made.
    pub created_at: DateTime<Utc>,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// A use of the line.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum UseKind {
    /// A video call.
    VideoCall,
    /// A film in HD.
    HdStream,
    /// A film in UHD.
    UhdStream,
    /// Sending large files.
    Upload,
    /// A game over the network.
    Gaming,
    /// Pages and mail.
    Browsing,
}

/// How much one use takes, and how many at once.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct HouseholdUse {
    /// Kind.
    #[serde(rename = "use")]
    pub kind: UseKind,
    /// At once, 0..=20.
    pub count: u8,
    /// Mbit/s each.
    pub down_mbps: f64,
    /// Upload, Mbit/s.
    pub up_mbps: f64,
}

/// A carrier said to be on offer where no reading has it.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ExpectedCarrier {
    /// Operating band.
    #[serde(flatten)]
    pub band: BandName,
    /// MHz
    pub bandwidth_mhz: f64,
}

/// What a site's kits are planned by.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct KitSettings {
    /// ISO 4217, shown beside prices.
    pub currency: String,
    /// What the household does.
    pub uses: Vec<HouseholdUse>,
    /// Cable from antenna to gateway at this house, m: what a suggestion reckons with.
    pub cable_m: f64,
    /// Height that a suggestion reckons with, m.
    pub height_m: f64,
    /// Height of the mast's antennas above ground, m, for the path estimate.
    pub mast_height_m: f64,
    /// Carriers to reckon with beside those heard.
    pub expected: Vec<ExpectedCarrier>,
    /// True bearings of masts that disturb, degrees; empty: they are taken to stand all round.
    pub interferer_bearings_deg: Vec<f64>,
    /// Radiated power (EIRP) that plan and country permit, dBm.
    pub permitted_eirp_dbm: Option<f64>,
    /// What the cable is reckoned at, °C, −55..=85.
    pub cable_temperature_c: f64,
    /// Wind for the indication, m/s.
    pub wind_m_s: f64,
    /// Overhead line's distance from the mast's foot, m, if there is one.
    pub overhead_line_m: Option<f64>,
    /// Nothing may stay behind: no holes.
    pub tenant: bool,
    /// The gateway that the household has already and keeps: suggestions are built round it, and it costs nothing.
    pub own_gateway: Option<PartId>,
}

impl Default for KitSettings {
    /// Common practice, no source.
    fn default() -> Self {
        let of = |kind, count, down_mbps, up_mbps| HouseholdUse { kind, count, down_mbps, up_mbps };
        Self {
            currency: "EUR".into(),
            uses: vec![
                of(UseKind::VideoCall, 2, 3.0, 3.0),
                of(UseKind::HdStream, 2, 6.0, 0.1),
                of(UseKind::UhdStream, 0, 20.0, 0.1),
                of(UseKind::Upload, 0, 0.5, 10.0),
                of(UseKind::Gaming, 0, 2.0, 1.0),
                of(UseKind::Browsing, 2, 4.0, 0.5),
            ],
            cable_m: 10.0,
            height_m: 6.0,
            mast_height_m: 35.0,
            expected: Vec::new(),
            interferer_bearings_deg: Vec::new(),
            permitted_eirp_dbm: None,
            cable_temperature_c: 20.0,
            wind_m_s: 35.0,
            overhead_line_m: None,
            tenant: false,
            own_gateway: None,
        }
    }
}
