//! The few kits that came nearest by the quick figures, each through the whole prediction, and drawn together.

use super::Candidate;
use super::compose::Composer;
use super::weigh::{Weight, candidate};
use crate::hardware::resolve::Resolved;
use crate::kit::assess::{Place, location_of};
use crate::kit::need::{ALIKE_WORTH, Need};
use crate::link::antenna::AimAntenna;
use crate::link::draws::{SetupDraws, USUAL_DRAWS, chances_of_best, draws};
use crate::link::landscape::WhatIf;
use crate::link::predict::{LinkPrediction, LinkSetup, predict};

/// Kits of one catalogue at one site.
#[derive(Clone, Copy)]
pub(super) struct Redo<'a> {
    pub composer: &'a Composer<'a>,
    pub need: &'a Need,
}

/// The same question draws the same answer.
const SEED: u64 = 1;
/// How many are put through the whole prediction at the most, until one meets the need.
const TRIED_AT_MOST: usize = 200;
/// After so many the rest is held against what these came to.
const TRIED_BLINDLY: usize = 20;
/// A kit may come to this much more of its quick figures than any before it.
const BETTER_THAN_SEEN: f64 = 1.1;

impl Redo<'_> {
    /// The same kit with what is foretold of it, as every page shows it.
    pub fn exact(self, one: &Weight) -> Weight {
        let kit = candidate(self.composer, one, self.need).kit;
        let resolved = Resolved::new(&kit, self.composer.catalogue);
        let found = predict(self.composer.scenario.env, &self.setup(&resolved));
        let likely = |of: fn(&LinkPrediction) -> Option<crate::capacity::Estimate>| {
            found.as_ref().and_then(of).map_or(0.0, |range| range.likely)
        };
        Weight { down_mbps: likely(|one| one.down_mbps), up_mbps: likely(|one| one.up_mbps), ..*one }
    }

    /// The first that meets a need by the whole prediction. Those of which no more can come than of the luckiest before them are passed over.
    pub fn first_that_meets(self, cheap_first: &[Weight], need: &Need) -> Option<Weight> {
        let (mut tried, mut most) = (0, (0.0f64, 0.0f64));
        for quick in cheap_first {
            let in_reach = Weight {
                down_mbps: quick.down_mbps * most.0 * BETTER_THAN_SEEN,
                up_mbps: quick.up_mbps * most.1 * BETTER_THAN_SEEN,
                ..*quick
            };
            if tried >= TRIED_BLINDLY && !in_reach.meets(need) {
                continue;
            }
            let exact = self.exact(quick);
            if exact.meets(need) {
                return Some(exact);
            }
            tried += 1;
            if tried >= TRIED_AT_MOST {
                return None;
            }
            let over = |exact: f64, quick: f64| if quick > 0.0 { exact / quick } else { 0.0 };
            most.0 = most.0.max(over(exact.down_mbps, quick.down_mbps));
            most.1 = most.1.max(over(exact.up_mbps, quick.up_mbps));
        }
        None
    }

    fn setup<'k>(self, kit: &'k Resolved<'k>) -> LinkSetup<'k>
    where
        Self: 'k,
    {
        LinkSetup::new(location_of(kit, self.composer.scenario, Place::default()), AimAntenna::Kit(kit))
    }

    /// Of a few kits: each one's chance to meet the need, that none of the others serves clearly better, and its expected worth.
    pub fn drawn(self, few: &[Weight]) -> Vec<Drawn> {
        let env = self.composer.scenario.env;
        let kits: Vec<_> = few.iter().map(|one| candidate(self.composer, one, self.need).kit).collect();
        let resolved: Vec<Resolved> =
            kits.iter().map(|kit| Resolved::new(kit, self.composer.catalogue)).collect();
        let setups: Vec<LinkSetup> = resolved.iter().map(|kit| self.setup(kit)).collect();
        let found: Vec<_> = setups.iter().map(|setup| predict(env, setup)).collect();
        let asked: Vec<(&LinkSetup, &LinkPrediction)> =
            setups.iter().zip(&found).filter_map(|(setup, found)| Some((setup, found.as_ref()?))).collect();
        let drawn = draws(env, &asked, WhatIf::default(), USUAL_DRAWS, SEED);
        let worths: Vec<Vec<f64>> = drawn.iter().map(|one| self.need.worths(one)).collect();
        let mut each = drawn.iter().zip(&worths).zip(chances_of_best(&worths, ALIKE_WORTH));
        found
            .iter()
            .map(|found| {
                let next = found.as_ref().and_then(|_| each.next());
                next.map_or_else(Drawn::default, |((drawn, worths), chance_of_best)| Drawn {
                    chance_of_need: self.chance_of_need(drawn),
                    chance_of_best,
                    worth: worths.iter().sum::<f64>() / worths.len().max(1) as f64,
                })
            })
            .collect()
    }

    fn chance_of_need(self, drawn: &SetupDraws) -> f64 {
        let rates = || drawn.down_mbps.iter().zip(&drawn.up_mbps);
        let met = rates().filter(|(down, up)| **down >= self.need.down_mbps && **up >= self.need.up_mbps);
        met.count() as f64 / rates().count().max(1) as f64
    }

    /// Of a few kits the one that is worth the most to the household; among those alike the cheapest.
    pub fn best(self, few: &[Weight]) -> Option<(Weight, Candidate)> {
        let drawn = self.drawn(few);
        let most = drawn.iter().map(|one| one.worth).fold(f64::NEG_INFINITY, f64::max);
        let alike = few.iter().zip(&drawn).filter(|(_, drawn)| drawn.worth >= most - ALIKE_WORTH);
        let (taken, drawn) = alike.min_by(|a, b| a.0.price.total_cmp(&b.0.price))?;
        Some((self.exact(taken), self.candidate(taken, drawn, few.len() > 1)))
    }

    /// A kit with what is foretold of it.
    pub fn candidate(self, one: &Weight, drawn: &Drawn, among_others: bool) -> Candidate {
        Candidate {
            chance_of_need: Some(drawn.chance_of_need),
            chance_of_best: among_others.then_some(drawn.chance_of_best),
            ..candidate(self.composer, &self.exact(one), self.need)
        }
    }
}

/// What draws tell of a kit.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub(super) struct Drawn {
    pub chance_of_need: f64,
    pub chance_of_best: f64,
    pub worth: f64,
}
