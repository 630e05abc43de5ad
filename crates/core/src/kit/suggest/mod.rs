//! Which kit to buy: the cheapest that meets the household's need, and the best under a price, each against the rest.
//!
//! Every gateway is weighed with every antenna, feed line and number of leads, every outdoor unit with every cable and
//! injector, and every gateway on its own antennas. Rates are worked out once for each antenna, line, band and kind of
//! receiver, not once for each kit; a test holds the result against plain enumeration.

mod coax;
pub mod compose;
mod rates;
mod redo;
pub mod weigh;

use super::need::{Need, need};
use super::scenario::{Scenario, Today};
use crate::hardware::catalogue::Catalogue;
use crate::model::{KitSpec, PartId};
use redo::Redo;
use serde::{Deserialize, Serialize};

/// Why a kit was not the one.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "why", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum WhyNot {
    Chosen,
    Dearer {
        by: f64,
    },
    Slower {
        by_mbps: f64,
    },
    MissesDown {
        short_mbps: f64,
    },
    MissesUp {
        short_mbps: f64,
    },
    /// As fast or faster where all goes well, but less sure of it or slower up.
    LessUse,
    /// It meets the need, and offers less than what stands there today.
    LessThanToday,
    OverPrice {
        by: f64,
    },
    NoBand,
    NoWayToConnect,
    NothingHolds,
    CannotStand,
    NoPower,
    NeedsAntenna,
}

/// A kit with what it costs and is likely to bring.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Candidate {
    /// The kit.
    pub kit: KitSpec,
    /// The gateway.
    pub gateway: PartId,
    /// `None` for the gateway's own antennas and for outdoor units.
    pub antenna: Option<PartId>,
    /// Price.
    pub price: f64,
    /// Download, Mbit/s.
    pub down_mbps: f64,
    /// Upload, Mbit/s.
    pub up_mbps: f64,
    /// Whether the household’s need is met.
    pub meets_need: bool,
    /// How likely it is that the need is met, 0 to 1; of the kits that are suggested.
    pub chance_of_need: Option<f64>,
    /// How likely it is that none of the ten that came nearest serves the household clearly better, 0 to 1.
    pub chance_of_best: Option<f64>,
}

/// A gateway with an antenna that was not taken, by its kit that came nearest.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Loser {
    /// The gateway.
    pub gateway: PartId,
    /// The antenna.
    pub antenna: Option<PartId>,
    /// `None` where the parts do not make a kit.
    pub nearest: Option<Candidate>,
    /// Why it is not the cheapest.
    pub why_not_cheapest: WhyNot,
    /// Why it is not the best.
    pub why_not_best: WhyNot,
}

/// What was found.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Suggestion {
    /// What the household needs.
    pub need: Need,
    /// Highest price.
    pub price_limit: Option<f64>,
    /// Expected of what stands there today, Mbit/s: nothing that offers less is suggested as cheapest.
    pub today_down_mbps: Option<f64>,
    /// Upload today, Mbit/s.
    pub today_up_mbps: Option<f64>,
    /// The cheapest that meets the need and offers no less than today.
    pub cheapest: Option<Candidate>,
    /// Worth the most to the household under the price limit; among those alike the cheapest.
    pub best: Option<Candidate>,
    /// The nearest ones first.
    pub losers: Vec<Loser>,
    /// Kits weighed.
    pub weighed: usize,
}

/// How many losers are told at the most.
const MOST_LOSERS: usize = 60;

/// Suggests from a catalogue.
pub fn suggest(catalogue: &Catalogue, scenario: &Scenario, price_limit: Option<f64>) -> Suggestion {
    let need = need(&scenario.settings().kit.uses);
    let floor = floor(&need, scenario);
    let owned = scenario.settings().kit.own_gateway.map(|gateway| catalogue.with_owned(gateway));
    let catalogue = owned.as_ref().unwrap_or(catalogue);
    let composer = compose::Composer::new(catalogue, scenario);
    let (pairs, weighed) = weigh_all(&composer, &floor, price_limit);
    let redo = Redo { composer: &composer, need: &need };
    let cheapest = redo.first_that_meets(&nearly_enough(&pairs, &floor), &floor);
    let best = redo.best(&fastest(&pairs, price_limit));
    let is = |one: &Option<weigh::Weight>, winner: Option<&weigh::Weight>| {
        one.as_ref().zip(winner).is_some_and(|(one, winner)| one.is_kit(winner))
    };
    let (cheapest_at, best_at) = (cheapest.as_ref(), best.as_ref().map(|(at, _)| at));
    let lost = |pair: &&weigh::Pair| !is(&pair.cheapest, cheapest_at) && !is(&pair.best, best_at);
    let mut losing: Vec<weigh::Pair> = pairs.iter().filter(lost).copied().collect();
    losing.sort_by(|a, b| nearness(a, &floor).total_cmp(&nearness(b, &floor)));
    losing.truncate(MOST_LOSERS);
    let losers = losing
        .into_iter()
        .map(|pair| {
            let exact = |one: weigh::Weight| redo.exact(&one);
            let pair = weigh::Pair { cheapest: pair.cheapest.map(exact), best: pair.best.map(exact), ..pair };
            Loser {
                gateway: composer.gateways[pair.gateway].id,
                antenna: pair.antenna.map(|at| composer.antennas[at].id),
                nearest: pair.cheapest.as_ref().map(|one| weigh::candidate(&composer, one, &need)),
                why_not_cheapest: why_not_cheapest(&pair, cheapest_at, &need, &floor),
                why_not_best: why_not_best(&pair, best_at, price_limit),
            }
        })
        .collect();
    Suggestion {
        cheapest: cheapest.as_ref().map(|one| redo.candidate(one, &redo.drawn(&[*one])[0], false)),
        best: best.map(|(_, candidate)| candidate),
        losers,
        weighed,
        today_down_mbps: scenario.today_down_mbps,
        today_up_mbps: scenario.today_up_mbps,
        need,
        price_limit,
    }
}

