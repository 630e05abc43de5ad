use crate::{demo_bundle, open};
use chrono::Utc;
use open_beacon_core::model::{RunContext, Setup, SetupId, SetupSpec};
use open_beacon_store::{Archivable, Store, StoreError};
use uuid::Uuid;

fn fresh_setup(store: &Store) -> Setup {
    let old = store.setups(demo_bundle().site.id).unwrap().remove(0);
    let setup = Setup { id: SetupId(Uuid::from_u128(5)), made_from: Some(old.id), ..old };
    store.create_setup(&setup, &"body").unwrap();
    setup
}

#[test]
fn a_setup_with_runs_does_not_change_under_them() {
    let (_directory, store) = open();
    store.import_bundle(&demo_bundle()).unwrap();
    let setup = store.setups(demo_bundle().site.id).unwrap().remove(0);
    let turned = SetupSpec { azimuth_deg: Some(10.0), ..setup.spec.clone() };
    assert!(!store.edit_setup_without_runs(setup.id, &turned).unwrap());
    assert_eq!(store.setup(setup.id).unwrap().spec, setup.spec);
    // A name does not change what was measured.
    let named = SetupSpec { name: "as found".into(), ..setup.spec.clone() };
    assert!(store.edit_setup_without_runs(setup.id, &named).unwrap());
    assert_eq!(store.setup(setup.id).unwrap().spec.name, "as found");
}

#[test]
fn a_setup_without_runs_changes_in_place() {
    let (_directory, store) = open();
    store.import_bundle(&demo_bundle()).unwrap();
    let setup = fresh_setup(&store);
    let turned = SetupSpec { azimuth_deg: Some(10.0), ..setup.spec };
    assert!(store.edit_setup_without_runs(setup.id, &turned).unwrap());
    assert_eq!(store.setup(setup.id).unwrap().spec, turned);
    let nobody = SetupId(Uuid::from_u128(99));
    assert!(matches!(store.edit_setup_without_runs(nobody, &turned), Err(StoreError::NotFound("setup"))));
}

#[test]
fn archived_runs_are_left_out_of_the_evidence_and_come_back() {
    let (_directory, store) = open();
    store.import_bundle(&demo_bundle()).unwrap();
    let run = demo_bundle().runs.remove(0);
    let evidence = || store.evidence(run.setup_id, "A".into(), None).unwrap();
    let before = evidence();
    store.set_archived(Archivable::Run, &run.id.to_string(), Some(Utc::now())).unwrap();
    let without = evidence();
    assert_eq!(without.runs.len() + 1, before.runs.len());
    assert!(without.radio.iter().all(|(of, _)| *of != run.id));
    assert!(without.tests.iter().all(|test| test.run_id != run.id));
    store.set_archived(Archivable::Run, &run.id.to_string(), None).unwrap();
    assert_eq!(evidence(), before);
}

#[test]
fn the_newest_runs_can_be_asked_for_alone() {
    let (_directory, store) = open();
    store.import_bundle(&demo_bundle()).unwrap();
    let setup = demo_bundle().setups[0].id;
    let all = store.evidence(setup, "A".into(), None).unwrap();
    let newest = store.evidence(setup, "A".into(), Some(1)).unwrap();
    assert_eq!(newest.runs, all.runs[all.runs.len() - 1..]);
    assert!(newest.radio.iter().all(|(of, _)| *of == newest.runs[0].id) && newest.has_samples());
}

#[test]
fn counts_add_up() {
    let (_directory, store) = open();
    let bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    // With the visits of band rounds; points of sweeps say nothing of a setup as it stands.
    let mut bundle = store.bundle(bundle.site.id).unwrap();
    bundle.runs.retain(|run| !matches!(run.context, RunContext::SweepPoint { .. }));
    bundle.samples.retain(|sample| bundle.runs.iter().any(|run| run.id == sample.run_id));
    let counts = store.setup_counts(bundle.site.id).unwrap();
    assert_eq!(counts.values().map(|counts| counts.runs).sum::<usize>(), bundle.runs.len());
    assert_eq!(counts.values().map(|counts| counts.samples).sum::<usize>(), bundle.samples.len());
    assert_eq!(counts.values().map(|counts| counts.tests).sum::<usize>(), bundle.speed_tests.len());
}
