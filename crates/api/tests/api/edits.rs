//! Edits carry the values they were made on: a stale one is refused with both values, and nothing is overwritten.

use super::{Server, id, server};
use axum::http::StatusCode;
use open_beacon_exchange::to_json;
use open_beacon_simulator::demo_site::{Addresses, demo_site};
use serde_json::{Value, json};

/// Everything that a form changes: where it is changed, what is sent, the field that is changed, and its value in three hands.
fn editable(export: &Value) -> Vec<(String, Value, &'static str, [Value; 3])> {
    let site = export["site"]["id"].as_str().unwrap();
    let first = |list: &str| export[list][0].clone();
    let of = |value: &Value| value["id"].as_str().unwrap().to_owned();
    let texts = || ["here", "there", "elsewhere"].map(Value::from);
    let (position, setup, mast, kit) = (first("positions"), first("setups"), first("masts"), first("kits"));
    let (part, run) = (first("parts"), first("runs"));
    let (obstacle, landmark, sweep) = (first("obstacles"), first("landmarks"), first("sweeps"));
    let sweep_end = json!({"set_deg": sweep["set_deg"], "archived": false});
    let mut site_values = export["site"].clone();
    site_values.as_object_mut().unwrap().remove("settings");
    let setup_values: Value = setup
        .as_object()
        .unwrap()
        .iter()
        .filter(|(key, _)| {
            !["id", "position_id", "made_from", "origin", "created_at", "archived_at"].contains(&key.as_str())
        })
        .map(|(key, value)| (key.clone(), value.clone()))
        .collect();
    vec![
        (format!("/api/sites/{site}"), site_values, "notes", texts()),
        (
            format!("/api/positions/{}", of(&position)),
            position,
            "height_above_ground_m",
            [json!(3), json!(4.5), json!(6)],
        ),
        (format!("/api/setups/{}", of(&setup)), setup_values, "kit_note", texts()),
        (
            format!("/api/sites/{site}/masts/{}", of(&mast)),
            mast,
            "height_m",
            [json!(21), json!(22.5), json!(30)],
        ),
        (
            format!("/api/sites/{site}/obstacles/{}", of(&obstacle)),
            obstacle,
            "height_m",
            [json!(11), json!(12.5), json!(14)],
        ),
        (format!("/api/sites/{site}/landmarks/{}", of(&landmark)), landmark, "name", texts()),
        (
            format!("/api/sites/{site}/sweeps/{}", of(&sweep)),
            sweep_end,
            "set_deg",
            [json!(141), json!(142.5), json!(150)],
        ),
        (format!("/api/kits/{}", of(&kit)), kit, "notes", texts()),
        (format!("/api/catalogue/{}", of(&part)), part, "notes", texts()),
        (format!("/api/runs/{}/conditions", of(&run)), run["conditions"].clone(), "weather", texts()),
    ]
}

async fn put(
    server: &Server,
    path: &str,
    from: &Value,
    field: &str,
    value: &Value,
    seen: Option<&Value>,
) -> (StatusCode, Value) {
    let mut body = from.clone();
    body[field] = value.clone();
    // Where a setup has runs, an edit of what it is makes a new one.
    body["new_id"] = json!(id(77));
    if let Some(seen) = seen {
        body["seen"] = seen.clone();
    }
    server.send("PUT", path, Some(body)).await
}

#[tokio::test]
async fn what_was_changed_meanwhile_is_not_overwritten() {
    let server = server();
    let at = |end: &str| format!("http://127.0.0.1:1/{end}");
    let demo = demo_site(7, &Addresses { status_url: at("a"), speed_url: at("b"), control_url: at("c") });
    let export = to_json(&demo);
    let (status, _) = server.bytes("POST", "/api/import", export.clone(), "application/json").await;
    assert_eq!(status, StatusCode::OK);
    let export: Value = serde_json::from_slice(&export).unwrap();
    for (path, as_seen, field, [first, second, third]) in editable(&export) {
        let (status, answer) = put(&server, &path, &as_seen, field, &first, Some(&as_seen)).await;
        assert!(status.is_success(), "{path}: {answer}");

        // The second screen has not heard of it.
        let (status, answer) = put(&server, &path, &as_seen, field, &second, Some(&as_seen)).await;
        assert_eq!(status, StatusCode::CONFLICT, "{path}: {answer}");
        assert_eq!(answer["type"], "problems/stale", "{path}");
        assert_eq!(answer["errors"][0]["pointer"], format!("/{field}"), "{path}");
        assert_eq!(answer["errors"].as_array().map(Vec::len), Some(1), "{path}: {answer}");
        let newer = &answer["newer"];
        let equal =
            newer[field] == first || newer[field].as_f64().is_some_and(|now| Some(now) == first.as_f64());
        assert!(equal, "{path}: {newer}");

        // An answer that was lost on the way: the same edit again is no conflict.
        let (status, answer) = put(&server, &path, &as_seen, field, &first, Some(&as_seen)).await;
        assert!(status.is_success(), "{path}: {answer}");

        // Made on what is there now, it is taken; numbers may have been through another program.
        let mut seen = as_seen.clone();
        seen[field] = first.as_f64().map_or(first.clone(), Value::from);
        let (status, answer) = put(&server, &path, &as_seen, field, &second, Some(&seen)).await;
        assert!(status.is_success(), "{path}: {answer}");

        // Scripts that say nothing of what they saw are taken as before.
        let (status, answer) = put(&server, &path, &as_seen, field, &third, None).await;
        assert!(status.is_success(), "{path}: {answer}");
    }
}

