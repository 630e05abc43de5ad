//! Which number of a line is what.

use super::token::{Token, Unit};
use open_beacon_core::limits::MOST_AVERAGED;
use open_beacon_core::metrics::{Note, Quantity, read_entry};
use open_beacon_core::model::{BandName, Technology};

/// The figures of a line.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Figures {
    pub(super) bearing_deg: Option<f64>,
    pub(super) band: Option<BandName>,
    pub(super) rsrp_dbm: Option<f64>,
    pub(super) sinr_db: Option<f64>,
    pub(super) rsrq_db: Option<f64>,
    pub(super) download_mbps: Option<f64>,
    pub(super) upload_mbps: Option<f64>,
    pub(super) idle_latency_ms: Option<f64>,
    pub(super) average_of: Option<f64>,
    pub(super) clock: Option<String>,
    pub(super) notes: Vec<String>,
    pub(super) taken: Vec<String>,
    pub(super) question: Option<String>,
}

impl Figures {
    /// Puts a value where it belongs; a second one for the same place is asked about.
    fn put(&mut self, unit: Unit, value: f64) {
        let place = match unit {
            Unit::Bearing => &mut self.bearing_deg,
            Unit::Rsrp => &mut self.rsrp_dbm,
            Unit::Sinr => &mut self.sinr_db,
            Unit::Rsrq => &mut self.rsrq_db,
            Unit::Rate if self.download_mbps.is_some() => &mut self.upload_mbps,
            Unit::Rate | Unit::Download => &mut self.download_mbps,
            Unit::Upload => &mut self.upload_mbps,
            Unit::Latency => &mut self.idle_latency_ms,
            Unit::Tests => &mut self.average_of,
        };
        if let Some(before) = place {
            let asked =
                format!("{before} and {value} would both be {}. One line holds one result.", named(unit));
            self.question.get_or_insert(asked);
        } else {
            *place = Some(value);
        }
    }

    fn speeds(&mut self, speeds: &[f64]) {
        for (unit, value) in [Unit::Download, Unit::Upload, Unit::Latency].into_iter().zip(speeds) {
            self.put(unit, *value);
        }
    }
}

fn named(unit: Unit) -> &'static str {
    match unit {
        Unit::Bearing => "the bearing",
        Unit::Rsrp => "signal power",
        Unit::Sinr => "signal-to-noise",
        Unit::Rsrq => "signal quality",
        Unit::Download | Unit::Rate => "the download",
        Unit::Upload => "the upload",
        Unit::Latency => "the latency",
        Unit::Tests => "the number of tests",
    }
}

/// Gives every number of a line its meaning. Those that say what they are of come first; then the bare ones by their order: bearing,
/// signal power, signal-to-noise, download, upload, latency. `azimuths` are the bearings of setups that there are, `before` is the band
/// of the line before.
pub(super) fn assign(tokens: &[Token], azimuths: &[f64], before: Option<BandName>) -> Figures {
    let mut figures = Figures::default();
    let mut bare = Vec::new();
    let mut named_yet = false;
    for token in tokens {
        match token {
            Token::Word(word) if named_yet => figures.notes.push(word.clone()),
            Token::Word(_) => continue,
            Token::Band(band) if figures.band.is_none() => figures.band = Some(*band),
            Token::Band(_) => {
                let asked = "Two bands stand in one line. One line holds one result.";
                figures.question.get_or_insert_with(|| asked.into());
            }
            Token::Clock(clock) => figures.clock = Some(clock.clone()),
            Token::Speeds(speeds) => figures.speeds(speeds),
            Token::Number(value, Some(unit)) => figures.put(*unit, *value),
            Token::Number(value, None) => bare.push(*value),
        }
        named_yet = true;
    }
    bearing(&mut figures, &mut bare, azimuths);
    by_order(&mut figures, &bare);
    let technology = figures.band.or(before).map_or(Technology::Nr, |band| band.technology);
    as_fields_read(&mut figures, technology);
    let counted = |tests: &f64| tests.fract() == 0.0 && (1.0..=f64::from(MOST_AVERAGED)).contains(tests);
    if figures.average_of.is_some_and(|tests| !counted(&tests)) {
        let asked =
            format!("How many tests is it the average of? A whole number up to {MOST_AVERAGED}: avg 3.");
        figures.question.get_or_insert(asked);
    }
    figures
}

