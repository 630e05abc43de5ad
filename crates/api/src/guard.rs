//! Who may talk to this server: pages of its own origin, and programs on this machine that are not browsers.
//!
//! A web page elsewhere must not be able to post to it, also not by pointing its own name at this address.

use crate::problem::Problem;
use axum::extract::{Request, State};
use axum::http::{HeaderMap, HeaderValue, Method, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use std::sync::Arc;

/// Names under which this server may be asked.
#[derive(Clone, Debug)]
pub struct Guard {
    hosts: Arc<Vec<String>>,
}

/// Everything comes from this server; pictures may also be made in the page.
const CONTENT_SECURITY_POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; \
    img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; worker-src 'self'; manifest-src 'self'; \
    frame-ancestors 'none'; base-uri 'none'; form-action 'self'; object-src 'none'";

impl Guard {
    /// A guard for a server on the loopback interface at `port`.
    pub fn loopback(port: u16) -> Self {
        let names = ["127.0.0.1", "localhost", "[::1]"];
        Self { hosts: Arc::new(names.iter().map(|name| format!("{name}:{port}")).collect()) }
    }

    fn check(&self, method: &Method, headers: &HeaderMap, host: Option<&str>) -> Result<(), Problem> {
        let known = |name: &str| self.hosts.iter().any(|host| host == name);
        if !host.is_some_and(known) {
            return Err(Problem::forbidden(format!("Open this program at http://{}/.", self.hosts[0])));
        }
        if let Some(origin) = headers.get(header::ORIGIN) {
            let same =
                origin.to_str().ok().and_then(|origin| origin.strip_prefix("http://")).is_some_and(known);
            if !same {
                return Err(Problem::forbidden("Requests from other web pages are refused."));
            }
        }
        let site = headers.get("sec-fetch-site").map(HeaderValue::as_bytes);
        let navigation = headers.get("sec-fetch-mode").is_some_and(|mode| mode == "navigate");
        match site {
            None | Some(b"same-origin" | b"none") => Ok(()),
            // A link from elsewhere may open the program, but nothing else.
            Some(_) if navigation && method == Method::GET => Ok(()),
            Some(_) => Err(Problem::forbidden("Requests from other web pages are refused.")),
        }
    }
}

/// Middleware: checks each request, and puts the security headers on each answer.
pub async fn guard(State(guard): State<Guard>, request: Request, next: Next) -> Response {
    let host = request.headers().get(header::HOST).and_then(|host| host.to_str().ok());
    let host = host.or_else(|| request.uri().authority().map(axum::http::uri::Authority::as_str));
    let mut response = match guard.check(request.method(), request.headers(), host) {
        Ok(()) => next.run(request).await,
        Err(problem) => problem.into_response(),
    };
    let headers = response.headers_mut();
    for (name, value) in [
        ("content-security-policy", CONTENT_SECURITY_POLICY),
        ("x-content-type-options", "nosniff"),
        ("referrer-policy", "no-referrer"),
        ("cross-origin-opener-policy", "same-origin"),
        ("cross-origin-resource-policy", "same-origin"),
    ] {
        headers.insert(name, HeaderValue::from_static(value));
    }
    response
}
