//! Letting the program place the marks of a trail.

use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use axum::{Form, Json};
use serde::Deserialize;
use zeitmass_core::inquiry::Step;
use zeitmass_store::StoreError;

use super::{Named, number, seen};
use crate::app::App;
use crate::error::WebError;
use crate::follow::Task;
use crate::session::Access;

#[derive(Deserialize)]
pub(in crate::routes) struct FollowForm {
    from: u32,
    side: usize,
    #[serde(default)]
    step: u32,
}

/// Begins to follow an object from its mark in a frame, or from the nearest one: that before it, for after a mark the film goes on by itself, or
/// else the first after it.
pub(in crate::routes) async fn follow(
    State(app): State<App>,
    access: Access,
    Path(path): Named,
    Form(form): Form<FollowForm>,
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

/// How following stands; no content where nothing is followed.
pub(in crate::routes) async fn standing(
    State(app): State<App>,
    access: Access,
    Path(path): Named,
) -> Result<Response, WebError> {
    let trail = number(&path, "trail")?;
    let standing = app.following.standing(access.info.id, trail);
    Ok(standing.map_or_else(|| StatusCode::NO_CONTENT.into_response(), |standing| Json(standing).into_response()))
}

pub(in crate::routes) async fn cancel(
    State(app): State<App>,
    access: Access,
    Path(path): Named,
) -> Result<Response, WebError> {
    access.writer()?;
    let trail = number(&path, "trail")?;
    app.following.cancel(access.info.id, trail);
    Ok(StatusCode::NO_CONTENT.into_response())
}
