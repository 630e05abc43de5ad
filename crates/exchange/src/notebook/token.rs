//! The pieces of a line.

use open_beacon_core::metrics::{Quantity, read_entry};
use open_beacon_core::model::{BandName, Technology};
use open_beacon_core::spelling::read_band;

/// What a number is of, where the line says it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Unit {
    Bearing,
    Rsrp,
    Sinr,
    Rsrq,
    /// Mbit/s, which way is not said.
    Rate,
    Download,
    Upload,
    Latency,
    /// Tests that the figures are the average of.
    Tests,
}

/// A piece of a line.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Token {
    Word(String),
    Band(BandName),
    Clock(String),
    /// "266/23.6/36".
    Speeds(Vec<f64>),
    /// A number and what it is of, if that is said.
    Number(f64, Option<Unit>),
}

/// What a word before a number, or a unit after it, says. `None` for other words.
fn unit(word: &str) -> Option<Unit> {
    Some(match word {
        "rsrp" | "dbm" => Unit::Rsrp,
        "sinr" | "snr" | "db" => Unit::Sinr,
        "rsrq" => Unit::Rsrq,
        "down" | "dl" | "download" => Unit::Download,
        "up" | "ul" | "upload" => Unit::Upload,
        "ping" | "latency" | "idle" => Unit::Latency,
        "true" => Unit::Bearing,
        "avg" | "average" | "mean" => Unit::Tests,
        _ => return None,
    })
}

/// A number with the unit that follows it, in the unit that its quantity is kept in: bytes become bits, Gbit/s Mbit/s. One letter for a rate or
/// for seconds is no unit here: it may begin a note.
fn in_unit(value: f64, word: &str) -> Option<(f64, Unit)> {
    let lower = word.to_lowercase();
    // What begins with a digit is another number, not this one's unit.
    let is_number = word.starts_with(|sign: char| sign.is_ascii_digit() || "+-.,".contains(sign));
    if word.is_empty() || is_number || matches!(&lower[..], "m" | "s") {
        return None;
    }
    if let Some(unit) = unit(&lower).filter(|_| !is_label(&lower)) {
        return Some((value, unit));
    }
    let read = |quantity| read_entry(quantity, Technology::Nr, &format!("{value}{word}")).ok();
    [(Quantity::Rate, Unit::Rate), (Quantity::Latency, Unit::Latency), (Quantity::Bearing, Unit::Bearing)]
        .into_iter()
        .find_map(|(quantity, unit)| Some((read(quantity)?.value, unit)))
}

/// Whether a word stands before its number and not after it.
fn is_label(word: &str) -> bool {
    matches!(
        word,
        "rsrp"
            | "sinr"
            | "snr"
            | "rsrq"
            | "down"
            | "dl"
            | "download"
            | "up"
            | "ul"
            | "upload"
            | "ping"
            | "latency"
            | "idle"
            | "avg"
            | "average"
            | "mean"
    )
}

fn number(text: &str) -> Option<f64> {
    let fine = |sign: char| sign.is_ascii_digit() || matches!(sign, '.' | ',' | '-' | '+');
    if text.is_empty() || !text.chars().all(fine) || !text.contains(|sign: char| sign.is_ascii_digit()) {
        return None;
    }
    text.replace(',', ".").parse().ok().filter(|value: &f64| value.is_finite())
}

/// A number with a unit written to it: "143°", "36ms".
fn with_unit(text: &str) -> Option<(f64, Unit)> {
    let end = text.find(|sign: char| !(sign.is_ascii_digit() || matches!(sign, '.' | ',' | '-' | '+')))?;
    in_unit(number(&text[..end])?, &text[end..])
}

fn clock(text: &str) -> Option<String> {
    let (hour, minute) = text.split_once(':')?;
    let fine = |part: &str, most: u32| {
        (1..=2).contains(&part.len()) && part.parse::<u32>().is_ok_and(|value| value < most)
    };
    (fine(hour, 24) && minute.len() == 2 && fine(minute, 60)).then(|| format!("{hour:0>2}:{minute}"))
}

fn speeds(text: &str) -> Option<Vec<f64>> {
    let parts: Vec<f64> = text.split('/').map(number).collect::<Option<_>>()?;
    (2..=3).contains(&parts.len()).then_some(parts)
}

/// Pieces of a line, in its order.
pub(super) fn tokens(line: &str) -> Vec<Token> {
    let plain = line.replace(['−', '–'], "-").replace(['\u{202f}', '\u{a0}'], " ");
    let mut found = Vec::new();
    let mut label: Option<(String, Unit)> = None;
    for piece in plain.split(|sign: char| sign.is_whitespace() || matches!(sign, ';' | '|' | '=')) {
        // A comma or colon at the end parts one thing from the next; between digits it is a decimal sign or a clock's.
        let piece = piece.trim_end_matches([',', ':', '.']);
        let word = piece.to_lowercase();
        if piece.is_empty() {
            continue;
        }
        if let Some((name, rest)) = word.split_once(':')
            && is_label(name)
            && let (Some(value), Some(unit)) = (number(rest), unit(name))
        {
            found.push(Token::Number(value, Some(unit)));
            continue;
        }
        let bare = match found.last() {
            Some(Token::Number(value, None)) => in_unit(*value, piece),
            _ => None,
        };
        match (number(piece), unit(&word)) {
            (Some(value), _) => found.push(Token::Number(value, label.take().map(|(_, unit)| unit))),
            (None, None) if word == "of" && label.as_ref().is_some_and(|(_, unit)| *unit == Unit::Tests) => {}
            (None, Some(unit)) if is_label(&word) => label = Some((piece.to_owned(), unit)),
            (None, _) if bare.is_some() => {
                found.pop();
                found.extend(bare.map(|(value, unit)| Token::Number(value, Some(unit))));
            }
            // A unit after a number that said already what it is of.
            (None, Some(_)) => {}
            (None, None) if in_unit(1.0, piece).is_some() && labelled(&mut found, piece) => {}
            (None, None) => found.push(other(piece)),
        }
    }
    // A label that no number followed was a word.
    if let Some((word, _)) = label {
        found.push(Token::Word(word));
    }
    found
}

/// Whether a unit belongs to the labelled number before it ("down 30 MB/s"), which is then brought to the kept unit.
fn labelled(found: &mut [Token], word: &str) -> bool {
    let Some(Token::Number(value, Some(_))) = found.last_mut() else { return false };
    if let Some((converted, _)) = in_unit(*value, word) {
        *value = converted;
    }
    true
}

fn other(piece: &str) -> Token {
    if let Some((value, unit)) = with_unit(piece) {
        return Token::Number(value, Some(unit));
    }
    if let Some(band) = read_band(piece) {
        return Token::Band(band);
    }
    if let Some(clock) = clock(piece) {
        return Token::Clock(clock);
    }
    speeds(piece).map_or_else(|| Token::Word(piece.to_owned()), Token::Speeds)
}
