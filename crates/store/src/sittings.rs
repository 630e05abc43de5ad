//! Sittings, and giving tests theirs.

use crate::convert::{Result as Row_, id, millis, time};
use crate::{Store, StoreError, sites, speed_tests};
use open_beacon_core::model::{SiteId, Sitting, SpeedTest, assign_sittings};
use rusqlite::{Connection, Row};

fn from_row(row: &Row) -> Row_<Sitting> {
    Ok(Sitting {
        id: id(row, "id")?,
        site_id: id(row, "site_id")?,
        started_at: time(row, "started_at")?,
        ended_at: time(row, "ended_at")?,
    })
}

pub(crate) fn of_site(db: &Connection, site: SiteId) -> Result<Vec<Sitting>, StoreError> {
    let sql = "SELECT * FROM sitting WHERE site_id = ?1 ORDER BY started_at, id";
    let mut statement = db.prepare_cached(sql)?;
    let rows = statement.query_map([site.to_string()], from_row)?;
    Ok(rows.collect::<Row_<_>>()?)
}

/// Keeps a sitting; one that is there already is stretched to hold this one.
pub(crate) fn put(db: &Connection, sitting: &Sitting) -> Result<(), StoreError> {
    db.prepare_cached(
        "INSERT INTO sitting (id, site_id, started_at, ended_at) VALUES (?1, ?2, ?3, ?4)
         ON CONFLICT (id) DO UPDATE SET started_at = min(started_at, excluded.started_at),
         ended_at = max(ended_at, excluded.ended_at)",
    )?
    .execute((
        sitting.id.to_string(),
        sitting.site_id.to_string(),
        millis(sitting.started_at),
        millis(sitting.ended_at),
    ))?;
    Ok(())
}

/// Gives tests without a sitting one of the site's, made or stretched as needed.
pub(crate) fn give(db: &Connection, site: SiteId, tests: &mut [SpeedTest]) -> Result<(), StoreError> {
    if tests.iter().all(|test| test.sitting_id.is_some()) {
        return Ok(());
    }
    let mut known = of_site(db, site)?;
    let before = known.clone();
    assign_sittings(site, tests, &mut known);
    for sitting in known.iter().filter(|sitting| !before.contains(sitting)) {
        put(db, sitting)?;
    }
    Ok(())
}

/// What the record of an earlier version lacks: a sitting for every test (within 30 minutes of each other, nothing else is
/// known of them).
pub(crate) fn give_all(db: &Connection) -> Result<(), StoreError> {
    for site in sites::all(db)? {
        let filter = "JOIN run ON run.id = speed_test.run_id JOIN setup ON setup.id = run.setup_id
            JOIN position ON position.id = setup.position_id
            WHERE position.site_id = ?1 AND speed_test.sitting_id IS NULL";
        let mut tests = speed_tests::select_before_surroundings(db, filter, &site.id.to_string())?;
        give(db, site.id, &mut tests)?;
        let mut statement = db.prepare("UPDATE speed_test SET sitting_id = ?2 WHERE id = ?1")?;
        for test in tests {
            statement.execute((test.id.to_string(), test.sitting_id.map(|id| id.to_string())))?;
        }
    }
    Ok(())
}

impl Store {
    /// All sittings of a site, in order of time.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn sittings(&self, site: SiteId) -> Result<Vec<Sitting>, StoreError> {
        of_site(&self.read(), site)
    }
}
