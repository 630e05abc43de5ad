//! What can go wrong at the store's edge.

/// Errors of the store.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    #[error("there is no {0} with this identifier")]
    NotFound(&'static str),
    #[error("this identifier was used before for something else")]
    IdTaken,
    #[error("{0}")]
    Refused(String),
    #[error("It was stopped. Nothing was brought in.")]
    Stopped,
    #[error("the database answered: {0}")]
    Sqlite(rusqlite::Error),
    #[error("the database could not be brought up to date: {0}")]
    Migration(#[from] rusqlite_migration::Error),
    #[error("a stored value could not be read: {0}")]
    Json(#[from] serde_json::Error),
    #[error("the disk answered: {0}")]
    Io(#[from] std::io::Error),
    #[error("the database is not durable: {0}")]
    NotDurable(String),
}

impl From<rusqlite::Error> for StoreError {
    /// An identifier that is there already is the request's fault, whichever way the first came in.
    fn from(error: rusqlite::Error) -> Self {
        use rusqlite::ffi::{
            SQLITE_CONSTRAINT_FOREIGNKEY, SQLITE_CONSTRAINT_PRIMARYKEY, SQLITE_CONSTRAINT_UNIQUE,
        };
        match error.sqlite_error().map(|error| error.extended_code) {
            Some(SQLITE_CONSTRAINT_PRIMARYKEY | SQLITE_CONSTRAINT_UNIQUE) => Self::IdTaken,
            Some(SQLITE_CONSTRAINT_FOREIGNKEY) => Self::Refused(
                "Something this refers to is not there. Look whether it was removed meanwhile.".into(),
            ),
            _ => Self::Sqlite(error),
        }
    }
}

impl StoreError {
    fn code(&self) -> Option<rusqlite::ErrorCode> {
        match self {
            Self::Sqlite(error) => error.sqlite_error_code(),
            _ => None,
        }
    }

    /// Whether there was no room.
    pub fn is_disk_full(&self) -> bool {
        let io = matches!(self, Self::Io(error) if error.kind() == std::io::ErrorKind::StorageFull);
        io || self.code() == Some(rusqlite::ErrorCode::DiskFull)
    }

    /// Whether the disk failed otherwise: a quota, a limit on a file's size, a fault.
    pub fn is_disk_fault(&self) -> bool {
        self.code() == Some(rusqlite::ErrorCode::SystemIoFailure)
    }

    /// Whether the folder cannot be written.
    pub fn is_read_only(&self) -> bool {
        let io = matches!(self, Self::Io(error)
            if matches!(error.kind(), std::io::ErrorKind::ReadOnlyFilesystem | std::io::ErrorKind::PermissionDenied));
        io || matches!(self.code(), Some(rusqlite::ErrorCode::ReadOnly | rusqlite::ErrorCode::CannotOpen))
    }
}
