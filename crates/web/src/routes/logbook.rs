//! The bench of a logbook: the page, edits, live parts.

use std::convert::Infallible;

use axum::extract::rejection::JsonRejection;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::sse::{Event, KeepAlive};
use axum::response::{IntoResponse, Response, Sse};
use axum::{Form, Json};
use futures_util::{Stream, StreamExt};
use serde::{Deserialize, Serialize};
use tokio_stream::wrappers::BroadcastStream;
use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::{Edit, MadeByEdit, OfficeEdit, Part, RecordEdit, Refusal};
use zeitmass_store::{Id, PartnerCode};
use zeitmass_words::Words;

use super::{go, page};
use crate::app::App;
use crate::desks::{Done, blocking};
use crate::error::WebError;
use crate::session::{Access, SignedIn};
use crate::viewer::Viewer;
use crate::views::{self, Look};

pub(super) async fn bench(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    let sight = app.desks.sight(access.info.id).await?;
    let limits = app.film_limits();
    page(&blocking(move || views::Bench::of(&sight, &access.info, access.viewer, limits)).await??)
}

/// What a page sends to have something done.
#[derive(Deserialize)]
pub(super) struct Sent {
    edit: Edit,
    /// By what it is recognised when it is sent twice.
    token: String,
}

/// What came of an edit.
#[derive(Serialize)]
pub(super) struct Told {
    done: bool,
    /// A word for the person; empty for none.
    word: String,
    /// What was done, for whoever hears the page; empty for nothing.
    about: String,
    /// Place of a mistake in a formula, in characters: start and end.
    place: Option<(usize, usize)>,
    made: MadeByEdit,
}

impl Told {
    pub(super) fn of(outcome: Result<Done, WebError>) -> (StatusCode, Self) {
        match outcome {
            Ok(Done { heard, about, made }) => {
                let (word, about) = (heard.words(), about.map_or_else(String::new, |a| a.words()));
                (StatusCode::OK, Self { done: true, word, about, place: None, made })
            }
            Err(e) => {
                let (place, made) = (place_of(&e), MadeByEdit::default());
                (e.status(), Self { done: false, word: e.to_string(), about: String::new(), place, made })
            }
        }
    }
}

/// What came of an edit. What follows from it the page fetches then, as it does when a partner has made it: several edits made
/// briskly are shown together.
#[derive(Serialize)]
struct Outcome {
    #[serde(flatten)]
    told: Told,
    /// The number a typed cell holds now, refused or not: none for an empty one, left out when no cell was typed in.
    #[serde(skip_serializing_if = "Option::is_none")]
    holds: Option<Option<String>>,
    /// Number of the newest edit.
    seq: u64,
}

pub(super) async fn edit(
    State(app): State<App>,
    access: Access,
    sent: Result<Json<Sent>, JsonRejection>,
) -> Result<Response, WebError> {
    let by = access.writer()?;
    let Json(sent) = sent?;
    if !(8..=64).contains(&sent.token.len()) {
        return Err(WebError::Unreadable("an edit has a token of 8 to 64 characters".to_owned()));
    }
    let cell = matches!(sent.edit, Edit::Record(RecordEdit::TypeCell { .. })).then(|| sent.edit.clone());
    let hands_in = matches!(sent.edit, Edit::Office(OfficeEdit::HandIn));
    let outcome = app.desks.edit(access.info.id, by, Some(sent.token), sent.edit).await;
    if hands_in && outcome.is_ok() {
        tracing::info!(logbook = access.info.id, "handed in");
    }
    answer(&app, &access, cell, outcome).await
}

/// What came of an edit. Refused or not, the number of the newest one is told: a partner may have been faster.
pub(super) async fn answer(
    app: &App,
    access: &Access,
    cell: Option<Edit>,
    outcome: Result<Done, WebError>,
) -> Result<Response, WebError> {
    let book = app.desks.book(access.info.id).await?;
    let holds = cell.map(|edit| book.held_by_cell(&edit));
    let (status, told) = Told::of(outcome);
    Ok((status, Json(Outcome { told, holds, seq: book.seq() })).into_response())
}

/// Where in a formula the mistake is.
fn place_of(error: &WebError) -> Option<(usize, usize)> {
    let WebError::Refused(Refusal::Formula { text, error }) = error else { return None };
    let chars = |bytes: usize| text.get(..bytes).map_or(0, |t| t.chars().count());
    Some((chars(error.span.start), chars(error.span.end)))
}

/// What a page asks to see.
#[derive(Deserialize)]
pub(super) struct Wanted {
    /// Number of the last edit the page shows.
    since: u64,
    look: Look,
    /// Parts wanted in any case.
    #[serde(default)]
    also: Vec<Part>,
}

/// What a page has not seen yet.
#[derive(Serialize)]
struct News {
    seq: u64,
    parts: String,
}

/// What changed since edit `since`, and the parts named in any case.
pub(super) async fn parts(
    State(app): State<App>,
    access: Access,
    Json(wanted): Json<Wanted>,
) -> Result<Response, WebError> {
    let sight = app.desks.sight(access.info.id).await?;
    let seq = sight.book.seq();
    let viewer = access.viewer;
    let render = move || views::parts(&sight, viewer, wanted.since, wanted.look, &wanted.also);
    let parts = blocking(render).await??;
    Ok(Json(News { seq, parts }).into_response())
}

