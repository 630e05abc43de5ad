//! Calculations of antennas, feed lines, interference and wind, each with a worked example.

use crate::server;
use axum::http::StatusCode;
use serde_json::{Value, json};

async fn calc(what: &str, content: Value) -> (StatusCode, Value) {
    server().send("POST", &format!("/api/calc/{what}"), Some(content)).await
}

async fn figure(what: &str, content: Value, field: &str) -> f64 {
    let (status, answer) = calc(what, content).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    answer[field].as_f64().unwrap_or_else(|| panic!("{field} in {answer}"))
}

async fn refused(what: &str, content: Value) -> String {
    let (status, problem) = calc(what, content).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    problem["errors"][0]["pointer"].as_str().unwrap().to_owned()
}

/// Common practice, no source: about 9 m (30 ft) of 400-class lose 1.7 dB, of 240-class 3.3 dB, at 1.8 GHz; 2.4 and 4.6
/// at 3.5 GHz.
#[tokio::test]
async fn cable_loss_agrees_with_common_practice() {
    for (kind, mhz, expected) in
        [("class400", 1800, 1.7), ("class240", 1800, 3.3), ("class400", 3500, 2.4), ("class240", 3500, 4.6)]
    {
        let asked = json!({"kind": kind, "length_m": 9.144, "frequency_mhz": mhz});
        let loss = figure("cable-loss", asked, "loss_db").await;
        assert!((loss - expected).abs() < 0.15, "{kind} at {mhz}: {loss}");
    }
    let ask = |field: &str, value: f64| {
        let mut asked = json!({"kind": "rg58", "length_m": 5.0, "frequency_mhz": 900.0});
        asked[field] = json!(value);
        asked
    };
    assert_eq!(refused("cable-loss", ask("length_m", 500.0)).await, "/length_m");
    assert_eq!(refused("cable-loss", ask("frequency_mhz", 9000.0)).await, "/frequency_mhz");
    assert_eq!(refused("cable-loss", ask("temperature_c", 120.0)).await, "/temperature_c");
}

#[tokio::test]
async fn joints_name_what_joins_them() {
    let end = |series: &str, gender: &str| json!({"series": series, "gender": gender});
    let asked = json!({"a": end("n", "male"), "b": end("sma", "female"), "frequency_mhz": 2000});
    let (_, answer) = calc("joint", asked).await;
    assert_eq!(answer["mating"], json!({"mating": "other_series"}));
    assert_eq!(answer["adapter"], json!({"to_a": end("n", "female"), "to_b": end("sma", "male")}));
    let (_, fine) =
        calc("joint", json!({"a": end("n", "male"), "b": end("n", "female"), "frequency_mhz": 2000})).await;
    assert_eq!((&fine["mating"]["mating"], &fine["adapter"]), (&json!("mates"), &Value::Null));
}

/// Friis by hand: 3 dB of cable, an amplifier of 15 dB gain and 1.5 dB, a receiver of 8 dB:
/// F = 1.995 + (1.413 − 1)/0.501 + (6.310 − 1)/(0.501·31.62) = 3.154, 4.99 dB.
#[tokio::test]
async fn a_cascade_by_friis() {
    let stage =
        |gain_db: f64, noise_figure_db: f64| json!({"gain_db": gain_db, "noise_figure_db": noise_figure_db});
    let stages = json!([stage(-3.0, 3.0), stage(15.0, 1.5), stage(0.0, 8.0)]);
    let noise = figure("noise-figure", stages, "noise_figure_db").await;
    assert!((noise - 4.989).abs() < 0.002, "{noise}");
}

/// Worked by hand: ½·1.225·30²·1.2·0.1 = 66.15 N; on 1 m of a 48 mm pole: 66.15 + 31.75/2 N m.
#[tokio::test]
async fn wind_pushes_and_bends() {
    let asked = json!({"wind_m_s": 30.0, "area_m2": 0.1, "pole_mm": 48.0, "free_length_m": 1.0});
    assert!((figure("wind", asked.clone(), "force_n").await - 66.15).abs() < 0.01);
    assert!((figure("wind", asked, "moment_nm").await - 82.026).abs() < 0.01);
    assert_eq!(refused("wind", json!({"wind_m_s": 200.0, "area_m2": 0.1})).await, "/wind_m_s");
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

/// IEEE 802.3 type 1 by hand: 44 V, 12.95 W over 100 m of a 20 Ω channel (a pair loop of 40 Ω, two wires a pole):
/// V = 22 + √(484 − 259) = 37 V, exactly the standard's least voltage at the device.
#[tokio::test]
async fn power_at_the_far_end() {
    let asked = json!({"source_v": 44.0, "load_w": 12.95, "length_m": 100.0, "pair_loop_ohm_100m": 40.0, "pairs": "two"});
    assert!((figure("ethernet-power", asked, "voltage_v").await - 37.0).abs() < 0.01);
}
