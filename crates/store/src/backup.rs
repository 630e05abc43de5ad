//! Backup and restore by SQLite's backup API: safe while the program runs.

use crate::StoreError;
use rusqlite::backup::Backup;
use rusqlite::{Connection, OpenFlags};
use std::path::Path;
use std::time::Duration;

/// Copies the database in the data directory `from` into the new file `to`.
///
/// # Errors
/// Where there is no database, or `to` exists already.
pub fn backup(from: &Path, to: &Path) -> Result<(), StoreError> {
    if to.exists() {
        return Err(StoreError::Refused(format!("{} is there already; name a new file", to.display())));
    }
    let source =
        Connection::open_with_flags(from.join("open-beacon.sqlite"), OpenFlags::SQLITE_OPEN_READ_ONLY)?;
    let copied = copy_into(&source, to);
    if copied.is_err() {
        // Half a backup must not stand there as if it were one.
        let _ = std::fs::remove_file(to);
    }
    copied
}

/// Replaces the database in the data directory `into` by the backup file `from`. What stood there is kept beside
/// it, as a file whose name ends in `.before-restore.sqlite`.
///
/// # Errors
/// Where `from` is not a whole Open Beacon database.
pub fn restore(from: &Path, into: &Path) -> Result<(), StoreError> {
    let source = Connection::open_with_flags(from, OpenFlags::SQLITE_OPEN_READ_ONLY)?;
    let check: String = source.query_row("PRAGMA integrity_check", [], |row| row.get(0))?;
    let sites: i64 = source.query_row(
        "SELECT count(*) FROM sqlite_schema WHERE type = 'table' AND name = 'site'",
        [],
        |row| row.get(0),
    )?;
    if check != "ok" || sites != 1 {
        return Err(StoreError::Refused(format!(
            "{} is not an Open Beacon backup ({check})",
            from.display()
        )));
    }
    crate::private::create_private_folder(into)?;
    let path = into.join("open-beacon.sqlite");
    if path.exists() {
        let kept = path.with_extension("before-restore.sqlite");
        let _ = std::fs::remove_file(&kept);
        copy_into(&Connection::open(&path)?, &kept)?;
    }
    copy_into(&source, &path)
}

pub(crate) fn copy_into(source: &Connection, to: &Path) -> Result<(), StoreError> {
    crate::private::create_private(to, crate::private::PRIVATE_FILE)?;
    let mut target = Connection::open(to)?;
    target.pragma_update(None, "synchronous", "full")?;
    Backup::new(source, &mut target)?.run_to_completion(1000, Duration::ZERO, None)?;
    Ok(())
}
