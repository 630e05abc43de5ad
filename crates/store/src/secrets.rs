//! What signs in to gateways: in a file of its own that only its owner may read, in no export and no backup. A secret is bound to
//! the address it was entered for.

use crate::private::{PRIVATE_FILE, create_private};
use crate::{Store, StoreError};
use open_beacon_core::model::{GatewaySecrets, SiteId, SiteSettings, origin_of};
use rusqlite::{Connection, OptionalExtension};
use std::path::Path;

const FILE_NAME: &str = "secrets.sqlite";

/// Opens the file of secrets in a data directory, making it where it is not there.
pub(crate) fn open(directory: &Path) -> Result<Connection, StoreError> {
    let path = directory.join(FILE_NAME);
    create_private(&path, PRIVATE_FILE)?;
    let connection = Connection::open(&path)?;
    connection.busy_timeout(std::time::Duration::from_secs(5))?;
    // No log beside it that outlives a change, and nothing left where something was taken away.
    connection.pragma_update(None, "journal_mode", "delete")?;
    connection.pragma_update(None, "synchronous", "full")?;
    connection.pragma_update(None, "secure_delete", true)?;
    connection.execute_batch(
        "CREATE TABLE IF NOT EXISTS gateway_secret (
            site_id TEXT PRIMARY KEY, origin TEXT NOT NULL, user TEXT NOT NULL, password TEXT NOT NULL,
            failed_logins INTEGER NOT NULL DEFAULT 0)",
    )?;
    Ok(connection)
}

/// Moves secrets that an earlier version kept among the records: bound to the address that the site has now. They are written
/// here before they are taken away there.
pub(crate) fn move_from_record(record: &Connection, secrets: &Connection) -> Result<(), StoreError> {
    let there =
        "SELECT count(*) FROM sqlite_schema WHERE type = 'table' AND name IN ('site', 'gateway_secret')";
    if record.query_row(there, [], |row| row.get::<_, i64>(0))? == 2 {
        move_rows(record, secrets)?;
        split_addresses(record, secrets)?;
    }
    Ok(())
}

type Row = (String, String, String, u8, String);

fn move_rows(record: &Connection, secrets: &Connection) -> Result<(), StoreError> {
    let mut statement = record.prepare(
        "SELECT gateway_secret.site_id, user, password, failed_logins, site.settings FROM gateway_secret
         JOIN site ON site.id = gateway_secret.site_id",
    )?;
    let read = |row: &rusqlite::Row| Ok((row.get(0)?, row.get(1)?, row.get(2)?, row.get(3)?, row.get(4)?));
    let rows: Vec<Row> = statement.query_map([], read)?.collect::<Result<_, _>>()?;
    if rows.is_empty() {
        return Ok(());
    }
    for (site, user, password, failed, settings) in rows {
        let settings: SiteSettings = serde_json::from_str(&settings).unwrap_or_default();
        let origin = settings.gateway.and_then(|gateway| origin_of(&gateway.status_url)).unwrap_or_default();
        secrets.execute(
            "INSERT OR IGNORE INTO gateway_secret (site_id, origin, user, password, failed_logins) VALUES (?1, ?2, ?3, ?4, ?5)",
            (site, origin, user, password, failed),
        )?;
    }
    record.pragma_update(None, "secure_delete", true)?;
    record.execute_batch("DELETE FROM gateway_secret WHERE TRUE; PRAGMA wal_checkpoint(TRUNCATE);")?;
    Ok(())
}

/// Names and passwords that stand in addresses: an earlier version let them.
fn split_addresses(record: &Connection, secrets: &Connection) -> Result<(), StoreError> {
    let mut statement = record.prepare("SELECT id, settings FROM site WHERE settings LIKE '%@%'")?;
    let rows: Vec<(String, String)> =
        statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?.collect::<Result<_, _>>()?;
    let mut split = false;
    for (site, text) in rows {
        let Ok(before) = serde_json::from_str::<SiteSettings>(&text) else { continue };
        let mut settings = before.clone();
        let info = settings.take_user_info();
        if settings == before {
            continue;
        }
        let origin = settings.gateway.as_ref().and_then(|gateway| origin_of(&gateway.status_url));
        if let (Some((user, password)), Some(origin)) = (info, origin) {
            secrets.execute(
                "INSERT OR IGNORE INTO gateway_secret (site_id, origin, user, password) VALUES (?1, ?2, ?3, ?4)",
                (&site, origin, user, password),
            )?;
        }
        record.pragma_update(None, "secure_delete", true)?;
        record.execute(
            "UPDATE site SET settings = ?2 WHERE id = ?1",
            (&site, crate::convert::json(&settings)),
        )?;
        split = true;
    }
    if split {
        record.execute_batch("PRAGMA wal_checkpoint(TRUNCATE);")?;
    }
    Ok(())
}

impl Store {
    /// A site's gateway secrets for a device at `address`, and how many logins failed with them one after the other. Nothing
    /// where they were entered for another scheme, host or port: they are asked for again.
    ///
    /// # Errors
    /// Where the file does not answer.
    pub fn gateway_secrets(&self, site: SiteId, address: &str) -> Result<(GatewaySecrets, u8), StoreError> {
        let Some(origin) = origin_of(address) else { return Ok(Default::default()) };
        let found = self
            .secrets()
            .query_row(
                "SELECT user, password, failed_logins FROM gateway_secret WHERE site_id = ?1 AND origin = ?2",
                (site.to_string(), origin),
                |row| Ok((GatewaySecrets { user: row.get(0)?, password: row.get(1)? }, row.get(2)?)),
            )
            .optional()?;
        Ok(found.unwrap_or_default())
    }

    /// Replaces a site's gateway secrets by those for the device at `address`; logins are counted anew.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where there is no such site; [`StoreError::Refused`] where the address is none.
    pub fn put_gateway_secrets(
        &self,
        site: SiteId,
        address: &str,
        secrets: &GatewaySecrets,
    ) -> Result<(), StoreError> {
        self.site(site)?;
        let origin = origin_of(address).ok_or_else(|| {
            StoreError::Refused(
                "Enter the gateway's address first: name and password are kept for it alone.".into(),
            )
        })?;
        self.secrets().execute(
            "INSERT INTO gateway_secret (site_id, origin, user, password) VALUES (?1, ?2, ?3, ?4)
             ON CONFLICT (site_id) DO UPDATE SET origin = ?2, user = ?3, password = ?4, failed_logins = 0",
            (site.to_string(), origin, &secrets.user, &secrets.password),
        )?;
        Ok(())
    }

    /// Keeps how many logins failed at `address`, so that a restarted program does not begin to count anew.
    ///
    /// # Errors
    /// Where the file does not answer.
    pub fn note_failed_logins(&self, site: SiteId, address: &str, failed: u8) -> Result<(), StoreError> {
        let Some(origin) = origin_of(address) else { return Ok(()) };
        self.secrets().execute(
            "INSERT INTO gateway_secret (site_id, origin, user, password, failed_logins) VALUES (?1, ?2, '', '', ?3)
             ON CONFLICT (site_id) DO UPDATE SET failed_logins = ?3 WHERE origin = ?2",
            (site.to_string(), origin, failed),
        )?;
        Ok(())
    }
}
