//! The gateway's own address: its page, the same behind a login and in other layouts, and its faults.

use crate::lock::Lock;
use crate::serve::{Fault, StandIn};
use axum::body::Body;
use axum::extract::{Request, State};
use axum::http::{StatusCode, header};
use axum::middleware::Next;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::{get, post};
use axum::{Json, Router};
use serde_json::json;
use std::sync::Arc;
use std::time::Duration;

const SLOW: Duration = Duration::from_secs(3);

/// The gateway's own address: `GET /status.json`, the same behind a login (`/door/…`), and other layouts of it.
pub fn gateway_router(stand_in: Arc<StandIn>) -> Router {
    Router::new()
        .route("/status.json", get(status))
        .route("/lock", post(lock_bands))
        .merge(crate::doorway::routes())
        .merge(crate::layouts::routes())
        .layer(axum::middleware::from_fn_with_state(stand_in.clone(), faulty))
        .with_state(stand_in)
}

async fn status(State(stand_in): State<Arc<StandIn>>) -> Response {
    ([(header::CACHE_CONTROL, "no-store")], Json(stand_in.page())).into_response()
}

/// Takes a lock: `{"way": "nsa", "lte": [20], "nr": []}`; empty lists are free.
async fn lock_bands(State(stand_in): State<Arc<StandIn>>, Json(wanted): Json<Lock>) -> Response {
    if stand_in.set_lock(wanted) {
        let failed = stand_in.fault() == Fault::LocksWithError;
        Json(json!({ "result": if failed { "error" } else { "ok" } })).into_response()
    } else {
        (StatusCode::CONFLICT, Json(json!({ "result": "refused" }))).into_response()
    }
}

/// Faults on request, before or in place of the page.
async fn faulty(State(stand_in): State<Arc<StandIn>>, request: Request, next: Next) -> Response {
    match stand_in.fault() {
        Fault::Hung | Fault::Reboot => {
            tokio::time::sleep(Duration::from_secs(60)).await;
            StatusCode::GATEWAY_TIMEOUT.into_response()
        }
        Fault::Slow => {
            tokio::time::sleep(SLOW).await;
            next.run(request).await
        }
        Fault::Half => {
            let whole = stand_in.page().to_string();
            let half = bytes::Bytes::from(whole[..whole.len() / 2].to_owned());
            let broken = futures::stream::iter([Ok(half), Err(std::io::Error::other("cable pulled"))]);
            Body::from_stream(broken).into_response()
        }
        Fault::Torn => {
            let whole = next.run(request).await;
            let (mut parts, body) = whole.into_parts();
            let bytes = axum::body::to_bytes(body, 1 << 20).await.unwrap_or_default();
            let half = Body::from(bytes.slice(..bytes.len() / 2));
            parts.headers.remove(header::CONTENT_LENGTH);
            Response::from_parts(parts, half)
        }
        Fault::ErrorInside => Json(json!({"error_code": 125_002, "radio": {"mode": "lte", "carriers": [
            {"technology": "lte", "role": "primary", "band": 3, "channel": 1300, "rsrp": 0, "rsrq": 0, "sinr": 0}]}}))
        .into_response(),
        Fault::LoginPage => Html("<html><body><h1>Please sign in</h1></body></html>").into_response(),
        Fault::WrongType => Json(json!({"radio": {"mode": "lte", "carriers": [
            {"technology": "lte", "role": "primary", "band": 3, "rsrp": "strong"}]}}))
        .into_response(),
        Fault::None
        | Fault::Frozen
        | Fault::NoUpload
        | Fault::LoginExpired
        | Fault::LockedOut
        | Fault::IgnoresLocks
        | Fault::RefusesLocks
        | Fault::StaleNr
        | Fault::Hops
        | Fault::Shifts
        | Fault::Announces
        | Fault::LocksWithError
        | Fault::SlowAttach => next.run(request).await,
    }
}
