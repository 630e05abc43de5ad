//! Tests that the program runs by itself, with the antenna as it stands: when one is due it is a run like any other.

use crate::problem::Problem;
use crate::routes::jobs::{NewJob, begin};
use crate::state::AppState;
use chrono::{DateTime, Datelike, Duration, TimeZone, Utc};
use open_beacon_core::model::{Conditions, RunId, SetupId, SiteId, SiteSettings, SpeedTestSettings};
use open_beacon_core::protocol::{Held, LINE_IN_USE_MBPS, TRY_AGAIN_MIN, next_repeat, within_budget};
use open_beacon_speedtest::{Plan, line_in_use_mbps};
use open_beacon_store::{Store, StoreError};
use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};
use uuid::Uuid;

/// How often it is looked whether one is due.
const LOOK_EVERY: std::time::Duration = std::time::Duration::from_secs(60);
/// Samples before the tests of each repeat, so that it is known what was heard.
const SAMPLES: u32 = 3;
/// Rates that a test is taken to have where none was run yet, Mbit/s down and up (common practice, no source).
const UNKNOWN_MBPS: (f64, f64) = (100.0, 20.0);

/// Since when, and what.
pub type HeldSince = (DateTime<Utc>, Held);

/// What holds the repeats of each site up.
#[derive(Clone, Debug, Default)]
pub struct Repeats(Arc<Mutex<HashMap<SiteId, HeldSince>>>);

impl Repeats {
    fn set(&self, site: SiteId, held: Option<HeldSince>) {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        match held {
            Some(held) => all.insert(site, held),
            None => all.remove(&site),
        };
    }

    /// Why none runs, though one is due.
    pub fn held(&self, site: SiteId) -> Option<HeldSince> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).get(&site).copied()
    }
}

/// What is known of a site's repeats.
#[derive(Clone, Debug)]
pub(crate) struct Outlook {
    pub(crate) due_at: DateTime<Utc>,
    /// Where the antenna stands.
    pub(crate) setup: Option<SetupId>,
    /// Data of one repeat, as large as it may be, MB.
    next_mb: f64,
    used_mb: f64,
    open: bool,
}

/// Bytes that tests moved since the beginning of the calendar month, MB.
pub(crate) fn moved_this_month_mb(
    store: &Store,
    site: SiteId,
    zone: chrono_tz::Tz,
    now: DateTime<Utc>,
) -> Result<f64, StoreError> {
    let first = now.with_timezone(&zone).date_naive().with_day(1).and_then(|day| day.and_hms_opt(0, 0, 0));
    let start = first.and_then(|first| zone.from_local_datetime(&first).earliest());
    Ok(store.bytes_moved(site, start.map_or(now, |start| start.with_timezone(&Utc)))? / 1e6)
}

pub(crate) fn outlook(
    store: &Store,
    site: SiteId,
    settings: &SiteSettings,
    now: DateTime<Utc>,
) -> Result<Outlook, StoreError> {
    let newest = store.runs_by_time(site, None, 1, |run, _| run.archived_at.is_none())?.into_iter().next();
    let last = newest.as_ref().map(|(run, _)| run.started_at);
    let repeats = &settings.protocol.repeats;
    let setup = newest.as_ref().map(|(run, _)| store.setup(run.setup_id)).transpose()?;
    let tests = newest.as_ref().map(|(run, _)| store.speed_tests_of_run(run.id)).transpose()?;
    let moved = |bytes: u64| bytes as f64 / 1e6;
    let largest = tests.iter().flatten().map(|test| moved(test.figures.bytes_down + test.figures.bytes_up));
    let usual = |test: &SpeedTestSettings| test.test_mb(UNKNOWN_MBPS);
    let one_mb = largest.fold(0.0, f64::max);
    let one_mb = if one_mb > 0.0 { one_mb } else { settings.speed_test.as_ref().map_or(0.0, usual) };
    let zone = store.site(site)?.time_zone;
    Ok(Outlook {
        due_at: next_repeat(repeats, last, site.0.as_u64_pair().1, now),
        setup: setup.filter(|setup| setup.archived_at.is_none()).map(|setup| setup.id),
        next_mb: f64::from(repeats.tests) * one_mb,
        used_mb: moved_this_month_mb(store, site, zone, now)?,
        open: store.sittings(site)?.iter().any(|sitting| sitting.is_open(now)),
    })
}

/// Looks again and again until the program ends.
pub async fn watch(app: AppState) {
    loop {
        tokio::select! {
            () = app.stopping.cancelled() => return,
            () = tokio::time::sleep(LOOK_EVERY) => look(&app).await,
        }
    }
}

/// Starts what is due at any site.
pub async fn look(app: &AppState) {
    let sites = app.db(|store| {
        let all = store.sites()?.into_iter().filter(|site| site.archived_at.is_none());
        all.map(|site| Ok((site.id, store.settings(site.id)?, store.is_asleep(site.id)?)))
            .collect::<Result<Vec<_>, StoreError>>()
    });
    let sites = match sites.await {
        Ok(sites) => sites,
        Err(problem) => return tracing::warn!(?problem, "sites cannot be read"),
    };
    for (site, settings, asleep) in sites {
        if !settings.protocol.repeats.on || asleep {
            app.repeats.set(site, None);
        } else if let Err(problem) = one(app, site, settings).await {
            tracing::warn!(%site, ?problem, "a repeat could not be begun");
        }
    }
}

async fn one(app: &AppState, site: SiteId, settings: SiteSettings) -> Result<(), Problem> {
    let now = app.now();
    let asked = settings.clone();
    let outlook = app.db(move |store| outlook(store, site, &asked, now)).await?;
    if now < outlook.due_at {
        app.repeats.set(site, None);
        return Ok(());
    }
    let waits = |(since, _): HeldSince| now < since + Duration::minutes(TRY_AGAIN_MIN) && now >= since;
    if app.repeats.held(site).is_some_and(waits) {
        return Ok(());
    }
    match ready(app, site, &settings, &outlook).await {
        Err(held) => app.repeats.set(site, Some((now, held))),
        Ok(setup) => {
            app.repeats.set(site, None);
            let notes = "Run by the program itself.".to_owned();
            let new = NewJob {
                id: RunId(Uuid::now_v7()),
                samples: if settings.gateway.is_some() { SAMPLES } else { 0 },
                speed_tests: u32::from(settings.protocol.repeats.tests),
                conditions: Conditions { notes, ..Conditions::default() },
            };
            begin(app, setup, new).await?;
        }
    }
    Ok(())
}

/// The setup on which it runs now, or what holds it up.
async fn ready(
    app: &AppState,
    site: SiteId,
    settings: &SiteSettings,
    outlook: &Outlook,
) -> Result<SetupId, Held> {
    let test = settings.speed_test.as_ref().ok_or(Held::NoAddress)?;
    let setup = outlook.setup.ok_or(Held::NothingStands)?;
    if outlook.open {
        return Err(Held::SittingOpen);
    }
    if app.measurer.now(site).is_some() {
        return Err(Held::Measuring);
    }
    within_budget(&settings.protocol.repeats, outlook.used_mb, outlook.next_mb)?;
    match line_in_use_mbps(&Plan::from(test)).await.filter(|mbps| *mbps > LINE_IN_USE_MBPS) {
        Some(mbps) => Err(Held::LineInUse { mbps }),
        None => Ok(setup),
    }
}
