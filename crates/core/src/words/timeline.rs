//! Titles of what stands on the time line.

use super::number::{decibels, milliseconds, power_dbm, rate};
use super::{bearing, counted, listed, lock_words};
use crate::bands::band_name;
use crate::judge::RadioSummary;
use crate::model::{BandRound, SpeedFigures, Sweep, SweepAxis};
use crate::protocol::ChangedPart;

/// What was changed since the run before: "Since Sill only the band lock was changed.", "Since Sill three things were changed at once:
/// position, kit and band lock."
pub fn changed_since(before: &str, all: &[ChangedPart]) -> Option<String> {
    let names: Vec<String> = all.iter().map(|what| super::protocol::changed(*what).to_owned()).collect();
    Some(match names.as_slice() {
        [] => return None,
        [only] => format!("Since {before} only the {only} was changed."),
        several => format!(
            "Since {before} {} things were changed at once: {}.",
            super::number_word(several.len()),
            listed(several)
        ),
    })
}

/// "10 samples and three speed tests".
pub fn run(samples: usize, tests: usize, band_visit: bool) -> String {
    let parts: Vec<String> = [(samples, "sample"), (tests, "speed test")]
        .into_iter()
        .filter(|(n, _)| *n > 0)
        .map(|(n, noun)| counted(n, noun))
        .collect();
    let what = if parts.is_empty() { "Nothing was taken".into() } else { super::capital(&listed(&parts)) };
    if band_visit { format!("{what} in a round of bands") } else { what }
}

/// What was heard, a carrier an entry: "n78 −88 dBm, SINR 12 dB".
pub fn heard(radio: &RadioSummary) -> Vec<String> {
    let mut named = Vec::new();
    for carrier in &radio.carriers {
        let Some(rsrp) = carrier.rsrp_dbm else { continue };
        let name =
            carrier.cell.band.map_or_else(|| "?".into(), |band| band_name(carrier.cell.technology, band));
        let sinr =
            carrier.sinr_db.map_or_else(String::new, |sinr| format!(", SINR {}", decibels(sinr.median)));
        named.push(format!("{name} {}{sinr}", power_dbm(rsrp.median)));
    }
    named.dedup();
    named
}

/// "Sweep, set to 141° T".
pub fn sweep(sweep: &Sweep) -> String {
    let what = match sweep.axis {
        SweepAxis::Azimuth => "Bearing sweep",
        SweepAxis::Tilt => "Tilt sweep",
        SweepAxis::Ports => "Port-map test",
    };
    match (sweep.axis, sweep.set_deg) {
        (SweepAxis::Azimuth, Some(set)) => format!("{what}, set to {}", bearing(set)),
        (SweepAxis::Tilt, Some(set)) => format!("{what}, set to {}°", super::signed(set, 0)),
        (SweepAxis::Ports, Some(map)) => format!("{what}, map {} kept", if map < 0.5 { "A" } else { "B" }),
        (_, None) => what.into(),
    }
}

/// "Band trials of five choices, n78 kept".
pub fn round(round: &BandRound) -> String {
    let what = format!("Band trials of {}", counted(round.choices.len(), "choice"));
    match round.kept.as_ref().map(|kept| lock_words(kept).unwrap_or_else(|| "no lock".into())) {
        Some(kept) => format!("{what}, {kept} kept"),
        None => what,
    }
}

/// "84 Mbit/s down, 18 Mbit/s up, 39 ms".
pub fn figures(figures: &SpeedFigures) -> String {
    let parts = [
        figures.download_mbps.map(|down| format!("{} down", rate(down))),
        figures.upload_mbps.map(|up| format!("{} up", rate(up))),
        figures.idle_latency_ms.map(milliseconds),
    ];
    let said: Vec<String> = parts.into_iter().flatten().collect();
    if said.is_empty() { "a test without a figure".into() } else { said.join(", ") }
}
