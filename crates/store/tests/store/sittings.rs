//! Sittings opened and closed on the page, events, and the time line.

use super::{demo_bundle, open};
use chrono::{DateTime, Duration, Utc};
use open_beacon_core::model::{
    Completion, EventId, EventKind, RunId, SetupId, SiteEvent, SiteId, SittingId, Source, SpeedTest,
    SpeedTestId,
};
use open_beacon_store::{Store, StoreError};
use uuid::Uuid;

/// A store with the demo site, and a moment at which nothing was tested for days.
fn later() -> (tempfile::TempDir, Store, SiteId, DateTime<Utc>) {
    let (directory, store) = open();
    let bundle = demo_bundle();
    let newest = bundle.speed_tests.iter().map(|test| test.started_at).max().unwrap();
    store.import_bundle(&bundle).unwrap();
    (directory, store, bundle.site.id, newest + Duration::days(3))
}

fn sitting_id(n: u128) -> SittingId {
    SittingId(Uuid::from_u128(n))
}

/// A test on one of the runs there are.
fn add(store: &Store, site: SiteId, n: u128, at: DateTime<Utc>) -> (SpeedTestId, SetupId) {
    let run = store.bundle(site).unwrap().runs.into_iter().find(|run| run.archived_at.is_none()).unwrap();
    let id = SpeedTestId(Uuid::from_u128(n));
    let test = SpeedTest {
        id,
        run_id: run.id,
        sitting_id: None,
        started_at: at,
        source: Source::Live,
        completion: Completion::Complete,
        reason: None,
        server: String::new(),
        surroundings: None,
        figures: open_beacon_core::model::SpeedFigures { bytes_down: 5_000_000, ..Default::default() },
    };
    store.add_speed_test(&test, None).unwrap();
    (id, run.setup_id)
}

#[test]
fn tests_are_of_the_sitting_that_is_open() {
    let (directory, store, site, now) = later();
    let opened = store.open_sitting(site, sitting_id(1), "after the rain", now).unwrap();
    assert_eq!((opened.id, &opened.name[..], opened.by_hand), (sitting_id(1), "after the rain", true));
    // The answer got lost, the request came again.
    assert_eq!(store.open_sitting(site, sitting_id(1), "after the rain", now).unwrap(), opened);
    let second = store.open_sitting(site, sitting_id(2), "", now + Duration::minutes(1));
    assert!(matches!(second, Err(StoreError::Refused(_))), "{second:?}");
    let moved = store.bytes_moved(site, now).unwrap();
    let (_, setup) = add(&store, site, 900, now + Duration::minutes(2));
    add(&store, site, 901, now + Duration::minutes(95));
    assert!((store.bytes_moved(site, now).unwrap() - moved - 1e7).abs() < 1.0);
    let tests = store.tests_of_sitting(sitting_id(1)).unwrap();
    assert_eq!(tests.iter().map(|test| test.setup_id).collect::<Vec<_>>(), [setup, setup]);
    let closed = store.close_sitting(sitting_id(1), now + Duration::minutes(100)).unwrap();
    assert_eq!(closed.closed_at, Some(now + Duration::minutes(100)));
    assert_eq!(store.close_sitting(sitting_id(1), now + Duration::minutes(105)).unwrap(), closed);
    // Opened again within the half hour it goes on; an hour later it is another one.
    let again = store.open_sitting(site, sitting_id(3), "", now + Duration::minutes(110)).unwrap();
    assert_eq!((again.id, again.closed_at, &again.name[..]), (sitting_id(1), None, "after the rain"));
    let other = store.open_sitting(site, sitting_id(4), "", now + Duration::minutes(240)).unwrap();
    assert_eq!(other.id, sitting_id(4));
    assert_eq!(store.name_sitting(sitting_id(4), "evening").unwrap().name, "evening");
    drop(store);
    // All of it is on disk, and goes out and in with the site.
    let store = Store::open(directory.path()).unwrap();
    let kept = store.sittings(site).unwrap();
    let whole = store.bundle(site).unwrap();
    let (_other, copy) = open();
    copy.import_bundle(&whole).unwrap();
    assert_eq!(copy.sittings(site).unwrap(), kept);
    assert_eq!(kept.iter().filter(|one| one.by_hand).count(), 2);
}

