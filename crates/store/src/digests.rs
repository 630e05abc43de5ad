//! What was heard in each run, in short, kept beside the samples it was made of.

use crate::convert::{Result as Row_, id};
use crate::{StoreError, readings};
use open_beacon_core::judge::RadioDigest;
use open_beacon_core::model::RunId;
use rusqlite::{Connection, Row};

/// Rises when [`RadioDigest`] changes: digests of another format are made again.
const FORMAT: i64 = 3;

/// To be joined to `run`: the digest of a run, if there is one.
pub(crate) fn joined() -> String {
    format!("LEFT JOIN run_digest ON run_digest.run_id = run.id AND run_digest.format = {FORMAT}")
}

/// What was heard in a run of a row with `run_digest.radio`: as it was kept, else of its samples.
pub(crate) fn from_row(db: &Connection, row: &Row, run: RunId) -> Result<RadioDigest, StoreError> {
    let kept = row.get_ref("radio")?.as_blob_or_null().unwrap_or_default();
    match kept.and_then(|bytes| postcard::from_bytes(bytes).ok()) {
        Some(digest) => Ok(digest),
        None => made(db, run),
    }
}

fn made(db: &Connection, run: RunId) -> Result<RadioDigest, StoreError> {
    Ok(RadioDigest::of(&readings::select(db, "WHERE sample.run_id = ?1", &run.to_string())?))
}

/// Makes the digests that are missing, of all runs that are over.
pub(crate) fn fill(db: &Connection) -> Result<(), StoreError> {
    let sql = format!(
        "SELECT run.id AS id FROM run INDEXED BY run_over
         LEFT JOIN run_digest INDEXED BY run_digest_kept
           ON run_digest.run_id = run.id AND run_digest.format = {FORMAT}
         WHERE completion <> 'running' AND run_id IS NULL"
    );
    let missing: Vec<RunId> =
        db.prepare_cached(&sql)?.query_map([], |row| id(row, "id"))?.collect::<Row_<_>>()?;
    let mut keep = db.prepare_cached(
        "INSERT OR REPLACE INTO run_digest (run_id, format, samples, radio) VALUES (?1, ?2, ?3, ?4)",
    )?;
    for run in missing {
        let digest = made(db, run)?;
        let packed = postcard::to_allocvec(&digest)
            .unwrap_or_else(|error| unreachable!("plain values are packed: {error}"));
        keep.execute((run.to_string(), FORMAT, digest.samples() as i64, packed))?;
    }
    Ok(())
}
