//! The one place where findings become words. Plain words first, the term in brackets.

pub mod aim;
pub mod as_built;
mod baseline;
pub mod best;
mod comparison;
pub mod credit;
pub mod diagnosis;
pub mod doubts;
pub mod explain;
pub mod fairness;
pub mod gateway_place;
pub mod job;
pub mod kit;
pub mod measuring;
pub mod near_best;
mod number;
pub mod outlook;
pub mod outward;
pub mod preflight;
pub mod protocol;
pub mod survey;
pub mod timeline;
pub mod track;
pub mod trial;
pub mod why;
pub mod worklist;

pub use number::{
    bearing, decibels, in_cases, length, milliseconds, power_dbm, rate, rough_rate, share, signed, times,
};

use crate::bands::band_name;
use crate::judge::{Advice, CellName, Finding, HourSpan, Said};
use crate::metrics::{Class, Metric};
use crate::model::{
    Activity, AntennaSwitch, BandAccess, BandChoice, ConnectionMode, Instrument, Position, SetupOrigin,
    SetupSpec, Source, SpeedFigure, Technology, Units,
};

/// How sentences are written for this user.
#[derive(Clone, Copy, Debug, Default)]
pub struct Style {
    /// Metres or feet.
    pub units: Units,
}

/// A setup's name as the user knows it: its own name, else its aim.
pub fn setup_aim(spec: &SetupSpec) -> String {
    let aim = bare_aim(spec);
    lock_words(&spec.lock).map_or_else(|| aim.clone(), |lock| format!("{aim}, {lock}"))
}

fn bare_aim(spec: &SetupSpec) -> String {
    if !spec.name.is_empty() {
        return spec.name.clone();
    }
    let antenna = match spec.antenna {
        AntennaSwitch::Internal => "stock antennas",
        AntennaSwitch::External => "external antenna",
    };
    match (spec.azimuth_deg, spec.antenna) {
        (Some(azimuth), AntennaSwitch::External) => {
            let tilt = spec
                .tilt_deg
                .filter(|tilt| *tilt != 0.0)
                .map_or(String::new(), |tilt| format!(", tilt {}°", number::signed(tilt, 0)));
            format!("{}{tilt}", bearing(azimuth))
        }
        (Some(azimuth), AntennaSwitch::Internal) => format!("{antenna}, facing {}", bearing(azimuth)),
        (None, _) => antenna.to_owned(),
    }
}

/// What a gateway is locked to in short: "SA", "NSA, B20", "LTE only", "n78"; nothing where it is free.
pub fn lock_words(lock: &BandChoice) -> Option<String> {
    if lock.is_free() {
        return None;
    }
    let access = match lock.access {
        BandAccess::Any => None,
        BandAccess::Lte => Some("LTE only"),
        BandAccess::Nsa => Some("NSA"),
        BandAccess::Sa => Some("SA"),
    };
    let bands = |technology, list: &[u16]| {
        list.iter().map(|band| band_name(technology, *band)).collect::<Vec<_>>().join(" + ")
    };
    let parts = [
        access.map_or_else(String::new, str::to_owned),
        bands(Technology::Lte, &lock.lte),
        bands(Technology::Nr, &lock.nr),
    ];
    Some(parts.into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(", "))
}

/// What stands there, to build it again: kit, bearing, tilt, height, leads and lock. `kit`: the kit's name.
pub fn setup_facts(position: &Position, spec: &SetupSpec, kit: Option<&str>, style: Style) -> String {
    let mut parts = Vec::new();
    let kit = kit.unwrap_or(&spec.kit_note);
    if !kit.is_empty() {
        parts.push(kit.to_owned());
    }
    parts.extend(spec.azimuth_deg.map(|azimuth| format!("bearing {}", bearing(azimuth))));
    let decimals = |value: f64| usize::from((value - value.round()).abs() >= 0.05);
    parts.extend(spec.tilt_deg.map(|tilt| format!("tilt {}°", number::signed(tilt, decimals(tilt)))));
    let height_m = spec.height_above_ground_m.or(position.height_above_ground_m);
    parts.extend(height_m.map(|metres| format!("{} above ground", length(metres, style.units))));
    if !spec.ports.is_empty() {
        let leads: Vec<String> =
            spec.ports.iter().map(|link| format!("lead {} in {}", link.lead, link.port)).collect();
        parts.push(leads.join(", "));
    }
    parts.push(
        lock_words(&spec.lock).map_or_else(|| "no lock".to_owned(), |lock| format!("locked to {lock}")),
    );
    format!("{}.", capital(&parts.join("; ")))
}