/// Minutes after a test the hour is the same: opening a sitting then opens the one of that test.
#[test]
fn a_sitting_opened_late_takes_the_tests_before_it() {
    let (_directory, store, site, now) = later();
    add(&store, site, 900, now);
    let opened = store.open_sitting(site, sitting_id(1), "", now + Duration::minutes(10)).unwrap();
    assert_ne!(opened.id, sitting_id(1));
    assert_eq!(store.tests_of_sitting(opened.id).unwrap().len(), 1);
    assert!(store.open_sitting(SiteId(Uuid::from_u128(999)), sitting_id(2), "", now).is_err());
    assert!(matches!(store.close_sitting(sitting_id(9), now), Err(StoreError::NotFound(_))));
}

#[test]
fn an_event_is_kept_once_and_goes_with_the_site() {
    let (_directory, store, site, now) = later();
    let event = SiteEvent {
        id: EventId(Uuid::from_u128(70)),
        site_id: site,
        happened_at: now,
        kind: EventKind::Weather,
        text: "=rain began".into(),
        noted_at: now,
        archived_at: None,
    };
    store.add_event(&event, &"rain").unwrap();
    store.add_event(&event, &"rain").unwrap();
    assert!(matches!(store.add_event(&event, &"snow"), Err(StoreError::IdTaken)));
    let out = store.archive_event(event.id, Some(now)).unwrap();
    assert_eq!(out.archived_at, Some(now));
    assert_eq!(store.archive_event(event.id, None).unwrap(), event);
    let whole = store.bundle(site).unwrap();
    assert!(whole.events.contains(&event));
    let (_other, copy) = open();
    copy.import_bundle(&whole).unwrap();
    assert_eq!(copy.entities::<SiteEvent>(site).unwrap(), whole.events);
    let mut changed = whole;
    changed.events.last_mut().unwrap().text = "snow".into();
    let plan = copy.plan_import(&changed).unwrap();
    assert_eq!(plan.conflicts.iter().map(|one| one.kind).collect::<Vec<_>>(), ["event"]);
}

/// Page by page every run comes once, the newest first, those of one moment together.
#[test]
fn runs_come_by_time_page_by_page() {
    let (_directory, store, site, _) = later();
    let bundle = store.bundle(site).unwrap();
    let point = |id: RunId| bundle.sweep_stops.iter().any(|stop| stop.run_id == Some(id));
    let mut wanted: Vec<(DateTime<Utc>, RunId)> =
        bundle.runs.iter().filter(|run| !point(run.id)).map(|run| (run.started_at, run.id)).collect();
    wanted.sort_unstable();
    let (mut found, mut before) = (Vec::new(), None);
    loop {
        let page = store.runs_by_time(site, before, 7, |_, _| true).unwrap();
        let Some((last, _)) = page.last() else { break };
        before = Some(last.started_at);
        assert!(page.windows(2).all(|two| two[0].0.started_at >= two[1].0.started_at));
        found.extend(page.iter().map(|(run, _)| (run.started_at, run.id)));
    }
    found.sort_unstable();
    assert_eq!(found, wanted);
    let typed = store.runs_by_time(site, None, 500, |run, _| run.source == Source::Typed).unwrap();
    assert!(!typed.is_empty() && typed.iter().all(|(run, _)| run.source == Source::Typed));
    let newest = wanted.last().unwrap().0;
    let last = bundle
        .runs
        .iter()
        .filter(|run| !point(run.id) && run.started_at < newest)
        .max_by_key(|run| run.started_at);
    assert_eq!(store.setup_before(site, newest).unwrap(), last.map(|run| run.setup_id));
}
