//! Between values and CSV cells, by a list of columns.

use crate::RowProblem;
use crate::composing::Composing;
use open_beacon_core::limits::{LONGEST_ROW_BYTES, MOST_PROBLEMS, MOST_ROWS};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::{Map, Value};
use std::io::Read;

/// What a column's cells hold.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Kind {
    /// Text that is always there; an empty cell is an empty text.
    Text,
    /// Text that may be missing; an empty cell is nothing.
    MaybeText,
    /// A number or nothing.
    Number,
    /// A JSON value or nothing.
    Json,
}

/// One column: its heading, where its value stands (JSON Pointer) and what it holds.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Column {
    pub(crate) name: &'static str,
    pub(crate) pointer: &'static str,
    pub(crate) kind: Kind,
}

/// Writes rows as RFC 4180 CSV with a heading line.
pub(crate) fn write<T: Serialize>(
    columns: &[Column],
    rows: impl Iterator<Item = T>,
    target: impl std::io::Write,
) -> std::io::Result<()> {
    let mut writer = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(target);
    writer.write_record(columns.iter().map(|column| column.name))?;
    for row in rows {
        let value =
            serde_json::to_value(row).unwrap_or_else(|error| unreachable!("plain values serialise: {error}"));
        let cells = columns.iter().map(|column| match value.pointer(column.pointer) {
            None | Some(Value::Null) => String::new(),
            Some(Value::String(text)) if column.kind != Kind::Json => as_text(text),
            Some(other) => other.to_string(),
        });
        writer.write_record(cells)?;
    }
    writer.flush()
}

/// Whether a spreadsheet takes a text for a formula (OWASP, CSV Injection).
fn begins_a_formula(text: &str) -> bool {
    text.trim_start_matches('\'').starts_with(['=', '+', '-', '@', '\t', '\r'])
}

/// A text as a cell: what a spreadsheet would run gets an apostrophe before it, which says that it is text.
pub(crate) fn as_text(text: &str) -> String {
    if begins_a_formula(text) { format!("'{text}") } else { text.to_owned() }
}

/// The text of a cell again.
pub(crate) fn from_text(cell: &str) -> &str {
    cell.strip_prefix('\'').filter(|text| begins_a_formula(text)).unwrap_or(cell)
}

/// Names of columns in exports of earlier versions, with today's.
const RENAMED: [(&str, &str); 1] = [("tie_points", "control_points")];

fn today(name: &str) -> &str {
    RENAMED.into_iter().find(|(before, _)| *before == name).map_or(name, |(_, now)| now)
}

/// Gives each row to `take`, with the line it began on; answers what cannot be taken. Columns may stand in any order and optional
/// ones be missing.
pub(crate) fn read<T: DeserializeOwned>(
    file: &str,
    columns: &[Column],
    source: impl Read,
    mut take: impl FnMut(u64, T) -> Result<(), String>,
) -> Vec<RowProblem> {
    let mut problems = Vec::new();
    if let Err(problem) = read_rows(file, columns, source, &mut problems, &mut take) {
        problems.push(problem);
    }
    problems
}

