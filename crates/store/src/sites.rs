//! Sites and their settings.

use crate::convert::{self, Result as Row_, id, json, maybe_time, millis, place, time};
use crate::creation::{Created, claim};
use crate::{Store, StoreError};
use chrono::{DateTime, Utc};
use open_beacon_core::model::{Site, SiteId, SiteSettings};
use rusqlite::{Connection, OptionalExtension, Row};
use serde::Serialize;
use std::collections::BTreeMap;

const COLUMNS: &str = "id, name, latitude_deg, longitude_deg, time_zone, notes, created_at, archived_at";

fn from_row(row: &Row) -> Row_<Site> {
    Ok(Site {
        id: id(row, "id")?,
        name: row.get("name")?,
        place: place(row)?,
        time_zone: convert::from_word(row, "time_zone")?,
        notes: row.get("notes")?,
        created_at: time(row, "created_at")?,
        archived_at: maybe_time(row, "archived_at")?,
    })
}

pub(crate) fn insert(db: &Connection, site: &Site, settings: &SiteSettings) -> Result<(), StoreError> {
    db.execute(
        "INSERT INTO site (id, name, latitude_deg, longitude_deg, time_zone, notes, created_at, archived_at, settings)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)",
        (
            site.id.to_string(),
            &site.name,
            site.place.map(|place| place.latitude_deg),
            site.place.map(|place| place.longitude_deg),
            convert::word(&site.time_zone),
            &site.notes,
            millis(site.created_at),
            site.archived_at.map(millis),
            json(settings),
        ),
    )?;
    Ok(())
}

pub(crate) fn find(db: &Connection, id: SiteId) -> Result<Option<Site>, StoreError> {
    let sql = format!("SELECT {COLUMNS} FROM site WHERE id = ?1");
    Ok(db.prepare_cached(&sql)?.query_row([id.to_string()], from_row).optional()?)
}

pub(crate) fn all(db: &Connection) -> Result<Vec<Site>, StoreError> {
    let mut statement = db.prepare_cached(&format!("SELECT {COLUMNS} FROM site ORDER BY created_at DESC"))?;
    let rows = statement.query_map([], from_row)?;
    Ok(rows.collect::<Row_<_>>()?)
}

pub(crate) fn settings(db: &Connection, id: SiteId) -> Result<SiteSettings, StoreError> {
    db.query_row("SELECT settings FROM site WHERE id = ?1", [id.to_string()], |row| {
        convert::from_json(row, "settings")
    })
    .optional()?
    .ok_or(StoreError::NotFound("site"))
}

type Versions = BTreeMap<String, u64>;

fn versions(db: &Connection, id: SiteId) -> Result<Versions, StoreError> {
    db.query_row("SELECT settings_versions FROM site WHERE id = ?1", [id.to_string()], |row| {
        convert::from_json(row, "settings_versions")
    })
    .optional()?
    .ok_or(StoreError::NotFound("site"))
}

/// Writes settings; every section that differs from what is there gets its next version.
pub(crate) fn write_settings(db: &Connection, id: SiteId, wanted: &SiteSettings) -> Result<(), StoreError> {
    let sections = |settings: &SiteSettings| match serde_json::to_value(settings) {
        Ok(serde_json::Value::Object(sections)) => sections,
        other => unreachable!("settings are an object, not {other:?}"),
    };
    let (before, after) = (sections(&settings(db, id)?), sections(wanted));
    let mut versions = versions(db, id)?;
    for (name, value) in &after {
        if before.get(name) != Some(value) {
            *versions.entry(name.clone()).or_default() += 1;
        }
    }
    db.execute(
        "UPDATE site SET settings = ?2, settings_versions = ?3 WHERE id = ?1",
        (id.to_string(), json(wanted), json(&versions)),
    )?;
    Ok(())
}

