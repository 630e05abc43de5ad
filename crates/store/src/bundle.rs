//! A whole site out and in.

use crate::convert::Result as Row_;
use crate::watch::{ImportStep, Steps, Watch, unwatched};
use crate::{
    Store, StoreError, attachments, kits, parts, positions, readings, runs, setups, sites, sittings,
    speed_tests, survey, trials,
};
use open_beacon_core::aim::record::point_record;
use open_beacon_core::handover::swept_setup;
use open_beacon_core::hardware::catalogue::{Catalogue, named_by};
use open_beacon_core::model::{
    BUNDLE_FORMAT, BUNDLE_VERSION, BandRound, KeptPrediction, Run, RunId, SiteBundle, SiteId, SpeedCourse,
    SweepStop, Trial, assign_sittings,
};
use open_beacon_core::trial::visit::visit_record;
use rusqlite::Connection;
use std::borrow::Cow;
use std::collections::{HashMap, HashSet};
use std::fmt::Display;

/// An identifier of the bundle that stands here already with other content.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct BundleConflict {
    pub kind: &'static str,
    pub id: String,
}

/// What an import would do.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct BundlePlan {
    /// Rows that are not here yet.
    pub new: usize,
    /// Rows that are here already, just the same.
    pub same: usize,
    pub conflicts: Vec<BundleConflict>,
}

impl Store {
    /// A site with everything recorded on it, archived parts too.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn bundle(&self, site: SiteId) -> Result<SiteBundle, StoreError> {
        read_bundle(&self.read(), site)?.ok_or(StoreError::NotFound("site"))
    }

    /// Says what [`Store::import_bundle`] would do, changing nothing.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub fn plan_import(&self, bundle: &SiteBundle) -> Result<BundlePlan, StoreError> {
        self.plan_import_watched(bundle, &unwatched)
    }

    /// [`Store::plan_import`], watched.
    ///
    /// # Errors
    /// As there; [`StoreError::Stopped`].
    pub fn plan_import_watched(&self, bundle: &SiteBundle, watch: Watch) -> Result<BundlePlan, StoreError> {
        let db = self.read();
        plan(&db, &*with_whole_record(&db, bundle)?, watch)
    }

    /// Brings a bundle in: rows that are here already just the same are left, new ones are added, all or nothing.
    ///
    /// # Errors
    /// [`StoreError::Refused`] where an identifier stands for something else here.
    pub fn import_bundle(&self, bundle: &SiteBundle) -> Result<BundlePlan, StoreError> {
        self.import_bundle_watched(bundle, &unwatched)
    }

    /// [`Store::import_bundle`], watched.
    ///
    /// # Errors
    /// As there; [`StoreError::Stopped`].
    pub fn import_bundle_watched(&self, bundle: &SiteBundle, watch: Watch) -> Result<BundlePlan, StoreError> {
        let mut db = self.write();
        let transaction = db.transaction()?;
        let bundle = &*with_whole_record(&transaction, bundle)?;
        let plan = plan(&transaction, bundle, watch)?;
        if let Some(conflict) = plan.conflicts.first() {
            return Err(StoreError::Refused(format!(
                "{} rows are here already with other content, first the {} {}",
                plan.conflicts.len(),
                conflict.kind,
                conflict.id
            )));
        }
        let known = Known::read(&transaction, bundle)?;
        if !known.site {
            sites::insert(&transaction, &bundle.site, &bundle.settings)?;
        }
        for row in bundle.positions.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            positions::insert(&transaction, row)?;
        }
        for row in in_order_of_making(bundle).iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            setups::insert(&transaction, row)?;
        }
        let mut steps = Steps::of(watch, ImportStep::Storing, bundle);
        for row in bundle.runs.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            runs::insert(&transaction, row)?;
            steps.another()?;
        }
        for row in bundle.samples.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            readings::insert(&transaction, row)?;
            steps.another()?;
        }
        for sitting in &bundle.sittings {
            sittings::put(&transaction, sitting)?;
        }
        for row in bundle.speed_tests.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            speed_tests::insert(&transaction, row)?;
            steps.another()?;
        }
        for row in bundle.attachments.iter().filter(|row| !known.ids.contains(&row.attachment.id.to_string()))
        {
            attachments::insert(&transaction, row)?;
        }
        for row in bundle.kits.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            kits::insert(&transaction, row)?;
        }
        for row in bundle.masts.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            survey::put(&transaction, row)?;
        }
        for row in bundle.obstacles.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            survey::put(&transaction, row)?;
        }
        for row in bundle.landmarks.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            survey::put(&transaction, row)?;
        }
        for row in bundle.tiles.iter().filter(|row| !known.ids.contains(&row.tile.id.to_string())) {
            survey::insert_file(&transaction, row)?;
        }
        for row in bundle.backdrops.iter().filter(|row| !known.ids.contains(&row.backdrop.id.to_string())) {
            survey::insert_file(&transaction, row)?;
        }
        for row in bundle.sweeps.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            survey::put(&transaction, row)?;
        }
        for row in bundle.sweep_photos.iter().filter(|row| !known.ids.contains(&row.photo.id.to_string())) {
            survey::insert_file(&transaction, row)?;
        }
        for row in bundle.sweep_stops.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            survey::put(&transaction, row)?;
        }
        for row in bundle.band_rounds.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            survey::put(&transaction, row)?;
        }
        for row in bundle.trials.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            trials::put_row(&transaction, row)?;
        }
        for row in
            bundle.predictions.iter().filter(|row| !known.ids.contains(&format!("{PREDICTION}{}", row.id)))
        {
            survey::put(&transaction, row)?;
        }
        for row in
            bundle.speed_courses.iter().filter(|row| !known.ids.contains(&format!("{COURSE}{}", row.id)))
        {
            survey::put(&transaction, row)?;
        }
        for row in bundle.events.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            survey::put(&transaction, row)?;
        }
        for row in bundle.amendments.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            survey::put(&transaction, row)?;
        }
        for row in bundle.as_built.iter().filter(|row| !known.ids.contains(&row.id.to_string())) {
            survey::put(&transaction, row)?;
        }
        // A part that is here already keeps the price and stock it has here.
        let built_in = Catalogue::with_own(Vec::new());
        for part in &bundle.parts {
            if built_in.part(part.id) != Some(part) && !parts::has(&transaction, part.id)? {
                parts::put(&transaction, part)?;
            }
        }
        crate::digests::fill(&transaction)?;
        steps.look()?;
        transaction.commit()?;
        Ok(plan)
    }
}

