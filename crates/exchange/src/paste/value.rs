//! From the text beside a label to a value.

use super::token::{Kind, misread, tokens};
use super::words::{Modifier, Sure, Term, folded, modifier};
use super::{Confidence, PasteTarget};
use open_beacon_core::bands::{bands_of_channel, lte_band_of_earfcn};
use open_beacon_core::metrics::{Note, Quantity, read_entry};
use open_beacon_core::model::{ConnectionMode, Technology};

/// A value of one field.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Value {
    Number(PasteTarget, f64),
    Whole(PasteTarget, u64),
    /// A band, with its technology where it is written with a letter.
    Band(Option<Technology>, u16),
    Mode(ConnectionMode),
    /// A channel number, and whether it is said to be the SSB's.
    Channel(u32, bool),
}

impl Value {
    /// The technology that the value itself says: a band by its letter, a channel number that LTE does not have.
    pub fn technology(&self) -> Option<Technology> {
        match self {
            Self::Band(technology, _) => *technology,
            Self::Channel(channel, _) if only_nr_has(*channel) => Some(Technology::Nr),
            _ => None,
        }
    }
}

fn only_nr_has(channel: u32) -> bool {
    lte_band_of_earfcn(channel).is_none() && !bands_of_channel(Technology::Nr, channel).is_empty()
}

/// A value with the text it came from.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Found {
    pub value: Value,
    pub text: String,
    pub confidence: Confidence,
    pub note: Option<String>,
}

/// Numbers that firmware uses for "not known".
fn sentinel(number: f64) -> bool {
    [32_767.0, -32_768.0, 65_535.0, 2_147_483_647.0, -2_147_483_648.0, 4_294_967_295.0].contains(&number)
}

/// Reads the values of a field from the text beside its label; several bands give several values. `None` where
/// there is none to be had.
pub(super) fn read_value(
    term: Term,
    sure: Sure,
    text: &str,
    technology: Option<Technology>,
) -> Option<Vec<Found>> {
    let found = match term {
        Term::Rsrp => metric(PasteTarget::Rsrp, Quantity::Rsrp, sure, text, technology),
        Term::Rsrq => metric(PasteTarget::Rsrq, Quantity::Rsrq, sure, text, technology),
        Term::Sinr => metric(PasteTarget::Sinr, Quantity::Sinr, sure, text, technology),
        Term::Rssi => metric(PasteTarget::Rssi, Quantity::Rssi, sure, text, technology),
        Term::Bandwidth => bandwidth_in_khz(text)
            .or_else(|| metric(PasteTarget::Bandwidth, Quantity::Bandwidth, sure, text, technology)),
        Term::Band => return bands(text),
        Term::Mode => mode(text),
        Term::Channel | Term::SsbChannel => channel(text, term == Term::SsbChannel),
        Term::Pci => pci(text, technology),
        Term::CellIdentity => identity(text),
        Term::Rank => small(PasteTarget::Rank, text, 8),
        Term::Cqi => small(PasteTarget::Cqi, text, 15),
        Term::Mcs => small(PasteTarget::Mcs, text, 31),
        Term::TimingAdvance => small(PasteTarget::TimingAdvance, text, 4_000),
        Term::TransmitPower => number(text).and_then(|(value, text)| {
            (-60.0..=40.0)
                .contains(&value)
                .then(|| sure_one(Value::Number(PasteTarget::TransmitPower, value), text))
        }),
        Term::Passed => None,
    };
    found.map(|found| vec![found])
}

fn sure_one(value: Value, text: String) -> Found {
    Found { value, text, confidence: Confidence::High, note: None }
}

/// First number of a text.
fn number(text: &str) -> Option<(f64, String)> {
    let token = tokens(text).into_iter().find(|token| token.kind == Kind::Number)?;
    let plain: String = token
        .text
        .chars()
        .filter(|c| !c.is_whitespace())
        .map(|c| match c {
            '−' | '–' | '—' => '-',
            ',' => '.',
            other => other,
        })
        .collect();
    let value: f64 = plain.trim_start_matches('+').parse().ok()?;
    (value.is_finite() && !sentinel(value)).then_some((value, token.text))
}

