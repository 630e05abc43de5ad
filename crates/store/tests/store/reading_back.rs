//! What is read back: pages, limits, what is left out, what refuses.

use crate::{demo_bundle, open, site};
use chrono::{Duration, Utc};
use open_beacon_core::model::*;
use open_beacon_store::{Archivable, Store, StoreError};
use uuid::Uuid;

pub fn told() -> (tempfile::TempDir, Store, SiteBundle) {
    let (directory, store) = open();
    let bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    (directory, store, bundle)
}

#[test]
fn runs_come_in_pages_the_newest_first() {
    let (_directory, store, bundle) = told();
    let setup = bundle.runs[0].setup_id;
    let all = store.runs_of_setup(setup, None, 200).unwrap();
    assert!(all.len() >= 3 && all.windows(2).all(|pair| pair[0].started_at > pair[1].started_at));
    let first = store.runs_of_setup(setup, None, 2).unwrap();
    let rest = store.runs_of_setup(setup, Some(first[1].started_at), 200).unwrap();
    assert_eq!([first, rest].concat(), all);
}

#[test]
fn evidence_can_be_cut_to_the_newest_runs() {
    let (_directory, store, bundle) = told();
    let setup = bundle.runs[0].setup_id;
    let whole = store.evidence(setup, "sill".into(), None).unwrap();
    let newest = store.evidence(setup, "sill".into(), Some(1)).unwrap();
    assert_eq!(newest.runs.len(), 1);
    assert_eq!(newest.runs.last(), whole.runs.last());
    assert!(newest.radio.iter().all(|(of, _)| *of == newest.runs[0].id));
    assert!(newest.tests.iter().all(|test| test.run_id == newest.runs[0].id));
    let samples = store.newest_samples(setup, "", 2).unwrap();
    assert!(samples.windows(2).all(|pair| pair[0].taken_at <= pair[1].taken_at));
    assert!(
        samples
            .iter()
            .all(|sample| whole.runs[whole.runs.len() - 2..].iter().any(|run| run.id == sample.run_id))
    );
}

#[test]
fn an_archived_run_is_left_out_of_evidence_and_counts() {
    let (_directory, store, bundle) = told();
    let run = &bundle.runs[0];
    let before = store.setup_counts(bundle.site.id).unwrap()[&run.setup_id];
    store.set_archived(Archivable::Run, &run.id.to_string(), Some(Utc::now())).unwrap();
    let evidence = store.evidence(run.setup_id, String::new(), None).unwrap();
    assert!(evidence.runs.iter().all(|other| other.id != run.id));
    assert!(evidence.radio.iter().all(|(of, _)| *of != run.id));
    let after = store.setup_counts(bundle.site.id).unwrap()[&run.setup_id];
    assert_eq!((after.runs + 1, after.samples < before.samples), (before.runs, true));
    store.set_archived(Archivable::Run, &run.id.to_string(), None).unwrap();
    assert_eq!(store.setup_counts(bundle.site.id).unwrap()[&run.setup_id], before);
}

#[test]
fn a_run_with_everything_in_it_goes_in_whole_or_not_at_all() {
    let (_directory, store, bundle) = told();
    let old = &bundle.runs[0];
    let id = RunId(Uuid::from_u128(70));
    let run = Run { id, ..old.clone() };
    let mut sample = bundle.samples[0].clone();
    sample.run_id = id;
    // This sample's identifier is taken: nothing of the run may stay.
    assert!(store.create_whole_run(&run, &[sample.clone()], &[], &"body").is_err());
    assert!(matches!(store.run(id), Err(StoreError::NotFound("run"))));
    sample.id = SampleId(Uuid::from_u128(71));
    store.create_whole_run(&run, &[sample.clone()], &[], &"body").unwrap();
    assert_eq!(store.samples_of_run(id).unwrap(), [sample]);
}

