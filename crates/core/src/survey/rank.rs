//! Positions, heights and masts in order of what they would bring, with the reason and how firm it is.

use super::clear::{Blocker, Clearance};
use super::hear::{AimAntenna, Arrival, Landscape, Stand, behind};
use super::route::PathSource;
use crate::capacity::Ranged;
use crate::capacity::possible::{CarrierRates, Possible, carrier_rates, together};
use crate::capacity::shannon::LEAST_SINR_DB;
use crate::geo::GeoPoint;
use crate::geo::geodesic::{ORDINARY_K, elevation_angle_deg, way};
use crate::model::{BandName, Carrier, ConnectionMode, MastId, Mount, Position, PositionId};
use serde::{Deserialize, Serialize};

/// How a position is reached, the safest first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Access {
    /// Under the roof or at a window.
    Inside,
    /// With both feet on the ground.
    Ground,
    Ladder,
    Roof,
}

/// Height reached from the ground, m (common practice, no source).
const REACH_M: f64 = 2.5;

impl Access {
    /// How an antenna is reached on a mount at a height.
    pub fn of(mount: Mount, height_m: f64) -> Self {
        match mount {
            Mount::Indoor | Mount::Window | Mount::Attic => Self::Inside,
            Mount::RoofMast | Mount::Chimney => Self::Roof,
            _ if height_m <= REACH_M => Self::Ground,
            _ => Self::Ladder,
        }
    }
}

/// One band of a mast at a place.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BandSignal {
    pub band: BandName,
    pub frequency_mhz: f64,
    pub bandwidth_mhz: Option<f64>,
    pub pci: Option<u16>,
    pub rsrp_dbm: Ranged,
    pub sinr_db: Ranged,
    /// Signal may fall this far before the band carries nothing, dB.
    pub margin_db: Ranged,
    pub down_mbps: Option<Ranged>,
    pub up_mbps: Option<Ranged>,
    /// Path loss, dB, with what it consists of.
    pub loss_db: Ranged,
    pub free_space_db: f64,
    pub ground_db: f64,
    pub obstacles_db: f64,
}

/// A mast from a position at a height.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Choice {
    pub position_id: PositionId,
    pub position: String,
    pub mount: Mount,
    pub mast_id: MastId,
    pub mast: String,
    /// Antenna above ground, m.
    pub height_m: f64,
    /// Above the height that the position has, m.
    pub raised_m: f64,
    pub distance_m: f64,
    /// Degrees from true north.
    pub bearing_deg: f64,
    /// Degrees above the horizon; none without terrain.
    pub elevation_deg: Option<f64>,
    pub source: PathSource,
    /// On the band that moves the most bits.
    pub clearance: Option<Clearance>,
    /// The widest first.
    pub bands: Vec<BandSignal>,
    pub down_mbps: Ranged,
    pub up_mbps: Ranged,
    /// Of the best band, dB.
    pub margin_db: f64,
    /// From antenna to gateway, m.
    pub cable_m: f64,
    pub access: Access,
}

/// Why one choice is put before another.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "why", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Reason {
    /// The other's line is blocked there, this one's is free.
    OtherBlocked { blocker: Blocker, at_m: f64, ratio: f64 },
    /// More signal.
    Stronger { by_db: f64, ratio: f64 },
    /// Less interference.
    Cleaner { by_db: f64, ratio: f64 },
    /// About the same speed, easier to reach or shorter to wire.
    Easier { access: Access, other: Access, cable_m: f64, other_cable_m: f64 },
    /// More or wider carriers.
    MoreCarriers { ratio: f64 },
}

/// What would change the order.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "if", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Sensitivity {
    /// Trees taller by this leave the best where it is.
    TreesTallerSame { by_m: f64, loss_db: f64 },
    /// Trees taller by this put another first.
    TreesTallerOther { by_m: f64, position: String, height_m: f64, mast: String },
}

/// All choices with the best and the runner-up.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ranking {
    /// The best first.
    pub choices: Vec<Choice>,
    /// Place in `choices`: the best at another position or mast.
    pub runner_up: Option<usize>,
    pub reason: Option<Reason>,
    pub sensitivity: Vec<Sensitivity>,
}

