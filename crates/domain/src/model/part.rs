//! Parts of a kit as a catalogue describes them. Values are the maker's or a public class's; what is computed from
//! them is in `open_beacon_link::hardware`.

use super::{BandName, Metric, Mount, PartId};
use crate::feedline::cable::CableKind;
use crate::feedline::joint::Connector;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

/// One catalogue entry.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Part {
    /// Identifier.
    pub id: PartId,
    /// Name.
    pub name: String,
    /// In the currency of the site; a feed line's is for one piece, its price by the metre stands in its spec.
    #[serde(default)]
    pub price: Option<f64>,
    /// How many lie in the installer's own stock; `None` where no stock is kept.
    #[serde(default)]
    pub stock: Option<u32>,
    /// Free text.
    #[serde(default)]
    pub notes: String,
    /// What it is.
    pub spec: PartSpec,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

/// What kind of part it is, with what is said of it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PartSpec {
    /// A gateway.
    Gateway(GatewaySpec),
    /// An antenna.
    Antenna(AntennaSpec),
    /// A feed line.
    FeedLine(FeedLineSpec),
    /// A jumper.
    Jumper(JumperSpec),
    /// An adapter.
    Adapter(AdapterSpec),
    /// An arrestor.
    Arrestor(ArrestorSpec),
    /// An ethernet.
    Ethernet(EthernetSpec),
    /// An injector.
    Injector(InjectorSpec),
    /// A mount.
    Mount(MountSpec),
}

/// The kinds alone, in the order of a kit.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PartKind {
    /// An antenna.
    Antenna,
    /// A jumper.
    Jumper,
    /// A feed line.
    FeedLine,
    /// An adapter.
    Adapter,
    /// An arrestor.
    Arrestor,
    /// A gateway.
    Gateway,
    /// An ethernet.
    Ethernet,
    /// An injector.
    Injector,
    /// A mount.
    Mount,
}

impl PartSpec {
    /// Which kind this is.
    pub fn kind(&self) -> PartKind {
        match self {
            Self::Gateway(_) => PartKind::Gateway,
            Self::Antenna(_) => PartKind::Antenna,
            Self::FeedLine(_) => PartKind::FeedLine,
            Self::Jumper(_) => PartKind::Jumper,
            Self::Adapter(_) => PartKind::Adapter,
            Self::Arrestor(_) => PartKind::Arrestor,
            Self::Ethernet(_) => PartKind::Ethernet,
            Self::Injector(_) => PartKind::Injector,
            Self::Mount(_) => PartKind::Mount,
        }
    }
}

/// A band that a gateway has, with its receive branches.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandSupport {
    /// Operating band.
    #[serde(flatten)]
    pub band: BandName,
    /// Spatial layers it can receive, 1..=4: 2 for 2x2, 4 for 4x4.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 4))]
    pub layers: u8,
}

/// Which way a port works.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PortDirection {
    /// Receives and transmits.
    #[default]
    Both,
    /// Receives only.
    Receive,
}

/// A gateway's antenna port.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GatewayPort {
    /// As printed beside it.
    pub name: String,
    /// Its connector.
    pub connector: Connector,
    /// Bands it carries; empty for all the gateway has.
    #[serde(default)]
    pub bands: Vec<BandName>,
    /// What passes it.
    #[serde(default)]
    pub direction: PortDirection,
    /// Ports of one pair bear the two polarisations of one antenna, 1..=4.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 4))]
    pub pair: u8,
}

/// How a gateway comes to use its ports.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PortSwitch {
    /// It has no ports, or nothing is to be switched.
    #[default]
    None,
    /// A setting in its pages.
    Manual,
    /// It senses a plug.
    Automatic,
    /// The inner antennas are cut off for good where the ports were added.
    Permanent,
}

/// What can be locked.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Locking {
    /// Nothing.
    #[default]
    None,
    /// Bands.
    Bands,
    /// Bands and cells.
    BandsAndCells,
}

/// How power over Ethernet is put on the wire. The kinds must not be mixed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PowerKind {
    /// IEEE 802.3af, at or bt: asks before it gives.
    Standard,
    /// Always on: damages what is not made for it.
    Passive,
}

