//! The application as it is served to whoever the guards before it let through.

use crate::assets;
use axum::Router;
use axum::extract::DefaultBodyLimit;
use axum::routing::get;
use open_beacon_api::AppState;
use open_beacon_core::limits::LARGEST_REQUEST_BYTES;
use tower_http::compression::CompressionLayer;
use tower_http::compression::predicate::{DefaultPredicate, NotForContentType, Predicate};

/// The application without a guard before it.
pub(crate) fn unguarded(state: AppState) -> Router {
    let compressed = CompressionLayer::new()
        .compress_when(DefaultPredicate::new().and(NotForContentType::new("text/event-stream")));
    open_beacon_api::router(state)
        .fallback(get(assets::serve))
        .layer(DefaultBodyLimit::max(LARGEST_REQUEST_BYTES))
        .layer(compressed)
}