/// What exports of earlier versions lack: points of sweeps and visits of band rounds as runs of setups, and sittings. Made so that
/// the same export always gives the same rows.
fn with_whole_record<'a>(db: &Connection, bundle: &'a SiteBundle) -> Result<Cow<'a, SiteBundle>, StoreError> {
    let unrecorded =
        |trial: &Trial| trial.run_id.is_none() && !(trial.samples.is_empty() && trial.tests.is_empty());
    let unrecorded_stop = |stop: &SweepStop| stop.run_id.is_none() && !stop.samples.is_empty();
    if bundle.speed_tests.iter().all(|test| test.sitting_id.is_some())
        && !bundle.trials.iter().any(unrecorded)
        && !bundle.sweep_stops.iter().any(unrecorded_stop)
    {
        return Ok(Cow::Borrowed(bundle));
    }
    let mut whole = bundle.clone();
    for sweep in &mut whole.sweeps {
        let swept = swept_setup(sweep, &bundle.setups, bundle.settings.active_setup_id);
        let Some(setup) = sweep.setup_id.or(swept) else { continue };
        sweep.setup_id = Some(setup);
        let own = |stop: &SweepStop| stop.sweep_id == sweep.id && unrecorded_stop(stop);
        for stop in whole.sweep_stops.iter_mut().filter(|stop| own(stop)) {
            let (run, samples, kept) = point_record(sweep, setup, stop);
            *stop = kept;
            whole.runs.push(run);
            whole.samples.extend(samples);
        }
    }
    let mut rounds: Vec<&BandRound> = bundle.band_rounds.iter().collect();
    rounds.sort_by_key(|round| (round.started_at, round.id));
    let server = bundle.settings.speed_test.as_ref().map_or("", |test| &test.download_url);
    for round in rounds {
        let base = bundle.setups.iter().find(|setup| Some(setup.id) == round.setup_id);
        let Some(base) = base else { continue };
        for trial in whole.trials.iter_mut().filter(|trial| trial.round_id == round.id && unrecorded(trial)) {
            let (record, kept) = visit_record(round, base, trial, server);
            *trial = kept;
            if whole.setups.iter().all(|setup| setup.id != record.setup.id) {
                whole.setups.push(record.setup);
            }
            whole.runs.push(record.run);
            whole.samples.extend(record.samples);
            whole.speed_tests.extend(record.tests);
        }
    }
    for test in whole.speed_tests.iter_mut().filter(|test| test.sitting_id.is_none()) {
        test.sitting_id = speed_tests::sitting_of(db, test.id)?;
    }
    let mut known = sittings::of_site(db, bundle.site.id)?;
    known.extend(
        whole
            .sittings
            .iter()
            .filter(|one| known.iter().all(|other| other.id != one.id))
            .cloned()
            .collect::<Vec<_>>(),
    );
    assign_sittings(bundle.site.id, &mut whole.speed_tests, &mut known);
    whole.sittings = known;
    Ok(Cow::Owned(whole))
}

