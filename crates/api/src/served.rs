//! Files of the user's, given back: never as something that a browser runs.

use axum::http::header;
use axum::response::{IntoResponse, Response};
use open_beacon_core::limits::picture_type;

/// What a file may do where it is opened by itself: nothing.
const NOTHING_RUNS: &str = "sandbox; default-src 'none'; frame-ancestors 'none'";

/// A file by its content: a picture as what it is, everything else as bytes to be downloaded. `lasting`: the content never
/// changes under its address.
pub(crate) fn file(content: Vec<u8>, id: impl std::fmt::Display, lasting: bool) -> Response {
    let media_type = picture_type(&content).unwrap_or("application/octet-stream");
    let ending = media_type.strip_prefix("image/").unwrap_or("bin");
    let headers = [
        (header::CONTENT_TYPE, media_type.to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{id}.{ending}\"")),
        (header::CONTENT_SECURITY_POLICY, NOTHING_RUNS.to_owned()),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff".to_owned()),
        (
            header::CACHE_CONTROL,
            if lasting { "private, max-age=86400" } else { "private, no-cache" }.to_owned(),
        ),
    ];
    (headers, content).into_response()
}