/// What an outdoor unit takes from its cable.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PowerOverEthernet {
    /// Standard of powering.
    pub power_kind: PowerKind,
    /// V, at the unit.
    pub lowest_v: f64,
    /// Highest voltage taken, V.
    pub highest_v: f64,
}

/// A gateway: modem and router, or an outdoor unit with the antenna in the same box.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GatewaySpec {
    /// By band.
    pub bands: Vec<BandSupport>,
    /// Carriers it can aggregate downwards.
    pub aggregated_carriers: u8,
    /// Whether NR works on its own.
    pub standalone: bool,
    /// Whether NR rides on an LTE anchor.
    pub non_standalone: bool,
    /// Antenna ports.
    #[serde(default)]
    pub ports: Vec<GatewayPort>,
    /// The case must be opened to reach its ports.
    #[serde(default)]
    pub opened: bool,
    /// How antenna ports are switched.
    #[serde(default)]
    pub switch: PortSwitch,
    /// What it can be held to.
    #[serde(default)]
    pub locking: Locking,
    /// Metrics its pages show.
    #[serde(default)]
    pub shows: Vec<Metric>,
    /// Whether it can pass the address on to a router behind it.
    #[serde(default)]
    pub bridge_mode: bool,
    /// Whether it forwards ports.
    #[serde(default)]
    pub port_forwarding: bool,
    /// Mbit/s
    pub lan_mbps: f64,
    /// °C
    pub temperature_low_c: f64,
    /// Highest temperature it works at, °C.
    pub temperature_high_c: f64,
    /// W
    pub power_w: f64,
    /// Noise figure, dB.
    pub noise_figure_db: f64,
    /// dBm
    pub transmit_power_dbm: f64,
    /// An outdoor unit's own antenna; `None` for an indoor gateway.
    #[serde(default)]
    pub outdoor: Option<AntennaSpec>,
    /// How it is powered over Ethernet.
    #[serde(default)]
    pub power_over_ethernet: Option<PowerOverEthernet>,
}

impl GatewaySpec {
    /// Layers it receives on a band; 0 where it has not got it.
    pub fn layers_on(&self, band: BandName) -> u8 {
        self.bands.iter().find(|support| support.band == band).map_or(0, |support| support.layers)
    }
}

/// How an antenna looks out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum AntennaKind {
    /// Hears all round.
    Omni,
    /// A flat panel.
    Panel,
    /// Log-periodic.
    LogPeriodic,
    /// A dish, grid or long beam.
    HighGain,
}

/// How its elements are polarised.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Polarisation {
    /// Pairs crossed at 45 degrees either way, as masts have it.
    Slant,
    /// Pairs, one upright and one lying.
    Cross,
    /// Every element upright.
    Vertical,
}

/// Gain at a frequency; between two points it runs straight.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct GainPoint {
    /// Frequency, MHz.
    pub frequency_mhz: f64,
    /// Gain, dBi.
    pub gain_dbi: f64,
}

/// A point of a measured pattern: attenuation against the middle of the beam.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PatternPoint {
    /// Degrees from the middle of the beam, −180..=180.
    pub off_deg: f64,
    /// dB below the gain, 0 or more.
    pub below_db: f64,
}

/// Where an antenna or a unit can be fixed.
#[derive(Clone, Copy, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Fixing {
    /// Smallest and largest pole its clamp takes, mm; 0 and 0 for no clamp.
    pub clamp_low_mm: f64,
    /// Thickest tube that the clamp takes, mm.
    pub clamp_high_mm: f64,
    /// Screws to a wall.
    pub wall: bool,
    /// Suction cups or a stand for glass and sills.
    pub glass: bool,
}

