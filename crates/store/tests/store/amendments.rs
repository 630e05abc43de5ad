//! Corrections of typed runs: what stood there is kept, and what was measured is not touched.

use super::{demo_bundle, open};
use chrono::{Duration, Utc};
use open_beacon_core::model::{Amendment, AmendmentId, RunId, Source, TypedContent};
use open_beacon_store::{Created, NewAmendment, Store, StoreError};
use uuid::Uuid;

fn correction(store: &Store, run: RunId, n: u128, seen: usize) -> NewAmendment {
    let found = store.run(run).unwrap();
    let mut samples = store.samples_of_run(run).unwrap();
    for sample in &mut samples {
        for carrier in &mut sample.reading.carriers {
            carrier.rsrp_dbm = carrier.rsrp_dbm.map(|rsrp| rsrp - 1.0);
        }
    }
    NewAmendment {
        id: AmendmentId(Uuid::from_u128(n)),
        run_id: run,
        at: Utc::now(),
        by: "Kari".into(),
        why: "=minus was missing".into(),
        seen,
        content: TypedContent {
            measured_at: found.started_at - Duration::days(9),
            conditions: found.conditions,
            samples,
            speed_tests: store.speed_tests_of_run(run).unwrap(),
        },
    }
}

#[test]
fn a_typed_run_is_corrected_and_what_it_held_is_kept() {
    let (directory, store) = open();
    let bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    let typed = bundle.runs.iter().find(|run| {
        run.source == Source::Typed && bundle.samples.iter().any(|sample| sample.run_id == run.id)
    });
    let run = typed.unwrap().clone();
    let before = store.samples_of_run(run.id).unwrap();
    let counted = store.setup_counts(bundle.site.id).unwrap();
    let new = correction(&store, run.id, 61, 0);
    assert_eq!(store.amend_run(&new, &"body").unwrap(), Created::Now);
    assert_eq!(store.amend_run(&new, &"body").unwrap(), Created::Before, "the answer got lost");
    assert_eq!(store.samples_of_run(run.id).unwrap(), new.content.samples);
    assert_eq!(store.run(run.id).unwrap().started_at, new.content.measured_at);
    let kept = store.amendments_of_run(run.id).unwrap();
    assert_eq!(
        (kept.len(), &kept[0].before.samples, kept[0].before.measured_at),
        (1, &before, run.started_at)
    );
    assert_eq!(store.setup_counts(bundle.site.id).unwrap(), counted, "as many as before");
    // Figures are made of what is right.
    let evidence = store.evidence(run.setup_id, String::new(), None).unwrap();
    let heard = evidence.radio.iter().find(|(id, _)| *id == run.id).unwrap().1.summary();
    let rsrp = before[0].reading.carriers[0].rsrp_dbm.unwrap() - 1.0;
    assert!(heard.carriers.iter().any(|one| one.rsrp_dbm.unwrap().median == rsrp), "{heard:?}");

    // Begun before another one was saved: nothing is overwritten unseen.
    let stale = correction(&store, run.id, 62, 0);
    assert!(matches!(store.amend_run(&stale, &"body"), Err(StoreError::Refused(_))));
    assert_eq!(store.amend_run(&NewAmendment { seen: 1, ..stale }, &"second").unwrap(), Created::Now);
    drop(store);
    let store = Store::open(directory.path()).unwrap();
    let whole = store.bundle(bundle.site.id).unwrap();
    assert_eq!(whole.amendments.len(), 2);
    let (_other, copy) = open();
    copy.import_bundle(&whole).unwrap();
    assert_eq!(copy.entities::<Amendment>(bundle.site.id).unwrap(), whole.amendments);
    let plan = copy.plan_import(&whole).unwrap();
    assert!(plan.conflicts.is_empty() && plan.new == 0, "{plan:?}");
}

#[test]
fn what_was_measured_is_not_corrected() {
    let (_directory, store) = open();
    let bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    let run = bundle.runs.iter().find(|run| run.source == Source::Live).unwrap().id;
    let before = store.samples_of_run(run).unwrap();
    let refused = store.amend_run(&correction(&store, run, 63, 0), &"body");
    assert!(matches!(refused, Err(StoreError::Refused(_))), "{refused:?}");
    assert_eq!(store.samples_of_run(run).unwrap(), before);
    assert_eq!(store.amendments_of_run(run).unwrap(), []);
    let gone = NewAmendment { run_id: RunId(Uuid::from_u128(999)), ..correction(&store, run, 64, 0) };
    assert!(matches!(store.amend_run(&gone, &"body"), Err(StoreError::NotFound(_))));
}
