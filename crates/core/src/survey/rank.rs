//! Positions, heights and masts in order of what they would bring.

use super::antenna::{Aim, AimAntenna};
use super::clear::Clearance;
use super::hear::{Arrival, Behind, Landscape, Stand, WhatIf, behind};
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
    /// What walls or roof take of an antenna inside, dB.
    pub wall_db: f64,
    /// The antenna behind its feed line, dBi, and what pattern and polarisation take of it, dB.
    pub net_gain_dbi: f64,
    pub pattern_db: f64,
    pub polarisation_db: f64,
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
pub(super) const ALIKE: f64 = 0.07;

/// The best in front: likely speed decides; among those alike the one whose range does not reach as low; among those alike
/// in that too how it is reached, its height and its cable.
fn order(choices: &mut [Choice]) {
    choices.sort_by(|a, b| b.down_mbps.likely.total_cmp(&a.down_mbps.likely));
    let alike = |most: f64, value: f64| value >= most * (1.0 - ALIKE);
    let Some(most) = choices.first().map(|one| one.down_mbps.likely) else { return };
    let likely = choices.iter().take_while(|one| alike(most, one.down_mbps.likely)).count();
    let choices = &mut choices[..likely];
    choices.sort_by(|a, b| b.down_mbps.low.total_cmp(&a.down_mbps.low));
    let surest = choices[0].down_mbps.low;
    let sure = choices.iter().take_while(|one| alike(surest, one.down_mbps.low)).count();
    choices[..sure].sort_by(|a, b| {
        let key = |one: &Choice| (one.access, one.raised_m, one.cable_m);
        key(a).partial_cmp(&key(b)).unwrap_or(std::cmp::Ordering::Equal)
    });
}

/// Every position, height and mast, the best in front.
pub(super) fn choices(landscape: &Landscape, asked: &Question, what_if: WhatIf) -> Vec<Choice> {
    let mut found = Vec::new();
    for position in asked.positions.iter().filter(|one| one.archived_at.is_none()) {
        let Some(place) = position.place.or(asked.house) else { continue };
        let own_m = position.height_above_ground_m.unwrap_or(UNSAID_M);
        let can_rise = !position.mount.is_indoors() && position.mount != Mount::Other;
        let raised = if can_rise { &RAISED_M[..] } else { &RAISED_M[..1] };
        for raised_m in raised {
            let stand = Stand { place, height_m: own_m + raised_m, mount: position.mount };
            let arrivals = landscape.arrivals(&stand, what_if);
            for mast in 0..landscape.masts.len() {
                found.extend(choice(landscape, asked, position, &stand, *raised_m, mast, &arrivals));
            }
        }
    }
    order(&mut found);
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
    let aim = asked.antenna.aimed_at(arrivals.iter().find(|one| one.mast == mast_at)?.from());
    let mut served = serving(arrivals, mast_at);
    served.retain(|at| is_used(&arrivals[*at].carrier, asked.mode));
    let mut carried: Vec<(usize, Carried)> =
        served.iter().filter_map(|at| Some((*at, cases(landscape, asked, aim, *at, arrivals)?))).collect();
    let down = |case: &(Carrier, CarrierRates)| case.1.down_mbps.map_or(0.0, |range| range.likely);
    carried.sort_by(|a, b| down(&b.1.cases[1]).total_cmp(&down(&a.1.cases[1])));
    carried.truncate(asked.aggregated.max(1));
    let best_at = carried.first()?.0;
    let sum = |case: usize| -> Possible {
        let carriers: Vec<Carrier> = carried.iter().map(|(_, three)| three.cases[case].0.clone()).collect();
        together(&carriers, carried.iter().map(|(_, three)| three.cases[case].1).collect(), asked.mode)
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
        bearing_deg: aim.azimuth_deg,
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

/// A carrier as it is heard, with its rates in an unlucky, a likely and a lucky case.
struct Carried {
    cases: [(Carrier, CarrierRates); 3],
    heard: Behind,
}

/// The carrier with its rates in an unlucky, a likely and a lucky case.
fn cases(
    landscape: &Landscape,
    asked: &Question,
    aim: Aim,
    at: usize,
    arrivals: &[Arrival],
) -> Option<Carried> {
    let heard = behind(&asked.antenna, aim, at, arrivals, landscape.settings)?;
    let make = |of: fn(Ranged) -> f64| {
        let mut carrier = arrivals[at].carrier.clone();
        carrier.rsrp_dbm = Some(of(heard.rsrp_dbm));
        carrier.sinr_db = Some(of(heard.sinr_db));
        let rates = carrier_rates(&carrier, &landscape.settings.link);
        (carrier, rates)
    };
    let cases = [make(|range| range.low), make(|range| range.likely), make(|range| range.high)];
    Some(Carried { cases, heard })
}

fn band_signal(arrival: &Arrival, Carried { cases, heard }: &Carried) -> BandSignal {
    let ranged = |of: fn(&Carrier) -> Option<f64>| {
        let at = |case: usize| of(&cases[case].0).unwrap_or(0.0);
        Ranged { low: at(0), likely: at(1), high: at(2) }
    };
    let sinr_db = ranged(|carrier| carrier.sinr_db);
    let carrier = &cases[1].0;
    BandSignal {
        band: BandName { technology: carrier.technology, band: carrier.band.unwrap_or(0) },
        frequency_mhz: arrival.frequency_mhz,
        bandwidth_mhz: carrier.bandwidth_mhz,
        pci: carrier.pci,
        rsrp_dbm: ranged(|carrier| carrier.rsrp_dbm),
        sinr_db,
        margin_db: sinr_db.map(|db| (db - LEAST_SINR_DB).max(0.0)),
        down_mbps: cases[1].1.down_mbps,
        up_mbps: cases[1].1.up_mbps,
        loss_db: arrival.loss.total_db,
        free_space_db: arrival.loss.free_space_db,
        ground_db: arrival.loss.ground_db,
        obstacles_db: arrival.loss.obstacles_db,
        wall_db: arrival.wall_db,
        net_gain_dbi: heard.net_gain_dbi,
        pattern_db: heard.pattern_db,
        polarisation_db: heard.polarisation_db,
    }
}
