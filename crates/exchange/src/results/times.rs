//! Dates and times as tables write them.

use chrono::{DateTime, LocalResult, NaiveDate, NaiveDateTime, NaiveTime, TimeZone, Utc};
use chrono_tz::Tz;
use open_beacon_core::model::{DateOrder, TableZone};

/// A moment as far as its text tells it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Moment {
    /// With its offset.
    Definite(DateTime<Utc>),
    /// On some clock; `utc` where it says that it is that one.
    Written { date: DateText, clock: NaiveTime, utc: bool },
}

impl Moment {
    /// Whether it depends on whose clock it is.
    pub(super) fn is_local(self) -> bool {
        matches!(self, Self::Written { utc: false, .. })
    }
}

/// Three numbers of a date.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum DateText {
    /// In an order that is clear.
    Date(NaiveDate),
    /// Two numbers up to 31 before a year.
    Either { first: u32, second: u32, year: i32 },
}

impl DateText {
    /// What the date itself says of the order; nothing where both are possible.
    pub(super) fn tells(self) -> Option<DateOrder> {
        match self {
            Self::Either { first, second, .. } if first > 12 && second <= 12 => Some(DateOrder::DayFirst),
            Self::Either { first, second, .. } if second > 12 && first <= 12 => Some(DateOrder::MonthFirst),
            _ => None,
        }
    }

    /// Whether the order makes a difference.
    pub(super) fn is_unclear(self) -> bool {
        matches!(self, Self::Either { first, second, .. } if first != second && first <= 12 && second <= 12)
    }

    fn date(self, order: DateOrder) -> Option<NaiveDate> {
        match (self, order) {
            (Self::Date(date), _) => Some(date),
            (Self::Either { first, second, year }, DateOrder::DayFirst) => {
                NaiveDate::from_ymd_opt(year, second, first)
            }
            (Self::Either { first, second, year }, DateOrder::MonthFirst) => {
                NaiveDate::from_ymd_opt(year, first, second)
            }
        }
    }
}

/// Reads a cell with date and time, or two joined by a space.
///
/// # Errors
/// What works, in words.
pub(super) fn read_moment(text: &str) -> Result<Moment, String> {
    let text = text.trim();
    let definite = DateTime::parse_from_rfc3339(text)
        .or_else(|_| DateTime::parse_from_str(text, "%Y-%m-%d %H:%M:%S%#z"))
        .or_else(|_| DateTime::parse_from_str(text, "%Y-%m-%d %H:%M%#z"));
    if let Ok(at) = definite {
        return Ok(Moment::Definite(at.to_utc()));
    }
    if let Some(at) = since_epoch(text) {
        return Ok(Moment::Definite(at));
    }
    let not_read =
        || format!("“{text}” is no date with a time. 2026-10-12 18:30 works, or 12.10.2026 18:30.");
    // A T between date and time parts them, the one of UTC does not.
    let parts = |at: usize| text[..at].ends_with(|sign: char| sign.is_ascii_digit());
    let spaced = text
        .find('T')
        .filter(|at| parts(*at))
        .map_or(text.to_owned(), |at| format!("{} {}", &text[..at], &text[at + 1..]));
    let words: Vec<&str> = spaced.split([' ', ',', '\u{202f}']).filter(|word| !word.is_empty()).collect();
    let date = words.first().and_then(|word| read_date(word)).ok_or_else(not_read)?;
    if words.len() == 1 {
        return Err(format!("“{text}” has no time of day: add it, or a column that has it."));
    }
    let rest = words[1..].concat().to_lowercase();
    let utc = rest.strip_suffix('z').or_else(|| rest.strip_suffix("utc"));
    let clock = read_clock(utc.unwrap_or(&rest)).ok_or_else(not_read)?;
    Ok(Moment::Written { date, clock, utc: utc.is_some() })
}

/// Seconds or milliseconds since 1970.
fn since_epoch(text: &str) -> Option<DateTime<Utc>> {
    let number: i64 = text.bytes().all(|sign| sign.is_ascii_digit()).then(|| text.parse().ok())??;
    match text.len() {
        10 => DateTime::from_timestamp(number, 0),
        13 => DateTime::from_timestamp_millis(number),
        _ => None,
    }
}

fn read_date(word: &str) -> Option<DateText> {
    let numbers: Vec<&str> = word.split(['-', '/', '.']).filter(|part| !part.is_empty()).collect();
    let [first, second, third] = numbers[..] else { return None };
    let number = |part: &str| part.parse::<u32>().ok().filter(|_| part.len() <= 4);
    let (a, b, c) = (number(first)?, number(second)?, number(third)?);
    if first.len() == 4 {
        return NaiveDate::from_ymd_opt(a as i32, b, c).map(DateText::Date);
    }
    let year = match third.len() {
        4 => c as i32,
        2 => 2000 + c as i32,
        _ => return None,
    };
    let fine = (1..=31).contains(&a) && (1..=31).contains(&b) && (a <= 12 || b <= 12);
    if !fine {
        return None;
    }
    // With full stops the day comes first wherever they are used (common practice, no source).
    if word.contains('.') {
        return NaiveDate::from_ymd_opt(year, b, a).map(DateText::Date);
    }
    Some(DateText::Either { first: a, second: b, year })
}

/// "18:30", "6:30pm", "18:30:05.5".
fn read_clock(text: &str) -> Option<NaiveTime> {
    let afternoon =
        text.strip_suffix("pm").map(|bare| (bare, 12)).or(text.strip_suffix("am").map(|bare| (bare, 0)));
    let (bare, half) = afternoon.map_or((text, None), |(bare, half)| (bare, Some(half)));
    let mut parts = bare.split(':');
    let hour: u32 = parts.next()?.parse().ok()?;
    let minute: u32 = parts.next()?.parse().ok()?;
    let second: f64 = parts.next().map_or(Some(0.0), |second| second.parse().ok())?;
    let hour = match half {
        Some(half) if (1..=12).contains(&hour) => hour % 12 + half,
        Some(_) => return None,
        None => hour,
    };
    let fine = parts.next().is_none() && (0.0..60.0).contains(&second);
    let millis = (second * 1e3).round().min(59_999.0) as u32;
    fine.then(|| NaiveTime::from_hms_milli_opt(hour, minute, millis / 1000, millis % 1000))?
}

/// The instant, with what was answered where the date does not tell itself; and whether the clocks showed it twice, when they were set back.
///
/// # Errors
/// Where there was no such date or time.
pub(super) fn instant(
    moment: Moment,
    order: DateOrder,
    zone: TableZone,
    house: Tz,
) -> Result<(DateTime<Utc>, bool), String> {
    let (date, clock, utc) = match moment {
        Moment::Definite(at) => return Ok((at, false)),
        Moment::Written { date, clock, utc } => (date, clock, utc),
    };
    let date = date
        .date(date.tells().unwrap_or(order))
        .ok_or("There is no such date in this order of day and month.")?;
    let local: NaiveDateTime = date.and_time(clock);
    if utc || zone == TableZone::Utc {
        return Ok((local.and_utc(), false));
    }
    match house.from_local_datetime(&local) {
        LocalResult::Single(at) => Ok((at.to_utc(), false)),
        LocalResult::Ambiguous(first, _) => Ok((first.to_utc(), true)),
        LocalResult::None => {
            Err(format!("{local} was left out when the clocks were set forward at the house."))
        }
    }
}
