//! A table of results made elsewhere: columns mapped in a preview, what can be read in two ways asked. Nothing is guessed silently.

mod columns;
mod numbers;
mod row;
mod runs;
mod times;

pub use row::ResultRow;
pub use runs::{ImportedRun, KnownTest, leave_out_known, runs_of};

use crate::RowProblem;
use crate::masts::csv;
use crate::notebook::{KnownSetup, MaybeSetup, NameMeans, Places};
use chrono::{DateTime, Utc};
use chrono_tz::Tz;
use numbers::Tells;
use open_beacon_core::limits::{MOST_RESULT_ROWS, composed};
use open_beacon_core::model::{
    DateOrder, DecimalSign, ResultColumn, ResultField, ResultTableReading, SetupId, SiteId, TableZone,
};
use row::Reader;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use times::Moment;

/// Rows shown of a file.
const SHOWN_ROWS: usize = 3;

/// What a table is read with.
#[derive(Clone, Copy, Debug)]
pub struct ReadingWith<'a> {
    /// As mapped and answered by the user.
    pub reading: &'a ResultTableReading,
    /// As the last table was mapped.
    pub remembered: &'a [ResultColumn],
    /// What names were said to mean.
    pub names: &'a [NameMeans],
    pub known: &'a [KnownSetup],
    /// The setup that rows without a name are of.
    pub chosen: Option<SetupId>,
    pub site: SiteId,
    /// Time zone of the house.
    pub zone: Tz,
    pub now: DateTime<Utc>,
}

/// What is to be answered before a table can be brought in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum TableAsks {
    /// A column is to be mapped.
    Columns,
    /// The unit of a column.
    Unit,
    /// Point or comma.
    Decimal,
    /// Day or month first.
    DateOrder,
    /// The house's time or UTC.
    Zone,
    /// Which band the signal is of.
    Band,
    /// Which setup a name means.
    Name,
}

/// A question, in words, with what there is to choose from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TableQuestion {
    pub asks: TableAsks,
    pub text: String,
    /// The name that is asked about; empty otherwise.
    pub name: String,
    /// Setups that may be meant.
    pub maybe: Vec<MaybeSetup>,
}

impl TableQuestion {
    fn new(asks: TableAsks, text: impl Into<String>) -> Self {
        Self { asks, text: text.into(), name: String::new(), maybe: Vec::new() }
    }
}

/// A table as it was understood.
#[derive(Clone, Debug, PartialEq)]
pub struct ResultTable {
    /// With columns guessed, and what the table itself tells.
    pub reading: ResultTableReading,
    /// Units to choose from, for each column.
    pub units: Vec<&'static [&'static str]>,
    pub first_rows: Vec<Vec<String>>,
    pub rows: usize,
    pub questions: Vec<TableQuestion>,
    /// Rows that can be kept once nothing is asked.
    pub understood: Vec<ResultRow>,
    /// Rows that stand in the file before.
    pub twice: usize,
    pub problems: Vec<RowProblem>,
}