/// A setup made from another refers to it, so parents go in first.
fn in_order_of_making(bundle: &SiteBundle) -> Vec<&open_beacon_core::model::Setup> {
    let mut left: Vec<_> = bundle.setups.iter().collect();
    let mut ordered = Vec::with_capacity(left.len());
    let inside: HashSet<_> = bundle.setups.iter().map(|setup| setup.id).collect();
    let mut placed = HashSet::new();
    while !left.is_empty() {
        let before = left.len();
        left.retain(|setup| {
            let ready = setup.made_from.is_none_or(|from| !inside.contains(&from) || placed.contains(&from));
            if ready {
                placed.insert(setup.id);
                ordered.push(*setup);
            }
            !ready
        });
        if left.len() == before {
            // A circle of parents: the foreign key will refuse it with its own words.
            ordered.append(&mut left);
        }
    }
    ordered
}

/// Rows of `table` whose runs are of a site.
fn of_site(table: &str) -> String {
    format!(
        "JOIN run ON run.id = {table}.run_id JOIN setup ON setup.id = run.setup_id
         JOIN position ON position.id = setup.position_id WHERE position.site_id = ?1"
    )
}

fn runs_of_site(db: &Connection, key: &str) -> Result<Vec<Run>, StoreError> {
    let sql = format!(
        "SELECT {} FROM {} WHERE position.site_id = ?1 ORDER BY run.started_at, run.id",
        runs::COLUMNS,
        runs::RUNS_OF_SITE
    );
    Ok(db.prepare(&sql)?.query_map([key], runs::from_row)?.collect::<Row_<_>>()?)
}

fn read_bundle(db: &Connection, site_id: SiteId) -> Result<Option<SiteBundle>, StoreError> {
    let Some(site) = sites::find(db, site_id)? else { return Ok(None) };
    let key = site_id.to_string();
    let kits = kits::of_site(db, site_id)?;
    let catalogue = Catalogue::with_own(parts::all(db)?);
    let mut settings = sites::settings(db, site_id)?;
    settings.hide_tokens();
    Ok(Some(SiteBundle {
        format: BUNDLE_FORMAT.into(),
        version: BUNDLE_VERSION,
        settings,
        site,
        positions: positions::of_site(db, site_id)?,
        setups: setups::of_site(db, site_id)?,
        runs: runs_of_site(db, &key)?,
        samples: readings::select(db, &of_site("sample"), &key)?,
        speed_tests: speed_tests::select(db, &of_site("speed_test"), &key)?,
        attachments: attachments::select_files(db, &of_site("attachment"), &key)?,
        parts: named_by(&kits, &catalogue),
        kits,
        masts: survey::of_site(db, site_id)?,
        obstacles: survey::of_site(db, site_id)?,
        landmarks: survey::of_site(db, site_id)?,
        tiles: survey::files(db, site_id)?,
        backdrops: survey::files(db, site_id)?,
        sweep_photos: survey::files(db, site_id)?,
        sweeps: survey::of_site(db, site_id)?,
        sweep_stops: survey::of_site(db, site_id)?,
        band_rounds: survey::of_site(db, site_id)?,
        trials: trials::rows_of_site(db, site_id)?,
        sittings: sittings::of_site(db, site_id)?,
        predictions: survey::of_site(db, site_id)?,
        speed_courses: survey::of_site(db, site_id)?,
        events: survey::of_site(db, site_id)?,
        amendments: survey::of_site(db, site_id)?,
        as_built: survey::of_site(db, site_id)?,
    }))
}

/// Before a prediction's identifier among all others: it is its setup's.
const PREDICTION: &str = "prediction ";
/// Before the identifier of how a test went: it is the test's.
const COURSE: &str = "course ";

