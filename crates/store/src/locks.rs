//! What gateways were about to be told. Never part of a bundle: it is of a device, not of the record.

use crate::convert::{from_json, json};
use crate::{Store, StoreError};
use open_beacon_core::model::{BandChoice, LockIntent, SiteId};
use rusqlite::OptionalExtension;

impl Store {
    /// What may have been told to a site's gateway and is not settled.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn lock_intent(&self, site: SiteId) -> Result<Option<LockIntent>, StoreError> {
        Ok(self
            .read()
            .query_row("SELECT body FROM lock_intent WHERE site_id = ?1", [site.to_string()], |row| {
                from_json(row, "body")
            })
            .optional()?)
    }

    /// All that is not settled.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn lock_intents(&self) -> Result<Vec<LockIntent>, StoreError> {
        let db = self.read();
        let mut statement = db.prepare("SELECT body FROM lock_intent")?;
        let rows = statement.query_map([], |row| from_json(row, "body"))?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    /// Notes what is about to be told; on disk when this returns. What it goes back to, and what it
    /// used before, stay as they were noted first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there is no such site.
    pub fn note_lock_intent(&self, intent: &LockIntent) -> Result<(), StoreError> {
        self.site(intent.site_id)?;
        let mut intent = intent.clone();
        if let Some(first) = self.lock_intent(intent.site_id)? {
            (intent.good, intent.before) = (first.good, first.before);
        }
        self.write().execute(
            "INSERT INTO lock_intent (site_id, body) VALUES (?1, ?2) ON CONFLICT (site_id) DO UPDATE SET body = ?2",
            (intent.site_id.to_string(), json(&intent)),
        )?;
        Ok(())
    }

    /// The gateway is where it should be: nothing is open any more. `kept`: a lock that stays on purpose, written in the
    /// same transaction.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there is no such site.
    pub fn settle_lock(&self, site: SiteId, kept: Option<&BandChoice>) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        if let Some(kept) = kept {
            let mut settings = crate::sites::settings(&transaction, site)?;
            settings.trials.kept = kept.clone();
            crate::sites::write_settings(&transaction, site, &settings)?;
        }
        transaction.execute("DELETE FROM lock_intent WHERE site_id = ?1", [site.to_string()])?;
        transaction.commit()?;
        Ok(())
    }
}
