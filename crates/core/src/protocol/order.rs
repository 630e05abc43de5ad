//! In which order setups are tested within one sitting.

use super::{Antennas, Built};
use crate::model::TestOrder;
use serde::{Deserialize, Serialize};

/// Speed tests at each stop of a way there and back.
const THERE_AND_BACK_TESTS: u16 = 2;
/// Speed tests at each stop where every setup has one stop.
const ONE_WAY_TESTS: u16 = 3;

/// A stop of a sitting.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PlanStop {
    /// Place of the setup in the list that is compared.
    pub at: usize,
    /// Speed tests there.
    pub tests: u16,
}

/// Stops along a way: there and back, with the tests of the turning point in one stop, or one way.
pub fn stops(way: &[usize], order: TestOrder) -> Vec<PlanStop> {
    let stop = |at: usize, tests: u16| PlanStop { at, tests };
    match (way, order) {
        ([], _) => Vec::new(),
        ([only], _) => vec![stop(*only, ONE_WAY_TESTS)],
        (way, TestOrder::OneWay) => way.iter().map(|at| stop(*at, ONE_WAY_TESTS)).collect(),
        ([before @ .., last], TestOrder::ThereAndBack) => {
            let there = before.iter().map(|at| stop(*at, THERE_AND_BACK_TESTS));
            let back = before.iter().rev().map(|at| stop(*at, THERE_AND_BACK_TESTS));
            there.chain([stop(*last, 2 * THERE_AND_BACK_TESTS)]).chain(back).collect()
        }
    }
}

/// The way through all setups with the fewest climbs, then minutes, beginning where the antenna stands if that is one of them.
pub(super) fn shortest_way(setups: &[Built], stands: Option<usize>, order: TestOrder) -> Vec<usize> {
    let mut best: Option<((usize, f64), Vec<usize>)> = None;
    each_way(&mut (0..setups.len()).collect(), 0, &mut |way| {
        if stands.is_some_and(|stands| way.first() != Some(&stands)) {
            return;
        }
        let cost = Standing::at(setups, stands).walk(setups, &stops(way, order));
        let less = |(known, _): &((usize, f64), Vec<usize>)| {
            cost.0.cmp(&known.0).then(cost.1.total_cmp(&known.1)).is_lt()
        };
        if best.as_ref().is_none_or(less) {
            best = Some((cost, way.to_vec()));
        }
    });
    best.map_or_else(Vec::new, |(_, way)| way)
}

/// Where the antennas stand, and at which setup it was measured last.
#[derive(Clone, Debug, Default)]
pub(super) struct Standing {
    antennas: Antennas,
    pub(super) at: Option<usize>,
}

impl Standing {
    /// At a setup, without a move.
    pub(super) fn at(setups: &[Built], at: Option<usize>) -> Self {
        let mut antennas = Antennas::default();
        if let Some(at) = at {
            antennas.put(setups[at]);
        }
        Self { antennas, at }
    }

    /// Climbs and minutes of moving along stops; afterwards it stands at the last.
    pub(super) fn walk(&mut self, setups: &[Built], stops: &[PlanStop]) -> (usize, f64) {
        let mut total = (0, 0.0);
        for stop in stops {
            let one = self.antennas.go(self.at.map(|at| setups[at]), setups[stop.at]);
            total = (total.0 + usize::from(one.climb), total.1 + one.minutes);
            self.at = Some(stop.at);
        }
        total
    }
}

/// Calls `seen` with every order of `items`, in lexical order of their places.
fn each_way(items: &mut Vec<usize>, fixed: usize, seen: &mut impl FnMut(&[usize])) {
    if fixed == items.len() {
        seen(items);
        return;
    }
    for at in fixed..items.len() {
        items[fixed..=at].rotate_right(1);
        each_way(items, fixed + 1, seen);
        items[fixed..=at].rotate_left(1);
    }
}