/// Many screens save at once, each on what it saw at first: one is taken, the others are told.
#[tokio::test]
async fn of_many_edits_at_once_one_is_taken() {
    let server = server();
    let site = json!({"id": id(1), "name": "North farm", "time_zone": "UTC"});
    let (_, stored) = server.send("POST", "/api/sites", Some(site)).await;
    let path = format!("/api/sites/{}", id(1));
    let edits = (0..12).map(|n| {
        let (server, path, stored) = (&server, &path, &stored);
        async move { put(server, path, stored, "notes", &json!(format!("screen {n}")), Some(stored)).await.0 }
    });
    let taken = futures::future::join_all(edits).await;
    assert_eq!(taken.iter().filter(|status| status.is_success()).count(), 1, "{taken:?}");
    assert_eq!(taken.iter().filter(|status| **status == StatusCode::CONFLICT).count(), 11);
}

/// A phone's queue and a computer write notes at the same time: every one that was acknowledged is there.
#[tokio::test]
async fn of_many_notes_at_once_none_is_lost() {
    let server = server();
    let at = |end: &str| format!("http://127.0.0.1:1/{end}");
    let demo = demo_site(7, &Addresses { status_url: at("a"), speed_url: at("b"), control_url: at("c") });
    let (site, sweep) = (demo.site.id, demo.sweeps[0].id);
    let before = demo.sweeps[0].notes.len();
    server.bytes("POST", "/api/import", to_json(&demo), "application/json").await;
    let path = format!("/api/sites/{site}/sweeps/{sweep}");
    let (server, notes_path) = (&server, &format!("{path}/notes"));
    let notes = (0..12).map(|n| {
        let note = json!({"id": id(200 + n), "text": format!("Fir in the way at {n}")});
        server.send("POST", notes_path, Some(note))
    });
    let answers = futures::future::join_all(notes.collect::<Vec<_>>()).await;
    assert!(answers.iter().all(|(status, _)| *status == StatusCode::CREATED));
    let kept = server.get(&path).await;
    assert_eq!(kept["sweep"]["notes"].as_array().map(Vec::len), Some(before + 12));
}

/// The same name typed on two devices is the same name: texts are kept in composed form.
#[tokio::test]
async fn texts_are_kept_in_composed_form() {
    let server = server();
    let composed = "J\u{e4}rvi";
    let apart = "Ja\u{308}rvi";
    let body = json!({"id": id(1), "name": apart, "time_zone": "UTC", "notes": apart});
    server.send("POST", "/api/sites", Some(body)).await;
    // As another program may write it: with escapes.
    let escaped = format!(r#"{{"id":"{}","name":"Ja\u0308rvi","time_zone":"UTC"}}"#, id(2));
    server.bytes("POST", "/api/sites", escaped.into_bytes(), "application/json").await;
    for site in server.get("/api/sites").await.as_array().unwrap() {
        assert_eq!(site["name"], composed);
    }
    let (_, file) = server.bytes("GET", &format!("/api/sites/{}/export.json", id(1)), Vec::new(), "").await;
    let other = super::server();
    let older = String::from_utf8(file).unwrap().replace(composed, apart);
    let (status, answer) = other.bytes("POST", "/api/import", older.into_bytes(), "application/json").await;
    assert_eq!(status, StatusCode::OK, "{}", String::from_utf8_lossy(&answer));
    assert_eq!(other.get("/api/sites").await[0]["notes"], composed);
}
