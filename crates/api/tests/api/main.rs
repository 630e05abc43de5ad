//! Tests of the HTTP interface, asked as a client would ask.

// A test that cannot go on has failed.
#![allow(clippy::unwrap_used)]

mod aim;
mod as_built;
mod bands;
mod baseline;
mod calc;
mod contract;
mod edits;
mod gateway;
mod guard;
mod hours;
mod kits;
mod outside;
mod protocol;
mod record;
mod recording;
mod refusals;
mod result_tables;
mod roof;
mod round_trip;
mod schema_driven;
mod sites;
mod survey;
mod thread;

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode};
use open_beacon_api::AppState;
use open_beacon_store::Store;
use serde_json::{Value, json};
use tower::ServiceExt;

/// An interface over a fresh data directory.
pub struct Server {
    _directory: tempfile::TempDir,
    pub router: Router,
    pub state: AppState,
}

pub fn server() -> Server {
    let directory = tempfile::tempdir().unwrap();
    let state = AppState::new(Store::open(directory.path()).unwrap()).unwrap();
    Server { router: open_beacon_api::router(state.clone()), state, _directory: directory }
}

pub async fn body(response: axum::response::Response) -> (StatusCode, Value) {
    let status = response.status();
    let bytes = axum::body::to_bytes(response.into_body(), usize::MAX).await.unwrap();
    (status, serde_json::from_slice(&bytes).unwrap_or(Value::Null))
}

impl Server {
    pub async fn send(&self, method: &str, path: &str, content: Option<Value>) -> (StatusCode, Value) {
        let mut request = Request::builder().method(method).uri(path);
        let content = match content {
            Some(content) => {
                request = request.header("content-type", "application/json");
                Body::from(content.to_string())
            }
            None => Body::empty(),
        };
        body(self.router.clone().oneshot(request.body(content).unwrap()).await.unwrap()).await
    }

    pub async fn get(&self, path: &str) -> Value {
        let (status, value) = self.send("GET", path, None).await;
        assert_eq!(status, StatusCode::OK, "{path}: {value}");
        value
    }

    pub async fn bytes(
        &self,
        method: &str,
        path: &str,
        content: Vec<u8>,
        media_type: &str,
    ) -> (StatusCode, Vec<u8>) {
        let request = Request::builder()
            .method(method)
            .uri(path)
            .header("content-type", media_type)
            .body(Body::from(content));
        let response = self.router.clone().oneshot(request.unwrap()).await.unwrap();
        let status = response.status();
        (status, axum::body::to_bytes(response.into_body(), usize::MAX).await.unwrap().to_vec())
    }

    pub async fn post(&self, path: &str, content: &Value) -> Value {
        self.send("POST", path, Some(content.clone())).await.1
    }

    /// Saves settings as a form does that was filled just now: each section by the version it has.
    pub async fn save_settings(&self, site: &str, settings: &Value) -> (StatusCode, Value) {
        let versions = self.get(&format!("/api/sites/{site}")).await["settings_versions"].clone();
        let (status, answer) = self
            .send("PATCH", &format!("/api/sites/{site}/settings"), Some(sections(settings, &versions)))
            .await;
        (status, if status.is_success() { answer["settings"].clone() } else { answer })
    }

    /// A site with one position and one setup; answers their identifiers.
    pub async fn site(&self) -> (String, String, String) {
        let (site, position, setup) = (id(1), id(2), id(3));
        self.send(
            "POST",
            "/api/sites",
            Some(json!({"id": site, "name": "North farm", "time_zone": "Europe/Oslo"})),
        )
        .await;
        let content = json!({"id": position, "name": "Gable", "mount": "gable"});
        self.send("POST", &format!("/api/sites/{site}/positions"), Some(content)).await;
        let content = json!({"id": setup, "antenna": "external", "azimuth_deg": 131.0});
        let (status, _) =
            self.send("POST", &format!("/api/positions/{position}/setups"), Some(content)).await;
        assert_eq!(status, StatusCode::CREATED);
        (site, position, setup)
    }
}

/// A change of whole sections, made from these versions.
pub fn sections(settings: &Value, versions: &Value) -> Value {
    let all: serde_json::Map<String, Value> = settings
        .as_object()
        .unwrap()
        .iter()
        .map(|(name, value)| {
            let seen = versions[name].as_u64().unwrap_or(0);
            (name.clone(), json!({"seen": seen, "value": value}))
        })
        .collect();
    json!({ "sections": all })
}

/// The demo site, and its identifier.
pub async fn demo() -> (Server, String) {
    let server = server();
    let at = |path: &str| format!("http://127.0.0.1:1/{path}");
    let bundle = open_beacon_simulator::demo_site::demo_site(
        7,
        &open_beacon_simulator::demo_site::Addresses {
            status_url: at("status"),
            speed_url: at("speed"),
            control_url: at("control"),
        },
    );
    let site = bundle.site.id.to_string();
    server.state.store.import_bundle(&bundle).unwrap();
    (server, site)
}

pub fn id(n: u128) -> String {
    uuid::Uuid::from_u128(n).to_string()
}
