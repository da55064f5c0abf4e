//! The parts of the page, inside the program.

use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use include_dir::{Dir, include_dir};

static PAGE: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/page");

/// What a page may load: its own parts and nothing else.
const POLICY: &str = "default-src 'self'; connect-src 'self' ws:; img-src 'self' data:; \
                      style-src 'self' 'unsafe-inline'; frame-ancestors 'none'";

pub fn part(path: &str) -> Response {
    let Some(file) = PAGE.get_file(path) else {
        return (StatusCode::NOT_FOUND, format!("there is no {path}\n")).into_response();
    };
    let kind = match path.rsplit('.').next() {
        Some("html") => "text/html; charset=utf-8",
        Some("css") => "text/css; charset=utf-8",
        Some("js") => "text/javascript; charset=utf-8",
        Some("svg") => "image/svg+xml",
        _ => "application/octet-stream",
    };
    let headers = [
        (header::CONTENT_TYPE, kind),
        (header::CONTENT_SECURITY_POLICY, POLICY),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::REFERRER_POLICY, "no-referrer"),
        (header::CACHE_CONTROL, "no-store"),
    ];
    (headers, file.contents()).into_response()
}
