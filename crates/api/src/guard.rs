//! Who may talk to this server: pages of its own origin, and programs on this machine that are not browsers.
//!
//! A web page elsewhere must not be able to post to it, also not by pointing its own name at this address.

use crate::pairing::{Lan, digest};
use crate::problem::Problem;
use crate::routes::lan::COOKIE;
use crate::state::AppState;
use axum::extract::{Request, State};
use axum::http::{HeaderMap, HeaderValue, Method, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use std::sync::Arc;

/// Names under which this server may be asked.
#[derive(Clone, Debug)]
pub struct Guard {
    hosts: Arc<Vec<String>>,
    scheme: &'static str,
    /// Where set, an address written as a number is a name too: it cannot be pointed elsewhere.
    any_number_at: Option<u16>,
}

/// Everything comes from this server; pictures may also be made in the page.
const CONTENT_SECURITY_POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; \
    img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; worker-src 'self'; manifest-src 'self'; \
    frame-ancestors 'none'; base-uri 'none'; form-action 'self'; object-src 'none'";

impl Guard {
    /// A guard for a server on the loopback interface at `port`.
    pub fn loopback(port: u16) -> Self {
        let names = ["127.0.0.1", "localhost", "[::1]"];
        let hosts = Arc::new(names.iter().map(|name| format!("{name}:{port}")).collect());
        Self { hosts, scheme: "http", any_number_at: None }
    }

    /// A guard for a server that the local network reaches by a name or by number.
    pub fn lan(lan: &Lan) -> Self {
        let scheme = if lan.secure { "https" } else { "http" };
        Self {
            hosts: Arc::new(vec![format!("{}:{}", lan.name, lan.port)]),
            scheme,
            any_number_at: Some(lan.port),
        }
    }

    fn knows(&self, host: &str) -> bool {
        let by_number = || {
            let (address, port) = host.rsplit_once(':')?;
            let address = address.trim_start_matches('[').trim_end_matches(']');
            Some(address.parse::<std::net::IpAddr>().is_ok() && port.parse().ok() == self.any_number_at)
        };
        self.hosts.iter().any(|one| one == host)
            || (self.any_number_at.is_some() && by_number().unwrap_or(false))
    }

    fn check(&self, method: &Method, headers: &HeaderMap, host: Option<&str>) -> Result<(), Problem> {
        let known = |name: &str| self.knows(name);
        if !host.is_some_and(known) {
            return Err(Problem::forbidden(format!(
                "Open this program at {}://{}/.",
                self.scheme, self.hosts[0]
            )));
        }
        if let Some(origin) = headers.get(header::ORIGIN) {
            let same = origin
                .to_str()
                .ok()
                .and_then(|origin| origin.strip_prefix(self.scheme)?.strip_prefix("://"))
                .is_some_and(known);
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

/// The gate to the local network: only devices that were let in, and of the rest only what pairing needs.
#[derive(Clone, Debug)]
pub struct Gate {
    pub app: AppState,
}

/// Marks a request that came over the local network, from a device that was let in.
#[derive(Clone, Copy, Debug)]
pub struct FromPhone;

/// Whether a request says where this program sends what: addresses, recipes, name and password, whole sites from files. A phone
/// may measure and note.
fn sets_addresses(method: &Method, path: &str) -> bool {
    if *method == Method::GET || *method == Method::HEAD {
        return false;
    }
    let parts: Vec<&str> = path.trim_start_matches("/api/").split('/').collect();
    matches!(parts.as_slice(), ["sites", _, "gateway" | "wake" | "address-check", ..] | ["import", ..])
}

/// A device's last visit is written down this often at most.
const SEEN_EVERY_MINUTES: i64 = 5;

impl Gate {
    async fn check(&self, method: Method, path: String, token: Option<String>) -> Result<(), Problem> {
        let path = path.as_str();
        // What concerns other devices, and where this program sends what, is for the computer itself.
        if path.starts_with("/api/lan") || sets_addresses(&method, path) {
            return Err(Problem::forbidden("This can be done on the computer only."));
        }
        let shell = ["/pair", "/api/pair", "/sw.js", "/manifest.webmanifest", "/theme.js", "/beacon.svg"]
            .contains(&path)
            || path.starts_with("/assets/")
            || path.starts_with("/icons/");
        let device = match token {
            Some(token) => self.app.db(move |store| store.device_with(&token)).await?,
            None => None,
        };
        match device {
            Some(device) => {
                let now = Utc::now();
                let long_ago = now - chrono::Duration::minutes(SEEN_EVERY_MINUTES);
                if device.last_seen_at.is_none_or(|seen| seen < long_ago) {
                    self.app.db(move |store| store.seen_device(device.id, now)).await?;
                }
                Ok(())
            }
            None if shell => Ok(()),
            None => Err(Problem::not_paired()),
        }
    }
}

fn cookie<'a>(headers: &'a HeaderMap, name: &str) -> Option<&'a str> {
    let cookies = headers.get_all(header::COOKIE).into_iter().filter_map(|one| one.to_str().ok());
    cookies.flat_map(|one| one.split(';')).find_map(|one| one.trim().strip_prefix(name)?.strip_prefix('='))
}

/// Middleware: lets only paired devices through. A person who opens the program's address is led to pairing.
pub async fn gate(State(gate): State<Gate>, mut request: Request, next: Next) -> Response {
    let page = request.headers().get("sec-fetch-mode").is_some_and(|mode| mode == "navigate");
    let token = cookie(request.headers(), COOKIE).map(digest);
    match gate.check(request.method().clone(), request.uri().path().to_owned(), token).await {
        Ok(()) => {
            request.extensions_mut().insert(FromPhone);
            next.run(request).await
        }
        Err(problem) if page && problem.status == 401 => Redirect::to("/pair").into_response(),
        Err(problem) => problem.into_response(),
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
        // A file of the user's has a stricter policy of its own.
        headers.entry(name).or_insert(HeaderValue::from_static(value));
    }
    response
}
