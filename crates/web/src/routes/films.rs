//! Films: bringing one, its frames, strobe pictures, following, asking a moment.
//!
//! A film belongs to a logbook or to a teacher; [`Keeper`] says whose it is to be. A logbook sees its own films and those its
//! sheet names.

use std::collections::{BTreeMap, HashMap};
use std::fs::File;
use std::io::{BufReader, Read, Seek, SeekFrom, Write};
use std::str::FromStr;
use std::sync::{Arc, Weak};
use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::{Edit, FilmEdit, Logbook, MomentOf, Shows, Taken};

use axum::Json;
use axum::body::Bytes;
use axum::extract::{FromRequestParts, Path, Query, Request, State};
use axum::http::request::Parts;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use serde::{Deserialize, Serialize};
use zeitmass_core::lab::LabSheet;
use zeitmass_core::motion::FilmFacts;
use zeitmass_film::stills::{Wanted, unpack};
use zeitmass_film::strobe::{Blend, add};
use zeitmass_film::{Rgb, catalogue, jpeg};
use zeitmass_store::{FilmOwner, FilmRow, Id, LogbookInfo, Store, StoreError};

use super::logbook::answer;
use super::page;
use crate::app::App;
use crate::error::WebError;
use crate::follow::Task;
use crate::session::{Access, AsTeacher};
use crate::uploads::spool;
use crate::views;

/// Largest part of a film in one request, in bytes.
pub(super) const LARGEST_PART: usize = 16_000_000;
/// Largest file of stills, in bytes.
pub(super) const LARGEST_STILLS: u64 = 400_000_000;
/// Frames stored in one go.
const FRAMES_AT_ONCE: usize = 50;
/// Longest side of frames made from stills, in px.
const LONGEST_SIDE: u32 = 1280;
/// Most pictures in a strobe picture.
const MOST_STROBES: usize = 60;
/// JPEG quality of frames and strobe pictures made here.
const QUALITY: u8 = 88;

/// For whom a film is kept: the logbook in the path, or the teacher who asks.
pub(super) struct Keeper(FilmOwner);

impl FromRequestParts<App> for Keeper {
    type Rejection = WebError;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, WebError> {
        if parts.uri.path().starts_with("/logbooks/") {
            let access = Access::from_request_parts(parts, app).await?;
            access.writer()?;
            let id = access.info.id;
            let book = app.desks.book(id).await?;
            book.check_open(Step::Measure)?;
            if !book.sheet().is_filmed() {
                return Err(WebError::Invalid("This lab is done without a film. Nothing was brought.".to_owned()));
            }
            return Ok(Self(FilmOwner::Logbook(id)));
        }
        let AsTeacher(teacher) = AsTeacher::from_request_parts(parts, app).await?;
        Ok(Self(FilmOwner::Teacher(teacher.id)))
    }
}

impl Keeper {
    /// A film of this keeper's own.
    fn own(self, store: &Store, film: Id) -> Result<FilmRow, StoreError> {
        let row = store.film(film)?;
        if row.owner == self.0 { Ok(row) } else { Err(StoreError::NotFound("film")) }
    }
}

/// A number in the path, of a film, a frame or a trail.
fn number<T: FromStr>(path: &HashMap<String, String>, name: &str) -> Result<T, WebError> {
    path.get(name).and_then(|v| v.parse().ok()).ok_or(WebError::NoPage)
}

type Named = Path<HashMap<String, String>>;

