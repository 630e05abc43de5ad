//! A data folder of the first version is opened by this one.

use crate::{demo_bundle, open, site};
use open_beacon_core::model::{AimCriterion, Instrument, SiteId, Spot};
use open_beacon_store::Store;
use rusqlite::Connection;
use std::path::Path;

const FIRST: &str = include_str!("../../src/migrations/0001_first_light.sql");

/// A database as the first version left it: one site, one position, one setup, one run.
fn first_version(directory: &Path) {
    let raw = Connection::open(directory.join("open-beacon.sqlite")).unwrap();
    raw.execute_batch(FIRST).unwrap();
    raw.execute_batch(
        "INSERT INTO site (id, name, time_zone, notes, created_at, settings)
           VALUES ('00000000-0000-0000-0000-000000000001', 'North farm', 'Europe/Oslo', '', 0, '{}');
         INSERT INTO position (id, site_id, name, mount, notes, created_at)
           VALUES ('00000000-0000-0000-0000-000000000002', '00000000-0000-0000-0000-000000000001', 'Sill', 'indoor', 'n', 1);
         INSERT INTO setup (id, position_id, name, antenna, gateway_place, ports, kit_note, lock_note, created_at)
           VALUES ('00000000-0000-0000-0000-000000000003', '00000000-0000-0000-0000-000000000002', '', 'internal', '', '[]', '', '', 2);
         INSERT INTO run (id, setup_id, source, started_at, completion, planned_samples, planned_speed_tests, attach, weather, notes)
           VALUES ('00000000-0000-0000-0000-000000000004', '00000000-0000-0000-0000-000000000003', 'typed', 3, 'complete', 1, 0, 'not_recorded', 'dry', 'kept');",
    )
    .unwrap();
    raw.pragma_update(None, "user_version", 1).unwrap();
}

#[test]
fn what_the_first_version_kept_is_there_with_plain_defaults() {
    let directory = tempfile::tempdir().unwrap();
    first_version(directory.path());
    let store = Store::open(directory.path()).unwrap();
    let of = site(1, "").id;
    let position = store.positions(of).unwrap().remove(0);
    assert_eq!((position.name.as_str(), position.spot), ("Sill", Spot::default()));
    let setup = store.setups(of).unwrap().remove(0);
    let run = store.runs_of_setup(setup.id, None, 10).unwrap().remove(0);
    assert_eq!(run.conditions.instrument, Instrument::Gateway);
    assert_eq!((run.conditions.network.as_str(), run.conditions.notes.as_str()), ("", "kept"));
    assert_eq!(store.settings(of).unwrap().outdoor, open_beacon_core::model::OutdoorAssumptions::default());
}

#[test]
fn the_database_is_copied_before_it_is_changed() {
    let directory = tempfile::tempdir().unwrap();
    first_version(directory.path());
    drop(Store::open(directory.path()).unwrap());
    let copies: Vec<_> = std::fs::read_dir(directory.path())
        .unwrap()
        .map(|entry| entry.unwrap().path())
        .filter(|path| path.to_string_lossy().contains("before-migration-from-1"))
        .collect();
    let [copy] = copies.as_slice() else { panic!("{copies:?}") };
    let raw = Connection::open(copy).unwrap();
    let version: i64 = raw.pragma_query_value(None, "user_version", |row| row.get(0)).unwrap();
    assert_eq!(version, 1);
    let names: String = raw.query_row("SELECT name FROM site", [], |row| row.get(0)).unwrap();
    assert_eq!(names, "North farm");
    // Opened once more, nothing is pending and nothing is copied.
    let before = std::fs::read_dir(directory.path()).unwrap().count();
    drop(Store::open(directory.path()).unwrap());
    assert_eq!(std::fs::read_dir(directory.path()).unwrap().count(), before);
}

#[test]
fn spots_and_conditions_are_kept_and_changed() {
    let (_directory, store) = open();
    let bundle = demo_bundle();
    store.import_bundle(&bundle).unwrap();
    let mut position = bundle.positions[0].clone();
    position.spot = Spot {
        floor: "Cellar".into(),
        room: "workshop".into(),
        facing_deg: Some(12.5),
        window: "the grating".into(),
    };
    store.update_position(&position).unwrap();
    assert_eq!(store.position(position.id).unwrap(), position);
    let run = &bundle.runs[0];
    let mut conditions = run.conditions.clone();
    conditions.instrument = Instrument::Phone;
    conditions.network = "Tredje".into();
    store.update_conditions(run.id, &conditions).unwrap();
    assert_eq!(store.run(run.id).unwrap().conditions, conditions);
}

