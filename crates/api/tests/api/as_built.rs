//! The sheet of what was built: drawn up from the record, written on, and given away as a file that builds it again.

use super::{Server, demo, id, server};
use axum::http::StatusCode;
use serde_json::{Value, json};

fn details() -> Value {
    json!({"built_on": "2026-11-12", "built_by": "Kari", "address": "Upper road 4", "serials": "Gateway: 0815",
        "account": "Plan 7", "cable_route": "Down the gable", "joints": "", "grounding": "", "remarks": ""})
}

/// The demo site with a sheet of the setup that is being worked on.
async fn drawn_up() -> (Server, String, Value) {
    let (server, site) = demo().await;
    let path = format!("/api/sites/{site}/as-built");
    let offered = server.get(&path).await;
    assert_eq!((&offered["sheets"], &offered["details"]["address"]), (&json!([]), &json!("")));
    let setup = server.get(&format!("/api/sites/{site}")).await["settings"]["active_setup_id"].clone();
    assert_eq!(offered["proposed"], setup);
    let body = json!({"id": id(840), "setup_id": setup, "details": details()});
    let (status, made) = server.send("POST", &path, Some(body.clone())).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    let (status, again) = server.send("POST", &path, Some(body)).await;
    assert_eq!((status, &again), (StatusCode::OK, &made), "sent again: the same sheet");
    (server, site, made)
}

#[tokio::test]
async fn a_sheet_holds_what_the_record_says_and_keeps_it() {
    let (server, site, made) = drawn_up().await;
    let view = server.get(&format!("/api/as-built/{}?place=true&people=true", id(840))).await;
    // What is expected is what the setup's own page shows as measured.
    let compared = server.get(&format!("/api/sites/{site}/compare")).await;
    let row = compared["rows"].as_array().unwrap().iter().find(|row| row["setup_id"] == made["setup_id"]);
    let down = &row.unwrap()["figures"][0];
    let expected = made["speeds"][0]["expected"].clone();
    assert_eq!(made["speeds"][0]["figure"], "download");
    let near = |a: &Value, b: &Value| (a.as_f64().unwrap() - b.as_f64().unwrap()).abs() < 1e-9;
    assert!(near(&expected["usual"], &down["geometric_mean"]), "{expected} {down}");
    assert_eq!(expected["visits"], down["sittings"]);
    assert_eq!(made["verdict"]["before"], compared["rows"][0]["label"]);
    assert!(made["verdict"]["said"].as_str().unwrap().contains(compared["best"]["title"].as_str().unwrap()));
    let text = view["sections"].to_string();
    assert!(text.contains("Upper road 4") && text.contains("Kari") && !text.contains("0815"), "{text}");
    assert!(view["code_drawing"].as_str().unwrap().contains("<svg"));
    assert_eq!(view["not_written"], json!(["joints and weatherproofing", "grounding and surge protection"]));
    let public = server.get(&format!("/api/as-built/{}", id(840))).await;
    for private in ["Upper road 4", "Kari", "0815", "Plan 7"] {
        assert!(
            !public["sections"].to_string().contains(private)
                && !public["sheet"].to_string().contains(private)
        );
        assert!(!public["code_text"].to_string().contains(private));
    }

    // Later work changes nothing on it: it is what later work is judged by.
    for run in server.get(&format!("/api/sites/{site}/export.json")).await["runs"].as_array().unwrap() {
        server.post(&format!("/api/runs/{}/archive", run["id"].as_str().unwrap()), &json!({})).await;
    }
    let later = server.get(&format!("/api/as-built/{}?place=true&people=true", id(840))).await;
    assert_eq!((&later["sheet"], &later["speeds"]), (&view["sheet"], &view["speeds"]));
}

#[tokio::test]
async fn what_is_written_can_be_changed_and_nothing_is_overwritten_unseen() {
    let (server, site, made) = drawn_up().await;
    let path = format!("/api/as-built/{}", id(840));
    let mut written = details();
    written["grounding"] = json!("Bonded to the main earthing bar");
    let with = |body: &Value, seen: &Value| {
        let mut body = body.clone();
        body["seen"] = seen.clone();
        body
    };
    let (status, changed) = server.send("PUT", &path, Some(with(&written, &details()))).await;
    assert_eq!((status, &changed["details"]), (StatusCode::OK, &written));
    assert_eq!((&changed["carriers"], &changed["drawn_up_at"]), (&made["carriers"], &made["drawn_up_at"]));
    let mut other = details();
    other["grounding"] = json!("None");
    let (status, problem) = server.send("PUT", &path, Some(with(&other, &details()))).await;
    assert_eq!((status, &problem["errors"][0]["pointer"]), (StatusCode::CONFLICT, &json!("/grounding")));
    other["grounding"] = json!("x".repeat(20_000));
    let (status, problem) = server.send("PUT", &path, Some(other)).await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/grounding"))
    );
    // A sheet is put away and taken back; a new one begins with what was written.
    server.post(&format!("{path}/archive"), &json!({})).await;
    let list = server.get(&format!("/api/sites/{site}/as-built")).await;
    assert!(list["sheets"][0]["archived_at"].is_string());
    assert_eq!(list["details"], written);
    server.post(&format!("{path}/restore"), &json!({})).await;
    assert!(server.get(&format!("/api/sites/{site}/as-built")).await["sheets"][0]["archived_at"].is_null());
    let elsewhere = json!({"id": id(841), "setup_id": id(3)});
    server.site().await;
    let (status, _) = server.send("POST", &format!("/api/sites/{site}/as-built"), Some(elsewhere)).await;
    assert_eq!(status, StatusCode::NOT_FOUND, "a setup of another site");
}

