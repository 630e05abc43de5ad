//! The serving end that a test can be run against. Documented in `docs/formats/speed-test-server.md`.

use crate::transfer::noise;
use axum::Router;
use axum::body::{Body, Bytes};
use axum::extract::{DefaultBodyLimit, Query, State};
use axum::http::StatusCode;
use axum::response::IntoResponse;
use axum::routing::{get, post};
use axum::serve::{Listener, ListenerExt};
use futures::StreamExt;
use futures::future::BoxFuture;
use serde::Deserialize;
use std::net::SocketAddr;
use std::sync::Arc;
use tokio::net::{TcpListener, TcpStream};

/// Which way bytes go, seen from the household.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Direction {
    Down,
    Up,
}

/// Holds transfers back to what a line would carry.
pub trait Shape: Send + Sync + 'static {
    /// Resolves when `bytes` may pass; `false` breaks the transfer off.
    fn admit(&self, direction: Direction, bytes: usize) -> BoxFuture<'_, bool>;
    /// Resolves after one round trip's delay.
    fn delay(&self) -> BoxFuture<'_, ()>;
    /// Longest transfer, bytes.
    fn longest_bytes(&self) -> u64 {
        DEFAULT_LENGTH
    }
}

/// Lets everything pass at once.
#[derive(Clone, Copy, Debug, Default)]
pub struct Unshaped;

impl Shape for Unshaped {
    fn admit(&self, _: Direction, _: usize) -> BoxFuture<'_, bool> {
        Box::pin(std::future::ready(true))
    }
    fn delay(&self) -> BoxFuture<'_, ()> {
        Box::pin(std::future::ready(()))
    }
}

const CHUNK: usize = 16 << 10;
/// Longest body served when no length is asked for.
const DEFAULT_LENGTH: u64 = 10 << 30;

#[derive(Deserialize)]
struct Length {
    bytes: Option<u64>,
}

/// Connections that send what there is at once: the end of a short answer would otherwise wait until its beginning is acknowledged (RFC 896), up to half a
/// second (RFC 1122, 4.2.3.2).
pub fn without_delay(listener: TcpListener) -> impl Listener<Io = TcpStream, Addr = SocketAddr> {
    listener.tap_io(|connection| {
        // Where the system refuses, answers are right and late.
        let _ = connection.set_nodelay(true);
    })
}

/// `GET /down?bytes=N`, `POST /up`, `GET /ping`.
pub fn router<S: Shape>(shape: Arc<S>) -> Router {
    Router::new()
        .route("/down", get(down::<S>))
        .route("/up", post(up::<S>))
        .route("/ping", get(ping::<S>))
        .layer(DefaultBodyLimit::disable())
        .with_state(shape)
}

async fn ping<S: Shape>(State(shape): State<Arc<S>>) -> &'static str {
    shape.delay().await;
    "pong\n"
}

async fn down<S: Shape>(State(shape): State<Arc<S>>, Query(length): Query<Length>) -> impl IntoResponse {
    let left = length.bytes.unwrap_or(u64::MAX).min(shape.longest_bytes());
    shape.delay().await;
    let body = futures::stream::unfold((shape, left), move |(shape, left)| {
        async move {
            if left == 0 {
                return None;
            }
            // Other bytes every time: what comes again within some kilobytes is compressed as well as zeros are.
            let now = noise(left.min(CHUNK as u64) as usize);
            if !shape.admit(Direction::Down, now.len()).await {
                return Some((Err(std::io::Error::other("the line is down")), (shape, 0)));
            }
            let rest = left - now.len() as u64;
            Some((Ok::<Bytes, std::io::Error>(now), (shape, rest)))
        }
    });
    (
        [("content-type", "application/octet-stream"), ("cache-control", "no-store, no-transform")],
        Body::from_stream(body),
    )
}

async fn up<S: Shape>(State(shape): State<Arc<S>>, body: Body) -> StatusCode {
    let mut body = body.into_data_stream();
    let mut left = shape.longest_bytes();
    shape.delay().await;
    while let Some(chunk) = body.next().await {
        let Ok(chunk) = chunk else { return StatusCode::BAD_REQUEST };
        let Some(rest) = left.checked_sub(chunk.len() as u64) else { return StatusCode::PAYLOAD_TOO_LARGE };
        left = rest;
        if !shape.admit(Direction::Up, chunk.len()).await {
            return StatusCode::SERVICE_UNAVAILABLE;
        }
    }
    StatusCode::NO_CONTENT
}
