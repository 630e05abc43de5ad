//! The antenna that a survey reckons with: gain, pattern both ways, polarisation.

use crate::antenna::pattern::Pattern;
use crate::antenna::polarisation::single_element_loss_db;
use crate::geo::turn_deg;
use crate::kit::budget::{below_db, budget};
use crate::kit::resolve::Resolved;
use crate::model::{OutdoorKind, Polarisation, SiteSettings};

/// The antenna that a survey reckons with.
#[derive(Clone, Copy, Debug)]
pub enum AimAntenna<'a> {
    /// A kit's, behind its feed line.
    Kit(&'a Resolved<'a>),
    /// The outdoor panel of the site's assumptions.
    Assumed,
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

impl AimAntenna<'_> {
    /// Gain behind the feed line, dBi; `None` where the antenna is not made for the frequency.
    pub fn net_gain_dbi(&self, frequency_mhz: f64, settings: &SiteSettings) -> Option<f64> {
        match self {
            Self::Kit(kit) => {
                let stock = settings.outdoor.stock_gain_dbi;
                budget(kit, frequency_mhz, settings.kit.cable_temperature_c, stock).net_gain_dbi
            }
            Self::Assumed => Some(assumed_gain_dbi(settings) - settings.outdoor.feed_loss_db),
            Self::Stock => Some(settings.outdoor.stock_gain_dbi),
        }
    }

    /// How far below its middle it hears at an angle off in azimuth and one in elevation, dB: both planes added as
    /// TR 38.901 table 7.3-1 has it, no more than its back or its measured azimuth.
    pub fn below_db(&self, off_azimuth_deg: f64, off_elevation_deg: f64) -> f64 {
        match self {
            Self::Kit(kit) => kit.looks().map_or(0.0, |antenna| {
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
            Self::Assumed => -PANEL.gain_dbi(off_azimuth_deg, off_elevation_deg),
            Self::Stock => 0.0,
        }
    }

    /// What its polarisation loses of a mast's waves, dB. Masts send two crossed waves at 45°; a pair of elements crossed
    /// any way gets both, an upright element half of either.
    pub fn polarisation_loss_db(&self) -> f64 {
        let Self::Kit(kit) = self else { return 0.0 };
        kit.looks().filter(|antenna| antenna.polarisation == Polarisation::Vertical).map_or(0.0, |antenna| {
            let discrimination = antenna.cross_polar_discrimination_db.unwrap_or(USUAL_DISCRIMINATION_DB);
            single_element_loss_db(MAST_SLANT_DEG, discrimination)
        })
    }

    /// Whether its beam is pointed at all: one all round is set upright and looks at the horizon.
    pub fn is_pointed(&self) -> bool {
        match self {
            Self::Kit(kit) => kit.looks().is_some_and(|antenna| antenna.beamwidth_azimuth_deg < 360.0),
            Self::Assumed => true,
            Self::Stock => false,
        }
    }

    /// Turned at where a wave comes from, and tilted at it where the antenna can be.
    pub fn aimed_at(&self, from: Aim) -> Aim {
        let elevation_deg = if self.is_pointed() { from.elevation_deg } else { 0.0 };
        Aim { elevation_deg, ..from }
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

/// Pattern of the panel assumed before a kit is chosen (common practice, no source).
const PANEL: Pattern = Pattern {
    gain_dbi: 0.0,
    beamwidth_azimuth_deg: 60.0,
    beamwidth_elevation_deg: 40.0,
    front_to_back_db: 20.0,
};

fn assumed_gain_dbi(settings: &SiteSettings) -> f64 {
    let kinds = &settings.outdoor.kinds;
    kinds.iter().find(|one| one.kind == OutdoorKind::Panel).map_or(10.0, |one| one.gain_dbi)
}
