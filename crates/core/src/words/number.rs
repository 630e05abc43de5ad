//! Numbers as they are shown: true minus sign, unit after a thin no-break space, no more digits than were measured.

use crate::capacity::Estimate;
use crate::geo::normalise_bearing_deg;
use crate::model::Units;

/// Thin no-break space between a number and its unit.
const THIN: char = '\u{202f}';

/// A number with `decimals` digits and a true minus sign.
pub fn signed(value: f64, decimals: usize) -> String {
    let text = format!("{:.decimals$}", value.abs());
    let is_zero = text.chars().all(|c| matches!(c, '0' | '.'));
    if value < 0.0 && !is_zero { format!("−{text}") } else { text }
}

/// Whole dBm: "−88 dBm".
pub fn power_dbm(value: f64) -> String {
    format!("{}{THIN}dBm", signed(value, 0))
}

/// Half decibels: "14.5 dB", "11 dB".
pub fn decibels(value: f64) -> String {
    let halves = (value * 2.0).round() / 2.0;
    format!("{}{THIN}dB", signed(halves, usize::from(halves.fract() != 0.0)))
}

/// Three significant figures: "113 Mbit/s", "42.1 Mbit/s", "0.85 Mbit/s".
pub fn rate(mbps: f64) -> String {
    format!("{}{THIN}Mbit/s", significant(mbps))
}

/// Two significant figures, for what is predicted and not measured: "190 Mbit/s", "8.4 Mbit/s".
pub fn rough_rate(mbps: f64) -> String {
    if mbps <= 0.0 {
        return rate(0.0);
    }
    let step = 10f64.powf(mbps.log10().floor() - 1.0);
    let rounded = (mbps / step).round() * step;
    // Rounding may have added a figure: 9.96 is 10, not 10.0.
    let decimals = usize::from(rounded < 9.95) + usize::from(rounded < 0.995);
    format!("{}{THIN}Mbit/s", signed(rounded, decimals))
}

/// "20 to 80 Mbit/s", of what is predicted.
pub fn rate_range(of: Estimate) -> String {
    let [low, high] = [of.low, of.high].map(rough_rate);
    if low == high { high } else { format!("{} to {high}", low.trim_end_matches("\u{202f}Mbit/s")) }
}

fn significant(value: f64) -> String {
    let decimals = if value >= 99.95 {
        0
    } else if value >= 9.995 {
        1
    } else {
        2
    };
    signed(value, decimals)
}

/// "20 MHz", "1.4 MHz".
pub fn megahertz(mhz: f64) -> String {
    format!("{}{THIN}MHz", signed(mhz, usize::from(mhz.fract() != 0.0)))
}

/// A probability, 0 to 1, after a verb: "in about 7 of 10 cases".
///
/// ```
/// use open_beacon_core::words::in_cases;
/// assert_eq!((in_cases(0.71), in_cases(0.97)), ("in about 7 of 10 cases".into(), "almost always".into()));
/// ```
pub fn in_cases(chance: f64) -> String {
    match (chance * 10.0).round() {
        _ if chance > 0.95 => "almost always".into(),
        _ if chance < 0.05 => "hardly ever".into(),
        tenths => format!("in about {} of 10 cases", signed(tenths.clamp(1.0, 9.0), 0)),
    }
}

/// Whole milliseconds: "38 ms".
pub fn milliseconds(ms: f64) -> String {
    format!("{}{THIN}ms", signed(ms, 0))
}

/// Whole degrees from true north: "131° T".
pub fn bearing(azimuth_deg: f64) -> String {
    format!("{:.0}°{THIN}T", normalise_bearing_deg(azimuth_deg.round()))
}

/// "6.4 m" or "21 ft".
pub fn length(metres: f64, units: Units) -> String {
    match units {
        Units::Metric => format!("{}{THIN}m", signed(metres, 1)),
        Units::Imperial => format!("{}{THIN}ft", signed(metres / 0.3048, 0)),
    }
}

/// A ratio in words: "2.4 times", "11 times".
pub fn times(ratio: f64) -> String {
    format!("{} times", plain_times(ratio))
}

/// A ratio without its word, two or three figures: "2.4", "11".
pub fn plain_times(ratio: f64) -> String {
    signed(ratio, usize::from(ratio < 9.95) + usize::from(ratio < 0.995))
}

/// Data: "740 MB", "1.2 GB".
pub fn megabytes(mb: f64) -> String {
    if mb < 995.0 { format!("{:.0}{THIN}MB", mb.ceil()) } else { format!("{}{THIN}GB", signed(mb / 1e3, 1)) }
}

/// A share as whole percent: "42 %".
pub fn share(ratio: f64) -> String {
    format!("{}{THIN}%", signed(ratio * 100.0, 0))
}
