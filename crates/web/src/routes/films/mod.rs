//! Films: which there are, which one is on the stage, bringing one, its pictures, following.
//!
//! A film belongs to a logbook or to a teacher; [`Keeper`] says whose it is to be. A logbook sees its own films and those its
//! sheet names.

mod follow;
mod intake;
mod pictures;

use std::collections::HashMap;
use std::str::FromStr;
use std::sync::Arc;

use axum::Json;
use axum::extract::{FromRequestParts, Path, State};
use axum::http::request::Parts;
use axum::response::{IntoResponse, Response};
use serde::Deserialize;
use zeitmass_core::inquiry::Step;
use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::{Edit, FilmEdit};
use zeitmass_film::catalogue;
use zeitmass_store::{FilmOwner, FilmRow, Id, LogbookInfo, Store, StoreError};

pub(super) use self::follow::{cancel, follow, standing};
pub(super) use self::intake::{LARGEST_PART, begin, delete, finish, missing, put, stills};
pub(super) use self::pictures::{frame, own_frame, photos, strobe};
use super::logbook::answer;
use super::page;
use crate::app::App;
use crate::error::WebError;
use crate::session::{Access, AsTeacher};
use crate::views;

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
                return Err(WebError::Invalid("This lab needs no film. Nothing was added.".to_owned()));
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

/// A teacher's films.
pub(super) async fn library(State(app): State<App>, AsTeacher(teacher): AsTeacher) -> Result<Response, WebError> {
    let id = teacher.id;
    let films = app.store(move |s| s.films_of(&FilmOwner::Teacher(id))).await?;
    page(&views::FilmsPage::of(teacher.name, films, app.film_limits()))
}
