//! What is kept of a run in short says the same as its samples do.

use crate::reading_back::told;
use crate::{demo_bundle, open};
use chrono::Utc;
use open_beacon_core::judge::RadioDigest;
use open_beacon_core::model::*;
use open_beacon_store::Store;
use uuid::Uuid;

fn of_samples(store: &Store, run: RunId) -> RadioDigest {
    RadioDigest::of(&store.samples_of_run(run).unwrap())
}

fn kept(store: &Store, run: RunId) -> Option<(i64, Vec<u8>)> {
    let raw = rusqlite::Connection::open(store.path()).unwrap();
    let row =
        raw.query_row("SELECT samples, radio FROM run_digest WHERE run_id = ?1", [run.to_string()], |row| {
            Ok((row.get(0)?, row.get(1)?))
        });
    row.ok()
}

#[test]
fn every_run_that_is_over_has_one_and_it_is_its_samples() {
    let (_directory, store, bundle) = told();
    for run in &bundle.runs {
        let (samples, radio) = kept(&store, run.id).expect("kept when it was brought in");
        let digest: RadioDigest = postcard::from_bytes(&radio).unwrap();
        assert_eq!(digest, of_samples(&store, run.id));
        assert_eq!(samples as usize, digest.samples());
    }
    for setup in &bundle.setups {
        for (run, heard) in store.evidence(setup.id, String::new(), None).unwrap().radio {
            assert_eq!(heard, of_samples(&store, run));
        }
    }
}

#[test]
fn a_run_under_way_has_none_and_is_read_of_its_samples() {
    let (_directory, store, bundle) = told();
    let old = bundle.runs.iter().find(|run| of_samples(&store, run.id).samples() > 0).unwrap();
    let id = RunId(Uuid::from_u128(70));
    let run =
        Run { id, completion: Completion::Running, ended_at: None, started_at: Utc::now(), ..old.clone() };
    store.create_run(&run, &"body").unwrap();
    let heard = || store.evidence(run.setup_id, String::new(), Some(1)).unwrap().whole_radio();
    let mut taken = store.samples_of_run(old.id).unwrap();
    taken.truncate(3);
    for (n, sample) in taken.iter_mut().enumerate() {
        (sample.id, sample.run_id) = (SampleId(Uuid::from_u128(80 + n as u128)), id);
        store.add_sample(sample).unwrap();
        assert_eq!((kept(&store, id), heard().samples()), (None, n + 1));
    }
    let before = heard();
    store.end_run(id, Utc::now(), Completion::Complete, None, None).unwrap();
    assert_eq!(kept(&store, id).map(|(samples, _)| samples), Some(3));
    assert_eq!(heard(), before);
    // A sample that comes late ends the digest; it is not shown as if it had not come.
    let late = Sample { id: SampleId(Uuid::from_u128(90)), ..taken[0].clone() };
    store.add_sample(&late).unwrap();
    assert_eq!((kept(&store, id), heard().samples()), (None, 4));
}

/// Thrown away, damaged or written by another version: the record answers the same, and opening mends it.
#[test]
fn a_digest_can_be_lost() {
    let (directory, store, bundle) = told();
    let (site, setup) = (bundle.site.id, bundle.runs[0].setup_id);
    let asked = |store: &Store| {
        (store.evidence(setup, String::new(), None).unwrap(), store.setup_counts(site).unwrap())
    };
    let before = asked(&store);
    for loss in [
        "DELETE FROM run_digest",
        "UPDATE run_digest SET radio = x'7b'",
        "UPDATE run_digest SET format = 0, radio = x'00'",
    ] {
        let raw = rusqlite::Connection::open(store.path()).unwrap();
        raw.execute(loss, []).unwrap();
        drop(raw);
        assert_eq!(asked(&store), before, "{loss}");
    }
    drop(store);
    let store = Store::open(directory.path()).unwrap();
    assert_eq!(
        kept(&store, bundle.runs[0].id).map(|(samples, _)| samples as usize),
        Some(of_samples(&store, bundle.runs[0].id).samples())
    );
    assert_eq!(asked(&store), before);
}

#[test]
fn a_run_that_was_cut_short_has_one_after_the_next_start() {
    let (_directory, store) = open();
    let bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    let run = Run {
        id: RunId(Uuid::from_u128(70)),
        completion: Completion::Running,
        ended_at: None,
        ..bundle.runs[0].clone()
    };
    store.create_run(&run, &"body").unwrap();
    assert_eq!(store.close_interrupted_runs("cut").unwrap(), 1);
    assert_eq!(kept(&store, run.id).map(|(samples, _)| samples), Some(0));
}
