//! Errors as problem details (RFC 9457), with the fields they concern.

use axum::Json;
use axum::body::Bytes;
use axum::extract::rejection::JsonRejection;
use axum::extract::{FromRequest, FromRequestParts};
use axum::http::request::Parts;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use open_beacon_core::check::FieldProblem;
use open_beacon_core::limits::{composed, composed_bytes};
use open_beacon_store::StoreError;
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;
use std::borrow::Cow;
use utoipa::ToSchema;

/// Media type of a refusal (RFC 9457, clause 3).
pub(crate) const PROBLEM_JSON: &str = "application/problem+json";

/// A problem document.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Problem {
    /// Kind of problem: a URI reference relative to `/api`.
    #[serde(rename = "type")]
    pub kind: String,
    pub title: String,
    pub status: u16,
    /// What happened and what would work.
    pub detail: String,
    /// Fields concerned; empty where the whole request is.
    pub errors: Vec<FieldProblem>,
    /// What is there now, where the request was made from something older.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub newer: Option<Box<serde_json::Value>>,
}

impl Problem {
    fn new(status: StatusCode, kind: &str, title: &str, detail: impl Into<String>) -> Self {
        Self {
            kind: format!("problems/{kind}"),
            title: title.into(),
            status: status.as_u16(),
            detail: detail.into(),
            errors: Vec::new(),
            newer: None,
        }
    }

    /// 404.
    pub fn not_found(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::NOT_FOUND, "not-found", "Not found", detail)
    }

    /// 409: the state of things does not allow it.
    pub fn conflict(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::CONFLICT, "conflict", "Not possible now", detail)
    }

    /// 409: something else is being measured at the site.
    pub fn busy(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::CONFLICT, "busy", "Something else is going on", detail)
    }

    /// 409: made from values that are not there any more; `newer` are.
    pub fn stale(errors: Vec<FieldProblem>, newer: serde_json::Value) -> Self {
        let detail = errors.iter().map(|error| error.detail.clone()).collect::<Vec<_>>().join(" ");
        let mut problem = Self::new(StatusCode::CONFLICT, "stale", "Changed meanwhile", detail);
        (problem.errors, problem.newer) = (errors, Some(Box::new(newer)));
        problem
    }

    /// 403: the request comes from where none may come.
    pub fn forbidden(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::FORBIDDEN, "forbidden", "Refused", detail)
    }

    /// 401: from the local network, by a device that was not let in.
    pub fn not_paired() -> Self {
        let detail =
            "This device is not let in. Show a code on the computer, under Settings, and open it here.";
        Self::new(StatusCode::UNAUTHORIZED, "not-paired", "Not let in", detail)
    }

    /// 400: the request cannot be read.
    pub fn unreadable(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::BAD_REQUEST, "unreadable", "The request cannot be read", detail)
    }

    /// 413: a file is larger than is read.
    pub fn too_large(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", detail)
    }

    /// 502: a device behind this server did not do what was asked.
    pub fn device(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::BAD_GATEWAY, "device", "The device did not answer as expected", detail)
    }

    /// 422 with the fields concerned.
    pub fn invalid(errors: Vec<FieldProblem>) -> Self {
        let detail = errors.iter().map(|error| error.detail.clone()).collect::<Vec<_>>().join(" ");
        let mut problem =
            Self::new(StatusCode::UNPROCESSABLE_ENTITY, "invalid", "Something cannot stay as it is", detail);
        problem.errors = errors;
        problem
    }

    /// `Ok` where `errors` is empty.
    ///
    /// # Errors
    /// [`Problem::invalid`] otherwise.
    pub fn unless_valid(errors: Vec<FieldProblem>) -> Result<(), Self> {
        if errors.is_empty() { Ok(()) } else { Err(Self::invalid(errors)) }
    }
}

impl From<StoreError> for Problem {
    fn from(error: StoreError) -> Self {
        match error {
            StoreError::NotFound(what) => {
                Self::not_found(format!("There is no {what} with this identifier."))
            }
            StoreError::IdTaken => Self::conflict(
                "This identifier was used before for something else. Make a new one (UUIDv7) for each new thing.",
            ),
            StoreError::Refused(reason) => Self::conflict(reason),
            StoreError::Stopped => Self::conflict(StoreError::Stopped.to_string()),
            other if other.is_disk_full() => Self::new(
                StatusCode::INSUFFICIENT_STORAGE,
                "disk-full",
                "The disk is full",
                "The disk is full, so this was not kept. Nothing was changed: make room and try again, the program need not be started anew.",
            ),
            other if other.is_read_only() => Self::new(
                StatusCode::INSUFFICIENT_STORAGE,
                "read-only",
                "The disk cannot be written",
                "The data folder cannot be written: it is read-only, or belongs to somebody else. Nothing was changed; try again once it can be.",
            ),
            other if other.is_disk_fault() => Self::new(
                StatusCode::INSUFFICIENT_STORAGE,
                "disk-fault",
                "The disk did not take this",
                "The disk did not take this: it has become read-only, a quota or a limit on the size of files was reached, or it has a fault. Nothing was changed; look at the disk and try again, the program need not be started anew.",
            ),
            other => {
                tracing::error!(error = %other, "store");
                Self::new(
                    StatusCode::INTERNAL_SERVER_ERROR,
                    "internal",
                    "The program failed",
                    "The database did not take this. Nothing was changed; try again, and look at the program's output.",
                )
            }
        }
    }
}

impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        let mut response = (status, Json(self)).into_response();
        response.headers_mut().insert(header::CONTENT_TYPE, header::HeaderValue::from_static(PROBLEM_JSON));
        response
    }
}

/// A JSON body; what cannot be read becomes a [`Problem`].
#[derive(Debug)]
pub struct Body<T>(pub T);

impl<T: DeserializeOwned, S: Send + Sync> FromRequest<S> for Body<T> {
    type Rejection = Problem;

    async fn from_request(request: axum::extract::Request, state: &S) -> Result<Self, Problem> {
        let (parts, body) = request.into_parts();
        let sent = Bytes::from_request(axum::extract::Request::from_parts(parts.clone(), body), state)
            .await
            .map_err(|rejection| rejected(&rejection.into()))?;
        let request = axum::extract::Request::from_parts(parts, composed_json(sent).into());
        match Json::<T>::from_request(request, state).await {
            Ok(Json(value)) => Ok(Self(value)),
            Err(rejection) => Err(rejected(&rejection)),
        }
    }
}

/// Longest document of which texts written with escapes are looked at one by one, bytes: longer ones carry a file, whose reader
/// composes it.
const LONGEST_LOOKED_THROUGH: usize = 2 << 20;

/// A JSON document whose texts are in composed form, also those that are written with escapes.
fn composed_json(sent: Bytes) -> Bytes {
    let escaped =
        |bytes: &Bytes| bytes.len() <= LONGEST_LOOKED_THROUGH && bytes.windows(2).any(|pair| pair == b"\\u");
    match composed_bytes(&sent) {
        Cow::Owned(text) => text.into(),
        Cow::Borrowed(_) if escaped(&sent) => {
            let read = serde_json::from_slice(&sent).ok();
            read.and_then(|value: Value| serde_json::to_vec(&value_composed(value)).ok())
                .map_or(sent, Bytes::from)
        }
        Cow::Borrowed(_) => sent,
    }
}

fn value_composed(value: Value) -> Value {
    match value {
        Value::String(text) => Value::String(composed(&text).into_owned()),
        Value::Array(all) => all.into_iter().map(value_composed).collect(),
        Value::Object(all) => all.into_iter().map(|(key, value)| (key, value_composed(value))).collect(),
        other => other,
    }
}

macro_rules! plain_extractor {
    ($(#[$doc:meta])* $name:ident, $words:literal) => {
        $(#[$doc])*
        #[derive(Debug)]
        pub struct $name<T>(pub T);

        impl<T: DeserializeOwned + Send, S: Send + Sync> FromRequestParts<S> for $name<T> {
            type Rejection = Problem;

            async fn from_request_parts(parts: &mut Parts, state: &S) -> Result<Self, Problem> {
                match axum::extract::$name::<T>::from_request_parts(parts, state).await {
                    Ok(axum::extract::$name(value)) => Ok(Self(value)),
                    Err(rejection) => Err(Problem::unreadable(format!("{}: {}", $words, rejection.body_text()))),
                }
            }
        }
    };
}

plain_extractor!(
    /// Values in the path; what cannot be read becomes a [`Problem`].
    Path,
    "The address is not complete"
);
plain_extractor!(
    /// Values behind the question mark; what cannot be read becomes a [`Problem`].
    Query,
    "What stands behind the question mark cannot be read"
);

fn rejected(rejection: &JsonRejection) -> Problem {
    let mut problem = match rejection {
        other if other.status() == StatusCode::PAYLOAD_TOO_LARGE => {
            Problem::too_large("This is larger than is read here. Cut out the part you need, and send that.")
        }
        JsonRejection::MissingJsonContentType(_) => {
            Problem::unreadable("Send JSON, with the header Content-Type: application/json.")
        }
        other => Problem::unreadable(other.body_text()),
    };
    problem.status = rejection.status().as_u16();
    problem
}
