use crate::{demo_bundle, open};
use chrono::Utc;
use open_beacon_core::capacity::Estimate;
use open_beacon_core::model::{
    AttachmentId, BandName, Carrier, CarrierRole, Course, KeptPrediction, LatencySpread, Neighbour,
    PredictedFigure, PredictionId, RunContext, SetupId, SpeedCourse, SpeedCourseId, SpeedTestId, Technology,
    TrackedQuantity,
};
use open_beacon_store::StoreError;
use uuid::Uuid;

#[test]
fn a_site_comes_back_as_it_went_in() {
    let (_directory, store) = open();
    let mut bundle = demo_bundle();
    // Every optional field filled once.
    let carrier = &mut bundle.samples[0].reading.carriers[0];
    carrier.branch_rsrp_dbm = vec![-91.5, -92.25];
    carrier.cqi = Some(12);
    carrier.mcs = Some(20);
    carrier.rssi_dbm = Some(-61.1);
    carrier.cell_identity = Some((1 << 36) - 1);
    let mut blank = Carrier::empty(Technology::Nr, CarrierRole::Unknown);
    blank.band = Some(78);
    bundle.samples[0].reading.carriers.push(blank);
    bundle.samples[0].reading.neighbours = vec![Neighbour {
        technology: Technology::Lte,
        band: Some(3),
        channel: None,
        pci: Some(1),
        rsrp_dbm: Some(-101.0),
        rsrq_db: None,
    }];
    let plan = store.import_bundle(&bundle).unwrap();
    assert_eq!((plan.same, plan.conflicts.len()), (0, 0));
    let back = store.bundle(bundle.site.id).unwrap();
    assert_eq!(back.samples[0], bundle.samples[0]);
    // What the record lacked is there now: a sitting for every test, the visits of band rounds as runs. All else is as it
    // went in, and from now on what comes out goes in and comes out the same.
    assert!(back.speed_tests.iter().all(|test| test.sitting_id.is_some()));
    assert_eq!(
        (&back.site, &back.settings, &back.positions, &back.kits),
        (&bundle.site, &bundle.settings, &bundle.positions, &bundle.kits)
    );
    assert!(
        bundle.runs.iter().all(|run| back.runs.contains(run))
            && bundle.setups.iter().all(|setup| back.setups.contains(setup))
    );
    let (_other, again) = open();
    again.import_bundle(&back).unwrap();
    assert!(again.bundle(bundle.site.id).unwrap() == back, "a second time round something changed");
}

/// Every figure of a band round stands in the one record, under a setup with that lock, and the round still has it.
#[test]
fn visits_of_band_rounds_are_runs_of_setups_with_their_lock() {
    let (_directory, store) = open();
    let bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    let site = bundle.site.id;
    let trials = store.trials(site).unwrap();
    assert_eq!(trials.len(), bundle.trials.len());
    for (here, there) in trials.iter().zip(&bundle.trials) {
        assert_eq!((&here.samples, &here.tests, &here.choice), (&there.samples, &there.tests, &there.choice));
        let run = store.run(here.run_id.unwrap()).unwrap();
        assert_eq!(run.context, RunContext::BandVisit { round_id: here.round_id, trial_id: here.id });
        assert_eq!(store.setup(run.setup_id).unwrap().spec.lock, here.choice);
    }
    let measured = bundle.trials.iter().map(|trial| trial.tests.len()).sum::<usize>();
    let all = store.bundle(site).unwrap().speed_tests.len();
    assert_eq!(all, bundle.speed_tests.len() + measured);
    // Two rounds that tried the same lock at the same setup share its setup.
    let locked = store.setups(site).unwrap().iter().filter(|setup| !setup.spec.lock.is_free()).count();
    let mut choices: Vec<_> =
        bundle.trials.iter().map(|trial| trial.choice.clone()).filter(|one| !one.is_free()).collect();
    choices.sort();
    choices.dedup();
    assert_eq!(locked, choices.len());
}

