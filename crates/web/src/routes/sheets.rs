//! Lab sheets: looking, copying, editing with a preview.

use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode};
use axum::response::{IntoResponse, Response};
use axum::{Form, Json};
use serde::Deserialize;
use zeitmass_core::lab::LabSheet;
use zeitmass_store::Id;

use super::{go, page};
use crate::app::App;
use crate::error::{Outcome, WebError, wants_data};
use crate::session::AsTeacher;
use crate::views::{SheetEditPage, SheetGuidePage, SheetListRow, SheetPage, SheetPreview, SheetsPage, rigs};

pub(super) async fn list(State(app): State<App>, AsTeacher(teacher): AsTeacher) -> Result<Response, WebError> {
    let rows = app.store(move |s| s.sheets(teacher.id)).await?;
    let mut sheets: Vec<_> = rows
        .into_iter()
        .filter_map(|row| app.sheet(&row.source).ok().map(|sheet| (sheet, row)))
        .map(|(sheet, row)| {
            let number = sheet.number;
            let shown = SheetListRow {
                id: row.id,
                number: number.to_string(),
                title: sheet.title.clone(),
                unit: sheet.unit.clone(),
                shipped: row.shipped,
            };
            (number, shown)
        })
        .collect();
    sheets.sort_by_key(|(number, row)| (*number, row.id));
    let sheets = sheets.into_iter().map(|(_, row)| row).collect();
    page(&SheetsPage { who: teacher.name, sheets, rigs: rigs() })
}

#[derive(Deserialize)]
pub(super) struct NewSheet {
    rig: String,
}

/// A sheet to start from, opened for editing.
pub(super) async fn begin(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Form(form): Form<NewSheet>,
) -> Result<Response, WebError> {
    let source =
        LabSheet::blank(&form.rig).ok_or_else(|| WebError::Unreadable(format!("there is no rig “{}”", form.rig)))?;
    let sheet = app.store(move |s| s.new_sheet(teacher.id, &source)).await?;
    Ok(go(format!("/sheets/{sheet}/edit")))
}

/// How a sheet is written, and what every rig has.
pub(super) async fn guide(AsTeacher(teacher): AsTeacher) -> Result<Response, WebError> {
    page(&SheetGuidePage::of(teacher.name))
}

pub(super) async fn show(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let row = app.store(move |s| s.sheet(teacher.id, id)).await?;
    page(&SheetPage { who: teacher.name, id, shipped: row.shipped, preview: SheetPreview::of(&row.source) })
}

pub(super) async fn copy(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let copy = app.store(move |s| s.copy_sheet(teacher.id, id)).await?;
    Ok(go(format!("/sheets/{copy}/edit")))
}

pub(super) async fn edit(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let row = app.store(move |s| s.sheet(teacher.id, id)).await?;
    if row.shipped {
        return Ok(go(format!("/sheets/{id}")));
    }
    let preview = SheetPreview::of(&row.source);
    page(&SheetEditPage { who: teacher.name, id, source: row.source, message: String::new(), saved: false, preview })
}

#[derive(Deserialize)]
pub(super) struct SheetText {
    source: String,
}

/// What is said of a sheet that was saved.
const SAVED: &str = "Saved. New logbooks get this text; those already begun keep theirs.";

pub(super) async fn save(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
    headers: HeaderMap,
    Form(form): Form<SheetText>,
) -> Result<Response, WebError> {
    let source = form.source.replace("\r\n", "\n");
    let text = source.clone();
    let outcome = app.store(move |s| s.save_sheet(teacher.id, id, &text)).await;
    let (status, message) = match outcome {
        Ok(()) => (StatusCode::OK, SAVED.to_owned()),
        Err(e) if e.status() == StatusCode::UNPROCESSABLE_ENTITY => (e.status(), e.to_string()),
        Err(e) => return Err(e),
    };
    let done = status == StatusCode::OK;
    if wants_data(&headers) {
        return Ok((status, Json(Outcome { done, word: message })).into_response());
    }
    let preview = SheetPreview::of(&source);
    // What was typed stays in the box, also when it could not be saved.
    let again = page(&SheetEditPage { who: teacher.name, id, source, saved: done, message, preview })?;
    Ok((status, again).into_response())
}

pub(super) async fn preview(_: AsTeacher, Form(form): Form<SheetText>) -> Result<Response, WebError> {
    page(&SheetPreview::of(&form.source))
}
