//! How errors of what is computed for a house hang together between places, cells and antennas: the priors of
//! [`super::environment`]. All spreads and shares are common practice without source unless said.

use super::gaussian::{Kernel, Measurement, Mixture, Normal};
use super::walls::building_shares;
use open_beacon_domain::geo::GeoPoint;
use open_beacon_domain::model::{BandChoice, Mount, PositionId, SiteSettings};
use serde::{Deserialize, Serialize};

/// What is not known.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum NotKnown {
    /// What walls or roof take.
    Walls,
    /// What mast and path bring to the house.
    Path,
    /// What this very place adds or takes.
    Place,
    /// What height brings.
    Height,
    /// The antenna's gain.
    Antenna,
    /// Other cells on the channel.
    Interference,
    /// What a carrier carries by a known signal: layers, coding, its width.
    Carrying,
    /// How much of that is left for the house: load, plan, line.
    Share,
}

/// By what the same place is known again.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SpotKey {
    /// The position.
    pub position: Option<PositionId>,
    /// m above ground.
    pub height_m: f64,
    /// What it stands on.
    pub mount: Mount,
}

/// Height over which a position stays what it was, m.
const SPOT_HEIGHT_M: f64 = 10.0;

impl SpotKey {
    /// How much of what is a spot's own two have in common, 0 to 1: all at one height of a position, less the farther apart
    /// their heights are.
    fn in_common(&self, other: &Self) -> f64 {
        if self == other {
            1.0
        } else if self.position.is_some() && self.position == other.position {
            (-(self.height_m - other.height_m).abs() / SPOT_HEIGHT_M).exp()
        } else {
            0.0
        }
    }
}

/// Spreads of a computed power's error, by what shares it, dB.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Spreads {
    /// By all masts: what is assumed of power.
    pub common_db: f64,
    /// Spread of masts about the model, dB.
    pub mast_db: f64,
    /// Spread of a cell about its mast, dB.
    pub cell_db: f64,
    /// By places near one another: shadowing.
    pub shadow_db: f64,
    /// By all paths to a mast, each as much as there is in its way: what hills, trees and buildings take.
    pub in_the_way_db: f64,
    /// Share of the height's term that is doubted.
    pub height: f64,
}

/// Shadowing at a place, dB: TR 38.901 table 7.4.1-1 has 4 to 8 in all; the path's own share comes on top.
const SHADOW_DB: f64 = 4.0;
/// Spread of a sector's pattern over bearings within 60° of its axis, dB: of 12 (φ/65°)² (TR 36.942 clause 4.2.1) at uniform φ,
/// 12 (60/65)² √(1/5 − 1/9).
const UNKNOWN_SECTOR_DB: f64 = 3.05;
/// A cell's level before anything was measured, dB: as good as unknown.
const UNKNOWN_LEVEL_DB: f64 = 30.0;
/// Distance over which shadowing hangs together, m: TR 38.901 table 7.5-6, rural macro, 37 m in sight and 120 m without.
const SHADOW_DISTANCE_M: f64 = 50.0;
/// Doubt of what height brings, share of it: so that the two published models lie at the ends of its range from 10 to 90 %
/// (`rural::height_term_db`: half of 15.9 − 6.8 dB, over 1.28 and over their middle).
const HEIGHT_DOUBT: f64 = 0.31;

impl Spreads {
    /// Of a path computed with a spread, dB, and a doubt of what is in its way.
    pub fn of_path(spread_db: f64, in_the_way_db: f64) -> Self {
        let part = |share: f64| spread_db * share.sqrt();
        Self {
            common_db: part(0.2),
            mast_db: part(0.3),
            cell_db: part(0.2),
            shadow_db: part(0.3),
            in_the_way_db,
            height: HEIGHT_DOUBT,
        }
    }

    /// Of a mast whose sectors are not known: the house lies anywhere between the axis and the edge of the one that serves.
    pub fn of_unknown_sector(self) -> Self {
        Self { mast_db: self.mast_db.hypot(UNKNOWN_SECTOR_DB), ..self }
    }

