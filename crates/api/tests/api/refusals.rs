//! Good manners of every route: what is not there is said, nonsense is refused in words, nothing breaks.

use crate::{demo, id, server};
use axum::http::StatusCode;
use serde_json::{Value, json};

/// Method and path of every operation in the document that takes JSON or nothing, with identifiers filled in.
fn operations(document: &Value, fill: &str) -> Vec<(String, String, bool)> {
    let mut found = Vec::new();
    for (path, item) in document["paths"].as_object().unwrap() {
        for (method, operation) in item.as_object().unwrap() {
            let takes = &operation["requestBody"]["content"];
            // Uploads have tests of their own, and the event stream does not end.
            let plain = takes.is_null() || takes["application/json"].is_object();
            if plain && !path.ends_with("/events") {
                found.push((
                    method.to_uppercase(),
                    path.replace("{id}", fill).replace("{sweep}", fill).replace("{round}", fill),
                    takes.is_object(),
                ));
            }
        }
    }
    found
}

#[tokio::test]
async fn what_is_not_there_is_said_by_every_route() {
    let server = server();
    let document = server.get("/api/openapi.json").await;
    let mut asked = 0;
    for (method, path, takes_body) in operations(&document, &id(404)) {
        let asks_more =
            path.ends_with("/plan.png") || path.ends_with("/ground") || path.ends_with("/aim-card");
        if !path.contains(&id(404)) || takes_body || asks_more {
            continue;
        }
        let (status, problem) = server.send(&method, &path, None).await;
        // Forgetting what is not kept is no error; a job or a link that nobody began is empty.
        let empty = status.is_success() && (problem.is_null() || problem == json!([]));
        assert!(
            empty || status == StatusCode::NOT_FOUND || status == StatusCode::CONFLICT,
            "{method} {path}: {status} {problem}"
        );
        if !empty {
            assert!(
                problem["detail"].as_str().is_some_and(|detail| detail.len() > 10),
                "{method} {path}: {problem}"
            );
        }
        asked += 1;
    }
    assert!(asked >= 20, "{asked} routes asked");
}

#[tokio::test]
async fn nonsense_is_refused_in_words_and_nothing_breaks() {
    let (server, _) = demo().await;
    let document = server.get("/api/openapi.json").await;
    let nonsense =
        [json!({}), json!([1, 2]), json!("text"), json!({"id": 5, "name": ["x"], "spec": null}), Value::Null];
    let mut refused = 0;
    for (method, path, takes_body) in operations(&document, &id(404)) {
        if !takes_body {
            continue;
        }
        for body in &nonsense {
            let (status, problem) = server.send(&method, &path, Some(body.clone())).await;
            assert!(!status.is_server_error(), "{method} {path} {body}: {status} {problem}");
            if status.is_client_error() {
                assert!(
                    problem["title"].is_string() && problem["detail"].is_string(),
                    "{method} {path}: {problem}"
                );
                refused += 1;
            }
        }
    }
    assert!(refused > 100, "{refused} refused");
}

#[tokio::test]
async fn an_identifier_that_is_none_is_refused() {
    let server = server();
    for path in ["/api/sites/north", "/api/kits/1/job-card", "/api/runs/%20"] {
        let (status, problem) = server.send("GET", path, None).await;
        assert!(status.is_client_error() && problem["detail"].is_string(), "{path}: {status} {problem}");
    }
    let (status, problem) = server.send("GET", "/api/nothing/here", None).await;
    assert_eq!(
        (status, &problem["detail"]),
        (StatusCode::NOT_FOUND, &json!("There is nothing at this address."))
    );
}

