//! Sittings, and giving tests theirs.

use crate::convert::{Result as Row_, id, maybe_time, millis, time};
use crate::creation::{Created, claim};
use crate::{Store, StoreError, sites, speed_tests};
use chrono::{DateTime, Utc};
use open_beacon_core::model::{SetupId, SiteId, Sitting, SittingId, SpeedTest, assign_sittings};
use rusqlite::{Connection, OptionalExtension, Row};
use std::collections::HashMap;

/// A whole test of a sitting.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SittingTest {
    pub setup_id: SetupId,
    pub started_at: DateTime<Utc>,
}

fn from_row(row: &Row) -> Row_<Sitting> {
    // While a database is brought up to date there are sittings to be read before there are these columns.
    let whole = row.as_ref().column_index("by_hand").is_ok();
    Ok(Sitting {
        id: id(row, "id")?,
        site_id: id(row, "site_id")?,
        started_at: time(row, "started_at")?,
        ended_at: time(row, "ended_at")?,
        name: if whole { row.get("name")? } else { String::new() },
        by_hand: whole && row.get("by_hand")?,
        closed_at: if whole { maybe_time(row, "closed_at")? } else { None },
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
    if sitting.by_hand || !sitting.name.is_empty() {
        db.prepare_cached(
            "UPDATE sitting SET name = iif(name = '', ?2, name), by_hand = max(by_hand, ?3),
             closed_at = coalesce(closed_at, ?4) WHERE id = ?1",
        )?
        .execute((
            sitting.id.to_string(),
            &sitting.name,
            sitting.by_hand,
            sitting.closed_at.map(millis),
        ))?;
    }
    Ok(())
}

/// Writes what the page says of a sitting: name, whether it was opened there, and when it was closed.
fn rewrite(db: &Connection, sitting: &Sitting) -> Result<(), StoreError> {
    put(db, sitting)?;
    db.execute(
        "UPDATE sitting SET name = ?2, by_hand = ?3, closed_at = ?4 WHERE id = ?1",
        (sitting.id.to_string(), &sitting.name, sitting.by_hand, sitting.closed_at.map(millis)),
    )?;
    Ok(())
}

fn find(db: &Connection, id: SittingId) -> Result<Sitting, StoreError> {
    let found = db.query_row("SELECT * FROM sitting WHERE id = ?1", [id.to_string()], from_row);
    found.optional()?.ok_or(StoreError::NotFound("sitting"))
}

/// Gives tests without a sitting one of the site's, made or stretched as needed.
pub(crate) fn give(db: &Connection, site: SiteId, tests: &mut [SpeedTest]) -> Result<(), StoreError> {
    if tests.iter().all(|test| test.sitting_id.is_some()) {
        return Ok(());
    }
    let mut known = of_site(db, site)?;
    let before: HashMap<SittingId, Sitting> = known.iter().map(|one| (one.id, one.clone())).collect();
    assign_sittings(site, tests, &mut known);
    for sitting in known.iter().filter(|sitting| before.get(&sitting.id) != Some(sitting)) {
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

    /// Whole tests of a sitting with their setups, in order of time; those of archived runs are left out.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn tests_of_sitting(&self, id: SittingId) -> Result<Vec<SittingTest>, StoreError> {
        let db = self.read();
        let sql = "SELECT run.setup_id, speed_test.started_at FROM speed_test JOIN run ON run.id = speed_test.run_id
            WHERE speed_test.sitting_id = ?1 AND speed_test.completion = 'complete' AND run.archived_at IS NULL
            ORDER BY speed_test.started_at, speed_test.id";
        let mut statement = db.prepare_cached(sql)?;
        let test = |row: &Row| Ok(SittingTest { setup_id: self::id(row, 0)?, started_at: time(row, 1)? });
        Ok(statement.query_map([id.to_string()], test)?.collect::<Row_<_>>()?)
    }

    /// Bytes that a site's tests have moved since a moment, both ways.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn bytes_moved(&self, site: SiteId, since: DateTime<Utc>) -> Result<f64, StoreError> {
        let db = self.read();
        let sql = format!(
            "SELECT coalesce(sum(speed_test.bytes_down + speed_test.bytes_up), 0) FROM {}
             JOIN speed_test ON speed_test.run_id = run.id
             WHERE position.site_id = ?1 AND speed_test.started_at >= ?2",
            crate::runs::RUNS_OF_SITE
        );
        let bytes: i64 =
            db.prepare_cached(&sql)?.query_row((site.to_string(), millis(since)), |row| row.get(0))?;
        Ok(bytes as f64)
    }

    /// One sitting.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn sitting(&self, id: SittingId) -> Result<Sitting, StoreError> {
        find(&self.read(), id)
    }

    /// Opens a sitting at `now`. Where the tests before are of the same hour, theirs is opened and goes on: tests minutes apart
    /// are never of two. A repeat of the same identifier answers what the first one did.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] without the site; [`StoreError::Refused`] where another one is open.
    pub fn open_sitting(
        &self,
        site: SiteId,
        id: SittingId,
        name: &str,
        now: DateTime<Utc>,
    ) -> Result<Sitting, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        sites::find(&transaction, site)?.ok_or(StoreError::NotFound("site"))?;
        let known = of_site(&transaction, site)?;
        let again = claim(&transaction, &id.to_string(), "sitting", &(site, name))? == Created::Before;
        let open = known.iter().rev().find(|sitting| sitting.is_open(now));
        if again {
            let by_hand = known.iter().rev().find(|sitting| sitting.by_hand);
            return open.or(by_hand).cloned().ok_or(StoreError::NotFound("sitting"));
        }
        if open.is_some() {
            return Err(StoreError::Refused("A sitting is open already. Close it first.".into()));
        }
        let before = known.iter().rev().find(|sitting| sitting.takes(now)).cloned();
        let mut sitting = before.unwrap_or_else(|| Sitting::at(id, site, now));
        sitting.by_hand = true;
        sitting.closed_at = None;
        if !name.is_empty() {
            name.clone_into(&mut sitting.name);
        }
        rewrite(&transaction, &sitting)?;
        transaction.commit()?;
        Ok(sitting)
    }

    /// Closes a sitting; one that is closed stays as it is.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn close_sitting(&self, id: SittingId, now: DateTime<Utc>) -> Result<Sitting, StoreError> {
        self.change_sitting(id, |sitting| {
            sitting.closed_at = sitting.closed_at.or_else(|| Some(now.min(sitting.ends_at())));
        })
    }

    /// Gives a sitting another name.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn name_sitting(&self, id: SittingId, name: &str) -> Result<Sitting, StoreError> {
        self.change_sitting(id, |sitting| name.clone_into(&mut sitting.name))
    }

    fn change_sitting(
        &self,
        id: SittingId,
        change: impl FnOnce(&mut Sitting),
    ) -> Result<Sitting, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let mut sitting = find(&transaction, id)?;
        change(&mut sitting);
        rewrite(&transaction, &sitting)?;
        transaction.commit()?;
        Ok(sitting)
    }
}