    /// Of a cell that is known by readings only.
    pub fn of_reading() -> Self {
        Self {
            common_db: 0.0,
            mast_db: 0.0,
            cell_db: UNKNOWN_LEVEL_DB,
            shadow_db: SHADOW_DB,
            in_the_way_db: 0.0,
            height: HEIGHT_DOUBT,
        }
    }
}

/// Where a cell's power is asked for.
#[derive(Clone, Debug, PartialEq)]
pub struct PowerPoint {
    /// The cell.
    pub cell: usize,
    /// The mast.
    pub mast: Option<usize>,
    /// Where.
    pub place: Option<GeoPoint>,
    /// The spot.
    pub spot: SpotKey,
    /// Height above ground, m.
    pub height_m: f64,
    /// Loss of the wall for each kind of house, dB; 0 outside.
    pub walls_db: [Normal; 2],
    /// What was taken for the wall where residuals are counted from, dB.
    pub taken_wall_db: f64,
    /// Change by height, dB: against 0 m of the rural model's scale; over ground what is taken for the last metres, below 0.
    pub height_term_db: f64,
    /// How wide it is.
    pub spreads: Spreads,
    /// What it is heard with, and the doubt of that antenna's gain, dB; 0 for the air itself.
    pub antenna: u128,
    /// Gain towards the mast, dB.
    pub antenna_db: f64,
}

impl PowerPoint {
    /// The wall here and nothing else, one standard deviation of it as 1 dB: where power is drawn, this tells the wall's part of it.
    pub(super) fn wall_alone(&self) -> Self {
        let walls_db = self.walls_db.map(|_| Normal { mean: 0.0, spread: 1.0 });
        Self { walls_db, ..self.alone(NotKnown::Walls) }
    }

    /// One part of the power here and nothing else, dB.
    pub(super) fn alone(&self, unknown: NotKnown) -> Self {
        let (all, is) = (&self.spreads, |other: NotKnown| f64::from(u8::from(unknown == other)));
        let (path, place) = (is(NotKnown::Path), is(NotKnown::Place));
        let spreads = Spreads {
            common_db: path * all.common_db,
            mast_db: path * all.mast_db,
            cell_db: path * all.cell_db,
            shadow_db: place * all.shadow_db,
            in_the_way_db: path * all.in_the_way_db,
            height: is(NotKnown::Height) * all.height,
        };
        let wall = |one: Normal| Normal { mean: 0.0, spread: is(NotKnown::Walls) * one.spread };
        Self {
            walls_db: self.walls_db.map(wall),
            taken_wall_db: 0.0,
            spreads,
            antenna_db: is(NotKnown::Antenna) * self.antenna_db,
            ..self.clone()
        }
    }
}

/// Rooms of one house whose places are not known are this far apart, m.
const ROOMS_APART_M: f64 = 10.0;
/// Of the spread of a wall's loss this share is the house's, the rest the spot's.
const WALL_HOUSE_SHARE: f64 = 0.5;
/// Of shadowing at a place this share is all of a mast's cells', the rest each cell's own.
pub(super) const SHADOW_COMMON: f64 = 0.6;
/// Metres of a degree of latitude on a sphere of 6371 km.
const METRES_PER_DEGREE: f64 = 111_194.93;

/// Received power, dB, behind the walls of one kind of house.
#[derive(Clone, Copy, Debug)]
pub struct PowerKernel {
    /// Place of the kind of house in [`PowerPoint::walls_db`].
    pub building: usize,
}

