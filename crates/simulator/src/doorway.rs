//! The pages behind the door, and the ways of signing in.

use crate::door::{PASSWORD, USER};
use crate::serve::StandIn;
use axum::extract::{Form, State};
use axum::http::{HeaderMap, header};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use axum::{Json, Router};
use base64::Engine;
use serde::Deserialize;
use serde_json::json;
use sha2::{Digest, Sha256};
use std::sync::Arc;

/// `/door/…`: pages behind a login.
pub(crate) fn routes() -> Router<Arc<StandIn>> {
    Router::new()
        .route("/door/status.json", get(behind_session))
        .route("/door/login", post(by_form))
        .route("/door/challenge", get(challenge))
        .route("/door/answer", post(by_answer))
        .route("/door/basic.json", get(behind_basic))
}

const LOGIN_PAGE: &str = "<!doctype html><html><head><title>Gateway</title></head><body><form>\
    <input name=\"user\"><input type=\"password\" name=\"password\"></form></body></html>";

async fn behind_session(State(stand_in): State<Arc<StandIn>>, headers: HeaderMap) -> Response {
    if stand_in.door.knows(&headers) {
        Json(stand_in.page()).into_response()
    } else {
        Html(LOGIN_PAGE).into_response()
    }
}

#[derive(Deserialize)]
struct Named {
    user: String,
    password: String,
}

async fn by_form(State(stand_in): State<Arc<StandIn>>, Form(named): Form<Named>) -> Response {
    let right = named.user == USER && named.password == PASSWORD;
    match stand_in.door.login(right) {
        Ok(cookie) => ([(header::SET_COOKIE, cookie)], "welcome").into_response(),
        Err(refusal) => refusal.into_response(),
    }
}

fn hex(text: &str) -> String {
    Sha256::digest(text.as_bytes()).iter().map(|byte| format!("{byte:02x}")).collect()
}

async fn challenge(State(stand_in): State<Arc<StandIn>>) -> Response {
    let (nonce, token) = (uuid::Uuid::now_v7().to_string(), uuid::Uuid::now_v7().to_string());
    stand_in.door.ask(&nonce, &token);
    Json(json!({ "data": { "nonce": nonce, "csrf": token } })).into_response()
}

#[derive(Deserialize)]
struct Answered {
    user: String,
    nonce: String,
    answer: String,
}

/// The answer is the digest of the password's digest and the nonce; the token comes back in a header, each but once.
async fn by_answer(
    State(stand_in): State<Arc<StandIn>>,
    headers: HeaderMap,
    Json(answered): Json<Answered>,
) -> Response {
    let token = headers.get("x-csrf-token").and_then(|token| token.to_str().ok()).unwrap_or_default();
    let known = stand_in.door.asked(&answered.nonce, token);
    let wanted = hex(&format!("{}{}", hex(PASSWORD), answered.nonce));
    match stand_in.door.login(known && answered.user == USER && answered.answer == wanted) {
        Ok(cookie) => ([(header::SET_COOKIE, cookie)], Json(json!({ "result": "ok" }))).into_response(),
        // Some devices refuse with a success status.
        Err(_) => Json(json!({ "result": "refused" })).into_response(),
    }
}

async fn behind_basic(State(stand_in): State<Arc<StandIn>>, headers: HeaderMap) -> Response {
    let wanted = base64::engine::general_purpose::STANDARD.encode(format!("{USER}:{PASSWORD}"));
    let said = headers.get(header::AUTHORIZATION).and_then(|said| said.to_str().ok()).unwrap_or_default();
    match stand_in.door.login(said == format!("Basic {wanted}")) {
        Ok(_) => Json(stand_in.page()).into_response(),
        Err(refusal) => refusal.into_response(),
    }
}
