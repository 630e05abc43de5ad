//! How near what stands now is to the best that is foretold for the house, and what the step there costs.

use crate::capacity::Estimate;
use crate::hardware::catalogue::Catalogue;
use crate::hardware::resolve::Resolved;
use crate::kit::assess::{Place, location_of};
use crate::kit::effort::effort;
use crate::kit::need::{ALIKE_WORTH, Need, need};
use crate::kit::scenario::Scenario;
use crate::kit::suggest::{Candidate, suggest};
use crate::link::antenna::AimAntenna;
use crate::link::draws::{SetupDraws, USUAL_DRAWS, draws, range};
use crate::link::environment::Environment;
use crate::link::landscape::{AntennaLocation, WhatIf};
use crate::link::predict::{ALIKE, LinkPrediction, LinkSetup, predict};
use crate::model::SetupId;
use crate::survey::rank::{Access, Question, locations};
use serde::{Deserialize, Serialize};

/// What would bring more than what stands now.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "step", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum BetterStep {
    /// Another setup of the record.
    Setup { setup_id: SetupId },
    /// The kit in use at a position, at a height above ground.
    Move { position: String, height_m: f64, bearing_deg: Option<f64> },
    /// Another kit.
    Buy { gateway: String, antenna: Option<String> },
}

/// What a step costs.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StepCost {
    /// In the site's currency; parts that are there cost nothing.
    pub price: f64,
    /// For one person.
    pub hours: f64,
    /// Times that somebody goes up a ladder or onto the roof.
    pub climbs: u8,
}

/// A step with what it would bring.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StepUp {
    /// What to do.
    pub step: BetterStep,
    /// What it costs.
    pub cost: StepCost,
    /// Expected there, Mbit/s.
    pub down_mbps: Estimate,
    /// How likely it is that its download is clearly faster than what stands now, 0 to 1.
    pub chance_of_more: f64,
}

/// How near the best.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct NearBest {
    /// What stands now, Mbit/s down.
    pub now_mbps: Estimate,
    /// Download of what stands now as a share of the best's, at most 1.
    pub share: Estimate,
    /// How likely it is that what stands now meets the need, 0 to 1.
    pub chance_of_need: f64,
    /// The best; none where nothing is expected to serve clearly better than what stands now.
    pub best: Option<StepUp>,
    /// Setups, places with heights, and kits that were looked at.
    pub looked_at: [usize; 3],
}

/// A setup of the record that could be put up again.
#[derive(Clone, Debug)]
pub struct Elsewhere<'a> {
    /// The setup.
    pub setup_id: SetupId,
    /// As it would stand.
    pub setup: LinkSetup<'a>,
    /// Price of parts that are not there yet.
    pub price: f64,
}

/// What is looked at.
#[derive(Clone, Debug)]
pub struct Reach<'a> {
    /// What stands now.
    pub stands: LinkSetup<'a>,
    /// Setups of the record.
    pub setups: Vec<Elsewhere<'a>>,
    /// The kit in use with the price of it, where it is not there yet, and the positions it could go to; none without a kit.
    pub elsewhere: Option<(Question<'a>, f64)>,
    /// Parts to choose a kit from.
    pub catalogue: &'a Catalogue,
}

/// Hours to put an antenna up elsewhere, and to turn or raise it where it is (common practice, no source).
const HOURS_TO_MOVE: f64 = 1.5;
const HOURS_TO_TURN: f64 = 0.5;
/// Those that promise most are drawn together.
const DRAWN_TOGETHER: usize = 10;
/// The same question draws the same answer.
const SEED: u64 = 1;

/// Something that could stand there, with what is foretold of it.
struct Foretold<'a> {
    step: Option<BetterStep>,
    cost: StepCost,
    setup: LinkSetup<'a>,
    found: LinkPrediction<'a>,
}