fn apart_m(a: &PowerPoint, b: &PowerPoint) -> f64 {
    let same_position = a.spot.position.is_some() && a.spot.position == b.spot.position;
    let along_m = match (a.place, b.place) {
        _ if same_position => 0.0,
        (Some(a), Some(b)) => {
            let north = (a.latitude_deg - b.latitude_deg) * METRES_PER_DEGREE;
            let wide = a.latitude_deg.to_radians().cos();
            let east = (a.longitude_deg - b.longitude_deg) * METRES_PER_DEGREE * wide;
            north.hypot(east)
        }
        _ => ROOMS_APART_M,
    };
    along_m.hypot(a.height_m - b.height_m)
}

impl Kernel for PowerKernel {
    type Point = PowerPoint;

    fn covariance(&self, a: &PowerPoint, b: &PowerPoint) -> f64 {
        let (here, there) = (&a.spreads, &b.spreads);
        let mut sum = here.common_db * there.common_db;
        let same_cell = a.cell == b.cell;
        let same_mast = same_cell || (a.mast.is_some() && a.mast == b.mast);
        if same_cell {
            sum += here.cell_db * there.cell_db;
        }
        if same_mast {
            sum += here.mast_db * there.mast_db;
            sum += here.in_the_way_db * there.in_the_way_db;
            let shadow = here.shadow_db * there.shadow_db;
            if shadow > 0.0 {
                let near = (-apart_m(a, b) / SHADOW_DISTANCE_M).exp();
                sum += shadow * near * if same_cell { 1.0 } else { SHADOW_COMMON };
            }
        }
        sum += here.height * there.height * a.height_term_db * b.height_term_db;
        if a.antenna == b.antenna {
            sum += a.antenna_db * b.antenna_db;
        }
        let wall = a.walls_db[self.building].spread * b.walls_db[self.building].spread;
        sum + wall * (WALL_HOUSE_SHARE + (1.0 - WALL_HOUSE_SHARE) * a.spot.in_common(&b.spot))
    }

    fn offset(&self, at: &PowerPoint) -> f64 {
        at.taken_wall_db - at.walls_db[self.building].mean
    }
}

/// What may be measured or asked for: how far a level is off what is computed for it, dB.
#[derive(Clone, Debug, PartialEq)]
pub enum Quantity {
    /// Received power of a cell.
    Power(PowerPoint),
    /// Interference beyond what is computed from the powers of listed cells.
    Interference(InterferencePoint),
    /// Several together, each with its weight.
    Sum(Vec<(f64, Quantity)>),
}

impl From<&PowerPoint> for Quantity {
    fn from(point: &PowerPoint) -> Self {
        Self::Power(point.clone())
    }
}

/// Power and interference together, behind the walls of one kind of house.
#[derive(Clone, Copy, Debug)]
pub struct HouseKernel {
    /// Place of the kind of house in [`PowerPoint::walls_db`].
    pub building: usize,
}

impl Kernel for HouseKernel {
    type Point = Quantity;

    fn covariance(&self, a: &Quantity, b: &Quantity) -> f64 {
        match (a, b) {
            (Quantity::Power(a), Quantity::Power(b)) => {
                PowerKernel { building: self.building }.covariance(a, b)
            }
            (Quantity::Interference(a), Quantity::Interference(b)) => InterferenceKernel.covariance(a, b),
            (Quantity::Sum(parts), other) | (other, Quantity::Sum(parts)) => {
                parts.iter().map(|(weight, one)| weight * self.covariance(one, other)).sum()
            }
            _ => 0.0,
        }
    }

    fn offset(&self, at: &Quantity) -> f64 {
        match at {
            Quantity::Power(at) => PowerKernel { building: self.building }.offset(at),
            Quantity::Interference(_) => 0.0,
            Quantity::Sum(parts) => parts.iter().map(|(weight, one)| weight * self.offset(one)).sum(),
        }
    }
}

/// What is known of a house by what was measured there, for either kind of house.
pub(super) fn known_by(settings: &SiteSettings, measured: &[Measurement<Quantity>]) -> Mixture<HouseKernel> {
    let kernels = [0, 1].map(|building| HouseKernel { building });
    Mixture::new(building_shares(settings).into_iter().zip(kernels), measured)
}