#[derive(Deserialize)]
pub(super) struct Coming {
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

pub(super) async fn begin(
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

pub(super) async fn put(
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
                        "Frame {number} is no picture of {} × {} pixels. The frames before are kept.",
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
pub(super) async fn missing(State(app): State<App>, keeper: Keeper, Path(path): Named) -> Result<Response, WebError> {
    let film = number(&path, "film")?;
    let missing = app
        .store(move |s| {
            keeper.own(s, film)?;
            s.missing_frames(film)
        })
        .await?;
    Ok(Json(serde_json::json!({ "missing": missing })).into_response())
}

pub(super) async fn finish(State(app): State<App>, keeper: Keeper, Path(path): Named) -> Result<Response, WebError> {
    let film = number(&path, "film")?;
    app.store(move |s| {
        keeper.own(s, film)?;
        s.finish_film(film)
    })
    .await?;
    Ok(StatusCode::NO_CONTENT.into_response())
}

pub(super) async fn delete(State(app): State<App>, keeper: Keeper, Path(path): Named) -> Result<Response, WebError> {
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
pub(super) struct StillsQuery {
    #[serde(default)]
    title: String,
    #[serde(default)]
    rate: Option<f64>,
}

/// A zip of stills or an animated picture becomes a film; nothing is kept of one that fails. Neither the file nor its frames are ever in
/// memory as a whole.
pub(super) async fn stills(
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

/// A film that a sheet or a logbook names; a demo film is rendered when it is first asked for.
async fn named(app: &App, key: &str) -> Result<FilmRow, WebError> {
    if let Some(id) = key.strip_prefix("film ").and_then(|n| n.parse::<Id>().ok()) {
        return app.store(move |s| s.film(id)).await;
    }
    let card = catalogue::film(key).ok_or(StoreError::NotFound("film"))?;
    // One at a time: the next who asks finds it there.
    let _turn = app.rendering.lock().await;
    let found = app.store(move |s| s.demo_film(card.name)).await?;
    match found {
        Some(row) if row.whole => Ok(row),
        half => app.store(move |s| render(s, card, half)).await,
    }
}

fn render(store: &Store, card: &catalogue::FilmCard, half: Option<FilmRow>) -> Result<FilmRow, StoreError> {
    // A server that stopped meanwhile left it half done.
    if let Some(half) = half {
        store.delete_film(half.id)?;
    }
    let content = |e: zeitmass_film::PictureError| StoreError::Content(e.to_string());
    let shoot = card.shoot(1);
    let roll = shoot.roll(1).map_err(content)?;
    let facts = crate::demo_film(card.name).ok_or(StoreError::NotFound("film"))?;
    let film = store.begin_film(&FilmOwner::Demo(card.name.to_owned()), &facts)?;
    let frames = (0..shoot.frames as u32).map(|n| Ok((n, shoot.jpeg(&roll, n as usize).map_err(content)?)));
    let frames = frames.collect::<Result<Vec<_>, StoreError>>()?;
    store.put_frames(film, &frames)?;
    store.finish_film(film)?;
    store.film(film)
}

/// Whether a logbook may see a film: its own, or one its sheet names.
fn may_see(sheet: &LabSheet, logbook: Id, row: &FilmRow, teacher: Id) -> bool {
    let in_sheet = sheet.films.iter().any(|f| f.key == row.facts.key);
    match &row.owner {
        FilmOwner::Logbook(id) => *id == logbook,
        FilmOwner::Teacher(id) => in_sheet && *id == teacher,
        FilmOwner::Demo(_) => in_sheet,
    }
}

/// A film the visitor's logbook may see.
async fn seen(app: &App, info: &LogbookInfo, key: &str) -> Result<FilmRow, WebError> {
    let sheet = Arc::clone(app.desks.book(info.id).await?.sheet());
    // Another sheet's demo film is not rendered for somebody who only tries names.
    if !key.starts_with("film ") && !sheet.films.iter().any(|f| f.key == key) {
        return Err(StoreError::NotFound("film").into());
    }
    let row = named(app, key).await?;
    let allowed = may_see(&sheet, info.id, &row, info.teacher);
    if allowed && row.whole { Ok(row) } else { Err(StoreError::NotFound("film").into()) }
}

#[derive(Deserialize)]
pub(super) struct Chosen {
    key: String,
    token: String,
}

/// Puts a film on the stage.
pub(super) async fn choose(
    State(app): State<App>,
    access: Access,
    Json(chosen): Json<Chosen>,
) -> Result<Response, WebError> {
    let by = access.writer()?;
    let facts = seen(&app, &access.info, &chosen.key).await?.facts;
    let edit = Edit::Film(FilmEdit::ChooseFilm { facts: Box::new(facts) });
    let outcome = app.desks.edit(access.info.id, by, Some(chosen.token), edit).await;
    answer(&app, &access, None, outcome).await
}

/// The films a logbook may put on its stage.
pub(super) async fn list(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    let logbook = access.info.id;
    let own = app.store(move |s| s.films_of(&FilmOwner::Logbook(logbook))).await?;
    let films: Vec<_> = own
        .into_iter()
        .map(|f| serde_json::json!({ "film": f.id, "key": f.facts.key, "title": f.facts.title, "whole": f.whole, "frames": f.facts.times.len(), "arrived": f.arrived }))
        .collect();
    Ok(Json(films).into_response())
}

fn picture(jpeg: Vec<u8>) -> Response {
    // A frame never changes, but it belongs to those who may see it.
    let headers = [(header::CONTENT_TYPE, "image/jpeg"), (header::CACHE_CONTROL, "private, max-age=604800, immutable")];
    (headers, jpeg).into_response()
}

pub(super) async fn frame(State(app): State<App>, access: Access, Path(path): Named) -> Result<Response, WebError> {
    let row = seen(&app, &access.info, path.get("key").map_or("", String::as_str)).await?;
    let n = number(&path, "frame")?;
    Ok(picture(app.store(move |s| s.frame(row.id, n)).await?))
}

/// A frame of a teacher's own film.
pub(super) async fn own_frame(State(app): State<App>, keeper: Keeper, Path(path): Named) -> Result<Response, WebError> {
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
pub(super) struct StrobeQuery {
    from: u32,
    to: u32,
    #[serde(default)]
    step: u32,
    blend: String,
}

/// Several frames in one picture.
pub(super) async fn strobe(
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
pub(super) async fn photos(
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

#[derive(Deserialize)]
pub(super) struct FollowForm {
    from: u32,
    side: usize,
    #[serde(default)]
    step: u32,
}

/// Begins to follow an object from its mark in a frame, or from the nearest one: that before it, for after a mark the film goes on by itself, or
/// else the first after it.
pub(super) async fn follow(
    State(app): State<App>,
    access: Access,
    Path(path): Named,
    axum::Form(form): axum::Form<FollowForm>,
) -> Result<Response, WebError> {
    let by = access.writer()?;
    let trail = number(&path, "trail")?;
    let task = {
        let book = app.desks.book(access.info.id).await?;
        book.check_open(Step::Measure)?;
        let (_, film) = book.state().film_of(trail).ok_or(StoreError::NotFound("trail"))?;
        let marks = &film.trail(trail).ok_or(StoreError::NotFound("trail"))?.marks;
        let nearest = marks.range(..=form.from).next_back().or_else(|| marks.iter().next());
        let (from, mark) = nearest.ok_or_else(|| {
            WebError::Invalid("Mark the object in one frame first: following starts from there.".to_owned())
        })?;
        let earlier = marks.range(..from).rev().take(3);
        let mut earlier: Vec<_> = earlier.map(|(f, m)| (film.facts.times[*f as usize], m.at)).collect();
        earlier.reverse();
        (film.facts.key.clone(), (*from, mark.at), earlier, film.facts.times.clone())
    };
    let (key, start, earlier, times) = task;
    let row = seen(&app, &access.info, &key).await?;
    let task = Task {
        logbook: access.info.id,
        by,
        film: row.id,
        trail,
        last: times.len() as u32 - 1,
        times,
        start,
        earlier,
        step: form.step.clamp(1, 100),
        side: form.side,
    };
    app.following.begin(task, tokio::runtime::Handle::current()).map_err(WebError::Invalid)?;
    Ok(StatusCode::ACCEPTED.into_response())
}

pub(super) async fn standing(State(app): State<App>, access: Access, Path(path): Named) -> Result<Response, WebError> {
    let trail = number(&path, "trail")?;
    let standing = app.following.standing(access.info.id, trail).ok_or(StoreError::NotFound("trail"))?;
    Ok(Json(standing).into_response())
}

pub(super) async fn cancel(State(app): State<App>, access: Access, Path(path): Named) -> Result<Response, WebError> {
    access.writer()?;
    let trail = number(&path, "trail")?;
    app.following.cancel(access.info.id, trail);
    Ok(StatusCode::NO_CONTENT.into_response())
}

#[derive(Deserialize)]
pub(super) struct MomentQuery {
    trail: Option<u32>,
    frame: u32,
    #[serde(default)]
    mass: String,
    run: Option<u32>,
    #[serde(default)]
    second: bool,
}

/// What a moment tells, as a fragment.
pub(super) async fn moment(
    State(app): State<App>,
    access: Access,
    Query(query): Query<MomentQuery>,
) -> Result<Response, WebError> {
    let book = app.desks.book(access.info.id).await?;
    let writable = access.viewer.may_write() && !book.is_closed(Step::Measure);
    let of = MomentOf { trail: query.trail, run: query.run, second: query.second, frame: query.frame };
    page(&views::MomentView::of(&book, &of, &query.mass, writable))
}

/// A teacher's films.
pub(super) async fn library(State(app): State<App>, AsTeacher(teacher): AsTeacher) -> Result<Response, WebError> {
    let id = teacher.id;
    let films = app.store(move |s| s.films_of(&FilmOwner::Teacher(id))).await?;
    page(&views::FilmsPage::of(teacher.name, films, app.film_limits()))
}
