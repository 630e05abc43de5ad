//! How a speed test went, 100 ms by 100 ms: where it had come up to speed, and whether something slowed it down on the way.

use super::summary::t_quantile;

/// Rates are averaged by so many for the truncation rule.
const BATCH: usize = 5;
/// With fewer averages the rule has nothing to go by.
const FEWEST_BATCHES: usize = 8;
/// Coverage of an interval that is looked at each second until it is narrow enough. What is found at the end covers less: about four of five lines that
/// wander (checked by simulation).
const LOOKED_AT_AGAIN: f64 = 0.95;
/// A fast beginning counts from this length on, s.
const SHORTEST_FAST_S: f64 = 0.5;
/// What goes on after it counts from this length on, s.
const SHORTEST_SLOW_S: f64 = 2.0;
/// A fast beginning is so many times as fast as what follows (common practice, no source).
const FAST_TIMES: f64 = 1.8;
/// The split explains at least this share of what scatters about the mean of all.
const EXPLAINED: f64 = 0.6;

/// Step from which on rates are steady: the marginal standard error rule on averages of five (MSER-5: K. P. White, "An effective truncation
/// heuristic for bias reduction in simulation output", Simulation 69, 1997). Of all truncations in the first half the one that makes the
/// squared standard error of the mean of what is left the least. 0 where there is too little to tell.
///
/// ```
/// use open_beacon_domain::stats::steady_from;
/// // Two seconds of climbing, then flat.
/// let rates: Vec<f64> = (0..100).map(|at| if at < 20 { 5.0 * at as f64 } else { 100.0 }).collect();
/// assert_eq!(steady_from(&rates), 20);
/// assert_eq!(steady_from(&[100.0; 100]), 0);
/// ```
pub fn steady_from(rates: &[f64]) -> usize {
    let batches: Vec<f64> =
        rates.chunks_exact(BATCH).map(|batch| batch.iter().sum::<f64>() / BATCH as f64).collect();
    if batches.len() < FEWEST_BATCHES {
        return 0;
    }
    let error = |from: usize| {
        let left = &batches[from..];
        let n = left.len() as f64;
        let mean = left.iter().sum::<f64>() / n;
        left.iter().map(|rate| (rate - mean).powi(2)).sum::<f64>() / (n * n)
    };
    let first = (0..=batches.len() / 2).min_by(|a, b| error(*a).total_cmp(&error(*b)));
    first.unwrap_or(0) * BATCH
}

/// Half the width of the mean's interval, share of the mean, by batch means: eight averages of steps in a row, as long as there are steps, so that what
/// is alike from step to step counts once (B. Schmeiser, "Batch size effects in the analysis of simulation output", Operations Research 30, 1982).
/// `None` with fewer than forty steps, or where nothing moved.
///
/// ```
/// use open_beacon_domain::stats::known_to;
/// assert_eq!(known_to(&[100.0; 40]), Some(0.0));
/// assert_eq!(known_to(&[100.0; 39]), None);
/// ```
pub fn known_to(rates: &[f64]) -> Option<f64> {
    let length = rates.len() / FEWEST_BATCHES;
    if length < BATCH {
        return None;
    }
    // What does not fill a batch is left out at the beginning: the end is what the line does now.
    let whole = &rates[rates.len() - length * FEWEST_BATCHES..];
    let batches: Vec<f64> =
        whole.chunks_exact(length).map(|batch| batch.iter().sum::<f64>() / length as f64).collect();
    let n = batches.len() as f64;
    let mean = batches.iter().sum::<f64>() / n;
    let variance = batches.iter().map(|rate| (rate - mean).powi(2)).sum::<f64>() / (n - 1.0);
    let half = t_quantile(0.5 + LOOKED_AT_AGAIN / 2.0, n - 1.0)? * (variance / n).sqrt();
    (mean > 0.0).then(|| half / mean)
}

/// A fast beginning, and what went on.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SlowedDown {
    /// Step at which it became slow.
    pub at: usize,
    /// Before, Mbit/s.
    pub fast_mbps: f64,
    /// Moved until then, MB.
    pub fast_mb: f64,
    /// After, Mbit/s.
    pub slow_mbps: f64,
}

/// Whether a line was fast only for a while: a burst that is let through, a throttle for long transfers. The split into two levels that leaves
/// the least scatter, where it explains most of it, the first is much the faster, and the second does not go on falling. `rates`: from the first
/// byte on, `step_s` each.
pub fn slowed_down(rates: &[f64], step_s: f64) -> Option<SlowedDown> {
    let steps = |seconds: f64| (seconds / step_s).round() as usize;
    let (shortest_fast, shortest_slow) = (steps(SHORTEST_FAST_S).max(2), steps(SHORTEST_SLOW_S).max(4));
    // What comes up to speed at the beginning is not slow: it is left out of the first level.
    let top = rates.iter().copied().fold(0.0, f64::max);
    let begun = rates.iter().position(|rate| *rate > 0.5 * top)?;
    let all = &rates[begun..];
    if all.len() < shortest_fast + shortest_slow {
        return None;
    }
    let scatter = |part: &[f64]| {
        let mean = part.iter().sum::<f64>() / part.len() as f64;
        (mean, part.iter().map(|rate| (rate - mean).powi(2)).sum::<f64>())
    };
    let left = |at: &usize| scatter(&all[..*at]).1 + scatter(&all[*at..]).1;
    let at = (shortest_fast..=all.len() - shortest_slow).min_by(|a, b| left(a).total_cmp(&left(b)))?;
    let ((fast_mbps, _), (slow_mbps, _)) = (scatter(&all[..at]), scatter(&all[at..]));
    let whole = scatter(all).1;
    let explains = whole > 0.0 && 1.0 - left(&at) / whole > EXPLAINED;
    let half = at + (all.len() - at) / 2;
    let goes_on = scatter(&all[half..]).0 > scatter(&all[at..half]).0 / FAST_TIMES;
    if !explains || !goes_on || fast_mbps < FAST_TIMES * slow_mbps {
        return None;
    }
    let moved: f64 = rates[..begun + at].iter().sum::<f64>() * step_s / 8.0;
    Some(SlowedDown { at: begun + at, fast_mbps, fast_mb: moved, slow_mbps })
}
