//! All runs of a site by time, for its time line.

use crate::convert::{Result as Row_, id, millis, time};
use crate::{Store, StoreError, digests, runs};
use chrono::{DateTime, Utc};
use open_beacon_core::judge::RadioDigest;
use open_beacon_core::model::{Run, RunId, SetupId, SiteId, SpeedFigure};
use rusqlite::OptionalExtension;

/// A figure of a whole test.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TestedAt {
    pub at: DateTime<Utc>,
    /// Mbit/s or ms.
    pub value: f64,
    pub setup_id: SetupId,
    pub run_id: RunId,
}

impl Store {
    /// The newest runs of a site that began before a moment and that `keep` wants, each with what was heard in it; archived ones too,
    /// points of sweeps not. At least `limit` where there are so many, and all that began at the same moment as the last.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn runs_by_time(
        &self,
        site: SiteId,
        before: Option<DateTime<Utc>>,
        limit: usize,
        keep: impl Fn(&Run, &RadioDigest) -> bool,
    ) -> Result<Vec<(Run, RadioDigest)>, StoreError> {
        let db = self.read();
        let sql = format!(
            "SELECT {}, run_digest.radio AS radio FROM run INDEXED BY run_by_time
             JOIN setup ON setup.id = run.setup_id JOIN position ON position.id = setup.position_id {}
             WHERE position.site_id = ?1 AND run.started_at < ?2 AND {}
             ORDER BY run.started_at DESC",
            runs::COLUMNS,
            digests::joined(),
            runs::AS_IT_STANDS
        );
        let mut statement = db.prepare_cached(&sql)?;
        let mut rows = statement.query((site.to_string(), before.map_or(i64::MAX, millis)))?;
        let mut found: Vec<(Run, RadioDigest)> = Vec::new();
        while let Some(row) = rows.next()? {
            let run = runs::from_row(row)?;
            let full = found.len() >= limit;
            if full && found.last().is_none_or(|(last, _)| last.started_at != run.started_at) {
                break;
            }
            let heard = digests::from_row(&db, row, run.id)?;
            if keep(&run, &heard) {
                found.push((run, heard));
            }
        }
        Ok(found)
    }

    /// One figure of all whole tests of a site with the setup and run of each, in order of time; archived runs and points of sweeps left
    /// out.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn figures_by_time(&self, site: SiteId, figure: SpeedFigure) -> Result<Vec<TestedAt>, StoreError> {
        let column = match figure {
            SpeedFigure::Download => "download_mbps",
            SpeedFigure::Upload => "upload_mbps",
            SpeedFigure::IdleLatency => "idle_latency_ms",
            SpeedFigure::DownloadLatency => "download_latency_ms",
            SpeedFigure::UploadLatency => "upload_latency_ms",
        };
        let db = self.read();
        let sql = format!(
            "SELECT speed_test.started_at, speed_test.{column}, run.setup_id, run.id FROM {}
             JOIN speed_test ON speed_test.run_id = run.id
             WHERE position.site_id = ?1 AND run.archived_at IS NULL AND speed_test.completion = 'complete'
               AND speed_test.{column} IS NOT NULL AND {}
             ORDER BY speed_test.started_at, speed_test.id",
            runs::RUNS_OF_SITE,
            runs::AS_IT_STANDS
        );
        let mut statement = db.prepare_cached(&sql)?;
        let one = |row: &rusqlite::Row| {
            Ok(TestedAt { at: time(row, 0)?, value: row.get(1)?, setup_id: id(row, 2)?, run_id: id(row, 3)? })
        };
        Ok(statement.query_map([site.to_string()], one)?.collect::<Row_<_>>()?)
    }

    /// The setup of the run before a moment at a site, archived runs and points of sweeps left out.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn setup_before(&self, site: SiteId, at: DateTime<Utc>) -> Result<Option<SetupId>, StoreError> {
        let db = self.read();
        let sql = format!(
            "SELECT run.setup_id FROM run INDEXED BY run_by_time
             JOIN setup ON setup.id = run.setup_id JOIN position ON position.id = setup.position_id
             WHERE position.site_id = ?1 AND run.started_at < ?2 AND run.archived_at IS NULL AND {}
             ORDER BY run.started_at DESC LIMIT 1",
            runs::AS_IT_STANDS
        );
        let mut statement = db.prepare_cached(&sql)?;
        let found: Row_<SetupId> = statement.query_row((site.to_string(), millis(at)), |row| id(row, 0));
        Ok(found.optional()?)
    }
}