/// A stranger brings the file into an empty program: setup, aim and expected values are those of the sheet.
#[tokio::test]
async fn the_file_builds_it_again_elsewhere() {
    let (server, site, made) = drawn_up().await;
    let all = "place=true&people=true&serials=true&account=true&photos=true";
    let path = format!("/api/as-built/{}", id(840));
    let (status, file) =
        server.bytes("GET", &format!("{path}/file.json?{all}"), Vec::new(), "text/plain").await;
    assert_eq!(status, StatusCode::OK);
    let stranger = self::server();
    let (status, report) = stranger.bytes("POST", "/api/import", file, "application/json").await;
    assert!(status.is_success(), "{}", String::from_utf8_lossy(&report));
    let [here, there] = [
        server.get(&format!("/api/sites/{site}/export.json")).await,
        stranger.get(&format!("/api/sites/{site}/export.json")).await,
    ];
    let own = |bundle: &Value, table: &str, key: &str, wanted: &Value| {
        bundle[table].as_array().unwrap().iter().find(|row| row[key] == *wanted).cloned().unwrap()
    };
    let [setup, rebuilt] = [&here, &there].map(|bundle| own(bundle, "setups", "id", &made["setup_id"]));
    for same in
        ["azimuth_deg", "tilt_deg", "height_above_ground_m", "ports", "lock", "kit_id", "polarisation"]
    {
        assert_eq!(setup[same], rebuilt[same], "{same}");
    }
    assert_eq!(own(&here, "positions", "id", &setup["position_id"])["place"], there["positions"][0]["place"]);
    assert_eq!(there["as_built"], json!([made]));
    assert_eq!(
        (there["samples"].as_array().unwrap().len(), &there["settings"]["gateway"]),
        (0, &Value::Null)
    );
    let [sheet, again] =
        [server.get(&format!("{path}?{all}")).await, stranger.get(&format!("{path}?{all}")).await];
    for same in ["sections", "carriers", "speeds", "gains", "code_text"] {
        assert_eq!(sheet[same], again[same], "{same}");
    }
    // The plan of aim is worked out anew there, from the same masts and places.
    let settings = stranger.get(&format!("/api/sites/{site}")).await["settings"]["active_setup_id"].clone();
    assert_eq!(settings, made["setup_id"]);
    let (mast, position) = (&there["masts"][0]["id"], &rebuilt["position_id"]);
    let ask = format!(
        "/api/sites/{site}/aim-card?position={}&mast={}&on=2026-11-12",
        position.as_str().unwrap(),
        mast.as_str().unwrap()
    );
    let [card, card_there] = [server.get(&ask).await, stranger.get(&ask).await];
    for same in ["magnetic_deg", "declination"] {
        assert_eq!(card["card"][same], card_there["card"][same]);
    }
    for same in ["bearing_deg", "distance_m", "height_m"] {
        assert_eq!(card["card"]["choice"][same], card_there["card"]["choice"][same], "{same}");
    }
}

/// What limits a setup is said of each that has a record, with its grounds; of one without, nothing.
#[tokio::test]
async fn what_limits_a_setup_is_told_with_its_grounds() {
    let (server, site) = demo().await;
    let setup = server.get(&format!("/api/sites/{site}")).await["settings"]["active_setup_id"].clone();
    let view = server.get(&format!("/api/setups/{}/diagnosis", setup.as_str().unwrap())).await;
    let causes = view["diagnosis"]["causes"].as_array().unwrap();
    assert!(!causes.is_empty() && view["causes_said"].as_array().unwrap().len() == causes.len(), "{view}");
    let chances: Vec<f64> = causes.iter().map(|one| one["chance"].as_f64().unwrap()).collect();
    assert!(chances.windows(2).all(|two| two[0] >= two[1]) && chances.iter().sum::<f64>() <= 1.0 + 1e-9);
    assert!(
        view["title"].as_str().unwrap().ends_with('.') && view["detail"].as_str().unwrap().ends_with('.')
    );
    let (_, _, bare) = server.site().await;
    assert_eq!(server.get(&format!("/api/setups/{bare}/diagnosis")).await, Value::Null);
    let (status, _) = server.send("GET", &format!("/api/setups/{}/diagnosis", id(999)), None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}