impl Store {
    /// Adds a site; `body` is the request it came from.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`] where the identifier was used for another body.
    pub fn create_site(&self, site: &Site, body: &impl Serialize) -> Result<Created, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let created = claim(&transaction, &site.id.to_string(), "site", body)?;
        if created == Created::Now {
            insert(&transaction, site, &SiteSettings { stand_in_follows: true, ..SiteSettings::default() })?;
        }
        transaction.commit()?;
        Ok(created)
    }

    /// All sites, archived ones too, the newest first.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn sites(&self) -> Result<Vec<Site>, StoreError> {
        all(&self.read())
    }

    /// One site.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn site(&self, id: SiteId) -> Result<Site, StoreError> {
        find(&self.read(), id)?.ok_or(StoreError::NotFound("site"))
    }

    /// Changes name, place, zone and notes.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn update_site(&self, site: &Site) -> Result<(), StoreError> {
        let changed = self.write().execute(
            "UPDATE site SET name = ?2, latitude_deg = ?3, longitude_deg = ?4, time_zone = ?5, notes = ?6 WHERE id = ?1",
            (
                site.id.to_string(),
                &site.name,
                site.place.map(|place| place.latitude_deg),
                site.place.map(|place| place.longitude_deg),
                convert::word(&site.time_zone),
                &site.notes,
            ),
        )?;
        if changed == 0 { Err(StoreError::NotFound("site")) } else { Ok(()) }
    }

    /// A site's settings.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn settings(&self, id: SiteId) -> Result<SiteSettings, StoreError> {
        settings(&self.read(), id)
    }

    /// Version of each section of a site's settings that was ever changed.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn settings_versions(&self, id: SiteId) -> Result<BTreeMap<String, u64>, StoreError> {
        versions(&self.read(), id)
    }

    /// A site's settings with the versions of their sections, of one moment.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn settings_with_versions(&self, id: SiteId) -> Result<(SiteSettings, Versions), StoreError> {
        let db = self.read();
        let moment = db.unchecked_transaction()?;
        Ok((settings(&moment, id)?, versions(&moment, id)?))
    }

    /// Writes settings that were made from those of `seen`, and answers them with their new versions.
    ///
    /// # Errors
    /// [`StoreError::Refused`] where any section was changed since.
    pub fn change_settings(
        &self,
        id: SiteId,
        seen: &Versions,
        wanted: &SiteSettings,
    ) -> Result<(SiteSettings, Versions), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        if versions(&transaction, id)? != *seen {
            return Err(StoreError::Refused(
                "The settings were changed at the same moment, on another screen. Save again.".into(),
            ));
        }
        write_settings(&transaction, id, wanted)?;
        let answer = (settings(&transaction, id)?, versions(&transaction, id)?);
        transaction.commit()?;
        Ok(answer)
    }

    /// Changes settings where they stand: what others changed meanwhile stays. Answers them as they are then.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn update_settings(
        &self,
        id: SiteId,
        change: impl FnOnce(&mut SiteSettings),
    ) -> Result<SiteSettings, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let mut wanted = settings(&transaction, id)?;
        change(&mut wanted);
        write_settings(&transaction, id, &wanted)?;
        transaction.commit()?;
        Ok(wanted)
    }

    /// Replaces a site's settings.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn put_settings(&self, id: SiteId, settings: &SiteSettings) -> Result<(), StoreError> {
        write_settings(&self.write(), id, settings)
    }

    /// Archives (`Some`) or restores (`None`) a row of one of the archivable tables.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn set_archived(
        &self,
        kind: Archivable,
        id: &str,
        at: Option<DateTime<Utc>>,
    ) -> Result<(), StoreError> {
        let (sql, word) = match kind {
            Archivable::Site => ("UPDATE site SET archived_at = ?2 WHERE id = ?1", "site"),
            Archivable::Position => ("UPDATE position SET archived_at = ?2 WHERE id = ?1", "position"),
            Archivable::Setup => ("UPDATE setup SET archived_at = ?2 WHERE id = ?1", "setup"),
            Archivable::Run => ("UPDATE run SET archived_at = ?2 WHERE id = ?1", "run"),
            Archivable::Kit => ("UPDATE kit SET archived_at = ?2 WHERE id = ?1", "kit"),
        };
        let changed = self.write().execute(sql, (id, at.map(millis)))?;
        if changed == 0 { Err(StoreError::NotFound(word)) } else { Ok(()) }
    }
}

/// What can be archived and restored. Nothing is ever deleted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Archivable {
    Site,
    Position,
    Setup,
    Run,
    Kit,
}
