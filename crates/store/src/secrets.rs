//! What signs in to gateways. Never part of a bundle.

use crate::{Store, StoreError};
use open_beacon_core::model::{GatewaySecrets, SiteId};
use rusqlite::OptionalExtension;

impl Store {
    /// A site's gateway secrets, and how many logins failed with them one after the other.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn gateway_secrets(&self, site: SiteId) -> Result<(GatewaySecrets, u8), StoreError> {
        let found = self
            .read()
            .query_row(
                "SELECT user, password, failed_logins FROM gateway_secret WHERE site_id = ?1",
                [site.to_string()],
                |row| Ok((GatewaySecrets { user: row.get(0)?, password: row.get(1)? }, row.get(2)?)),
            )
            .optional()?;
        Ok(found.unwrap_or_default())
    }

    /// Replaces a site's gateway secrets; logins are counted anew.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there is no such site.
    pub fn put_gateway_secrets(&self, site: SiteId, secrets: &GatewaySecrets) -> Result<(), StoreError> {
        self.site(site)?;
        self.write().execute(
            "INSERT INTO gateway_secret (site_id, user, password) VALUES (?1, ?2, ?3)
             ON CONFLICT (site_id) DO UPDATE SET user = ?2, password = ?3, failed_logins = 0",
            (site.to_string(), &secrets.user, &secrets.password),
        )?;
        Ok(())
    }

    /// Keeps how many logins failed, so that a restarted program does not begin to count anew.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn note_failed_logins(&self, site: SiteId, failed: u8) -> Result<(), StoreError> {
        self.write().execute(
            "INSERT INTO gateway_secret (site_id, user, password, failed_logins) VALUES (?1, '', '', ?2)
             ON CONFLICT (site_id) DO UPDATE SET failed_logins = ?2",
            (site.to_string(), failed),
        )?;
        Ok(())
    }
}
