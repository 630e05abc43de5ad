//! The stand-in gateway's door: three ways to sign in, sessions that run out, and a lock after too many failures.

use crate::serve::StandIn;
use axum::extract::{Form, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use axum::{Json, Router};
use base64::Engine;
use serde::Deserialize;
use serde_json::json;
use sha2::{Digest, Sha256};
use std::collections::HashSet;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

/// The only account: invented, and the same on every stand-in.
pub const USER: &str = "keeper";
/// Its password.
pub const PASSWORD: &str = "lantern & oil";
/// Failed logins after which nobody is let in any more.
pub const LOCKED_AFTER: u32 = 3;

#[derive(Debug, Default)]
struct Inside {
    sessions: HashSet<String>,
    challenges: HashSet<(String, String)>,
    failed: u32,
    logins: u32,
}

/// Who was let in.
#[derive(Debug, Default)]
pub struct Door(Mutex<Inside>);

type Refusal = (StatusCode, &'static str);

impl Door {
    fn lock(&self) -> MutexGuard<'_, Inside> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Ends all sessions, as a restart or a time-out does.
    pub(crate) fn end_sessions(&self) {
        self.lock().sessions.clear();
    }

    /// Locks the door, as after too many failures.
    pub(crate) fn lock_out(&self) {
        let mut inside = self.lock();
        inside.sessions.clear();
        inside.failed = LOCKED_AFTER;
    }

    /// Logins tried, and failures one after the other.
    pub fn tried(&self) -> (u32, u32) {
        let inside = self.lock();
        (inside.logins, inside.failed)
    }

    fn login(&self, right: bool) -> Result<String, Refusal> {
        let mut inside = self.lock();
        inside.logins += 1;
        if inside.failed >= LOCKED_AFTER {
            return Err((StatusCode::FORBIDDEN, "locked: too many failed logins"));
        }
        if !right {
            inside.failed += 1;
            return Err((StatusCode::UNAUTHORIZED, "wrong name or password"));
        }
        inside.failed = 0;
        let session = uuid::Uuid::now_v7().to_string();
        inside.sessions.insert(session.clone());
        Ok(format!("session={session}; HttpOnly; Path=/"))
    }

    fn knows(&self, headers: &HeaderMap) -> bool {
        let cookie = headers.get(header::COOKIE).and_then(|cookie| cookie.to_str().ok()).unwrap_or_default();
        let session = cookie.split(';').find_map(|one| one.trim().strip_prefix("session="));
        session.is_some_and(|session| self.lock().sessions.contains(session))
    }
}

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
    stand_in.door.lock().challenges.insert((nonce.clone(), token.clone()));
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
    let known = stand_in.door.lock().challenges.remove(&(answered.nonce.clone(), token.to_owned()));
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
