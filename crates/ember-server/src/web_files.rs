//! The page: files embedded into the program, served with what browsers need to cache and to guard them.

use axum::body::Body;
use axum::http::{HeaderValue, StatusCode, Uri, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct WebFiles;

const NOT_BUILT: &str = "The page is missing from this build. Run \"npm ci && npm run build\" in web/ and build again.";

/// The file at `uri`, or the page itself for any path that names no file.
pub async fn serve(uri: Uri) -> Response {
    let path = uri.path().trim_start_matches('/');
    let (name, file) = match WebFiles::get(path) {
        Some(file) if !path.is_empty() => (path, Some(file)),
        _ if path.starts_with("assets/") => return StatusCode::NOT_FOUND.into_response(),
        _ => ("index.html", WebFiles::get("index.html")),
    };
    let Some(file) = file else { return (StatusCode::SERVICE_UNAVAILABLE, NOT_BUILT).into_response() };
    let kind = mime_guess::from_path(name).first_or_octet_stream();
    // Names under assets/ carry a hash of their contents.
    let cache = if name.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
    let mut response = Response::new(Body::from(file.data.into_owned()));
    let headers = response.headers_mut();
    if let Ok(kind) = HeaderValue::from_str(kind.as_ref()) {
        headers.insert(header::CONTENT_TYPE, kind);
    }
    headers.insert(header::CACHE_CONTROL, HeaderValue::from_static(cache));
    response
}
