//! One time line of a site: runs, sweeps, band rounds, sittings, photographs, and what else happened.

use chrono::{DateTime, Timelike, Utc};
use open_beacon_core::bands::band_name;
use open_beacon_core::judge::{DayPart, RadioDigest, test_doubts};
use open_beacon_core::model::{
    BandRound, Completion, EventKind, Position, PositionId, Run, RunContext, RunId, Setup, SetupId,
    SiteEvent, SiteId, Sitting, SittingId, Source, SpeedTest, Sweep, SweepPhoto,
};
use open_beacon_core::protocol::{Built, ChangedPart, changes};
use open_beacon_core::stats::geometric_mean_over_sittings;
use open_beacon_core::words;
use open_beacon_store::{Store, StoreError};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use utoipa::{IntoParams, ToSchema};

/// What a row of the time line is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TimelineKind {
    /// Samples and speed tests.
    Run,
    Sweep,
    BandRound,
    Photo,
    Event,
}

/// Which rows, and which page of them.
#[derive(Clone, Debug, Default, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct TimelineQuery {
    /// Only of this kind.
    pub kind: Option<TimelineKind>,
    pub position: Option<PositionId>,
    pub setup: Option<SetupId>,
    /// Only runs in which this band was heard: "B20", "n78".
    pub band: Option<String>,
    /// Only what began in this part of the day, site time.
    pub part: Option<DayPart>,
    /// Only runs that were measured, or only those that were typed in.
    pub source: Option<Source>,
    /// Only runs with tests that may not have measured the line.
    pub doubtful: Option<bool>,
    /// Rows from before this; none for the newest.
    pub before: Option<DateTime<Utc>>,
    /// Rows a page, 1..=200, 40 if not said.
    pub limit: Option<usize>,
}

/// A page of the time line.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct TimelineView {
    /// The newest first.
    pub rows: Vec<TimelineRow>,
    /// Where the next page begins; none at the end.
    pub before: Option<DateTime<Utc>>,
}

/// A row of the time line.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct TimelineRow {
    pub id: String,
    pub kind: TimelineKind,
    pub at: DateTime<Utc>,
    pub title: String,
    pub setup_id: Option<SetupId>,
    /// The setup or position it belongs to.
    pub of: Option<String>,
    /// Geometric means of the run's whole tests.
    pub down_mbps: Option<f64>,
    pub up_mbps: Option<f64>,
    pub idle_latency_ms: Option<f64>,
    /// "n78 −88 dBm", a carrier an entry.
    pub heard: Vec<String>,
    /// Bands that were heard.
    pub bands: Vec<String>,
    /// Tests that may not have measured the line.
    pub doubted: usize,
    /// The sitting that its tests are of.
    pub sitting: Option<String>,
    pub typed: bool,
    pub partial: bool,
    pub archived: bool,
    pub event_kind: Option<EventKind>,
    /// What was changed since the run before.
    pub changed: Vec<ChangedPart>,
    pub changed_said: Option<String>,
}

impl TimelineRow {
    fn new(id: impl ToString, kind: TimelineKind, at: DateTime<Utc>, title: impl Into<String>) -> Self {
        Self {
            id: id.to_string(),
            kind,
            at,
            title: title.into(),
            setup_id: None,
            of: None,
            down_mbps: None,
            up_mbps: None,
            idle_latency_ms: None,
            heard: Vec::new(),
            bands: Vec::new(),
            doubted: 0,
            sitting: None,
            typed: false,
            partial: false,
            archived: false,
            event_kind: None,
            changed: Vec::new(),
            changed_said: None,
        }
    }
}

/// Rows a page where nothing is said.
const PAGE: usize = 40;
/// Rows a page at the most.
const LARGEST_PAGE: usize = 200;

struct Known<'a> {
    store: &'a Store,
    site_id: SiteId,
    zone: chrono_tz::Tz,
    query: &'a TimelineQuery,
    positions: HashMap<PositionId, Position>,
    setups: HashMap<SetupId, Setup>,
    sittings: HashMap<SittingId, Sitting>,
}

