//! Sweeps against the stand-in, over HTTP.

use crate::recording::{fault, measured_site, measured_site_on};
use crate::{Server, id, server};
use axum::http::StatusCode;
use serde_json::{Value, json};
use std::time::{Duration, Instant};

async fn position(server: &Server, site: &str) -> Value {
    server.get(&format!("/api/sites/{site}")).await["positions"][0]["position"]["id"].clone()
}

async fn begin(server: &Server, site: &str, number: u128, expected: Value) -> (StatusCode, Value) {
    let body =
        json!({"id": id(number), "position_id": position(server, site).await, "expected_deg": expected});
    server.send("POST", &format!("/api/sites/{site}/sweeps"), Some(body)).await
}

async fn settled(server: &Server, path: &str) -> Value {
    let began = Instant::now();
    loop {
        let view = server.get(path).await;
        if view["measuring"]["running"] == false {
            return view;
        }
        assert!(began.elapsed() < Duration::from_secs(60), "{view}");
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_stop_is_measured_in_the_server_once_and_kept() {
    let server = server();
    let (site, _, control) = measured_site(&server).await;
    let (status, sweep) = begin(&server, &site, 600, json!(143.0)).await;
    assert_eq!((status, &sweep["beamwidth_deg"]), (StatusCode::CREATED, &json!(60.0)), "{sweep}");
    let path = format!("/api/sites/{site}/sweeps/{}", id(600));
    let view = server.get(&path).await;
    assert_eq!((&view["ask"]["ask"], &view["ask"]["angle_deg"]), (&json!("planned"), &json!(85.0)));
    assert_eq!(view["turn_deg"], Value::Null, "no point yet to turn from");
    assert_eq!(
        view["planned_turns_deg"].as_array().unwrap().len(),
        view["plan"]["stops"].as_array().unwrap().len()
    );

    let stops = format!("{path}/stops");
    let stop = |number: u128, angle: f64| json!({"id": id(number), "angle_deg": angle, "samples": 2});
    let (status, state) = server.send("POST", &stops, Some(stop(610, 145.0))).await;
    assert_eq!((status, &state["running"]), (StatusCode::ACCEPTED, &json!(true)));
    let (status, problem) = server.send("POST", &stops, Some(stop(611, 115.0))).await;
    assert_eq!(status, StatusCode::CONFLICT, "one antenna points at one bearing: {problem}");
    // Pressed twice: the same point, not another.
    assert_eq!(server.send("POST", &stops, Some(stop(610, 145.0))).await.0, StatusCode::ACCEPTED);
    let view = settled(&server, &path).await;
    assert_eq!(view["stops"].as_array().unwrap().len(), 1);
    assert_eq!(view["stops"][0]["samples"], 2, "independent ones");
    assert_eq!(
        view["turn_deg"].as_f64().unwrap(),
        view["ask"]["angle_deg"].as_f64().unwrap() - 145.0,
        "from where it points to what is asked"
    );
    let (_, again) = server.send("POST", &stops, Some(stop(610, 145.0))).await;
    assert_eq!(
        (&again["running"], &again["taken"]),
        (&json!(false), &json!(2)),
        "and again after it is done"
    );
    for (number, angle) in [(612, 115.0), (613, 175.0)] {
        server.send("POST", &stops, Some(stop(number, angle))).await;
        settled(&server, &path).await;
    }
    let view = server.get(&path).await;
    assert!(
        view["fit"]["strongest"]["angle_deg"].is_number()
            && view["fit"]["curve"].as_array().unwrap().len() == 72
    );
    // The cell that was heard at all three: which of two is aimed at would else be asked anew with every point.
    let chosen = json!({ "cell": view["fit"]["cell"] });
    assert_eq!(server.send("PUT", &format!("{path}/cell"), Some(chosen)).await.0, StatusCode::NO_CONTENT);

    // The same bearing again is a point of its own, with its own figures.
    server.send("POST", &stops, Some(stop(616, 115.0))).await;
    let twice = settled(&server, &path).await["stops"].clone();
    assert_eq!((&twice[1]["angle_deg"], &twice[3]["angle_deg"]), (&json!(115.0), &json!(115.0)));
    assert!(twice[1]["rsrp_dbm"].is_number() && twice[1]["id"] != twice[3]["id"]);
    assert_eq!((&twice[1]["samples"], &twice[3]["samples"]), (&json!(2), &json!(2)));
    let again = format!("{stops}/{}", id(616));
    server.send("PUT", &again, Some(json!({"left_out": true}))).await;
    let kept = server.get(&path).await["stops"].clone();
    assert_eq!((&kept[3]["rsrp_dbm"], &kept[1]["rsrp_dbm"]), (&Value::Null, &twice[1]["rsrp_dbm"]));

    // Left out, the fit does without it; nothing is lost.
    let own = format!("{stops}/{}", id(612));
    assert_eq!(server.send("PUT", &own, Some(json!({"left_out": true}))).await.0, StatusCode::NO_CONTENT);
    let view = server.get(&path).await;
    assert_eq!((&view["fit"], view["stops"].as_array().unwrap().len()), (&Value::Null, 4));

    // A gateway that shows a login page: said, and no half point is kept.
    fault(&control, "login_page").await;
    server.send("POST", &stops, Some(stop(614, 205.0))).await;
    tokio::time::sleep(Duration::from_millis(600)).await;
    assert_eq!(server.send("DELETE", &stops, None).await.0, StatusCode::NO_CONTENT);
    let view = settled(&server, &path).await;
    assert_eq!(view["measuring"]["problem"], "It was cancelled.");
    assert_eq!(view["stops"].as_array().unwrap().len(), 4);

    let (_, ended) = server.send("PUT", &path, Some(json!({"set_deg": 143.0}))).await;
    assert!(ended["ended_at"].is_string());
    let (status, problem) = server.send("POST", &stops, Some(stop(615, 145.0))).await;
    assert_eq!(status, StatusCode::CONFLICT, "{problem}");
    let list = server.get(&format!("/api/sites/{site}/sweeps")).await;
    assert_eq!((&list[0]["stops"], &list[0]["sweep"]["set_deg"]), (&json!(2), &json!(143.0)));

    // Its readings are in the one record, as points of the setup that was set; its log has none of them.
    let export = server.get(&format!("/api/sites/{site}/export.json")).await;
    let points: Vec<&Value> = export["runs"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|run| run["context"]["kind"] == "sweep_point")
        .collect();
    assert_eq!(points.len(), 4);
    assert_eq!(points[0]["context"]["angle_deg"], 145.0);
    assert!(points.iter().all(|run| run["setup_id"] == export["sweeps"][0]["setup_id"]));
    let setup = points[0]["setup_id"].as_str().unwrap();
    assert_eq!(server.get(&format!("/api/setups/{setup}/runs")).await, json!([]));
}

/// Each turn of a port-map test gets a speed test of its own where that was asked for; it is in the point's run, leaves with the
/// export, and decides between the maps. A test that fails leaves the point as it is.
#[tokio::test(flavor = "multi_thread")]
async fn a_port_map_test_takes_a_speed_test_at_each_turn() {
    let server = server();
    // A day on which one mast serves throughout: a port map is judged on one.
    let day = chrono::DateTime::from_timestamp_nanos(1_790_000_000_000_000_000);
    let (site, _, control) = measured_site_on(&server, day).await;
    let sweeps = format!("/api/sites/{site}/sweeps");
    let place = position(&server, &site).await;
    let begin = async |axis: &str| {
        let body = json!({"id": id(640), "position_id": place, "axis": axis, "speed_tests": true});
        server.send("POST", &sweeps, Some(body)).await
    };
    let (status, problem) = begin("azimuth").await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/speed_tests"))
    );
    let (status, sweep) = begin("ports").await;
    assert_eq!((status, &sweep["speed_tests"]), (StatusCode::CREATED, &json!(true)), "{sweep}");
    let path = format!("{sweeps}/{}", id(640));
    let stops = format!("{path}/stops");
    for (number, map) in [(641, 0.0), (642, 1.0), (643, 1.0), (644, 0.0)] {
        let stop = json!({"id": id(number), "angle_deg": map, "samples": 2});
        assert_eq!(server.send("POST", &stops, Some(stop)).await.0, StatusCode::ACCEPTED);
        let view = settled(&server, &path).await;
        assert_eq!(
            (&view["measuring"]["problem"], &view["measuring"]["testing"]),
            (&Value::Null, &json!(false))
        );
    }
    let view = server.get(&path).await;
    // Where the stand-in shows layers, they decide, and the downloads are told beside them.
    assert!(["layers", "download"].iter().any(|by| view["ports"]["by"] == *by), "{}", view["ports"]);
    assert_eq!(view["ports"]["pairs"], 2);
    let export = server.get(&format!("/api/sites/{site}/export.json")).await;
    let tests = export["speed_tests"].as_array().unwrap();
    let runs: Vec<&Value> =
        export["sweep_stops"].as_array().unwrap().iter().map(|stop| &stop["run_id"]).collect();
    assert_eq!(tests.len(), 4);
    assert!(tests.iter().all(|test| runs.contains(&&test["run_id"])), "{tests:?}");
    assert_eq!(export["samples"].as_array().unwrap().len(), 8, "what loads the line is no part of the point");

    fault(&control, "no_upload").await;
    let stop = json!({"id": id(645), "angle_deg": 0.0, "samples": 2});
    server.send("POST", &stops, Some(stop)).await;
    let view = settled(&server, &path).await;
    let problem = view["measuring"]["problem"].as_str().unwrap_or_default();
    assert!(problem.starts_with("The point is kept; its speed test is not whole."), "{problem}");
    assert_eq!(view["stops"].as_array().unwrap().len(), 5);
    assert_eq!(view["ports"]["pairs"], 2);
}

/// A gateway that this program cannot read: bearing by bearing, what its page shows is typed, and the sweep is fitted as any other.
#[tokio::test]
async fn a_sweep_is_typed_bearing_by_bearing() {
    let server = server();
    let (site, _, _) = server.site().await;
    begin(&server, &site, 630, json!(150.0)).await;
    let path = format!("/api/sites/{site}/sweeps/{}", id(630));
    let typed = |number: u128, angle: f64, rsrp_dbm: Value, sinr_db: Value| {
        json!({"id": id(number), "angle_deg": angle, "technology": "lte", "band": 3,
            "rsrp_dbm": rsrp_dbm, "sinr_db": sinr_db})
    };
    let at = format!("{path}/typed-stops");
    // A beam of 60° at 140°: 12·(off/60)² dB down (3GPP TR 36.814, table A.2.1.1-2).
    let bearings = [80.0, 110.0, 140.0, 170.0, 200.0];
    for (number, bearing) in (631..).zip(bearings) {
        let off: f64 = bearing - 140.0;
        let rsrp_dbm = (-95.0 - 12.0 * (off / 60.0).powi(2)).round();
        let body = typed(number, bearing, json!([rsrp_dbm, rsrp_dbm]), json!([9.0, 10.0]));
        let (status, state) = server.send("POST", &at, Some(body)).await;
        assert_eq!((status, &state["taken"]), (StatusCode::CREATED, &json!(2)), "{state}");
    }
    let view = server.get(&path).await;
    assert_eq!(view["stops"].as_array().map(Vec::len), Some(5));
    let best = view["fit"]["strongest"]["angle_deg"].as_f64().unwrap();
    assert!((best - 140.0).abs() < 6.0, "{best}");
    // The same press again is the same point.
    let again = typed(631, 80.0, json!([-90]), json!([]));
    assert_eq!(server.send("POST", &at, Some(again)).await.0, StatusCode::CREATED);
    assert_eq!(server.get(&path).await["stops"].as_array().map(Vec::len), Some(5));
    for (body, pointer) in [
        (typed(640, 80.0, json!([97]), json!([])), "/rsrp_dbm"),
        (typed(641, 80.0, json!([]), json!([])), "/rsrp_dbm"),
        (typed(642, 80.0, json!([-97, -98]), json!([8])), "/sinr_db"),
        (typed(643, 480.0, json!([-97]), json!([])), "/angle_deg"),
    ] {
        let (status, problem) = server.send("POST", &at, Some(body)).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        assert_eq!(problem["errors"][0]["pointer"], pointer);
    }
    let export = server.get(&format!("/api/sites/{site}/export.json")).await;
    assert!(export["sweep_stops"].as_array().unwrap().iter().all(|stop| stop["typed"] == true));
}

/// The gateway hops between two bands while the antenna turns: the page asks which one is meant, and follows.
#[tokio::test]
async fn which_cell_is_aimed_at_is_asked_and_chosen() {
    let server = server();
    let (site, _, _) = server.site().await;
    begin(&server, &site, 650, json!(150.0)).await;
    let path = format!("/api/sites/{site}/sweeps/{}", id(650));
    for (number, band) in (651..).zip([3, 3, 20, 3, 20, 3, 20, 3]) {
        let angle_deg = 80.0 + 10.0 * f64::from(number - 651);
        let typed = json!({"id": id(number as u128), "angle_deg": angle_deg, "technology": "lte", "band": band,
            "rsrp_dbm": [-97.0, -98.0], "sinr_db": []});
        let (status, told) = server.send("POST", &format!("{path}/typed-stops"), Some(typed)).await;
        assert_eq!(status, StatusCode::CREATED, "{told}");
    }
    let bands = |view: &Value| -> Vec<Value> {
        view["which_cell"].as_array().unwrap().iter().map(|one| one["cell"]["band"].clone()).collect()
    };
    let view = server.get(&path).await;
    assert_eq!(bands(&view), [3, 20]);
    assert_eq!(view["which_cell"][1]["bearings"], 3);
    let other = view["which_cell"][1]["cell"].clone();
    let choose = |cell: Value| json!({ "cell": cell });
    let at = format!("{path}/cell");
    assert_eq!(server.send("PUT", &at, Some(choose(other.clone()))).await.0, StatusCode::NO_CONTENT);
    let view = server.get(&path).await;
    assert_eq!((bands(&view), &view["sweep"]["cell"]), (vec![json!(20), json!(3)], &other));
    let heard = |stop: &&Value| !stop["rsrp_dbm"].is_null();
    assert_eq!(view["stops"].as_array().unwrap().iter().filter(heard).count(), 3, "its points are the curve");
    let mut unheard = other;
    unheard["band"] = json!(28);
    let (status, problem) = server.send("PUT", &at, Some(choose(unheard))).await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/cell"))
    );
    assert_eq!(server.send("PUT", &at, Some(choose(Value::Null))).await.0, StatusCode::NO_CONTENT);
    assert_eq!(bands(&server.get(&path).await), [3, 20]);
}

