//! How long a connection may take to say what it wants: half-open ones must not pile up.

use axum::Router;
use axum_server::accept::Accept;
use axum_server::{Address, Server};
use std::time::Duration;
use tower_http::timeout::RequestBodyTimeoutLayer;

/// To the end of a request's header.
const HEADER: Duration = Duration::from_secs(15);
/// From a new connection to its first request.
const FIRST_REQUEST: Duration = Duration::from_secs(30);
/// Between two parts of a request's body.
const BODY_PART: Duration = Duration::from_secs(30);

/// A server that closes connections which say nothing.
pub(crate) fn patient<A: Address, Acceptor: Accept<A::Stream, Router>>(
    server: Server<A, Acceptor>,
) -> Server<A, Acceptor> {
    let mut server = server.first_request_timeout(FIRST_REQUEST).accept_error_handler(|from, error| {
        // Of no one in particular: the system gives no more sockets. The server waits and goes on.
        if from.is_none() {
            tracing::warn!("no connection can be taken for the moment: {error}");
        }
    });
    server.http_builder().http1().header_read_timeout(HEADER);
    server
}

/// An application that gives up on a body which stops coming.
pub(crate) fn with_body_timeout(app: Router) -> Router {
    app.layer(RequestBodyTimeoutLayer::new(BODY_PART))
}
