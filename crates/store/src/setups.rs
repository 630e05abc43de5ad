//! Setups: fixed once they have runs.

use crate::convert::{
    self, Result as Row_, from_json, id, json, maybe_id, maybe_time, maybe_word, millis, time,
};
use crate::creation::{Created, claim};
use crate::{Store, StoreError};
use open_beacon_core::model::{Setup, SetupId, SetupSpec, SiteId};
use rusqlite::{Connection, OptionalExtension, Row, ToSql};
use serde::Serialize;

const COLUMNS: &str = "setup.id, setup.position_id, setup.made_from, setup.name, setup.antenna, setup.azimuth_deg,
    setup.tilt_deg, setup.gateway_place, setup.gateway_azimuth_deg, setup.ports, setup.kit_note, setup.lock_note,
    setup.kit_id, setup.height_above_ground_m, setup.polarisation, setup.lock, setup.origin, setup.created_at,
    setup.archived_at";

fn from_row(row: &Row) -> Row_<Setup> {
    Ok(Setup {
        id: id(row, "id")?,
        position_id: id(row, "position_id")?,
        made_from: maybe_id(row, "made_from")?,
        origin: from_json(row, "origin")?,
        spec: SetupSpec {
            name: row.get("name")?,
            antenna: convert::from_word(row, "antenna")?,
            azimuth_deg: row.get("azimuth_deg")?,
            tilt_deg: row.get("tilt_deg")?,
            gateway_place: row.get("gateway_place")?,
            gateway_azimuth_deg: row.get("gateway_azimuth_deg")?,
            ports: from_json(row, "ports")?,
            kit_id: maybe_id(row, "kit_id")?,
            height_above_ground_m: row.get("height_above_ground_m")?,
            polarisation: maybe_word(row, "polarisation")?,
            lock: from_json(row, "lock")?,
            kit_note: row.get("kit_note")?,
            lock_note: row.get("lock_note")?,
        },
        created_at: time(row, "created_at")?,
        archived_at: maybe_time(row, "archived_at")?,
    })
}

pub(crate) fn insert(db: &Connection, setup: &Setup) -> Result<(), StoreError> {
    let spec = &setup.spec;
    db.execute(
        "INSERT INTO setup (id, position_id, made_from, origin, name, antenna, azimuth_deg, tilt_deg, gateway_place,
         gateway_azimuth_deg, ports, kit_id, height_above_ground_m, polarisation, lock, kit_note, lock_note, created_at,
         archived_at)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17, ?18, ?19)",
        &[
            &setup.id.to_string() as &dyn ToSql,
            &setup.position_id.to_string(),
            &setup.made_from.map(|id| id.to_string()),
            &json(&setup.origin),
            &spec.name,
            &convert::word(&spec.antenna),
            &spec.azimuth_deg,
            &spec.tilt_deg,
            &spec.gateway_place,
            &spec.gateway_azimuth_deg,
            &json(&spec.ports),
            &spec.kit_id.map(|id| id.to_string()),
            &spec.height_above_ground_m,
            &spec.polarisation.as_ref().map(convert::word),
            &json(&spec.lock),
            &spec.kit_note,
            &spec.lock_note,
            &millis(setup.created_at),
            &setup.archived_at.map(millis),
        ] as &[&dyn ToSql],
    )?;
    Ok(())
}

pub(crate) fn find(db: &Connection, id: SetupId) -> Result<Option<Setup>, StoreError> {
    let sql = format!("SELECT {COLUMNS} FROM setup WHERE setup.id = ?1");
    Ok(db.prepare_cached(&sql)?.query_row([id.to_string()], from_row).optional()?)
}

pub(crate) fn of_site(db: &Connection, site: SiteId) -> Result<Vec<Setup>, StoreError> {
    let sql = format!(
        "SELECT {COLUMNS} FROM setup JOIN position ON position.id = setup.position_id
         WHERE position.site_id = ?1 ORDER BY setup.created_at, setup.id"
    );
    let mut statement = db.prepare_cached(&sql)?;
    let rows = statement.query_map([site.to_string()], from_row)?;
    Ok(rows.collect::<Row_<_>>()?)
}

impl Store {
    /// Adds a setup; `body` is the request it came from.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`]; [`StoreError::NotFound`] where the position is not there.
    pub fn create_setup(&self, setup: &Setup, body: &impl Serialize) -> Result<Created, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let position = setup.position_id.to_string();
        transaction
            .query_row("SELECT 1 FROM position WHERE id = ?1", [position], |_| Ok(()))
            .optional()?
            .ok_or(StoreError::NotFound("position"))?;
        let created = claim(&transaction, &setup.id.to_string(), "setup", body)?;
        if created == Created::Now {
            insert(&transaction, setup)?;
        }
        transaction.commit()?;
        Ok(created)
    }

    /// All setups of a site, archived ones too, in order of making.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn setups(&self, site: SiteId) -> Result<Vec<Setup>, StoreError> {
        of_site(&self.read(), site)
    }

    /// One setup.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn setup(&self, id: SetupId) -> Result<Setup, StoreError> {
        find(&self.read(), id)?.ok_or(StoreError::NotFound("setup"))
    }

    /// Changes a setup that has no runs yet. Answers false, and changes nothing, where it has: the caller makes a
    /// new setup from it. Name and notes may always change: they do not touch what was measured.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn edit_setup_without_runs(&self, id: SetupId, spec: &SetupSpec) -> Result<bool, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let old = find(&transaction, id)?.ok_or(StoreError::NotFound("setup"))?;
        let runs: i64 = transaction.query_row(
            "SELECT count(*) FROM run WHERE setup_id = ?1",
            [id.to_string()],
            |row| row.get(0),
        )?;
        if runs > 0 && !old.spec.stands_like(spec) {
            return Ok(false);
        }
        transaction.execute(
            "UPDATE setup SET name = ?2, antenna = ?3, azimuth_deg = ?4, tilt_deg = ?5, gateway_place = ?6,
             gateway_azimuth_deg = ?7, ports = ?8, kit_id = ?9, height_above_ground_m = ?10, polarisation = ?11,
             lock = ?12, kit_note = ?13, lock_note = ?14 WHERE id = ?1",
            (
                id.to_string(),
                &spec.name,
                convert::word(&spec.antenna),
                spec.azimuth_deg,
                spec.tilt_deg,
                &spec.gateway_place,
                spec.gateway_azimuth_deg,
                json(&spec.ports),
                spec.kit_id.map(|id| id.to_string()),
                spec.height_above_ground_m,
                spec.polarisation.as_ref().map(convert::word),
                json(&spec.lock),
                &spec.kit_note,
                &spec.lock_note,
            ),
        )?;
        transaction.commit()?;
        Ok(true)
    }
}
