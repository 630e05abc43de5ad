//! Runs of a table made elsewhere: what of it is here, and bringing it in.

use crate::convert::{Result as Row_, id, millis, time};
use crate::{Store, StoreError, digests};
use chrono::{DateTime, Utc};
use open_beacon_core::model::{Run, Sample, SetupId, SiteId, SpeedTest};
use std::collections::HashSet;
use uuid::Uuid;

/// A test that is here, as far as it tells whether another is the same.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TestHere {
    pub setup_id: SetupId,
    pub started_at: DateTime<Utc>,
    /// Mbit/s
    pub download_mbps: Option<f64>,
    /// Mbit/s
    pub upload_mbps: Option<f64>,
}

impl Store {
    /// Tests of a site between two instants.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn tests_here(
        &self,
        site: SiteId,
        (from, to): (DateTime<Utc>, DateTime<Utc>),
    ) -> Result<Vec<TestHere>, StoreError> {
        let sql = "SELECT run.setup_id, speed_test.started_at, download_mbps, upload_mbps FROM speed_test
                   JOIN run ON run.id = speed_test.run_id JOIN setup ON setup.id = run.setup_id
                   JOIN position ON position.id = setup.position_id
                   WHERE position.site_id = ?1 AND speed_test.started_at BETWEEN ?2 AND ?3";
        let db = self.read();
        let mut statement = db.prepare_cached(sql)?;
        let rows = statement.query_map((site.to_string(), millis(from), millis(to)), |row| {
            Ok(TestHere {
                setup_id: id(row, "setup_id")?,
                started_at: time(row, "started_at")?,
                download_mbps: row.get("download_mbps")?,
                upload_mbps: row.get("upload_mbps")?,
            })
        })?;
        Ok(rows.collect::<Row_<_>>()?)
    }

    /// Identifiers of a site's samples and tests between two instants.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn result_ids(
        &self,
        site: SiteId,
        (from, to): (DateTime<Utc>, DateTime<Utc>),
    ) -> Result<HashSet<Uuid>, StoreError> {
        let sql = "SELECT sample.id FROM sample JOIN run ON run.id = sample.run_id JOIN setup ON setup.id = run.setup_id
                   JOIN position ON position.id = setup.position_id
                   WHERE position.site_id = ?1 AND sample.taken_at BETWEEN ?2 AND ?3
                   UNION ALL
                   SELECT speed_test.id FROM speed_test JOIN run ON run.id = speed_test.run_id
                   JOIN setup ON setup.id = run.setup_id JOIN position ON position.id = setup.position_id
                   WHERE position.site_id = ?1 AND speed_test.started_at BETWEEN ?2 AND ?3";
        let db = self.read();
        let mut statement = db.prepare_cached(sql)?;
        let rows = statement
            .query_map((site.to_string(), millis(from), millis(to)), |row| row.get::<_, String>(0))?;
        let ids = rows.collect::<Row_<Vec<_>>>()?;
        Ok(ids.iter().filter_map(|id| Uuid::parse_str(id).ok()).collect())
    }

    /// Adds runs with everything in them. All or nothing; what is acknowledged is on disk.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`] where one is here already; a database error where a setup is not there.
    pub fn add_runs(
        &self,
        site: SiteId,
        runs: &[(Run, Vec<Sample>, Vec<SpeedTest>)],
    ) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        // All sittings at once: looked up for each run anew, a table of 20,000 took minutes.
        let mut all_tests: Vec<SpeedTest> =
            runs.iter().flat_map(|(_, _, tests)| tests.iter().cloned()).collect();
        crate::sittings::give(&transaction, site, &mut all_tests)?;
        let mut rest = all_tests.as_slice();
        for (run, samples, tests) in runs {
            if crate::runs::run_exists(&transaction, run.id)? {
                return Err(StoreError::IdTaken);
            }
            let (own, others) = rest.split_at(tests.len());
            rest = others;
            crate::runs::insert_whole(&transaction, site, run, samples, own)?;
        }
        digests::fill(&transaction)?;
        Ok(transaction.commit()?)
    }
}
