//! The pieces of a line.

use open_beacon_core::model::BandName;
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
        "mbit/s" | "mbps" | "mbit" | "mb/s" => Unit::Rate,
        "down" | "dl" | "download" => Unit::Download,
        "up" | "ul" | "upload" => Unit::Upload,
        "ms" | "ping" | "latency" | "idle" => Unit::Latency,
        "°" | "deg" | "°t" | "degrees" | "t" | "true" => Unit::Bearing,
        _ => return None,
    })
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
    Some((number(&text[..end])?, unit(&text[end..])?))
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
        let last_is_bare = matches!(found.last(), Some(Token::Number(_, None)));
        match (number(piece), unit(&word)) {
            (Some(value), _) => found.push(Token::Number(value, label.take().map(|(_, unit)| unit))),
            (None, Some(unit)) if is_label(&word) => label = Some((piece.to_owned(), unit)),
            (None, Some(unit)) if last_is_bare => {
                if let Some(Token::Number(_, of)) = found.last_mut() {
                    *of = Some(unit);
                }
            }
            // A unit after a number that said already what it is of.
            (None, Some(_)) => {}
            (None, None) => {
                found.push(other(piece, &word));
            }
        }
    }
    // A label that no number followed was a word.
    if let Some((word, _)) = label {
        found.push(Token::Word(word));
    }
    found
}

fn other(piece: &str, word: &str) -> Token {
    if let Some((value, unit)) = with_unit(word) {
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
