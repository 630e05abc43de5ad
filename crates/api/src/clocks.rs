//! Two clocks beside each other while something is measured: the one that results are dated by, which can be set, and one that
//! cannot.

use chrono::{DateTime, Utc};
use open_beacon_core::words::measuring::{clock_jump, clock_jumped};
use open_beacon_gateway::Clock;
use tokio::time::Instant;

/// What both clocks said when a measurement began.
#[derive(Clone, Debug)]
pub(crate) struct Clocks {
    clock: Clock,
    wall: DateTime<Utc>,
    steady: Instant,
}

impl Clocks {
    pub(crate) fn begin(clock: &Clock) -> Self {
        Self { clock: clock.clone(), wall: clock.now(), steady: Instant::now() }
    }

    /// What to note with the run where the clock was set since.
    pub(crate) fn jumped(&self) -> Option<String> {
        clock_jump(self.clock.now() - self.wall, self.steady.elapsed()).map(clock_jumped)
    }
}

#[cfg(test)]
mod tests {
    use super::{Clock, Clocks};
    use chrono::TimeDelta;

    #[test]
    fn a_clock_that_was_set_is_noticed() {
        let began = Clocks::begin(&Clock::default());
        assert_eq!(began.jumped(), None);
        let set_back = Clocks { wall: began.wall + TimeDelta::days(1), ..began.clone() };
        assert!(
            set_back.jumped().is_some_and(|words| words.contains("set back by 24 h")),
            "{:?}",
            set_back.jumped()
        );
        let set_forward = Clocks { wall: began.wall - TimeDelta::minutes(3), ..began };
        assert!(set_forward.jumped().is_some_and(|words| words.contains("set forward by 3 min")));
    }
}