/// Where interference on a cell's channel is asked for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct InterferencePoint {
    /// The cell.
    pub cell: usize,
    /// The spot.
    pub spot: SpotKey,
    /// The antenna.
    pub antenna: u128,
    /// Where it points, if it is pointed.
    pub azimuth_deg: Option<f64>,
}

/// Interference, dB.
#[derive(Clone, Copy, Debug)]
pub struct InterferenceKernel;

/// Spreads of computed interference by what shares it, dB: load everywhere, the channel, the spot, the antenna as it points.
const INTERFERENCE_DB: [f64; 4] = [3.0, 4.0, 2.0, 2.5];
/// Of its variance before anything was measured this share is all carriers': 3² of 3² + 4² + 2² + 2.5².
pub(super) const INTERFERENCE_COMMON: f64 = 0.255;
/// Antennas that point this close hear the same interference, degrees.
const SAME_AIM_DEG: f64 = 5.0;

impl Kernel for InterferenceKernel {
    type Point = InterferencePoint;

    fn covariance(&self, a: &InterferencePoint, b: &InterferencePoint) -> f64 {
        let [common, channel, spot, antenna] = INTERFERENCE_DB.map(|spread| spread * spread);
        let mut sum = common;
        if a.cell == b.cell {
            sum += channel;
            let near = a.spot.in_common(&b.spot);
            if near > 0.0 {
                sum += spot * near;
                if a.antenna == b.antenna && same_aim(a.azimuth_deg, b.azimuth_deg) {
                    sum += antenna * near;
                }
            }
        }
        sum
    }
}

/// Where the measured share of the possible is asked for.
#[derive(Clone, Debug, PartialEq)]
pub struct SharePoint {
    /// The spot.
    pub spot: SpotKey,
    /// The antenna.
    pub antenna: u128,
    /// Where it points, if it is pointed.
    pub azimuth_deg: Option<f64>,
    /// Bands that are left.
    pub lock: BandChoice,
}

impl SharePoint {
    /// Whether both are one setup, as near as it matters.
    pub(super) fn is_same(&self, other: &Self) -> bool {
        (self.spot, self.antenna, &self.lock) == (other.spot, other.antenna, &other.lock)
            && same_aim(self.azimuth_deg, other.azimuth_deg)
    }
}

/// Antennas that point so hear the same.
fn same_aim(a: Option<f64>, b: Option<f64>) -> bool {
    match (a, b) {
        (Some(a), Some(b)) => open_beacon_domain::geo::turn_deg(a, b).abs() <= SAME_AIM_DEG,
        (a, b) => a == b,
    }
}

/// Of what could be carried, this much is measured where nothing is known (common practice, no source), and its spread as a
/// natural logarithm is the kernel's.
pub const USUAL_SHARE: f64 = 0.5;
/// Natural logarithm of it.
pub(super) const USUAL_SHARE_LN: f64 = -std::f64::consts::LN_2;

/// Natural logarithm of what is measured over what is possible.
#[derive(Clone, Copy, Debug)]
pub struct ShareKernel;

/// Spreads of the share by what has it: the house's line and cells; the antenna as it points where it is; the bands that are used there.
const SHARE_HOUSE: f64 = 0.5;
const SHARE_ANTENNA: f64 = 0.2;
const SHARE_LOCK: f64 = 0.25;

impl Kernel for ShareKernel {
    type Point = SharePoint;

    fn covariance(&self, a: &SharePoint, b: &SharePoint) -> f64 {
        let same = a.antenna == b.antenna && same_aim(a.azimuth_deg, b.azimuth_deg);
        let near = if same { a.spot.in_common(&b.spot) } else { 0.0 };
        let lock = if a.lock == b.lock { SHARE_LOCK * SHARE_LOCK } else { 0.0 };
        SHARE_HOUSE * SHARE_HOUSE + near * (SHARE_ANTENNA * SHARE_ANTENNA + lock)
    }
}
