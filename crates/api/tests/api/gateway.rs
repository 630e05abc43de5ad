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

async fn recorded_until(server: &Server, path: &str, done: impl Fn(&Value) -> bool) -> Value {
    for _ in 0..300 {
        let view = server.get(path).await;
        if done(&view) {
            return view;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    panic!("it did not come to that: {}", server.get(path).await);
}

/// Answers are taken in the background, a part can be stopped and gone on with, and no secret is in them; a recipe made of them
/// reads them.
#[tokio::test]
async fn a_page_is_recorded_part_by_part_and_a_recipe_tried_on_it() {
    let (server, (_, address)) = (server(), stand_in().await);
    let (id, ..) = server.site().await;
    sign_in(&server, &id, &address, PASSWORD).await;
    let path = format!("/api/sites/{id}/gateway/test/recording");
    let nothing = server.get(&path).await;
    assert_eq!((&nothing["running"], &nothing["recording"]["answers"]), (&Value::Null, &json!([])));
    let begin = async |gateway: Value, line: &str| {
        server.send("POST", &path, Some(json!({"gateway": gateway, "line": line}))).await
    };
    let (status, view) = begin(by_form(&address), "idle").await;
    assert_eq!((status, &view["running"], &view["wanted"]), (StatusCode::OK, &json!("idle"), &json!(10)));
    assert_eq!(begin(by_form(&address), "traffic").await.0, StatusCode::CONFLICT);
    recorded_until(&server, &path, |view| view["taken"].as_u64() >= Some(2)).await;
    let (_, stopped) = server.send("DELETE", &path, None).await;
    let first = stopped["recording"]["answers"].as_array().unwrap().len();
    assert!(stopped["running"].is_null() && first >= 2, "{stopped}");

    assert_eq!(begin(by_form(&address), "traffic").await.0, StatusCode::OK);
    recorded_until(&server, &path, |view| view["taken"].as_u64() >= Some(1)).await;
    let (_, view) = server.send("DELETE", &path, None).await;
    let answers = view["recording"]["answers"].as_array().unwrap();
    assert!(answers.len() > first && answers.last().unwrap()["line"] == "traffic", "{answers:?}");
    assert!(!view.to_string().contains(PASSWORD));

    let recipe = by_form(&address)["recipe"].clone();
    let trial = json!({"recipe": recipe, "recording": view["recording"]});
    let tried = server.post("/api/gateway-recipes/try", &trial).await;
    assert!(
        tried["tried"].as_array().unwrap().iter().all(|one| one["read"]["reading"].is_object()),
        "{tried}"
    );
    assert!(
        tried["fields"].as_array().unwrap().iter().any(|field| field["read_as"] == "rsrp_dbm"),
        "{tried}"
    );

    // A gateway that is not there ends it with its reason, and what can be said of a modem is said at once.
    assert_eq!(
        begin(json!({"status_url": "http://127.0.0.1:9/", "poll_interval_ms": 500}), "idle").await.0,
        StatusCode::OK
    );
    let view = recorded_until(&server, &path, |view| view["running"].is_null()).await;
    assert!(view["problem"].as_str().is_some_and(|problem| problem.contains("nothing answers")), "{view}");
    let (status, problem) =
        begin(json!({"status_url": "tcp://127.0.0.1:9", "poll_interval_ms": 500}), "idle").await;
    assert_eq!(
        (status, &problem["errors"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/gateway/status_url"))
    );
    let long = json!({"line": "idle", "after_ms": 0, "body": "x".repeat(200_000)});
    let (status, _) = server
        .send(
            "POST",
            "/api/gateway-recipes/try",
            Some(json!({"recipe": {}, "recording": {"answers": [long]}})),
        )
        .await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}
