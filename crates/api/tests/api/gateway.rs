//! Setting a gateway up: the close look, secrets that stay in, logins that are counted over a restart.

use crate::{Server, demo, server};
use axum::http::StatusCode;
use open_beacon_simulator::door::{PASSWORD, USER};
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::serve::StandIn;
use serde_json::{Value, json};
use std::sync::Arc;
use std::time::Duration;

async fn stand_in() -> (Arc<StandIn>, String) {
    let stand_in = StandIn::new(7, Duration::from_millis(100));
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = format!("http://{}", listener.local_addr().unwrap());
    tokio::spawn(axum::serve(listener, gateway_router(stand_in.clone())).into_future());
    (stand_in, address)
}

fn by_form(address: &str) -> Value {
    json!({"status_url": format!("{address}/door/status.json"), "poll_interval_ms": 500, "recipe": {"login": {
        "kind": "steps", "steps": [{"method": "post", "path": "/door/login",
            "body": "user=${user}&password=${password}"}]}}})
}

async fn sign_in(server: &Server, id: &str, address: &str, password: &str) {
    let path = format!("/api/sites/{id}/gateway/sign-in");
    let content = json!({"user": USER, "password": password, "address": address});
    let (status, _) = server.send("PUT", &path, Some(content)).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
}

async fn look(server: &Server, id: &str, gateway: &Value) -> Value {
    let path = format!("/api/sites/{id}/gateway/test");
    let (status, answer) = server.send("POST", &path, Some(json!({ "gateway": gateway }))).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
    answer
}

#[tokio::test]
async fn a_close_look_shows_the_live_answer_and_a_map_to_start_from() {
    let (server, (_, address)) = (server(), stand_in().await);
    let (id, ..) = server.site().await;
    let plain = json!({"status_url": format!("{address}/other.json"), "poll_interval_ms": 500});
    let answer = look(&server, &id, &plain).await;
    assert_eq!(answer["look"]["reading"], Value::Null);
    assert!(answer["look"]["problem"].as_str().unwrap().contains("/radio/carriers"), "{answer}");
    assert!(answer["look"]["page"]["wwan"]["lte"]["rsrp"].is_string());
    let mut mapped = plain.clone();
    mapped["recipe"] = json!({"map": answer["look"]["suggestion"]});
    let answer = look(&server, &id, &mapped).await;
    assert_eq!(answer["look"]["problem"], Value::Null, "{answer}");
    assert!(answer["sentence"].as_str().is_some_and(|sentence| sentence.contains("LTE")), "{answer}");
    mapped["recipe"]["map"]["carriers"][0]["at"] = json!("wwan");
    let path = format!("/api/sites/{id}/gateway/test");
    let (status, problem) = server.send("POST", &path, Some(json!({ "gateway": mapped }))).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(problem["errors"][0]["pointer"], "/gateway/recipe/map/carriers/0/at");
}

#[tokio::test]
async fn secrets_go_in_and_never_come_out() {
    let (server, (_, address)) = (server(), stand_in().await);
    let (id, ..) = server.site().await;
    sign_in(&server, &id, &address, PASSWORD).await;
    let answer = look(&server, &id, &by_form(&address)).await;
    assert_eq!(answer["look"]["problem"], Value::Null, "{answer}");
    let kept = server.get(&format!("/api/sites/{id}/gateway/sign-in?address={address}")).await;
    assert_eq!(kept, json!({"user": USER, "has_password": true, "stopped": false}));
    let (_, view) = server.send("GET", &format!("/api/sites/{id}"), None).await;
    let (_, json) = server.bytes("GET", &format!("/api/sites/{id}/export.json"), Vec::new(), "").await;
    let (_, zip) = server.bytes("GET", &format!("/api/sites/{id}/export.zip"), Vec::new(), "").await;
    let zipped = open_beacon_exchange::from_bytes(&zip).unwrap();
    for text in
        [view.to_string(), String::from_utf8(json).unwrap(), format!("{zipped:?}"), answer.to_string()]
    {
        assert!(!text.contains(PASSWORD) && !text.contains(USER), "{text}");
    }
    // A name alone changed keeps the password.
    let path = format!("/api/sites/{id}/gateway/sign-in");
    server.send("PUT", &path, Some(json!({"user": "other", "address": address}))).await;
    let kept = server.get(&format!("{path}?address={address}")).await;
    assert_eq!((&kept["user"], &kept["has_password"]), (&json!("other"), &json!(true)));
}

#[tokio::test]
async fn two_failed_logins_stop_for_good_until_somebody_says_again() {
    let (server, (stand_in, address)) = (server(), stand_in().await);
    let (id, ..) = server.site().await;
    sign_in(&server, &id, &address, "wrong").await;
    for _ in 0..4 {
        look(&server, &id, &by_form(&address)).await;
    }
    assert_eq!(stand_in.door.tried(), (2, 2));
    assert!(look(&server, &id, &by_form(&address)).await["look"]["login_stopped"].as_bool().unwrap());
    assert_eq!(
        server.get(&format!("/api/sites/{id}/gateway/sign-in?address={address}")).await["stopped"],
        json!(true)
    );
    // As after a restart of the program: what was counted is on disk.
    assert_eq!(server.state.store.gateway_secrets(id.parse().unwrap(), &address).unwrap().1, 2);
    let (status, _) =
        server.send("POST", &format!("/api/sites/{id}/gateway/sign-in/again?address={address}"), None).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    look(&server, &id, &by_form(&address)).await;
    assert_eq!(stand_in.door.tried().0, 3);
}

#[tokio::test]
async fn what_was_kept_before_gateways_had_recipes_is_read_still() {
    let (server, id) = demo().await;
    let mut settings = server.get(&format!("/api/sites/{id}")).await["settings"].clone();
    settings["gateway"] = json!({"status_url": "http://127.0.0.1:9/status.json", "poll_interval_ms": 700});
    let (status, kept) = server.save_settings(&id, &settings).await;
    assert_eq!((status, kept["gateway"]["recipe"]["format"].clone()), (StatusCode::OK, json!("json")));
}