impl Known<'_> {
    fn built(&self, id: SetupId) -> Option<Built<'_>> {
        let setup = self.setups.get(&id)?;
        Some(Built { setup, position: self.positions.get(&setup.position_id)? })
    }

    fn label(&self, id: SetupId) -> Option<String> {
        let built = self.built(id)?;
        Some(words::setup_label(built.position, &built.setup.spec))
    }

    fn in_part(&self, at: DateTime<Utc>) -> bool {
        let hour = at.with_timezone(&self.zone).hour() as u8;
        self.query.part.is_none_or(|part| DayPart::of_hour(hour) == part)
    }

    fn is_before(&self, at: DateTime<Utc>) -> bool {
        self.query.before.is_none_or(|before| at < before)
    }

    /// Whether rows of a kind are wanted that have no setup, no band, no source.
    fn wants(&self, kind: TimelineKind, at: DateTime<Utc>, position: Option<PositionId>) -> bool {
        let query = self.query;
        let of_runs = query.setup.is_some() || query.band.is_some() || query.source.is_some();
        query.kind.is_none_or(|wanted| wanted == kind)
            && !of_runs
            && query.doubtful != Some(true)
            && query.position.is_none_or(|wanted| Some(wanted) == position)
            && self.in_part(at)
            && self.is_before(at)
    }

    fn wants_run(&self, run: &Run, heard: &RadioDigest) -> bool {
        let query = self.query;
        let position = self.setups.get(&run.setup_id).map(|setup| setup.position_id);
        query.setup.is_none_or(|wanted| wanted == run.setup_id)
            && query.position.is_none_or(|wanted| Some(wanted) == position)
            && query.source.is_none_or(|wanted| wanted == run.source)
            && query.band.as_ref().is_none_or(|wanted| bands(heard).contains(wanted))
            && self.in_part(run.started_at)
    }

    fn runs(&self, limit: usize) -> Result<Vec<TimelineRow>, StoreError> {
        if self.query.kind.is_some_and(|kind| kind != TimelineKind::Run) {
            return Ok(Vec::new());
        }
        let doubtful = |run: &Run| -> bool {
            self.query.doubtful != Some(true)
                || self.store.speed_tests_of_run(run.id).is_ok_and(|tests| doubted(&tests) > 0)
        };
        let keep = |run: &Run, heard: &RadioDigest| self.wants_run(run, heard) && doubtful(run);
        let found = self.store.runs_by_time(self.site_id, self.query.before, limit, keep)?;
        found.into_iter().map(|(run, heard)| self.run(&run, &heard)).collect()
    }

    fn run(&self, run: &Run, heard: &RadioDigest) -> Result<TimelineRow, StoreError> {
        let tests = self.store.speed_tests_of_run(run.id)?;
        let whole = || tests.iter().filter(|test| test.completion == Completion::Complete);
        let mean = |of: fn(&SpeedTest) -> Option<f64>| {
            let values: Vec<((), f64)> = whole().filter_map(of).map(|value| ((), value)).collect();
            geometric_mean_over_sittings(&values)
        };
        let before = self.store.setup_before(self.site_id, run.started_at)?;
        let (from, to) = (before.and_then(|id| self.built(id)), self.built(run.setup_id));
        let changed = from.zip(to).map_or_else(Vec::new, |(from, to)| changes(from, to));
        let visit = matches!(run.context, RunContext::BandVisit { .. });
        let title = words::timeline::run(heard.samples(), tests.len(), visit);
        Ok(TimelineRow {
            setup_id: Some(run.setup_id),
            of: self.label(run.setup_id),
            down_mbps: mean(|test| test.figures.download_mbps),
            up_mbps: mean(|test| test.figures.upload_mbps),
            idle_latency_ms: mean(|test| test.figures.idle_latency_ms),
            heard: words::timeline::heard(&heard.summary()),
            bands: bands(heard),
            doubted: doubted(&tests),
            sitting: tests
                .iter()
                .find_map(|test| self.sittings.get(&test.sitting_id?))
                .map(|sitting| words::protocol::sitting(sitting, self.zone)),
            typed: run.source == Source::Typed,
            partial: run.completion == Completion::Partial,
            archived: run.archived_at.is_some(),
            changed_said: before
                .and_then(|id| self.label(id))
                .and_then(|label| words::timeline::changed_since(&label, &changed)),
            changed,
            ..TimelineRow::new(run.id, TimelineKind::Run, run.started_at, title)
        })
    }

    fn sweeps(&self) -> Result<Vec<TimelineRow>, StoreError> {
        let all: Vec<Sweep> = self.store.entities(self.site_id)?;
        let wanted = all
            .into_iter()
            .filter(|sweep| self.wants(TimelineKind::Sweep, sweep.started_at, Some(sweep.position_id)));
        Ok(wanted
            .map(|sweep| TimelineRow {
                setup_id: sweep.setup_id,
                of: self.positions.get(&sweep.position_id).map(|position| position.name.clone()),
                archived: sweep.archived_at.is_some(),
                ..TimelineRow::new(
                    sweep.id,
                    TimelineKind::Sweep,
                    sweep.started_at,
                    words::timeline::sweep(&sweep),
                )
            })
            .collect())
    }

    fn rounds(&self) -> Result<Vec<TimelineRow>, StoreError> {
        let all: Vec<BandRound> = self.store.entities(self.site_id)?;
        let position = |round: &BandRound| Some(self.setups.get(&round.setup_id?)?.position_id);
        let wanted = all
            .into_iter()
            .filter(|round| self.wants(TimelineKind::BandRound, round.started_at, position(round)));
        Ok(wanted
            .map(|round| TimelineRow {
                setup_id: round.setup_id,
                of: round.setup_id.and_then(|id| self.label(id)),
                archived: round.archived_at.is_some(),
                ..TimelineRow::new(
                    round.id,
                    TimelineKind::BandRound,
                    round.started_at,
                    words::timeline::round(&round),
                )
            })
            .collect())
    }

    fn photos(&self) -> Result<Vec<TimelineRow>, StoreError> {
        let photo = |id: String, at, name: &str, run: Option<(RunId, SetupId)>| TimelineRow {
            setup_id: run.map(|(_, setup)| setup),
            of: run.and_then(|(_, setup)| self.label(setup)),
            ..TimelineRow::new(id, TimelineKind::Photo, at, format!("File: {name}"))
        };
        let kept = self.store.attachments_of_site(self.site_id)?.into_iter();
        let of_runs = kept
            .filter(|(one, setup)| {
                let position = self.setups.get(setup).map(|setup| setup.position_id);
                self.wants(TimelineKind::Photo, one.added_at, position)
            })
            .map(|(one, setup)| {
                photo(one.id.to_string(), one.added_at, &one.file_name, Some((one.run_id, setup)))
            });
        let of_sweeps: Vec<SweepPhoto> = self.store.entities(self.site_id)?;
        let of_sweeps = of_sweeps
            .into_iter()
            .filter(|one| self.wants(TimelineKind::Photo, one.taken_at, None))
            .map(|one| TimelineRow {
                archived: one.archived_at.is_some(),
                ..photo(one.id.to_string(), one.taken_at, &one.file_name, None)
            });
        Ok(of_runs.chain(of_sweeps).collect())
    }

    fn events(&self) -> Result<Vec<TimelineRow>, StoreError> {
        let all: Vec<SiteEvent> = self.store.entities(self.site_id)?;
        let wanted = all.into_iter().filter(|event| self.wants(TimelineKind::Event, event.happened_at, None));
        Ok(wanted
            .map(|event| TimelineRow {
                archived: event.archived_at.is_some(),
                event_kind: Some(event.kind),
                ..TimelineRow::new(event.id, TimelineKind::Event, event.happened_at, event.text)
            })
            .collect())
    }
}

