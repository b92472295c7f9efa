//! Bringing a film: frame by frame, or a file of stills.

use std::fs::File;
use std::io::{BufReader, Read, Seek, SeekFrom, Write};
use std::sync::{Arc, Weak};

use axum::Json;
use axum::body::Bytes;
use axum::extract::{Path, Query, Request, State};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use serde::{Deserialize, Serialize};
use zeitmass_core::motion::FilmFacts;
use zeitmass_film::Rgb;
use zeitmass_film::stills::{Wanted, unpack};
use zeitmass_store::{FilmOwner, Id, Store, StoreError};

use super::{Keeper, Named, QUALITY, number};
use crate::app::App;
use crate::error::WebError;
use crate::uploads::spool;

/// Largest part of a film in one request, in bytes.
pub(in crate::routes) const LARGEST_PART: usize = 16_000_000;
/// Largest file of stills, in bytes.
const LARGEST_STILLS: u64 = 400_000_000;
/// Frames stored in one go.
const FRAMES_AT_ONCE: usize = 50;
/// Longest side of frames made from stills, in px.
const LONGEST_SIDE: u32 = 1280;

#[derive(Deserialize)]
pub(in crate::routes) struct Coming {
    title: String,
    width: u32,
    height: u32,
    times: Vec<f64>,
}

#[derive(Serialize)]
struct Begun {
    film: Id,
    key: String,
    /// When films get many: what they take, and may take.
    word: String,
}

fn begun(film: Id, (used, most): (u64, u64)) -> Response {
    let [shown, of] = [used, most].map(|bytes| bytes / 1_000_000);
    let tight = used * 5 > most * 4;
    let word = if tight { format!("The films here take {shown} of at most {of} MB.") } else { String::new() };
    Json(Begun { film, key: format!("film {film}"), word }).into_response()
}

pub(in crate::routes) async fn begin(
    State(app): State<App>,
    keeper: Keeper,
    Json(coming): Json<Coming>,
) -> Result<Response, WebError> {
    let Coming { title, width, height, times } = coming;
    let facts = FilmFacts { title, width, height, times, ..FilmFacts::default() };
    let (film, room) = app.store(move |s| Ok((s.begin_film(&keeper.0, &facts)?, s.film_room(&keeper.0)?))).await?;
    Ok(begun(film, room))
}

/// Frames one after the other: number and length as four bytes each, lowest first, then the JPEG.
fn frames_of(body: &[u8]) -> Option<Vec<(u32, Vec<u8>)>> {
    let mut frames = Vec::new();
    let mut rest = body;
    while !rest.is_empty() {
        let (number, after) = rest.split_first_chunk::<4>()?;
        let (length, after) = after.split_first_chunk::<4>()?;
        let (picture, after) = after.split_at_checked(u32::from_le_bytes(*length) as usize)?;
        frames.push((u32::from_le_bytes(*number), picture.to_vec()));
        rest = after;
    }
    Some(frames)
}

pub(in crate::routes) async fn put(
    State(app): State<App>,
    keeper: Keeper,
    Path(path): Named,
    body: Bytes,
) -> Result<Response, WebError> {
    let film = number(&path, "film")?;
    let frames = frames_of(&body).ok_or_else(|| WebError::Unreadable("the frames are cut off".to_owned()))?;
    let arrived = app
        .store(move |s| {
            let row = keeper.own(s, film)?;
            for (number, picture) in &frames {
                let size = Rgb::read(picture).map(|p| (p.width as u32, p.height as u32));
                if size.ok() != Some((row.facts.width, row.facts.height)) {
                    return Err(StoreError::Invalid(format!(
                        "Frame {number} is not a picture of {} × {} pixels. The frames before are kept.",
                        row.facts.width, row.facts.height
                    )));
                }
            }
            s.put_frames(film, &frames)
        })
        .await?;
    Ok(Json(serde_json::json!({ "arrived": arrived })).into_response())
}

/// The frames that are still missing, so that a broken connection goes on where it stopped.
pub(in crate::routes) async fn missing(
    State(app): State<App>,
    keeper: Keeper,
    Path(path): Named,
) -> Result<Response, WebError> {
    let film = number(&path, "film")?;
    let missing = app
        .store(move |s| {
            keeper.own(s, film)?;
            s.missing_frames(film)
        })
        .await?;
    Ok(Json(serde_json::json!({ "missing": missing })).into_response())
}

pub(in crate::routes) async fn finish(
    State(app): State<App>,
    keeper: Keeper,
    Path(path): Named,
) -> Result<Response, WebError> {
    let film = number(&path, "film")?;
    app.store(move |s| {
        keeper.own(s, film)?;
        s.finish_film(film)
    })
    .await?;
    Ok(StatusCode::NO_CONTENT.into_response())
}

