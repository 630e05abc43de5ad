//! What is published: the OpenAPI document, the export's schema, export and import.

use crate::{id, server};
use axum::http::StatusCode;
use open_beacon_core::model::SiteBundle;
use open_beacon_exchange::{to_json, to_zip};
use open_beacon_simulator::demo_site::{Addresses, demo_site};
use serde_json::{Value, json};

fn demo_bundle() -> SiteBundle {
    let at = |path: &str| format!("http://127.0.0.1:1/{path}");
    demo_site(7, &Addresses { status_url: at("status"), speed_url: at("speed"), control_url: at("control") })
}

#[tokio::test]
async fn the_document_the_client_was_made_from_is_fresh() {
    let committed: Value =
        serde_json::from_str(include_str!("../../../../web/src/api/openapi.json")).unwrap();
    let served = server().get("/api/openapi.json").await;
    assert!(committed == served, "run `cargo xtask client`");
    // Every operation says what it does, and every calculation takes and answers JSON.
    for (path, item) in served["paths"].as_object().unwrap() {
        for (method, operation) in item.as_object().unwrap() {
            assert!(
                operation["summary"].is_string() || operation["description"].is_string(),
                "{method} {path}"
            );
            if path.starts_with("/api/calc/") && method == "post" {
                assert!(operation["requestBody"]["content"]["application/json"].is_object(), "{path}");
            }
        }
    }
}

#[tokio::test]
async fn the_export_is_as_its_schema_says() {
    let schema = server().get("/api/export-schema.json").await;
    let validator = jsonschema::draft202012::new(&schema).unwrap();
    let export: Value = serde_json::from_slice(&to_json(&demo_bundle())).unwrap();
    let errors: Vec<String> = validator.iter_errors(&export).map(|error| error.to_string()).collect();
    assert!(errors.is_empty(), "{errors:?}");
    let mut broken = export.clone();
    broken["runs"][0]["completion"] = json!("perhaps");
    assert!(!validator.is_valid(&broken));
    broken = export;
    broken["samples"][0]["carriers"][0].as_object_mut().unwrap().remove("technology");
    assert!(!validator.is_valid(&broken));
}

#[tokio::test]
async fn export_wipe_import_gives_the_same_screens() {
    let first = server();
    let site = demo_bundle().site.id;
    for file in [to_zip(&demo_bundle()), to_json(&demo_bundle())] {
        let (status, _) = first.bytes("POST", "/api/import", file, "application/octet-stream").await;
        assert_eq!(status, StatusCode::OK, "the second time it is all here already");
    }
    for ending in ["zip", "json"] {
        let (_, file) =
            first.bytes("GET", &format!("/api/sites/{site}/export.{ending}"), Vec::new(), "x").await;
        let second = server();
        let (status, answer) =
            second.bytes("POST", "/api/import/preview", file.clone(), "application/zip").await;
        let preview: Value = serde_json::from_slice(&answer).unwrap();
        assert_eq!(
            (status, &preview["conflicts"], &preview["problems"]),
            (StatusCode::OK, &json!(0), &json!([]))
        );
        assert!(second.get("/api/sites").await.as_array().unwrap().is_empty(), "a preview changes nothing");
        second.bytes("POST", "/api/import", file, "application/zip").await;
        for path in [
            format!("/api/sites/{site}"),
            format!("/api/sites/{site}/compare"),
            format!("/api/setups/{}/log", demo_bundle().setups[3].id),
        ] {
            assert_eq!(second.get(&path).await, first.get(&path).await, "{path} by {ending}");
        }
    }
}

#[tokio::test]
async fn a_bad_row_takes_nothing_in() {
    let server = server();
    let mut bundle = demo_bundle();
    bundle.runs[0].setup_id = open_beacon_core::model::SetupId(uuid::Uuid::from_u128(404));
    let file = to_json(&bundle);
    let (_, answer) = server.bytes("POST", "/api/import/preview", file.clone(), "application/json").await;
    let preview: Value = serde_json::from_slice(&answer).unwrap();
    assert_eq!(
        (&preview["problems"][0]["file"], &preview["problems"][0]["line"]),
        (&json!("runs.csv"), &json!(2))
    );
    assert_eq!(
        server.bytes("POST", "/api/import", file.clone(), "application/json").await.0,
        StatusCode::BAD_REQUEST
    );
    assert_eq!(server.bytes("POST", "/api/import", file, "text/plain").await.0, StatusCode::BAD_REQUEST);
    assert!(server.get("/api/sites").await.as_array().unwrap().is_empty());
}

#[tokio::test]
async fn a_copy_stands_beside_the_original() {
    let server = server();
    server.bytes("POST", "/api/import", to_zip(&demo_bundle()), "application/zip").await;
    let (status, _) =
        server.bytes("POST", "/api/import?copy=true", to_zip(&demo_bundle()), "application/zip").await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(server.get("/api/sites").await.as_array().unwrap().len(), 2);
}

#[tokio::test]
async fn the_comparison_follows_its_choices() {
    let server = server();
    server.bytes("POST", "/api/import", to_zip(&demo_bundle()), "application/zip").await;
    let site = demo_bundle().site.id;
    let all = server.get(&format!("/api/sites/{site}/compare")).await;
    // Seven setups of the log, and four locks that the band rounds tried on one of them.
    assert_eq!(all["rows"].as_array().unwrap().len(), 11);
    let [away, aimed] = [demo_bundle().setups[4].id, demo_bundle().setups[5].id];
    let two = server.get(&format!("/api/sites/{site}/compare?baseline={away}&setups={aimed}")).await;
    assert_eq!(two["baseline"], json!(away));
    assert!(
        two["title"].as_str().unwrap().contains("times the download of East gable at 53°"),
        "{}",
        two["title"]
    );
    // The best setup is chosen by the household's need, and by what it weighs.
    let best = &all["best"];
    assert_eq!(best["weighing"], "alike");
    assert!(best["title"].as_str().unwrap().contains("Barn mast"), "{best}");
    assert!(best["detail"].as_str().unwrap().contains("your need of 33\u{202f}Mbit/s down"), "{best}");
    let chances =
        best["standings"].as_array().unwrap().iter().map(|one| one["chance_of_best"].as_f64().unwrap());
    assert!((chances.sum::<f64>() - 1.0).abs() < 1e-9);
    let upload = server.get(&format!("/api/sites/{site}/compare?weighing=upload")).await;
    assert_eq!(upload["best"]["weighing"], "upload");
    assert_ne!(upload["best"]["standings"], best["standings"]);
    assert_eq!(upload["rows"], all["rows"], "what was measured stays as it is");
    let alone = server.get(&format!("/api/sites/{site}/compare?setups=")).await;
    assert_eq!(alone["rows"].as_array().unwrap().len(), 1);
    let (status, _) =
        server.send("GET", &format!("/api/sites/{site}/compare?setups={},x", id(1)), None).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
}
