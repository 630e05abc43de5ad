//! Opening a data directory: pragmas, migrations, and the backup before them.

use crate::StoreError;
use crate::private::{PRIVATE_FILE, create_private, create_private_folder};
use crate::versions::{Aggregate, Versions};
use rusqlite::{Connection, OpenFlags, Transaction};
use rusqlite_migration::{HookError, M, Migrations};
use std::ops::{Deref, DerefMut};
use std::path::{Path, PathBuf};
use std::sync::atomic::Ordering;
use std::sync::{Mutex, MutexGuard, PoisonError};

/// Pages kept of the database for reading by each connection, at the most; a negative number is KiB.
const READ_CACHE_KIB: i64 = -16 * 1024;

const FILE_NAME: &str = "open-beacon.sqlite";

fn migrations() -> Migrations<'static> {
    Migrations::new(vec![
        M::up(include_str!("migrations/0001_first_light.sql")),
        M::up(include_str!("migrations/0002_baseline.sql")),
        M::up(include_str!("migrations/0003_kit.sql")),
        M::up(include_str!("migrations/0004_survey.sql")),
        M::up(include_str!("migrations/0005_backdrop.sql")),
        M::up(include_str!("migrations/0006_sweep.sql")),
        M::up(include_str!("migrations/0007_roof.sql")),
        M::up(include_str!("migrations/0008_bands.sql")),
        M::up_with_hook(include_str!("migrations/0009_thread.sql"), |transaction: &Transaction| {
            let done =
                crate::trials::record_all(transaction).and_then(|()| crate::sittings::give_all(transaction));
            done.map_err(|error| HookError::Hook(error.to_string()))
        }),
        M::up_with_hook(include_str!("migrations/0010_sweep_points.sql"), |transaction: &Transaction| {
            crate::sweeps::record_all(transaction).map_err(|error| HookError::Hook(error.to_string()))
        }),
        M::up(include_str!("migrations/0011_asleep.sql")),
        M::up(include_str!("migrations/0012_aim_criterion.sql")),
        M::up(include_str!("migrations/0013_run_digest.sql")),
        M::up(include_str!("migrations/0014_digest_index.sql")),
        M::up(include_str!("migrations/0015_packed_digest.sql")),
        M::up(include_str!("migrations/0016_prediction.sql")),
        M::up(include_str!("migrations/0017_speed_course.sql")),
        M::up(include_str!("migrations/0018_surroundings.sql")),
        M::up(include_str!("migrations/0019_protocol.sql")),
        M::up(include_str!("migrations/0020_amendment.sql")),
        M::up(include_str!("migrations/0021_as_built.sql")),
        M::up(include_str!("migrations/0022_average_of.sql")),
    ])
}

/// A connection that only reads.
fn reader(path: &Path) -> Result<Connection, StoreError> {
    // One thread at a time asks it; SQLite need not see to that.
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let reader = Connection::open_with_flags(path, flags)?;
    reader.pragma_update(None, "cache_size", READ_CACHE_KIB)?;
    reader.pragma_update(None, "query_only", true)?;
    reader.busy_timeout(std::time::Duration::from_secs(5))?;
    Ok(reader)
}

/// An open data directory.
#[derive(Debug)]
pub struct Store {
    // Closed before the writer, in the order of the fields: the last one to close has to be able to write, so that the log is
    // taken into the database file.
    // Two, so that one long answer does not hold up the others, and a large one is read by both.
    readers: [Mutex<Connection>; 2],
    writer: Mutex<Connection>,
    secrets: Mutex<Connection>,
    versions: Versions,
    path: PathBuf,
}

/// What durability rests on, as SQLite reports it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Durability {
    pub journal_mode: String,
    /// 2 is FULL.
    pub synchronous: i64,
    pub foreign_keys: bool,
}

