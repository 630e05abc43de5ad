//! How much is left of what is going on.

/// What is left at the pace so far, in the unit of `so_far` (seconds, megabytes): so much was used for `done` of `planned`
/// pieces of work. `None` before anything was done, or where nothing was planned. Linear (common practice, no source).
///
/// ```
/// use open_beacon_domain::stats::left_at_pace;
/// // Three of nine in 30 s: the other six in 60 s.
/// assert_eq!(left_at_pace(3.0, 9.0, 30.0), Some(60.0));
/// assert_eq!(left_at_pace(9.0, 9.0, 90.0), Some(0.0));
/// assert_eq!(left_at_pace(0.0, 9.0, 5.0), None);
/// ```
pub fn left_at_pace(done: f64, planned: f64, so_far: f64) -> Option<f64> {
    (done > 0.0 && planned > 0.0).then(|| (planned - done).max(0.0) * so_far / done)
}
