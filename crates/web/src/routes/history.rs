//! Who did what in a logbook, for those who work in it and for the teacher.

use axum::extract::{Query, State};
use axum::response::Response;
use serde::Deserialize;

use super::page;
use crate::app::App;
use crate::error::WebError;
use crate::session::Access;
use crate::views::HistoryPage;
use zeitmass_store::Actor;

/// Edits shown at once.
const SHOWN: usize = 200;

#[derive(Deserialize)]
pub(super) struct From {
    /// Number of an edit: those before it are shown.
    before: Option<u64>,
}

pub(super) async fn show(
    State(app): State<App>,
    access: Access,
    Query(from): Query<From>,
) -> Result<Response, WebError> {
    let id = access.info.id;
    let book = app.desks.book(id).await?;
    let (class, actor) = (access.info.class, access.actor);
    let named = app.store(move |s| Ok((s.name_of(actor)?, s.class_name(class)?))).await?;
    let done = app.store(move |s| Ok((s.history(id, from.before, SHOWN)?, s.shares(id)?))).await?;
    let teaches = matches!(access.actor, Actor::Teacher(_));
    page(&HistoryPage::of(named, teaches, &access.info, book.sheet(), done))
}
