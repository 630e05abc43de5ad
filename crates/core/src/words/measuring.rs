//! What is being measured, and how far it is.

use super::number::{milliseconds, rate, share};
use crate::model::{Course, EndedEarly, LatencySpread, Measuring, MeasuringProgress, SpeedTestSettings};
use crate::stats::slowed_down;
use chrono::TimeDelta;
use std::time::Duration;

/// Rate at which the data of a test are told, Mbit/s: what a good mobile line gives.
const TOLD_AT_MBPS: f64 = 100.0;

/// "at 100 Mbit/s one direction of one test moves about 125 MB".
pub fn test_data(settings: &SpeedTestSettings) -> String {
    format!(
        "At {TOLD_AT_MBPS:.0}\u{202f}Mbit/s one direction of one test moves about {:.0}\u{202f}MB: mind the plan's cap.",
        settings.moved_mb(TOLD_AT_MBPS)
    )
}

/// "A recording is going on".
pub fn doing(what: Measuring) -> &'static str {
    match what {
        Measuring::Recording => "A recording is going on",
        Measuring::SpeedTests => "Speed tests are going on",
        Measuring::SweepPoint => "A sweep point is being measured",
        Measuring::BandRound => "A round of band trials, begun perhaps from another browser, is going on",
        Measuring::Lock => "The gateway is being locked",
        Measuring::LockRestore => "The gateway is going back to its bands",
    }
}

/// "A recording is going on, 3 of 9 samples done, about 40 s left."
pub fn sentence(progress: &MeasuringProgress) -> String {
    format!("{}{}.", doing(progress.what), how_far(progress))
}

/// ", 3 of 9 samples done, about 40 s left, about 60 MB to come"; empty where nothing is planned by number.
pub fn how_far(progress: &MeasuringProgress) -> String {
    let part = |done: u32, planned: u32, noun: &str| {
        if planned > 0 { format!(", {done} of {planned} {noun} done") } else { String::new() }
    };
    let left = progress.remaining_s.map(|left_s| match left_s {
        left_s if left_s < 90.0 => format!(", about {:.0}\u{202f}s left", (left_s / 5.0).ceil() * 5.0),
        left_s => format!(", about {:.0}\u{202f}min left", left_s / 60.0),
    });
    let samples = part(progress.samples_done, progress.samples_planned, "samples");
    let tests = part(progress.tests_done, progress.tests_planned, "speed tests");
    let to_come = progress.remaining_mb.filter(|left_mb| *left_mb >= 1.0);
    let to_come = to_come.map(|left_mb| format!(", about {left_mb:.0}\u{202f}MB to come"));
    format!("{samples}{tests}{}{}", left.unwrap_or_default(), to_come.unwrap_or_default())
}

/// Shorter steps of the clock are those of a computer that keeps its time by the network (common practice, no source).
const CLOCK_STEP_S: f64 = 10.0;

/// By how much the wall clock was set while something went on: its own `passed` against the `steady` clock's.
pub fn clock_jump(passed: TimeDelta, steady: Duration) -> Option<TimeDelta> {
    let by = passed - TimeDelta::from_std(steady).ok()?;
    (by.as_seconds_f64().abs() > CLOCK_STEP_S).then_some(by)
}

/// That the clock was set during a run, for its notes.
pub fn clock_jumped(by: TimeDelta) -> String {
    let way = if by < TimeDelta::zero() { "back" } else { "forward" };
    let seconds = by.as_seconds_f64().abs();
    let by = match seconds {
        s if s < 120.0 => format!("{s:.0} s"),
        s if s < 7200.0 => format!("{:.0} min", s / 60.0),
        s if s < 172_800.0 => format!("{:.0} h", s / 3600.0),
        s => format!("{:.0} days", s / 86_400.0),
    };
    format!(
        "The computer's clock was set {way} by {by} during this run: its times before and after do not belong together."
    )
}

/// How a speed test went: what slowed it down, how long it took to come up to speed, and how round trips scattered.
pub fn course(of: &Course) -> Vec<String> {
    let step_s = f64::from(of.step_ms) / 1e3;
    let ways = [("download", &of.down_mbps, of.down_from), ("upload", &of.up_mbps, of.up_from)];
    let mut said: Vec<String> = ways
        .into_iter()
        .filter_map(|(way, rates, from)| went(way, rates, from, (step_s, of.warm_up_ms)))
        .collect();
    let ended = [("download", of.down_ended, of.down_mbps.len()), ("upload", of.up_ended, of.up_mbps.len())];
    said.extend(
        ended.into_iter().filter_map(|(way, why, steps)| Some(ended_early(way, why?, steps as f64 * step_s))),
    );
    let latency = [
        ("On the idle line", of.idle),
        ("While downloading", of.while_down),
        ("While uploading", of.while_up),
    ];
    let latency: Vec<String> =
        latency.into_iter().filter_map(|(when, spread)| Some(round_trips(when, &spread?))).collect();
    if !latency.is_empty() {
        said.push(latency.join(" "));
    }
    said
}

/// "The upload ended after 4.2 s: its rate was known to within 3 %."
fn ended_early(way: &str, why: EndedEarly, after_s: f64) -> String {
    let why = match why {
        EndedEarly::Data { most_mb } => format!("the {most_mb:.0}\u{202f}MB allowed had been moved"),
        EndedEarly::Precision { precise_to } => format!("its rate was known to within {}", share(precise_to)),
    };
    format!("The {way} ended after {after_s:.1}\u{202f}s: {why}.")
}

fn went(way: &str, rates: &[f64], from: u32, (step_s, warm_up_ms): (f64, u32)) -> Option<String> {
    if let Some(found) = slowed_down(rates, step_s) {
        return Some(format!(
            "The {way} was fast for {:.0}\u{202f}MB ({}), then {}: something on the way slows long transfers down. The figure is what went on; short pages get the fast part.",
            found.fast_mb,
            rate(found.fast_mbps),
            rate(found.slow_mbps)
        ));
    }
    let from_s = f64::from(from) * step_s;
    (from_s > f64::from(warm_up_ms) / 1e3 + 0.5 * step_s).then(|| {
        format!("The {way} came up to speed after {from_s:.1}\u{202f}s; the figure is of what followed.")
    })
}

/// "While downloading a round trip takes 87 ms, 19 of 20 no more than 120 ms, with 9 ms of jitter."
fn round_trips(when: &str, of: &LatencySpread) -> String {
    format!(
        "{when} a round trip takes {}, 19 of 20 no more than {}, with {} of jitter.",
        milliseconds(of.median_ms),
        milliseconds(of.p95_ms),
        milliseconds(of.jitter_ms)
    )
}