/// What is ranked.
#[derive(Clone, Copy, Debug)]
pub struct Question<'a> {
    pub positions: &'a [Position],
    /// Where the gateway stands, and positions that say no place.
    pub house: Option<GeoPoint>,
    pub antenna: AimAntenna<'a>,
    pub mode: ConnectionMode,
    /// Carriers that the gateway takes together.
    pub aggregated: usize,
}

/// Heights tried above a position's own outside, m.
const RAISED_M: [f64; 3] = [0.0, 2.0, 4.0];
/// Height of a position that says none, m.
const UNSAID_M: f64 = 3.0;
/// Speeds nearer than this share are alike (common practice, no source).
const ALIKE: f64 = 0.07;
/// How much taller trees are tried, m.
const TALLER_M: f64 = 3.0;

/// Ranks every position, height and mast.
pub fn rank(landscape: &Landscape, asked: &Question) -> Ranking {
    let mut choices = choices(landscape, asked, 0.0);
    order(&mut choices);
    let runner_up = choices.first().and_then(|best| {
        let elsewhere = |one: &Choice| one.position_id != best.position_id;
        let other_mast = |one: &Choice| one.mast_id != best.mast_id;
        choices.iter().position(elsewhere).or_else(|| choices.iter().position(other_mast))
    });
    let reason = runner_up.map(|at| reason(&choices[0], &choices[at]));
    let sensitivity = sensitivity(landscape, asked, choices.first());
    Ranking { choices, runner_up, reason, sensitivity }
}

/// The best in front: speed decides, and among those alike how it is reached, its height and its cable.
fn order(choices: &mut [Choice]) {
    choices.sort_by(|a, b| b.down_mbps.likely.total_cmp(&a.down_mbps.likely));
    let Some(most) = choices.first().map(|one| one.down_mbps.likely) else { return };
    let alike = choices.iter().take_while(|one| one.down_mbps.likely >= most * (1.0 - ALIKE)).count();
    choices[..alike].sort_by(|a, b| {
        let key = |one: &Choice| (one.access, one.raised_m, one.cable_m);
        key(a).partial_cmp(&key(b)).unwrap_or(std::cmp::Ordering::Equal)
    });
}

fn choices(landscape: &Landscape, asked: &Question, taller_trees_m: f64) -> Vec<Choice> {
    let mut found = Vec::new();
    for position in asked.positions.iter().filter(|one| one.archived_at.is_none()) {
        let Some(place) = position.place.or(asked.house) else { continue };
        let own_m = position.height_above_ground_m.unwrap_or(UNSAID_M);
        let can_rise = !position.mount.is_indoors() && position.mount != Mount::Other;
        let raised = if can_rise { &RAISED_M[..] } else { &RAISED_M[..1] };
        for raised_m in raised {
            let stand = Stand { place, height_m: own_m + raised_m, mount: position.mount };
            let arrivals = landscape.arrivals(&stand, taller_trees_m);
            for mast in 0..landscape.masts.len() {
                found.extend(choice(landscape, asked, position, &stand, *raised_m, mast, &arrivals));
            }
        }
    }
    found
}

