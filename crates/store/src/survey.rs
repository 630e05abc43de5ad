//! What a survey is made of: masts, obstacles, landmarks, tiles of terrain.

use crate::convert::{Result as Row_, from_json, json};
use crate::{Store, StoreError};
use open_beacon_core::model::{Landmark, Mast, Obstacle, SiteId, TerrainTile, TileFile, TileId};
use rusqlite::{Connection, OptionalExtension};
use serde::Serialize;
use serde::de::DeserializeOwned;

/// A value of a survey, kept whole in its own table.
pub trait SurveyThing: Serialize + DeserializeOwned {
    const TABLE: &'static str;
    fn id_text(&self) -> String;
    fn site(&self) -> SiteId;
}

macro_rules! thing {
    ($type:ident, $table:literal) => {
        impl SurveyThing for $type {
            const TABLE: &'static str = $table;
            fn id_text(&self) -> String {
                self.id.to_string()
            }
            fn site(&self) -> SiteId {
                self.site_id
            }
        }
    };
}
thing!(Mast, "mast");
thing!(Obstacle, "obstacle");
thing!(Landmark, "landmark");
thing!(TerrainTile, "tile");

pub(crate) fn of_site<T: SurveyThing>(db: &Connection, site: SiteId) -> Result<Vec<T>, StoreError> {
    let sql = format!("SELECT body FROM {} WHERE site_id = ?1 ORDER BY rowid", T::TABLE);
    let mut statement = db.prepare_cached(&sql)?;
    let rows = statement.query_map([site.to_string()], |row| from_json(row, "body"))?;
    Ok(rows.collect::<Row_<_>>()?)
}

/// Keeps a thing; one with the same identifier is replaced, at the same site only.
pub(crate) fn put<T: SurveyThing>(db: &Connection, thing: &T) -> Result<(), StoreError> {
    let sql = format!(
        "INSERT INTO {} (id, site_id, body) VALUES (?1, ?2, ?3)
         ON CONFLICT (id) DO UPDATE SET body = excluded.body WHERE site_id = excluded.site_id",
        T::TABLE
    );
    let changed = db.execute(&sql, (thing.id_text(), thing.site().to_string(), json(thing)))?;
    if changed == 0 { Err(StoreError::IdTaken) } else { Ok(()) }
}

pub(crate) fn insert_tile(db: &Connection, file: &TileFile) -> Result<(), StoreError> {
    db.execute(
        "INSERT INTO tile (id, site_id, body, content) VALUES (?1, ?2, ?3, ?4)",
        (file.tile.id.to_string(), file.tile.site_id.to_string(), json(&file.tile), &file.content),
    )?;
    Ok(())
}

pub(crate) fn tile_files(db: &Connection, site: SiteId) -> Result<Vec<TileFile>, StoreError> {
    let mut statement = db.prepare("SELECT body, content FROM tile WHERE site_id = ?1 ORDER BY rowid")?;
    let rows = statement.query_map([site.to_string()], |row| {
        Ok(TileFile { tile: from_json(row, "body")?, content: row.get("content")? })
    })?;
    Ok(rows.collect::<Row_<_>>()?)
}

impl Store {
    /// All things of a kind at a site, archived ones too, in order of making.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn survey_things<T: SurveyThing>(&self, site: SiteId) -> Result<Vec<T>, StoreError> {
        of_site(&self.read(), site)
    }

    /// Keeps things, all or none; those with the same identifier are replaced.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] without the site; [`StoreError::IdTaken`] where an identifier is another site's.
    pub fn put_survey_things<T: SurveyThing>(&self, site: SiteId, things: &[T]) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        crate::sites::find(&transaction, site)?.ok_or(StoreError::NotFound("site"))?;
        for thing in things {
            put(&transaction, thing)?;
        }
        transaction.commit()?;
        Ok(())
    }

    /// Keeps a terrain file; a repeat of the same identifier changes nothing.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] without the site.
    pub fn add_tile(&self, file: &TileFile) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        crate::sites::find(&transaction, file.tile.site_id)?.ok_or(StoreError::NotFound("site"))?;
        let there: bool =
            transaction.prepare("SELECT 1 FROM tile WHERE id = ?1")?.exists([file.tile.id.to_string()])?;
        if !there {
            insert_tile(&transaction, file)?;
        }
        transaction.commit()?;
        Ok(())
    }

    /// Changes what is said of a terrain file; its content stays.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn change_tile(&self, tile: &TerrainTile) -> Result<(), StoreError> {
        let changed = self.write().execute(
            "UPDATE tile SET body = ?3 WHERE id = ?1 AND site_id = ?2",
            (tile.id.to_string(), tile.site_id.to_string(), json(tile)),
        )?;
        if changed == 0 { Err(StoreError::NotFound("terrain file")) } else { Ok(()) }
    }

    /// A terrain file with its content.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn tile_file(&self, id: TileId) -> Result<TileFile, StoreError> {
        let found = self
            .read()
            .prepare_cached("SELECT body, content FROM tile WHERE id = ?1")?
            .query_row([id.to_string()], |row| {
                Ok(TileFile { tile: from_json(row, "body")?, content: row.get("content")? })
            })
            .optional()?;
        found.ok_or(StoreError::NotFound("terrain file"))
    }
}
