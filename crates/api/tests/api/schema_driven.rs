//! The document is a contract: every operation is called with what its schema allows and with what it does not, by dice of fixed
//! seeds. Nothing answers 5xx, every status is in the document, and every body is as its schema says; a number that is none would be
//! `null` where a number is promised.

use crate::{Server, demo};
use axum::body::Body;
use axum::http::Request;
use fastrand::Rng;
use jsonschema::Validator;
use serde_json::{Map, Value, json};
use std::collections::{BTreeMap, HashMap};
use tower::ServiceExt;

/// Calls of each operation. With a hundred and more operations this is a few thousand calls.
const CALLS: usize = 24;
/// Deepest value that is made up.
const DEEPEST: usize = 7;

/// What goes out to other devices, listens for ever or starts servers is not called by dice.
const LEFT_ALONE: [&str; 7] = [
    "/api/sites/{id}/gateway/test",
    "/api/sites/{id}/gateway/test/recording",
    "/api/sites/{id}/address-check",
    "/api/sites/{id}/events",
    "/api/rehearsals",
    "/api/sites/{id}/stand-in",
    "/api/setups/{id}/jobs",
];

struct Contract {
    document: Value,
    dice: Rng,
    /// Identifiers that are there, by the name of their schema.
    known: HashMap<String, Vec<String>>,
}

impl Contract {
    fn resolve<'a>(&'a self, schema: &'a Value) -> &'a Value {
        let Some(pointer) = schema["$ref"].as_str() else { return schema };
        self.document.pointer(&pointer[1..]).unwrap_or_else(|| panic!("{pointer} is not in the document"))
    }

    fn chance(&mut self, percent: u32) -> bool {
        self.dice.u32(0..100) < percent
    }

    fn any<T: Clone>(&mut self, of: &[T]) -> T {
        of[self.dice.usize(0..of.len())].clone()
    }

    /// A value of a schema, or nearly: bounds are left now and then, and what is needed is left out.
    fn value(&mut self, schema: &Value, depth: usize) -> Value {
        if let Some(name) = schema["$ref"].as_str().and_then(|pointer| pointer.rsplit('/').next())
            && let Some(there) = self.known.get(name).cloned()
            && self.chance(80)
        {
            return json!(self.any(&there));
        }
        let schema = self.resolve(schema).clone();
        if let Some(choices) = schema["enum"].as_array() {
            return if self.chance(95) { self.any(choices) } else { json!("nothing of this") };
        }
        if !schema["const"].is_null() {
            return schema["const"].clone();
        }
        for key in ["oneOf", "anyOf"] {
            if let Some(choices) = schema[key].as_array() {
                let chosen = self.any(choices);
                return self.value(&chosen, depth);
            }
        }
        if let Some(parts) = schema["allOf"].as_array() {
            let mut whole = Map::new();
            for part in parts {
                if let Value::Object(fields) = self.value(part, depth) {
                    whole.extend(fields);
                }
            }
            return Value::Object(whole);
        }
        let kinds: Vec<String> = match &schema["type"] {
            Value::String(kind) => vec![kind.clone()],
            Value::Array(kinds) => kinds.iter().filter_map(|kind| kind.as_str().map(str::to_owned)).collect(),
            _ => vec!["object".into()],
        };
        match self.any(&kinds).as_str() {
            "null" => Value::Null,
            "boolean" => json!(self.dice.bool()),
            "integer" => json!(self.number(&schema).round() as i64),
            "number" => json!(self.number(&schema)),
            "string" => json!(self.text(&schema)),
            "array" if depth >= DEEPEST => json!([]),
            "array" => {
                let length = self.dice.usize(0..4);
                (0..length).map(|_| self.value(&schema["items"], depth + 1)).collect()
            }
            _ if depth >= DEEPEST => json!({}),
            _ => self.object(&schema, depth),
        }
    }

    fn object(&mut self, schema: &Value, depth: usize) -> Value {
        let needed: Vec<&str> =
            schema["required"].as_array().into_iter().flatten().filter_map(Value::as_str).collect();
        let mut made = Map::new();
        for (name, field) in schema["properties"].as_object().into_iter().flatten() {
            let wanted = if needed.contains(&name.as_str()) { 97 } else { 60 };
            if self.chance(wanted) {
                let value =
                    if self.chance(2) { json!({"of": "another kind"}) } else { self.value(field, depth + 1) };
                made.insert(name.clone(), value);
            }
        }
        if schema["additionalProperties"].is_object() && self.chance(50) {
            let name = self.any(&["units", "network", "kit", "unheard of"]);
            made.insert(name.into(), self.value(&schema["additionalProperties"], depth + 1));
        }
        Value::Object(made)
    }