/// How near what stands now is to the best of what is foretold; `None` where nothing is known of what it receives.
pub fn near_best(asked: &Reach, scenario: &Scenario) -> Option<NearBest> {
    let env = scenario.env;
    let need = need(&env.settings.kit.uses);
    let suggested = suggest(asked.catalogue, scenario, None);
    let bought = suggested.best.as_ref().map(|one| (one, Resolved::new(&one.kit, asked.catalogue)));
    let mut all = vec![foretold(env, None, StepCost::default(), asked.stands.clone())?];
    let from = asked.stands.location;
    for one in &asked.setups {
        let cost = StepCost { price: one.price, ..moving(&from, &one.setup.location) };
        all.extend(foretold(
            env,
            Some(BetterStep::Setup { setup_id: one.setup_id }),
            cost,
            one.setup.clone(),
        ));
    }
    let places = asked.elsewhere.as_ref().map_or(Vec::new(), |(of, _)| locations(env, of.positions));
    if let Some((of, price)) = &asked.elsewhere {
        for (position, location, _) in &places {
            let cost = StepCost { price: *price, ..moving(&from, location) };
            let one = foretold(env, None, cost, LinkSetup::new(*location, of.antenna));
            all.extend(one.map(|one| {
                let bearing_deg = one.found.aim.map(|aim| aim.azimuth_deg);
                let position = position.name.clone();
                let step = BetterStep::Move { position, height_m: location.height_m, bearing_deg };
                Foretold { step: Some(step), ..one }
            }));
        }
    }
    if let Some((candidate, kit)) = &bought {
        let setup = LinkSetup::new(location_of(kit, scenario, Place::default()), AimAntenna::Kit(kit));
        let climbs = moving(&from, &setup.location).climbs;
        let cost = StepCost { price: candidate.price, hours: effort(kit).hours, climbs };
        all.extend(foretold(env, Some(buy(candidate, asked.catalogue)), cost, setup));
    }
    let looked_at = [asked.setups.len(), places.len(), suggested.weighed];
    let worth = |one: &Foretold| need.expected_worth(one.found.down_mbps, one.found.up_mbps);
    all[1..].sort_by(|a, b| worth(b).total_cmp(&worth(a)));
    all.truncate(DRAWN_TOGETHER);
    Some(NearBest { looked_at, ..drawn_together(&all, scenario, &need)? })
}

fn foretold<'a>(
    env: &'a Environment,
    step: Option<BetterStep>,
    cost: StepCost,
    setup: LinkSetup<'a>,
) -> Option<Foretold<'a>> {
    let found = predict(env, &setup)?;
    Some(Foretold { step, cost, setup, found })
}

fn buy(candidate: &Candidate, catalogue: &Catalogue) -> BetterStep {
    let name = |id| catalogue.part(id).map_or(String::new(), |part| part.name.clone());
    BetterStep::Buy { gateway: name(candidate.gateway), antenna: candidate.antenna.map(name) }
}

/// What it takes to have an antenna there instead of here.
fn moving(from: &AntennaLocation, to: &AntennaLocation) -> StepCost {
    let climbed = |one: &AntennaLocation| {
        u8::from(matches!(Access::of(one.mount, one.height_m), Access::Ladder | Access::Roof))
    };
    let same = from.position.is_some() && from.position == to.position;
    let hours = if same { HOURS_TO_TURN } else { HOURS_TO_MOVE };
    let climbs = if same { climbed(from).max(climbed(to)) } else { climbed(from) + climbed(to) };
    StepCost { price: 0.0, hours, climbs }
}

/// The first is what stands now. The best is worth the most to the household; among those alike what stands now, then the cheapest.
fn drawn_together(all: &[Foretold], scenario: &Scenario, need: &Need) -> Option<NearBest> {
    let pairs: Vec<_> = all.iter().map(|one| (&one.setup, &one.found)).collect();
    let drawn = draws(scenario.env, &pairs, WhatIf::default(), USUAL_DRAWS, SEED);
    let worth = |drawn: &SetupDraws| {
        let worths = need.worths(drawn);
        worths.iter().sum::<f64>() / worths.len().max(1) as f64
    };
    let worths: Vec<f64> = drawn.iter().map(worth).collect();
    let most = worths.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let key = |at: &usize| {
        let StepCost { price, hours, climbs } = all[*at].cost;
        (*at > 0, price, f64::from(climbs), hours)
    };
    let best = (0..all.len())
        .filter(|at| worths[*at] >= most - ALIKE_WORTH)
        .min_by(|a, b| key(a).partial_cmp(&key(b)).unwrap_or(std::cmp::Ordering::Equal))?;
    let (now, there) = (&drawn[0], &drawn[best]);
    let shares: Vec<f64> = now
        .down_mbps
        .iter()
        .zip(&there.down_mbps)
        .map(|(now, there)| (now / there.max(1e-9)).min(1.0))
        .collect();
    let meets = now.down_mbps.iter().zip(&now.up_mbps);
    let met = meets.filter(|(down, up)| **down >= need.down_mbps && **up >= need.up_mbps).count();
    let more =
        now.down_mbps.iter().zip(&there.down_mbps).filter(|(now, there)| **there >= **now * (1.0 + ALIKE));
    let chance = |count: usize| count as f64 / now.down_mbps.len().max(1) as f64;
    let chance_of_more = chance(more.count());
    let down_mbps = range(&there.down_mbps)?;
    Some(NearBest {
        now_mbps: range(&now.down_mbps)?,
        share: range(&shares)?,
        chance_of_need: chance(met),
        best: all[best].step.clone().map(|step| StepUp {
            step,
            cost: all[best].cost,
            down_mbps,
            chance_of_more,
        }),
        looked_at: [0; 3],
    })
}
