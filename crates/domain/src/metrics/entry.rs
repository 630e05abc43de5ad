//! Forgiving entry: what people type or paste into a number field, and what was made of it.

use super::{Metric, ReportingRange, reporting_range};
use crate::model::Technology;
use serde::{Deserialize, Serialize};

/// What a field asks for; decides units, sign and range.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Quantity {
    /// dBm
    Rsrp,
    /// dB
    Rsrq,
    /// dB
    Sinr,
    /// dBm
    Rssi,
    /// Mbit/s
    Rate,
    /// ms
    Latency,
    /// m
    Length,
    /// Degrees from true north, 0..360
    Bearing,
    /// Degrees above the horizon, −90..=90
    Tilt,
    /// MHz
    Bandwidth,
}

impl Quantity {
    fn metric(self) -> Option<Metric> {
        match self {
            Self::Rsrp => Some(Metric::Rsrp),
            Self::Rsrq => Some(Metric::Rsrq),
            Self::Sinr => Some(Metric::Sinr),
            Self::Rssi => Some(Metric::Rssi),
            _ => None,
        }
    }

    /// Unit that the value is kept in.
    pub fn unit(self) -> &'static str {
        match self {
            Self::Rsrp | Self::Rssi => "dBm",
            Self::Rsrq | Self::Sinr => "dB",
            Self::Rate => "Mbit/s",
            Self::Latency => "ms",
            Self::Length => "m",
            Self::Bearing | Self::Tilt => "°",
            Self::Bandwidth => "MHz",
        }
    }

    /// Range of values taken without question. For metrics: the reporting range of the technology.
    pub fn range(self, technology: Technology) -> ReportingRange {
        let (low, high) = match self {
            Self::Rate => (0.0, 20_000.0),
            Self::Latency => (0.0, 60_000.0),
            Self::Length => (0.0, 200.0),
            Self::Bearing => (0.0, 360.0),
            Self::Tilt => (-90.0, 90.0),
            Self::Bandwidth => (0.2, 400.0),
            Self::Rsrp | Self::Rsrq | Self::Sinr | Self::Rssi => {
                let metric = self.metric().unwrap_or(Metric::Rsrp);
                return reporting_range(technology, metric);
            }
        };
        ReportingRange { low, high }
    }

    /// Accepted unit spellings (lower case, no spaces) and the factor to the kept unit. The empty spelling is the
    /// kept unit itself.
    fn units(self) -> &'static [(&'static str, f64)] {
        match self {
            Self::Rsrp | Self::Rssi => &[("", 1.0), ("dbm", 1.0), ("db", 1.0)],
            Self::Rsrq | Self::Sinr => &[("", 1.0), ("db", 1.0)],
            Self::Rate => &[
                ("", 1.0),
                ("mbit/s", 1.0),
                ("mbps", 1.0),
                ("mb/s", 8.0),
                ("mbyte/s", 8.0),
                ("mbit", 1.0),
                ("m", 1.0),
                ("kbit/s", 1e-3),
                ("kbps", 1e-3),
                ("kbit", 1e-3),
                ("gbit/s", 1e3),
                ("gbps", 1e3),
                ("gbit", 1e3),
                ("bit/s", 1e-6),
                ("bps", 1e-6),
            ],
            Self::Latency => &[("", 1.0), ("ms", 1.0), ("msec", 1.0), ("s", 1e3), ("sec", 1e3)],
            Self::Length => &[
                ("", 1.0),
                ("m", 1.0),
                ("metres", 1.0),
                ("meters", 1.0),
                ("cm", 0.01),
                ("ft", 0.3048),
                ("feet", 0.3048),
                ("foot", 0.3048),
                ("'", 0.3048),
            ],
            Self::Bearing | Self::Tilt => {
                &[("", 1.0), ("°", 1.0), ("deg", 1.0), ("degrees", 1.0), ("°t", 1.0), ("t", 1.0)]
            }
            Self::Bandwidth => &[("", 1.0), ("mhz", 1.0), ("khz", 1e-3), ("ghz", 1e3)],
        }
    }
}

/// Something that was changed on the way from the text to the value; the screen says so.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Note {
    /// A minus sign was added: the value cannot be positive.
    MadeNegative,
    /// A comma was read as the decimal sign.
    DecimalComma,
    /// The value was converted from another unit.
    Converted,
    /// Bytes were turned into bits.
    BytesToBits,
}

/// A value read from a field.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Entry {
    /// In the quantity's kept unit.
    pub value: f64,
    /// Free text.
    pub notes: Vec<Note>,
    /// The range without question.
    pub range: ReportingRange,
    /// False where the value lies outside [`Entry::range`]; it may be kept "as reported" for the radio metrics.
    pub in_range: bool,
}