/// What a setup was made from, in words.
pub fn origin_words(origin: &SetupOrigin) -> &'static str {
    match origin {
        SetupOrigin::ByHand => "Entered by hand.",
        SetupOrigin::StandsToday => "What stood there when the work began.",
        SetupOrigin::SurveyChoice { .. } => "From the survey's choice.",
        SetupOrigin::SweepResult { .. } => "From a sweep, as the antenna was set.",
        SetupOrigin::BandTrial { .. } => "A lock that a band round tried.",
        SetupOrigin::KeptTrial { .. } => "A lock that was kept at Bands.",
        SetupOrigin::PortMapTest { .. } => "From a test of port maps.",
    }
}

/// Position, aim and lock in short: "East gable at 131° T, SA"; on stock antennas the position alone.
pub fn setup_label(position: &Position, spec: &SetupSpec) -> String {
    let label = place_and_aim(position, spec);
    lock_words(&spec.lock).map_or_else(|| label.clone(), |lock| format!("{label}, {lock}"))
}

fn place_and_aim(position: &Position, spec: &SetupSpec) -> String {
    let place = &position.name;
    match (spec.name.as_str(), spec.antenna, spec.azimuth_deg) {
        ("", AntennaSwitch::External, Some(azimuth)) => format!("{place} at {}", bearing(azimuth)),
        ("", AntennaSwitch::External, None) => format!("{place} (external antenna)"),
        ("", AntennaSwitch::Internal, _) => place.clone(),
        (name, ..) => format!("{place}, {name}"),
    }
}

/// Gives setups whose short labels are alike their whole aim instead.
pub fn distinct_labels(setups: &[(&Position, &SetupSpec)]) -> Vec<String> {
    let short: Vec<String> = setups.iter().map(|(position, spec)| setup_label(position, spec)).collect();
    let alike = |label: &String| short.iter().filter(|other| *other == label).count() > 1;
    setups
        .iter()
        .zip(&short)
        .enumerate()
        .map(|(index, ((position, spec), label))| {
            if !alike(label) {
                return label.clone();
            }
            let whole = format!("{}, {}", position.name, setup_aim(spec));
            let twins = setups
                .iter()
                .filter(|(other, aim)| other.name == position.name && setup_aim(aim) == setup_aim(spec));
            // Setups that differ only in kit, ports or lock are told apart by their order.
            if twins.count() > 1 { format!("{whole} (setup {})", index + 1) } else { whole }
        })
        .collect()
}

/// "B3", "n78", or the technology where the band is not known, with the PCI if there is one.
pub fn cell(name: &CellName) -> String {
    let band = name.band.map_or_else(
        || format!("{:?}", name.technology).to_uppercase(),
        |band| band_name(name.technology, band),
    );
    match name.pci {
        Some(pci) => format!("{band} cell {pci}"),
        None => band,
    }
}

fn band(name: &CellName) -> String {
    cell(&CellName { pci: None, ..*name })
}

/// The word of a class.
pub fn class_word(class: Class) -> &'static str {
    match class {
        Class::Starved => "starved",
        Class::Thin => "thin",
        Class::Usable => "usable",
        Class::Solid => "solid",
        Class::Ample => "ample",
    }
}

/// Plain words and the term: "signal power (RSRP)".
pub fn metric_words(metric: Metric) -> &'static str {
    match metric {
        Metric::Rsrp => "signal power (RSRP)",
        Metric::Rsrq => "signal quality (RSRQ)",
        Metric::Sinr => "signal-to-noise (SINR)",
        Metric::Rssi => "total power (RSSI)",
    }
}

