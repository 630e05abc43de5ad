//! A site as one JSON document.

use crate::RowProblem;
use crate::composing::Composing;
use open_beacon_core::model::{BUNDLE_FORMAT, BUNDLE_VERSION, SiteBundle};
use std::io::{BufReader, ErrorKind, Read, Write};

/// The site as indented JSON.
pub fn to_json(bundle: &SiteBundle) -> Vec<u8> {
    serde_json::to_vec_pretty(bundle).unwrap_or_else(|error| unreachable!("plain values serialise: {error}"))
}

/// Writes the site as indented JSON, so that it can leave while it is made.
///
/// # Errors
/// Those of the target.
pub fn write_json(bundle: &SiteBundle, mut target: impl Write) -> std::io::Result<()> {
    serde_json::to_writer_pretty(&mut target, bundle)?;
    target.flush()
}

/// Takes as many bytes as are left, and keeps none.
pub(crate) struct Room(pub(crate) u64);

impl Write for Room {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        self.0 = self.0.checked_sub(bytes.len() as u64).ok_or(ErrorKind::FileTooLarge)?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> std::io::Result<()> {
        Ok(())
    }
}

/// Whether the site as JSON has at most so many bytes.
///
/// # Errors
/// Where a file of it cannot be read.
pub fn fits_json(bundle: &SiteBundle, most_bytes: u64) -> std::io::Result<bool> {
    match write_json(bundle, Room(most_bytes)) {
        Err(error) if error.kind() == ErrorKind::FileTooLarge => Ok(false),
        written => written.map(|()| true),
    }
}

/// Reads a site, part by part.
///
/// # Errors
/// One problem with the line where the document stops making sense.
pub(crate) fn from_json(source: impl Read) -> Result<SiteBundle, Vec<RowProblem>> {
    // Read byte by byte: from a buffer of plain bytes, which is quick.
    let reader = BufReader::with_capacity(64 << 10, Composing::new(source, false));
    let bundle: SiteBundle = serde_json::from_reader(reader).map_err(|error| {
        vec![RowProblem::new(
            "json",
            Some(error.line() as u64),
            format!("this is not a site export: {error}"),
        )]
    })?;
    known_format(&bundle.format, bundle.version)
        .map_err(|reason| vec![RowProblem::new("json", None, reason)])?;
    Ok(bundle)
}

pub(crate) fn known_format(format: &str, version: u32) -> Result<(), String> {
    if format != BUNDLE_FORMAT {
        return Err(format!("the format is “{format}”, not “{BUNDLE_FORMAT}”"));
    }
    if version > BUNDLE_VERSION {
        return Err(format!(
            "this was written by a newer program (version {version}; this one reads up to {BUNDLE_VERSION})"
        ));
    }
    Ok(())
}
