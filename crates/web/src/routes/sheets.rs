//! Lab sheets: looking, copying, editing with a preview.

use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode};
use axum::response::{IntoResponse, Response};
use axum::{Form, Json};
use serde::Deserialize;
use zeitmass_core::lab::{LARGEST, LabSheet};
use zeitmass_store::Id;

use super::exports::file;
use super::{go, page};
use crate::app::App;
use crate::error::{Outcome, WebError, wants_data};
use crate::files::file_name;
use crate::session::AsTeacher;
use crate::views::{SheetEditPage, SheetGuidePage, SheetListRow, SheetPage, SheetPreview, SheetsPage, rigs};

pub(super) async fn list(State(app): State<App>, AsTeacher(teacher): AsTeacher) -> Result<Response, WebError> {
    sheets_page(&app, (teacher.id, teacher.name), String::new()).await
}

async fn sheets_page(app: &App, (owner, who): (Id, String), message: String) -> Result<Response, WebError> {
    let (rows, assigned) = app.store(move |s| Ok((s.sheets(owner)?, s.where_assigned(owner)?))).await?;
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
                classes: assigned
                    .iter()
                    .filter(|(sheet, _)| *sheet == row.id)
                    .map(|(_, class)| class.as_str())
                    .collect::<Vec<_>>()
                    .join(", "),
            };
            (number, shown)
        })
        .collect();
    sheets.sort_by_key(|(number, row)| (*number, row.id));
    let sheets = sheets.into_iter().map(|(_, row)| row).collect();
    page(&SheetsPage { who, sheets, rigs: rigs(), message })
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

/// A sheet from a file, opened for editing. One with mistakes is taken all the same: they are told where it is edited.
pub(super) async fn bring(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Form(form): Form<SheetText>,
) -> Result<Response, WebError> {
    let source = form.source.replace("\r\n", "\n");
    if source.trim().is_empty() || source.len() > LARGEST {
        let message = format!("A lab sheet is a text of at most {} kB. No sheet was brought.", LARGEST / 1000);
        let again = sheets_page(&app, (teacher.id, teacher.name), message).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    }
    let sheet = app.store(move |s| s.new_sheet(teacher.id, &source)).await?;
    Ok(go(format!("/sheets/{sheet}/edit")))
}

/// A sheet as a file.
pub(super) async fn take_along(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let row = app.store(move |s| s.sheet(teacher.id, id)).await?;
    let name = app.sheet(&row.source).map_or_else(|_| "sheet".to_owned(), |s| format!("{} {}", s.number, s.title));
    Ok(file(row.source, "text/markdown; charset=utf-8", &format!("{}.md", file_name(&name))))
}

pub(super) async fn delete(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let owner = teacher.id;
    match app.store(move |s| s.delete_sheet(owner, id)).await {
        Ok(()) => Ok(go("/sheets")),
        Err(e) if e.status() == StatusCode::UNPROCESSABLE_ENTITY => {
            let again = sheets_page(&app, (owner, teacher.name), e.to_string()).await?;
            Ok((e.status(), again).into_response())
        }
        Err(e) => Err(e),
    }
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
