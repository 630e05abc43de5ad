//! Numbers as tables write them, and the units of their columns.

use open_beacon_core::metrics::Quantity;
use open_beacon_core::model::{DecimalSign, ResultField};

/// What a number tells of the decimal sign; both where nothing contradicts either.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Tells {
    Point,
    Comma,
    /// "1,234" and "1.234".
    Either,
    Nothing,
}

/// A number without its unit and the signs that group digits.
fn bare(text: &str) -> String {
    let digits = |sign: &char| sign.is_ascii_digit() || matches!(sign, '.' | ',');
    text.chars().filter(digits).collect()
}

pub(super) fn tells(text: &str) -> Tells {
    let bare = bare(text);
    match (bare.rfind('.'), bare.rfind(',')) {
        (Some(point), Some(comma)) if point > comma => Tells::Point,
        (Some(_), Some(_)) => Tells::Comma,
        (None, None) => Tells::Nothing,
        (point, comma) => {
            let at = point.or(comma).unwrap_or(0);
            let several = bare.matches(['.', ',']).count() > 1;
            let grouped = (1..=3).contains(&at) && bare.len() - at == 4 && !bare.starts_with('0');
            match (several, grouped, point.is_some()) {
                // Signs that come twice group digits.
                (true, _, true) => Tells::Comma,
                (true, _, false) => Tells::Point,
                (false, true, _) => Tells::Either,
                (false, false, true) => Tells::Point,
                (false, false, false) => Tells::Comma,
            }
        }
    }
}

/// With a decimal point and nothing that groups digits.
pub(super) fn plain(text: &str, decimal: DecimalSign) -> String {
    let grouping = match decimal {
        DecimalSign::Point => ',',
        DecimalSign::Comma => '.',
    };
    let kept = |sign: &char| *sign != grouping && !matches!(sign, '\'' | '’' | '_' | '\u{a0}' | '\u{202f}');
    text.chars().filter(kept).map(|sign| if sign == ',' { '.' } else { sign }).collect()
}

/// What a field's values are.
pub(super) fn quantity(field: ResultField) -> Option<Quantity> {
    match field {
        ResultField::Bearing => Some(Quantity::Bearing),
        ResultField::Rsrp => Some(Quantity::Rsrp),
        ResultField::Sinr => Some(Quantity::Sinr),
        ResultField::Rsrq => Some(Quantity::Rsrq),
        ResultField::Download | ResultField::Upload => Some(Quantity::Rate),
        ResultField::Latency => Some(Quantity::Latency),
        _ => None,
    }
}

/// Units to choose from, the kept one first.
pub(super) fn units(field: ResultField) -> &'static [&'static str] {
    match quantity(field) {
        Some(Quantity::Rate) => &["Mbit/s", "kbit/s", "bit/s", "Gbit/s", "MB/s"],
        Some(Quantity::Latency) => &["ms", "s"],
        _ => &[],
    }
}

/// The unit that a heading names: "Download (kbit/s)", "ping_ms".
pub(super) fn unit_in(heading: &str, field: ResultField) -> String {
    let spelled: &[(&str, &str)] = match quantity(field) {
        Some(Quantity::Rate) => &[
            ("Mbit/s", "Mbit/s"),
            ("Mbps", "Mbit/s"),
            ("Mb/s", "Mbit/s"),
            ("MB/s", "MB/s"),
            ("kbit/s", "kbit/s"),
            ("kbps", "kbit/s"),
            ("Gbit/s", "Gbit/s"),
            ("Gbps", "Gbit/s"),
            ("bit/s", "bit/s"),
            ("bps", "bit/s"),
        ],
        Some(Quantity::Latency) => &[("ms", "ms"), ("s", "s")],
        _ => &[],
    };
    let words: Vec<&str> = heading.split([' ', '(', ')', '[', ']', '_', ',', ';']).collect();
    // As it is written first: MB/s and Mb/s differ by their case alone.
    let exact = spelled.iter().find(|(known, _)| words.contains(known));
    let loose =
        || spelled.iter().find(|(known, _)| words.iter().any(|word| word.eq_ignore_ascii_case(known)));
    exact.or_else(loose).map(|(_, unit)| (*unit).to_owned()).unwrap_or_default()
}
