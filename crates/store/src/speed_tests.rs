//! Speed tests.

use crate::convert::{self, Result as Row_, id, maybe_id, millis, places, time};
use crate::{Store, StoreError};
use open_beacon_core::model::{RunId, SittingId, SpeedCourse, SpeedFigures, SpeedTest, SpeedTestId};
use rusqlite::{Connection, OptionalExtension, Row, ToSql};

const COLUMNS: &str = "speed_test.id, speed_test.run_id, speed_test.sitting_id, speed_test.started_at, speed_test.source,
    speed_test.completion, speed_test.reason, speed_test.server, speed_test.download_mbps, speed_test.upload_mbps,
    speed_test.idle_latency_ms, speed_test.download_latency_ms, speed_test.upload_latency_ms, speed_test.probe_loss,
    speed_test.bytes_down, speed_test.bytes_up, speed_test.connections, speed_test.average_of, speed_test.surroundings";

fn from_row(row: &Row) -> Row_<SpeedTest> {
    // In the order of `COLUMNS`.
    let mut next = places();
    Ok(SpeedTest {
        id: id(row, next())?,
        run_id: id(row, next())?,
        sitting_id: maybe_id(row, next())?,
        started_at: time(row, next())?,
        source: convert::from_word(row, next())?,
        completion: convert::from_word(row, next())?,
        reason: row.get(next())?,
        server: row.get(next())?,
        figures: SpeedFigures {
            download_mbps: row.get(next())?,
            upload_mbps: row.get(next())?,
            idle_latency_ms: row.get(next())?,
            download_latency_ms: row.get(next())?,
            upload_latency_ms: row.get(next())?,
            probe_loss: row.get(next())?,
            bytes_down: row.get::<_, i64>(next())?.cast_unsigned(),
            bytes_up: row.get::<_, i64>(next())?.cast_unsigned(),
            connections: row.get(next())?,
            average_of: row.get(next())?,
        },
        surroundings: convert::maybe_json(row, next())?,
    })
}

pub(crate) fn insert(db: &Connection, test: &SpeedTest) -> Result<(), StoreError> {
    let figures = &test.figures;
    db.prepare_cached(
        "INSERT INTO speed_test (id, run_id, started_at, source, completion, reason, server, download_mbps,
         upload_mbps, idle_latency_ms, download_latency_ms, upload_latency_ms, probe_loss, bytes_down, bytes_up,
         connections, sitting_id) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17)",
    )?
    .execute(&[
        &test.id.to_string() as &dyn ToSql,
        &test.run_id.to_string(),
        &millis(test.started_at),
        &convert::word(&test.source),
        &convert::word(&test.completion),
        &test.reason,
        &test.server,
        &figures.download_mbps,
        &figures.upload_mbps,
        &figures.idle_latency_ms,
        &figures.download_latency_ms,
        &figures.upload_latency_ms,
        &figures.probe_loss,
        &figures.bytes_down.cast_signed(),
        &figures.bytes_up.cast_signed(),
        &figures.connections,
        &test.sitting_id.map(|id| id.to_string()),
    ] as &[&dyn ToSql])?;
    // By themselves: while a database is brought up to date there are tests to be put in before there are these columns.
    if let Some(surroundings) = &test.surroundings {
        db.prepare_cached("UPDATE speed_test SET surroundings = ?2 WHERE id = ?1")?
            .execute((test.id.to_string(), convert::json(surroundings)))?;
    }
    if let Some(tests) = figures.average_of {
        db.prepare_cached("UPDATE speed_test SET average_of = ?2 WHERE id = ?1")?
            .execute((test.id.to_string(), tests))?;
    }
    Ok(())
}

/// Speed tests selected by `filter` (a JOIN and WHERE over `speed_test`, one parameter), in order of time.
pub(crate) fn select(db: &Connection, filter: &str, parameter: &str) -> Result<Vec<SpeedTest>, StoreError> {
    read(db, &format!("SELECT {COLUMNS} FROM speed_test {filter}"), parameter)
}

/// The same from a database that has not got the newest columns yet: while it is being brought up to date.
pub(crate) fn select_before_surroundings(
    db: &Connection,
    filter: &str,
    parameter: &str,
) -> Result<Vec<SpeedTest>, StoreError> {
    let columns = COLUMNS.replace("speed_test.average_of", "NULL").replace("speed_test.surroundings", "NULL");
    read(db, &format!("SELECT {columns} FROM speed_test {filter}"), parameter)
}

fn read(db: &Connection, sql: &str, parameter: &str) -> Result<Vec<SpeedTest>, StoreError> {
    let mut statement = db.prepare_cached(sql)?;
    let rows = statement.query_map([parameter], from_row)?;
    let mut tests = rows.collect::<Row_<Vec<_>>>()?;
    // Put in order here: the database would copy every row to do so.
    tests.sort_by_key(|test| (test.started_at, test.id));
    Ok(tests)
}

/// The sitting of a test that is here already.
pub(crate) fn sitting_of(db: &Connection, test: SpeedTestId) -> Result<Option<SittingId>, StoreError> {
    let sql = "SELECT sitting_id FROM speed_test WHERE id = ?1";
    let found = db.prepare_cached(sql)?.query_row([test.to_string()], |row| maybe_id(row, "sitting_id"));
    Ok(found.optional()?.flatten())
}

impl Store {
    /// All speed tests of a run, in order of time.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn speed_tests_of_run(&self, run: RunId) -> Result<Vec<SpeedTest>, StoreError> {
        select(&self.read(), "WHERE speed_test.run_id = ?1", &run.to_string())
    }

    /// How the speed tests of a run went, as far as that was kept.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn speed_courses_of_run(&self, run: RunId) -> Result<Vec<SpeedCourse>, StoreError> {
        let db = self.read();
        let sql =
            "SELECT speed_course.body FROM speed_test JOIN speed_course ON speed_course.id = speed_test.id
            WHERE speed_test.run_id = ?1 ORDER BY speed_test.started_at, speed_test.id";
        let mut statement = db.prepare_cached(sql)?;
        let rows = statement.query_map([run.to_string()], |row| convert::from_json(row, "body"))?;
        Ok(rows.collect::<Row_<Vec<_>>>()?)
    }
}
