//! Kinds of gateways, the faults that they can have, and the line to them in memory.

use axum::body::Body;
use open_beacon_outbound::{Carried, InProcess, NoAnswer};
use open_beacon_simulator::at::converse;
use open_beacon_simulator::pages::gateway_router;
use open_beacon_simulator::serve::{Fault, StandIn};
use serde_json::{Value, json};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;
use tokio::io::DuplexStream;
use tower::ServiceExt;

/// How long the network would wait for an answer.
const PATIENCE: Duration = Duration::from_secs(5);

/// The stand-in without sockets. Keeps one cookie, as a browser would.
#[derive(Debug)]
pub(super) struct InMemory {
    stand_in: Known,
    cookie: Mutex<Option<axum::http::HeaderValue>>,
}

struct Known(Arc<StandIn>);

impl std::fmt::Debug for Known {
    fn fmt(&self, to: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        to.write_str("StandIn")
    }
}

impl InMemory {
    pub(super) fn of(stand_in: &Arc<StandIn>) -> Self {
        Self { stand_in: Known(stand_in.clone()), cookie: Mutex::default() }
    }

    async fn answer(&self, request: reqwest::Request) -> Result<reqwest::Response, NoAnswer> {
        let mut request = axum::http::Request::<reqwest::Body>::try_from(request)
            .map_err(|_| NoAnswer::NobodyThere)?
            .map(Body::new);
        if let Some(cookie) = &*self.cookie.lock().unwrap_or_else(PoisonError::into_inner) {
            request.headers_mut().insert("cookie", cookie.clone());
        }
        let answer = gateway_router(self.stand_in.0.clone()).oneshot(request);
        let answer = tokio::time::timeout(PATIENCE, answer).await.map_err(|_| NoAnswer::TimedOut)?;
        let answer = answer.map_err(|_| NoAnswer::BrokenOff)?;
        if let Some(cookie) = answer.headers().get("set-cookie") {
            *self.cookie.lock().unwrap_or_else(PoisonError::into_inner) = Some(cookie.clone());
        }
        Ok(answer.map(|body| reqwest::Body::wrap_stream(body.into_data_stream())).into())
    }
}

impl InProcess for InMemory {
    fn carry(&self, request: reqwest::Request) -> Carried<'_> {
        Box::pin(self.answer(request))
    }

    fn connect(&self, _address: &str) -> Option<DuplexStream> {
        let (here, there) = tokio::io::duplex(1 << 12);
        tokio::spawn(converse(there, self.stand_in.0.clone()));
        Some(here)
    }
}

/// A kind of gateway.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Kind {
    Page,
    BehindLogin,
    Tables,
    Modem,
}

impl Kind {
    /// Faults that this kind can have.
    pub(super) fn faults(self) -> &'static [Fault] {
        match self {
            Self::Page => &[
                Fault::Frozen,
                Fault::Hung,
                Fault::LoginPage,
                Fault::WrongType,
                Fault::Slow,
                Fault::Half,
                Fault::Reboot,
                Fault::Torn,
                Fault::ErrorInside,
                Fault::StaleNr,
                Fault::Hops,
                Fault::LocksWithError,
                Fault::IgnoresLocks,
                Fault::RefusesLocks,
                Fault::SlowAttach,
            ],
            Self::BehindLogin => &[
                Fault::LoginExpired,
                Fault::Hung,
                Fault::Reboot,
                Fault::Torn,
                Fault::Half,
                Fault::ErrorInside,
                Fault::Hops,
                Fault::SlowAttach,
            ],
            Self::Tables => {
                &[Fault::Shifts, Fault::Torn, Fault::Half, Fault::StaleNr, Fault::Frozen, Fault::Hung]
            }
            Self::Modem => &[
                Fault::Announces,
                Fault::Half,
                Fault::Hung,
                Fault::Slow,
                Fault::LoginPage,
                Fault::WrongType,
                Fault::Frozen,
                Fault::Hops,
            ],
        }
    }

    pub(super) fn settings(self, address: &str, line: &str) -> Value {
        let lock = json!({"request": {"method": "post", "path": "/lock", "send": "json",
            "body": r#"{"way": "${access}", "lte": [${lte_bands}], "nr": [${nr_bands}]}"#,
            "undo_body": r#"{"way": "any", "lte": [], "nr": []}"#}, "volatile": true, "reattach_s": 20.0});
        let commands = json!({"commands": [
            "AT+BEACONLOCK=\"${access}\",${lte_mask_hex},${lte_mask_high_hex},${nr_mask_hex},${nr_mask_high_hex}"],
            "undo_commands": ["AT+BEACONLOCK=0"], "volatile": true, "reattach_s": 20.0});
        let (url, recipe) = match self {
            Self::Page => (format!("{address}/status.json"), json!({ "lock": lock })),
            Self::BehindLogin => {
                let form = json!({"kind": "steps", "steps": [{"method": "post", "path": "/door/login",
                    "send": "form", "body": "user=${user}&password=${password}"}]});
                (format!("{address}/door/status.json"), json!({"lock": lock, "login": form}))
            }
            Self::Tables => {
                let group = |heading: &str, technology: &str, channel: &str| {
                    let field = |field: &str, name: &str| json!({"field": field, "at": format!("/{name}")});
                    json!({"at": format!("/named/{heading}/rows"), "fields": [
                        {"field": "technology", "at": "", "fixed": technology}, field("band", "Band"),
                        field("channel", channel), field("rsrp_dbm", "RSRP"), field("sinr_db", "SINR")]})
                };
                let map = json!({"carriers":
                    [group("LTE", "lte", "EARFCN"), group("5G NR", "nr", "ARFCN")]});
                let none = json!([{"at": "", "is": "Searching for network"}]);
                let recipe =
                    json!({"lock": lock, "format": "html", "map": map, "checks": {"no_service": none}});
                (format!("{address}/tables.html"), recipe)
            }
            Self::Modem => (line.to_owned(), json!({ "lock": commands })),
        };
        json!({"status_url": url, "poll_interval_ms": 1000, "recipe": recipe})
    }
}

/// What a failure's reason must contain, for one of the faults that were there shortly before; none where a fault is no reason to
/// fail.
pub(super) fn named(fault: Fault, kind: Kind) -> &'static [&'static str] {
    match (fault, kind) {
        (Fault::Hung, _) => &["did not answer", "not attached", "not seen attached"],
        // A restart forgets a lock.
        (Fault::Reboot, _) => &["did not answer", "not attached", "not seen attached", "other bands"],
        (Fault::Half, _) => &["broke off"],
        (Fault::Torn, _) => &["torn"],
        // A modem is asked itself, and this one goes on answering what was before.
        (Fault::Frozen, Kind::Modem) => &["did not change", "other bands", "not attached"],
        (Fault::Frozen, _) => &["did not change"],
        (Fault::LoginPage, Kind::Modem) => &["no modem"],
        // An order that such a page answers was not taken, and nothing in the answer says so.
        (Fault::LoginPage, _) => &["not JSON", "still uses only what the lock allows", "other bands"],
        (Fault::WrongType, _) => {
            &["where a number is needed", "is no code", "still uses only what the lock allows", "other bands"]
        }
        (Fault::ErrorInside, _) => &["reports an error"],
        (Fault::LocksWithError | Fault::RefusesLocks, _) => &["refused"],
        (Fault::IgnoresLocks, _) => &["other bands"],
        (Fault::SlowAttach, _) => &["not attached", "not seen attached", "did not change"],
        _ => &[],
    }
}
