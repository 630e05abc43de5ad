//! The user's own catalogue parts: models of their own, and built-in ones with other prices or stock.

use crate::convert::{Result as Row_, from_json, json};
use crate::{Store, StoreError};
use open_beacon_core::model::{Part, PartId};
use rusqlite::Connection;

pub(crate) fn all(db: &Connection) -> Result<Vec<Part>, StoreError> {
    let mut statement = db.prepare_cached("SELECT body FROM part ORDER BY id")?;
    let rows = statement.query_map([], |row| from_json(row, "body"))?;
    Ok(rows.collect::<Row_<_>>()?)
}

pub(crate) fn has(db: &Connection, id: PartId) -> Result<bool, StoreError> {
    Ok(db.prepare_cached("SELECT 1 FROM part WHERE id = ?1")?.exists([id.to_string()])?)
}

pub(crate) fn put(db: &Connection, part: &Part) -> Result<(), StoreError> {
    db.execute(
        "INSERT INTO part (id, body) VALUES (?1, ?2) ON CONFLICT (id) DO UPDATE SET body = excluded.body",
        (part.id.to_string(), json(part)),
    )?;
    Ok(())
}

impl Store {
    /// All parts of the user's own, archived ones too.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn own_parts(&self) -> Result<Vec<Part>, StoreError> {
        all(&self.read())
    }

    /// Keeps parts, all or none; one with the same identifier is replaced.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn put_parts(&self, parts: &[Part]) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        for part in parts {
            put(&transaction, part)?;
        }
        transaction.commit()?;
        Ok(())
    }

    /// Forgets the user's own version of a part: the built-in one, if there is one, shows again.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn forget_part(&self, id: PartId) -> Result<(), StoreError> {
        self.write().execute("DELETE FROM part WHERE id = ?1", [id.to_string()])?;
        Ok(())
    }
}