fn whole(text: &str, highest: u64) -> Option<(u64, String)> {
    let (value, text) = number(text)?;
    let fits = value.fract() == 0.0 && (0.0..=highest as f64).contains(&value);
    fits.then_some((value as u64, text))
}

fn small(target: PasteTarget, text: &str, highest: u64) -> Option<Found> {
    whole(text, highest).map(|(value, text)| sure_one(Value::Whole(target, value), text))
}

/// Highest channel number, NR-ARFCN: TS 38.104, table 5.4.2.1-1.
const HIGHEST_CHANNEL: u64 = 3_279_165;

/// "428.000", "1,300" and "427 970" are one number each: digits in threes behind a mark, where a channel number has no decimals.
fn in_thousands(text: &str) -> Option<(u64, String)> {
    let is_mark = |sign: char| matches!(sign, '.' | ',' | ' ' | '\u{a0}' | '\u{202f}' | '\'' | '’');
    let from = text.find(|sign: char| sign.is_ascii_digit())?;
    let to = from
        + text[from..]
            .find(|sign: char| !sign.is_ascii_digit() && !is_mark(sign))
            .unwrap_or(text.len() - from);
    let run = text[from..to].trim_end_matches(is_mark);
    let groups: Vec<&str> = run.split(is_mark).collect();
    let (first, rest) = groups.split_first()?;
    // Two numbers beside each other look the same: a blank counts where nothing else stands there.
    let alone = !run.contains(' ') || run == text.trim();
    let fine = alone
        && !rest.is_empty()
        && (1..=3).contains(&first.len())
        && rest.iter().all(|group| group.len() == 3);
    let value = groups.concat().parse().ok().filter(|value| *value <= HIGHEST_CHANNEL)?;
    fine.then(|| (value, run.to_owned()))
}

fn channel(text: &str, of_ssb: bool) -> Option<Found> {
    if has_misread_thousands(text) {
        return None;
    }
    if let Some((value, text)) = in_thousands(text) {
        let note = Some("Read as one number with a mark between thousands; check it.".into());
        return Some(Found {
            value: Value::Channel(value as u32, of_ssb),
            text,
            confidence: Confidence::Medium,
            note,
        });
    }
    whole(text, HIGHEST_CHANNEL).map(|(value, text)| sure_one(Value::Channel(value as u32, of_ssb), text))
}

/// Whether what follows a mark between thousands was misread, "6 3O0": the digits before it are no number by themselves.
fn has_misread_thousands(text: &str) -> bool {
    let after = text
        .trim_start_matches(|c: char| !c.is_ascii_digit())
        .trim_start_matches(|c: char| c.is_ascii_digit());
    let group = after.strip_prefix(|c: char| c.is_whitespace() || matches!(c, '.' | ',' | '\''));
    let word = |group: &str| group.chars().take_while(|c| c.is_alphanumeric()).collect::<String>();
    group.map(word).is_some_and(|word| word.len() == 3 && misread(&word))
}

/// Physical cell identities: 0 to 503 in LTE (TS 36.211, 6.11), 0 to 1007 in NR (TS 38.211, 7.4.2.1).
fn pci(text: &str, technology: Option<Technology>) -> Option<Found> {
    let found = small(PasteTarget::Pci, text, 1007)?;
    let odd = technology == Some(Technology::Lte) && matches!(found.value, Value::Whole(_, 504..));
    let note = odd.then(|| "LTE ends at 503; check it, or the technology.".into());
    Some(if odd { Found { confidence: Confidence::Low, note, ..found } } else { found })
}

/// Widths of carriers, MHz: TS 36.101, table 5.6-1, and TS 38.101-1, table 5.3.5-1.
const WIDTHS_MHZ: [f64; 17] =
    [1.4, 3.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0, 45.0, 50.0, 60.0, 70.0, 80.0, 90.0, 100.0];