/// Every reading of a sweep stands in the one record, under the setup that was turned, with where it pointed; leaving a point out
/// is told to its run, and figures of the setup as it stands have none of them.
#[test]
fn points_of_sweeps_are_runs_of_the_setup_that_was_turned() {
    let (_directory, store) = open();
    let bundle = demo_bundle();
    let turned: usize = bundle.sweep_stops.iter().map(|stop| stop.samples.len()).sum();
    assert!(turned > 20);
    store.import_bundle(&bundle).unwrap();
    let site = bundle.site.id;
    let sweep = store.bundle(site).unwrap().sweeps.remove(0);
    let setup = sweep.setup_id.unwrap();
    let stops = store.sweep_stops(site).unwrap();
    for (here, there) in stops.iter().zip(&bundle.sweep_stops) {
        assert_eq!(here.samples, there.samples);
        let run = store.run(here.run_id.unwrap()).unwrap();
        assert_eq!(run.setup_id, setup);
        let RunContext::SweepPoint { sweep_id, stop_id, angle_deg, .. } = run.context else {
            panic!("{run:?}");
        };
        assert_eq!((sweep_id, stop_id, angle_deg), (sweep.id, there.id, there.angle_deg));
    }
    assert_eq!(
        store
            .bundle(site)
            .unwrap()
            .samples
            .iter()
            .filter(|sample| { stops.iter().any(|stop| stop.run_id == Some(sample.run_id)) })
            .count(),
        turned
    );
    let as_it_stands = store.evidence(setup, String::new(), None).unwrap();
    assert!(as_it_stands.runs.iter().all(|run| !matches!(run.context, RunContext::SweepPoint { .. })));
    assert!(as_it_stands.has_samples());
    assert_eq!(store.setup_counts(site).unwrap()[&setup].runs, as_it_stands.runs.len());
    let points = store.sweep_points(setup).unwrap();
    assert_eq!(points.iter().map(|point| point.whole_radio().samples()).sum::<usize>(), turned);

    let mut left_out = stops[0].clone();
    left_out.archived_at = Some(Utc::now());
    store.put_sweep_stop(&left_out).unwrap();
    assert_eq!(store.sweep_points(setup).unwrap().len(), points.len() - 1);
    assert_eq!(store.sweep_stops(site).unwrap()[0].samples, stops[0].samples, "nothing is lost");
    left_out.archived_at = None;
    store.put_sweep_stop(&left_out).unwrap();
    assert_eq!(store.sweep_points(setup).unwrap().len(), points.len());
    let archived = open_beacon_core::model::Sweep { archived_at: Some(Utc::now()), ..sweep };
    store.put_entities(site, std::slice::from_ref(&archived)).unwrap();
    assert_eq!(store.sweep_points(setup).unwrap(), [], "an archived sweep tells nothing");
}

/// A sweep at a position where no setup stands keeps its points until it has one.
#[test]
fn a_sweep_gets_its_setup_when_one_is_made() {
    let (_directory, store) = open();
    let mut bundle = demo_bundle();
    let position = bundle.positions[0].id;
    let (stop, site) = (bundle.sweep_stops[0].clone(), bundle.site.id);
    let sweep = open_beacon_core::model::Sweep { position_id: position, ..bundle.sweeps[0].clone() };
    bundle.sweeps.clear();
    bundle.sweep_stops.clear();
    store.import_bundle(&bundle).unwrap();
    store.put_entities(site, std::slice::from_ref(&sweep)).unwrap();
    store.put_sweep_stop(&stop).unwrap();
    assert_eq!(store.sweep_stops(site).unwrap(), std::slice::from_ref(&stop));
    let setup = bundle.setups[0].id;
    store.give_sweep_its_setup(site, sweep.id, setup).unwrap();
    let here = store.sweep_stops(site).unwrap().remove(0);
    assert_eq!((&here.samples, store.run(here.run_id.unwrap()).unwrap().setup_id), (&stop.samples, setup));
    // Once known it stays.
    store.give_sweep_its_setup(site, sweep.id, bundle.setups[1].id).unwrap();
    assert_eq!(store.bundle(site).unwrap().sweeps[0].setup_id, Some(setup));
}

#[test]
fn importing_twice_changes_nothing() {
    let (_directory, store) = open();
    let first = store.import_bundle(&demo_bundle()).unwrap();
    let second = store.import_bundle(&demo_bundle()).unwrap();
    assert_eq!((second.new, second.same), (0, first.new));
}

/// What was foretold stays as it was: it can be made anew only until something is measured, and goes out and in with the site.
#[test]
fn a_prediction_is_kept_until_it_is_put_to_the_test() {
    let (_directory, store) = open();
    let mut bundle = demo_bundle();
    let mut untried = bundle.setups[0].clone();
    untried.id = SetupId(Uuid::from_u128(77));
    let measured =
        bundle.runs.iter().find(|run| bundle.samples.iter().any(|one| one.run_id == run.id)).unwrap();
    let measured = measured.setup_id;
    bundle.setups.push(untried.clone());
    store.import_bundle(&bundle).unwrap();
    let site = bundle.site.id;
    let mut foretold = KeptPrediction {
        id: PredictionId(untried.id.0),
        site_id: site,
        setup_id: untried.id,
        made_at: Utc::now(),
        program: "0.0.1".into(),
        setups: vec![],
        masts: vec![],
        figures: vec![PredictedFigure {
            quantity: TrackedQuantity::Rsrp,
            band: Some(BandName { technology: Technology::Lte, band: 20 }),
            channel: Some(6300),
            range: Estimate { low: -101.5, likely: -96.0, high: -90.25 },
        }],
    };
    assert!(!store.is_measured(untried.id).unwrap() && store.is_measured(measured).unwrap());
    assert!(store.keep_prediction(&foretold).unwrap());
    foretold.figures[0].range.likely = -95.0;
    assert!(store.keep_prediction(&foretold).unwrap(), "nothing was measured yet");
    assert_eq!(store.entities::<KeptPrediction>(site).unwrap(), [foretold.clone()]);
    let after = KeptPrediction { id: PredictionId(measured.0), setup_id: measured, ..foretold.clone() };
    assert!(!store.keep_prediction(&after).unwrap(), "what is known already is not foretold");
    let whole = store.bundle(site).unwrap();
    assert_eq!(whole.predictions, [foretold.clone()]);
    let (_other, again) = open();
    again.import_bundle(&whole).unwrap();
    assert_eq!(again.bundle(site).unwrap().predictions, [foretold]);
    let mut changed = whole;
    changed.predictions[0].figures.clear();
    let plan = again.plan_import(&changed).unwrap();
    assert_eq!(plan.conflicts.iter().map(|one| one.kind).collect::<Vec<_>>(), ["prediction"]);
}

