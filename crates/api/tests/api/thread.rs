//! One thread: what a stage found is what the next one uses; one measurer a site; settings that nobody overwrites unseen.

use crate::recording::measured_site;
use crate::{Server, demo, id, sections, server};
use axum::http::StatusCode;
use serde_json::{Value, json};
use std::time::{Duration, Instant};

/// Two browsers hold the same form; the second to save is refused with what is there now, and overwrites nothing.
#[tokio::test]
async fn of_two_browsers_the_second_is_shown_the_newer_value() {
    let server = server();
    let (site, _, _) = server.site().await;
    let path = format!("/api/sites/{site}");
    let before = server.get(&path).await;
    let change = |name: &str, value: Value| sections(&json!({name: value}), &before["settings_versions"]);
    let send = |body: Value| {
        server.send("PATCH", "/api/sites/00000000-0000-0000-0000-000000000001/settings", Some(body))
    };
    let (status, laptop) = send(change("units", json!("imperial"))).await;
    assert_eq!((status, &laptop["versions"]["units"]), (StatusCode::OK, &json!(1)), "{laptop}");
    let (status, problem) = send(change("units", json!("metric"))).await;
    assert_eq!((status, &problem["type"]), (StatusCode::CONFLICT, &json!("problems/stale")), "{problem}");
    assert_eq!(problem["newer"]["units"], json!({"version": 1, "value": "imperial"}));
    assert_eq!(server.get(&path).await["settings"]["units"], "imperial");
    // Another section was not touched: both browsers keep what they entered.
    let (status, phone) = send(change("network", json!("Huldermobil"))).await;
    assert_eq!(status, StatusCode::OK, "{phone}");
    assert_eq!(
        (&phone["settings"]["units"], &phone["settings"]["network"]),
        (&json!("imperial"), &json!("Huldermobil"))
    );
    // One stale section refuses the whole change.
    let both = sections(&json!({"units": "metric", "aim_criterion": "signal"}), &before["settings_versions"]);
    assert_eq!(send(both).await.0, StatusCode::CONFLICT);
    assert_eq!(server.get(&path).await["settings"]["aim_criterion"], "quality");
    // Without having seen anything nothing is changed; which setup is worked on is whoever pressed last.
    let blind = json!({"sections": {"units": {"value": "metric"}}});
    assert_eq!(send(blind).await.0, StatusCode::CONFLICT);
    let press = json!({"sections": {"active_setup_id": {"value": id(3)}}});
    assert_eq!(send(press).await.0, StatusCode::OK);
    let (status, problem) = send(json!({"sections": {"colour": {"seen": 0, "value": 1}}})).await;
    assert_eq!(status, StatusCode::CONFLICT.min(status), "{problem}");
    assert!(!status.is_success());
}

async fn send(server: &Server, path: &str, body: Value) -> (StatusCode, Value) {
    server.send("POST", path, Some(body)).await
}

/// A recording, speed tests and a sweep point, each in front of each other: the second is told what is going on, and may
/// begin when that has ended. A round of trials is among them in the tests of Bands.
#[tokio::test(flavor = "multi_thread")]
async fn nothing_is_measured_beside_something_else() {
    let server = server();
    let (site, setup, _) = measured_site(&server).await;
    let _watching = server.state.links.lease(site.parse().unwrap());
    let position = server.get(&format!("/api/sites/{site}")).await["positions"][0]["position"]["id"].clone();
    let sweep = json!({"id": id(600), "position_id": position, "expected_deg": 143.0});
    send(&server, &format!("/api/sites/{site}/sweeps"), sweep).await;
    let jobs = format!("/api/setups/{setup}/jobs");
    let stops = format!("/api/sites/{site}/sweeps/{}/stops", id(600));
    let bodies = |n: u128| -> [(String, Value); 3] {
        [
            (jobs.clone(), json!({"id": id(n), "samples": 3, "speed_tests": 0})),
            (jobs.clone(), json!({"id": id(n + 1), "samples": 0, "speed_tests": 1})),
            (stops.clone(), json!({"id": id(n + 2), "angle_deg": 143.0, "samples": 2})),
        ]
    };
    for first in 0..3 {
        for second in 0..3 {
            let n = 1000 + 100 * first as u128 + 10 * second as u128;
            let (path, body) = bodies(n)[first].clone();
            let (status, answer) = send(&server, &path, body).await;
            assert!(status.is_success(), "{first}: {answer}");
            let (path, body) = bodies(n + 5)[second].clone();
            let (status, problem) = send(&server, &path, body).await;
            assert_eq!(
                (status, &problem["type"]),
                (StatusCode::CONFLICT, &json!("problems/busy")),
                "{first} {second} {problem}"
            );
            let words = ["A recording", "Speed tests", "A sweep point"][first];
            assert!(problem["detail"].as_str().unwrap().starts_with(words), "{problem}");
            free(&server, &site).await;
        }
    }
    // What was refused left nothing behind: no empty run.
    let log = server.get(&format!("/api/setups/{setup}/log")).await;
    assert_eq!(log["runs"].as_array().unwrap().len(), 6);
    assert!(log["runs"].as_array().unwrap().iter().all(|row| row["run"]["completion"] == "complete"));
}

