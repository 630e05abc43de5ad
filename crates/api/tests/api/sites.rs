use crate::{id, server};
use axum::http::StatusCode;
use serde_json::{Value, json};

fn reading(rsrp: f64, flags: Value) -> Value {
    json!({"id": id(20), "mode": "lte", "activity": "unknown",
        "carriers": [{"technology": "lte", "role": "primary", "band": 3, "rsrp_dbm": rsrp, "flags": flags}]})
}

#[tokio::test]
async fn a_repeated_post_is_harmless_and_another_body_conflicts() {
    let server = server();
    let site = json!({"id": id(1), "name": "North farm", "time_zone": "Europe/Oslo"});
    assert_eq!(server.send("POST", "/api/sites", Some(site.clone())).await.0, StatusCode::CREATED);
    assert_eq!(server.send("POST", "/api/sites", Some(site)).await.0, StatusCode::OK);
    let other = json!({"id": id(1), "name": "South farm", "time_zone": "Europe/Oslo"});
    let (status, problem) = server.send("POST", "/api/sites", Some(other)).await;
    assert_eq!((status, &problem["type"]), (StatusCode::CONFLICT, &json!("problems/conflict")));
    assert_eq!(server.get("/api/sites").await.as_array().unwrap().len(), 1);
}

#[tokio::test]
async fn problems_name_the_field_and_what_would_work() {
    let server = server();
    let bad = json!({"id": id(1), "name": " ", "time_zone": "Moon/Base", "place": {"latitude_deg": 100.0, "longitude_deg": 8.0}});
    let (status, problem) = server.send("POST", "/api/sites", Some(bad)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let pointers: Vec<&str> = problem["errors"]
        .as_array()
        .unwrap()
        .iter()
        .map(|error| error["pointer"].as_str().unwrap())
        .collect();
    assert_eq!(pointers, ["/name", "/place", "/time_zone"]);
    assert!(problem["detail"].as_str().unwrap().contains("Europe/Oslo"));
    assert_eq!(problem["status"], 422);
}

#[tokio::test]
async fn what_is_not_there_is_said() {
    let server = server();
    for path in [format!("/api/sites/{}", id(9)), format!("/api/runs/{}", id(9)), "/api/nonsense".to_owned()]
    {
        let (status, problem) = server.send("GET", &path, None).await;
        assert_eq!(status, StatusCode::NOT_FOUND, "{path}");
        assert_eq!(problem["type"], "problems/not-found", "{path}");
    }
    let (status, problem) = server.send("GET", "/api/sites/not-an-id", None).await;
    assert_eq!((status, &problem["type"]), (StatusCode::BAD_REQUEST, &json!("problems/unreadable")));
}

#[tokio::test]
async fn an_edit_of_a_setup_with_runs_makes_a_new_one() {
    let server = server();
    let (site, _, setup) = server.site().await;
    let edit = |azimuth: f64, new: u128| {
        Some(json!({"new_id": id(new), "antenna": "external", "azimuth_deg": azimuth}))
    };
    let path = format!("/api/setups/{setup}");
    let (status, same) = server.send("PUT", &path, edit(140.0, 30)).await;
    assert_eq!((status, &same["id"]), (StatusCode::OK, &json!(setup)), "without runs it changes in place");

    let run =
        json!({"id": id(10), "measured_at": "2026-11-09T09:00:00Z", "readings": [reading(-97.0, json!([]))]});
    assert_eq!(server.send("POST", &format!("{path}/typed-runs"), Some(run)).await.0, StatusCode::CREATED);
    let (status, new) = server.send("PUT", &path, edit(150.0, 31)).await;
    assert_eq!((status, &new["id"], &new["made_from"]), (StatusCode::CREATED, &json!(id(31)), &json!(setup)));
    assert_eq!(server.send("PUT", &path, edit(150.0, 31)).await.0, StatusCode::OK, "a repeat is harmless");
    let view = server.get(&format!("/api/sites/{site}")).await;
    let setups = view["positions"][0]["setups"].as_array().unwrap();
    let azimuths: Vec<f64> =
        setups.iter().map(|node| node["setup"]["azimuth_deg"].as_f64().unwrap()).collect();
    assert_eq!(azimuths, [140.0, 150.0]);
}

#[tokio::test]
async fn typed_values_outside_the_range_need_the_flag() {
    let server = server();
    let (_, _, setup) = server.site().await;
    let path = format!("/api/setups/{setup}/typed-runs");
    let run = |rsrp, flags| {
        Some(json!({"id": id(10), "measured_at": "2026-11-09T09:00:00Z", "readings": [reading(rsrp, flags)]}))
    };
    let (status, problem) = server.send("POST", &path, run(97.0, json!([]))).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(problem["errors"][0]["pointer"], "/readings/0/carriers/0/rsrp_dbm");
    let flagged = json!([{"metric": "rsrp", "kind": "as_reported"}]);
    assert_eq!(server.send("POST", &path, run(97.0, flagged)).await.0, StatusCode::CREATED);
    let view = server.get(&format!("/api/runs/{}", id(10))).await;
    assert_eq!(view["samples"][0]["carriers"][0]["rsrp_dbm"], 97.0);
    assert_eq!(view["run"]["source"], "typed");
    let (status, _) =
        server.send("POST", &path, Some(json!({"id": id(11), "measured_at": "2026-11-09T09:00:00Z"}))).await;
    assert_eq!(status, StatusCode::BAD_REQUEST, "nothing was entered");
}

#[tokio::test]
async fn archiving_has_a_way_back() {
    let server = server();
    let (site, position, setup) = server.site().await;
    for path in
        [format!("/api/setups/{setup}"), format!("/api/positions/{position}"), format!("/api/sites/{site}")]
    {
        assert_eq!(server.send("POST", &format!("{path}/archive"), None).await.0, StatusCode::NO_CONTENT);
        assert_eq!(server.send("POST", &format!("{path}/restore"), None).await.0, StatusCode::NO_CONTENT);
    }
    let view = server.get(&format!("/api/sites/{site}")).await;
    assert_eq!(view["positions"][0]["setups"][0]["setup"]["archived_at"], Value::Null);
}

#[tokio::test]
async fn a_duplicate_has_the_settings_and_nothing_else() {
    let server = server();
    let (site, _, setup) = server.site().await;
    let mut settings = server.get(&format!("/api/sites/{site}")).await["settings"].clone();
    settings["gateway"] = json!({"status_url": "http://192.168.1.1/", "poll_interval_ms": 1000});
    settings["active_setup_id"] = json!(setup);
    assert_eq!(server.save_settings(&site, &settings).await.0, StatusCode::OK);
    let copy = json!({"id": id(40), "name": "Second"});
    assert_eq!(
        server.send("POST", &format!("/api/sites/{site}/duplicate"), Some(copy)).await.0,
        StatusCode::CREATED
    );
    let view = server.get(&format!("/api/sites/{}", id(40))).await;
    assert_eq!(view["settings"]["gateway"]["status_url"], "http://192.168.1.1/");
    assert_eq!((&view["settings"]["active_setup_id"], &view["positions"]), (&Value::Null, &json!([])));
    // A setup of one site is none of another's.
    let mut foreign = view["settings"].clone();
    foreign["baseline_setup_id"] = json!(setup);
    let (status, _) = server.save_settings(&id(40), &foreign).await;
    assert_eq!(status, StatusCode::CONFLICT);
}

#[tokio::test]
async fn pictures_are_known_by_their_content() {
    let server = server();
    let (_, _, setup) = server.site().await;
    let run =
        json!({"id": id(10), "measured_at": "2026-11-09T09:00:00Z", "readings": [reading(-97.0, json!([]))]});
    server.send("POST", &format!("/api/setups/{setup}/typed-runs"), Some(run)).await;
    let path = |n| format!("/api/runs/{}/attachments?id={}&file_name=screen.png", id(10), id(n));
    let png = b"\x89PNG\r\n\x1a\n rest".to_vec();
    assert_eq!(server.bytes("POST", &path(50), png.clone(), "image/png").await.0, StatusCode::CREATED);
    let (status, content) =
        server.bytes("GET", &format!("/api/attachments/{}", id(50)), Vec::new(), "x").await;
    assert_eq!((status, content), (StatusCode::OK, png.clone()));
    let script = b"<script>".to_vec();
    assert_eq!(server.bytes("POST", &path(51), script, "image/png").await.0, StatusCode::BAD_REQUEST);
    assert_eq!(server.bytes("POST", &path(52), png, "text/plain").await.0, StatusCode::BAD_REQUEST);
}