/// Reads a table of results.
///
/// # Errors
/// What is wrong with the whole, in words, with what would work.
pub fn read_results(file_name: &str, text: &str, with: &ReadingWith<'_>) -> Result<ResultTable, String> {
    let text = composed(text.trim_start_matches('\u{feff}')).into_owned();
    if text.trim().is_empty() {
        return Err(format!("{file_name} is empty."));
    }
    let table = csv(&text)?;
    if table.rows.is_empty() {
        return Err(format!("{file_name} has no rows below its heading."));
    }
    if table.rows.len() > MOST_RESULT_ROWS {
        return Err(format!(
            "{file_name} has more than the {MOST_RESULT_ROWS} rows that are taken at once. Divide it."
        ));
    }
    let mut reading = with.reading.clone();
    let mapped = reading.columns.len() == table.headings.len();
    if !mapped {
        reading.columns = columns::guess(&table.headings, with.remembered);
    }
    let cells = Cells { columns: &reading.columns, rows: &table.rows };
    let mut questions = missing_columns(&cells);
    let (decimal, order, zone) =
        (decimal(&cells, &reading), date_order(&cells, &reading), zone(&cells, &reading));
    questions.extend([&decimal.asked, &order.asked, &zone.asked].into_iter().flatten().cloned());
    questions.extend(units_asked(&cells, decimal.answer.unwrap_or(DecimalSign::Point)));
    let reader = Reader {
        with: *with,
        decimal: decimal.answer.unwrap_or(DecimalSign::Point),
        order: order.answer.unwrap_or(DateOrder::DayFirst),
        zone: zone.answer.unwrap_or(TableZone::House),
        band: open_beacon_core::spelling::read_band(reading.band.trim()),
    };
    let mut found = ResultTable {
        units: reading.columns.iter().map(|column| numbers::units(column.field)).collect(),
        first_rows: table.rows.iter().take(SHOWN_ROWS).cloned().collect(),
        rows: table.rows.len(),
        questions: Vec::new(),
        understood: Vec::new(),
        twice: 0,
        problems: Vec::new(),
        reading: ResultTableReading { columns: Vec::new(), ..reading.clone() },
    };
    if questions.iter().all(|question| question.asks != TableAsks::Columns) {
        read_rows(&cells, &reader, &mut found, &mut questions);
    }
    (found.reading.decimal, found.reading.date_order, found.reading.zone) =
        (decimal.answer, order.answer, zone.answer);
    found.reading.columns = reading.columns;
    found.questions = questions;
    Ok(found)
}

fn read_rows(
    cells: &Cells<'_>,
    reader: &Reader<'_>,
    found: &mut ResultTable,
    questions: &mut Vec<TableQuestion>,
) {
    let mut places = Places::new(reader.with.known, reader.with.chosen, reader.with.names);
    let mut seen = BTreeSet::new();
    for (index, row) in cells.rows.iter().enumerate() {
        if row.iter().all(String::is_empty) {
            continue;
        }
        // The first row stands below the heading.
        let line = index as u64 + 2;
        match reader.read(line, &cells.row(row), &mut places) {
            Ok(row) if seen.insert(row.said()) => found.understood.push(row),
            Ok(_) => found.twice += 1,
            Err(row::Unread::Asks(question)) if questions.contains(&question) => {}
            Err(row::Unread::Asks(question)) => questions.push(question),
            Err(row::Unread::Because(reason)) => {
                found.problems.push(RowProblem::new("CSV", Some(line), reason));
            }
        }
    }
}

/// The cells of a table by what they are.
struct Cells<'a> {
    columns: &'a [ResultColumn],
    rows: &'a [Vec<String>],
}

impl<'a> Cells<'a> {
    fn has(&self, field: ResultField) -> bool {
        self.columns.iter().any(|column| column.field == field)
    }

    fn row(&self, row: &'a [String]) -> row::Cells<'a> {
        row::Cells { columns: self.columns, row }
    }

    fn moments(&self) -> impl Iterator<Item = (Moment, String)> {
        self.rows.iter().filter_map(|row| {
            let text = self.row(row).moment();
            times::read_moment(&text).ok().map(|moment| (moment, text))
        })
    }
}

fn missing_columns(cells: &Cells<'_>) -> Vec<TableQuestion> {
    let when =
        cells.has(ResultField::Time) || (cells.has(ResultField::Date) && cells.has(ResultField::Clock));
    let figures = cells
        .columns
        .iter()
        .any(|column| numbers::quantity(column.field).is_some() && column.field != ResultField::Bearing);
    let mut asked = Vec::new();
    if !when {
        asked
            .push("No column is taken as date and time. Choose the one that says when each result was made.");
    }
    if !figures {
        asked.push("No column is taken as a figure. Choose those with signal power or speeds.");
    }
    asked.into_iter().map(|text| TableQuestion::new(TableAsks::Columns, text)).collect()
}

/// A mobile line this fast is rather one whose rate is in another unit, Mbit/s (common practice, no source).
const IMPLAUSIBLE_MBPS: f64 = 3000.0;

/// Rates without a unit that would be too fast in the usual one.
fn units_asked(cells: &Cells<'_>, decimal: DecimalSign) -> Vec<TableQuestion> {
    let rates = cells.columns.iter().enumerate().filter(|(_, column)| {
        matches!(column.field, ResultField::Download | ResultField::Upload) && column.unit.is_empty()
    });
    let asked = rates.filter_map(|(at, column)| {
        let number = |row: &Vec<String>| numbers::plain(row.get(at)?, decimal).trim().parse::<f64>().ok();
        let most = cells.rows.iter().filter_map(number).fold(0.0, f64::max);
        (most > IMPLAUSIBLE_MBPS).then(|| {
            let text = format!(
                "“{}” goes up to {most}. In which unit? Choose it beside the column.",
                column.heading
            );
            TableQuestion::new(TableAsks::Unit, text)
        })
    });
    asked.collect()
}

/// What was answered or what the table tells, and what is to be asked where it tells nothing.
struct Answer<T> {
    answer: Option<T>,
    asked: Option<TableQuestion>,
}

impl<T> Answer<T> {
    fn known(answer: T) -> Self {
        Self { answer: Some(answer), asked: None }
    }