/// The Monte-Carlo check of a worked column, as words.
pub(super) async fn simulate(
    State(app): State<App>,
    access: Access,
    Path((_, column)): Path<(Id, u32)>,
) -> Result<Response, WebError> {
    let book = app.desks.book(access.info.id).await?;
    page(&blocking(move || views::Simulation::of(&book, column)).await??)
}

/// The numbers of new edits as server-sent events. One who fell behind hears the newest number next.
pub(super) async fn events(
    State(app): State<App>,
    access: Access,
    signed_in: SignedIn,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, WebError> {
    let numbers = app.desks.watch(access.info.id).await?;
    let seq = app.desks.book(access.info.id).await?.seq();
    let asked = whether_asked(&app, &access).await?;
    let first = futures_util::stream::iter([seq]);
    // A number that was dropped for a slow reader is followed by a newer one, which says all.
    let later = BroadcastStream::new(numbers).filter_map(async |n| n.ok());
    let moved = first.chain(later).map(|n| Event::default().event("moved").data(n.to_string()));
    let stream = futures_util::stream::select(moved, asked).map(Ok);
    Ok(Sse::new(stream.take_until(signed_in.out(&app)?)).keep_alive(KeepAlive::default()))
}

/// Whether the class is asked something in front of everybody, as it stands and whenever it changes; those who answer hear it.
async fn whether_asked(app: &App, access: &Access) -> Result<impl Stream<Item = Event> + use<>, WebError> {
    let (class, hears) = (access.info.class, access.viewer == Viewer::Member);
    let changes = BroadcastStream::new(app.asked.subscribe());
    let now = if hears { app.store(move |s| s.open_ask(class)).await?.is_some() } else { false };
    let later = changes.filter_map(move |change| {
        std::future::ready(match change {
            Ok((asked, open)) => (hears && asked == class).then_some(open),
            // One who fell behind by so many may look for oneself.
            Err(_) => hears.then_some(true),
        })
    });
    let all = futures_util::stream::iter(hears.then_some(now)).chain(later);
    Ok(all.map(|open| Event::default().event("asked").data(open.to_string())))
}

/// A code by which a partner can join, for a while.
#[derive(Serialize)]
struct ShownCode {
    code: String,
    /// Until when, in seconds since 1970 (UTC).
    until: i64,
}

/// Makes a code with which one partner can join in the next minutes.
pub(super) async fn partner_code(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    access.writer()?;
    let (id, now) = (access.info.id, jiff::Timestamp::now().as_second());
    let PartnerCode { code, until } = app.store(move |s| s.let_partner_in(id, now)).await?;
    // Read aloud, four letters are easier than eight.
    let code = code.split_at_checked(code.len() / 2).map_or(code.clone(), |(a, b)| format!("{a}-{b}"));
    Ok(Json(ShownCode { code, until }).into_response())
}

#[derive(Deserialize)]
pub(super) struct Back {
    #[serde(default)]
    note: String,
    /// Steps to open again, by name; all of them when none is named.
    #[serde(default)]
    open: Vec<String>,
}

pub(super) async fn send_back(
    State(app): State<App>,
    access: Access,
    axum_extra::extract::Form(form): axum_extra::extract::Form<Back>,
) -> Result<Response, WebError> {
    let by = access.sender_back()?;
    let steps = form.open.iter().map(|name| {
        Step::named(name)
            .ok_or_else(|| WebError::Invalid("There is no such step. The logbook is still handed in.".to_owned()))
    });
    let steps = steps.collect::<Result<_, _>>()?;
    app.desks.edit(access.info.id, by, None, Edit::Office(OfficeEdit::SendBack { note: form.note, steps })).await?;
    tracing::info!(logbook = access.info.id, "sent back");
    Ok(go(format!("/classes/{}", access.info.class)))
}

/// A word to a group, beside a part.
#[derive(Deserialize)]
pub(super) struct Word {
    part: Part,
    text: String,
}

pub(super) async fn say(
    State(app): State<App>,
    access: Access,
    Form(Word { part, text }): Form<Word>,
) -> Result<Response, WebError> {
    office(&app, &access, OfficeEdit::SayWord { part, text }).await
}

/// The stamp of a step, given or not yet.
#[derive(Deserialize)]
pub(super) struct StampGiven {
    step: Step,
    given: bool,
}

pub(super) async fn stamp(
    State(app): State<App>,
    access: Access,
    Form(StampGiven { step, given }): Form<StampGiven>,
) -> Result<Response, WebError> {
    office(&app, &access, OfficeEdit::Stamp { step, given }).await
}

/// What only the teacher does in a logbook.
async fn office(app: &App, access: &Access, edit: OfficeEdit) -> Result<Response, WebError> {
    let by = access.sender_back()?;
    let outcome = app.desks.edit(access.info.id, by, None, Edit::Office(edit)).await;
    answer(app, access, None, outcome).await
}