/// Kits that come into question as the cheapest, by the quick figures, which may be this much off.
const QUICKLY_OFF: f64 = 0.2;
/// How many of the fastest are drawn together.
const DRAWN_TOGETHER: usize = 10;

/// Of each pair the cheapest kit that meets a need, or nearly, by the quick figures; the cheapest first.
pub fn nearly_enough(pairs: &[weigh::Pair], need: &Need) -> Vec<weigh::Weight> {
    let nearly = Need {
        down_mbps: need.down_mbps * (1.0 - QUICKLY_OFF),
        up_mbps: need.up_mbps * (1.0 - QUICKLY_OFF),
        ..*need
    };
    let mut found: Vec<_> =
        pairs.iter().filter_map(|pair| pair.cheapest).filter(|one| one.meets(&nearly)).collect();
    found.sort_by(weigh::by_price);
    found
}

/// Of each pair the fastest under the limit by the quick figures; the ten fastest of these.
pub fn fastest(pairs: &[weigh::Pair], price_limit: Option<f64>) -> Vec<weigh::Weight> {
    let within = |one: &weigh::Weight| price_limit.is_none_or(|limit| one.price <= limit);
    let mut found: Vec<_> = pairs.iter().filter_map(|pair| pair.best).filter(within).collect();
    found.sort_by(weigh::by_speed);
    found.truncate(DRAWN_TOGETHER);
    found
}

/// Every kit of a catalogue weighed by the quick figures: of each gateway with each antenna the nearest.
pub fn weigh_all(
    composer: &compose::Composer,
    need: &Need,
    price_limit: Option<f64>,
) -> (Vec<weigh::Pair>, usize) {
    let mut weighed = weigh::Weighing::new(composer, need, price_limit);
    weighed.alone();
    weighed.units();
    weighed.coax();
    (weighed.pairs, weighed.count)
}

/// How near a pair came to being taken: price first among those that meet the need, then what they are short of.
fn nearness(pair: &weigh::Pair, need: &Need) -> f64 {
    pair.cheapest.as_ref().map_or(f64::MAX, |one| {
        if one.meets(need) { one.price } else { 1e9 * (1.0 + one.shortage(need)) + one.price }
    })
}

fn why_not_cheapest(pair: &weigh::Pair, winner: Option<&weigh::Weight>, need: &Need, floor: &Need) -> WhyNot {
    let Some(own) = &pair.cheapest else { return pair.fault.unwrap_or(WhyNot::NoBand) };
    if winner.is_some_and(|winner| winner.is_kit(own)) {
        return WhyNot::Chosen;
    }
    if own.down_mbps < need.down_mbps {
        return WhyNot::MissesDown { short_mbps: need.down_mbps - own.down_mbps };
    }
    if own.up_mbps < need.up_mbps {
        return WhyNot::MissesUp { short_mbps: need.up_mbps - own.up_mbps };
    }
    if !own.meets(floor) {
        return WhyNot::LessThanToday;
    }
    WhyNot::Dearer { by: (own.price - winner.map_or(0.0, |winner| winner.price)).max(0.0) }
}

/// What the cheapest kit must offer: the need, and no less than what stands there today, by the same rule and as it was measured:
/// more than the signal seems to allow may have come.
fn floor(need: &Need, scenario: &Scenario) -> Need {
    let at_least = |need: f64, expected: Option<f64>, measured: fn(&Today) -> Option<f64>| {
        let measured = scenario.today.as_ref().and_then(measured);
        need.max(expected.unwrap_or(0.0)).max(measured.unwrap_or(0.0))
    };
    Need {
        down_mbps: at_least(need.down_mbps, scenario.today_down_mbps, |today| today.measured_down_mbps),
        up_mbps: at_least(need.up_mbps, scenario.today_up_mbps, |today| today.measured_up_mbps),
        ..*need
    }
}

fn why_not_best(pair: &weigh::Pair, winner: Option<&weigh::Weight>, limit: Option<f64>) -> WhyNot {
    let Some(own) = &pair.best else { return pair.fault.unwrap_or(WhyNot::NoBand) };
    match (winner, limit) {
        (Some(winner), _) if winner.is_kit(own) => WhyNot::Chosen,
        (_, Some(limit)) if own.price > limit => WhyNot::OverPrice { by: own.price - limit },
        (Some(winner), _) if winner.down_mbps > own.down_mbps => {
            WhyNot::Slower { by_mbps: winner.down_mbps - own.down_mbps }
        }
        (Some(winner), _) if winner.price >= own.price => WhyNot::LessUse,
        (winner, _) => WhyNot::Dearer { by: own.price - winner.map_or(0.0, |winner| winner.price) },
    }
}
