//! Sheets of what was built.

use crate::convert::from_json;
use crate::creation::{Created, claim};
use crate::{Store, StoreError, sites, survey};
use open_beacon_core::model::{AsBuilt, AsBuiltId};
use rusqlite::OptionalExtension;
use serde::Serialize;

impl Store {
    /// Keeps a sheet; a repeat of the same identifier and `body` changes nothing.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] without the site; [`StoreError::IdTaken`] where the identifier stands for another one.
    pub fn add_as_built(&self, sheet: &AsBuilt, body: &impl Serialize) -> Result<Created, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        sites::find(&transaction, sheet.site_id)?.ok_or(StoreError::NotFound("site"))?;
        let created = claim(&transaction, &sheet.id.to_string(), "as_built", body)?;
        if created == Created::Now {
            survey::put(&transaction, sheet)?;
        }
        transaction.commit()?;
        Ok(created)
    }

    /// One sheet.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn as_built(&self, id: AsBuiltId) -> Result<AsBuilt, StoreError> {
        let sql = "SELECT body FROM as_built WHERE id = ?1";
        let found = self.read().query_row(sql, [id.to_string()], |row| from_json(row, "body")).optional()?;
        found.ok_or(StoreError::NotFound("sheet"))
    }
}
