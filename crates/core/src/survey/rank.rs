//! Positions, heights and masts in order of what they would bring.

use crate::capacity::Estimate;
use crate::geo::geodesic::{STANDARD_K_FACTOR, elevation_angle_deg, way};
use crate::kit::need::{ALIKE_WORTH, Need, need};
use crate::link::antenna::AimAntenna;
use crate::link::by_hour::DayRates;
use crate::link::doubts::RangeCause;
use crate::link::draws::{USUAL_DRAWS, chances_of_best, draws};
use crate::link::environment::Environment;
use crate::link::fresnel::Clearance;
use crate::link::landscape::{AntennaLocation, WhatIf};
use crate::link::margin::Margin;
use crate::link::predict::{CarrierPrediction, LinkPrediction, LinkSetup, predict, predictions};
use crate::link::route::PathSource;
use crate::link::why::Why;
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
    /// Whether it is in what is expected together: of carriers that were never given beside one another some are.
    pub counts: bool,
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
    /// How much more trees in the way take in leaf than bare, dB.
    #[serde(default)]
    pub leaves_db: f64,
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
    /// What makes the range of the download as wide as it is, the most first.
    #[serde(default)]
    pub doubts: Vec<RangeCause>,
    /// Upload, Mbit/s.
    pub up_mbps: Estimate,
    /// The cells ours alone, Mbit/s.
    pub possible_down_mbps: Estimate,
    /// Possible upload on an empty cell, Mbit/s.
    pub possible_up_mbps: Estimate,
    /// How far the signal may fall before the household's need is missed; `None` where it is missed, or not asked for.
    #[serde(default)]
    pub margin: Option<Margin>,
    /// What to expect at the slowest and at the fastest hour of a day, where it is asked for.
    #[serde(default)]
    pub day: Option<DayRates>,
    /// Where the figures come from, where it is asked for.
    #[serde(default)]
    pub why: Option<Why>,
    /// From antenna to gateway, m.
    pub cable_m: f64,
    /// How it is reached.
    pub access: Access,
    /// How likely it is that no other place or mast serves the household clearly better, 0 to 1, each place with each mast at the height that
    /// goes first; of the ten in front, where they are more than one place.
    pub chance_of_best: Option<f64>,
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
/// A choice with what it was made of.
struct Weighed<'a> {
    choice: Choice,
    setup: LinkSetup<'a>,
    found: LinkPrediction<'a>,
    /// What it is expected to be worth to the household.
    worth: f64,
}

impl Weighed<'_> {
    /// The choice with its margin, its day and its reasons.
    fn explained(self, env: &Environment, need: &Need) -> Choice {
        Choice {
            margin: self.found.margin(env, need.down_mbps, need.up_mbps),
            day: self.found.over_a_day(env),
            why: self.found.why(env),
            ..self.choice
        }
    }
}

/// How many in front are drawn together.
const DRAWN_TOGETHER: usize = 10;
/// The same question draws the same answer.
const SEED: u64 = 1;

/// The best in front: what a choice is expected to be worth to the household decides; among those alike how it is reached, its height and
/// its cable.
fn order(all: &mut [Weighed]) {
    all.sort_by(|a, b| b.worth.total_cmp(&a.worth));
    let Some(most) = all.first().map(|one| one.worth) else { return };
    let alike = all.iter().take_while(|one| one.worth >= most - ALIKE_WORTH).count();
    all[..alike].sort_by(|a, b| {
        let key = |one: &Choice| (one.access, one.raised_m, one.cable_m);
        key(&a.choice).partial_cmp(&key(&b.choice)).unwrap_or(std::cmp::Ordering::Equal)
    });
}

/// Draws the ones in front together, so that what they have in common counts for all: their worth, and how likely each place and mast is
/// the best.
fn redo(env: &Environment, need: &Need, front: &mut [Weighed]) {
    let drawn = {
        let asked: Vec<_> = front.iter().map(|one| (&one.setup, &one.found)).collect();
        draws(env, &asked, WhatIf::default(), USUAL_DRAWS, SEED)
    };
    let worths: Vec<Vec<f64>> = drawn.iter().map(|one| need.worths(one)).collect();
    for (one, worths) in front.iter_mut().zip(&worths) {
        one.worth = worths.iter().sum::<f64>() / worths.len().max(1) as f64;
    }
    let by_place: Vec<usize> = {
        let same = |a: &Choice, b: &Choice| (a.position_id, a.mast_id) == (b.position_id, b.mast_id);
        let first = |at: &usize| !front[..*at].iter().any(|before| same(&before.choice, &front[*at].choice));
        (0..front.len()).filter(first).collect()
    };
    if by_place.len() > 1 {
        let worths: Vec<_> = by_place.iter().map(|at| worths[*at].clone()).collect();
        let chances = chances_of_best(&worths, ALIKE_WORTH);
        for (at, chance) in by_place.into_iter().zip(chances) {
            front[at].choice.chance_of_best = Some(chance);
        }
    }
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

/// Where an outdoor antenna goes that says no position: the position outside that is worth the most, else outside at the house.
pub fn best_outside(env: &Environment, asked: &Question) -> AntennaLocation {
    let height_m = env.settings.kit.height_m;
    let outside = asked.positions.iter().filter(|one| one.archived_at.is_none() && !one.mount.is_indoors());
    let need = need(&env.settings.kit.uses);
    let worth = |location: &AntennaLocation| {
        let found = predict(env, &LinkSetup::new(*location, asked.antenna));
        found.map_or(0.0, |one| need.expected_worth(one.down_mbps, one.up_mbps))
    };
    let located = |one: &Position| AntennaLocation {
        place: one.place.or(env.house),
        height_m: one.height_above_ground_m.unwrap_or(height_m),
        mount: one.mount,
        position: Some(one.id),
    };
    let all: Vec<(f64, AntennaLocation)> =
        outside.map(located).map(|location| (worth(&location), location)).collect();
    let best = all.into_iter().max_by(|a, b| a.0.total_cmp(&b.0)).map(|(_, location)| location);
    let placed = asked.positions.iter().filter(|one| one.archived_at.is_none()).find_map(|one| one.place);
    let at_house =
        AntennaLocation { place: env.house.or(placed), height_m, mount: Mount::Wall, position: None };
    best.unwrap_or(at_house)
}

/// Positions in use with the heights that are tried at each: the antenna's place, and how far above the position's own height.
pub fn locations<'p>(
    env: &Environment,
    positions: &'p [Position],
) -> Vec<(&'p Position, AntennaLocation, f64)> {
    let mut found = Vec::new();
    for position in positions.iter().filter(|one| one.archived_at.is_none()) {
        let can_rise = !position.mount.is_indoors() && position.mount != Mount::Other;
        let raised = if can_rise { &RAISED_M[..] } else { &RAISED_M[..1] };
        let at = |raised_m: &f64| Some((position, location_at(env, position, *raised_m)?, *raised_m));
        found.extend(raised.iter().filter_map(at));
    }
    found
}

