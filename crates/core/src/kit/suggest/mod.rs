//! Which kit to buy: the cheapest that meets the household's need, and the best under a price, each against the rest.
//!
//! Every gateway is weighed with every antenna, feed line and number of leads, every outdoor unit with every cable and
//! injector, and every gateway on its own antennas. Rates are worked out once for each antenna, line, band and kind of
//! receiver, not once for each kit; a test holds the result against plain enumeration.

mod coax;
pub mod compose;
mod rates;
mod weigh;

use super::need::{Need, need};
use super::scenario::{Scenario, Today};
use crate::hardware::catalogue::Catalogue;
use crate::model::{KitSpec, PartId};
use serde::{Deserialize, Serialize};

/// Why a kit was not the one.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "why", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum Why {
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
    pub why_not_cheapest: Why,
    /// Why it is not the best.
    pub why_not_best: Why,
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
    /// The fastest under the price limit.
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
    let mut weighed = weigh::Weighing::new(&composer, &floor, price_limit);
    weighed.alone();
    weighed.units();
    weighed.coax();
    let cheapest = weighed
        .pairs
        .iter()
        .filter_map(|pair| pair.cheapest)
        .filter(|one| one.meets(&floor))
        .min_by(weigh::by_price);
    let within = |one: &weigh::Weight| price_limit.is_none_or(|limit| one.price <= limit);
    let best = weighed.pairs.iter().filter_map(|pair| pair.best).filter(within).min_by(weigh::by_speed);
    let candidate = |one: &weigh::Weight| weigh::candidate(&composer, one, &need);
    let mut losers: Vec<(weigh::Pair, Loser)> = weighed
        .pairs
        .iter()
        .map(|pair| {
            let loser = Loser {
                gateway: composer.gateways[pair.gateway].id,
                antenna: pair.antenna.map(|at| composer.antennas[at].id),
                nearest: None,
                why_not_cheapest: why_not_cheapest(pair, cheapest.as_ref(), &need, &floor),
                why_not_best: why_not_best(pair, best.as_ref(), price_limit),
            };
            (*pair, loser)
        })
        .filter(|(_, loser)| loser.why_not_cheapest != Why::Chosen && loser.why_not_best != Why::Chosen)
        .collect();
    losers.sort_by(|(a, _), (b, _)| nearness(a, &floor).total_cmp(&nearness(b, &floor)));
    losers.truncate(MOST_LOSERS);
    let losers = losers
        .into_iter()
        .map(|(pair, loser)| Loser { nearest: pair.cheapest.as_ref().map(candidate), ..loser })
        .collect();
    Suggestion {
        cheapest: cheapest.as_ref().map(candidate),
        best: best.as_ref().map(candidate),
        losers,
        weighed: weighed.count,
        today_down_mbps: scenario.today_down_mbps,
        today_up_mbps: scenario.today_up_mbps,
        need,
        price_limit,
    }
}

/// How near a pair came to being taken: price first among those that meet the need, then what they are short of.
fn nearness(pair: &weigh::Pair, need: &Need) -> f64 {
    pair.cheapest.as_ref().map_or(f64::MAX, |one| {
        if one.meets(need) { one.price } else { 1e9 * (1.0 + one.shortage(need)) + one.price }
    })
}

fn why_not_cheapest(pair: &weigh::Pair, winner: Option<&weigh::Weight>, need: &Need, floor: &Need) -> Why {
    let Some(own) = &pair.cheapest else { return pair.fault.unwrap_or(Why::NoBand) };
    if winner.is_some_and(|winner| winner == own) {
        return Why::Chosen;
    }
    if own.down_mbps < need.down_mbps {
        return Why::MissesDown { short_mbps: need.down_mbps - own.down_mbps };
    }
    if own.up_mbps < need.up_mbps {
        return Why::MissesUp { short_mbps: need.up_mbps - own.up_mbps };
    }
    if !own.meets(floor) {
        return Why::LessThanToday;
    }
    Why::Dearer { by: own.price - winner.map_or(0.0, |winner| winner.price) }
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

fn why_not_best(pair: &weigh::Pair, winner: Option<&weigh::Weight>, limit: Option<f64>) -> Why {
    let Some(own) = &pair.best else { return pair.fault.unwrap_or(Why::NoBand) };
    match (winner, limit) {
        (Some(winner), _) if winner == own => Why::Chosen,
        (_, Some(limit)) if own.price > limit => Why::OverPrice { by: own.price - limit },
        (Some(winner), _) if winner.down_mbps > own.down_mbps => {
            Why::Slower { by_mbps: winner.down_mbps - own.down_mbps }
        }
        (winner, _) => Why::Dearer { by: own.price - winner.map_or(0.0, |winner| winner.price) },
    }
}