#[tokio::test]
async fn every_refused_field_of_a_position_and_a_setup_is_named() {
    let server = server();
    let (site, position, _) = server.site().await;
    let refused = async |path: String, body: Value| -> Vec<String> {
        let (status, problem) = server.send("POST", &path, Some(body)).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        let errors = problem["errors"].as_array().unwrap();
        assert!(errors.iter().all(|error| error["detail"].as_str().unwrap().len() > 10));
        errors.iter().map(|error| error["pointer"].as_str().unwrap().to_owned()).collect()
    };
    let body = json!({"id": id(10), "name": " ", "mount": "wall", "height_above_ground_m": 900,
        "place": {"latitude_deg": 95.0, "longitude_deg": 10.0}, "spot": {"facing_deg": 400.0}, "notes": "x".repeat(5000)});
    let pointers = refused(format!("/api/sites/{site}/positions"), body).await;
    assert_eq!(pointers, ["/name", "/notes", "/spot/facing_deg", "/place", "/height_above_ground_m"]);
    let body = json!({"id": id(11), "antenna": "external", "azimuth_deg": 361.0, "tilt_deg": 95.0,
        "gateway_azimuth_deg": -1.0, "ports": [{"lead": 1, "port": "A"}, {"lead": 1, "port": "B"}, {"lead": 9, "port": "C"}]});
    let pointers = refused(format!("/api/positions/{position}/setups"), body).await;
    assert_eq!(
        pointers,
        ["/azimuth_deg", "/gateway_azimuth_deg", "/tilt_deg", "/ports/1/lead", "/ports/2/lead"]
    );
    let body = json!({"id": id(12), "name": "x", "spec": {"antenna_count": 9, "leads": 20, "crossed_deg": 200.0,
        "ethernet_m": 900.0, "height_above_ground_m": -3.0, "passage": {"way": "hole", "diameter_mm": 0.0}}});
    let pointers = refused(format!("/api/sites/{site}/kits"), body).await;
    assert_eq!(
        pointers,
        [
            "/spec/antenna_count",
            "/spec/leads",
            "/spec/crossed_deg",
            "/spec/ethernet_m",
            "/spec/height_above_ground_m",
            "/spec/passage/diameter_mm"
        ]
    );
}

#[tokio::test]
async fn a_kit_is_made_once_changed_archived_and_brought_back() {
    let server = server();
    let (site, position, _) = server.site().await;
    let path = format!("/api/sites/{site}/kits");
    let body = json!({"id": id(20), "name": "  Gable  ", "spec": {"position_id": position}});
    let (status, kit) = server.send("POST", &path, Some(body.clone())).await;
    assert_eq!((status, &kit["name"]), (StatusCode::CREATED, &json!("Gable")));
    let (status, again) = server.send("POST", &path, Some(body)).await;
    assert_eq!((status, again), (StatusCode::OK, kit.clone()));
    let (status, _) =
        server.send("POST", &path, Some(json!({"id": id(20), "name": "Other", "spec": {}}))).await;
    assert_eq!(status, StatusCode::CONFLICT);
    let changed = json!({"name": "Roof", "spec": {"leads": 2}, "return_by": "2027-01-15", "notes": "n"});
    let (_, kit) = server.send("PUT", &format!("/api/kits/{}", id(20)), Some(changed)).await;
    assert_eq!((&kit["return_by"], &kit["spec"]["leads"]), (&json!("2027-01-15"), &json!(2)));
    let (status, _) = server
        .send(
            "PUT",
            &format!("/api/kits/{}", id(20)),
            Some(json!({"name": "x", "spec": {}, "return_by": "soon"})),
        )
        .await;
    assert!(status.is_client_error());
    let stage = async || {
        let view = server.get(&format!("/api/sites/{site}")).await;
        view["stages"].as_array().unwrap().iter().find(|one| one["stage"] == "kit").unwrap()["state"].clone()
    };
    assert_eq!(stage().await, "done");
    server.send("POST", &format!("/api/kits/{}/archive", id(20)), None).await;
    assert_eq!(stage().await, "open");
    assert!(server.get(&path).await["kits"][0]["kit"]["archived_at"].is_string());
    server.send("POST", &format!("/api/kits/{}/restore", id(20)), None).await;
    assert_eq!(stage().await, "done");
}
