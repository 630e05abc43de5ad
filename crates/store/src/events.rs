//! What happened at a site, as the user noted it.

use crate::convert::from_json;
use crate::creation::{Created, claim};
use crate::{Store, StoreError, sites, survey};
use chrono::{DateTime, Utc};
use open_beacon_core::model::{EventId, SiteEvent};
use rusqlite::OptionalExtension;
use serde::Serialize;

impl Store {
    /// Keeps an event; a repeat of the same identifier and `body` changes nothing.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] without the site; [`StoreError::IdTaken`] where the identifier stands for another one.
    pub fn add_event(&self, event: &SiteEvent, body: &impl Serialize) -> Result<Created, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        sites::find(&transaction, event.site_id)?.ok_or(StoreError::NotFound("site"))?;
        let created = claim(&transaction, &event.id.to_string(), "event", body)?;
        if created == Created::Now {
            survey::put(&transaction, event)?;
        }
        transaction.commit()?;
        Ok(created)
    }

    /// Leaves an event out (`Some`) or takes it back in.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn archive_event(&self, id: EventId, at: Option<DateTime<Utc>>) -> Result<SiteEvent, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let sql = "SELECT body FROM event WHERE id = ?1";
        let found: Option<SiteEvent> =
            transaction.query_row(sql, [id.to_string()], |row| from_json(row, "body")).optional()?;
        let event = SiteEvent { archived_at: at, ..found.ok_or(StoreError::NotFound("event"))? };
        survey::put(&transaction, &event)?;
        transaction.commit()?;
        Ok(event)
    }
}
