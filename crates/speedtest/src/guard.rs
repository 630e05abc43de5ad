//! The serving end on a rented host: who may use it, and how much.

use crate::serve::{Direction, Shape, router};
use axum::Router;
use axum::body::Body;
use axum::extract::{Request, State};
use axum::http::header::{AUTHORIZATION, RETRY_AFTER};
use axum::http::{HeaderMap, StatusCode, Uri};
use axum::middleware::{Next, from_fn_with_state};
use axum::response::{IntoResponse, Response};
use futures::StreamExt;
use futures::future::BoxFuture;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::sync::Semaphore;
use tokio::time::Instant;

/// What a serving end gives.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Limits {
    /// Who knows it may test; anybody where there is none.
    pub token: Option<String>,
    /// Longest transfer, bytes.
    pub transfer_bytes: u64,
    /// Most requests at a time.
    pub at_once: usize,
    /// Most bytes of any 24 hours, both ways together.
    pub day_bytes: u64,
}

/// Longest time of a transfer: nobody keeps a place for himself.
const LONGEST: Duration = Duration::from_secs(120);
const DAY: Duration = Duration::from_secs(24 * 3600);

/// Counts what passes, and lets nothing pass beyond the limits.
#[derive(Debug)]
struct Allowance {
    transfer_bytes: u64,
    day_bytes: u64,
    began: Mutex<Instant>,
    passed: AtomicU64,
}

impl Allowance {
    fn take(&self, bytes: usize) -> bool {
        let mut began = self.began.lock().unwrap_or_else(PoisonError::into_inner);
        if began.elapsed() >= DAY {
            *began = Instant::now();
            self.passed.store(0, Ordering::Relaxed);
        }
        let before = self.passed.fetch_add(bytes as u64, Ordering::Relaxed);
        before + bytes as u64 <= self.day_bytes
    }
}

impl Shape for Allowance {
    fn admit(&self, _: Direction, bytes: usize) -> BoxFuture<'_, bool> {
        Box::pin(std::future::ready(self.take(bytes)))
    }
    fn delay(&self) -> BoxFuture<'_, ()> {
        Box::pin(std::future::ready(()))
    }
    fn longest_bytes(&self) -> u64 {
        self.transfer_bytes
    }
}

#[derive(Clone, Debug)]
struct Door {
    token: Option<Arc<str>>,
    free: Arc<Semaphore>,
}

/// The serving end within `limits`. Who has no token is told 401, who comes while too many test 503; a transfer beyond its length
/// ends (download) or is told 413 (upload), one beyond the day's data breaks off.
pub fn limited(limits: &Limits) -> Router {
    let allowance = Allowance {
        transfer_bytes: limits.transfer_bytes,
        day_bytes: limits.day_bytes,
        began: Mutex::new(Instant::now()),
        passed: AtomicU64::new(0),
    };
    let door = Door {
        token: limits.token.as_deref().map(Arc::from),
        free: Arc::new(Semaphore::new(limits.at_once)),
    };
    router(Arc::new(allowance)).layer(from_fn_with_state(door, enter))
}

async fn enter(State(door): State<Door>, request: Request, next: Next) -> Response {
    if let Some(token) = &door.token
        && !knows(token, request.uri(), request.headers())
    {
        return (StatusCode::UNAUTHORIZED, "The address needs ?token= with the right token.\n")
            .into_response();
    }
    let Ok(place) = door.free.try_acquire_owned() else {
        let later = [(RETRY_AFTER, "10")];
        return (StatusCode::SERVICE_UNAVAILABLE, later, "Too many tests at a time.\n").into_response();
    };
    let until = Instant::now() + LONGEST;
    let Ok(answer) = tokio::time::timeout_at(until, next.run(request)).await else {
        return (StatusCode::REQUEST_TIMEOUT, "A transfer may take two minutes.\n").into_response();
    };
    // The place is free again when the last byte of the answer has left, or its time is over.
    let (parts, body) = answer.into_parts();
    let body = body.into_data_stream().take_until(tokio::time::sleep_until(until)).inspect(move |_| {
        let _ = &place;
    });
    Response::from_parts(parts, Body::from_stream(body))
}

/// Whether a request bears the token: as `?token=`, or as a bearer's (RFC 6750).
fn knows(token: &str, uri: &Uri, headers: &HeaderMap) -> bool {
    let bearer = headers.get(AUTHORIZATION).and_then(|value| value.to_str().ok()?.strip_prefix("Bearer "));
    let asked = uri.query().unwrap_or_default().split('&').find_map(|pair| pair.strip_prefix("token="));
    bearer.or(asked).is_some_and(|given| same(given.as_bytes(), token.as_bytes()))
}

/// Equality in a time that does not tell how much was right.
fn same(given: &[u8], wanted: &[u8]) -> bool {
    let differ = given.iter().zip(wanted).fold(0, |all, (a, b)| all | (a ^ b));
    given.len() == wanted.len() && std::hint::black_box(differ) == 0
}
