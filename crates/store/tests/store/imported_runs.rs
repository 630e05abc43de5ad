//! Runs of a table: all or none, and found again.

use super::{demo_bundle, open};
use chrono::Duration;
use open_beacon_core::model::{Run, RunId, Sample, SetupId, SpeedTest, SpeedTestId};
use open_beacon_store::StoreError;
use uuid::Uuid;

fn whole(like: &(Run, SpeedTest), n: u128) -> (Run, Vec<Sample>, Vec<SpeedTest>) {
    let id = RunId(Uuid::from_u128(n));
    let test = SpeedTest {
        id: SpeedTestId(Uuid::from_u128(1000 + n)),
        run_id: id,
        sitting_id: None,
        ..like.1.clone()
    };
    (Run { id, ..like.0.clone() }, Vec::new(), vec![test])
}

#[test]
fn runs_come_in_together_or_not_at_all() {
    let (_directory, store) = open();
    let bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    let site = bundle.site.id;
    let test = bundle.speed_tests[0].clone();
    let run = bundle.runs.iter().find(|run| run.id == test.run_id).unwrap().clone();
    let around = (test.started_at - Duration::seconds(1), test.started_at + Duration::seconds(1));
    let like = (run, test);
    let here = store.tests_here(site, around).unwrap().len();

    let mut nowhere = whole(&like, 2);
    nowhere.0.setup_id = SetupId(Uuid::from_u128(404));
    assert!(store.add_runs(site, &[whole(&like, 1), nowhere]).is_err());
    assert!(
        matches!(store.run(RunId(Uuid::from_u128(1))), Err(StoreError::NotFound(_))),
        "nothing of it stayed"
    );
    let mut known = whole(&like, 3);
    known.0.id = like.0.id;
    assert!(matches!(store.add_runs(site, &[whole(&like, 1), known]), Err(StoreError::IdTaken)));
    assert_eq!(store.tests_here(site, around).unwrap().len(), here);

    store.add_runs(site, &[whole(&like, 1), whole(&like, 2)]).unwrap();
    let found = store.tests_here(site, around).unwrap();
    assert_eq!(found.len(), here + 2);
    assert!(
        found
            .iter()
            .any(|one| one.setup_id == like.0.setup_id && one.download_mbps == like.1.figures.download_mbps)
    );
    let ids = store.result_ids(site, around).unwrap();
    assert!(ids.contains(&Uuid::from_u128(1001)) && ids.contains(&like.1.id.0));
    let kept = store.speed_tests_of_run(RunId(Uuid::from_u128(1))).unwrap();
    assert!(kept[0].sitting_id.is_some(), "it is of the sitting of its hour");
    let elsewhere = open_beacon_core::model::SiteId(Uuid::from_u128(77));
    assert_eq!(store.result_ids(elsewhere, around).unwrap().len(), 0);
}
