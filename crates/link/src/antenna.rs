//! The antenna of a setup: gain, pattern both ways, polarisation.

use crate::hardware::budget::{below_db, budget, gain_at_dbi, tail_loss_db};
use crate::hardware::resolve::Resolved;
use open_beacon_domain::antenna::pattern::{Pattern, rejection_db};
use open_beacon_domain::antenna::polarisation::single_element_loss_db;
use open_beacon_domain::geo::turn_deg;
use open_beacon_domain::model::{
    AntennaSpec, OutdoorAntenna, OutdoorKind, PartId, Polarisation, SiteSettings,
};

/// The antenna of a setup.
#[derive(Clone, Copy, Debug)]
pub enum AimAntenna<'a> {
    /// A kit's, behind its feed line.
    Kit(&'a Resolved<'a>),
    /// An antenna of the catalogue at its own connectors, without a feed line.
    Part(PartId, &'a AntennaSpec),
    /// One of the kinds of the site's assumptions, before a kit is chosen.
    Assumed(&'a OutdoorAntenna),
    /// The gateway's own, all round.
    Stock,
}

/// Where the middle of an antenna's beam looks, or a wave comes from.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Aim {
    /// Degrees from true north.
    pub azimuth_deg: f64,
    /// Degrees above the horizon.
    pub elevation_deg: f64,
}

/// Discrimination between polarisations after a path over land where the antenna says none, dB (common practice, no
/// source).
const USUAL_DISCRIMINATION_DB: f64 = 15.0;