/// Why a text is not a value of this quantity.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[allow(missing_docs)] // Fields bear their units; the variant says the rest.
pub enum EntryError {
    #[error("Nothing was entered.")]
    Empty,
    #[error("“{text}” is not a number. Something like {example} works.")]
    NotANumber { text: String, example: &'static str },
    #[error("“{unit}” is not a unit for this. {known} works.")]
    UnknownUnit { unit: String, known: &'static str },
    #[error("“{text}” has more than one decimal sign. Something like {example} works.")]
    TwoDecimalSigns { text: String, example: &'static str },
}

fn example(quantity: Quantity) -> &'static str {
    match quantity {
        Quantity::Rsrp => "−97 or −97 dBm",
        Quantity::Rsrq => "−11 or −11.5 dB",
        Quantity::Sinr => "12.5 or −3 dB",
        Quantity::Rssi => "−65 or −65 dBm",
        Quantity::Rate => "42.5 or 42.5 Mbit/s",
        Quantity::Latency => "38 or 38 ms",
        Quantity::Length => "6.4, 6.4 m or 21 ft",
        Quantity::Bearing => "131",
        Quantity::Tilt => "2 or −1.5",
        Quantity::Bandwidth => "20 or 20 MHz",
    }
}

fn known_units(quantity: Quantity) -> &'static str {
    match quantity {
        Quantity::Rate => "Mbit/s, kbit/s, Gbit/s or MB/s",
        Quantity::Latency => "ms or s",
        Quantity::Length => "m, cm or ft",
        Quantity::Bandwidth => "MHz",
        other => other.unit(),
    }
}

/// Reads what was typed or pasted into a field.
///
/// A bare `97` in a power or RSRQ field becomes −97 with [`Note::MadeNegative`]; an explicit plus sign is
/// honoured. A comma is a decimal sign. `MB/s` with a capital B is bytes.
///
/// # Errors
/// [`EntryError`] names what would work. A number outside the range is not an error here: see [`Entry::in_range`].
pub fn read_entry(quantity: Quantity, technology: Technology, text: &str) -> Result<Entry, EntryError> {
    let cleaned: String = text
        .trim()
        .chars()
        .filter(|c| !c.is_whitespace())
        .map(|c| if matches!(c, '−' | '–' | '—') { '-' } else { c })
        .collect();
    if cleaned.is_empty() {
        return Err(EntryError::Empty);
    }
    let not_a_number = || EntryError::NotANumber { text: text.trim().into(), example: example(quantity) };
    let unit_at = cleaned
        .char_indices()
        .find(|(at, c)| {
            !(c.is_ascii_digit() || matches!(c, '.' | ',') || (*at == 0 && matches!(c, '-' | '+')))
        })
        .map_or(cleaned.len(), |(at, _)| at);
    let (number, unit) = cleaned.split_at(unit_at);
    if !number.contains(|c: char| c.is_ascii_digit()) {
        return Err(not_a_number());
    }
    if number.chars().filter(|c| matches!(c, '.' | ',')).count() > 1 {
        return Err(EntryError::TwoDecimalSigns { text: text.trim().into(), example: example(quantity) });
    }
    let mut notes = Vec::new();
    if number.contains(',') {
        notes.push(Note::DecimalComma);
    }
    let typed: f64 = number.replace(',', ".").parse().map_err(|_| not_a_number())?;
    let factor = unit_factor(quantity, unit, &mut notes)?;
    let mut value = typed * factor;
    let range = quantity.range(technology);
    let cannot_be_positive = match quantity {
        Quantity::Rsrp | Quantity::Rssi => value > 0.0,
        // The NR range reaches to +20 dB, but nobody reads a positive RSRQ off a page: beyond 2.5 dB (the top of
        // the LTE range) a missing minus sign is the likelier explanation.
        Quantity::Rsrq => value > 2.5,
        _ => false,
    };
    if cannot_be_positive && !number.starts_with('+') {
        value = -value;
        notes.push(Note::MadeNegative);
    }
    Ok(Entry { value, notes, range, in_range: range.holds(value) })
}

fn unit_factor(quantity: Quantity, unit: &str, notes: &mut Vec<Note>) -> Result<f64, EntryError> {
    let mut spelling = unit.to_lowercase();
    if quantity == Quantity::Rate && spelling == "mb/s" && unit.ends_with("b/s") {
        // A small b is bits, whatever the M.
        spelling = "mbit/s".into();
    }
    let Some((_, factor)) = quantity.units().iter().find(|(known, _)| *known == spelling) else {
        return Err(EntryError::UnknownUnit { unit: unit.into(), known: known_units(quantity) });
    };
    if (*factor - 8.0).abs() < f64::EPSILON {
        notes.push(Note::BytesToBits);
    } else if (*factor - 1.0).abs() > f64::EPSILON {
        notes.push(Note::Converted);
    }
    Ok(*factor)
}
