//! What screens ask while something is typed.

use crate::server;
use axum::http::StatusCode;
use serde_json::{Value, json};

async fn calc(what: &str, content: Value) -> (StatusCode, Value) {
    server().send("POST", &format!("/api/calc/{what}"), Some(content)).await
}

#[tokio::test]
async fn entry_reads_and_refuses() {
    let (status, entry) = calc("entry", json!({"quantity": "rsrp", "text": "97"})).await;
    assert_eq!(
        (status, &entry["value"], &entry["notes"]),
        (StatusCode::OK, &json!(-97.0), &json!(["made_negative"]))
    );
    let (status, problem) = calc("entry", json!({"quantity": "rsrp", "text": "good"})).await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/text"))
    );
}

#[tokio::test]
async fn patterns_are_read_from_text_or_refused_by_line() {
    let lines: Vec<String> =
        (0..36).map(|step: i32| format!("{};{}", step * 10, -step.min(36 - step))).collect();
    let (status, points) = calc("pattern-text", json!({"text": lines.join("\n")})).await;
    assert_eq!((status, points.as_array().unwrap().len()), (StatusCode::OK, 36));
    assert_eq!(points[0], json!({"off_deg": -170.0, "below_db": 17.0}));
    let broken = lines.join("\n").replace("30;-3", "30;three");
    let (status, problem) = calc("pattern-text", json!({"text": broken})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["errors"][0]["detail"].as_str().unwrap().starts_with("Line 4: an angle"), "{problem}");
}

#[tokio::test]
async fn lists_are_read_from_their_spelling() {
    let list = async |kind: &str, text: &str| calc("list", json!({"kind": kind, "text": text})).await;
    let bands =
        json!([{"technology": "lte", "band": 3, "layers": 2}, {"technology": "nr", "band": 78, "layers": 4}]);
    assert_eq!(list("band_support", "B3:2 n78:4").await, (StatusCode::OK, json!({ "list": bands })));
    assert_eq!(list("metrics", "sinr RSRP").await.1, json!({"list": ["rsrp", "sinr"]}));
    let pairs = json!([[{"technology": "lte", "band": 3}, {"technology": "nr", "band": 78}]]);
    assert_eq!(list("combinations", "B3+n78").await.1, json!({ "list": pairs }));
    for (kind, text) in [("expected_carriers", "B20 10"), ("gain", "698:5"), ("ports", "1 sma-f pair1 rx B3")]
    {
        assert_eq!(list(kind, text).await.1["list"].as_array().unwrap().len(), 1, "{kind}");
        let (status, problem) = list(kind, "what").await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(problem["errors"][0]["detail"].as_str().unwrap().contains("for instance"), "{problem}");
    }
    // What the catalogue shows as a list's text is what gives the list.
    let entries = server().get("/api/catalogue").await;
    let gateway =
        entries.as_array().unwrap().iter().find(|one| one["part"]["spec"]["kind"] == "gateway").unwrap();
    for (path, kind) in [("bands", "band_support"), ("ports", "ports"), ("shows", "metrics")] {
        let (_, read) = list(kind, gateway["lists"][path].as_str().unwrap()).await;
        assert_eq!(read["list"], gateway["part"]["spec"][path], "{path}");
    }
}