    fn number(&mut self, schema: &Value) -> f64 {
        let low = schema["minimum"].as_f64().unwrap_or(-200.0);
        let high = schema["maximum"].as_f64().unwrap_or(4000.0);
        match self.dice.u32(0..20) {
            0 => low - 1.0,
            1 => high + 1.0,
            2 => self.any(&[0.0, -0.0, 1e15, -1e300, 1e-300, f64::from(u16::MAX)]),
            3 => low,
            4 => high,
            _ => (low + (high - low) * self.dice.f64()).round(),
        }
    }

    fn text(&mut self, schema: &Value) -> String {
        let usual = match schema["format"].as_str() {
            Some("uuid") => uuid::Uuid::from_u128(self.dice.u128(..)).to_string(),
            Some("date-time") => {
                self.any(&["2026-11-20T10:00:00Z", "1970-01-01T00:00:00Z", "9999-12-31T23:59:59Z"]).into()
            }
            Some("date") => self.any(&["2026-11-20", "0001-01-01"]).into(),
            _ => self
                .any(&[
                    "East gable",
                    "",
                    "B3",
                    "http://192.0.2.1/x",
                    "143",
                    "Europe/Oslo",
                    "Åsen ∆ 漢",
                    "\u{202e}\u{0}",
                ])
                .into(),
        };
        if self.chance(4) { "x".repeat(5000) } else { usual }
    }

    /// An address with its parts filled in.
    fn address(&mut self, path: &str, operation: &Value) -> String {
        let mut address = path.to_owned();
        let mut asked = Vec::new();
        for one in operation["parameters"].as_array().cloned().unwrap_or_default() {
            let value = match self.value(&one["schema"], 0) {
                Value::String(text) => text,
                other => other.to_string(),
            };
            let value: String = percent(&value.chars().take(200).collect::<String>());
            let name = one["name"].as_str().unwrap();
            if one["in"] == "path" {
                let value = if value.is_empty() { "-".into() } else { value };
                address = address.replace(&format!("{{{name}}}"), &value);
            } else if one["required"] == true || self.chance(60) {
                asked.push(format!("{name}={value}"));
            }
        }
        if asked.is_empty() { address } else { format!("{address}?{}", asked.join("&")) }
    }

    /// A body and its media type; none where none is asked for.
    fn body(&mut self, operation: &Value) -> Option<(String, Vec<u8>)> {
        let content = operation["requestBody"]["content"].as_object()?.clone();
        let (media_type, form) = content.iter().next()?;
        let bytes = match media_type.as_str() {
            "application/json" if self.chance(3) => b"{\"cut".to_vec(),
            "application/json" => self.value(&form["schema"], 0).to_string().into_bytes(),
            _ => (0..self.dice.usize(0..300)).map(|_| self.dice.u8(..)).collect(),
        };
        Some((media_type.clone(), bytes))
    }
}

fn percent(text: &str) -> String {
    text.bytes()
        .map(|byte| match byte {
            b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b'-' | b'.' | b'_' => char::from(byte).to_string(),
            _ => format!("%{byte:02X}"),
        })
        .collect()
}

/// Identifiers of the demo site, by the name of their schema.
fn known(export: &Value) -> HashMap<String, Vec<String>> {
    let lists = [
        ("SetupId", "setups"),
        ("PositionId", "positions"),
        ("RunId", "runs"),
        ("KitId", "kits"),
        ("MastId", "masts"),
        ("ObstacleId", "obstacles"),
        ("LandmarkId", "landmarks"),
        ("SweepId", "sweeps"),
        ("RoundId", "band_rounds"),
        ("TileId", "tiles"),
    ];
    let ids = |name: &str| -> Vec<String> {
        let rows = export[name].as_array().into_iter().flatten();
        rows.filter_map(|row| row["id"].as_str().map(str::to_owned)).collect()
    };
    let mut found: HashMap<String, Vec<String>> = lists
        .iter()
        .map(|(schema, name)| ((*schema).to_owned(), ids(name)))
        .filter(|(_, ids)| !ids.is_empty())
        .collect();
    found.insert("SiteId".into(), vec![export["site"]["id"].as_str().unwrap().to_owned()]);
    found
}

/// Answers' schemas, each compiled once.
#[derive(Default)]
struct Schemas(HashMap<String, Validator>);