#[tokio::test]
async fn what_makes_no_sweep_is_refused_in_words() {
    let server = server();
    let (site, _, _) = measured_site(&server).await;
    let (status, problem) = begin(&server, &site, 620, json!(400.0)).await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/expected_deg"))
    );
    let body = json!({"id": id(621), "position_id": id(999)});
    let (status, _) = server.send("POST", &format!("/api/sites/{site}/sweeps"), Some(body)).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (_, sweep) = begin(&server, &site, 622, Value::Null).await;
    assert_eq!(sweep["expected_deg"], Value::Null, "no mast is known: all round");
    let view = server.get(&format!("/api/sites/{site}/sweeps/{}", id(622))).await;
    assert_eq!(view["plan"]["stops"].as_array().unwrap().len(), 9);
    let stops = format!("/api/sites/{site}/sweeps/{}/stops", id(622));
    let none = json!({"id": id(623), "angle_deg": 10.0, "samples": 0});
    assert_eq!(server.send("POST", &stops, Some(none)).await.0, StatusCode::UNPROCESSABLE_ENTITY);
    let (status, _) =
        server.send("PUT", &format!("{stops}/{}", id(9)), Some(json!({"left_out": true}))).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    // The same sweep twice is one sweep.
    begin(&server, &site, 622, Value::Null).await;
    assert_eq!(server.get(&format!("/api/sites/{site}/sweeps")).await.as_array().unwrap().len(), 1);
}
