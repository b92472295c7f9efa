//! Pictures of a film: its frames, and several in one.

use std::collections::BTreeMap;
use std::sync::Arc;

use axum::extract::{Path, Query, State};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use serde::Deserialize;
use zeitmass_core::logbook::{Logbook, Shows, Taken};
use zeitmass_film::strobe::{Blend, add};
use zeitmass_film::{Rgb, jpeg};
use zeitmass_store::{FilmRow, LogbookInfo, StoreError};

use super::{Keeper, Named, QUALITY, number, seen};
use crate::app::App;
use crate::error::WebError;
use crate::session::Access;

/// Most pictures in a strobe picture.
const MOST_STROBES: usize = 60;

fn picture(jpeg: Vec<u8>) -> Response {
    // A frame never changes, but it belongs to those who may see it.
    let headers = [(header::CONTENT_TYPE, "image/jpeg"), (header::CACHE_CONTROL, "private, max-age=604800, immutable")];
    (headers, jpeg).into_response()
}

pub(in crate::routes) async fn frame(
    State(app): State<App>,
    access: Access,
    Path(path): Named,
) -> Result<Response, WebError> {
    let row = seen(&app, &access.info, path.get("key").map_or("", String::as_str)).await?;
    let n = number(&path, "frame")?;
    Ok(picture(app.store(move |s| s.frame(row.id, n)).await?))
}

/// A frame of a teacher's own film.
pub(in crate::routes) async fn own_frame(
    State(app): State<App>,
    keeper: Keeper,
    Path(path): Named,
) -> Result<Response, WebError> {
    let film = number(&path, "film")?;
    let n = number(&path, "frame")?;
    let jpeg = app
        .store(move |s| {
            keeper.own(s, film)?;
            s.frame(film, n)
        })
        .await?;
    Ok(picture(jpeg))
}

#[derive(Deserialize)]
pub(in crate::routes) struct StrobeQuery {
    from: u32,
    to: u32,
    #[serde(default)]
    step: u32,
    blend: String,
}

/// Several frames in one picture.
pub(in crate::routes) async fn strobe(
    State(app): State<App>,
    access: Access,
    Path(path): Named,
    Query(query): Query<StrobeQuery>,
) -> Result<Response, WebError> {
    let row = seen(&app, &access.info, path.get("key").map_or("", String::as_str)).await?;
    let blend = Blend::named(&query.blend).ok_or(WebError::NoPage)?;
    Ok(picture(in_one(&app, &row, [query.from, query.to, query.step], blend).await?.to_vec()))
}

/// Frames of a film in one picture, as JPEG: from, to, and frames from one to the next.
async fn in_one(app: &App, row: &FilmRow, [from, to, step]: [u32; 3], blend: Blend) -> Result<Arc<Vec<u8>>, WebError> {
    let (id, last) = (row.id, to.min((row.facts.times.len() as u32).saturating_sub(1)));
    let first = from.min(last);
    let least = (last - first).div_ceil(MOST_STROBES as u32).max(1);
    let step = step.max(least);
    let key = (id, [first, last, step], matches!(blend, Blend::Lighten));
    if let Some(made) = app.strobes.get(&key) {
        return Ok(made);
    }
    let numbers: Vec<u32> = (first..=last).step_by(step as usize).collect();
    let made = app.store(move |s| {
        let content = |e: &dyn std::fmt::Display| StoreError::Content(e.to_string());
        let mut sum: Option<Rgb> = None;
        for n in numbers {
            let next = Rgb::read(&s.frame(id, n)?).map_err(|e| content(&e))?;
            match &mut sum {
                Some(sum) => add(sum, &next, blend).map_err(|e| content(&e))?,
                None => sum = Some(next),
            }
        }
        let sum = sum.ok_or(StoreError::NotFound("frame"))?;
        jpeg(&sum, QUALITY).map_err(|e| content(&e))
    });
    let made = Arc::new(made.await?);
    app.strobes.insert(key, Arc::clone(&made));
    Ok(made)
}

/// The pictures of films in a write-up, by the id of their block. One that is not at hand is left out.
pub(in crate::routes) async fn photos(
    app: &App,
    info: &LogbookInfo,
    book: &Logbook,
) -> Result<BTreeMap<u32, Arc<Vec<u8>>>, WebError> {
    let mut all = BTreeMap::new();
    for laid in book.write_up().into_iter().filter(|laid| !laid.block.hidden) {
        let (Shows::Picture(id), Some(Taken::Film { film, from, to, step, bright })) =
            (laid.block.shows, laid.block.taken)
        else {
            continue;
        };
        let blend = if bright { Blend::Lighten } else { Blend::Darken };
        match seen(app, info, &film).await {
            Ok(row) => {
                all.insert(id, in_one(app, &row, [from, to, step], blend).await?);
            }
            Err(WebError::Store(StoreError::NotFound(_))) => {}
            Err(e) => return Err(e),
        }
    }
    Ok(all)
}
