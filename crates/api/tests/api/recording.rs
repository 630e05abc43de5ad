//! Recordings and speed tests against the stand-in, over HTTP and real TCP.

use crate::{Server, id, server};
use axum::Router;
use axum::http::StatusCode;
use chrono::{DateTime, Utc};
use open_beacon_simulator::device::Device;
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::serve::{StandIn, control_router};
use serde_json::{Value, json};
use std::time::{Duration, Instant};

async fn serve(router: Router) -> String {
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = format!("http://{}", listener.local_addr().unwrap());
    tokio::spawn(async move { axum::serve(listener, router).await });
    address
}

/// A site set to a stand-in; answers site, setup and the stand-in's control address.
pub(crate) async fn measured_site(server: &Server) -> (String, String, String) {
    measured_site_on(server, Utc::now()).await
}

/// The same, the stand-in's clock being set: what it hears drifts with the time of day.
pub(crate) async fn measured_site_on(server: &Server, day: DateTime<Utc>) -> (String, String, String) {
    let stand_in = StandIn::since(day, Device::new(7), Duration::from_millis(400));
    let gateway = serve(gateway_router(stand_in.clone())).await;
    let speed = serve(open_beacon_speedtest::router(stand_in.clone())).await;
    let control = serve(control_router(stand_in)).await;
    let (site, _, setup) = server.site().await;
    let settings = json!({
        "gateway": {"status_url": format!("{gateway}/status.json"), "poll_interval_ms": 200},
        "speed_test": {"download_url": format!("{speed}/down"), "upload_url": format!("{speed}/up"),
            "latency_url": format!("{speed}/ping"), "connections": 2, "warm_up_s": 0.3, "phase_s": 2.0},
        "stand_in_url": control, "stand_in_follows": true, "active_setup_id": setup,
    });
    let (status, answer) = server.save_settings(&site, &settings).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    (site, setup, control)
}

async fn start(server: &Server, setup: &str, run: u128, samples: u32, tests: u32) -> (StatusCode, Value) {
    let content = json!({"id": id(run), "samples": samples, "speed_tests": tests});
    server.send("POST", &format!("/api/setups/{setup}/jobs"), Some(content)).await
}