/// What of a bundle is in the database already.
struct Known {
    site: bool,
    ids: HashSet<String>,
}

impl Known {
    fn read(db: &Connection, bundle: &SiteBundle) -> Result<Self, StoreError> {
        let mut ids = HashSet::new();
        let tables = [
            "position",
            "setup",
            "run",
            "sample",
            "speed_test",
            "attachment",
            "kit",
            "mast",
            "obstacle",
            "landmark",
            "tile",
            "backdrop",
            "sweep",
            "sweep_stop",
            "sweep_photo",
            "band_round",
            "trial",
            "event",
            "amendment",
            "as_built",
        ];
        for table in tables {
            let mut statement = db.prepare(&format!("SELECT 1 FROM {table} WHERE id = ?1"))?;
            for id in ids_of(bundle, table) {
                if statement.exists([&id])? {
                    ids.insert(id);
                }
            }
        }
        // A prediction bears its setup's identifier.
        let mut statement = db.prepare("SELECT 1 FROM prediction WHERE id = ?1")?;
        for row in &bundle.predictions {
            if statement.exists([row.id.to_string()])? {
                ids.insert(format!("{PREDICTION}{}", row.id));
            }
        }
        let mut statement = db.prepare("SELECT 1 FROM speed_course WHERE id = ?1")?;
        for row in &bundle.speed_courses {
            if statement.exists([row.id.to_string()])? {
                ids.insert(format!("{COURSE}{}", row.id));
            }
        }
        Ok(Self { site: sites::find(db, bundle.site.id)?.is_some(), ids })
    }
}

fn ids_of(bundle: &SiteBundle, table: &str) -> Vec<String> {
    match table {
        "position" => bundle.positions.iter().map(|row| row.id.to_string()).collect(),
        "setup" => bundle.setups.iter().map(|row| row.id.to_string()).collect(),
        "run" => bundle.runs.iter().map(|row| row.id.to_string()).collect(),
        "sample" => bundle.samples.iter().map(|row| row.id.to_string()).collect(),
        "kit" => bundle.kits.iter().map(|row| row.id.to_string()).collect(),
        "mast" => bundle.masts.iter().map(|row| row.id.to_string()).collect(),
        "obstacle" => bundle.obstacles.iter().map(|row| row.id.to_string()).collect(),
        "landmark" => bundle.landmarks.iter().map(|row| row.id.to_string()).collect(),
        "tile" => bundle.tiles.iter().map(|row| row.tile.id.to_string()).collect(),
        "backdrop" => bundle.backdrops.iter().map(|row| row.backdrop.id.to_string()).collect(),
        "sweep" => bundle.sweeps.iter().map(|row| row.id.to_string()).collect(),
        "sweep_stop" => bundle.sweep_stops.iter().map(|row| row.id.to_string()).collect(),
        "sweep_photo" => bundle.sweep_photos.iter().map(|row| row.photo.id.to_string()).collect(),
        "band_round" => bundle.band_rounds.iter().map(|row| row.id.to_string()).collect(),
        "amendment" => bundle.amendments.iter().map(|row| row.id.to_string()).collect(),
        "as_built" => bundle.as_built.iter().map(|row| row.id.to_string()).collect(),
        "event" => bundle.events.iter().map(|row| row.id.to_string()).collect(),
        "trial" => bundle.trials.iter().map(|row| row.id.to_string()).collect(),
        "speed_test" => bundle.speed_tests.iter().map(|row| row.id.to_string()).collect(),
        _ => bundle.attachments.iter().map(|row| row.attachment.id.to_string()).collect(),
    }
}

fn by_run<T>(rows: &[T], run_of: impl Fn(&T) -> RunId) -> HashMap<RunId, Vec<&T>> {
    let mut runs: HashMap<RunId, Vec<&T>> = HashMap::new();
    for row in rows {
        runs.entry(run_of(row)).or_default().push(row);
    }
    runs
}

