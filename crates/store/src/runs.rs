//! Runs: their life from start to end.

use crate::convert::{self, Result as Row_, id, maybe_time, millis, places, time};
use crate::creation::{Created, claim};
use crate::{Store, StoreError, digests};
use chrono::{DateTime, Utc};
use open_beacon_core::judge::RadioDigest;
use open_beacon_core::model::{
    Completion, Conditions, Course, Run, RunId, Sample, SetupId, SiteId, SpeedCourse, SpeedCourseId,
    SpeedTest,
};
use rusqlite::{Connection, OptionalExtension, Row, ToSql};
use serde::Serialize;

pub(crate) const COLUMNS: &str = "run.id, run.setup_id, run.source, run.started_at, run.ended_at, run.completion,
    run.reason, run.planned_samples, run.planned_speed_tests, run.refresh_period_s, run.attach, run.instrument, run.network,
    run.weather, run.notes, run.context, run.archived_at";

/// Rows of a site reached through setup and position.
pub(crate) const RUNS_OF_SITE: &str =
    "run JOIN setup ON setup.id = run.setup_id JOIN position ON position.id = setup.position_id";

/// Runs that were taken with their setup as it stands: all but points of sweeps, where something was turned. A context is written with
/// its kind first; thousands of them are looked at for a comparison, too many to read each as JSON.
pub(crate) const AS_IT_STANDS: &str = "substr(run.context, 1, 21) <> '{\"kind\":\"sweep_point\"'";

pub(crate) fn from_row(row: &Row) -> Row_<Run> {
    // In the order of `COLUMNS`.
    let mut next = places();
    Ok(Run {
        id: id(row, next())?,
        setup_id: id(row, next())?,
        source: convert::from_word(row, next())?,
        started_at: time(row, next())?,
        ended_at: maybe_time(row, next())?,
        completion: convert::from_word(row, next())?,
        reason: row.get(next())?,
        planned_samples: row.get(next())?,
        planned_speed_tests: row.get(next())?,
        refresh_period_s: row.get(next())?,
        conditions: Conditions {
            attach: convert::from_word(row, next())?,
            instrument: convert::from_word(row, next())?,
            network: row.get(next())?,
            weather: row.get(next())?,
            notes: row.get(next())?,
        },
        context: convert::from_json(row, next())?,
        archived_at: maybe_time(row, next())?,
    })
}

pub(crate) fn insert(db: &Connection, run: &Run) -> Result<(), StoreError> {
    db.execute(
        "INSERT INTO run (id, setup_id, source, started_at, ended_at, completion, reason, planned_samples,
         planned_speed_tests, refresh_period_s, attach, instrument, network, weather, notes, context, archived_at)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17)",
        &[
            &run.id.to_string() as &dyn ToSql,
            &run.setup_id.to_string(),
            &convert::word(&run.source),
            &millis(run.started_at),
            &run.ended_at.map(millis),
            &convert::word(&run.completion),
            &run.reason,
            &run.planned_samples,
            &run.planned_speed_tests,
            &run.refresh_period_s,
            &convert::word(&run.conditions.attach),
            &convert::word(&run.conditions.instrument),
            &run.conditions.network,
            &run.conditions.weather,
            &run.conditions.notes,
            &convert::json(&run.context),
            &run.archived_at.map(millis),
        ] as &[&dyn ToSql],
    )?;
    Ok(())
}

/// Adds a run with its samples and tests, each test in the sitting its time says; a run that is there already stays.
pub(crate) fn insert_whole(
    db: &Connection,
    site: SiteId,
    run: &Run,
    samples: &[Sample],
    tests: &[SpeedTest],
) -> Result<(), StoreError> {
    if run_exists(db, run.id)? {
        return Ok(());
    }
    insert(db, run)?;
    for sample in samples {
        crate::readings::insert(db, sample)?;
    }
    let mut tests = tests.to_vec();
    crate::sittings::give(db, site, &mut tests)?;
    for test in &tests {
        crate::speed_tests::insert(db, test)?;
    }
    Ok(())
}

