//! Predicted and measured, and what would narrow a prediction, in words.

use super::number::{share, signed};
use crate::judge::{Narrowing, OneMoreReading, TrackRecord, TrackVerdict, TrackedQuantity};

/// "Of 23 predicted ranges, 19 held what was measured; 8 in 10 should."
pub fn title(records: &[TrackRecord]) -> String {
    let (ranges, held) =
        records.iter().fold((0, 0), |(ranges, held), one| (ranges + one.ranges, held + one.held));
    match ranges {
        0 => "Nothing to compare yet. Measure a setup at a new place: what was predicted for it then stands here beside what came."
            .into(),
        1 => format!("The one range predicted {} what was measured.", if held == 1 { "held" } else { "missed" }),
        _ => format!("Of {ranges} predicted ranges, {held} held what was measured; 8 in 10 should."),
    }
}

/// The name of a quantity, with its abbreviation.
pub fn quantity(quantity: TrackedQuantity) -> &'static str {
    match quantity {
        TrackedQuantity::Rsrp => "Signal strength (RSRP)",
        TrackedQuantity::Sinr => "Signal-to-noise (SINR)",
        TrackedQuantity::Download => "Download",
        TrackedQuantity::Upload => "Upload",
    }
}

/// Misses smaller than this teach nothing, dB.
const WORTH_SAYING_DB: f64 = 2.0;
/// The same for rates, as a ratio.
const WORTH_SAYING_TIMES: f64 = 1.25;

/// What the misses teach, a sentence or two a quantity.
pub fn lessons(records: &[TrackRecord]) -> Vec<String> {
    records.iter().filter_map(lesson).collect()
}

fn lesson(record: &TrackRecord) -> Option<String> {
    let name = quantity(record.quantity);
    let setups = if record.setups == 1 { "one setup".into() } else { format!("{} setups", record.setups) };
    let ratio = record.mean_off.exp();
    let off = if record.quantity.is_rate() {
        let (times, how) = if ratio >= 1.0 {
            (ratio, format!("{ratio:.1} times as fast as"))
        } else {
            (1.0 / ratio, format!("{:.0}\u{202f}% slower than", 100.0 * (1.0 - ratio)))
        };
        (times >= WORTH_SAYING_TIMES)
            .then(|| format!("{name} came out {how} predicted, on average over {setups}."))
    } else {
        let word = if record.mean_off > 0.0 { "better" } else { "worse" };
        (record.mean_off.abs() >= WORTH_SAYING_DB).then(|| {
            let db = signed(record.mean_off.abs(), 0);
            format!(
                "{name} came out {}\u{202f}dB {word} than predicted, on average over {setups}.",
                db.trim_start_matches('+')
            )
        })
    };
    let width = match record.verdict {
        TrackVerdict::TooNarrow => Some("Its ranges are too narrow here: expect more spread than they show."),
        TrackVerdict::TooWide => Some("Its ranges are wider than they need to be."),
        TrackVerdict::TooFew | TrackVerdict::AsPromised => None,
    };
    match (off, width) {
        (Some(off), Some(width)) => Some(format!("{off} {width}")),
        (Some(one), None) => Some(one),
        (None, Some(width)) => Some(format!("{name}: {}", lower_first(width))),
        (None, None) => None,
    }
}

fn lower_first(sentence: &str) -> String {
    let mut letters = sentence.chars();
    letters.next().map_or_else(String::new, |first| first.to_lowercase().chain(letters).collect())
}

/// "3 earlier setups and 2 masts": what a prediction rested on.
pub fn rests_on(setups: usize, masts: usize) -> String {
    let part = |count: usize, one: &str| match count {
        0 => None,
        1 => Some(format!("1 {one}")),
        _ => Some(format!("{count} {one}s")),
    };
    let parts: Vec<String> =
        [part(setups, "earlier setup"), part(masts, "mast")].into_iter().flatten().collect();
    if parts.is_empty() { "assumptions only".into() } else { parts.join(" and ") }
}

/// "A reading outside against the wall: signal known to ±8 dB, not ±16; the download's range 34 % narrower. About 5 minutes, no climb."
pub fn narrowing(one: &Narrowing) -> String {
    let reading = match one.reading {
        OneMoreReading::Indoors => "A reading in another room",
        OneMoreReading::OutsideByHand => "A reading outside, gateway held against the wall",
        OneMoreReading::AtTheAntenna => "A reading where the antenna would be",
        OneMoreReading::TestsNow => "Three speed tests at another hour, with what stands there now",
        OneMoreReading::TestsWithIt => "Three speed tests at another hour",
    };
    let signal =
        one.signal_db.map(|(now, after)| format!("the signal known to ±{after:.0}\u{202f}dB, not ±{now:.0}"));
    let download = (one.download >= LEAST_NARROWER)
        .then(|| format!("the download’s range {} narrower", share(one.download)));
    let brings: Vec<String> = [signal, download].into_iter().flatten().collect();
    let climb = if one.climbs == 0 { "no climb" } else { "one climb" };
    format!("{reading}: {}. About {}\u{202f}minutes, {climb}.", brings.join("; "), one.minutes)
}

/// What narrows the download's range by less is not said.
const LEAST_NARROWER: f64 = 0.05;
