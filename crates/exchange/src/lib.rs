//! Sites out and in: JSON, and a zip with one CSV (RFC 4180) a table. Bytes in, values out; no SQL.
//!
//! Columns are documented in `docs/formats/site-export.md`; `tables` is where they are defined.

mod cells;
mod check;
mod copy;
mod files;
mod json;
pub mod masts;
pub mod paste;
mod pattern;
mod tables;
pub mod terrain;
mod zipped;

pub use copy::with_new_ids;
pub use json::{from_json, to_json, write_json};
pub use pattern::read_pattern;
pub use zipped::{from_zip, to_zip, write_zip};

use open_beacon_core::limits::MOST_PROBLEMS;
use open_beacon_core::model::SiteBundle;
use serde::{Deserialize, Serialize};

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
    let mut bundle = if bytes.starts_with(b"PK") { from_zip(bytes)? } else { from_json(bytes)? };
    files::type_by_content(&mut bundle);
    // Earlier versions let a name and password stand in an address.
    bundle.settings.take_user_info();
    let mut problems = check::check(&bundle);
    if problems.len() > MOST_PROBLEMS {
        problems.truncate(MOST_PROBLEMS);
        problems.push(RowProblem::new("all", None, "and more; the rest is not listed"));
    }
    if problems.is_empty() { Ok(bundle) } else { Err(problems) }
}