impl Schemas {
    fn problems(&mut self, document: &Value, key: &str, schema: &Value, value: &Value) -> Vec<String> {
        let validator = self.0.entry(key.to_owned()).or_insert_with(|| {
            let whole = json!({"allOf": [schema], "components": document["components"]});
            jsonschema::draft202012::new(&whole).unwrap()
        });
        validator
            .iter_errors(value)
            .take(3)
            .map(|error| format!("{} at {}", error, error.instance_path()))
            .collect()
    }
}

/// What is wrong with an answer to an operation, by the document.
async fn faults(
    server: &Server,
    contract: &Contract,
    schemas: &mut Schemas,
    key: &str,
    operation: &Value,
    request: Request<Body>,
) -> Vec<String> {
    let response = server.router.clone().oneshot(request).await.unwrap();
    let status = response.status();
    if status.is_server_error() && status.as_u16() != 502 {
        let bytes = axum::body::to_bytes(response.into_body(), usize::MAX).await.unwrap();
        return vec![format!("{status}: {}", String::from_utf8_lossy(&bytes[..bytes.len().min(300)]))];
    }
    let responses = &operation["responses"];
    let by_number = &responses[status.as_str()];
    let documented =
        if by_number.is_null() && status.is_client_error() { &responses["default"] } else { by_number };
    if documented.is_null() {
        return vec![format!("{status} is not in the document")];
    }
    let media_type = response.headers().get("content-type").map(|one| one.to_str().unwrap().to_owned());
    let bytes = axum::body::to_bytes(response.into_body(), usize::MAX).await.unwrap();
    let Some(content) = documented["content"].as_object() else {
        return if bytes.is_empty() {
            Vec::new()
        } else {
            vec![format!("{status} has a body, the document has none")]
        };
    };
    let media_type = media_type.unwrap_or_default();
    let plain = media_type.split(';').next().unwrap_or_default().trim().to_owned();
    let Some(form) = content.get(&plain) else {
        return vec![format!(
            "{status} came as “{plain}”, the document has {:?}",
            content.keys().collect::<Vec<_>>()
        )];
    };
    if !plain.ends_with("json") || form["schema"].is_null() {
        return Vec::new();
    }
    let Ok(value) = serde_json::from_slice::<Value>(&bytes) else {
        return vec![format!("{status} is no JSON")];
    };
    let key = format!("{key} {}", status.as_u16());
    schemas.problems(&contract.document, &key, &form["schema"], &value)
}

#[tokio::test]
async fn every_answer_is_as_the_document_says() {
    let (server, site) = demo().await;
    let export = server.get(&format!("/api/sites/{site}/export.json")).await;
    let document = server.get("/api/openapi.json").await;
    let mut contract =
        Contract { document: document.clone(), dice: Rng::with_seed(15), known: known(&export) };
    let mut schemas = Schemas::default();
    let mut found: BTreeMap<String, Vec<String>> = BTreeMap::new();
    let (mut calls, mut taken) = (0, 0);
    for _ in 0..CALLS {
        for (path, item) in document["paths"].as_object().unwrap() {
            for (method, operation) in item.as_object().unwrap() {
                if LEFT_ALONE.contains(&path.as_str()) {
                    continue;
                }
                let address = contract.address(path, operation);
                let mut request = Request::builder().method(method.to_uppercase().as_str()).uri(&address);
                let content = match contract.body(operation) {
                    Some((media_type, bytes)) => {
                        request = request.header("content-type", media_type);
                        bytes
                    }
                    None => Vec::new(),
                };
                let sent = String::from_utf8_lossy(&content).chars().take(300).collect::<String>();
                let request = request.body(Body::from(content)).unwrap();
                let key = format!("{method} {path}");
                let wrong = faults(&server, &contract, &mut schemas, &key, operation, request).await;
                calls += 1;
                taken += usize::from(wrong.is_empty());
                for fault in wrong {
                    let all = found.entry(key.clone()).or_default();
                    if all.len() < 3 {
                        all.push(format!("{fault}\n    {address}\n    {sent}"));
                    }
                }
            }
        }
    }
    assert!(found.is_empty(), "{} of {calls} calls: {found:#?}", calls - taken);
    assert!(calls > 2000, "{calls} calls are few");
    // After all of that the site can still be brought back.
    let export = server.get(&format!("/api/sites/{site}/export.json")).await;
    let (status, answer) = crate::server()
        .bytes("POST", "/api/import", export.to_string().into_bytes(), "application/json")
        .await;
    assert!(status.is_success(), "{}", String::from_utf8_lossy(&answer));
}
