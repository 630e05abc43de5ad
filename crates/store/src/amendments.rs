//! Corrections of typed runs. Nothing is lost by them: what stood there is kept beside.

use crate::convert::{Result as Row_, from_json, millis};
use crate::creation::{Created, claim};
use crate::{Store, StoreError, digests, readings, runs, speed_tests, survey};
use chrono::{DateTime, Utc};
use open_beacon_core::model::{Amendment, AmendmentId, Run, RunId, Source, TypedContent};
use rusqlite::{Connection, OptionalExtension};
use serde::Serialize;

/// A correction to be made.
#[derive(Clone, Debug)]
pub struct NewAmendment {
    pub id: AmendmentId,
    pub run_id: RunId,
    pub at: DateTime<Utc>,
    pub by: String,
    pub why: String,
    /// Corrections of the run that were seen when this one was begun.
    pub seen: usize,
    /// What it is to hold.
    pub content: TypedContent,
}

fn of_run(db: &Connection, run: RunId) -> Result<Vec<Amendment>, StoreError> {
    let sql = "SELECT body FROM amendment WHERE json_extract(body, '$.run_id') = ?1 ORDER BY rowid";
    let mut statement = db.prepare_cached(sql)?;
    let rows = statement.query_map([run.to_string()], |row| from_json(row, "body"))?;
    Ok(rows.collect::<Row_<_>>()?)
}

fn run_of(db: &Connection, id: RunId) -> Result<Run, StoreError> {
    let sql = format!("SELECT {} FROM run WHERE id = ?1", runs::COLUMNS);
    let found = db.query_row(&sql, [id.to_string()], runs::from_row).optional()?;
    found.ok_or(StoreError::NotFound("run"))
}

/// Takes out what the run holds and puts in what it is to hold.
fn replace(db: &Connection, run: &Run, new: &NewAmendment) -> Result<(), StoreError> {
    let (key, content) = (run.id.to_string(), &new.content);
    db.execute("DELETE FROM carrier WHERE sample_id IN (SELECT id FROM sample WHERE run_id = ?1)", [&key])?;
    for table in ["sample", "speed_test", "run_digest"] {
        db.execute(&format!("DELETE FROM {table} WHERE run_id = ?1"), [&key])?;
    }
    let conditions = &content.conditions;
    db.execute(
        "UPDATE run SET started_at = ?2, ended_at = ?2, planned_samples = ?3, planned_speed_tests = ?4, attach = ?5,
         instrument = ?6, network = ?7, weather = ?8, notes = ?9 WHERE id = ?1",
        (
            &key,
            millis(content.measured_at),
            content.samples.len() as u32,
            content.speed_tests.len() as u32,
            crate::convert::word(&conditions.attach),
            crate::convert::word(&conditions.instrument),
            &conditions.network,
            &conditions.weather,
            &conditions.notes,
        ),
    )?;
    for sample in &content.samples {
        readings::insert(db, sample)?;
    }
    let mut tests = content.speed_tests.clone();
    crate::sittings::give(db, runs::site_of(db, run.id)?, &mut tests)?;
    for test in &tests {
        speed_tests::insert(db, test)?;
    }
    digests::fill(db)
}

impl Store {
    /// Corrects a run that was typed in, and keeps what stood there; a repeat of the same identifier and `body` changes nothing.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Refused`] where the run was measured, or corrected meanwhile;
    /// [`StoreError::IdTaken`].
    pub fn amend_run(&self, new: &NewAmendment, body: &impl Serialize) -> Result<Created, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let run = run_of(&transaction, new.run_id)?;
        if claim(&transaction, &new.id.to_string(), "amendment", body)? == Created::Before {
            return Ok(Created::Before);
        }
        if run.source != Source::Typed {
            return Err(StoreError::Refused(
                "What was measured is not corrected. Leave the run out, and note why in its conditions."
                    .into(),
            ));
        }
        if of_run(&transaction, run.id)?.len() != new.seen {
            return Err(StoreError::Refused(
                "This was corrected meanwhile, on another screen. Look at it as it is now, and correct it again.".into(),
            ));
        }
        let key = run.id.to_string();
        let amendment = Amendment {
            id: new.id,
            site_id: runs::site_of(&transaction, run.id)?,
            run_id: run.id,
            amended_at: new.at,
            by: new.by.clone(),
            why: new.why.clone(),
            before: TypedContent {
                measured_at: run.started_at,
                conditions: run.conditions.clone(),
                samples: readings::select(&transaction, "WHERE sample.run_id = ?1", &key)?,
                speed_tests: speed_tests::select(&transaction, "WHERE speed_test.run_id = ?1", &key)?,
            },
        };
        replace(&transaction, &run, new)?;
        survey::put(&transaction, &amendment)?;
        transaction.commit()?;
        Ok(Created::Now)
    }

    /// Corrections of a run, the oldest first.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn amendments_of_run(&self, run: RunId) -> Result<Vec<Amendment>, StoreError> {
        of_run(&self.read(), run)
    }
}
