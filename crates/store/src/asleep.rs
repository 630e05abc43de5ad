//! Sites that came from a file: nothing is sent for them before the user has seen what it is.

use crate::{Store, StoreError};
use open_beacon_core::model::SiteId;

impl Store {
    /// Puts a site to sleep, or wakes it. A site that is not here yet may be put to sleep before it is brought in.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn set_asleep(&self, site: SiteId, asleep: bool) -> Result<(), StoreError> {
        let sql = if asleep {
            "INSERT OR IGNORE INTO asleep (site_id) VALUES (?1)"
        } else {
            "DELETE FROM asleep WHERE site_id = ?1"
        };
        self.write().execute(sql, [site.to_string()])?;
        Ok(())
    }

    /// Whether nothing is sent for a site.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn is_asleep(&self, site: SiteId) -> Result<bool, StoreError> {
        let db = self.read();
        let mut statement = db.prepare_cached("SELECT 1 FROM asleep WHERE site_id = ?1")?;
        Ok(statement.exists([site.to_string()])?)
    }
}
