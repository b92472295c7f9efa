//! Files that are brought: how many come at once, how long one may take, and where a large one lies meanwhile.

use std::fs::File;
use std::io::{Seek, Write};
use std::time::Duration;

use axum::body::Body;
use axum::extract::{FromRequestParts, Request, State};
use axum::middleware::Next;
use axum::response::Response;
use futures_util::StreamExt;

use crate::app::App;
use crate::desks::blocking;
use crate::error::WebError;
use crate::session::SignedIn;

/// How long a body may rest, and how long it may take as a whole: a film's part over a slow school network.
pub(crate) const BODY_RESTS: Duration = Duration::from_secs(20);
pub(crate) const BODY_TAKES: Duration = Duration::from_secs(300);

/// Bytes after which what has come is written to disk.
const PIECE: usize = 1 << 20;

/// Lets an upload begin when it has a place. Whoever is not signed in has none.
pub(crate) async fn in_turn(State(app): State<App>, request: Request, next: Next) -> Result<Response, WebError> {
    let (mut parts, body) = request.into_parts();
    let session = SignedIn::from_request_parts(&mut parts, &app).await?;
    let _place = app.upload_of(session.hash()).await?;
    Ok(next.run(Request::from_parts(parts, body)).await)
}

/// A body as a file in the data folder, read as it comes, so that it is never in memory as a whole.
///
/// # Errors
/// [`WebError::TooLarge`] beyond `most` bytes, [`WebError::Unreadable`] when it breaks off.
pub(crate) async fn spool(app: &App, body: Body, most: u64) -> Result<File, WebError> {
    let mut file = app.store(zeitmass_store::Store::scratch).await?;
    let (mut pieces, mut held, mut all) = (body.into_data_stream(), Vec::new(), 0);
    loop {
        let next = pieces.next().await;
        let over = next.is_none();
        if let Some(piece) = next {
            let piece = piece.map_err(|e| WebError::Unreadable(e.to_string()))?;
            all += piece.len() as u64;
            if all > most {
                return Err(WebError::TooLarge);
            }
            held.extend_from_slice(&piece);
        }
        if over || held.len() >= PIECE {
            let piece = std::mem::take(&mut held);
            let written = blocking(move || {
                file.write_all(&piece)?;
                if over {
                    file.rewind()?;
                }
                Ok::<_, std::io::Error>(file)
            });
            file = written.await?.map_err(zeitmass_store::StoreError::from)?;
        }
        if over {
            return Ok(file);
        }
    }
}