fn doubted(tests: &[SpeedTest]) -> usize {
    tests.iter().filter(|test| !test_doubts(test).is_empty()).count()
}

fn bands(heard: &RadioDigest) -> Vec<String> {
    let carriers = heard.carriers.iter().map(|one| &one.carrier);
    let mut names: Vec<String> =
        carriers.filter_map(|one| Some(band_name(one.technology, one.band?))).collect();
    names.sort();
    names.dedup();
    names
}

pub(crate) fn view(
    store: &Store,
    site_id: SiteId,
    query: &TimelineQuery,
) -> Result<TimelineView, StoreError> {
    let limit = query.limit.unwrap_or(PAGE).clamp(1, LARGEST_PAGE);
    let known = Known {
        store,
        site_id,
        zone: store.site(site_id)?.time_zone,
        query,
        positions: store.positions(site_id)?.into_iter().map(|one| (one.id, one)).collect(),
        setups: store.setups(site_id)?.into_iter().map(|one| (one.id, one)).collect(),
        sittings: store.sittings(site_id)?.into_iter().map(|one| (one.id, one)).collect(),
    };
    let mut rows = known.runs(limit)?;
    for more in [known.sweeps()?, known.rounds()?, known.photos()?, known.events()?] {
        rows.extend(more);
    }
    rows.sort_by(|a, b| (b.at, &b.id).cmp(&(a.at, &a.id)));
    // Rows of one moment stay on one page: the next one begins before it.
    let cut = rows.get(limit - 1).map(|last| last.at);
    let end = cut.map_or(rows.len(), |cut| rows.iter().take_while(|row| row.at >= cut).count());
    let more = end < rows.len();
    rows.truncate(end);
    let before = rows.last().map(|last| last.at).filter(|_| more);
    Ok(TimelineView { rows, before })
}
