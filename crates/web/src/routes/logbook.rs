//! The bench of a logbook: the page, edits, live parts.

use std::collections::HashMap;
use std::convert::Infallible;

use askama::Template;
use axum::Form;
use axum::extract::{Path, Query, State};
use axum::response::sse::{Event, KeepAlive};
use axum::response::{Html, IntoResponse, Response, Sse};
use futures_util::{Stream, StreamExt};
use serde::Deserialize;
use tokio_stream::wrappers::BroadcastStream;
use zeitmass_core::logbook::{Edit, Part};
use zeitmass_store::{Id, Who};

use super::{go, page};
use crate::app::App;
use crate::error::WebError;
use crate::forms::Fields;
use crate::session::Access;
use crate::views;

pub(super) async fn bench(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    let desk = app.desks.desk(access.info.id).await?;
    page(&views::Bench::of(&desk, &access.info, matches!(access.who, Who::Teacher(_)), app.film_limits())?)
}

pub(super) async fn edit(
    State(app): State<App>,
    access: Access,
    Form(form): Form<HashMap<String, String>>,
) -> Result<Response, WebError> {
    let author = access.writer()?.to_owned();
    let fields = Fields::new(form);
    let done = match fields.edit() {
        Ok(edit) => app.desks.edit(access.info.id, author, fields.token(), edit).await,
        Err(e) => Err(e),
    };
    // Refused or not, the page is brought up to date: a partner may have been faster.
    let desk = app.desks.desk(access.info.id).await?;
    let mut body = views::parts(&desk, true, fields.since(), fields.look(), &[])?;
    match done {
        Ok(word) => {
            let message = word.unwrap_or_default();
            body.push_str(&views::Notice { message, done: true, place: None }.render()?);
            Ok(Html(body).into_response())
        }
        Err(e) => {
            body.push_str(&views::Notice::of(&e).render()?);
            Ok((e.status(), Html(body)).into_response())
        }
    }
}

/// What changed since edit `since`, and the parts named in `parts` in any case.
pub(super) async fn parts(
    State(app): State<App>,
    access: Access,
    Query(query): Query<HashMap<String, String>>,
) -> Result<Response, WebError> {
    let desk = app.desks.desk(access.info.id).await?;
    let writable = matches!(access.who, Who::Student(_));
    let fields = Fields::new(query);
    let also: Vec<Part> = fields.text("parts").split(',').filter_map(Part::named).collect();
    Ok(Html(views::parts(&desk, writable, fields.since(), fields.look(), &also)?).into_response())
}

/// The Monte-Carlo check of a worked column, as words.
pub(super) async fn simulate(
    State(app): State<App>,
    access: Access,
    Path((_, column)): Path<(Id, u32)>,
) -> Result<Response, WebError> {
    let book = app.desks.desk(access.info.id).await?.book.clone();
    let view = tokio::task::spawn_blocking(move || views::Simulation::of(&book, column));
    page(&view.await.map_err(|_| WebError::Broken)??)
}

/// The numbers of new edits as server-sent events. One who fell behind hears the newest number next.
pub(super) async fn events(
    State(app): State<App>,
    access: Access,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, WebError> {
    let numbers = app.desks.watch(access.info.id).await?;
    let seq = app.desks.desk(access.info.id).await?.book.seq();
    let first = futures_util::stream::iter([seq]);
    // A number that was dropped for a slow reader is followed by a newer one, which says all.
    let later = BroadcastStream::new(numbers).filter_map(async |n| n.ok());
    let stream = first.chain(later).map(|n| Ok(Event::default().event("moved").data(n.to_string())));
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}

#[derive(Deserialize)]
pub(super) struct Back {
    #[serde(default)]
    note: String,
}

pub(super) async fn send_back(
    State(app): State<App>,
    access: Access,
    Form(form): Form<Back>,
) -> Result<Response, WebError> {
    let author = access.teacher()?.name.clone();
    app.desks.edit(access.info.id, author, None, Edit::SendBack { note: form.note }).await?;
    Ok(go(format!("/classes/{}", access.info.class)))
}
