//! The write-up, files to take along, and files that are brought.

use axum::Json;
use axum::body::Bytes;
use axum::extract::{Path, Query, State};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use serde::Deserialize;
use zeitmass_core::graph::Graph;
use zeitmass_core::logbook::{Edit, OfficeEdit, RecordEdit, RowAt};
use zeitmass_store::{Id, LogbookInfo, StoreError};

use super::logbook::Told;
use super::page;
use crate::app::App;
use crate::desks::{blocking, until_gone};
use crate::draw::{self, Audience};
use crate::error::WebError;
use crate::files::{TableFormat, Upload, docx, file_name, package, read_upload, table_file};
use crate::session::Access;
use crate::views;

/// Largest file that is taken, in bytes.
pub(super) const LARGEST_UPLOAD: usize = 12_000_000;

async fn written(app: &App, access: &Access) -> Result<views::WriteUp, WebError> {
    write_up_of(app, &access.info).await
}

/// What the write-up of a logbook gathers.
pub(super) async fn write_up_of(app: &App, info: &LogbookInfo) -> Result<views::WriteUp, WebError> {
    let class = info.class;
    let class = app.store(move |s| s.class_name(class)).await?;
    let sight = app.desks.sight(info.id).await?;
    let info = info.clone();
    let photos = super::films::photos(app, &info, &sight.book).await?;
    blocking(move || views::WriteUp::of(&sight, &info, class, photos)).await
}

pub(super) async fn write_up(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    page(&views::WriteUpPage { w: written(&app, &access).await? })
}

/// The write-up as a document.
pub(super) async fn document(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    let w = written(&app, &access).await?;
    let name = format!("{}.docx", file_name(&format!("{} {}", w.number, w.title)));
    let packed = until_gone(move |stop| if stop.is_set() { Err(WebError::Broken) } else { docx(&w) }).await??;
    Ok(file(packed, "application/vnd.openxmlformats-officedocument.wordprocessingml.document", &name))
}

pub(super) fn file(content: impl IntoResponse, kind: &str, name: &str) -> Response {
    let headers = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\"")),
    ];
    (headers, content).into_response()
}

/// `1.csv` as number and extension.
fn split(name: &str) -> Result<(u32, &str), WebError> {
    let (number, extension) = name.split_once('.').ok_or(WebError::NoPage)?;
    Ok((number.parse().map_err(|_| WebError::NoPage)?, extension))
}

/// A table as CSV, ODS or XLSX.
pub(super) async fn table(
    State(app): State<App>,
    access: Access,
    Path((_, name)): Path<(Id, String)>,
) -> Result<Response, WebError> {
    let (id, extension) = split(&name)?;
    let format = TableFormat::named(extension).ok_or(WebError::NoPage)?;
    let analysis = app.desks.sight(access.info.id).await?.analysis;
    let table = analysis.tables.iter().find(|t| t.record.id == id).ok_or(WebError::NoPage)?;
    let name = format!("{}.{extension}", file_name(&table.record.name));
    let table = table.clone();
    let content =
        until_gone(move |stop| if stop.is_set() { Err(WebError::Broken) } else { table_file(&table, format) })
            .await??;
    Ok(file(content, format.media_type(), &name))
}

/// A graph as SVG or PNG.
pub(super) async fn graph(
    State(app): State<App>,
    access: Access,
    Path((_, name)): Path<(Id, String)>,
) -> Result<Response, WebError> {
    let (id, extension) = split(&name)?;
    let sight = app.desks.sight(access.info.id).await?;
    if sight.book.state().graph(id).is_none() {
        return Err(WebError::NoPage);
    }
    let missing = || WebError::Invalid("There is no graph yet: choose y and x.".to_owned());
    let drawn: Graph = sight.analysis.graph(id).ok_or_else(missing)?.clone();
    let name = format!("{}.{extension}", file_name(&format!("{} against {}", drawn.y.symbol, drawn.x.symbol)));
    match extension {
        "svg" => Ok(file(blocking(move || draw::svg(&drawn, Audience::Reader)).await?, "image/svg+xml", &name)),
        "png" => {
            let picture = until_gone(move |stop| if stop.is_set() { None } else { draw::png(&drawn) }).await?;
            Ok(file(picture.ok_or(WebError::Broken)?, "image/png", &name))
        }
        _ => Err(WebError::NoPage),
    }
}

