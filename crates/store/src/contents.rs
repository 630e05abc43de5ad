//! Contents of files in the database, read one at a time when they are wanted.

use crate::StoreError;
use open_beacon_core::model::{ContentSource, FileContent};
use rusqlite::{Connection, OpenFlags};
use std::io;
use std::path::PathBuf;
use std::time::Duration;

/// The content of one row. It never changes, so a connection of its own reads what every other would; whoever writes a long
/// export holds up nobody.
struct Stored {
    path: PathBuf,
    table: &'static str,
    id: String,
}

impl Stored {
    fn content(&self) -> rusqlite::Result<Vec<u8>> {
        let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
        let db = Connection::open_with_flags(&self.path, flags)?;
        db.busy_timeout(Duration::from_secs(5))?;
        let sql = format!("SELECT content FROM {} WHERE id = ?1", self.table);
        db.query_row(&sql, [&self.id], |row| row.get(0))
    }
}

impl ContentSource for Stored {
    fn read(&self) -> io::Result<Vec<u8>> {
        self.content().map_err(io::Error::other)
    }
}

/// The content of a row of `table`, of that many bytes.
pub(crate) fn stored(db: &Connection, table: &'static str, id: String, bytes: i64) -> FileContent {
    let path = db.path().map(PathBuf::from).unwrap_or_default();
    FileContent::there(bytes.cast_unsigned(), Stored { path, table, id })
}

/// The bytes of a file that is to be kept.
pub(crate) fn to_keep<'a>(
    content: &'a FileContent,
    what: &str,
) -> Result<std::borrow::Cow<'a, [u8]>, StoreError> {
    content.read().map_err(|error| StoreError::Refused(format!("a {what} cannot be read: {error}")))
}
