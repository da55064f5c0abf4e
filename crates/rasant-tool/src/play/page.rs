//! The files of the page, inside the program.

use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use include_dir::{Dir, include_dir};

use super::messages::Exported;

static PAGE: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/page");

/// What a page may load: only its own files.
const POLICY: &str = "default-src 'self'; connect-src 'self' ws:; img-src 'self' data: blob:; \
                      media-src 'self' blob:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'";

pub fn file(path: &str) -> Response {
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

/// The scripts that an exported page needs.
const VIEWER: [&str; 11] = [
    "axes.js",
    "colours.js",
    "dom.js",
    "figure.js",
    "history.js",
    "panels.js",
    "scene.js",
    "vectors.js",
    "view2d.js",
    "view3d.js",
    "viewer.js",
];

/// A page that plays an attempt without the tool: the scripts that draw, the styles and the
/// attempt, in one text.
///
/// Scripts import each other by relative paths, which do not work inside one file. So each gets a
/// name, and an import map that leads to its text.
///
/// # Errors
/// If the attempt cannot be written as JSON.
pub fn exported(attempt: &Exported) -> Result<String, String> {
    let text = |path: &str| {
        let file = PAGE.get_file(path).and_then(|file| file.contents_utf8());
        file.ok_or_else(|| format!("the page has no {path}"))
    };
    let mut imports = serde_json::Map::new();
    for path in VIEWER {
        let named = text(path)?.replace("from \"./", "from \"rasant/");
        let url = format!(
            "data:text/javascript;charset=utf-8,{}",
            percent_encoding::utf8_percent_encode(&named, percent_encoding::NON_ALPHANUMERIC)
        );
        imports.insert(format!("rasant/{path}"), url.into());
    }
    let map = json_in_html(&serde_json::json!({ "imports": imports }))?;
    let data = json_in_html(attempt)?;
    let style = text("style.css")?;
    let title = attempt.place.title.replace('&', "&amp;").replace('<', "&lt;");
    Ok(text("viewer.html")?
        .replace("<!-- title -->", &title)
        .replace("/* style */", style)
        .replace("/* imports */", &map)
        .replace("/* attempt */", &data))
}

/// JSON that cannot be mistaken for HTML.
fn json_in_html(value: &impl serde::Serialize) -> Result<String, String> {
    let text = serde_json::to_string(value).map_err(|error| error.to_string())?;
    Ok(text.replace('<', "\\u003c"))
}