impl Store {
    /// Opens (or makes) the database in `directory`. Before a migration the old database is copied beside it.
    ///
    /// # Errors
    /// Where the directory cannot be written, the database is newer than this program, or SQLite does not confirm
    /// write-ahead log and full synchronisation.
    pub fn open(directory: &Path) -> Result<Self, StoreError> {
        create_private_folder(directory)?;
        let path = directory.join(FILE_NAME);
        create_private(&path, PRIVATE_FILE)?;
        let mut writer = Connection::open(&path)?;
        prepare(&writer)?;
        // Before the copy that a migration makes: it must not hold them.
        let secrets = crate::secrets::open(directory)?;
        crate::secrets::move_from_record(&writer, &secrets)?;
        back_up_before_migration(&writer, &path)?;
        migrations().to_latest(&mut writer)?;
        let transaction = writer.transaction()?;
        crate::digests::fill(&transaction)?;
        transaction.commit()?;
        let readers = [Mutex::new(reader(&path)?), Mutex::new(reader(&path)?)];
        let versions = Versions::default();
        versions.watch(&writer)?;
        let store =
            Self { writer: Mutex::new(writer), readers, secrets: Mutex::new(secrets), versions, path };
        let durability = store.durability()?;
        let wanted = Durability { journal_mode: "wal".into(), synchronous: 2, foreign_keys: true };
        if durability != wanted {
            return Err(StoreError::NotDurable(format!("{durability:?} in place of {wanted:?}")));
        }
        Ok(store)
    }

    /// The database file.
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// The folder that holds it.
    pub fn folder(&self) -> &Path {
        self.path.parent().unwrap_or(Path::new("."))
    }

    /// Asks the writing connection what durability rests on.
    ///
    /// # Errors
    /// Where SQLite does not answer.
    pub fn durability(&self) -> Result<Durability, StoreError> {
        let writer = self.write();
        Ok(Durability {
            journal_mode: writer.pragma_query_value(None, "journal_mode", |row| row.get(0))?,
            synchronous: writer.pragma_query_value(None, "synchronous", |row| row.get(0))?,
            foreign_keys: writer.pragma_query_value(None, "foreign_keys", |row| row.get(0))?,
        })
    }

    // A panic while the lock was held leaves SQLite's own state whole: an open transaction was rolled back.
    pub(crate) fn write(&self) -> Writing<'_> {
        let connection = self.writer.lock().unwrap_or_else(PoisonError::into_inner);
        Writing { connection, versions: &self.versions }
    }

    /// Rises with every write to any of these parts since the program started: what was read at one version holds until the
    /// next.
    pub fn version(&self, of: &[Aggregate]) -> u64 {
        of.iter().map(|one| self.versions.counts[*one as usize].load(Ordering::Acquire)).sum()
    }

    pub(crate) fn secrets(&self) -> MutexGuard<'_, Connection> {
        self.secrets.lock().unwrap_or_else(PoisonError::into_inner)
    }

    pub(crate) fn read(&self) -> MutexGuard<'_, Connection> {
        let free = self.readers.iter().find_map(|reader| reader.try_lock().ok());
        free.unwrap_or_else(|| self.readers[0].lock().unwrap_or_else(PoisonError::into_inner))
    }
}

/// The writing connection. Versions rise when it is given back, after the commit.
#[derive(Debug)]
pub(crate) struct Writing<'a> {
    connection: MutexGuard<'a, Connection>,
    versions: &'a Versions,
}

impl Deref for Writing<'_> {
    type Target = Connection;
    fn deref(&self) -> &Connection {
        &self.connection
    }
}

impl DerefMut for Writing<'_> {
    fn deref_mut(&mut self) -> &mut Connection {
        &mut self.connection
    }
}

impl Drop for Writing<'_> {
    fn drop(&mut self) {
        self.versions.rise();
    }
}

fn prepare(connection: &Connection) -> Result<(), StoreError> {
    connection.busy_timeout(std::time::Duration::from_secs(5))?;
    connection.pragma_update(None, "journal_mode", "wal")?;
    connection.pragma_update(None, "synchronous", "full")?;
    connection.pragma_update(None, "foreign_keys", true)?;
    Ok(())
}

fn back_up_before_migration(connection: &Connection, path: &Path) -> Result<(), StoreError> {
    let version: i64 = connection.pragma_query_value(None, "user_version", |row| row.get(0))?;
    if version > 0 && migrations().pending_migrations(connection)? > 0 {
        crate::backup::copy_into(
            connection,
            &path.with_extension(format!("before-migration-from-{version}.sqlite")),
        )?;
    }
    Ok(())
}