/// The first bare number is a bearing where it can be one and a setup points there, or a signal power follows it.
fn bearing(figures: &mut Figures, bare: &mut Vec<f64>, azimuths: &[f64]) {
    let Some(first) = bare.first().copied() else { return };
    let can_be = figures.bearing_deg.is_none() && (0.0..=360.0).contains(&first);
    let points = azimuths.iter().any(|azimuth| (azimuth - first).abs() < 0.5);
    let power_follows = bare.get(1).is_some_and(|second| *second < -30.0) || figures.rsrp_dbm.is_some();
    if can_be && (points || power_follows) {
        figures.bearing_deg = Some(first);
        bare.remove(0);
    }
}

fn by_order(figures: &mut Figures, bare: &[f64]) {
    const SIGNAL: [Unit; 2] = [Unit::Rsrp, Unit::Sinr];
    const SPEED: [Unit; 3] = [Unit::Download, Unit::Upload, Unit::Latency];
    const ALL: [Unit; 5] = [Unit::Rsrp, Unit::Sinr, Unit::Download, Unit::Upload, Unit::Latency];
    let has_speed = figures.download_mbps.is_some();
    let has_power = figures.rsrp_dbm.is_some();
    let power_first = bare.first().is_some_and(|first| *first < -30.0);
    let meant: &[Unit] = match (bare.len(), has_speed, has_power, power_first) {
        (0, ..) => &[],
        (1, true, true, false) => &SIGNAL[1..],
        (1, _, false, true) | (2, true, false, _) => &SIGNAL[..bare.len()],
        (2, false, false, true) => &SIGNAL,
        (3, false, _, false) => &SPEED,
        (4, false, true, false) => &ALL[1..],
        (5, false, false, _) => &ALL,
        _ => {
            let numbers: Vec<String> = bare.iter().map(f64::to_string).collect();
            let asked = format!(
                "What is {}? Write signal with its unit and speeds together: -92 dBm 24 dB 266/23.6/36.",
                numbers.join(" ")
            );
            figures.question.get_or_insert(asked);
            &[]
        }
    };
    for (unit, value) in meant.iter().zip(bare) {
        figures.put(*unit, *value);
    }
}

/// By the rules of the fields that one value is typed into: a minus sign that is missing, and what a value can be.
fn as_fields_read(figures: &mut Figures, technology: Technology) {
    let all = [
        (Unit::Bearing, Quantity::Bearing, &mut figures.bearing_deg),
        (Unit::Rsrp, Quantity::Rsrp, &mut figures.rsrp_dbm),
        (Unit::Sinr, Quantity::Sinr, &mut figures.sinr_db),
        (Unit::Rsrq, Quantity::Rsrq, &mut figures.rsrq_db),
        (Unit::Download, Quantity::Rate, &mut figures.download_mbps),
        (Unit::Upload, Quantity::Rate, &mut figures.upload_mbps),
        (Unit::Latency, Quantity::Latency, &mut figures.idle_latency_ms),
    ];
    for (unit, quantity, place) in all {
        let Some(value) = place else { continue };
        let Ok(entry) = read_entry(quantity, technology, &value.to_string()) else { continue };
        *value = entry.value;
        if entry.notes.contains(&Note::MadeNegative) {
            figures.taken.push("minus sign added".into());
        }
        if !entry.in_range {
            let (least, most, sign) = (entry.range.low, entry.range.high, quantity.unit());
            let asked =
                format!("{value} {sign} cannot be {}: it runs from {least} to {most} {sign}.", named(unit));
            figures.question.get_or_insert(asked);
        }
    }
}