/// As the second version left it: the Kit stage's tables are not there yet.
#[test]
fn a_folder_of_the_second_version_gets_its_kits_table_and_keeps_the_rest() {
    let directory = tempfile::tempdir().unwrap();
    first_version(directory.path());
    let raw = Connection::open(directory.path().join("open-beacon.sqlite")).unwrap();
    raw.execute_batch(include_str!("../../src/migrations/0002_baseline.sql")).unwrap();
    raw.execute("UPDATE run SET network = 'Huldermobil', instrument = 'phone'", []).unwrap();
    raw.pragma_update(None, "user_version", 2).unwrap();
    drop(raw);
    let store = Store::open(directory.path()).unwrap();
    let of = site(1, "").id;
    assert!(store.kits(of).unwrap().is_empty() && store.own_parts().unwrap().is_empty());
    let setup = store.setups(of).unwrap().remove(0);
    let run = store.runs_of_setup(setup.id, None, 10).unwrap().remove(0);
    assert_eq!(
        (run.conditions.network.as_str(), run.conditions.instrument),
        ("Huldermobil", Instrument::Phone)
    );
    assert_eq!(store.settings(of).unwrap().kit, open_beacon_core::model::KitSettings::default());
    store.import_bundle(&demo_bundle()).unwrap();
    assert_eq!(store.kits(demo_bundle().site.id).unwrap().len(), demo_bundle().kits.len());
}

/// A data folder of the last version before sittings: tests within half an hour become one, notes that held a kit or a lock
/// stay notes, and a band round's figures move into the record without loss.
#[test]
fn what_the_eighth_version_kept_gets_sittings_and_keeps_its_notes() {
    let directory = tempfile::tempdir().unwrap();
    let raw = Connection::open(directory.path().join("open-beacon.sqlite")).unwrap();
    for step in EIGHT {
        raw.execute_batch(step).unwrap();
    }
    raw.execute_batch(
        "INSERT INTO site (id, name, time_zone, notes, created_at, settings)
           VALUES ('00000000-0000-0000-0000-000000000001', 'North farm', 'Europe/Oslo', '', 0, '{}');
         INSERT INTO position (id, site_id, name, mount, notes, created_at)
           VALUES ('00000000-0000-0000-0000-000000000002', '00000000-0000-0000-0000-000000000001', 'Gable', 'gable', '', 1);
         INSERT INTO setup (id, position_id, name, antenna, azimuth_deg, gateway_place, ports, kit_note, lock_note, created_at)
           VALUES ('00000000-0000-0000-0000-000000000003', '00000000-0000-0000-0000-000000000002', '', 'external', 143, '', '[]', 'Panel, 8 m thin', 'n78 only', 2);
         INSERT INTO run (id, setup_id, source, started_at, completion, planned_samples, planned_speed_tests, attach, weather, notes)
           VALUES ('00000000-0000-0000-0000-000000000004', '00000000-0000-0000-0000-000000000003', 'typed', 3, 'complete', 0, 3, 'not_recorded', '', '');",
    )
    .unwrap();
    for (n, minutes) in [(1, 0), (2, 20), (3, 600)] {
        raw.execute(
            "INSERT INTO speed_test (id, run_id, started_at, source, completion, server, download_mbps, bytes_down, bytes_up)
             VALUES (?1, '00000000-0000-0000-0000-000000000004', ?2, 'typed', 'complete', '', 100, 0, 0)",
            (format!("00000000-0000-0000-0000-0000000001{n:02}"), minutes * 60_000),
        )
        .unwrap();
    }
    let demo = demo_bundle();
    let (mut round, trial) = (demo.band_rounds[0].clone(), demo.trials[0].clone());
    let site = SiteId("00000000-0000-0000-0000-000000000001".parse().unwrap());
    (round.site_id, round.setup_id) = (site, Some("00000000-0000-0000-0000-000000000003".parse().unwrap()));
    let mut old = serde_json::to_value(&trial).unwrap();
    old["site_id"] = serde_json::json!(site);
    old.as_object_mut().unwrap().remove("run_id");
    raw.execute(
        "INSERT INTO band_round (id, site_id, body) VALUES (?1, ?2, ?3)",
        (round.id.to_string(), site.to_string(), serde_json::to_string(&round).unwrap()),
    )
    .unwrap();
    raw.execute(
        "INSERT INTO trial (id, site_id, body) VALUES (?1, ?2, ?3)",
        (trial.id.to_string(), site.to_string(), old.to_string()),
    )
    .unwrap();
    let (sweep, stop) = (&demo.sweeps[0], &demo.sweep_stops[0]);
    for (table, id, body) in [
        ("sweep", sweep.id.to_string(), serde_json::to_value(sweep).unwrap()),
        ("sweep_stop", stop.id.to_string(), serde_json::to_value(stop).unwrap()),
    ] {
        let mut body = body;
        body["site_id"] = serde_json::json!(site);
        if table == "sweep" {
            body["position_id"] = serde_json::json!("00000000-0000-0000-0000-000000000002");
        }
        body.as_object_mut().unwrap().retain(|name, _| name != "setup_id" && name != "run_id");
        let sql = format!("INSERT INTO {table} (id, site_id, body) VALUES (?1, ?2, ?3)");
        raw.execute(&sql, (id, site.to_string(), body.to_string())).unwrap();
    }
    raw.pragma_update(None, "user_version", 8).unwrap();
    drop(raw);
    let store = Store::open(directory.path()).unwrap();
    let setup = store.setups(site).unwrap().remove(0);
    assert_eq!(
        (setup.spec.kit_note.as_str(), setup.spec.lock_note.as_str()),
        ("Panel, 8 m thin", "n78 only")
    );
    assert!(setup.spec.lock.is_free() && setup.spec.kit_id.is_none());
    let tests = store.evidence(setup.id, String::new(), None).unwrap().tests;
    let typed: Vec<_> = tests.iter().filter(|test| test.figures.download_mbps == Some(100.0)).collect();
    assert_eq!(typed.len(), 3);
    assert_eq!(typed[0].sitting_id, typed[1].sitting_id);
    assert!(typed[0].sitting_id.is_some() && typed[0].sitting_id != typed[2].sitting_id);
    let visit = store.trials(site).unwrap().remove(0);
    assert_eq!((visit.tests, visit.samples), (trial.tests, trial.samples));
    // The point is a run of the setup that stands there now, and says nothing of it as it stands.
    let point = store.sweep_stops(site).unwrap().remove(0);
    assert_eq!((&point.samples, point.angle_deg), (&stop.samples, stop.angle_deg));
    assert_eq!(store.run(point.run_id.unwrap()).unwrap().setup_id, setup.id);
    assert!(store.runs_of_setup(setup.id, None, 9).unwrap().iter().all(|run| Some(run.id) != point.run_id));
}

