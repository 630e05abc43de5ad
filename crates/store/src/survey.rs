//! What a survey is made of: masts, obstacles, landmarks, tiles of terrain, aerial pictures; sweeps and band trials,
//! which are kept the same way.

use crate::contents::{stored, to_keep};
use crate::convert::{Result as Row_, from_json, json};
use crate::{Store, StoreError};
use open_beacon_core::model::{
    Amendment, AsBuilt, Backdrop, BackdropFile, BandRound, FileContent, KeptPrediction, Landmark, Mast,
    Obstacle, SiteEvent, SiteId, SpeedCourse, Sweep, SweepPhoto, SweepPhotoFile, SweepStop, TerrainTile,
    TileFile,
};
use rusqlite::{Connection, OptionalExtension, Row};
use serde::Serialize;
use serde::de::DeserializeOwned;

/// A value of a survey, kept whole in its own table.
pub trait SiteEntity: Serialize + DeserializeOwned {
    const TABLE: &'static str;
    fn id_text(&self) -> String;
    fn site(&self) -> SiteId;
}

macro_rules! thing {
    ($type:ident, $table:literal) => {
        impl SiteEntity for $type {
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
thing!(Backdrop, "backdrop");
thing!(Sweep, "sweep");
thing!(SweepStop, "sweep_stop");
thing!(SweepPhoto, "sweep_photo");
thing!(BandRound, "band_round");
thing!(KeptPrediction, "prediction");
thing!(SpeedCourse, "speed_course");
thing!(SiteEvent, "event");
thing!(Amendment, "amendment");
thing!(AsBuilt, "as_built");

/// A thing with a file beside it.
pub trait SiteFile: Sized {
    type Thing: SiteEntity;
    /// "terrain file": what the user calls it.
    const NAME: &'static str;
    fn new(thing: Self::Thing, content: FileContent) -> Self;
    fn thing(&self) -> &Self::Thing;
    fn content(&self) -> &FileContent;
}

macro_rules! file {
    ($type:ident, $thing:ident, $field:ident, $name:literal) => {
        impl SiteFile for $type {
            type Thing = $thing;
            const NAME: &'static str = $name;
            fn new($field: $thing, content: FileContent) -> Self {
                Self { $field, content }
            }
            fn thing(&self) -> &$thing {
                &self.$field
            }
            fn content(&self) -> &FileContent {
                &self.content
            }
        }
    };
}
file!(TileFile, TerrainTile, tile, "terrain file");
file!(BackdropFile, Backdrop, backdrop, "aerial picture");
file!(SweepPhotoFile, SweepPhoto, photo, "photograph");

pub(crate) fn of_site<T: SiteEntity>(db: &Connection, site: SiteId) -> Result<Vec<T>, StoreError> {
    let sql = format!("SELECT body FROM {} WHERE site_id = ?1 ORDER BY rowid", T::TABLE);
    let mut statement = db.prepare_cached(&sql)?;
    let rows = statement.query_map([site.to_string()], |row| from_json(row, "body"))?;
    Ok(rows.collect::<Row_<_>>()?)
}

/// Keeps a thing; one with the same identifier is replaced, at the same site only.
pub(crate) fn put<T: SiteEntity>(db: &Connection, thing: &T) -> Result<(), StoreError> {
    let sql = format!(
        "INSERT INTO {} (id, site_id, body) VALUES (?1, ?2, ?3)
         ON CONFLICT (id) DO UPDATE SET body = excluded.body WHERE site_id = excluded.site_id",
        T::TABLE
    );
    let changed = db.execute(&sql, (thing.id_text(), thing.site().to_string(), json(thing)))?;
    if changed == 0 { Err(StoreError::IdTaken) } else { Ok(()) }
}

pub(crate) fn insert_file<F: SiteFile>(db: &Connection, file: &F) -> Result<(), StoreError> {
    let thing = file.thing();
    db.execute(
        &format!("INSERT INTO {} (id, site_id, body, content) VALUES (?1, ?2, ?3, ?4)", F::Thing::TABLE),
        (thing.id_text(), thing.site().to_string(), json(thing), to_keep(file.content(), F::NAME)?),
    )?;
    Ok(())
}

fn select_files<F: SiteFile>(which: &str) -> String {
    format!("SELECT id, body, length(content) AS size FROM {} WHERE {which}", F::Thing::TABLE)
}

fn file_of<F: SiteFile>(db: &Connection, row: &Row) -> Row_<F> {
    let content = stored(db, F::Thing::TABLE, row.get("id")?, row.get("size")?);
    Ok(F::new(from_json(row, "body")?, content))
}

pub(crate) fn files<F: SiteFile>(db: &Connection, site: SiteId) -> Result<Vec<F>, StoreError> {
    let mut statement = db.prepare(&select_files::<F>("site_id = ?1 ORDER BY rowid"))?;
    let rows = statement.query_map([site.to_string()], |row| file_of(db, row))?;
    Ok(rows.collect::<Row_<_>>()?)
}

impl Store {
    /// All things of a kind at a site, archived ones too, in order of making.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn entities<T: SiteEntity>(&self, site: SiteId) -> Result<Vec<T>, StoreError> {
        of_site(&self.read(), site)
    }

    /// Keeps things, all or none; those with the same identifier are replaced.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] without the site; [`StoreError::IdTaken`] where an identifier is another site's.
    pub fn put_entities<T: SiteEntity>(&self, site: SiteId, things: &[T]) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        crate::sites::find(&transaction, site)?.ok_or(StoreError::NotFound("site"))?;
        for thing in things {
            put(&transaction, thing)?;
        }
        transaction.commit()?;
        Ok(())
    }

    /// Keeps a file; a repeat of the same identifier changes nothing.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] without the site.
    pub fn add_file<F: SiteFile>(&self, file: &F) -> Result<(), StoreError> {
        let thing = file.thing();
        let mut db = self.write();
        let transaction = db.transaction()?;
        crate::sites::find(&transaction, thing.site())?.ok_or(StoreError::NotFound("site"))?;
        let sql = format!("SELECT 1 FROM {} WHERE id = ?1", F::Thing::TABLE);
        if !transaction.prepare(&sql)?.exists([thing.id_text()])? {
            insert_file(&transaction, file)?;
        }
        transaction.commit()?;
        Ok(())
    }

    /// Changes what is said of a file; its content stays.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn change_file<F: SiteFile>(&self, thing: &F::Thing) -> Result<(), StoreError> {
        let changed = self.write().execute(
            &format!("UPDATE {} SET body = ?3 WHERE id = ?1 AND site_id = ?2", F::Thing::TABLE),
            (thing.id_text(), thing.site().to_string(), json(thing)),
        )?;
        if changed == 0 { Err(StoreError::NotFound(F::NAME)) } else { Ok(()) }
    }

    /// A file with its content, by its identifier.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn site_file<F: SiteFile>(&self, id: impl std::fmt::Display) -> Result<F, StoreError> {
        let db = self.read();
        let found = db
            .prepare_cached(&select_files::<F>("id = ?1"))?
            .query_row([id.to_string()], |row| file_of(&db, row))
            .optional()?;
        found.ok_or(StoreError::NotFound(F::NAME))
    }
}