/// Table by table, so that no second copy of the whole record is held.
fn plan(db: &Connection, bundle: &SiteBundle, watch: Watch) -> Result<BundlePlan, StoreError> {
    let (site, key) = (bundle.site.id, &bundle.site.id.to_string());
    let known = Known::read(db, bundle)?;
    let mut plan = BundlePlan::default();
    plan.count("site", key.clone(), sites::find(db, site)?.map(|here| here == bundle.site));
    let ids = &known.ids;
    plan.table(ids, "position", &bundle.positions, positions::of_site(db, site)?, |row| row.id);
    plan.table(ids, "setup", &bundle.setups, setups::of_site(db, site)?, |row| row.id);
    plan.table(ids, "run", &bundle.runs, runs_of_site(db, key)?, |row| row.id);
    // The two that grow long, run by run.
    let (samples, tests) =
        (by_run(&bundle.samples, |row| row.run_id), by_run(&bundle.speed_tests, |row| row.run_id));
    let mut steps = Steps::of(watch, ImportStep::Comparing, bundle);
    steps.of = bundle.runs.len();
    for run in &bundle.runs {
        steps.another()?;
        let of_run = run.id.to_string();
        if let Some(rows) = samples.get(&run.id) {
            let stored = readings::select(db, "WHERE sample.run_id = ?1", &of_run)?;
            plan.table(ids, "sample", rows.iter().copied(), stored, |row| row.id);
        }
        if let Some(rows) = tests.get(&run.id) {
            let stored = speed_tests::select(db, "WHERE speed_test.run_id = ?1", &of_run)?;
            plan.table(ids, "speed_test", rows.iter().copied(), stored, |row| row.id);
        }
    }
    let files = attachments::select_files(db, &of_site("attachment"), key)?;
    plan.table(ids, "attachment", &bundle.attachments, files, |row| row.attachment.id);
    plan.table(ids, "kit", &bundle.kits, kits::of_site(db, site)?, |row| row.id);
    plan.table(ids, "mast", &bundle.masts, survey::of_site(db, site)?, |row| row.id);
    plan.table(ids, "obstacle", &bundle.obstacles, survey::of_site(db, site)?, |row| row.id);
    plan.table(ids, "landmark", &bundle.landmarks, survey::of_site(db, site)?, |row| row.id);
    plan.table(ids, "tile", &bundle.tiles, survey::files(db, site)?, |row| row.tile.id);
    plan.table(ids, "backdrop", &bundle.backdrops, survey::files(db, site)?, |row| row.backdrop.id);
    plan.table(ids, "sweep", &bundle.sweeps, survey::of_site(db, site)?, |row| row.id);
    plan.table(ids, "sweep_photo", &bundle.sweep_photos, survey::files(db, site)?, |row| row.photo.id);
    plan.table(ids, "sweep_stop", &bundle.sweep_stops, survey::of_site(db, site)?, |row| row.id);
    plan.table(ids, "band_round", &bundle.band_rounds, survey::of_site(db, site)?, |row| row.id);
    plan.table(ids, "trial", &bundle.trials, trials::rows_of_site(db, site)?, |row| row.id);
    plan.table(ids, "event", &bundle.events, survey::of_site(db, site)?, |row| row.id);
    plan.table(ids, "amendment", &bundle.amendments, survey::of_site(db, site)?, |row| row.id);
    plan.table(ids, "as_built", &bundle.as_built, survey::of_site(db, site)?, |row| row.id);
    plan.table(ids, "prediction", &bundle.predictions, survey::of_site(db, site)?, |row: &KeptPrediction| {
        format!("{PREDICTION}{}", row.id)
    });
    plan.table(
        ids,
        "speed_course",
        &bundle.speed_courses,
        survey::of_site(db, site)?,
        |row: &SpeedCourse| format!("{COURSE}{}", row.id),
    );
    Ok(plan)
}

impl BundlePlan {
    /// Counts the rows of a table against those that are `stored` at the site; `known`: identifiers that stand anywhere here.
    fn table<'a, T: PartialEq + 'a, I: Display>(
        &mut self,
        known: &HashSet<String>,
        kind: &'static str,
        rows: impl IntoIterator<Item = &'a T>,
        stored: Vec<T>,
        id_of: impl Fn(&T) -> I,
    ) {
        let stored: HashMap<String, T> =
            stored.into_iter().map(|row| (id_of(&row).to_string(), row)).collect();
        for row in rows {
            let id = id_of(row).to_string();
            let same = known.contains(&id).then(|| stored.get(&id) == Some(row));
            self.count(kind, id, same);
        }
    }

    /// `same`: `None` where the row is not here yet.
    fn count(&mut self, kind: &'static str, id: String, same: Option<bool>) {
        match same {
            None => self.new += 1,
            Some(true) => self.same += 1,
            Some(false) => self.conflicts.push(BundleConflict { kind, id }),
        }
    }
}