const EIGHT: [&str; 8] = [
    FIRST,
    include_str!("../../src/migrations/0002_baseline.sql"),
    include_str!("../../src/migrations/0003_kit.sql"),
    include_str!("../../src/migrations/0004_survey.sql"),
    include_str!("../../src/migrations/0005_backdrop.sql"),
    include_str!("../../src/migrations/0006_sweep.sql"),
    include_str!("../../src/migrations/0007_roof.sql"),
    include_str!("../../src/migrations/0008_bands.sql"),
];

/// What was aimed for by its earlier name, and the version of its section, go on under the new one.
#[test]
fn what_is_aimed_for_keeps_its_value_and_its_version() {
    let (directory, store) = open();
    let site = site(1, "North farm");
    store.create_site(&site, &"").unwrap();
    let site = site.id;
    let settings =
        store.update_settings(site, |settings| settings.aim_criterion = AimCriterion::Signal).unwrap();
    assert_eq!(settings.aim_criterion, AimCriterion::Signal);
    drop(store);
    let versions = |store: &Store| store.settings_versions(site).unwrap().get("aim_criterion").copied();
    let before = versions(&Store::open(directory.path()).unwrap());
    assert!(before.is_some());
    let raw = Connection::open(directory.path().join("open-beacon.sqlite")).unwrap();
    for column in ["settings", "settings_versions"] {
        let change = format!("UPDATE site SET {column} = replace({column}, 'aim_criterion', 'school')");
        assert_eq!(raw.execute(&change, []).unwrap(), 1);
    }
    raw.execute_batch(
        "DROP TRIGGER sample_ends_digest; DROP TABLE run_digest; DROP INDEX speed_test_counts; DROP INDEX run_over;
         DROP TABLE prediction; DROP TABLE speed_course; ALTER TABLE speed_test DROP COLUMN surroundings;
         DROP TABLE event; ALTER TABLE sitting DROP COLUMN name; ALTER TABLE sitting DROP COLUMN by_hand;
         ALTER TABLE sitting DROP COLUMN closed_at; DROP INDEX run_by_time; DROP TABLE amendment; DROP TABLE as_built;
         ALTER TABLE speed_test DROP COLUMN average_of;",
    )
    .unwrap();
    raw.pragma_update(None, "user_version", 11).unwrap();
    drop(raw);
    let store = Store::open(directory.path()).unwrap();
    assert_eq!(store.settings(site).unwrap().aim_criterion, AimCriterion::Signal);
    assert_eq!(versions(&store), before);
}
