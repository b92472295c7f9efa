//! Who did what in a logbook, for those who work in it and for the teacher.

use axum::Form;
use axum::extract::{Query, State};
use axum::response::Response;
use serde::Deserialize;

use super::{go, page};
use crate::app::App;
use crate::error::WebError;
use crate::session::Access;
use crate::views::HistoryPage;
use zeitmass_core::logbook::{Edit, OfficeEdit};
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
    let office = &book.state().office;
    let open = !office.handed_in && office.reopened.is_empty() && book.unread().is_none();
    let goes_back = access.viewer.may_write() && open;
    page(&HistoryPage::of(named, (teaches, goes_back), &access.info, &book, done))
}

#[derive(Deserialize)]
pub(super) struct To {
    /// Number of an edit; 0 for what the logbook began with.
    to: u64,
}

/// Goes back to what the logbook was after an earlier edit. That is an edit like others, and can be undone.
pub(super) async fn go_back(
    State(app): State<App>,
    access: Access,
    Form(To { to }): Form<To>,
) -> Result<Response, WebError> {
    let by = access.writer()?;
    let id = access.info.id;
    let then = app.store(move |s| s.logbook_at(id, to)).await?;
    let content = Box::new(then.state().clone());
    app.desks.edit(id, by, None, Edit::Office(OfficeEdit::GoBack { to, content })).await?;
    Ok(go(format!("/logbooks/{id}")))
}