/// One mast from one stand, aimed at it; `None` where nothing of it can be used or it is another operator's.
pub fn choice(
    landscape: &Landscape,
    asked: &Question,
    position: &Position,
    stand: &Stand,
    raised_m: f64,
    mast_at: usize,
    arrivals: &[Arrival],
) -> Option<Choice> {
    let mast = &landscape.masts[mast_at];
    let network = &landscape.settings.network;
    if !mast.operator.is_empty() && !network.is_empty() && mast.operator != *network {
        return None;
    }
    let route = landscape.route(stand.place, mast_at);
    let aim_deg = route.way().bearing_deg;
    let mut served = serving(arrivals, mast_at);
    served.retain(|at| is_used(&arrivals[*at].carrier, asked.mode));
    let mut carried: Vec<(usize, [(Carrier, CarrierRates); 3])> = served
        .iter()
        .filter_map(|at| Some((*at, cases(landscape, asked, aim_deg, *at, arrivals)?)))
        .collect();
    let down = |case: &(Carrier, CarrierRates)| case.1.down_mbps.map_or(0.0, |range| range.likely);
    carried.sort_by(|a, b| down(&b.1[1]).total_cmp(&down(&a.1[1])));
    carried.truncate(asked.aggregated.max(1));
    let best_at = carried.first()?.0;
    let sum = |case: usize| -> Possible {
        let carriers: Vec<Carrier> = carried.iter().map(|(_, three)| three[case].0.clone()).collect();
        together(&carriers, carried.iter().map(|(_, three)| three[case].1).collect(), asked.mode)
    };
    let (low, likely, high) = (sum(0), sum(1), sum(2));
    // The wider of two doubts, that of the path and that of what a carrier carries; they are not added up.
    let range = |of: fn(&Possible) -> Option<Ranged>| {
        let [low, likely, high] = [&low, &likely, &high].map(|sum| of(sum).unwrap_or(Ranged::exactly(0.0)));
        Ranged { low: low.likely.min(likely.low), likely: likely.likely, high: high.likely.max(likely.high) }
    };
    let elevation_deg = route.ground_ends_m().map(|(near_m, far_m)| {
        let k = landscape.settings.survey.earth_factor.unwrap_or(ORDINARY_K);
        let far_m = far_m + landscape.mast_height_m(mast);
        elevation_angle_deg(near_m + stand.height_m, far_m, route.way().distance_m, k)
    });
    let mut bands: Vec<BandSignal> =
        carried.iter().map(|(at, three)| band_signal(&arrivals[*at], three)).collect();
    bands.sort_by(|a, b| b.bandwidth_mhz.unwrap_or(0.0).total_cmp(&a.bandwidth_mhz.unwrap_or(0.0)));
    let margin_db = bands.iter().map(|band| band.margin_db.likely).fold(0.0, f64::max);
    let to_gateway_m = asked.house.map_or(0.0, |house| way(house, stand.place).distance_m);
    Some(Choice {
        position_id: position.id,
        position: position.name.clone(),
        mount: position.mount,
        mast_id: mast.id,
        mast: mast.name.clone(),
        height_m: stand.height_m,
        raised_m,
        distance_m: route.way().distance_m,
        bearing_deg: aim_deg,
        elevation_deg,
        source: arrivals[best_at].loss.source,
        clearance: arrivals[best_at].loss.clearance,
        bands,
        down_mbps: range(|sum| sum.down_mbps),
        up_mbps: range(|sum| sum.up_mbps),
        margin_db,
        cable_m: cable_m(to_gateway_m, stand.height_m),
        access: Access::of(stand.mount, stand.height_m),
    })
}

/// Cable from antenna to a gateway a metre above the ground: down, across, and a tenth and a metre to spare, whole
/// metres (common practice, no source).
pub fn cable_m(across_m: f64, height_m: f64) -> f64 {
    (1.1 * (across_m + (height_m - 1.0).abs()) + 1.0).ceil()
}

fn is_used(carrier: &Carrier, mode: ConnectionMode) -> bool {
    use crate::model::Technology;
    match mode {
        ConnectionMode::Lte => carrier.technology == Technology::Lte,
        ConnectionMode::Sa => carrier.technology == Technology::Nr,
        _ => true,
    }
}

/// Of a mast's cells on one channel the strongest serves.
fn serving(arrivals: &[Arrival], mast: usize) -> Vec<usize> {
    let mut found: Vec<usize> = Vec::new();
    for (at, one) in arrivals.iter().enumerate().filter(|(_, one)| one.mast == mast) {
        let same = |other: &&mut usize| {
            let other = &arrivals[**other].carrier;
            other.technology == one.carrier.technology
                && other.band == one.carrier.band
                && other.channel == one.carrier.channel
        };
        match found.iter_mut().find(same) {
            Some(there) => {
                if arrivals[*there].power_dbm.likely < one.power_dbm.likely {
                    *there = at;
                }
            }
            None => found.push(at),
        }
    }
    found
}

/// The carrier with its rates in an unlucky, a likely and a lucky case.
fn cases(
    landscape: &Landscape,
    asked: &Question,
    aim_deg: f64,
    at: usize,
    arrivals: &[Arrival],
) -> Option<[(Carrier, CarrierRates); 3]> {
    let heard = behind(&asked.antenna, aim_deg, at, arrivals, landscape.settings)?;
    let make = |of: fn(Ranged) -> f64| {
        let mut carrier = arrivals[at].carrier.clone();
        carrier.rsrp_dbm = Some(of(heard.rsrp_dbm));
        carrier.sinr_db = Some(of(heard.sinr_db));
        let rates = carrier_rates(&carrier, &landscape.settings.link);
        (carrier, rates)
    };
    Some([make(|range| range.low), make(|range| range.likely), make(|range| range.high)])
}