async fn finished(server: &Server, site: &str) -> Value {
    let began = Instant::now();
    loop {
        let job = server.get(&format!("/api/sites/{site}/job")).await;
        if job["running"] == false {
            return job;
        }
        assert!(began.elapsed() < Duration::from_secs(240), "{job}");
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
}

pub(crate) async fn fault(control: &str, kind: &str) {
    let answer = reqwest::Client::new().put(format!("{control}/fault")).json(kind).send().await.unwrap();
    assert!(answer.status().is_success());
}

#[tokio::test(flavor = "multi_thread")]
async fn a_recording_takes_independent_samples_and_tests_move_bytes() {
    let server = server();
    let (site, setup, _) = measured_site(&server).await;
    let began = Instant::now();
    assert_eq!(start(&server, &setup, 10, 4, 1).await.0, StatusCode::CREATED);
    assert_eq!(start(&server, &setup, 10, 4, 1).await.0, StatusCode::OK, "a repeat is harmless");
    assert_eq!(start(&server, &setup, 11, 4, 0).await.0, StatusCode::CONFLICT, "one at a time");
    let job = finished(&server, &site).await;
    assert_eq!(
        (&job["samples_taken"], &job["tests_done"], &job["problem"]),
        (&json!(4), &json!(1), &Value::Null)
    );
    // Looked at every 200 ms, the page is renewed every 400: four samples need at least three renewals.
    assert!(began.elapsed() > Duration::from_millis(1200));

    let view = server.get(&format!("/api/runs/{}", id(10))).await;
    assert_eq!(view["run"]["completion"], "complete");
    let of = |activity: &str| {
        view["samples"].as_array().unwrap().iter().filter(|sample| sample["activity"] == activity).count()
    };
    assert_eq!(of("trickle"), 4);
    assert!(of("loaded") >= 2, "what was heard while testing is kept and marked");
    let test = &view["speed_tests"][0];
    for figure in
        ["download_mbps", "upload_mbps", "idle_latency_ms", "download_latency_ms", "upload_latency_ms"]
    {
        assert!(test[figure].as_f64().unwrap() > 0.0, "{figure}: {test}");
    }
    assert!(test["bytes_down"].as_u64().unwrap() > 100_000);
    let nr = view["samples"].as_array().unwrap().iter().filter(|sample| sample["mode"] == "nsa").count();
    assert!(nr >= 4, "the trickle keeps NR from vanishing");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_cancelled_recording_keeps_what_it_took() {
    let server = server();
    let (site, setup, _) = measured_site(&server).await;
    start(&server, &setup, 10, 100, 0).await;
    while server.get(&format!("/api/sites/{site}/job")).await["samples_taken"].as_u64().unwrap() < 2 {
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    assert_eq!(
        server.send("POST", &format!("/api/runs/{}/cancel", id(10)), None).await.0,
        StatusCode::NO_CONTENT
    );
    let job = finished(&server, &site).await;
    let view = server.get(&format!("/api/runs/{}", id(10))).await;
    assert_eq!(view["run"]["completion"], "partial");
    assert_eq!(view["samples"].as_array().unwrap().len() as u64, job["samples_taken"].as_u64().unwrap());
    assert!(view["findings"][0]["text"].as_str().unwrap().contains("cancelled"));
    assert_eq!(
        server.send("POST", &format!("/api/runs/{}/cancel", id(10)), None).await.0,
        StatusCode::NOT_FOUND
    );
}

/// Whoever looks in, or has to wait, is told how far it is.
#[tokio::test(flavor = "multi_thread")]
async fn progress_is_told_while_something_is_measured() {
    let server = server();
    let (site, setup, _) = measured_site(&server).await;
    let path = format!("/api/sites/{site}/measuring");
    assert_eq!(server.get(&path).await, Value::Null);
    start(&server, &setup, 10, 6, 1).await;
    let began = Instant::now();
    let now = loop {
        let now = server.get(&path).await;
        if now["samples_done"].as_u64().is_some_and(|done| done >= 2) {
            break now;
        }
        assert!(began.elapsed() < Duration::from_secs(120), "{now}");
        tokio::time::sleep(Duration::from_millis(50)).await;
    };
    assert_eq!(
        (&now["what"], &now["samples_planned"], &now["tests_planned"]),
        (&json!("recording"), &json!(6), &json!(1))
    );
    assert!(now["remaining_s"].as_f64().unwrap() > 0.0 && now["share"].as_f64().unwrap() < 1.0);
    let (status, refused) = start(&server, &setup, 11, 1, 0).await;
    assert_eq!(status, StatusCode::CONFLICT);
    let detail = refused["detail"].as_str().unwrap();
    assert!(detail.contains("of 6 samples done") && detail.contains(" left"), "{detail}");
    finished(&server, &site).await;
    assert_eq!(server.get(&path).await, Value::Null);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_refused_upload_keeps_the_download_and_says_why() {
    let server = server();
    let (site, setup, control) = measured_site(&server).await;
    fault(&control, "no_upload").await;
    start(&server, &setup, 10, 0, 3).await;
    let job = finished(&server, &site).await;
    assert!(job["problem"].as_str().unwrap().contains("upload"), "{job}");
    let view = server.get(&format!("/api/runs/{}", id(10))).await;
    let tests = view["speed_tests"].as_array().unwrap();
    assert_eq!(
        (tests.len(), &tests[0]["completion"], &tests[0]["upload_mbps"]),
        (1, &json!("partial"), &Value::Null)
    );
    assert!(tests[0]["download_mbps"].as_f64().unwrap() > 0.0);
}

#[tokio::test(flavor = "multi_thread")]
async fn the_antenna_follows_the_setup_being_recorded() {
    let server = server();
    let (site, setup, _) = measured_site(&server).await;
    let pose = server.get(&format!("/api/sites/{site}/stand-in")).await;
    assert_eq!(pose["azimuth_deg"], 0.0, "without a place nothing is turned");
    let place = json!({"name": "Gable", "mount": "gable", "place": {"latitude_deg": 61.4214, "longitude_deg": 8.2088}});
    server.send("PUT", &format!("/api/positions/{}", id(2)), Some(place)).await;
    let other = json!({"id": id(60), "antenna": "external", "azimuth_deg": 77.0});
    server.send("POST", &format!("/api/positions/{}/setups", id(2)), Some(other)).await;
    start(&server, &id(60), 10, 1, 0).await;
    let pose = server.get(&format!("/api/sites/{site}/stand-in")).await;
    assert_eq!((&pose["azimuth_deg"], &pose["antenna"]), (&json!(77.0), &json!("external")));
    assert_ne!(setup, id(60));
    finished(&server, &site).await;
}

#[tokio::test]
async fn without_addresses_it_says_what_to_enter() {
    let server = server();
    let (_, _, setup) = server.site().await;
    for (samples, tests, words) in [(10, 0, "No gateway"), (0, 1, "No speed-test")] {
        let (status, problem) = start(&server, &setup, 10, samples, tests).await;
        assert_eq!(status, StatusCode::CONFLICT);
        assert!(problem["detail"].as_str().unwrap().contains(words), "{problem}");
    }
    assert_eq!(start(&server, &setup, 10, 0, 0).await.0, StatusCode::BAD_REQUEST);
    assert_eq!(start(&server, &setup, 10, 999, 0).await.0, StatusCode::UNPROCESSABLE_ENTITY);
}
