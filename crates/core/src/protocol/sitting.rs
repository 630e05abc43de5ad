//! How far a sitting is that is open: what comes next in it.

use super::order::PlanStop;
use serde::{Deserialize, Serialize};

/// How far a sitting is.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct SittingProgress {
    /// Tests done at each stop.
    pub done: Vec<u16>,
    /// The stop that is next, with the tests that are left there; none where all are done.
    pub next: Option<PlanStop>,
    /// Its place in the order, from 0.
    pub next_stop: Option<usize>,
    /// Tests of setups out of their turn: they count, but a change of the network's load is cancelled less well.
    pub beside: usize,
}

/// Fits tests to stops: `tests` are the places of their setups, in order of time; none for a setup that is not in the plan. A stop is
/// left for a later one when a test is made there; what it lacked stays undone.
pub fn progress(stops: &[PlanStop], tests: &[Option<usize>]) -> SittingProgress {
    let mut done = vec![0_u16; stops.len()];
    let (mut at, mut beside) = (0, 0);
    for test in tests {
        let later =
            (at..stops.len()).find(|stop| Some(stops[*stop].at) == *test && done[*stop] < stops[*stop].tests);
        match later {
            Some(stop) => {
                at = stop;
                done[stop] += 1;
            }
            None => beside += 1,
        }
    }
    let next = (at..stops.len()).find(|stop| done[*stop] < stops[*stop].tests);
    SittingProgress {
        next: next.map(|stop| PlanStop { at: stops[stop].at, tests: stops[stop].tests - done[stop] }),
        next_stop: next,
        done,
        beside,
    }
}