/// A bandwidth without a unit that is none in MHz and one in kHz.
fn bandwidth_in_khz(text: &str) -> Option<Found> {
    let all = tokens(text);
    let at = all.iter().position(|token| token.kind == Kind::Number)?;
    let bare = !all.get(at + 1).is_some_and(|token| matches!(token.text.as_str(), "mhz" | "khz" | "ghz"));
    let (khz, text) = number(text).filter(|(value, _)| bare && *value >= 1000.0)?;
    let mhz = WIDTHS_MHZ.into_iter().find(|width| (width * 1000.0 - khz).abs() < 0.5)?;
    let note = Some("Read as kHz: in MHz no carrier is so wide.".into());
    Some(Found {
        value: Value::Number(PasteTarget::Bandwidth, mhz),
        text,
        confidence: Confidence::Medium,
        note,
    })
}

/// A radio metric or bandwidth, read as a field would be: forgivingly, saying what was mended.
fn metric(
    target: PasteTarget,
    quantity: Quantity,
    sure: Sure,
    text: &str,
    technology: Option<Technology>,
) -> Option<Found> {
    let all = tokens(text);
    let at = all.iter().position(|token| token.kind == Kind::Number)?;
    let number = &all[at];
    let unit = all.get(at + 1).filter(|token| token.kind == Kind::Word && token.start <= number.end + 1);
    let known = |word: &str| matches!(word, "dbm" | "db" | "mhz" | "khz" | "ghz");
    let unit = unit.map(|token| token.text.as_str()).filter(|word| known(word));
    // A percentage or a count of bars is not a level.
    let percent = all.get(at + 1).is_some_and(|token| token.text == "%" || token.text == "/");
    if percent || all.get(at + 1).is_some_and(|token| token.text.starts_with("bar")) {
        return None;
    }
    let technology = technology.unwrap_or(Technology::Lte);
    let entry = read_entry(quantity, technology, &format!("{}{}", number.text, unit.unwrap_or(""))).ok();
    // A unit of another quantity ("dBm" behind a SINR) is not held against the number.
    let odd_unit = entry.is_none();
    let entry = match entry {
        Some(entry) => entry,
        None => read_entry(quantity, technology, &number.text).ok()?,
    };
    // 255 is what an eighth of a word full of ones reads: "not known" by TS 27.007, 8.69, and on many pages.
    let fill = entry.value.abs() == 255.0 && target != PasteTarget::Bandwidth;
    if fill || sentinel(entry.value) || sentinel(-entry.value) || !entry.value.is_finite() {
        return None;
    }
    let value_text = text[number.start..unit.map_or(number.end, |_| all[at + 1].end)].to_owned();
    let loose = sure == Sure::Loose;
    // At a loose word, only a value that can be nothing else is believed.
    if loose && (!entry.in_range || entry.notes.contains(&Note::MadeNegative)) {
        return None;
    }
    if loose && target == PasteTarget::Rsrp && entry.value > -44.0 {
        return None;
    }
    if loose && target == PasteTarget::Rsrq && !(-25.0..=-2.0).contains(&entry.value) {
        return None;
    }
    let more = all[at + 1..].iter().filter(|token| token.kind == Kind::Number).count();
    let (confidence, note) = if loose {
        (Confidence::Low, Some("The label could mean several things; check it."))
    } else if entry.notes.contains(&Note::MadeNegative) {
        (Confidence::Medium, Some("Read as negative: the minus sign is missing."))
    } else if odd_unit {
        (Confidence::Medium, Some("The unit beside it is not this quantity's; it was passed over."))
    } else if more > 0 && quantity != Quantity::Bandwidth {
        (Confidence::Medium, Some("Several values stand here; the first is taken."))
    } else if entry.notes.contains(&Note::DecimalComma) {
        (Confidence::Medium, Some("The comma is read as a decimal sign."))
    } else {
        (Confidence::High, None)
    };
    let value = Value::Number(target, entry.value);
    Some(Found { value, text: value_text, confidence, note: note.map(Into::into) })
}

