//! Positions, heights and masts in order of what they would bring.

use crate::capacity::Estimate;
use crate::capacity::shannon::LEAST_SINR_DB;
use crate::geo::geodesic::{STANDARD_K_FACTOR, elevation_angle_deg, way};
use crate::link::antenna::AimAntenna;
use crate::link::environment::Environment;
use crate::link::fresnel::Clearance;
use crate::link::landscape::{AntennaLocation, WhatIf};
use crate::link::predict::{ALIKE, CarrierPrediction, LinkPrediction, LinkSetup, predict, predictions};
use crate::link::route::PathSource;
use crate::model::{BandName, MastId, Mount, Position, PositionId};
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
    /// By a ladder.
    Ladder,
    /// By going onto the roof.
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
    /// Operating band.
    pub band: BandName,
    /// Frequency, MHz.
    pub frequency_mhz: f64,
    /// Channel bandwidth, MHz.
    pub bandwidth_mhz: Option<f64>,
    /// Physical cell identity.
    pub pci: Option<u16>,
    /// Reference signal received power, dBm.
    pub rsrp_dbm: Estimate,
    /// Signal to interference and noise ratio, dB.
    pub sinr_db: Estimate,
    /// Signal may fall this far before the band carries nothing, dB.
    pub margin_db: Estimate,
    /// Download, Mbit/s.
    pub down_mbps: Option<Estimate>,
    /// Upload, Mbit/s.
    pub up_mbps: Option<Estimate>,
    /// Path loss, dB, with what it consists of.
    pub loss_db: Estimate,
    /// Loss in free space, dB.
    pub free_space_db: f64,
    /// Loss by the ground, dB.
    pub ground_db: f64,
    /// Loss by buildings and trees, dB.
    pub obstacles_db: f64,
    /// What ground and clutter near the antenna take beyond that, dB.
    pub near_ground_db: f64,
    /// What measurements at this house add to that computed power, dB.
    pub measured_db: f64,
    /// What walls or roof take of an antenna inside, dB.
    pub wall_db: f64,
    /// The antenna behind its feed line, dBi, and what pattern and polarisation take of it, dB.
    pub net_gain_dbi: f64,
    /// Loss by pointing elsewhere, dB.
    pub pattern_db: f64,
    /// Loss by polarisation, dB.
    pub polarisation_db: f64,
}

/// A mast from a position at a height.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Choice {
    /// The position.
    pub position_id: PositionId,
    /// The position.
    pub position: String,
    /// What it stands on.
    pub mount: Mount,
    /// The mast.
    pub mast_id: MastId,
    /// The mast.
    pub mast: String,
    /// Antenna above ground, m.
    pub height_m: f64,
    /// Above the height that the position has, m.
    pub raised_m: f64,
    /// Distance, m.
    pub distance_m: f64,
    /// Degrees from true north.
    pub bearing_deg: f64,
    /// Degrees above the horizon; none without terrain.
    pub elevation_deg: Option<f64>,
    /// Where it comes from.
    pub source: PathSource,
    /// On the band that moves the most bits.
    pub clearance: Option<Clearance>,
    /// The widest first.
    pub bands: Vec<BandSignal>,
    /// Expected, Mbit/s.
    pub down_mbps: Estimate,
    /// Upload, Mbit/s.
    pub up_mbps: Estimate,
    /// The cells ours alone, Mbit/s.
    pub possible_down_mbps: Estimate,
    /// Possible upload on an empty cell, Mbit/s.
    pub possible_up_mbps: Estimate,
    /// Of the best band, dB.
    pub margin_db: f64,
    /// From antenna to gateway, m.
    pub cable_m: f64,
    /// Which core and radio access it is held to.
    pub access: Access,
}

/// What is ranked.
#[derive(Clone, Copy, Debug)]
pub struct Question<'a> {
    /// Positions.
    pub positions: &'a [Position],
    /// The antenna.
    pub antenna: AimAntenna<'a>,
}

/// Heights tried above a position's own outside, m.
const RAISED_M: [f64; 3] = [0.0, 2.0, 4.0];
/// Height of a position that says none, m.
const UNSAID_M: f64 = 3.0;
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

/// Where an antenna at a position is, `raised_m` above the height that the position has; `None` without coordinates.
pub fn location_at(env: &Environment, position: &Position, raised_m: f64) -> Option<AntennaLocation> {
    let own_m = position.height_above_ground_m.unwrap_or(UNSAID_M);
    Some(AntennaLocation {
        place: Some(position.place.or(env.house)?),
        height_m: own_m + raised_m,
        mount: position.mount,
        position: Some(position.id),
    })
}

/// Where an outdoor antenna goes that says no position: the position outside that brings the most, else outside at the house.
pub fn best_outside(env: &Environment, asked: &Question) -> AntennaLocation {
    let height_m = env.settings.kit.height_m;
    let outside = asked.positions.iter().filter(|one| one.archived_at.is_none() && !one.mount.is_indoors());
    let likely = |location: &AntennaLocation| {
        let found = predict(env, &LinkSetup::new(*location, asked.antenna));
        found.and_then(|one| one.down_mbps).map_or(0.0, |range| range.likely)
    };
    let located = |one: &Position| AntennaLocation {
        place: one.place.or(env.house),
        height_m: one.height_above_ground_m.unwrap_or(height_m),
        mount: one.mount,
        position: Some(one.id),
    };
    let all: Vec<(f64, AntennaLocation)> =
        outside.map(located).map(|location| (likely(&location), location)).collect();
    let best = all.into_iter().max_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, location)| location);
    let placed = asked.positions.iter().filter(|one| one.archived_at.is_none()).find_map(|one| one.place);
    let at_house =
        AntennaLocation { place: env.house.or(placed), height_m, mount: Mount::Wall, position: None };
    best.unwrap_or(at_house)
}

