//! What makes a predicted range as wide as it is.

use crate::link::doubts::{NotKnown, RangeCause};
use crate::words::share;

/// What is not known, and what to do about it.
fn unknown(unknown: NotKnown) -> (&'static str, &'static str) {
    match unknown {
        NotKnown::Walls => ("what the walls take", "take a reading outside"),
        NotKnown::Path => ("how much of the mast reaches the house", "take a reading outside"),
        NotKnown::Place => ("this very place", "take a reading there"),
        NotKnown::Height => ("what the height brings", "take a reading up there"),
        NotKnown::Antenna => ("the antenna’s true gain", "take a reading with it"),
        NotKnown::Interference => ("interference from other cells", "take a reading there with the antenna"),
        NotKnown::Carrying => ("how well the network uses the signal", "run a speed test"),
        NotKnown::Share => ("how busy the cells are", "test at several hours"),
    }
}

/// Causes named at the most, and the least share at which a further one is.
const NAMED: usize = 3;
const LEAST_SHARE: f64 = 0.1;

/// "What makes the range wide: how busy the cells are, 54 % (test at several hours)."; `None` where nothing is in doubt.
pub fn sentence(doubts: &[RangeCause]) -> Option<String> {
    let (most, rest) = doubts.split_first()?;
    let rest = rest.iter().filter(|one| one.share >= LEAST_SHARE).take(NAMED - 1);
    let named: Vec<String> = [most]
        .into_iter()
        .chain(rest)
        .map(|one| {
            let (what, action) = unknown(one.unknown);
            format!("{what}, {} ({action})", share(one.share))
        })
        .collect();
    Some(format!("What makes the range wide: {}.", named.join("; ")))
}