/// A picture of the stage: a run up to a frame, as SVG or PNG. `120.png` is frame 120.
pub(super) async fn picture(
    State(app): State<App>,
    access: Access,
    Path((_, run, name)): Path<(Id, u32, String)>,
) -> Result<Response, WebError> {
    let (frame, extension) = split(&name)?;
    let sight = app.desks.sight(access.info.id).await?;
    let drawn = blocking(move || views::run_picture(&sight, run, frame).map(|(svg, _)| svg));
    let svg = drawn.await?.ok_or(StoreError::NotFound("run"))?;
    let name = format!("run-{run}-frame-{frame}.{extension}");
    match extension {
        "svg" => Ok(file(svg, "image/svg+xml", &name)),
        "png" => {
            let picture = until_gone(move |stop| if stop.is_set() { None } else { draw::picture(&svg) }).await?;
            Ok(file(picture.ok_or(WebError::Broken)?, "image/png", &name))
        }
        _ => Err(WebError::NoPage),
    }
}

/// The whole logbook as a zip.
pub(super) async fn zip(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    tracing::info!(logbook = access.info.id, "a logbook was taken along");
    let write_up = written(&app, &access).await?;
    let book = app.desks.book(access.info.id).await?;
    let name = format!("{}.zip", file_name(&format!("{} {}", book.sheet().number, book.sheet().title)));
    let packed = until_gone(move |stop| package(&book, write_up, stop)).await??;
    Ok(file(packed, "application/zip", &name))
}

#[derive(Deserialize)]
pub(super) struct Brought {
    /// The file's name.
    name: String,
    /// Into which table; a new one without.
    table: Option<u32>,
    token: Option<String>,
}

/// Takes a file with a table or a logbook. What changed is fetched by the page as after any partner's edit.
pub(super) async fn import(
    State(app): State<App>,
    access: Access,
    Query(brought): Query<Brought>,
    bytes: Bytes,
) -> Result<Response, WebError> {
    let by = access.writer()?;
    let id = access.info.id;
    let name = brought.name.clone();
    let outcome = match blocking(move || read_upload(&name, &bytes)).await? {
        Ok(Upload::Logbook(content)) => {
            let edit = Edit::Office(OfficeEdit::Restore { content });
            app.desks.edit(id, by, brought.token, edit).await
        }
        Ok(Upload::Table(text)) => {
            let book = app.desks.book(id).await?;
            let taken: Vec<String> = book.state().record.tables.iter().map(|t| t.name.clone()).collect();
            let name = table_name(&brought.name, &taken);
            let edit = RecordEdit::Paste { table: brought.table, name, row: RowAt::Below, column: None, text };
            app.desks.edit(id, by, brought.token, Edit::Record(edit)).await
        }
        Err(e) => Err(e),
    };
    tracing::info!(logbook = id, done = outcome.is_ok(), "a file was brought");
    let (status, told) = Told::of(outcome);
    Ok((status, Json(told)).into_response())
}

/// A table's name from a file's: without its ending, and unlike those that are there.
fn table_name(file: &str, taken: &[String]) -> String {
    let stem = file.rsplit_once('.').map_or(file, |(s, _)| s);
    let base: String = stem.trim().chars().take(34).collect();
    let base = if base.is_empty() { "Table".to_owned() } else { base };
    let mut names = std::iter::once(base.clone()).chain((2..).map(|i| format!("{base} {i}")));
    names.find(|n| !taken.contains(n)).unwrap_or(base)
}
