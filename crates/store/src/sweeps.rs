//! Points of sweeps. Their samples are runs like any other; here stands which point it was.

use crate::convert::millis;
use crate::{Store, StoreError, readings, runs, setups, sites, survey};
use open_beacon_core::aim::record::{point_record, with_samples};
use open_beacon_core::handover::swept_setup;
use open_beacon_core::judge::{RadioDigest, SetupEvidence};
use open_beacon_core::model::{Run, RunId, SetupId, SiteId, Sweep, SweepId, SweepStop};
use rusqlite::Connection;

fn find(db: &Connection, site: SiteId, id: SweepId) -> Result<Sweep, StoreError> {
    let sweeps: Vec<Sweep> = survey::of_site(db, site)?;
    sweeps.into_iter().find(|sweep| sweep.id == id).ok_or(StoreError::NotFound("sweep"))
}

/// Keeps a point and its samples, as a run of the setup that was turned. A sweep of no setup keeps them itself.
/// Answers the run.
fn put_whole(db: &Connection, sweep: &Sweep, stop: &SweepStop) -> Result<Option<RunId>, StoreError> {
    let recorded = |run: RunId| {
        let archived = stop.archived_at.map(millis);
        db.execute("UPDATE run SET archived_at = ?2 WHERE id = ?1", (run.to_string(), archived))
    };
    let kept = match (stop.run_id, sweep.setup_id) {
        (Some(run), _) => {
            recorded(run)?;
            SweepStop { samples: Vec::new(), ..stop.clone() }
        }
        (None, Some(setup)) if !stop.samples.is_empty() => {
            let (run, samples, kept) = point_record(sweep, setup, stop);
            runs::insert_whole(db, sweep.site_id, &run, &samples, &[])?;
            kept
        }
        _ => stop.clone(),
    };
    survey::put(db, &kept)?;
    Ok(kept.run_id)
}

/// Gives a sweep its setup, and the points it kept itself their runs.
fn give_setup(db: &Connection, sweep: &Sweep, setup: SetupId) -> Result<(), StoreError> {
    let sweep = Sweep { setup_id: Some(setup), ..sweep.clone() };
    survey::put(db, &sweep)?;
    let stops: Vec<SweepStop> = survey::of_site(db, sweep.site_id)?;
    for stop in stops.iter().filter(|stop| stop.sweep_id == sweep.id && stop.run_id.is_none()) {
        put_whole(db, &sweep, stop)?;
    }
    Ok(())
}

/// What the record of an earlier version lacks: the samples of its sweeps.
pub(crate) fn record_all(db: &Connection) -> Result<(), StoreError> {
    for site in sites::all(db)? {
        let known = setups::of_site(db, site.id)?;
        let active = sites::settings(db, site.id)?.active_setup_id;
        let sweeps: Vec<Sweep> = survey::of_site(db, site.id)?;
        for sweep in sweeps.iter().filter(|sweep| sweep.setup_id.is_none()) {
            if let Some(setup) = swept_setup(sweep, &known, active) {
                give_setup(db, sweep, setup)?;
            }
        }
    }
    Ok(())
}

fn hydrated(db: &Connection, stop: SweepStop) -> Result<SweepStop, StoreError> {
    let Some(run) = stop.run_id else { return Ok(stop) };
    Ok(with_samples(stop, readings::select(db, "WHERE sample.run_id = ?1", &run.to_string())?))
}

impl Store {
    /// All points of a site's sweeps with their samples, those left out too, in order of making.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn sweep_stops(&self, site: SiteId) -> Result<Vec<SweepStop>, StoreError> {
        let db = self.read();
        let rows: Vec<SweepStop> = survey::of_site(&db, site)?;
        rows.into_iter().map(|stop| hydrated(&db, stop)).collect()
    }

    /// Keeps a point with its samples, all or nothing; when this returns, it is on disk. Of one that is there already, only
    /// whether it is left out changes. Answers the run that holds its samples, where a setup was turned.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] without the sweep; [`StoreError::IdTaken`] where the identifier is another site's.
    pub fn put_sweep_stop(&self, stop: &SweepStop) -> Result<Option<RunId>, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let sweep = find(&transaction, stop.site_id, stop.sweep_id)?;
        let run = put_whole(&transaction, &sweep, stop)?;
        crate::digests::fill(&transaction)?;
        transaction.commit()?;
        Ok(run)
    }

    /// Says which setup a sweep turned where that was not known: its points become runs of it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] without the sweep.
    pub fn give_sweep_its_setup(&self, site: SiteId, id: SweepId, setup: SetupId) -> Result<(), StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let sweep = find(&transaction, site, id)?;
        if sweep.setup_id.is_none() {
            give_setup(&transaction, &sweep, setup)?;
        }
        crate::digests::fill(&transaction)?;
        transaction.commit()?;
        Ok(())
    }

    /// The points of sweeps that turned a setup, each as what was heard there; those left out are not among them,
    /// nor those of an archived sweep.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn sweep_points(&self, setup_id: SetupId) -> Result<Vec<SetupEvidence>, StoreError> {
        let db = self.read();
        let key = setup_id.to_string();
        let chosen = format!(
            "setup_id = ?1 AND archived_at IS NULL AND NOT {} AND NOT EXISTS (
               SELECT 1 FROM sweep WHERE sweep.id = json_extract(run.context, '$.sweep_id')
               AND json_extract(sweep.body, '$.archived_at') IS NOT NULL)",
            runs::AS_IT_STANDS
        );
        let found = runs::with_digests(&db, &format!("WHERE {chosen} ORDER BY started_at, id"), &key)?;
        let point = |(run, heard): (Run, RadioDigest)| SetupEvidence {
            setup_id,
            label: String::new(),
            radio: vec![(run.id, heard)],
            tests: Vec::new(),
            runs: vec![run],
        };
        Ok(found.into_iter().map(point).collect())
    }
}