/// Every position, height and mast, the best in front. `drawn`: the ones in front are drawn together.
pub(super) fn choices(env: &Environment, asked: &Question, what_if: WhatIf, drawn: bool) -> Vec<Choice> {
    let need = need(&env.settings.kit.uses);
    let weighed = |(position, location, raised_m): (&Position, AntennaLocation, f64)| {
        weighed_at(env, asked, &need, position, location, raised_m, what_if)
    };
    let mut all: Vec<Weighed> = locations(env, asked.positions).into_iter().flat_map(weighed).collect();
    order(&mut all);
    if drawn {
        let front = all.len().min(DRAWN_TOGETHER);
        redo(env, &need, &mut all[..front]);
        order(&mut all[..front]);
    }
    all.into_iter().map(|one| one.choice).collect()
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
    let need = need(&env.settings.kit.uses);
    let all = weighed_at(env, asked, &need, position, location, raised_m, what_if);
    all.into_iter().map(|one| one.explained(env, &need)).collect()
}

fn weighed_at<'a>(
    env: &'a Environment,
    asked: &Question<'a>,
    need: &Need,
    position: &Position,
    location: AntennaLocation,
    raised_m: f64,
    what_if: WhatIf,
) -> Vec<Weighed<'a>> {
    let setup = LinkSetup::new(location, asked.antenna);
    predictions(env, &setup, what_if)
        .into_iter()
        .filter_map(|found| {
            let choice = choice(env, position, &location, raised_m, &found)?;
            let worth = need.expected_worth(found.down_mbps, found.up_mbps);
            Some(Weighed { choice, setup: setup.clone(), found, worth })
        })
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
    let mut carried: Vec<&CarrierPrediction> = found.carriers.iter().collect();
    carried.sort_by(|a, b| {
        a.counts.cmp(&b.counts).reverse().then(b.likely_down_mbps().total_cmp(&a.likely_down_mbps()))
    });
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
        doubts: found.doubts(env),
        up_mbps: found.up_mbps.unwrap_or(nothing),
        possible_down_mbps: found.possible_down_mbps.unwrap_or(nothing),
        possible_up_mbps: found.possible_up_mbps.unwrap_or(nothing),
        margin: None,
        day: None,
        why: None,
        cable_m: cable_m(to_gateway_m, location.height_m),
        access: Access::of(location.mount, location.height_m),
        chance_of_best: None,
    })
}

/// Cable from antenna to a gateway a metre above the ground: down, across, and a tenth and a metre to spare, whole
/// metres (common practice, no source).
pub fn cable_m(across_m: f64, height_m: f64) -> f64 {
    (1.1 * (across_m + (height_m - 1.0).abs()) + 1.0).ceil()
}

fn band_signal(env: &Environment, one: &CarrierPrediction) -> BandSignal {
    let (cell, sinr_db) = (&env.cells[one.cell], one.sinr_db());
    let rates = &one.likely.1;
    let loss = one.arriving.loss.as_ref();
    BandSignal {
        band: cell.band,
        frequency_mhz: cell.frequency_mhz,
        bandwidth_mhz: cell.carrier.bandwidth_mhz,
        pci: cell.carrier.pci,
        rsrp_dbm: one.rsrp_dbm(),
        sinr_db,
        counts: one.counts,
        down_mbps: rates.down_mbps,
        up_mbps: rates.up_mbps,
        loss_db: loss.map_or(Estimate::exactly(0.0), |loss| loss.total_db),
        free_space_db: loss.map_or(0.0, |loss| loss.free_space_db),
        ground_db: loss.map_or(0.0, |loss| loss.ground_db),
        obstacles_db: loss.map_or(0.0, |loss| loss.obstacles_db),
        leaves_db: loss.map_or(0.0, |loss| loss.leaves_db),
        near_ground_db: loss.map_or(0.0, |loss| loss.near_ground_db),
        measured_db: one.arriving.power_dbm.mean - one.arriving.computed_dbm,
        wall_db: one.arriving.wall_db.mean,
        net_gain_dbi: one.received.net_gain_dbi,
        pattern_db: one.received.pattern_db,
        polarisation_db: one.received.polarisation_db,
    }
}
