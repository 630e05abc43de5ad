//! What makes a predicted range as wide as it is.

use crate::link::doubts::{Doubt, Unknown};
use crate::words::share;

/// What is not known, and what would tell.
fn unknown(unknown: Unknown) -> (&'static str, &'static str) {
    match unknown {
        Unknown::Walls => ("what the walls take", "one reading outside tells"),
        Unknown::Path => ("how much of the mast reaches the house", "one reading outside tells"),
        Unknown::Place => ("the very place", "a reading there tells"),
        Unknown::Height => ("what the height brings", "a reading up there tells"),
        Unknown::Antenna => ("the antenna’s true gain", "a reading with it tells"),
        Unknown::Interference => ("what is heard of other cells", "a reading with it tells"),
        Unknown::Carrying => ("how well the network uses the signal", "a speed test tells"),
        Unknown::Share => ("how busy the cells are", "speed tests at several hours tell"),
    }
}

/// Causes named at the most.
const NAMED: usize = 3;

/// "The range comes from how busy the cells are (54 %; …) and …"; `None` where nothing is in doubt.
pub fn sentence(doubts: &[Doubt]) -> Option<String> {
    let mut named: Vec<String> = doubts
        .iter()
        .take(NAMED)
        .map(|one| {
            let (what, tells) = unknown(one.unknown);
            format!("{what} ({}; {tells})", share(one.share))
        })
        .collect();
    let last = named.pop()?;
    if named.is_empty() {
        return Some(format!("The range comes from {last}."));
    }
    Some(format!("Most of the range comes from {} and {last}.", named.join(", ")))
}