    fn asks(asks: TableAsks, text: String) -> Self {
        Self { answer: None, asked: Some(TableQuestion::new(asks, text)) }
    }
}

fn decimal(cells: &Cells<'_>, reading: &ResultTableReading) -> Answer<DecimalSign> {
    let numbers = cells.rows.iter().flat_map(|row| {
        cells.columns.iter().zip(row).filter(|(column, _)| numbers::quantity(column.field).is_some())
    });
    let (mut point, mut comma, mut either) = (None, None, None);
    for (_, text) in numbers {
        match numbers::tells(text) {
            Tells::Point => point = point.or(Some(text)),
            Tells::Comma => comma = comma.or(Some(text)),
            Tells::Either => either = either.or(Some(text)),
            Tells::Nothing => {}
        }
    }
    match (reading.decimal, point, comma, either) {
        (Some(answered), ..) => Answer::known(answered),
        (None, Some(point), Some(comma), _) => Answer::asks(
            TableAsks::Decimal,
            format!("“{point}” has a decimal point and “{comma}” a decimal comma. Which sign is it?"),
        ),
        (None, None, None, Some(either)) => Answer::asks(
            TableAsks::Decimal,
            format!("“{either}” can be read in two ways. Which is the decimal sign?"),
        ),
        (None, _, Some(_), _) => Answer::known(DecimalSign::Comma),
        (None, ..) => Answer::known(DecimalSign::Point),
    }
}

fn date_order(cells: &Cells<'_>, reading: &ResultTableReading) -> Answer<DateOrder> {
    if let Some(answered) = reading.date_order {
        return Answer::known(answered);
    }
    let (mut day, mut month, mut unclear) = (false, false, None);
    for (moment, text) in cells.moments() {
        let Moment::Written { date, .. } = moment else { continue };
        match date.tells() {
            Some(DateOrder::DayFirst) => day = true,
            Some(DateOrder::MonthFirst) => month = true,
            None if date.is_unclear() => unclear = unclear.or(Some(text)),
            None => {}
        }
    }
    match (day, month, unclear) {
        (true, false, _) => Answer::known(DateOrder::DayFirst),
        (false, true, _) => Answer::known(DateOrder::MonthFirst),
        (_, _, Some(text)) => {
            Answer::asks(TableAsks::DateOrder, format!("“{text}” can be two dates. What comes first?"))
        }
        // Each date tells itself, or reads the same both ways.
        (_, _, None) => Answer { answer: None, asked: None },
    }
}

fn zone(cells: &Cells<'_>, reading: &ResultTableReading) -> Answer<TableZone> {
    if let Some(answered) = reading.zone {
        return Answer::known(answered);
    }
    let local = cells.moments().find(|(moment, _)| moment.is_local());
    local.map_or(Answer { answer: None, asked: None }, |(_, text)| {
        Answer::asks(TableAsks::Zone, format!("“{text}” does not say its time zone. Whose time is it?"))
    })
}
