//! Client-made identifiers: a repeated request is harmless, the same identifier with another body is refused.

use crate::StoreError;
use crate::convert::json;
use rusqlite::{OptionalExtension, Transaction};
use serde::Serialize;
use sha2::{Digest, Sha256};

/// Whether a creation was the first or a repeat.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Created {
    Now,
    Before,
}

/// Notes the first use of `id` for `body`.
///
/// # Errors
/// [`StoreError::IdTaken`] where the identifier stands for another body or kind.
pub(crate) fn claim(
    transaction: &Transaction,
    id: &str,
    kind: &str,
    body: &impl Serialize,
) -> Result<Created, StoreError> {
    let digest = hex(&Sha256::digest(json(body)));
    let known: Option<(String, String)> = transaction
        .query_row("SELECT kind, body_sha256 FROM creation WHERE id = ?1", [id], |row| {
            Ok((row.get(0)?, row.get(1)?))
        })
        .optional()?;
    match known {
        None => {
            transaction.execute(
                "INSERT INTO creation (id, kind, body_sha256) VALUES (?1, ?2, ?3)",
                (id, kind, digest),
            )?;
            Ok(Created::Now)
        }
        Some((known_kind, known_digest)) if known_kind == kind && known_digest == digest => {
            Ok(Created::Before)
        }
        Some(_) => Err(StoreError::IdTaken),
    }
}

pub(crate) fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect()
}