/// Runs selected by `filter` (a WHERE over `run`, one parameter), each with what was heard in it.
pub(crate) fn with_digests(
    db: &Connection,
    filter: &str,
    parameter: &str,
) -> Result<Vec<(Run, RadioDigest)>, StoreError> {
    let mut found = Vec::new();
    each_with_digest(db, filter, parameter, |run, heard| found.push((run, heard)))?;
    Ok(found)
}

/// The same, one after the other.
pub(crate) fn each_with_digest(
    db: &Connection,
    filter: &str,
    parameter: &str,
    mut take: impl FnMut(Run, RadioDigest),
) -> Result<(), StoreError> {
    let sql = format!("SELECT {COLUMNS}, run_digest.radio AS radio FROM run {} {filter}", digests::joined());
    let mut statement = db.prepare_cached(&sql)?;
    let mut rows = statement.query([parameter])?;
    while let Some(row) = rows.next()? {
        let run = from_row(row)?;
        let heard = digests::from_row(db, row, run.id)?;
        take(run, heard);
    }
    Ok(())
}

pub(crate) fn run_exists(db: &Connection, id: RunId) -> Result<bool, StoreError> {
    Ok(db.prepare_cached("SELECT 1 FROM run WHERE id = ?1")?.exists([id.to_string()])?)
}

/// The site a setup stands on.
fn site_of_setup(db: &Connection, setup: SetupId) -> Result<SiteId, StoreError> {
    let sql = "SELECT position.site_id FROM setup JOIN position ON position.id = setup.position_id WHERE setup.id = ?1";
    let found = db.query_row(sql, [setup.to_string()], |row| id(row, "site_id")).optional()?;
    found.ok_or(StoreError::NotFound("setup"))
}

/// The site a run was taken at.
pub(crate) fn site_of(db: &Connection, run: RunId) -> Result<SiteId, StoreError> {
    let sql = format!("SELECT position.site_id FROM {RUNS_OF_SITE} WHERE run.id = ?1");
    let found = db.prepare_cached(&sql)?.query_row([run.to_string()], |row| id(row, "site_id")).optional()?;
    found.ok_or(StoreError::NotFound("run"))
}

impl Store {
    /// Adds a run; `body` is the request it came from.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`]; a database error where the setup is not there.
    pub fn create_run(&self, run: &Run, body: &impl Serialize) -> Result<Created, StoreError> {
        self.create_whole_run(run, &[], &[], body)
    }