#[test]
fn every_optional_field_of_a_carrier_comes_back() {
    let (_directory, store, bundle) = told();
    let mut sample = bundle.samples[0].clone();
    sample.id = SampleId(Uuid::from_u128(72));
    let carrier = &mut sample.reading.carriers[0];
    carrier.channel_kind = ChannelKind::Ssb;
    carrier.cell_identity = Some((1 << 36) - 1);
    carrier.branch_rsrp_dbm = vec![-90.25, -93.5];
    carrier.rank = Some(4);
    carrier.cqi = Some(15);
    carrier.mcs = Some(31);
    carrier.transmit_power_dbm = Some(-12.5);
    carrier.timing_advance = Some(1282);
    carrier.flags = [FlagKind::OutsideReportingRange, FlagKind::AsReported, FlagKind::Contradicted]
        .into_iter()
        .map(|kind| FieldFlag { metric: Metric::Rsrq, kind })
        .collect();
    sample.reading.neighbours = vec![Neighbour {
        technology: Technology::Nr,
        band: Some(78),
        channel: Some(636_666),
        pci: Some(1007),
        rsrp_dbm: Some(-110.0),
        rsrq_db: None,
    }];
    store.add_sample(&sample).unwrap();
    let back = store.samples_of_run(sample.run_id).unwrap();
    assert_eq!(back.iter().find(|other| other.id == sample.id), Some(&sample));
}

#[test]
fn what_belongs_to_nothing_is_refused() {
    let (_directory, store, bundle) = told();
    let mut sample = bundle.samples[0].clone();
    sample.id = SampleId(Uuid::from_u128(73));
    sample.run_id = RunId(Uuid::from_u128(999));
    assert!(store.add_sample(&sample).is_err(), "foreign keys hold");
    let mut test = bundle.speed_tests[0].clone();
    test.id = SpeedTestId(Uuid::from_u128(74));
    test.run_id = RunId(Uuid::from_u128(999));
    assert!(store.add_speed_test(&test, None).is_err());
    let nobody = RunId(Uuid::from_u128(999));
    let ended = store.end_run(nobody, Utc::now(), Completion::Complete, None, None);
    assert!(matches!(ended, Err(StoreError::NotFound("run"))));
    let changed = store.update_conditions(nobody, &Conditions::default());
    assert!(matches!(changed, Err(StoreError::NotFound("run"))));
    assert!(matches!(store.position(PositionId(Uuid::from_u128(9))), Err(StoreError::NotFound("position"))));
}

#[test]
fn settings_come_back_with_every_part() {
    let (_directory, store) = open();
    store.create_site(&site(1, "North farm"), &"body").unwrap();
    let of = site(1, "").id;
    let mut settings = SiteSettings {
        network: "North".into(),
        second_test_url: Some("http://127.0.0.1/second".into()),
        known_mast: Some(KnownMast { name: "Hill".into(), bearing_deg: 12.5, distance_m: Some(4700.0) }),
        ..SiteSettings::default()
    };
    settings.link.layers = 4;
    settings.outdoor.building = Some(Building::ThermallyEfficient);
    settings.outdoor.kinds.truncate(1);
    store.put_settings(of, &settings).unwrap();
    assert_eq!(store.settings(of).unwrap(), settings);
}

#[test]
fn a_run_that_ends_keeps_when_and_why() {
    let (_directory, store, bundle) = told();
    let id = RunId(Uuid::from_u128(75));
    let run = Run { id, completion: Completion::Running, ended_at: None, ..bundle.runs[0].clone() };
    store.create_run(&run, &"body").unwrap();
    let at = run.started_at + Duration::seconds(40);
    store.end_run(id, at, Completion::Partial, Some("It was cancelled."), Some(3.0)).unwrap();
    let back = store.run(id).unwrap();
    assert_eq!(
        (back.ended_at, back.completion, back.refresh_period_s),
        (Some(at), Completion::Partial, Some(3.0))
    );
    assert_eq!(back.reason.as_deref(), Some("It was cancelled."));
}
