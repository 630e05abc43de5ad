//! One row of a table of results.

use super::numbers::{plain, quantity};
use super::times::{instant, read_moment};
use super::{ReadingWith, TableAsks, TableQuestion};
use crate::notebook::{Place, Places};
use chrono::{DateTime, Utc};
use open_beacon_core::check::Checker;
use open_beacon_core::limits::MOST_AVERAGED;
use open_beacon_core::metrics::{Note, read_entry};
use open_beacon_core::model::{
    BandName, DateOrder, DecimalSign, ResultColumn, ResultField, SetupId, TableZone, Technology,
};
use open_beacon_core::spelling::read_band;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A result as it was understood.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ResultRow {
    /// Line of the file where no cell has several.
    pub line: u64,
    pub setup_id: SetupId,
    pub setup: String,
    pub at: DateTime<Utc>,
    pub band: Option<BandName>,
    pub pci: Option<u16>,
    pub rsrp_dbm: Option<f64>,
    pub sinr_db: Option<f64>,
    pub rsrq_db: Option<f64>,
    pub download_mbps: Option<f64>,
    pub upload_mbps: Option<f64>,
    pub idle_latency_ms: Option<f64>,
    /// Tests that the speeds are the average of; none for a single test.
    pub average_of: Option<u16>,
    pub server: String,
    pub notes: String,
    /// What was taken for granted.
    pub taken: Vec<String>,
    /// Whether its signal is new here; false where it has none.
    pub new_signal: bool,
    /// Whether its speeds are new here; false where it has none.
    pub new_speeds: bool,
}

impl ResultRow {
    pub(super) fn has_signal(&self) -> bool {
        self.rsrp_dbm.or(self.sinr_db).or(self.rsrq_db).is_some()
    }

    pub(super) fn has_speeds(&self) -> bool {
        self.download_mbps.or(self.upload_mbps).or(self.idle_latency_ms).is_some()
    }

    /// Everything that it says: rows that say the same are one.
    pub(super) fn said(&self) -> String {
        let signal = (self.band, self.pci, self.rsrp_dbm, self.sinr_db, self.rsrq_db);
        let of = self.average_of;
        format!("{} {signal:?} {:?} {of:?} {:?}", self.said_of_signal(), self.speeds(), self.server)
    }

    fn speeds(&self) -> [Option<f64>; 3] {
        [self.download_mbps, self.upload_mbps, self.idle_latency_ms]
    }

    fn said_of_signal(&self) -> String {
        format!("{} {}", self.setup_id, self.at.timestamp_millis())
    }

    /// Identifies its speed test: the same row read again is the same test.
    pub(super) fn test_id(&self, site: Uuid) -> Uuid {
        let said = format!("result test {} {:?} {}", self.said_of_signal(), self.speeds(), self.server);
        Uuid::new_v5(&site, said.as_bytes())
    }

    /// Identifies the reading of its instant, which carriers of several rows may be of.
    pub(super) fn sample_id(&self, site: Uuid) -> Uuid {
        Uuid::new_v5(&site, format!("result sample {}", self.said_of_signal()).as_bytes())
    }
}

/// Why a row is not read.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Unread {
    /// Something is to be answered first.
    Asks(TableQuestion),
    Because(String),
}

impl From<String> for Unread {
    fn from(reason: String) -> Self {
        Self::Because(reason)
    }
}

/// The cells of a row by what they are.
#[derive(Clone, Copy)]
pub(super) struct Cells<'a> {
    pub(super) columns: &'a [ResultColumn],
    pub(super) row: &'a [String],
}

impl<'a> Cells<'a> {
    /// Column and text; nothing where the cell is empty or says that there is no value.
    fn of(&self, field: ResultField) -> Option<(&'a ResultColumn, &'a str)> {
        let at = self.columns.iter().position(|column| column.field == field)?;
        let text = self.row.get(at)?.trim();
        let nothing =
            matches!(text.to_lowercase().as_str(), "" | "-" | "–" | "n/a" | "na" | "nan" | "null" | "none");
        (!nothing).then_some((&self.columns[at], text))
    }

    fn text(&self, field: ResultField) -> &'a str {
        self.of(field).map_or("", |(_, text)| text)
    }

    /// Date and time in one text.
    pub(super) fn moment(&self) -> String {
        match self.of(ResultField::Time) {
            Some((_, text)) => text.to_owned(),
            None => format!("{} {}", self.text(ResultField::Date), self.text(ResultField::Clock)),
        }
    }
}

/// Reads rows with what is known of the whole table.
pub(super) struct Reader<'a> {
    pub(super) with: ReadingWith<'a>,
    pub(super) decimal: DecimalSign,
    pub(super) order: DateOrder,
    pub(super) zone: TableZone,
    pub(super) band: Option<BandName>,
}