    /// Adds a run with all its samples and tests in one go, as when they were typed in.
    ///
    /// # Errors
    /// As [`Store::create_run`]; all or nothing.
    pub fn create_whole_run(
        &self,
        run: &Run,
        samples: &[Sample],
        tests: &[SpeedTest],
        body: &impl Serialize,
    ) -> Result<Created, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let created = claim(&transaction, &run.id.to_string(), "run", body)?;
        if created == Created::Now {
            if run_exists(&transaction, run.id)? {
                return Err(StoreError::IdTaken);
            }
            let site = site_of_setup(&transaction, run.setup_id)?;
            insert_whole(&transaction, site, run, samples, tests)?;
            digests::fill(&transaction)?;
        }
        transaction.commit()?;
        Ok(created)
    }

    /// Adds one speed test to a run, in the sitting its time says, with how it went. When this returns, both are on disk.
    ///
    /// # Errors
    /// Where the run is not there.
    pub fn add_speed_test(&self, test: &SpeedTest, course: Option<Course>) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let mut tests = [test.clone()];
        let site_id = site_of(&transaction, test.run_id)?;
        crate::sittings::give(&transaction, site_id, &mut tests)?;
        crate::speed_tests::insert(&transaction, &tests[0])?;
        if let Some(course) = course {
            let course = SpeedCourse { id: SpeedCourseId(test.id.0), site_id, test_id: test.id, course };
            crate::survey::put(&transaction, &course)?;
        }
        transaction.commit()?;
        Ok(())
    }

    /// One run.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn run(&self, id: RunId) -> Result<Run, StoreError> {
        let sql = format!("SELECT {COLUMNS} FROM run WHERE id = ?1");
        let found = self.read().prepare_cached(&sql)?.query_row([id.to_string()], from_row).optional()?;
        found.ok_or(StoreError::NotFound("run"))
    }

    /// A page of a setup's runs, the newest first, archived ones too; points of sweeps are not among them.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn runs_of_setup(
        &self,
        setup: SetupId,
        before: Option<DateTime<Utc>>,
        limit: u32,
    ) -> Result<Vec<Run>, StoreError> {
        let db = self.read();
        let sql = format!(
            "SELECT {COLUMNS} FROM run WHERE setup_id = ?1 AND started_at < ?2 AND {AS_IT_STANDS}
             ORDER BY started_at DESC LIMIT ?3"
        );
        let mut statement = db.prepare_cached(&sql)?;
        let before = before.map_or(i64::MAX, millis);
        let rows = statement.query_map((setup.to_string(), before, limit), from_row)?;
        Ok(rows.collect::<Row_<_>>()?)
    }

    /// The site a setup stands on.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn site_of_setup(&self, setup: SetupId) -> Result<SiteId, StoreError> {
        site_of_setup(&self.read(), setup)
    }

    /// Ends a run. The learned refresh period is kept with it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn end_run(
        &self,
        id: RunId,
        at: DateTime<Utc>,
        completion: Completion,
        reason: Option<&str>,
        refresh_period_s: Option<f64>,
    ) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let changed = transaction.execute(
            // A clock that was set back meanwhile makes no run that ends before it began.
            "UPDATE run SET ended_at = max(?2, started_at), completion = ?3, reason = ?4, refresh_period_s = ?5 WHERE id = ?1",
            (id.to_string(), millis(at), convert::word(&completion), reason, refresh_period_s),
        )?;
        if changed == 0 {
            return Err(StoreError::NotFound("run"));
        }
        digests::fill(&transaction)?;
        transaction.commit()?;
        Ok(())
    }

    /// Adds a line to a run's notes.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn note_run(&self, id: RunId, line: &str) -> Result<(), StoreError> {
        let changed = self.write().execute(
            "UPDATE run SET notes = trim(notes || char(10) || ?2, char(10)) WHERE id = ?1",
            (id.to_string(), line),
        )?;
        if changed == 0 { Err(StoreError::NotFound("run")) } else { Ok(()) }
    }

    /// Changes what is noted about a run's conditions.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn update_conditions(&self, id: RunId, conditions: &Conditions) -> Result<(), StoreError> {
        let changed = self.write().execute(
            "UPDATE run SET attach = ?2, instrument = ?3, network = ?4, weather = ?5, notes = ?6 WHERE id = ?1",
            (
                id.to_string(),
                convert::word(&conditions.attach),
                convert::word(&conditions.instrument),
                &conditions.network,
                &conditions.weather,
                &conditions.notes,
            ),
        )?;
        if changed == 0 { Err(StoreError::NotFound("run")) } else { Ok(()) }
    }

    /// Marks runs that were going on when the program last ended as partial; what they took is kept. Answers how
    /// many.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn close_interrupted_runs(&self, reason: &str) -> Result<usize, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let changed = transaction.execute(
            "UPDATE run SET completion = 'partial', reason = ?1,
             ended_at = coalesce((SELECT max(taken_at) FROM sample WHERE sample.run_id = run.id), started_at)
             WHERE completion = 'running'",
            [reason],
        )?;
        digests::fill(&transaction)?;
        transaction.commit()?;
        Ok(changed)
    }
}
