//! Visits of band rounds. Their readings and tests are runs like any other; here stands which visit it was.

use crate::convert::{Result as Row_, from_json, json};
use crate::creation::Created;
use crate::{Store, StoreError, readings, runs, setups, speed_tests, survey};
use open_beacon_core::model::{
    BandRound, RunId, Setup, SetupId, SiteId, SiteSettings, SpeedTest, Trial, TrialOutcome,
};
use open_beacon_core::trial::visit::{VisitRecord, visit_record, with_record};
use rusqlite::Connection;

/// As kept: without the figures that stand in the record.
pub(crate) fn rows_of_site(db: &Connection, site: SiteId) -> Result<Vec<Trial>, StoreError> {
    let mut statement = db.prepare_cached("SELECT body FROM trial WHERE site_id = ?1 ORDER BY rowid")?;
    let rows = statement.query_map([site.to_string()], |row| from_json(row, "body"))?;
    Ok(rows.collect::<Row_<_>>()?)
}

pub(crate) fn put_row(db: &Connection, trial: &Trial) -> Result<(), StoreError> {
    let changed = db.execute(
        "INSERT INTO trial (id, site_id, body) VALUES (?1, ?2, ?3)
         ON CONFLICT (id) DO UPDATE SET body = excluded.body WHERE site_id = excluded.site_id",
        (trial.id.to_string(), trial.site_id.to_string(), json(trial)),
    )?;
    if changed == 0 { Err(StoreError::IdTaken) } else { Ok(()) }
}

/// Keeps a visit and what it measured as a run of the setup with its lock. A round of no setup keeps its figures itself. Answers the
/// run.
fn put_whole(
    db: &Connection,
    round: &BandRound,
    trial: &Trial,
    server: &str,
) -> Result<Option<RunId>, StoreError> {
    let nothing = trial.samples.is_empty() && trial.tests.is_empty();
    let base = match round.setup_id.filter(|_| !nothing) {
        Some(id) => setups::find(db, id)?,
        None => None,
    };
    let Some(base) = base else { return put_row(db, trial).map(|()| trial.run_id) };
    let (record, kept) = visit_record(round, &base, trial, server);
    put_record(db, trial.site_id, record)?;
    put_row(db, &kept)?;
    Ok(kept.run_id)
}

fn put_record(db: &Connection, site: SiteId, record: VisitRecord) -> Result<(), StoreError> {
    let VisitRecord { setup, mut run, samples, tests, courses } = record;
    run.setup_id = there_or_new(db, site, &setup)?.1;
    runs::insert_whole(db, site, &run, &samples, &tests)?;
    courses.iter().try_for_each(|course| crate::survey::put(db, course))
}

/// A setup in use that stands the same at the same position, else this one, added.
fn there_or_new(db: &Connection, site: SiteId, setup: &Setup) -> Result<(Created, SetupId), StoreError> {
    let alike = setups::of_site(db, site)?.into_iter().find(|other| {
        other.archived_at.is_none()
            && other.position_id == setup.position_id
            && other.spec.stands_like(&setup.spec)
    });
    if let Some(alike) = alike {
        return Ok((Created::Before, alike.id));
    }
    if setups::find(db, setup.id)?.is_none() {
        setups::insert(db, setup)?;
    }
    Ok((Created::Now, setup.id))
}

/// What the record of an earlier version lacks: the figures of its visits.
pub(crate) fn record_all(db: &Connection) -> Result<(), StoreError> {
    for site in crate::sites::all(db)? {
        let server = server_of(db, site.id)?;
        let rounds: Vec<BandRound> = survey::of_site(db, site.id)?;
        for trial in rows_of_site(db, site.id)?.iter().filter(|trial| trial.run_id.is_none()) {
            if let Some(round) = rounds.iter().find(|round| round.id == trial.round_id) {
                put_whole(db, round, trial, &server)?;
            }
        }
    }
    Ok(())
}

fn server_of(db: &Connection, site: SiteId) -> Result<String, StoreError> {
    let settings: SiteSettings = crate::sites::settings(db, site)?;
    Ok(settings.speed_test.map(|test| test.download_url).unwrap_or_default())
}

fn hydrated(db: &Connection, trial: Trial) -> Result<Trial, StoreError> {
    let Some(run) = trial.run_id else { return Ok(trial) };
    let key = run.to_string();
    let samples = readings::select(db, "WHERE sample.run_id = ?1", &key)?;
    let tests: Vec<SpeedTest> = speed_tests::select(db, "WHERE speed_test.run_id = ?1", &key)?;
    Ok(with_record(trial, samples, tests))
}

impl Store {
    /// All visits of a site with what they measured, archived ones too, in order of making.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn trials(&self, site: SiteId) -> Result<Vec<Trial>, StoreError> {
        let db = self.read();
        rows_of_site(&db, site)?.into_iter().map(|trial| hydrated(&db, trial)).collect()
    }

    /// Keeps a visit with what it measured, all or nothing. A visit that has ended is kept once. Answers the run that holds its
    /// figures.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`] where the identifier is another site's.
    pub fn put_trial(&self, round: &BandRound, trial: &Trial) -> Result<Option<RunId>, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let server = server_of(&transaction, trial.site_id)?;
        let run = if trial.outcome == TrialOutcome::Unfinished {
            put_row(&transaction, trial)?;
            trial.run_id
        } else {
            put_whole(&transaction, round, trial, &server)?
        };
        crate::digests::fill(&transaction)?;
        transaction.commit()?;
        Ok(run)
    }

    /// What a power cut left of visits that were going on: what they had measured goes into the record.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn record_interrupted_visits(&self) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        record_all(&transaction)?;
        crate::digests::fill(&transaction)?;
        transaction.commit()?;
        Ok(())
    }

    /// Adds a setup made from what a stage found and makes it the one being worked on; where one that stands the same is
    /// there already, that one. Answers which, and whether it is new.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] where the position is not there.
    pub fn carry_on(&self, site: SiteId, setup: &Setup) -> Result<(Created, SetupId), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        crate::positions::find(&transaction, setup.position_id)?.ok_or(StoreError::NotFound("position"))?;
        let (created, id) = there_or_new(&transaction, site, setup)?;
        let mut settings = crate::sites::settings(&transaction, site)?;
        settings.active_setup_id = Some(id);
        crate::sites::write_settings(&transaction, site, &settings)?;
        crate::digests::fill(&transaction)?;
        transaction.commit()?;
        Ok((created, id))
    }
}
