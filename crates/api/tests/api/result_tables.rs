//! Tables of results: looked at, brought in, brought in again.

use crate::{Server, demo};
use axum::http::StatusCode;
use serde_json::{Value, json};

const TABLE: &str = "time;setup;band;rsrp;download (Mbit/s);upload;ping\n\
    12/01/2026 18:30;gable 143;n78;-92;266,2;23,6;36\n\
    12/01/2026 18:40;gable 143;n78;-93;251,0;22,9;35\n\
    12/01/2026 18:41;gable 143;n78;-93;251000,0;22,9;35\n";

async fn looked(server: &Server, site: &str, body: &Value) -> Value {
    let (status, preview) =
        server.send("POST", &format!("/api/sites/{site}/result-tables/preview"), Some(body.clone())).await;
    assert_eq!(status, StatusCode::OK, "{preview}");
    preview
}

async fn brought(server: &Server, site: &str, body: &Value) -> (StatusCode, Value) {
    server.send("POST", &format!("/api/sites/{site}/result-tables/import"), Some(body.clone())).await
}

async fn runs(server: &Server, setup: &Value) -> Vec<Value> {
    let log = server.get(&format!("/api/setups/{}/log", setup.as_str().unwrap())).await;
    log["runs"].as_array().unwrap().clone()
}

#[tokio::test]
async fn a_table_is_asked_about_kept_once_and_remembered() {
    let (server, site) = demo().await;
    let mut body = json!({"file_name": "phone.csv", "text": TABLE});
    let preview = looked(&server, &site, &body).await;
    let asks: Vec<&str> =
        preview["questions"].as_array().unwrap().iter().map(|one| one["asks"].as_str().unwrap()).collect();
    assert_eq!(asks, ["date_order", "zone"], "{preview}");
    assert_eq!(preview["reading"]["decimal"], "comma");

    // Nothing is kept while something is open.
    let (status, problem) = brought(&server, &site, &body).await;
    assert_eq!(status, StatusCode::BAD_REQUEST, "{problem}");
    assert!(problem["detail"].as_str().unwrap().contains("can be two dates"), "{problem}");

    let mut reading = preview["reading"].clone();
    (reading["date_order"], reading["zone"]) = (json!("day_first"), json!("house"));
    reading["instrument"] = json!("phone");
    body["reading"] = reading;
    let preview = looked(&server, &site, &body).await;
    assert_eq!(
        (&preview["questions"], &preview["fresh"], &preview["problem_rows"]),
        (&json!([]), &json!(2), &json!(1))
    );
    assert!(preview["problems"][0]["reason"].as_str().unwrap().contains("251000,0"), "{preview}");
    let setup = preview["understood"][0]["setup_id"].clone();
    let before = runs(&server, &setup).await.len();

    let (status, done) = brought(&server, &site, &body).await;
    assert_eq!(status, StatusCode::OK, "{done}");
    assert_eq!(done, json!({"added": 2, "runs": 2, "known": 0, "refused": 1}));
    let now = runs(&server, &setup).await;
    assert_eq!(now.len(), before + 2);
    let at = |run: &Value| run["run"]["started_at"].as_str().unwrap().to_owned();
    let one = now.iter().find(|run| at(run).starts_with("2026-01-12T17:30")).unwrap();
    assert_eq!(one["run"]["conditions"]["notes"], "From phone.csv");
    assert_eq!(
        (&one["run"]["source"], &one["run"]["conditions"]["instrument"]),
        (&json!("typed"), &json!("phone"))
    );
    let whole = server.get(&format!("/api/runs/{}", one["run"]["id"].as_str().unwrap())).await;
    assert_eq!(whole["speed_tests"][0]["download_mbps"], 266.2);
    assert_eq!(whole["samples"][0]["carriers"][0]["rsrp_dbm"], -92.0);

    // Once more: nothing new. The mapping is that of the last time, the answers are asked again.
    let (_, again) = brought(&server, &site, &body).await;
    assert_eq!(again, json!({"added": 0, "runs": 0, "known": 2, "refused": 1}));
    assert_eq!(runs(&server, &setup).await.len(), before + 2);
    let settings = server.get(&format!("/api/sites/{site}")).await["settings"]["result_table"].clone();
    assert_eq!(settings["columns"][4]["field"], "download");
}

/// A test that was typed in before is not kept a second time.
#[tokio::test]
async fn a_result_that_was_typed_in_is_recognised() {
    let (server, site) = demo().await;
    let row = |download: &str| {
        json!({
            "file_name": "phone.csv",
            "text": format!("time,setup,download,upload\n2026-01-12T17:30:00Z,gable 143,{download},23.6\n"),
        })
    };
    let setup = looked(&server, &site, &row("266.2")).await["understood"][0]["setup_id"].clone();
    let typed = json!({
        "id": uuid::Uuid::now_v7(), "measured_at": "2026-01-12T17:30:20Z", "conditions": {}, "readings": [],
        "speed_tests": [{"id": uuid::Uuid::now_v7(), "download_mbps": 266.0, "upload_mbps": 23.6}],
    });
    let path = format!("/api/setups/{}/typed-runs", setup.as_str().unwrap());
    let (status, made) = server.send("POST", &path, Some(typed)).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    let preview = looked(&server, &site, &row("266.2")).await;
    assert_eq!((&preview["fresh"], &preview["known"]), (&json!(0), &json!(1)), "{preview}");
    assert_eq!(looked(&server, &site, &row("280")).await["fresh"], 1);
}

#[tokio::test]
async fn what_is_no_table_is_refused_with_what_would_work() {
    let (server, site) = demo().await;
    for (text, says) in
        [("", "is empty"), ("one column\n1\n", "parted by commas"), ("time,download\n", "no rows")]
    {
        let body = json!({"file_name": "phone.csv", "text": text});
        let (status, problem) =
            server.send("POST", &format!("/api/sites/{site}/result-tables/preview"), Some(body)).await;
        assert_eq!(status, StatusCode::BAD_REQUEST);
        assert!(problem["detail"].as_str().unwrap().contains(says), "{problem}");
    }
}
