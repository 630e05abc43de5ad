//! On the roof: points that waited on a phone, phones that are let in, rehearsals.

use crate::recording::measured_site;
use crate::{Server, body, id, server};
use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use axum::middleware::from_fn_with_state;
use chrono::{Duration, Utc};
use open_beacon_api::pairing::Lan;
use open_beacon_api::{Gate, Guard, guard};
use serde_json::{Value, json};
use tower::ServiceExt;

async fn sweep(server: &Server, site: &str) -> String {
    let position = server.get(&format!("/api/sites/{site}")).await["positions"][0]["position"]["id"].clone();
    let body = json!({"id": id(700), "position_id": position, "expected_deg": 143.0});
    server.send("POST", &format!("/api/sites/{site}/sweeps"), Some(body)).await;
    format!("/api/sites/{site}/sweeps/{}", id(700))
}

#[tokio::test(flavor = "multi_thread")]
async fn a_point_that_waited_is_measured_from_what_was_heard_then() {
    let server = server();
    let (site, ..) = measured_site(&server).await;
    let path = sweep(&server, &site).await;
    // Nobody looks: the sweep alone keeps the gateway watched.
    tokio::time::sleep(std::time::Duration::from_secs(4)).await;
    // The phone's clock is an hour slow, and it knows.
    let pressed = Utc::now() - Duration::seconds(3) - Duration::hours(1);
    let late = |number: u128, pressed: chrono::DateTime<Utc>| {
        json!({"id": id(number), "angle_deg": 115.0, "samples": 3, "pressed_at": pressed,
            "clock_offset_ms": 3_600_000, "held_s": 20.0})
    };
    let stops = format!("{path}/stops");
    let (status, state) = server.send("POST", &stops, Some(late(710, pressed))).await;
    assert_eq!((status, &state["running"]), (StatusCode::ACCEPTED, &json!(false)), "{state}");
    assert!(state["taken"].as_u64().unwrap() >= 1 && state["problem"].is_null(), "{state}");
    // Sent again because the answer was lost: still one.
    server.send("POST", &stops, Some(late(710, pressed))).await;
    // Pressed while the gateway was not heard: kept, told, left out of the fit.
    let (_, state) = server.send("POST", &stops, Some(late(711, pressed - Duration::hours(5)))).await;
    assert!(state["problem"].as_str().unwrap().contains("not heard"), "{state}");
    let view = server.get(&path).await;
    let kept = view["stops"].as_array().unwrap();
    assert_eq!((kept.len(), &kept[1]["left_out"], &kept[1]["samples"]), (2, &json!(true), &json!(0)));

    let note = json!({"id": id(720), "text": "Fir in the way", "at": "2026-05-01T12:00:00Z"});
    for _ in 0..2 {
        let (status, _) = server.send("POST", &format!("{path}/notes"), Some(note.clone())).await;
        assert_eq!(status, StatusCode::CREATED);
    }
    let view = server.get(&path).await;
    assert_eq!(
        view["sweep"]["notes"],
        json!([{"id": id(720), "at": "2026-05-01T12:00:00Z", "text": "Fir in the way"}])
    );
    let photo = format!("{path}/photos?id={}&file_name=roof.jpg&taken_at=2026-05-01T12:00:00Z", id(722));
    let jpeg = vec![0xFF, 0xD8, 0xFF, 0xE0, 1, 2, 3];
    for _ in 0..2 {
        let (status, _) = server.bytes("POST", &photo, jpeg.clone(), "application/octet-stream").await;
        assert_eq!(status, StatusCode::CREATED);
    }
    let photos = server.get(&path).await["photos"].clone();
    assert_eq!((photos.as_array().unwrap().len(), &photos[0]["media_type"]), (1, &json!("image/jpeg")));
    let (_, back) = server.bytes("GET", &format!("/api/sweep-photos/{}", id(722)), Vec::new(), "").await;
    assert_eq!(back, jpeg);
    let other = photo.replace(&id(722), &id(723));
    let (status, _) = server.bytes("POST", &other, b"<svg>".to_vec(), "application/octet-stream").await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
    let none = json!({"id": id(721), "text": "  "});
    let (status, _) = server.send("POST", &format!("{path}/notes"), Some(none)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

fn lan() -> Lan {
    Lan {
        secure: true,
        name: "open-beacon-test.local".into(),
        port: 7443,
        trust_port: None,
        authority_sha256: None,
    }
}

fn open(server: &Server) -> Router {
    server.state.lan.set(lan()).unwrap();
    server
        .router
        .clone()
        .layer(from_fn_with_state(Gate { app: server.state.clone() }, guard::gate))
        .layer(from_fn_with_state(Guard::lan(&lan()), guard::guard))
}

async fn ask(
    router: &Router,
    method: &str,
    path: &str,
    cookie: &str,
    content: Option<Value>,
) -> (StatusCode, Value, String) {
    ask_at(router, "open-beacon-test.local:7443", method, path, cookie, content).await
}

async fn ask_at(
    router: &Router,
    host: &str,
    method: &str,
    path: &str,
    cookie: &str,
    content: Option<Value>,
) -> (StatusCode, Value, String) {
    let request = Request::builder()
        .method(method)
        .uri(path)
        .header("host", host)
        .header("cookie", format!("other=1; {cookie}"))
        .header("content-type", "application/json")
        .body(content.map_or_else(Body::empty, |content| Body::from(content.to_string())));
    let response = router.clone().oneshot(request.unwrap()).await.unwrap();
    let set =
        response.headers().get(header::SET_COOKIE).and_then(|set| set.to_str().ok()).unwrap_or("").to_owned();
    let (status, value) = body(response).await;
    (status, value, set)
}

#[tokio::test]
async fn the_network_gets_nothing_until_a_phone_is_let_in_by_a_code_that_opens_once() {
    let server = server();
    let router = open(&server);
    for path in ["/api/sites", "/api/openapi.json", "/", "/api/time", "/sites/1/aim"] {
        assert_eq!(ask(&router, "GET", path, "", None).await.0, StatusCode::UNAUTHORIZED, "{path}");
    }
    let code = server.post("/api/lan/code", &json!({})).await["code"]["code"].as_str().unwrap().to_owned();
    let pair = |code: &str| json!({"code": code, "name": "Phone"});
    let (status, problem, _) = ask(&router, "POST", "/api/pair", "", Some(pair("AAAA2222"))).await;
    assert_eq!(status, StatusCode::FORBIDDEN);
    assert!(problem["detail"].as_str().unwrap().contains("ten minutes"));
    let typed = format!("{} {}", &code[..4].to_lowercase(), &code[4..]);
    let (status, device, set) = ask(&router, "POST", "/api/pair", "", Some(pair(&typed))).await;
    assert_eq!(status, StatusCode::CREATED, "{device}");
    for part in ["HttpOnly", "SameSite=Strict", "Secure"] {
        assert!(set.contains(part), "{set}");
    }
    let (status, ..) = ask(&router, "POST", "/api/pair", "", Some(pair(&code))).await;
    assert_eq!(status, StatusCode::FORBIDDEN, "a code opens once");

    let cookie = set.split(';').next().unwrap();
    assert_eq!(ask(&router, "GET", "/api/sites", cookie, None).await.0, StatusCode::OK);
    // By number too, and under no other name; nothing that concerns other devices.
    assert_eq!(
        ask_at(&router, "192.168.7.4:7443", "GET", "/api/sites", cookie, None).await.0,
        StatusCode::OK
    );
    for host in ["192.168.7.4:80", "evil.example:7443", "open-beacon-test.local:80"] {
        assert_eq!(
            ask_at(&router, host, "GET", "/api/sites", cookie, None).await.0,
            StatusCode::FORBIDDEN,
            "{host}"
        );
    }
    for (method, path) in [("GET", "/api/lan"), ("POST", "/api/lan/code")] {
        assert_eq!(ask(&router, method, path, cookie, None).await.0, StatusCode::FORBIDDEN, "{path}");
    }
    let seen = server.get("/api/lan").await;
    assert_eq!(seen["devices"].as_array().unwrap().len(), 1);
    assert!(seen["devices"][0]["last_seen_at"].is_string());
    let (site, ..) = server.site().await;
    let request = Request::builder()
        .uri(format!("/api/sites/{site}/events"))
        .header("host", "open-beacon-test.local:7443")
        .header("cookie", cookie);
    let stream = router.clone().oneshot(request.body(Body::empty()).unwrap()).await.unwrap();
    assert_eq!(stream.status(), StatusCode::OK);
    tokio::task::yield_now().await;
    let path = format!("/api/lan/devices/{}", device["id"].as_str().unwrap());
    assert_eq!(server.send("DELETE", &path, None).await.0, StatusCode::NO_CONTENT);
    let heard = axum::body::to_bytes(stream.into_body(), usize::MAX);
    let ended = tokio::time::timeout(std::time::Duration::from_secs(5), heard).await;
    assert!(ended.is_ok(), "a stream that was open ends with the device");
    assert_eq!(ask(&router, "GET", "/api/sites", cookie, None).await.0, StatusCode::UNAUTHORIZED);
    let token = cookie.split('=').nth(1).unwrap();
    let raw = std::fs::read(server.state.store.path()).unwrap();
    assert!(!raw.windows(64).any(|bytes| bytes == token.as_bytes()), "of a token only the digest is kept");
}

#[tokio::test]
async fn guessing_voids_the_code() {
    let server = server();
    let router = open(&server);
    let code = server.post("/api/lan/code", &json!({})).await["code"]["code"].as_str().unwrap().to_owned();
    for _ in 0..5 {
        ask(&router, "POST", "/api/pair", "", Some(json!({"code": "22222222", "name": "x"}))).await;
    }
    let (status, ..) = ask(&router, "POST", "/api/pair", "", Some(json!({"code": code, "name": "x"}))).await;
    assert_eq!(status, StatusCode::FORBIDDEN);
    // An old one does not open either.
    let pairing = &server.state.pairing;
    let old = pairing.renew(Utc::now() - Duration::minutes(11));
    assert!(pairing.current(Utc::now()).is_none() && !pairing.open_with(&old.text, Utc::now()));
}

#[tokio::test(flavor = "multi_thread")]
async fn a_rehearsal_hides_its_truth_until_the_antenna_is_set() {
    for (number, kind) in [(1u128, "clean_mast"), (2, "interferer"), (3, "hopping")] {
        let server = server();
        let (site, position) = (id(800 + number), id(810 + number));
        let new = json!({"id": site, "position_id": position, "kind": kind});
        let (status, made) = server.send("POST", "/api/rehearsals", Some(new.clone())).await;
        assert_eq!(status, StatusCode::CREATED, "{made}");
        assert_eq!(
            server.send("POST", "/api/rehearsals", Some(new)).await.1["id"],
            made["id"],
            "twice is once"
        );
        let body = json!({"id": id(820), "position_id": position});
        server.send("POST", &format!("/api/sites/{site}/sweeps"), Some(body)).await;
        let path = format!("/api/sites/{site}/sweeps/{}", id(820));
        assert_eq!(server.send("GET", &format!("{path}/score"), None).await.0, StatusCode::CONFLICT);
        let pose = server.get(&format!("/api/sites/{site}/stand-in")).await;
        assert_eq!(pose["antenna"], "external");
        server.send("PUT", &path, Some(json!({"set_deg": 0.0}))).await;
        let truth = server.get(&format!("{path}/score")).await;
        let best = truth["score"]["best_deg"].as_f64().unwrap();
        server.send("PUT", &path, Some(json!({"set_deg": best}))).await;
        let won = server.get(&format!("{path}/score")).await;
        assert!(won["score"]["db_lost"].as_f64().unwrap() < 0.2, "{kind}: {won}");
        server.send("PUT", &path, Some(json!({"set_deg": (best + 180.0) % 360.0}))).await;
        let lost = server.get(&format!("{path}/score")).await;
        assert!(lost["score"]["db_lost"].as_f64().unwrap() > 3.0, "{kind}: {lost}");
        if kind == "interferer" {
            let top = |key: &str| {
                let points = truth["truth"].as_array().unwrap();
                let worth = |point: &&Value| (point[key].as_f64().unwrap() * 1e6) as i64;
                points.iter().max_by_key(worth).unwrap()["azimuth_deg"].as_f64().unwrap()
            };
            let apart = open_beacon_core::geo::turn_deg(top("rsrp_dbm"), top("sinr_db")).abs();
            assert!(apart >= 8.0, "strongest and cleanest part ways: {apart}");
        }
    }
}