/// "download", "latency while downloading".
pub fn figure_words(figure: SpeedFigure) -> &'static str {
    match figure {
        SpeedFigure::Download => "download",
        SpeedFigure::Upload => "upload",
        SpeedFigure::IdleLatency => "idle latency",
        SpeedFigure::DownloadLatency => "latency while downloading",
        SpeedFigure::UploadLatency => "latency while uploading",
    }
}

/// How the carriers are bundled, in words.
pub fn mode_words(mode: ConnectionMode) -> &'static str {
    match mode {
        ConnectionMode::Lte => "LTE only",
        ConnectionMode::Nsa => "5G riding on LTE (NSA)",
        ConnectionMode::Sa => "5G on its own (SA)",
        ConnectionMode::NoService => "No service",
        ConnectionMode::Unknown => "Connected, the gateway does not say how",
    }
}

/// Sentence and finding together.
pub fn said(finding: Finding, style: Style) -> Said {
    Said { text: sentence(&finding, style), finding }
}

/// An advice's title and its detail as one paragraph.
pub fn advice(advice: &Advice, style: Style) -> (String, String) {
    let detail: Vec<String> = advice.detail.iter().map(|finding| sentence(finding, style)).collect();
    (sentence(&advice.title, style), detail.join(" "))
}

/// One finding as one or two whole sentences.
pub fn sentence(finding: &Finding, _style: Style) -> String {
    match finding {
        Finding::Connected { mode, carriers, best } => {
            let which = if *carriers > 1 { "the best of them " } else { "" };
            let best = best.map_or(String::new(), |class| format!(", {which}{}", class_word(class)));
            format!("{}, {}{best}.", mode_words(*mode), counted(*carriers, "carrier"))
        }
        Finding::NoSetup => "Start with a position and a setup.".into(),
        Finding::NothingRecorded { setup } => format!("Nothing is recorded at {setup} yet."),
        Finding::TestsMissing { setup, have: 0, need } => {
            format!(
                "{setup} has readings but no speed test. {} make it comparable.",
                capital(&counted(*need, "test"))
            )
        }
        Finding::TestsMissing { have, need, .. } => {
            let missing = need.saturating_sub(*have);
            let verb = if missing == 1 { "makes" } else { "make" };
            format!("{} more {verb} it comparable.", capital(&counted(missing, "test")))
        }
        Finding::SittingsMissing { have, need } => {
            let missing = counted(need.saturating_sub(*have), "more sitting");
            format!(
                "Tested in {}; {missing} at other hours, three tests each, make a comparison fair.",
                counted(*have, "sitting"),
            )
        }
        Finding::SetupFigures { setup, tests, sittings, download_mbps, upload_mbps, idle_latency_ms } => {
            setup_figures(setup, (*tests, *sittings), *download_mbps, *upload_mbps, *idle_latency_ms)
        }
        Finding::CarrierMedians { cell: name, samples, rsrp_dbm, sinr_db, class } => {
            let mut parts = Vec::new();
            parts.extend(rsrp_dbm.map(|value| format!("signal power {}", power_dbm(value))));
            parts.extend(sinr_db.map(|value| format!("SINR {}", decibels(value))));
            let class = class.map_or(String::new(), |class| format!(", {}", class_word(class)));
            format!("{}: {}{class}, over {}.", cell(name), parts.join(", "), counted(*samples, "sample"))
        }
        Finding::CellChanged { from, to, after_samples, changes } => {
            let first =
                format!("from {} to {} after {}", cell(from), cell(to), counted(*after_samples, "sample"));
            match changes {
                1 => {
                    format!("The serving cell changed {first}: these are readings of two cells, not of one.")
                }
                _ => format!(
                    "The serving cell changed {changes} times, first {first}: these are not readings of one cell."
                ),
            }
        }
        Finding::NrCameAndWent { heard, of } => {
            format!("5G was heard in {heard} of {of} samples; it comes and goes when the line is quiet.",)
        }
        Finding::OutsideRange { cell: name, metric, samples } => format!(
            "{}: the gateway reported a {} outside the standard's range in {}. It is kept and marked.",
            cell(name),
            metric_words(*metric),
            counted(*samples, "sample"),
        ),
        Finding::PartialRun { reason: Some(reason) } => format!("This run is not whole: {reason}"),
        Finding::PartialRun { reason: None } => "This run is not whole.".into(),
        Finding::NothingToCompare { with_tests: 0 } => {
            "Nothing to compare yet: record at least two setups with three speed tests each.".into()
        }
        Finding::NothingToCompare { .. } => "Choose at least two setups to compare.".into(),
        Finding::PartialLeftOut { tests } => {
            format!("{} cut short, left out of these figures.", capital(&counted(*tests, "test")))
        }
        Finding::BestOf { setup, of } => {
            format!("{setup} has the best download of {}.", counted(*of, "setup"))
        }
        other => comparison::sentence(other),
    }
}

