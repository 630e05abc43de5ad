//! Every calculation answers on its own, as the screens see it.

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
async fn class_tells_its_limit_and_its_origin() {
    let (_, answer) = calc("class", json!({"technology": "lte", "rsrp_dbm": -110.0, "sinr_db": 25.0})).await;
    assert_eq!(answer["class"], json!({"class": "thin", "limited_by": "rsrp"}));
    assert_eq!(answer["origin"], "common practice, no source");
}

/// TS 36.214 5.1.3: 10 lg 100 − 95 + 64.2 = −10.8 dB for a full cell of 20 MHz.
#[tokio::test]
async fn rsrq_follows_from_power_and_width() {
    let (_, answer) =
        calc("rsrq", json!({"rsrp_dbm": -95.0, "rssi_dbm": -64.208, "bandwidth_mhz": 20.0})).await;
    assert_eq!(answer["resource_blocks"], 100);
    assert!((answer["rsrq_db"].as_f64().unwrap() + 10.792).abs() < 0.001);
    let (status, _) = calc("rsrq", json!({"rsrp_dbm": -95.0, "rssi_dbm": -64.0, "bandwidth_mhz": 7.0})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

/// TS 36.101 table 5.7.3-1: EARFCN 6300 is 791 + 0.1 (6300 − 6150) = 806 MHz in B20.
#[tokio::test]
async fn channels_have_their_frequency() {
    let (_, answer) = calc("channel", json!({"technology": "lte", "channel": 6300})).await;
    assert_eq!(answer, json!({"frequency_mhz": 806.0, "bands": [20]}));
    let (status, _) = calc("channel", json!({"technology": "lte", "channel": 200_000})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test]
async fn statistics_answer() {
    let (_, answer) = calc("summary", json!({"values": [10.0, 12.0, 11.0]})).await;
    assert_eq!((&answer["summary"]["median"], &answer["summary"]["mad"]), (&json!(11.0), &json!(1.0)));
    assert!(answer["interval"]["low"].as_f64().unwrap() < 11.0);
    assert_eq!(calc("summary", json!({"values": []})).await.0, StatusCode::UNPROCESSABLE_ENTITY);
    let side = |values: [f64; 3], apart: usize| -> Value {
        values.iter().enumerate().map(|(at, value)| json!({"sitting": at * apart, "value": value})).collect()
    };
    let content = |apart| json!({"figure": "download", "values": side([20.0, 22.0, 24.0], apart), "baseline": side([10.0, 11.0, 12.0], apart)});
    let (_, answer) = calc("ratio", content(1)).await;
    assert_eq!(answer["verdict"], "clear_gain");
    let (_, answer) = calc("ratio", content(0)).await;
    assert_eq!(answer["verdict"], "too_few", "three tests of one hour are one sitting");
    let (_, answer) = calc("turn", json!({"from_deg": 350.0, "to_deg": 10.0})).await;
    assert_eq!(answer["turn_deg"], 20.0);
}

#[tokio::test]
async fn refresh_counts_independent_looks() {
    let looks: Vec<Value> = (0..20).map(|n| json!({"at_s": n, "content": n / 3})).collect();
    let (_, answer) = calc("refresh", Value::Array(looks)).await;
    assert_eq!(
        answer["counts"].as_array().unwrap().iter().filter(|counts| counts.as_bool().unwrap()).count(),
        7
    );
    assert_eq!(answer["period_s"], 3.0);
}
