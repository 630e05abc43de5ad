//! Setups with what was recorded on them, for the log and for comparisons.

use crate::convert::{Result as Row_, id, millis, time};
use crate::{Store, StoreError, readings, runs, speed_tests};
use chrono::{DateTime, Utc};
use open_beacon_core::judge::{RadioFold, SetupEvidence};
use open_beacon_core::model::{Run, RunId, Sample, SetupId, SiteId};
use rusqlite::Row;
use std::collections::{HashMap, HashSet};
use std::sync::atomic::{AtomicUsize, Ordering};

/// How much a setup has recorded, archived runs left out.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct SetupCounts {
    pub runs: usize,
    pub samples: usize,
    /// Complete speed tests.
    pub tests: usize,
    /// Visits to one hour that they are of.
    pub sittings: usize,
}

/// How much a run holds.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct RunCounts {
    pub samples: usize,
    pub tests: usize,
}

impl Store {
    /// What was recorded on a setup as it stands, archived runs and points of sweeps left out; of the newest `latest` runs only, if said.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn evidence(
        &self,
        setup_id: SetupId,
        label: String,
        latest: Option<u32>,
    ) -> Result<SetupEvidence, StoreError> {
        self.evidence_before(setup_id, label, latest, None)
    }

    /// [`Store::evidence`] of the runs that had begun before a moment, if said.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn evidence_before(
        &self,
        setup_id: SetupId,
        label: String,
        latest: Option<u32>,
        before: Option<DateTime<Utc>>,
    ) -> Result<SetupEvidence, StoreError> {
        let db = self.read();
        let key = setup_id.to_string();
        let (limit, as_it_stands) = (latest.map_or(-1, i64::from), runs::AS_IT_STANDS);
        let before = before.map_or(i64::MAX, millis);
        let in_use = format!(
            "WHERE setup_id = ?1 AND archived_at IS NULL AND started_at < {before} AND {as_it_stands}
             ORDER BY started_at DESC LIMIT {limit}"
        );
        let mut recorded = runs::with_digests(&db, &in_use, &key)?;
        recorded.reverse();
        let of_them = format!("WHERE speed_test.run_id IN (SELECT id FROM run {in_use})");
        let tests = speed_tests::select(&db, &of_them, &key)?;
        let (runs, radio) = recorded
            .into_iter()
            .map(|(run, heard)| {
                let id = run.id;
                (run, (id, heard))
            })
            .unzip();
        Ok(SetupEvidence { setup_id, label, runs, radio, tests })
    }

    /// [`Store::evidence`] of one network. What was heard in a very long record is put together, neighbours in time with one another.
    fn evidence_in_short(
        &self,
        setup_id: SetupId,
        label: String,
        network: &str,
    ) -> Result<SetupEvidence, StoreError> {
        let db = self.read();
        let (key, as_it_stands) = (setup_id.to_string(), runs::AS_IT_STANDS);
        let in_use = format!("WHERE setup_id = ?1 AND archived_at IS NULL AND {as_it_stands}");
        let (mut of_network, mut radio) = (Vec::new(), RadioFold::default());
        runs::each_with_digest(&db, &format!("{in_use} ORDER BY started_at"), &key, |run, heard| {
            if run.conditions.is_of(network) {
                radio.add(run.id, heard);
                of_network.push(run);
            }
        })?;
        let of_them = format!("WHERE speed_test.run_id IN (SELECT id FROM run {in_use})");
        let tests = speed_tests::select(&db, &of_them, &key)?;
        Ok(SetupEvidence { setup_id, label, runs: of_network, radio: radio.done(), tests }
            .of_network(network))
    }

    /// What `made` makes of what was recorded on each of several setups with their labels on one network; in the order given, two at
    /// once.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn evidence_of<T: Send>(
        &self,
        setups: &[(SetupId, String)],
        network: &str,
        made: impl Fn(SetupEvidence) -> T + Sync,
    ) -> Result<Vec<T>, StoreError> {
        let next = AtomicUsize::new(0);
        let work = || -> Result<Vec<(usize, T)>, StoreError> {
            let mut found = Vec::new();
            loop {
                let at = next.fetch_add(1, Ordering::Relaxed);
                let Some((setup, label)) = setups.get(at) else { return Ok(found) };
                found.push((at, made(self.evidence_in_short(*setup, label.clone(), network)?)));
            }
        };
        let (own, beside) = std::thread::scope(|scope| {
            let beside = scope.spawn(work);
            (work(), beside.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)))
        });
        let mut found = own?;
        found.extend(beside?);
        found.sort_by_key(|(at, _)| *at);
        Ok(found.into_iter().map(|(_, made)| made).collect())
    }

    /// Samples of a setup's newest runs as it stands, those of one network only (those of runs that name none among them), in
    /// order of time.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn newest_samples(
        &self,
        setup_id: SetupId,
        network: &str,
        runs: u32,
    ) -> Result<Vec<Sample>, StoreError> {
        let evidence = self.evidence(setup_id, String::new(), Some(runs))?.of_network(network);
        let db = self.read();
        let mut samples = Vec::new();
        for run in &evidence.runs {
            samples.extend(readings::select(&db, "WHERE sample.run_id = ?1", &run.id.to_string())?);
        }
        samples.sort_by_key(|sample| sample.taken_at);
        Ok(samples)
    }

    /// When the first run of each setup of a site began as it stands, archived runs left out.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn first_runs(&self, site: SiteId) -> Result<HashMap<SetupId, DateTime<Utc>>, StoreError> {
        let db = self.read();
        let sql = format!(
            "SELECT setup.id AS id, min(run.started_at) AS started_at FROM {}
             WHERE position.site_id = ?1 AND run.archived_at IS NULL AND {} GROUP BY setup.id",
            runs::RUNS_OF_SITE,
            runs::AS_IT_STANDS
        );
        let mut statement = db.prepare_cached(&sql)?;
        let first = |row: &Row| Ok((id(row, "id")?, time(row, "started_at")?));
        Ok(statement.query_map([site.to_string()], first)?.collect::<Row_<_>>()?)
    }

    /// Setups of a site that have a sample or a complete speed test as they stand, archived runs left out.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn recorded_setups(&self, site: SiteId) -> Result<HashSet<SetupId>, StoreError> {
        let db = self.read();
        let sql = format!(
            "SELECT setup.id AS id FROM setup JOIN position ON position.id = setup.position_id
             WHERE position.site_id = ?1 AND EXISTS (
               SELECT 1 FROM run WHERE run.setup_id = setup.id AND run.archived_at IS NULL AND {} AND (
                 EXISTS (SELECT 1 FROM sample WHERE sample.run_id = run.id)
                 OR EXISTS (SELECT 1 FROM speed_test WHERE speed_test.run_id = run.id
                   AND speed_test.completion = 'complete')))",
            runs::AS_IT_STANDS
        );
        let mut statement = db.prepare_cached(&sql)?;
        let rows = statement.query_map([site.to_string()], |row| id(row, "id"))?;
        Ok(rows.collect::<Row_<_>>()?)
    }

    /// Counts of every setup of a site.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn setup_counts(&self, site: SiteId) -> Result<HashMap<SetupId, SetupCounts>, StoreError> {
        let db = self.read();
        // Sub-selects walk the run indexes; a join would multiply samples by tests.
        let sql = format!(
            "SELECT setup.id AS id, count(*) AS runs,
               sum(coalesce(
                 (SELECT samples FROM run_digest INDEXED BY run_digest_kept WHERE run_digest.run_id = run.id),
                 (SELECT count(*) FROM sample WHERE sample.run_id = run.id))) AS samples
             FROM {} WHERE position.site_id = ?1 AND run.archived_at IS NULL AND {} GROUP BY setup.id",
            runs::RUNS_OF_SITE,
            runs::AS_IT_STANDS
        );
        let count =
            |row: &Row, column: &str| -> Row_<usize> { Ok(row.get::<_, i64>(column)?.max(0) as usize) };
        let mut counts: HashMap<SetupId, SetupCounts> = HashMap::new();
        let mut statement = db.prepare_cached(&sql)?;
        let mut rows = statement.query([site.to_string()])?;
        while let Some(row) = rows.next()? {
            let of: &mut SetupCounts = counts.entry(id(row, "id")?).or_default();
            (of.runs, of.samples) = (count(row, "runs")?, count(row, "samples")?);
        }
        let sql = format!(
            "SELECT setup.id AS id, sum(coalesce(speed_test.average_of, 1)) AS tests,
               count(DISTINCT speed_test.sitting_id) AS sittings
             FROM {} JOIN speed_test ON speed_test.run_id = run.id
             WHERE position.site_id = ?1 AND run.archived_at IS NULL AND speed_test.completion = 'complete'
             GROUP BY setup.id",
            runs::RUNS_OF_SITE
        );
        let mut statement = db.prepare_cached(&sql)?;
        let mut rows = statement.query([site.to_string()])?;
        while let Some(row) = rows.next()? {
            let of: &mut SetupCounts = counts.entry(id(row, "id")?).or_default();
            (of.tests, of.sittings) = (count(row, "tests")?, count(row, "sittings")?);
        }
        Ok(counts)
    }

    /// Counts of the given runs.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn run_counts(&self, of: &[Run]) -> Result<HashMap<RunId, RunCounts>, StoreError> {
        let db = self.read();
        let mut samples = db.prepare_cached("SELECT count(*) FROM sample WHERE run_id = ?1")?;
        let mut tests = db.prepare_cached("SELECT count(*) FROM speed_test WHERE run_id = ?1")?;
        let mut counts = HashMap::new();
        for run in of {
            let key = run.id.to_string();
            let samples: i64 = samples.query_row([&key], |row| row.get(0))?;
            let tests: i64 = tests.query_row([&key], |row| row.get(0))?;
            counts.insert(run.id, RunCounts { samples: samples as usize, tests: tests as usize });
        }
        Ok(counts)
    }
}