/// How a test went is kept with it or not at all, read with its run, and goes out and in with the site.
#[test]
fn the_course_of_a_test_is_kept_with_it() {
    let (_directory, store) = open();
    let bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    let site = bundle.site.id;
    let mut test = bundle.speed_tests[0].clone();
    test.id = SpeedTestId(Uuid::from_u128(74));
    let spread = LatencySpread { probes: 12, median_ms: 31.5, p95_ms: 90.25, jitter_ms: 4.0 };
    let course = Course {
        step_ms: 100,
        warm_up_ms: 2000,
        down_mbps: vec![1.5, 80.25],
        while_down: Some(spread),
        ..Course::default()
    };
    store.add_speed_test(&test, Some(course.clone())).unwrap();
    let kept =
        SpeedCourse { id: SpeedCourseId(test.id.0), site_id: site, test_id: test.id, course: course.clone() };
    assert_eq!(store.speed_courses_of_run(test.run_id).unwrap(), std::slice::from_ref(&kept));
    assert!(store.add_speed_test(&test, Some(course)).is_err(), "it is there");
    let whole = store.bundle(site).unwrap();
    assert_eq!(whole.speed_courses, std::slice::from_ref(&kept));
    let (_other, again) = open();
    again.import_bundle(&whole).unwrap();
    assert_eq!(again.bundle(site).unwrap().speed_courses, [kept]);
    let plan = again.plan_import(&whole).unwrap();
    assert!(plan.conflicts.is_empty() && plan.new == 0, "{plan:?}");
    let mut changed = whole;
    changed.speed_courses[0].course.down_mbps.clear();
    let plan = again.plan_import(&changed).unwrap();
    assert_eq!(plan.conflicts.iter().map(|one| one.kind).collect::<Vec<_>>(), ["speed_course"]);
}

#[test]
fn a_row_that_stands_for_something_else_refuses_the_whole() {
    let (_directory, store) = open();
    store.import_bundle(&demo_bundle()).unwrap();
    let mut changed = demo_bundle();
    changed.speed_tests[0].figures.download_mbps = Some(1.0);
    let mut extra = changed.positions[0].clone();
    extra.id = open_beacon_core::model::PositionId(Uuid::from_u128(3));
    changed.positions.push(extra);
    let plan = store.plan_import(&changed).unwrap();
    assert_eq!((plan.new, plan.conflicts.len()), (1, 1));
    assert!(matches!(store.import_bundle(&changed), Err(StoreError::Refused(_))));
    assert_eq!(
        store.positions(demo_bundle().site.id).unwrap().len(),
        demo_bundle().positions.len(),
        "all or nothing"
    );
}

#[test]
fn a_broken_reference_leaves_nothing_behind() {
    let (_directory, store) = open();
    let mut bundle = demo_bundle();
    bundle.runs[0].setup_id = open_beacon_core::model::SetupId(Uuid::from_u128(404));
    assert!(store.import_bundle(&bundle).is_err());
    assert!(store.sites().unwrap().is_empty());
}

#[test]
fn pictures_are_kept_with_their_digest() {
    let (_directory, store) = open();
    store.import_bundle(&demo_bundle()).unwrap();
    let run = demo_bundle().runs[0].id;
    let id = AttachmentId(Uuid::from_u128(8));
    let add = |content: &[u8]| {
        store.add_attachment(id, run, "screen.png", "image/png", content.to_vec(), Utc::now())
    };
    let kept = add(b"abc").unwrap();
    // FIPS 180-2, appendix B.1: the digest of "abc".
    assert_eq!(kept.sha256, "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
    add(b"abc").unwrap();
    assert!(matches!(add(b"other"), Err(StoreError::IdTaken)));
    assert_eq!(store.attachments_of_run(run).unwrap().len(), 1);
    assert_eq!(store.attachment(id).unwrap().content.read().unwrap().as_ref(), b"abc");
    assert_eq!(store.bundle(demo_bundle().site.id).unwrap().attachments.len(), 1);
}