impl Reader<'_> {
    pub(super) fn read(
        &self,
        line: u64,
        cells: &Cells<'_>,
        places: &mut Places<'_>,
    ) -> Result<ResultRow, Unread> {
        let mut taken = Vec::new();
        let band = self.band(cells)?;
        let technology = band.map_or(Technology::Nr, |band| band.technology);
        let mut value = |field| self.value(cells, field, technology, &mut taken);
        let bearing_deg = value(ResultField::Bearing)?;
        let [rsrp_dbm, sinr_db, rsrq_db] =
            [value(ResultField::Rsrp)?, value(ResultField::Sinr)?, value(ResultField::Rsrq)?];
        let [download_mbps, upload_mbps, idle_latency_ms] =
            [value(ResultField::Download)?, value(ResultField::Upload)?, value(ResultField::Latency)?];
        let (at, twice) = self.at(cells)?;
        if twice {
            taken.push("before the clocks were set back".into());
        }
        let words: Vec<&str> = cells.text(ResultField::Place).split_whitespace().collect();
        let place = place_of(places, &words, bearing_deg);
        taken.extend(place.taken);
        let Some(setup) = place.setup else {
            let text = place.question.unwrap_or_default();
            let question = TableQuestion {
                name: place.name,
                maybe: place.maybe,
                ..TableQuestion::new(TableAsks::Name, text)
            };
            return Err(Unread::Asks(question));
        };
        let mut row = ResultRow {
            line,
            setup_id: setup.setup_id,
            setup: setup.label,
            at,
            band,
            pci: self.pci(cells, technology)?,
            rsrp_dbm,
            sinr_db,
            rsrq_db,
            download_mbps,
            upload_mbps,
            idle_latency_ms,
            average_of: average_of(cells)?,
            server: cells.text(ResultField::Server).chars().take(LONGEST_SERVER).collect(),
            notes: cells.text(ResultField::Notes).to_owned(),
            taken,
            new_signal: false,
            new_speeds: false,
        };
        (row.new_signal, row.new_speeds) = (row.has_signal(), row.has_speeds());
        if !row.new_signal && !row.new_speeds {
            return Err(Unread::Because("It has no figures.".into()));
        }
        if row.new_signal && row.band.is_none() {
            let asked = "Which band is the signal of, where no column says it? n78 or B20 works.";
            return Err(Unread::Asks(TableQuestion::new(TableAsks::Band, asked)));
        }
        if !row.new_signal {
            (row.band, row.pci) = (None, None);
        }
        Ok(row)
    }

    fn band(&self, cells: &Cells<'_>) -> Result<Option<BandName>, String> {
        let Some((_, text)) = cells.of(ResultField::Band) else { return Ok(self.band) };
        let band = read_band(text).ok_or_else(|| format!("“{text}” is no band; n78 or B20 works."));
        band.map(Some)
    }

    fn pci(&self, cells: &Cells<'_>, technology: Technology) -> Result<Option<u16>, String> {
        let Some((_, text)) = cells.of(ResultField::Pci) else { return Ok(None) };
        // TS 36.211, 6.11, and TS 38.211, 7.4.2.
        let most = if technology == Technology::Lte { 503 } else { 1007 };
        let pci = text.parse().ok().filter(|pci| *pci <= most);
        pci.map(Some).ok_or_else(|| format!("“{text}” is no physical cell identity: 0 to {most} is."))
    }

    fn at(&self, cells: &Cells<'_>) -> Result<(DateTime<Utc>, bool), String> {
        let (at, twice) = instant(read_moment(&cells.moment())?, self.order, self.zone, self.with.zone)?;
        match Checker::default().measured_at("", at, self.with.now).done().pop() {
            Some(problem) => Err(problem.detail),
            None => Ok((at, twice)),
        }
    }

    fn value(
        &self,
        cells: &Cells<'_>,
        field: ResultField,
        technology: Technology,
        taken: &mut Vec<String>,
    ) -> Result<Option<f64>, String> {
        let (Some((column, text)), Some(quantity)) = (cells.of(field), quantity(field)) else {
            return Ok(None);
        };
        let mut number = plain(text, self.decimal);
        if number.ends_with(|sign: char| sign.is_ascii_digit() || sign == '.') {
            number.push_str(&column.unit);
        }
        let entry = read_entry(quantity, technology, &number).map_err(|error| error.to_string())?;
        if entry.notes.contains(&Note::MadeNegative) {
            taken.push("minus sign added".into());
        }
        if !entry.in_range {
            let (low, high, unit) = (entry.range.low, entry.range.high, quantity.unit());
            let heading = &column.heading;
            return Err(format!(
                "{heading} is “{text}”, {value} {unit}: it runs from {low} to {high} {unit}. Is the column's unit right?",
                value = entry.value
            ));
        }
        Ok(Some(entry.value))
    }
}

/// An average of one is a single test.
fn average_of(cells: &Cells<'_>) -> Result<Option<u16>, String> {
    let Some((_, text)) = cells.of(ResultField::AverageOf) else { return Ok(None) };
    let tests = text.parse().ok().filter(|tests| (1..=MOST_AVERAGED).contains(tests));
    let tests = tests.ok_or_else(|| format!("“{text}” is no number of tests: 1 to {MOST_AVERAGED} is."))?;
    Ok(Some(tests).filter(|tests| *tests > 1))
}

/// The setup that a cell names; a number at its end may be its bearing.
fn place_of(places: &mut Places<'_>, words: &[&str], bearing_deg: Option<f64>) -> Place {
    let place = places.of(words, bearing_deg);
    let last = words.last().map(|word| word.trim_end_matches(['°', ')']).trim_start_matches('('));
    let number =
        last.and_then(|word| word.parse::<f64>().ok()).filter(|number| (0.0..=360.0).contains(number));
    match (&place.setup, number) {
        (None, Some(number)) if bearing_deg.is_none() => {
            let pointing = places.of(&words[..words.len() - 1], Some(number));
            if pointing.setup.is_some() { pointing } else { place }
        }
        _ => place,
    }
}

/// Longest name of a server that is kept, characters.
const LONGEST_SERVER: usize = 100;