fn band_signal(arrival: &Arrival, three: &[(Carrier, CarrierRates); 3]) -> BandSignal {
    let ranged = |of: fn(&Carrier) -> Option<f64>| {
        let at = |case: usize| of(&three[case].0).unwrap_or(0.0);
        Ranged { low: at(0), likely: at(1), high: at(2) }
    };
    let sinr_db = ranged(|carrier| carrier.sinr_db);
    let carrier = &three[1].0;
    BandSignal {
        band: BandName { technology: carrier.technology, band: carrier.band.unwrap_or(0) },
        frequency_mhz: arrival.frequency_mhz,
        bandwidth_mhz: carrier.bandwidth_mhz,
        pci: carrier.pci,
        rsrp_dbm: ranged(|carrier| carrier.rsrp_dbm),
        sinr_db,
        margin_db: sinr_db.map(|db| (db - LEAST_SINR_DB).max(0.0)),
        down_mbps: three[1].1.down_mbps,
        up_mbps: three[1].1.up_mbps,
        loss_db: arrival.loss.total_db,
        free_space_db: arrival.loss.free_space_db,
        ground_db: arrival.loss.ground_db,
        obstacles_db: arrival.loss.obstacles_db,
    }
}

/// Why `best` goes before `other`.
fn reason(best: &Choice, other: &Choice) -> Reason {
    let ratio = best.down_mbps.likely / other.down_mbps.likely.max(0.1);
    if ratio < 1.0 / (1.0 - ALIKE) {
        return Reason::Easier {
            access: best.access,
            other: other.access,
            cable_m: best.cable_m,
            other_cable_m: other.cable_m,
        };
    }
    let free = best.clearance.is_none_or(|one| one.in_sight);
    if let Some(blocked) = other.clearance.filter(|one| free && !one.in_sight) {
        return Reason::OtherBlocked { blocker: blocked.blocker, at_m: blocked.distance_m, ratio };
    }
    let shared = best.bands.iter().find_map(|band| {
        let same = other.bands.iter().find(|theirs| theirs.band == band.band)?;
        Some((band, same))
    });
    match shared {
        Some((own, theirs)) => {
            let signal_db = own.rsrp_dbm.likely - theirs.rsrp_dbm.likely;
            let clean_db = own.sinr_db.likely - theirs.sinr_db.likely;
            if clean_db > signal_db + 1.0 {
                Reason::Cleaner { by_db: clean_db, ratio }
            } else if signal_db > 1.0 {
                Reason::Stronger { by_db: signal_db, ratio }
            } else {
                Reason::MoreCarriers { ratio }
            }
        }
        None => Reason::MoreCarriers { ratio },
    }
}

fn sensitivity(landscape: &Landscape, asked: &Question, best: Option<&Choice>) -> Vec<Sensitivity> {
    let trees = landscape.obstacles.iter().any(|one| one.kind.is_trees() && one.archived_at.is_none());
    let Some(best) = best.filter(|_| trees) else { return Vec::new() };
    let mut taller = choices(landscape, asked, TALLER_M);
    order(&mut taller);
    let Some(first) = taller.first() else { return Vec::new() };
    if first.position_id == best.position_id && first.mast_id == best.mast_id {
        let signal = |one: &Choice| one.bands.first().map_or(0.0, |band| band.rsrp_dbm.likely);
        let same = taller.iter().find(|one| {
            one.position_id == best.position_id
                && one.mast_id == best.mast_id
                && one.raised_m == best.raised_m
        });
        let loss_db = same.map_or(0.0, |one| signal(best) - signal(one));
        vec![Sensitivity::TreesTallerSame { by_m: TALLER_M, loss_db }]
    } else {
        vec![Sensitivity::TreesTallerOther {
            by_m: TALLER_M,
            position: first.position.clone(),
            height_m: first.height_m,
            mast: first.mast.clone(),
        }]
    }
}