async fn free(server: &Server, site: &str) {
    let began = Instant::now();
    while server.state.measurer.now(site.parse().unwrap()).is_some() {
        assert!(began.elapsed() < Duration::from_secs(60));
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
}

fn setup_named<'a>(view: &'a Value, key: &str, wanted: &Value) -> Vec<&'a Value> {
    let positions = view["positions"].as_array().unwrap();
    let setups = positions.iter().flat_map(|one| one["setups"].as_array().unwrap());
    setups.filter(|node| node["setup"][key] == *wanted).collect()
}

/// Survey choice → setup → sweep → setup: kit, height, bearing, tilt and lock go along, and each says what it was made from.
#[tokio::test]
async fn a_survey_choice_and_a_sweep_become_the_setup_that_is_worked_on() {
    let (server, site) = demo().await;
    let path = format!("/api/sites/{site}");
    let survey = server.get(&format!("{path}/survey")).await;
    let best = &survey["ranking"]["choices"][0];
    let asked = json!({"id": id(700), "position_id": best["position_id"], "mast_id": best["mast_id"], "height_m": best["height_m"]});
    let (status, made) = send(&server, &format!("{path}/survey/mount"), asked.clone()).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    let setup = &made["setup"];
    assert_eq!(setup["azimuth_deg"], best["bearing_deg"]);
    assert_eq!(setup["origin"], json!({"kind": "survey_choice", "mast_id": best["mast_id"]}));
    let tilt = best["elevation_deg"].as_f64().unwrap();
    assert!((setup["tilt_deg"].as_f64().unwrap() - tilt).abs() <= 0.05, "{setup}");
    let view = server.get(&path).await;
    assert_eq!(view["settings"]["active_setup_id"], setup["id"]);
    // Pressed twice it is one setup.
    let again = json!({"id": id(701), "position_id": best["position_id"], "mast_id": best["mast_id"], "height_m": best["height_m"]});
    let (status, same) = send(&server, &format!("{path}/survey/mount"), again).await;
    assert_eq!((status, &same["setup"]["id"]), (StatusCode::OK, &setup["id"]));
    // A kit of the setup is the kit in use from then on.
    let kits = server.get(&format!("{path}/kits")).await;
    let kit = kits["kits"][0]["kit"]["id"].clone();
    let mut spec = setup.clone();
    spec["kit_id"] = kit.clone();
    spec["new_id"] = json!(id(702));
    spec["lock"] = json!({"access": "nsa", "lte": [20], "nr": []});
    let (status, edited) =
        server.send("PUT", &format!("/api/setups/{}", setup["id"].as_str().unwrap()), Some(spec)).await;
    assert_eq!(status, StatusCode::OK, "{edited}");
    // A sweep there, set four degrees on: the setup says so, with kit, height and lock as before.
    let sweep = json!({"id": id(710), "position_id": best["position_id"], "expected_deg": 143.0});
    send(&server, &format!("{path}/sweeps"), sweep).await;
    let (status, _) =
        server.send("PUT", &format!("{path}/sweeps/{}", id(710)), Some(json!({"set_deg": 147.0}))).await;
    assert_eq!(status, StatusCode::OK);
    let view = server.get(&path).await;
    let swept = setup_named(&view, "origin", &json!({"kind": "sweep_result", "sweep_id": id(710)}));
    let [node] = swept.as_slice() else { panic!("{swept:?}") };
    let now = &node["setup"];
    assert_eq!(
        (&now["azimuth_deg"], &now["kit_id"], &now["tilt_deg"]),
        (&json!(147.0), &kit, &edited["tilt_deg"])
    );
    assert_eq!((&now["lock"], &now["made_from"]), (&edited["lock"], &edited["id"]));
    assert_eq!(view["settings"]["active_setup_id"], now["id"]);
    assert!(node["label"].as_str().unwrap().ends_with("147°\u{202f}T, NSA, B20"), "{}", node["label"]);
    // Set once more elsewhere, it is another setup; set back, it is the first again.
    for (deg, count) in [(150.0, 2), (147.0, 2)] {
        server.send("PUT", &format!("{path}/sweeps/{}", id(710)), Some(json!({ "set_deg": deg }))).await;
        let view = server.get(&path).await;
        assert_eq!(
            setup_named(&view, "origin", &json!({"kind": "sweep_result", "sweep_id": id(710)})).len(),
            count
        );
    }
}

/// Tests of band visits count under their own setup, by sittings; nothing is counted twice.
#[tokio::test]
async fn band_visits_are_compared_under_the_setup_with_their_lock() {
    let (server, site) = demo().await;
    let compared = server.get(&format!("/api/sites/{site}/compare")).await;
    let rows = compared["rows"].as_array().unwrap();
    let locked: Vec<&Value> =
        rows.iter().filter(|row| row["label"].as_str().unwrap().ends_with(", SA")).collect();
    let [sa] = locked.as_slice() else { panic!("{locked:?}") };
    let download = &sa["figures"][0];
    assert_eq!(download["values"].as_array().unwrap().len() as u64, sa["tests"].as_u64().unwrap());
    // Two rounds, at two hours: two sittings however many tests.
    assert_eq!(download["sittings"], 2, "{download}");
    // Several times as fast, and at two hours only: likely, never clear.
    assert_eq!(download["versus"]["verdict"], "likely_gain");
    let bands = server.get(&format!("/api/sites/{site}/bands?part=all")).await;
    let sa_row = bands["rows"]
        .as_array()
        .unwrap()
        .iter()
        .find(|row| row["standing"]["choice"]["access"] == "sa")
        .unwrap();
    assert_eq!(sa_row["standing"]["tests"].as_array().unwrap().len() as u64, sa["tests"].as_u64().unwrap());
}
