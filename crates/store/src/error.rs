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
    #[error("the database answered: {0}")]
    Sqlite(#[from] rusqlite::Error),
    #[error("the database could not be brought up to date: {0}")]
    Migration(#[from] rusqlite_migration::Error),
    #[error("a stored value could not be read: {0}")]
    Json(#[from] serde_json::Error),
    #[error("the disk answered: {0}")]
    Io(#[from] std::io::Error),
    #[error("the database is not durable: {0}")]
    NotDurable(String),
}
