//! The web application, inside this program.

use axum::http::{StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
struct Web;

const NOT_BUILT: &str = "The web application is not built into this program. Run `cargo xtask demo`, or \
    `npm ci && npm run build` in web/ before `cargo build`.";

/// A file of the web application; any other path opens it at that place.
pub(crate) async fn serve(uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    let (name, file) = match Web::get(path) {
        Some(file) if !path.is_empty() => (path, file),
        _ if path.starts_with("assets/") => return StatusCode::NOT_FOUND.into_response(),
        _ => match Web::get("index.html") {
            Some(file) => ("index.html", file),
            None => return (StatusCode::SERVICE_UNAVAILABLE, NOT_BUILT).into_response(),
        },
    };
    let media_type = mime_guess::from_path(name).first_or_octet_stream().to_string();
    // Names under assets/ carry a hash of their content.
    let caching =
        if name.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    ([(header::CONTENT_TYPE, media_type), (header::CACHE_CONTROL, caching.to_owned())], file.data)
        .into_response()
}