fn setup_figures(
    setup: &str,
    (tests, sittings): (usize, usize),
    down: Option<f64>,
    up: Option<f64>,
    idle: Option<f64>,
) -> String {
    let mut parts = Vec::new();
    parts.extend(down.map(|value| format!("{} down", rate(value))));
    parts.extend(up.map(|value| format!("{} up", rate(value))));
    parts.extend(idle.map(|value| format!("{} latency", milliseconds(value))));
    let visits = if sittings > 1 { format!(" in {}", counted(sittings, "sitting")) } else { String::new() };
    let average = if tests > 1 { "average of " } else { "from " };
    format!("{setup} gives {} ({average}{}{visits}).", listed(&parts), counted(tests, "test"))
}

fn bands_differ(only_setup: &[String], only_baseline: &[String]) -> String {
    match (only_setup.is_empty(), only_baseline.is_empty()) {
        (false, true) => format!("Only this setup used {}.", listed(only_setup)),
        (true, false) => format!("Only the baseline used {}.", listed(only_baseline)),
        _ => format!("{} here only; {} at the baseline only.", listed(only_setup), listed(only_baseline)),
    }
}

fn hours(span: HourSpan) -> String {
    if span.first == span.last {
        format!("at about {:02}:00", span.first)
    } else {
        format!("between {:02}:00 and {:02}:59", span.first, span.last)
    }
}

fn cells(names: &[CellName]) -> String {
    let words: Vec<String> = names.iter().map(cell).collect();
    listed(&words)
}

fn traffic(kinds: &[Activity]) -> String {
    let words: Vec<String> = kinds
        .iter()
        .map(|kind| match kind {
            Activity::Idle => "on an idle line".to_owned(),
            Activity::Trickle => "with a trickle of traffic".to_owned(),
            Activity::Loaded => "under load".to_owned(),
            Activity::Unknown => "with traffic not said".to_owned(),
        })
        .collect();
    listed(&words)
}

fn instruments(kinds: &[Instrument]) -> String {
    let words: Vec<String> = kinds
        .iter()
        .map(|kind| match kind {
            Instrument::Gateway => "the gateway".to_owned(),
            Instrument::Phone => "a phone".to_owned(),
            Instrument::Modem => "a second modem".to_owned(),
        })
        .collect();
    listed(&words)
}

fn sources(kinds: &[Source]) -> String {
    let words: Vec<String> = kinds
        .iter()
        .map(|kind| match kind {
            Source::Live => "measured here".to_owned(),
            Source::Typed => "typed in".to_owned(),
        })
        .collect();
    listed(&words)
}

/// "a", "a and b", "a, b and c".
fn listed(words: &[String]) -> String {
    match words {
        [] => String::new(),
        [only] => only.clone(),
        [first @ .., last] => format!("{} and {last}", first.join(", ")),
    }
}

/// "one test", "three tests", "12 tests".
pub fn counted(n: usize, noun: &str) -> String {
    format!("{} {noun}{}", number_word(n), if n == 1 { "" } else { "s" })
}

fn number_word(n: usize) -> String {
    const WORDS: [&str; 7] = ["no", "one", "two", "three", "four", "five", "six"];
    WORDS.get(n).map_or_else(|| n.to_string(), |word| (*word).to_owned())
}

fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}
