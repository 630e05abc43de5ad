//! What was built: a sheet from which a stranger can build it again, kept as it was on the day it was drawn up.

use super::{Activity, AsBuiltId, SetupId, SiteId, SpeedFigure, Technology};
use chrono::{DateTime, NaiveDate, Utc};
use serde::{Deserialize, Serialize};

/// What a person writes on the sheet. Everything else on it is taken from the record.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AsBuiltDetails {
    /// The day it was built.
    pub built_on: Option<NaiveDate>,
    /// Who built it. Private.
    pub built_by: String,
    /// Street address, or how to find the house. Private.
    pub address: String,
    /// Plan, account and SIM card at the operator. Private.
    pub account: String,
    /// Serial numbers, one a line. Private.
    pub serials: String,
    /// How the cable runs from the antenna to the gateway.
    pub cable_route: String,
    /// Joints, and what keeps water out of them.
    pub joints: String,
    /// Grounding and surge protection.
    pub grounding: String,
    /// Anything else that the next person has to know.
    pub remarks: String,
}

/// What of a sheet is given away beside what anyone may see.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AsBuiltSharing {
    /// Where the house stands: address, coordinates, masts and the way to them.
    pub place: bool,
    /// Who built it.
    pub people: bool,
    /// Serial numbers.
    pub serials: bool,
    /// Plan, account and SIM card.
    pub account: bool,
    /// Photographs. A camera may have written into them where they were taken.
    pub photos: bool,
}

impl AsBuiltSharing {
    /// Nothing is held back.
    pub const WHOLE: Self = Self { place: true, people: true, serials: true, account: true, photos: true };
}

/// A figure that is to be found again.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ExpectedFigure {
    /// What is usual.
    pub usual: f64,
    /// Nine visits of ten find it between this …
    pub low: f64,
    /// … and this.
    pub high: f64,
    /// Visits that it rests on.
    pub visits: usize,
}

/// A carrier that is to be heard again.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AsBuiltCarrier {
    /// LTE or NR.
    pub technology: Technology,
    /// Operating band.
    pub band: Option<u16>,
    /// EARFCN or NR-ARFCN of the downlink.
    pub channel: Option<u32>,
    /// Physical cell identity.
    pub pci: Option<u16>,
    /// Channel bandwidth, MHz.
    pub bandwidth_mhz: Option<f64>,
    /// Traffic on the line while it was read.
    pub activity: Activity,
    /// Reference signal received power, dBm.
    pub rsrp_dbm: Option<ExpectedFigure>,
    /// Reference signal received quality, dB.
    pub rsrq_db: Option<ExpectedFigure>,
    /// Signal to interference and noise ratio, dB.
    pub sinr_db: Option<ExpectedFigure>,
}

/// A speed or a latency that is to be found again.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AsBuiltSpeed {
    /// Which figure it is.
    pub figure: SpeedFigure,
    /// Mbit/s or ms.
    pub expected: ExpectedFigure,
}

/// Where the antenna looks.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AsBuiltAim {
    /// The antenna's bearing on a compass on that day, degrees; none where the declination is not known.
    pub compass_deg: Option<f64>,
    /// Magnetic declination on that day, degrees, positive to the east.
    pub declination_deg: Option<f64>,
    /// Name of the mast that serves it. Private, as are the way to it and its distance.
    pub mast: Option<String>,
    /// Bearing of the mast from the antenna, degrees from true north, 0..360.
    pub mast_bearing_deg: Option<f64>,
    /// Distance of the mast, m.
    pub mast_distance_m: Option<f64>,
}

/// A figure before and after.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AsBuiltGain {
    /// Which figure it is.
    pub figure: SpeedFigure,
    /// Mbit/s or ms before.
    pub before: f64,
    /// Mbit/s or ms after.
    pub after: f64,
    /// What was made of it that day: "2.8 times, clear gain, between 2.1 and 3.7".
    pub said: String,
}

/// What the comparison said on the day.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AsBuiltVerdict {
    /// The sentence on top, and whether the household's need is met.
    pub said: String,
    /// Name of the setup before; empty where there is none.
    pub before: String,
    /// Figures before and after.
    pub gains: Vec<AsBuiltGain>,
}

/// A sheet of what was built. What it says of the setup does not change: later measurements are judged by it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AsBuilt {
    /// Identifier.
    pub id: AsBuiltId,
    /// The site.
    pub site_id: SiteId,
    /// The setup that was built.
    pub setup_id: SetupId,
    /// When the sheet was drawn up.
    pub drawn_up_at: DateTime<Utc>,
    /// Version of the program that drew it up.
    pub program: String,
    /// What a person wrote.
    pub details: AsBuiltDetails,
    /// Where the antenna looks.
    pub aim: AsBuiltAim,
    /// Carriers to be heard.
    pub carriers: Vec<AsBuiltCarrier>,
    /// Speeds and latencies to be found.
    pub speeds: Vec<AsBuiltSpeed>,
    /// How the gateway's lock is undone, step by step.
    pub undo: Vec<String>,
    /// What people can get hurt by.
    pub cautions: Vec<String>,
    /// What the comparison said.
    pub verdict: AsBuiltVerdict,
    /// When it was archived; none while it is in use.
    #[serde(default)]
    pub archived_at: Option<DateTime<Utc>>,
}

impl AsBuilt {
    /// The sheet as it is given to someone: without what is held back.
    pub fn shared(mut self, with: AsBuiltSharing) -> Self {
        let hide = |keep: bool, text: &mut String| {
            if !keep {
                text.clear();
            }
        };
        hide(with.people, &mut self.details.built_by);
        hide(with.serials, &mut self.details.serials);
        hide(with.account, &mut self.details.account);
        hide(with.place, &mut self.details.address);
        if !with.place {
            // A mast with its bearing and distance leads to the house; the antenna's own bearing alone does not.
            let AsBuiltAim { compass_deg, declination_deg, .. } = self.aim;
            self.aim = AsBuiltAim { compass_deg, declination_deg, ..AsBuiltAim::default() };
        }
        self
    }
}
