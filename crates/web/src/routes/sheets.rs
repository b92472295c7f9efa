//! Lab sheets: looking, copying, the drafting table, and trying a sheet as a student meets it.

use std::collections::BTreeSet;

use axum::extract::{Path, Query, State};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use axum::{Form, Json};
use serde::{Deserialize, Serialize};
use zeitmass_core::lab::{Draft, DraftEdit, DraftRefusal, LARGEST, LabSheet, Stays};
use zeitmass_core::logbook::{Edit, OfficeEdit, Part};
use zeitmass_store::{Actor, Begun, DraftRow, FilmOwner, FilmRow, Id, StoreError};
use zeitmass_words::Words;

use super::exports::file;
use super::{go, page};
use crate::app::App;
use crate::error::WebError;
use crate::files::file_name;
use crate::session::AsTeacher;
use crate::views::{
    DraftPage, DraftParts, Growth, SheetGuidePage, SheetListRow, SheetPage, SheetPreview, SheetsPage, rigs,
};

pub(super) async fn list(State(app): State<App>, AsTeacher(teacher): AsTeacher) -> Result<Response, WebError> {
    sheets_page(&app, (teacher.id, teacher.name), String::new()).await
}

async fn sheets_page(app: &App, (owner, who): (Id, String), message: String) -> Result<Response, WebError> {
    let (rows, assigned, drafted) =
        app.store(move |s| Ok((s.sheets(owner)?, s.where_assigned(owner)?, s.drafted(owner)?))).await?;
    let mut sheets: Vec<_> = rows
        .into_iter()
        .map(|row| (app.sheet(&row.source).ok(), row))
        .map(|(sheet, row)| {
            // One that cannot be read yet is there to be finished.
            let number = sheet.as_ref().map(|s| s.number);
            let shown = SheetListRow {
                id: row.id,
                number: number.map_or_else(String::new, |n| n.to_string()),
                title: sheet
                    .as_ref()
                    .map_or_else(|| "Not finished: something in it is wrong".to_owned(), |s| s.title.clone()),
                unit: sheet.as_ref().map_or_else(String::new, |s| s.unit.clone()),
                sound: sheet.is_some(),
                shipped: row.shipped,
                drafted: drafted.contains(&row.id),
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
    let number = free_number(&app, teacher.id).await?;
    let source = source.replacen("number = \"20.1\"", &format!("number = \"{number}\""), 1);
    let sheet = app.store(move |s| s.new_sheet(teacher.id, &source)).await?;
    Ok(go(format!("/sheets/{sheet}/edit")))
}

/// A number that no sheet of the teacher has.
pub(super) async fn free_number(app: &App, teacher: Id) -> Result<String, WebError> {
    let rows = app.store(move |s| s.sheets(teacher)).await?;
    let taken: Vec<String> =
        rows.iter().filter_map(|row| app.sheet(&row.source).ok()).map(|sheet| sheet.number.to_string()).collect();
    let free = (1..).map(|place| format!("20.{place}")).find(|number| !taken.contains(number));
    Ok(free.unwrap_or_default())
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

#[derive(Deserialize)]
pub(super) struct SheetText {
    source: String,
}

/// Which tab of the drafting table: the text, or else the form.
#[derive(Deserialize)]
pub(super) struct Tab {
    #[serde(default, rename = "as")]
    tab: String,
}

pub(super) async fn edit(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
    Query(Tab { tab }): Query<Tab>,
) -> Result<Response, WebError> {
    let owner = teacher.id;
    let row = app.store(move |s| s.sheet(owner, id)).await?;
    if row.shipped {
        return Ok(go(format!("/sheets/{id}")));
    }
    draft_page(&app, (owner, teacher.name), id, tab == "text", None).await
}

/// The drafting table, with what came of saving.
async fn draft_page(
    app: &App,
    (owner, who): (Id, String),
    id: Id,
    as_text: bool,
    outcome: Option<(String, bool)>,
) -> Result<Response, WebError> {
    let (row, begun, films) = app
        .store(move |s| Ok((s.draft(owner, id)?, s.begun_with(owner, id)?, s.films_of(&FilmOwner::Teacher(owner))?)))
        .await?;
    let source = row.source.clone();
    let mut parts = parts(id, row, (&begun, &films), as_text)?;
    if let Some((message, saved)) = outcome {
        (parts.head.message, parts.head.saved) = (message, saved);
    }
    let (head, form, beside) = parts.rendered()?;
    page(&DraftPage { who, id, as_text, source, head, form, beside })
}

fn parts(id: Id, row: DraftRow, (begun, films): (&[Begun], &[FilmRow]), as_text: bool) -> Result<DraftParts, WebError> {
    let later = LabSheet::parse(&row.source).ok();
    // Only those that would get something new are spoken of. Most were begun with the same text, which is read once.
    let mut growing = Growth { begun: 0, handed_in: 0, stays: Vec::new() };
    let mut all: Vec<Stays> = Vec::new();
    let mut seen: Vec<(&str, &[String])> = Vec::new();
    for book in begun.iter().filter(|b| text_of(b) != row.source) {
        let Some(later) = &later else { continue };
        growing.begun += 1;
        growing.handed_in += usize::from(book.handed_in);
        let texts = (book.source.as_str(), book.grown.as_slice());
        if seen.contains(&texts) {
            continue;
        }
        seen.push(texts);
        for stays in sheet_of(book).iter().flat_map(|now| now.stays(later)) {
            if !all.contains(&stays) {
                all.push(stays);
            }
        }
    }
    growing.stays = all.iter().map(Words::words).collect();
    DraftParts::of(id, row, (growing.begun > 0).then_some(growing), films, as_text)
}

/// The sheet of a logbook as it is: as it was begun, and grown since.
fn sheet_of(book: &Begun) -> Option<LabSheet> {
    let read = |text: &String| LabSheet::parse_kept(text).ok();
    book.grown.iter().try_fold(read(&book.source)?, |sheet, later| Some(sheet.grown(&read(later)?)))
}

/// The newest text a logbook has.
fn text_of(book: &Begun) -> &str {
    book.grown.last().unwrap_or(&book.source)
}

/// What was done at the drafting table.
#[derive(Deserialize)]
#[serde(untagged)]
enum Deed {
    Edit(DraftEdit),
    Turn { turn: Turn },
    Text { text: String },
}

#[derive(Clone, Copy, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Turn {
    Back,
    Forth,
}

#[derive(Deserialize)]
pub(super) struct Deeds {
    deeds: Vec<Deed>,
    /// The change the page shows.
    after: i64,
    as_text: bool,
}

/// A field that could not be filled in, and why.
#[derive(Serialize)]
struct NotTaken {
    path: String,
    word: String,
}

/// What came of it: the parts of the page, and what was not taken.
#[derive(Serialize)]
struct Drafted {
    html: String,
    refused: Vec<NotTaken>,
    /// The text, where another one than the page's is shown now.
    text: Option<String>,
    word: Option<&'static str>,
}

/// Most deeds of one request: a page sends them as they are made.
const MOST_DEEDS: usize = 200;

/// What is said when the text was changed in two windows.
const TWICE: &str = "This sheet was also changed in another window. Your text is kept; Undo brings the other one back.";

pub(super) async fn draft(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
    Json(Deeds { deeds, after, as_text }): Json<Deeds>,
) -> Result<Response, WebError> {
    if deeds.len() > MOST_DEEDS {
        return Err(WebError::TooLarge);
    }
    let owner = teacher.id;
    let done = app.store(move |s| {
        let mut refused = Vec::new();
        let (mut row, mut text, mut word) = (s.draft(owner, id)?, None, None);
        for deed in deeds {
            row = match deed {
                Deed::Turn { turn } => {
                    let row = s.turn_draft(owner, id, matches!(turn, Turn::Back))?;
                    text = Some(row.source.clone());
                    row
                }
                Deed::Text { text } => {
                    let source = text.replace("\r\n", "\n");
                    if source.trim().is_empty() || source.len() > LARGEST {
                        refused.push(NotTaken {
                            path: String::new(),
                            word: format!(
                                "A lab sheet is a text of at most {} kB. The text is kept as it was before.",
                                LARGEST / 1000
                            ),
                        });
                        continue;
                    }
                    if row.step != after && row.source != source {
                        word = Some(TWICE);
                    }
                    s.change_draft(owner, id, |_| Ok(source))?
                }
                Deed::Edit(edit) => {
                    let changed = s.change_draft(owner, id, |row| {
                        let mut draft = Draft::read(&row.source).map_err(DraftRefusal::from)?;
                        draft.apply(&edit)?;
                        Ok(draft.text())
                    });
                    match changed {
                        Ok(row) => row,
                        Err(StoreError::NotDrafted(refusal)) => {
                            refused.push(NotTaken { path: path_of(&edit), word: refusal.words() });
                            continue;
                        }
                        Err(e) => return Err(e),
                    }
                }
            };
        }
        let films = s.films_of(&FilmOwner::Teacher(owner))?;
        Ok((row, refused, text, word, (s.begun_with(owner, id)?, films)))
    });
    let (row, refused, text, word, (begun, films)) = done.await?;
    let html = parts(id, row, (&begun, &films), as_text)?.fragments()?;
    Ok(Json(Drafted { html, refused, text, word }).into_response())
}

fn path_of(edit: &DraftEdit) -> String {
    match edit {
        DraftEdit::Set { path, .. }
        | DraftEdit::Clear { path }
        | DraftEdit::Add { path, .. }
        | DraftEdit::Remove { path }
        | DraftEdit::Move { path, .. } => path.clone(),
    }
}

/// Whether logbooks that were begun get the text too.
#[derive(Default, Deserialize)]
#[serde(rename_all = "snake_case")]
enum For {
    #[default]
    New,
    Begun,
}

#[derive(Deserialize)]
pub(super) struct Saving {
    #[serde(default)]
    logbooks: For,
    /// Whether those that are handed in are reopened.
    #[serde(default)]
    reopen: String,
}

/// Grows a logbook, and says so in it; gives whether it was handed in and is open again.
async fn grow(app: &App, owner: Id, book: &Begun, later: &LabSheet) -> Result<bool, WebError> {
    let news = sheet_of(book).map_or_else(String::new, |now| now.news(later).words());
    // Nothing can be said in one that this program reads in part only; it is left as it was.
    if app.desks.book(book.logbook).await?.unread().is_some() {
        return Err(WebError::Invalid("It was written by a newer program.".to_owned()));
    }
    app.desks.grow(book.logbook).await?;
    if news.is_empty() {
        return Ok(false);
    }
    let by = Actor::Teacher(owner);
    if book.handed_in {
        let back = Edit::Office(OfficeEdit::SendBack { note: news.clone(), steps: BTreeSet::new() });
        app.desks.edit(book.logbook, by, None, back).await?;
    }
    let word = Edit::Office(OfficeEdit::SayWord { part: Part::Questions, text: news });
    app.desks.edit(book.logbook, by, None, word).await?;
    Ok(book.handed_in)
}

/// What is said once logbooks have grown: how many, how many of them are open again, how many could not.
fn grown_words(grown: usize, reopened: usize, failed: usize) -> String {
    let done = match (grown, reopened) {
        (0, _) => "Saved. New logbooks get this text; there was none to add it to.".to_owned(),
        (1, 0) => "Saved. The logbook already started has it too.".to_owned(),
        (n, 0) => format!("Saved. The {n} logbooks already started have it too."),
        (1, _) => "Saved. The logbook that was handed in has it too, and is open again.".to_owned(),
        (n, r) => format!("Saved. {n} logbooks already started have it too; {r} of them are open again."),
    };
    match failed {
        0 => done,
        1 => done + " One could not be changed and is as it was; save again to try it.",
        n => format!("{done} {n} could not be changed and are as they were; save again to try it."),
    }
}

/// Puts the draft in force; logbooks that were begun grow by it if that is wished.
pub(super) async fn save(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
    Form(form): Form<Saving>,
) -> Result<Response, WebError> {
    let owner = teacher.id;
    let saved = app
        .store(move |s| {
            let row = s.draft(owner, id)?;
            if !row.saved {
                s.save_sheet(owner, id, &row.source)?;
            }
            Ok((row.source, s.begun_with(owner, id)?))
        })
        .await;
    let (source, begun) = match saved {
        Ok(saved) => saved,
        Err(e) if e.status() == StatusCode::UNPROCESSABLE_ENTITY => {
            let told = Some((e.to_string(), false));
            let again = draft_page(&app, (owner, teacher.name), id, false, told).await?;
            return Ok((e.status(), again).into_response());
        }
        Err(e) => return Err(e),
    };
    let later = LabSheet::parse(&source).map_err(|e| WebError::Invalid(e.words()))?;
    let message = match form.logbooks {
        For::New if begun.is_empty() => "Saved. New logbooks get this text.".to_owned(),
        For::New => "Saved. New logbooks get this text; those already started keep theirs.".to_owned(),
        For::Begun => {
            let reopen = form.reopen == "yes";
            let (mut grown, mut reopened, mut failed) = (0, 0, 0);
            // One that is handed in and stays so is marked by the sheet it was handed in with.
            for book in begun.iter().filter(|b| text_of(b) != source && (reopen || !b.handed_in)) {
                // One that cannot be written to is no reason to leave out the others.
                match grow(&app, owner, book, &later).await {
                    Ok(open_again) => (grown, reopened) = (grown + 1, reopened + usize::from(open_again)),
                    Err(e) => {
                        tracing::warn!(logbook = book.logbook, error = %e, "a logbook did not grow");
                        failed += 1;
                    }
                }
            }
            tracing::info!(teacher = owner, sheet = id, grown, reopened, failed, "a sheet has grown");
            grown_words(grown, reopened, failed)
        }
    };
    draft_page(&app, (owner, teacher.name), id, false, Some((message, true))).await
}

#[derive(Deserialize)]
pub(super) struct Attempt {
    /// Whether it is begun anew, and what was there is given up.
    #[serde(default)]
    anew: String,
}

/// Opens a logbook of the teacher's own, in which the sheet is done as a student does it.
pub(super) async fn attempt(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
    Form(form): Form<Attempt>,
) -> Result<Response, WebError> {
    let owner = teacher.id;
    let outcome = app
        .store(move |s| {
            let row = s.sheet(owner, id)?;
            let source = if row.shipped { row.source } else { s.draft(owner, id)?.source };
            s.try_sheet(owner, id, &source, form.anew == "yes")
        })
        .await;
    let (logbook, erased) = outcome?;
    erased.into_iter().for_each(|logbook| app.desks.close(logbook));
    Ok(go(format!("/logbooks/{logbook}")))
}
