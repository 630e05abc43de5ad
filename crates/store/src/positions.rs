//! Antenna positions.

use crate::convert::{self, Result as Row_, id, maybe_time, millis, place, time};
use crate::creation::{Created, claim};
use crate::{Store, StoreError};
use open_beacon_core::model::{Position, PositionId, SiteId, Spot};
use rusqlite::{Connection, OptionalExtension, Row};
use serde::Serialize;

const COLUMNS: &str = "id, site_id, name, latitude_deg, longitude_deg, height_above_ground_m, mount, floor, room, facing_deg, near_window, notes, created_at, archived_at";

fn from_row(row: &Row) -> Row_<Position> {
    Ok(Position {
        id: id(row, "id")?,
        site_id: id(row, "site_id")?,
        name: row.get("name")?,
        place: place(row)?,
        height_above_ground_m: row.get("height_above_ground_m")?,
        mount: convert::from_word(row, "mount")?,
        spot: Spot {
            floor: row.get("floor")?,
            room: row.get("room")?,
            facing_deg: row.get("facing_deg")?,
            window: row.get("near_window")?,
        },
        notes: row.get("notes")?,
        created_at: time(row, "created_at")?,
        archived_at: maybe_time(row, "archived_at")?,
    })
}

pub(crate) fn insert(db: &Connection, position: &Position) -> Result<(), StoreError> {
    db.execute(
        "INSERT INTO position (id, site_id, name, latitude_deg, longitude_deg, height_above_ground_m, mount, floor, room,
         facing_deg, near_window, notes, created_at, archived_at)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14)",
        (
            position.id.to_string(),
            position.site_id.to_string(),
            &position.name,
            position.place.map(|place| place.latitude_deg),
            position.place.map(|place| place.longitude_deg),
            position.height_above_ground_m,
            convert::word(&position.mount),
            &position.spot.floor,
            &position.spot.room,
            position.spot.facing_deg,
            &position.spot.window,
            &position.notes,
            millis(position.created_at),
            position.archived_at.map(millis),
        ),
    )?;
    Ok(())
}

pub(crate) fn of_site(db: &Connection, site: SiteId) -> Result<Vec<Position>, StoreError> {
    let sql = format!("SELECT {COLUMNS} FROM position WHERE site_id = ?1 ORDER BY created_at, id");
    let mut statement = db.prepare_cached(&sql)?;
    let rows = statement.query_map([site.to_string()], from_row)?;
    Ok(rows.collect::<Row_<_>>()?)
}

pub(crate) fn find(db: &Connection, id: PositionId) -> Result<Option<Position>, StoreError> {
    let sql = format!("SELECT {COLUMNS} FROM position WHERE id = ?1");
    Ok(db.prepare_cached(&sql)?.query_row([id.to_string()], from_row).optional()?)
}

impl Store {
    /// Adds a position; `body` is the request it came from.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`]; [`StoreError::NotFound`] where the site is not there.
    pub fn create_position(&self, position: &Position, body: &impl Serialize) -> Result<Created, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        crate::sites::find(&transaction, position.site_id)?.ok_or(StoreError::NotFound("site"))?;
        let created = claim(&transaction, &position.id.to_string(), "position", body)?;
        if created == Created::Now {
            insert(&transaction, position)?;
        }
        transaction.commit()?;
        Ok(created)
    }

    /// All positions of a site, archived ones too, in order of making.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn positions(&self, site: SiteId) -> Result<Vec<Position>, StoreError> {
        of_site(&self.read(), site)
    }

    /// One position.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn position(&self, id: PositionId) -> Result<Position, StoreError> {
        find(&self.read(), id)?.ok_or(StoreError::NotFound("position"))
    }

    /// Changes name, place, height, mount, spot and notes.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn update_position(&self, position: &Position) -> Result<(), StoreError> {
        let changed = self.write().execute(
            "UPDATE position SET name = ?2, latitude_deg = ?3, longitude_deg = ?4, height_above_ground_m = ?5,
             mount = ?6, floor = ?7, room = ?8, facing_deg = ?9, near_window = ?10, notes = ?11 WHERE id = ?1",
            (
                position.id.to_string(),
                &position.name,
                position.place.map(|place| place.latitude_deg),
                position.place.map(|place| place.longitude_deg),
                position.height_above_ground_m,
                convert::word(&position.mount),
                &position.spot.floor,
                &position.spot.room,
                position.spot.facing_deg,
                &position.spot.window,
                &position.notes,
            ),
        )?;
        if changed == 0 { Err(StoreError::NotFound("position")) } else { Ok(()) }
    }
}
