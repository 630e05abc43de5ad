//! The way to a mast, each with a worked example.

use crate::server;
use axum::http::StatusCode;
use serde_json::{Value, json};

async fn calc(what: &str, content: Value) -> (StatusCode, Value) {
    server().send("POST", &format!("/api/calc/{what}"), Some(content)).await
}

async fn refused(what: &str, content: Value) -> String {
    let (status, problem) = calc(what, content).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    problem["errors"][0]["pointer"].as_str().unwrap().to_owned()
}

fn point(latitude: f64, longitude: f64) -> Value {
    json!({"latitude_deg": latitude, "longitude_deg": longitude})
}

/// WGS 84: one degree of longitude on the equator is 111 319.49 m; 300 m higher at that distance is below the horizon's
/// bend of 0.376°: atan(300/111319.49 − 111319.49/(2 · 4/3 · 6371000)) = −0.221°.
#[tokio::test]
async fn a_way_along_the_equator() {
    let asked =
        json!({"from": point(0.0, 8.0), "to": point(0.0, 9.0), "from_height_m": 100.0, "to_height_m": 400.0});
    let (_, answer) = calc("way", asked).await;
    assert!((answer["way"]["distance_m"].as_f64().unwrap() - 111_319.49).abs() < 0.01);
    assert_eq!(
        (&answer["way"]["bearing_deg"], &answer["way"]["back_bearing_deg"]),
        (&json!(90.0), &json!(270.0))
    );
    assert!((answer["elevation_deg"].as_f64().unwrap() + 0.221).abs() < 0.001, "{answer}");
    let (_, flat) = calc("way", json!({"from": point(0.0, 8.0), "to": point(0.0, 9.0)})).await;
    assert_eq!(flat["elevation_deg"], Value::Null);
    assert_eq!(refused("way", json!({"from": point(95.0, 8.0), "to": point(0.0, 9.0)})).await, "/from");
    assert_eq!(refused("way", json!({"from": point(9.0, 8.0), "to": point(0.0, 190.0)})).await, "/to");
}

#[tokio::test]
async fn a_compass_differs_by_its_declination() {
    let asked = |on: &str| json!({"at": point(61.8, 8.6), "on": on, "true_bearing_deg": 143.0});
    let (_, answer) = calc("compass", asked("2026-01-01")).await;
    let declination = answer["declination"]["declination_deg"].as_f64().unwrap();
    assert!((answer["magnetic_bearing_deg"].as_f64().unwrap() - (143.0 - declination)).abs() < 1e-9);
    assert!((1.0..8.0).contains(&declination), "{answer}");
    assert_eq!(refused("compass", asked("2040-01-01")).await, "/on");
}

#[tokio::test]
async fn an_open_path_has_its_loss_and_its_zone() {
    let (_, answer) =
        calc("open-path", json!({"distance_m": 5000.0, "frequency_mhz": 1800.0, "from_m": 2500.0})).await;
    assert!((answer["free_space_db"].as_f64().unwrap() - 111.53).abs() < 0.01);
    assert!((answer["fresnel_radius_m"].as_f64().unwrap() - 14.43).abs() < 0.01);
    let point =
        |distance: f64, from: f64| json!({"distance_m": distance, "frequency_mhz": 1800.0, "from_m": from});
    assert_eq!(refused("open-path", point(0.0, 0.0)).await, "/distance_m");
    assert_eq!(refused("open-path", point(100.0, 200.0)).await, "/from_m");
}

#[tokio::test]
async fn a_ridge_costs_and_a_clear_path_does_not() {
    let profile = |ridge: f64| {
        let distances: Vec<f64> = (0..=20).map(|step| f64::from(step) * 100.0).collect();
        let heights: Vec<f64> = (0..=20).map(|step| if step == 10 { ridge } else { 0.0 }).collect();
        json!({"distances_m": distances, "heights_m": heights, "first_above_m": 30.0, "last_above_m": 40.0,
            "frequency_mhz": 1800.0})
    };
    let (_, clear) = calc("diffraction", profile(0.0)).await;
    let (_, ridge) = calc("diffraction", profile(80.0)).await;
    let loss = |answer: &Value| answer["loss_db"].as_f64().unwrap();
    // A single edge 45 m above the line in the middle of 2 km: ν = 45 · √(2 · 2000 / (0.16655 · 1000 · 1000)) = 6.97,
    // J = 29.9 dB, and Bullington's 10 dB on top.
    assert_eq!(loss(&clear), 0.0);
    assert!((loss(&ridge) - 39.8).abs() < 0.5, "{ridge}");
    let mut broken = profile(0.0);
    broken["heights_m"] = json!([1.0]);
    assert_eq!(refused("diffraction", broken).await, "/distances_m");
    let mut sunk = profile(0.0);
    sunk["first_above_m"] = json!(0.0);
    assert_eq!(refused("diffraction", sunk).await, "/first_above_m");
}