impl<'a> AimAntenna<'a> {
    /// What the catalogue says of it; `None` for a gateway's own and for an assumed one.
    fn spec(&self) -> Option<&'a AntennaSpec> {
        match self {
            Self::Kit(kit) => kit.antenna_spec(),
            Self::Part(_, antenna) => Some(antenna),
            _ => None,
        }
    }

    /// Gain behind the feed line, dBi; `None` where the antenna is not made for the frequency.
    pub fn net_gain_dbi(&self, frequency_mhz: f64, settings: &SiteSettings) -> Option<f64> {
        match self {
            Self::Kit(kit) => {
                let stock = settings.outdoor.stock_gain_dbi;
                budget(kit, frequency_mhz, settings.kit.cable_temperature_c, stock).net_gain_dbi
            }
            Self::Part(_, antenna) => {
                let tail_db = tail_loss_db(antenna, frequency_mhz, settings.kit.cable_temperature_c);
                Some(gain_at_dbi(antenna, frequency_mhz)? - tail_db)
            }
            Self::Assumed(kind) => Some(kind.gain_dbi - settings.outdoor.feed_loss_db),
            Self::Stock => Some(settings.outdoor.stock_gain_dbi),
        }
    }

    /// How far below its middle it hears at an angle off in azimuth and one in elevation, dB: both planes added as
    /// TR 38.901 table 7.3-1 has it, no more than its back or its measured azimuth.
    pub fn below_db(&self, off_azimuth_deg: f64, off_elevation_deg: f64) -> f64 {
        match self {
            Self::Kit(_) | Self::Part(..) => self.spec().map_or(0.0, |antenna| {
                let across = below_db(antenna, off_azimuth_deg);
                let upright = Pattern {
                    gain_dbi: 0.0,
                    beamwidth_azimuth_deg: 360.0,
                    beamwidth_elevation_deg: antenna.beamwidth_elevation_deg,
                    front_to_back_db: antenna.front_to_back_db.max(UPRIGHT_LEAST_DB),
                };
                let both = across - upright.gain_dbi(0.0, off_elevation_deg);
                both.min(antenna.front_to_back_db.max(UPRIGHT_LEAST_DB).max(across))
            }),
            Self::Assumed(kind) => -assumed_pattern(kind.kind).gain_dbi(off_azimuth_deg, off_elevation_deg),
            Self::Stock => 0.0,
        }
    }

    /// What its polarisation loses of a mast's waves, dB. Masts send two crossed waves at 45°; a pair of elements crossed
    /// any way gets both, an upright element half of either.
    pub fn polarisation_loss_db(&self) -> f64 {
        self.spec().filter(|antenna| antenna.polarisation == Polarisation::Vertical).map_or(0.0, |antenna| {
            let discrimination = antenna.cross_polar_discrimination_db.unwrap_or(USUAL_DISCRIMINATION_DB);
            single_element_loss_db(MAST_SLANT_DEG, discrimination)
        })
    }

    /// Whether its beam is pointed at all: one all round is set upright and looks at the horizon.
    pub fn is_pointed(&self) -> bool {
        match self {
            Self::Kit(_) | Self::Part(..) => {
                self.spec().is_some_and(|antenna| antenna.beamwidth_azimuth_deg < 360.0)
            }
            Self::Assumed(kind) => kind.kind != OutdoorKind::Omni,
            Self::Stock => false,
        }
    }

    /// Turned at where a wave comes from, and tilted at it where the antenna can be.
    pub fn aimed_at(&self, from: Aim) -> Aim {
        let elevation_deg = if self.is_pointed() { from.elevation_deg } else { 0.0 };
        Aim { elevation_deg, ..from }
    }

    /// How much less it hears of interferers than of what its middle looks at, dB. `off_deg`: where they stand off the middle;
    /// none: all round.
    pub fn rejection_db(&self, off_deg: &[f64]) -> f64 {
        match self {
            Self::Kit(_) | Self::Part(..) => {
                self.spec().map_or(0.0, |antenna| rejection_db(|angle| below_db(antenna, angle), off_deg))
            }
            Self::Assumed(kind) => kind.rejection_db,
            Self::Stock => 0.0,
        }
    }

    /// What tells one antenna from another in the record: the part, the kind, or the gateway's own.
    pub fn key(&self) -> u128 {
        match self {
            Self::Kit(kit) => match (kit.antenna, kit.unit(), kit.gateway) {
                (Some((part, _)), ..) => part.id.0.as_u128(),
                (None, Some(_), Some((part, _))) => part.id.0.as_u128(),
                _ => 0,
            },
            Self::Part(id, _) => id.0.as_u128(),
            Self::Assumed(kind) => 1 + kind.kind as u128,
            Self::Stock => 0,
        }
    }

    /// Doubt of its gain, dB.
    pub fn gain_spread_db(&self) -> f64 {
        match self {
            Self::Kit(_) | Self::Part(..) if self.spec().is_some() => CATALOGUE_GAIN_DB,
            _ => ASSUMED_GAIN_DB,
        }
    }

    /// How far below its middle a wave is heard by an antenna that looks at `aim`, dB.
    pub fn off_aim_db(&self, aim: Aim, from: Aim) -> f64 {
        self.below_db(turn_deg(aim.azimuth_deg, from.azimuth_deg), from.elevation_deg - aim.elevation_deg)
    }
}

/// Slant of a mast's waves, degrees.
const MAST_SLANT_DEG: f64 = 45.0;
/// An antenna all round says no front-to-back ratio; above and below it hears this much less at the most, dB (common
/// practice, no source).
const UPRIGHT_LEAST_DB: f64 = 15.0;

/// Patterns of the kinds assumed before a kit is chosen (common practice, no source).
fn assumed_pattern(kind: OutdoorKind) -> Pattern {
    let of = |azimuth_deg, elevation_deg, front_to_back_db| Pattern {
        gain_dbi: 0.0,
        beamwidth_azimuth_deg: azimuth_deg,
        beamwidth_elevation_deg: elevation_deg,
        front_to_back_db,
    };
    match kind {
        OutdoorKind::Omni => of(360.0, 60.0, UPRIGHT_LEAST_DB),
        OutdoorKind::Panel => of(60.0, 40.0, 20.0),
        OutdoorKind::HighGain => of(25.0, 25.0, 25.0),
    }
}

/// Doubt of an antenna's gain, dB: of a catalogue's figure, of one assumed, and of a gateway's own antennas (common practice,
/// no source).
const CATALOGUE_GAIN_DB: f64 = 0.7;
const ASSUMED_GAIN_DB: f64 = 1.5;