fn read_rows<T: DeserializeOwned>(
    file: &str,
    columns: &[Column],
    source: impl Read,
    problems: &mut Vec<RowProblem>,
    take: &mut impl FnMut(u64, T) -> Result<(), String>,
) -> Result<(), RowProblem> {
    let mut reader = csv::Reader::from_reader(Composing::new(source, true));
    let heading = reader
        .headers()
        .map_err(|error| RowProblem::new(file, Some(1), format!("the heading cannot be read: {error}")))?
        .clone();
    let known: Vec<&Column> = heading
        .iter()
        .map(|name| columns.iter().find(|column| column.name == today(name.trim())))
        .collect::<Option<_>>()
        .ok_or_else(|| unknown_heading(file, columns, &heading))?;
    let mut record = csv::StringRecord::new();
    let mut lines = Lines::default();
    for count in 0.. {
        let another = reader.read_record(&mut record);
        let begins = match &another {
            Ok(false) => return Ok(()),
            Ok(true) => record.position(),
            Err(error) => error.position(),
        };
        let line = begins.map(|position| lines.of(position.byte(), &reader.get_ref().breaks));
        if count >= MOST_ROWS {
            let limit = format!("at most {MOST_ROWS} rows are read; this file has more");
            return Err(RowProblem::new(file, None, limit));
        }
        if problems.len() >= MOST_PROBLEMS {
            return Err(RowProblem::new(file, None, "and more; the rest was not looked at"));
        }
        let taken = match another {
            Ok(_) if record.as_slice().len() > LONGEST_ROW_BYTES => {
                return Err(RowProblem::new(
                    file,
                    line,
                    format!("the row is longer than {} MiB", LONGEST_ROW_BYTES >> 20),
                ));
            }
            Ok(_) => row(&known, &record).and_then(|value| take(line.unwrap_or_default(), value)),
            Err(error) => {
                let reason = format!("the row cannot be read: {error}");
                if matches!(error.kind(), csv::ErrorKind::Io(_)) {
                    return Err(RowProblem::new(file, line, reason));
                }
                Err(reason)
            }
        };
        if let Err(reason) = taken {
            problems.push(RowProblem::new(file, line, reason));
        }
    }
    Ok(())
}

/// Counts the lines that records begin on. The reader's own count is one behind where lines end in CR LF, because
/// the line feed is passed over only when the next record is read.
#[derive(Default)]
struct Lines {
    passed: usize,
    fed: u64,
}

impl Lines {
    /// The line of a record that begins at a byte, or after the breaks that stand there.
    fn of(&mut self, byte: u64, breaks: &[(u64, u8)]) -> u64 {
        let mut begins = byte;
        while let Some((at, which)) = breaks.get(self.passed).filter(|(at, _)| *at <= begins) {
            if *at == begins {
                begins += 1;
            }
            self.fed += u64::from(*which == b'\n');
            self.passed += 1;
        }
        self.fed + 1
    }
}

fn unknown_heading(file: &str, columns: &[Column], heading: &csv::StringRecord) -> RowProblem {
    let strange: Vec<&str> =
        heading.iter().filter(|name| columns.iter().all(|column| column.name != name.trim())).collect();
    let wanted: Vec<&str> = columns.iter().map(|column| column.name).collect();
    let reason = format!("unknown column {}; known are {}", strange.join(", "), wanted.join(", "));
    RowProblem::new(file, Some(1), reason)
}

fn row<T: DeserializeOwned>(columns: &[&Column], record: &csv::StringRecord) -> Result<T, String> {
    let mut value = Value::Object(Map::new());
    for (column, cell) in columns.iter().zip(record) {
        let read = match column.kind {
            Kind::Text => Value::String(from_text(cell).to_owned()),
            Kind::MaybeText if cell.is_empty() => Value::Null,
            Kind::MaybeText => Value::String(from_text(cell).to_owned()),
            Kind::Number | Kind::Json if cell.trim().is_empty() => Value::Null,
            Kind::Number => cell
                .trim()
                .parse::<serde_json::Number>()
                .map(Value::Number)
                .map_err(|_| format!("“{cell}” in column {} is not a number", column.name))?,
            Kind::Json => serde_json::from_str(cell)
                .map_err(|error| format!("column {} does not hold JSON: {error}", column.name))?,
        };
        if !read.is_null() {
            put(&mut value, column.pointer, read);
        }
    }
    serde_json::from_value(value).map_err(|error| error.to_string())
}

/// Places `what` at a pointer of one or two steps, making the object between.
fn put(into: &mut Value, pointer: &str, what: Value) {
    let mut steps = pointer.trim_start_matches('/').split('/').peekable();
    let mut here = into;
    while let Some(step) = steps.next() {
        let Value::Object(object) = here else { return };
        if steps.peek().is_none() {
            object.insert(step.to_owned(), what);
            return;
        }
        here = object.entry(step).or_insert_with(|| Value::Object(Map::new()));
    }
}
