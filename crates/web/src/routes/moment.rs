//! Asking a run or a film what one moment of it tells.

use axum::extract::{Query, State};
use axum::response::Response;
use serde::Deserialize;
use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::MomentOf;

use super::page;
use crate::app::App;
use crate::error::WebError;
use crate::session::Access;
use crate::views;

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
