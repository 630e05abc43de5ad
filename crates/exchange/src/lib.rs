//! Sites out and in: JSON, and a zip with one CSV (RFC 4180) a table. Bytes in, values out; no SQL.
//!
//! Columns are documented in `docs/formats/site-export.md`; `tables` is where they are defined.

mod calendar;
mod cells;
mod check;
mod columnar;
mod composing;
mod copy;
mod files;
mod json;
mod marks;
pub mod masts;
pub mod notebook;
pub mod paste;
mod pattern;
pub mod points;
mod prometheus;
mod report;
pub mod results;
mod site_map;
mod tables;
pub mod terrain;
mod unzipped;
mod zipped;

pub use calendar::{CalendarEntry, calendar};
pub use copy::with_new_ids;
use json::from_json;
pub use json::{fits_json, to_json, write_json};
pub use pattern::read_pattern;
pub use prometheus::{Metric, MetricKind, to_prometheus};
pub use report::site_to_html;
pub use site_map::{site_to_geojson, site_to_kml};
pub use unzipped::Source;
pub use zipped::{TAKEN, ZipLimit, beyond_zip, to_zip, write_parquet_zip, write_zip};

use open_beacon_core::limits::{LARGEST_JSON_BYTES, MOST_PROBLEMS};
use open_beacon_core::model::SiteBundle;
use serde::{Deserialize, Serialize};
use std::io::{Cursor, Read, SeekFrom};
use std::sync::Arc;

/// A row that cannot be taken, and why.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct RowProblem {
    /// The file in the zip, or `json`.
    pub file: String,
    /// Line of the file, counted from one; `None` where the whole file is meant.
    pub line: Option<u64>,
    pub reason: String,
}

impl RowProblem {
    pub(crate) fn new(file: &str, line: Option<u64>, reason: impl Into<String>) -> Self {
        Self { file: file.into(), line, reason: reason.into() }
    }
}

/// Reads either format, told apart by its first bytes.
///
/// # Errors
/// Every row that cannot be taken.
pub fn from_bytes(bytes: &[u8]) -> Result<SiteBundle, Vec<RowProblem>> {
    from_source(Cursor::new(Arc::<[u8]>::from(bytes)))
}

/// [`from_bytes`] of a file that is not held in memory.
///
/// # Errors
/// Every row that cannot be taken; where the file cannot be read.
pub fn from_source(source: impl Source) -> Result<SiteBundle, Vec<RowProblem>> {
    read_site(source).map_err(|mut problems| {
        if problems.len() > MOST_PROBLEMS {
            problems.truncate(MOST_PROBLEMS);
            problems.push(RowProblem::new("all", None, "and more; the rest is not listed"));
        }
        problems
    })
}

fn read_site(mut source: impl Source) -> Result<SiteBundle, Vec<RowProblem>> {
    let unread =
        |error: std::io::Error| vec![RowProblem::new("all", None, format!("it cannot be read: {error}"))];
    let mut begins = Vec::new();
    source.by_ref().take(2).read_to_end(&mut begins).map_err(unread)?;
    let bytes = source.seek(SeekFrom::End(0)).map_err(unread)?;
    source.rewind().map_err(unread)?;
    let mut bundle = if begins == b"PK" {
        unzipped::from_zip(source)?
    } else if bytes > LARGEST_JSON_BYTES {
        let limit = format!(
            "a JSON export of at most {} MiB is read; export as a zip instead",
            LARGEST_JSON_BYTES >> 20
        );
        return Err(vec![RowProblem::new("json", None, limit)]);
    } else {
        from_json(source)?
    };
    let unreadable = files::type_by_content(&mut bundle);
    if !unreadable.is_empty() {
        return Err(unreadable);
    }
    // Earlier versions let a name and password stand in an address.
    bundle.settings.take_user_info();
    let problems = check::check(&bundle);
    if problems.is_empty() { Ok(bundle) } else { Err(problems) }
}