/// "B3", "n78", "LTE Band 20 (800 MHz)", "3", "B3 + B20", "EUTRAN-BAND3".
fn bands(text: &str) -> Option<Vec<Found>> {
    let all = tokens(text);
    let mut found: Vec<Found> = Vec::new();
    let mut technology = None;
    // "Secondary 1: LTE B3": where a band is written with its letter, a bare number before it is something else.
    let letters = all.iter().any(|token| token.kind == Kind::Word && lettered(&token.text).is_some());
    for (at, token) in all.iter().enumerate() {
        if let Some(Modifier::Technology(said)) =
            (token.kind == Kind::Word).then(|| modifier(&token.text)).flatten()
        {
            technology = Some(said);
        }
        let written = lettered(&token.text).filter(|_| token.kind == Kind::Word);
        let bare = (token.kind == Kind::Number && (found.is_empty() && !letters || after_plus(&all, at)))
            .then(|| token.text.parse::<u16>().ok())
            .flatten()
            .filter(|band| (1..=261).contains(band) && !unit_follows(&all, at))
            .map(|band| (technology, band));
        if let Some((technology, band)) = written.or(bare) {
            let value = Value::Band(technology, band);
            if !found.iter().any(|other| other.value == value) {
                found.push(sure_one(value, text[token.start..token.end].to_owned()));
            }
        }
    }
    (!found.is_empty()).then_some(found)
}

fn after_plus(all: &[super::token::Token], at: usize) -> bool {
    at > 0 && matches!(all[at - 1].text.as_str(), "+" | "," | "&") || all[at].text.starts_with('+')
}

fn unit_follows(all: &[super::token::Token], at: usize) -> bool {
    all.get(at + 1).is_some_and(|next| matches!(next.text.as_str(), "mhz" | "ghz" | "khz"))
}

/// "b3", "n78", "band3", "lteb3".
pub(super) fn lettered(word: &str) -> Option<(Option<Technology>, u16)> {
    let stem = word.trim_end_matches(|c: char| c.is_ascii_digit());
    let band: u16 = word[stem.len()..].parse().ok().filter(|band| (1..=261).contains(band))?;
    match stem {
        "b" | "lteb" | "lteband" => Some((Some(Technology::Lte), band)),
        "n" | "nrn" | "nrband" => Some((Some(Technology::Nr), band)),
        "band" => Some((None, band)),
        _ => None,
    }
}

fn mode(text: &str) -> Option<Found> {
    let plain = folded(text);
    let words: Vec<&str> =
        plain.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty()).collect();
    let has = |wanted: &str| words.contains(&wanted);
    let mode = if has("nsa") || has("endc") || plain.contains("en-dc") || plain.contains("non-standalone") {
        ConnectionMode::Nsa
    } else if has("sa") || has("standalone") {
        ConnectionMode::Sa
    } else if (has("lte") || has("4g")) && !has("5g") && !has("nr") {
        ConnectionMode::Lte
    } else if (has("no") || has("kein") || has("sin")) && (has("service") || has("servicio") || has("netz")) {
        ConnectionMode::NoService
    } else {
        return None;
    };
    Some(sure_one(Value::Mode(mode), text.trim().to_owned()))
}

/// A cell identity in decimal, or in hexadecimal where it is marked or has letters.
fn identity(text: &str) -> Option<Found> {
    let word = text.trim().trim_matches(|c| c == '"' || c == '(' || c == ')');
    let first = word.split(|c: char| c.is_whitespace() || matches!(c, ',' | '(' | ';')).next()?;
    let hexadecimal = first.strip_prefix("0x").or_else(|| first.strip_prefix("0X"));
    let letters = first.chars().any(|c| c.is_ascii_alphabetic());
    let value = match hexadecimal {
        Some(digits) => u64::from_str_radix(digits, 16).ok()?,
        None if letters => u64::from_str_radix(first, 16).ok()?,
        None => first.parse().ok()?,
    };
    let found = sure_one(Value::Whole(PasteTarget::CellIdentity, value), first.to_owned());
    let unmarked =
        (hexadecimal.is_none() && letters).then(|| "Read as a hexadecimal number. Check it.".to_owned());
    let confidence = if unmarked.is_some() { Confidence::Medium } else { found.confidence };
    (value < 1 << 36 && !sentinel(value as f64)).then_some(Found { confidence, note: unmarked, ..found })
}
