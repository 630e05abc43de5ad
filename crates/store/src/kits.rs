//! Kits of a site.

use crate::convert::{Result as Row_, from_json, id, json, maybe_time, millis, time};
use crate::creation::{Created, claim};
use crate::{Store, StoreError};
use chrono::NaiveDate;
use open_beacon_core::model::{Kit, KitId, SiteId};
use rusqlite::{Connection, OptionalExtension, Row};
use serde::Serialize;

const COLUMNS: &str = "id, site_id, name, spec, bought_on, return_by, notes, created_at, archived_at";

fn date(row: &Row, column: &str) -> Row_<Option<NaiveDate>> {
    // Written by this program from a date; anything else is as good as none.
    Ok(row.get::<_, Option<String>>(column)?.and_then(|text| text.parse().ok()))
}

fn from_row(row: &Row) -> Row_<Kit> {
    Ok(Kit {
        id: id(row, "id")?,
        site_id: id(row, "site_id")?,
        name: row.get("name")?,
        spec: from_json(row, "spec")?,
        bought_on: date(row, "bought_on")?,
        return_by: date(row, "return_by")?,
        notes: row.get("notes")?,
        created_at: time(row, "created_at")?,
        archived_at: maybe_time(row, "archived_at")?,
    })
}

pub(crate) fn insert(db: &Connection, kit: &Kit) -> Result<(), StoreError> {
    db.execute(
        "INSERT INTO kit (id, site_id, name, spec, bought_on, return_by, notes, created_at, archived_at)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9)",
        (
            kit.id.to_string(),
            kit.site_id.to_string(),
            &kit.name,
            json(&kit.spec),
            kit.bought_on.map(|date| date.to_string()),
            kit.return_by.map(|date| date.to_string()),
            &kit.notes,
            millis(kit.created_at),
            kit.archived_at.map(millis),
        ),
    )?;
    Ok(())
}

pub(crate) fn of_site(db: &Connection, site: SiteId) -> Result<Vec<Kit>, StoreError> {
    let sql = format!("SELECT {COLUMNS} FROM kit WHERE site_id = ?1 ORDER BY created_at, id");
    let mut statement = db.prepare_cached(&sql)?;
    let rows = statement.query_map([site.to_string()], from_row)?;
    Ok(rows.collect::<Row_<_>>()?)
}

/// A kit stands at a position of its own site: an export holds no other.
fn at_its_site(db: &Connection, kit: &Kit) -> Result<(), StoreError> {
    let Some(position) = kit.spec.position_id else { return Ok(()) };
    let there = db
        .prepare_cached("SELECT 1 FROM position WHERE id = ?1 AND site_id = ?2")?
        .exists((position.to_string(), kit.site_id.to_string()))?;
    let refused =
        || StoreError::Refused("This position is not at the kit's site. Choose one that is.".into());
    there.then_some(()).ok_or_else(refused)
}

impl Store {
    /// Adds a kit; `body` is the request it came from.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`]; [`StoreError::NotFound`] where the site is not there.
    pub fn create_kit(&self, kit: &Kit, body: &impl Serialize) -> Result<Created, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        crate::sites::find(&transaction, kit.site_id)?.ok_or(StoreError::NotFound("site"))?;
        at_its_site(&transaction, kit)?;
        let created = claim(&transaction, &kit.id.to_string(), "kit", body)?;
        if created == Created::Now {
            insert(&transaction, kit)?;
        }
        transaction.commit()?;
        Ok(created)
    }

    /// All kits of a site, archived ones too, in order of making.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn kits(&self, site: SiteId) -> Result<Vec<Kit>, StoreError> {
        of_site(&self.read(), site)
    }

    /// One kit.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn kit(&self, id: KitId) -> Result<Kit, StoreError> {
        let sql = format!("SELECT {COLUMNS} FROM kit WHERE id = ?1");
        let found = self.read().prepare_cached(&sql)?.query_row([id.to_string()], from_row).optional()?;
        found.ok_or(StoreError::NotFound("kit"))
    }

    /// Changes name, parts, dates and notes.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn update_kit(&self, kit: &Kit) -> Result<(), StoreError> {
        let db = self.write();
        at_its_site(&db, kit)?;
        let changed = db.execute(
            "UPDATE kit SET name = ?2, spec = ?3, bought_on = ?4, return_by = ?5, notes = ?6 WHERE id = ?1",
            (
                kit.id.to_string(),
                &kit.name,
                json(&kit.spec),
                kit.bought_on.map(|date| date.to_string()),
                kit.return_by.map(|date| date.to_string()),
                &kit.notes,
            ),
        )?;
        if changed == 0 { Err(StoreError::NotFound("kit")) } else { Ok(()) }
    }
}