/// Every position, height and mast, the best in front.
pub(super) fn choices(env: &Environment, asked: &Question, what_if: WhatIf) -> Vec<Choice> {
    let mut found = Vec::new();
    for position in asked.positions.iter().filter(|one| one.archived_at.is_none()) {
        let can_rise = !position.mount.is_indoors() && position.mount != Mount::Other;
        let raised = if can_rise { &RAISED_M[..] } else { &RAISED_M[..1] };
        for raised_m in raised {
            let Some(location) = location_at(env, position, *raised_m) else { continue };
            found.extend(choices_at(env, asked, position, location, *raised_m, what_if));
        }
    }
    order(&mut found);
    found
}

/// Every mast from one place, the antenna aimed at it.
pub fn choices_at(
    env: &Environment,
    asked: &Question,
    position: &Position,
    location: AntennaLocation,
    raised_m: f64,
    what_if: WhatIf,
) -> Vec<Choice> {
    let setup = LinkSetup::new(location, asked.antenna);
    predictions(env, &setup, what_if)
        .iter()
        .filter_map(|found| choice(env, position, &location, raised_m, found))
        .collect()
}

/// A prediction as a choice; `None` where its mast's place is not known.
fn choice(
    env: &Environment,
    position: &Position,
    location: &AntennaLocation,
    raised_m: f64,
    found: &LinkPrediction,
) -> Option<Choice> {
    let mast_at = found.mast?;
    let (mast, place, aim) = (&env.landscape.masts[mast_at], location.place?, found.aim?);
    let down = |one: &CarrierPrediction| one.cases[1].1.down_mbps.map_or(0.0, |range| range.likely);
    let mut carried: Vec<&CarrierPrediction> = found.carriers.iter().collect();
    carried.sort_by(|a, b| down(b).total_cmp(&down(a)));
    carried.truncate(found.aggregated());
    let loss = carried.iter().find_map(|one| one.arriving.loss.clone())?;
    let route = env.landscape.route(place, mast_at);
    let elevation_deg = route.ground_ends_m().map(|(near_m, far_m)| {
        let k = env.settings.survey.earth_factor.unwrap_or(STANDARD_K_FACTOR);
        let far_m = far_m + env.landscape.mast_height_m(mast);
        elevation_angle_deg(near_m + location.height_m, far_m, route.way().distance_m, k)
    });
    let mut bands: Vec<BandSignal> = carried.iter().map(|one| band_signal(env, one)).collect();
    bands.sort_by(|a, b| b.bandwidth_mhz.unwrap_or(0.0).total_cmp(&a.bandwidth_mhz.unwrap_or(0.0)));
    let margin_db = bands.iter().map(|band| band.margin_db.likely).fold(0.0, f64::max);
    let to_gateway_m = env.house.map_or(0.0, |house| way(house, place).distance_m);
    let nothing = Estimate::exactly(0.0);
    Some(Choice {
        position_id: position.id,
        position: position.name.clone(),
        mount: position.mount,
        mast_id: mast.id,
        mast: mast.name.clone(),
        height_m: location.height_m,
        raised_m,
        distance_m: route.way().distance_m,
        bearing_deg: aim.azimuth_deg,
        elevation_deg,
        source: loss.source,
        clearance: loss.clearance,
        bands,
        down_mbps: found.down_mbps.unwrap_or(nothing),
        up_mbps: found.up_mbps.unwrap_or(nothing),
        possible_down_mbps: found.possible_down_mbps.unwrap_or(nothing),
        possible_up_mbps: found.possible_up_mbps.unwrap_or(nothing),
        margin_db,
        cable_m: cable_m(to_gateway_m, location.height_m),
        access: Access::of(location.mount, location.height_m),
    })
}

/// Cable from antenna to a gateway a metre above the ground: down, across, and a tenth and a metre to spare, whole
/// metres (common practice, no source).
pub fn cable_m(across_m: f64, height_m: f64) -> f64 {
    (1.1 * (across_m + (height_m - 1.0).abs()) + 1.0).ceil()
}

fn band_signal(env: &Environment, one: &CarrierPrediction) -> BandSignal {
    let (cell, sinr_db) = (&env.cells[one.cell], one.sinr_db());
    let rates = &one.cases[1].1;
    let loss = one.arriving.loss.as_ref();
    BandSignal {
        band: cell.band,
        frequency_mhz: cell.frequency_mhz,
        bandwidth_mhz: cell.carrier.bandwidth_mhz,
        pci: cell.carrier.pci,
        rsrp_dbm: one.rsrp_dbm(),
        sinr_db,
        margin_db: sinr_db.map(|db| (db - LEAST_SINR_DB).max(0.0)),
        down_mbps: rates.down_mbps,
        up_mbps: rates.up_mbps,
        loss_db: loss.map_or(Estimate::exactly(0.0), |loss| loss.total_db),
        free_space_db: loss.map_or(0.0, |loss| loss.free_space_db),
        ground_db: loss.map_or(0.0, |loss| loss.ground_db),
        obstacles_db: loss.map_or(0.0, |loss| loss.obstacles_db),
        near_ground_db: loss.map_or(0.0, |loss| loss.near_ground_db),
        measured_db: one.arriving.power_dbm.mean - one.arriving.computed_dbm,
        wall_db: one.arriving.wall_db.mean,
        net_gain_dbi: one.received.net_gain_dbi,
        pattern_db: one.received.pattern_db,
        polarisation_db: one.received.polarisation_db,
    }
}
