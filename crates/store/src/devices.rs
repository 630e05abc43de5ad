//! Phones that were let in over the local network.

use crate::convert::{Result as Row_, id, maybe_time, millis, time};
use crate::{Store, StoreError};
use chrono::{DateTime, Utc};
use open_beacon_core::model::{DeviceId, PairedDevice};
use rusqlite::{OptionalExtension, Row};

const COLUMNS: &str = "id, name, paired_at, last_seen_at, revoked_at";

fn from_row(row: &Row) -> Row_<PairedDevice> {
    Ok(PairedDevice {
        id: id(row, "id")?,
        name: row.get("name")?,
        paired_at: time(row, "paired_at")?,
        last_seen_at: maybe_time(row, "last_seen_at")?,
        revoked_at: maybe_time(row, "revoked_at")?,
    })
}

impl Store {
    /// Lets a device in. Of its token only the SHA-256 is kept.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn pair_device(&self, device: &PairedDevice, token_sha256: &str) -> Result<(), StoreError> {
        self.write().execute(
            "INSERT INTO paired_device (id, name, token_sha256, paired_at) VALUES (?1, ?2, ?3, ?4)",
            (device.id.to_string(), &device.name, token_sha256, millis(device.paired_at)),
        )?;
        Ok(())
    }

    /// The device with a token, if it was not turned away since.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn device_with(&self, token_sha256: &str) -> Result<Option<PairedDevice>, StoreError> {
        let sql =
            format!("SELECT {COLUMNS} FROM paired_device WHERE token_sha256 = ?1 AND revoked_at IS NULL");
        Ok(self.read().query_row(&sql, [token_sha256], from_row).optional()?)
    }

    /// All devices that ever were let in, the newest first.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn devices(&self) -> Result<Vec<PairedDevice>, StoreError> {
        let db = self.read();
        let sql = format!("SELECT {COLUMNS} FROM paired_device ORDER BY paired_at DESC");
        let mut statement = db.prepare_cached(&sql)?;
        let found = statement.query_map([], from_row)?.collect::<Row_<_>>()?;
        Ok(found)
    }

    /// Notes that a device was here.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn seen_device(&self, device: DeviceId, at: DateTime<Utc>) -> Result<(), StoreError> {
        self.write().execute(
            "UPDATE paired_device SET last_seen_at = ?2 WHERE id = ?1",
            (device.to_string(), millis(at)),
        )?;
        Ok(())
    }

    /// Turns a device away from now on.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn revoke_device(&self, device: DeviceId, at: DateTime<Utc>) -> Result<(), StoreError> {
        let changed = self.write().execute(
            "UPDATE paired_device SET revoked_at = coalesce(revoked_at, ?2) WHERE id = ?1",
            (device.to_string(), millis(at)),
        )?;
        if changed == 0 { Err(StoreError::NotFound("device")) } else { Ok(()) }
    }
}