pub(in crate::routes) async fn delete(
    State(app): State<App>,
    keeper: Keeper,
    Path(path): Named,
) -> Result<Response, WebError> {
    let film = number(&path, "film")?;
    // What is in use in a logbook stays, for its marks refer to it.
    if let FilmOwner::Logbook(id) = keeper.0 {
        let book = app.desks.book(id).await?;
        if book.state().film(&format!("film {film}")).is_some() {
            return Err(WebError::Invalid("This film is in use on the bench. It is kept.".to_owned()));
        }
    }
    app.store(move |s| {
        keeper.own(s, film)?;
        s.delete_film(film)
    })
    .await?;
    app.give_space_back();
    // The list shows what is left, or what to do when nothing is.
    Ok((StatusCode::NO_CONTENT, [("hx-refresh", "true")]).into_response())
}

#[derive(Deserialize)]
pub(in crate::routes) struct StillsQuery {
    #[serde(default)]
    title: String,
    #[serde(default)]
    rate: Option<f64>,
}

/// A zip of stills or an animated picture becomes a film; nothing is kept of one that fails. Neither the file nor its frames are ever in
/// memory as a whole.
pub(in crate::routes) async fn stills(
    State(app): State<App>,
    keeper: Keeper,
    Query(query): Query<StillsQuery>,
    request: Request,
) -> Result<Response, WebError> {
    let wanted = Wanted {
        most_frames: app.film_limits().frames,
        most_bytes: app.film_limits().bytes,
        longest_side: LONGEST_SIDE,
        rate: query.rate.filter(|r| (0.01..=100_000.0).contains(r)).unwrap_or(25.0),
        quality: QUALITY,
    };
    let file = spool(&app, request.into_body(), LARGEST_STILLS).await?;
    // Whoever goes away in the middle wants no film any more.
    let alive = Arc::new(());
    let gone = Arc::downgrade(&alive);
    let (film, room) = app
        .store(move |s| {
            // Looked at before the work is done, so that it is not done for nothing.
            let room = s.film_room(&keeper.0)?;
            let spooled = unspool(s, file, &wanted, &gone)?;
            Ok((keep(s, &keeper.0, query.title, spooled)?, room))
        })
        .await?;
    drop(alive);
    Ok(begun(film, room))
}

/// Frames that wait on disk: the time, where it begins and how long it is of each.
struct Spooled {
    file: File,
    frames: Vec<(f64, u64, usize)>,
    size: (usize, usize),
}

fn unspool(store: &Store, file: File, wanted: &Wanted, gone: &Weak<()>) -> Result<Spooled, StoreError> {
    let mut spooled = Spooled { file: store.scratch()?, frames: Vec::new(), size: (0, 0) };
    let (mut failed, mut at) = (None, 0);
    let unpacked = unpack(BufReader::new(file), wanted, &mut |still| {
        let length = still.jpeg.len();
        if let Err(e) = spooled.file.write_all(&still.jpeg) {
            failed = Some(e);
            return false;
        }
        spooled.size = still.size;
        spooled.frames.push((still.time, at, length));
        at += length as u64;
        gone.strong_count() > 0
    });
    if let Some(e) = failed {
        return Err(e.into());
    }
    unpacked.map_err(|e| StoreError::Invalid(e.to_string()))?;
    Ok(spooled)
}

fn keep(store: &Store, owner: &FilmOwner, title: String, mut spooled: Spooled) -> Result<Id, StoreError> {
    let start = spooled.frames.first().map_or(0.0, |(time, ..)| *time);
    let facts = FilmFacts {
        title,
        width: spooled.size.0 as u32,
        height: spooled.size.1 as u32,
        times: spooled.frames.iter().map(|(time, ..)| time - start).collect(),
        ..FilmFacts::default()
    };
    let film = store.begin_film(owner, &facts)?;
    let mut put = || -> Result<(), StoreError> {
        let numbered: Vec<(u32, &(f64, u64, usize))> = (0..).zip(&spooled.frames).collect();
        for some in numbered.chunks(FRAMES_AT_ONCE) {
            let mut frames = Vec::with_capacity(some.len());
            for (number, (_, at, length)) in some {
                let mut jpeg = vec![0; *length];
                spooled.file.seek(SeekFrom::Start(*at))?;
                spooled.file.read_exact(&mut jpeg)?;
                frames.push((*number, jpeg));
            }
            store.put_frames(film, &frames)?;
        }
        store.finish_film(film)
    };
    let kept = put();
    if kept.is_err() {
        store.delete_film(film)?;
    }
    kept.map(|()| film)
}
