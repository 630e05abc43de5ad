//! How long a gateway is waited for after it was told a lock.

/// How many times the set wait a gateway is given before it counts as without service: what was set may be too short for it.
const GIVEN: f64 = 3.0;
/// Shortest and longest that it is given, s, unless the set wait itself is longer.
const LEAST_GIVEN_S: f64 = 30.0;
const MOST_GIVEN_S: f64 = 300.0;
/// What is learned is this many times what it took.
const ROOM: f64 = 1.5;
/// Waits are learned in steps of this, s.
const STEP_S: f64 = 5.0;

/// After how long a gateway without service is given up, s, where `wait_s` is set for it (common practice, no source).
pub fn given_up_after_s(wait_s: f64) -> f64 {
    (GIVEN * wait_s).clamp(LEAST_GIVEN_S, MOST_GIVEN_S).max(wait_s)
}

/// The wait that should be set, s, where a gateway took `took_s` and `wait_s` was set; `None` where that was enough.
///
/// ```
/// use open_beacon_core::trial::wait::learned_wait_s;
/// assert_eq!(learned_wait_s(40.0, 30.0), Some(60.0));
/// assert_eq!(learned_wait_s(25.0, 30.0), None);
/// ```
pub fn learned_wait_s(took_s: f64, wait_s: f64) -> Option<f64> {
    (took_s > wait_s).then(|| ((ROOM * took_s / STEP_S).ceil() * STEP_S).min(MOST_GIVEN_S.max(took_s)))
}