/// An antenna.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AntennaSpec {
    /// What kind of antenna it is.
    pub antenna_kind: AntennaKind,
    /// Elements, each with its lead, 1..=8.
    #[cfg_attr(feature = "schema", schema(minimum = 1, maximum = 8))]
    pub elements: u8,
    /// Polarisation.
    pub polarisation: Polarisation,
    /// From the lowest to the highest frequency it is made for.
    pub gain: Vec<GainPoint>,
    /// Half-power beamwidth, degrees; 360 for an omni.
    pub beamwidth_azimuth_deg: f64,
    /// Half-power beamwidth in elevation, degrees.
    pub beamwidth_elevation_deg: f64,
    /// Front-to-back ratio, dB.
    pub front_to_back_db: f64,
    /// Discrimination between polarisations, dB.
    #[serde(default)]
    pub cross_polar_discrimination_db: Option<f64>,
    /// Isolation between ports, dB.
    #[serde(default)]
    pub isolation_db: Option<f64>,
    /// Connector at the end of each lead.
    pub connector: Connector,
    /// Length of its fixed leads, m; 0 for sockets on the antenna itself.
    #[serde(default)]
    pub tail_m: f64,
    /// Cable that hangs on it.
    #[serde(default)]
    pub tail_cable: Option<CableKind>,
    /// Weight, kg.
    pub weight_kg: f64,
    /// Area the wind meets, m².
    pub area_m2: f64,
    /// How it is fixed.
    #[serde(default)]
    pub fixing: Fixing,
    /// Whether it may be rained on.
    pub weatherproof: bool,
    /// Measured pattern in azimuth, in place of the one that the beamwidth draws.
    #[serde(default)]
    pub pattern: Vec<PatternPoint>,
}

/// Coaxial cable sold by its length with its ends on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FeedLineSpec {
    /// Kind of cable.
    pub cable: CableKind,
    /// Two cables in one jacket.
    #[serde(default)]
    pub twin: bool,
    /// The end towards the antenna.
    pub antenna_end: Connector,
    /// The end towards the gateway.
    pub gateway_end: Connector,
    /// Price of a metre.
    #[serde(default)]
    pub price_per_m: f64,
    /// Whether it may be outdoors.
    #[serde(default)]
    pub outdoors: bool,
}

/// A short piece with its ends on: a pigtail, or a flat one that passes a window.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct JumperSpec {
    /// Connector towards the antenna.
    pub antenna_end: Connector,
    /// Connector towards the gateway.
    pub gateway_end: Connector,
    /// dB at 2000 MHz, growing with the root of frequency.
    pub loss_db_2ghz: f64,
    /// Length, m.
    pub length_m: f64,
    /// Goes through a closed window.
    #[serde(default)]
    pub flat: bool,
}

/// A piece with two connectors and nothing between.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AdapterSpec {
    /// Connector towards the antenna.
    pub antenna_end: Connector,
    /// Connector towards the gateway.
    pub gateway_end: Connector,
}

/// What a surge arrestor stands in.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "protects", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum ArrestorSpec {
    Coax {
        antenna_end: Connector,
        gateway_end: Connector,
        loss_db_2ghz: f64,
        lowest_mhz: f64,
        highest_mhz: f64,
    },
    Ethernet {
        lan_mbps: f64,
    },
}

/// Ethernet cable that also carries power.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct EthernetSpec {
    /// Loop resistance of 100 m, Ω.
    pub loop_ohm_100m: f64,
    /// Whether it may be outdoors.
    pub outdoors: bool,
    /// What its Ethernet carries, Mbit/s.
    pub lan_mbps: f64,
    /// Outer diameter, mm.
    pub diameter_mm: f64,
    /// Price of a metre.
    #[serde(default)]
    pub price_per_m: f64,
}

/// Puts power on an Ethernet cable.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct InjectorSpec {
    /// Standard of powering.
    pub power_kind: PowerKind,
    /// Voltage, V.
    pub voltage_v: f64,
    /// Power, W.
    pub power_w: f64,
    /// Feeds over all four pairs.
    #[serde(default)]
    pub four_pairs: bool,
    /// What its Ethernet carries, Mbit/s.
    pub lan_mbps: f64,
}

/// What holds an antenna.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MountSpec {
    /// What it stands on.
    pub mount: Mount,
    /// Diameter of its pole, mm; 0 for a plate or a sill.
    pub pole_mm: f64,
    /// Free length of the pole above its last clamp, m.
    pub free_length_m: f64,
    /// Heaviest antenna it is sold for, kg.
    pub carries_kg: f64,
    /// Largest bending moment at its clamp it is sold for, N m; `None` where the maker does not say.
    #[serde(default)]
    pub moment_nm: Option<f64>,
    /// Holes drilled to fix it.
    pub holes: u8,
    /// Hours for one person.
    pub hours: f64,
}
