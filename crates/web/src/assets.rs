//! Everything the browser loads, from inside the binary.

use axum::extract::Path;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

/// A font for pictures drawn on the server.
pub(crate) fn font(name: &str) -> Option<std::borrow::Cow<'static, [u8]>> {
    Assets::get(&format!("fonts/{name}")).map(|f| f.data)
}

/// Serves one file, with its hash as the tag by which a browser asks whether it is current.
pub(crate) async fn file(Path(path): Path<String>, headers: HeaderMap) -> Response {
    let Some(file) = Assets::get(&path) else { return StatusCode::NOT_FOUND.into_response() };
    let hash = file.metadata.sha256_hash();
    let tag = format!("\"{}\"", hash[..12].iter().map(|b| format!("{b:02x}")).collect::<String>());
    let caching = [(header::ETAG, tag.clone()), (header::CACHE_CONTROL, "no-cache".to_owned())];
    if headers.get(header::IF_NONE_MATCH).is_some_and(|known| known.as_bytes() == tag.as_bytes()) {
        return (StatusCode::NOT_MODIFIED, caching).into_response();
    }
    let kind = [(header::CONTENT_TYPE, file.metadata.mimetype().to_owned())];
    (kind, caching, file.data.into_owned()).into_response()
}
