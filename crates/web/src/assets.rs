//! Everything the browser loads, from inside the binary.
//!
//! The address of every file carries a hash of all of them, `/assets/<hash>/js/bench.js`: under that address nothing ever changes,
//! and a browser keeps it for good. Modules and styles name one another relatively, so they stay under the same hash.

use std::collections::BTreeSet;
use std::sync::LazyLock;

use axum::extract::Path;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;
use sha2::{Digest, Sha256};

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

/// Bytes of the hash that stand in addresses.
const HASH_BYTES: usize = 8;

/// The hash of all files with their names.
static HASH: LazyLock<String> = LazyLock::new(|| {
    let mut all = Sha256::new();
    let mut names: Vec<_> = Assets::iter().collect();
    names.sort_unstable();
    for name in names {
        let hash = Assets::get(&name).map(|f| f.metadata.sha256_hash()).unwrap_or_default();
        all.update(name.as_bytes());
        all.update(hash);
    }
    all.finalize().iter().take(HASH_BYTES).map(|b| format!("{b:02x}")).collect()
});

/// A font for pictures drawn on the server.
pub(crate) fn font(name: &str) -> Option<std::borrow::Cow<'static, [u8]>> {
    Assets::get(&format!("fonts/{name}")).map(|f| f.data)
}

/// The address of a file.
pub(crate) fn url(path: &str) -> String {
    format!("/assets/{}/{path}", *HASH)
}

/// Addresses of a module and of all that it imports, directly or not.
pub(crate) fn modules(entry: &str) -> Vec<String> {
    let mut open = vec![format!("{entry}.js")];
    let mut found = BTreeSet::new();
    while let Some(name) = open.pop() {
        if !found.insert(name.clone()) {
            continue;
        }
        let Some(file) = Assets::get(&format!("js/{name}")) else { continue };
        let source = String::from_utf8_lossy(&file.data).into_owned();
        let imports = source.lines().filter(|l| l.starts_with("import ")).filter_map(|l| l.split("\"./").nth(1));
        open.extend(imports.filter_map(|rest| Some(rest.split_once('"')?.0.to_owned())));
    }
    found.into_iter().map(|name| url(&format!("js/{name}"))).collect()
}

/// Serves one file. Under the hash of this build it is kept for good; under another, from before an update, it is not kept.
pub(crate) async fn file(Path(path): Path<String>) -> Response {
    let (hash, inner) = path.split_once('/').unwrap_or(("", &path));
    let Some(file) = Assets::get(inner) else { return StatusCode::NOT_FOUND.into_response() };
    let keep = if hash == *HASH { "public, max-age=31536000, immutable" } else { "no-cache" };
    let kind = [(header::CONTENT_TYPE, file.metadata.mimetype()), (header::CACHE_CONTROL, keep)];
    (kind, file.data.into_owned()).into_response()
}
