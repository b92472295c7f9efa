//! The write-up and the files to take along.

use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use zeitmass_core::logbook::Logbook;
use zeitmass_core::record::Cell;

use super::page;
use crate::app::App;
use crate::draw::{self, Audience};
use crate::error::WebError;
use crate::session::Access;
use crate::views;

pub(super) async fn write_up(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    let class = access.info.class;
    let class = app.store(move |s| s.class_name(class)).await?;
    let desk = app.desks.desk(access.info.id).await?;
    page(&views::WriteUp::of(&desk, &access.info, class))
}

fn file(content: impl IntoResponse, kind: &str, name: &str) -> Response {
    let headers = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\"")),
    ];
    (headers, content).into_response()
}

pub(super) async fn csv(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    let desk = app.desks.desk(access.info.id).await?;
    let text = record_csv(&desk.book).map_err(|_| WebError::Broken)?;
    Ok(file(text, "text/csv; charset=utf-8", "record.csv"))
}

/// The record as CSV: heads `L (m)`, values as read, one column that says which rows are set aside.
fn record_csv(book: &Logbook) -> Result<Vec<u8>, csv::Error> {
    let table = book.analyse().table;
    let mut writer = csv::Writer::from_writer(Vec::new());
    let head = |c: &zeitmass_core::record::TableColumn| {
        let unit = c.unit.as_ref().map(ToString::to_string).unwrap_or_default();
        if unit.is_empty() { c.column.symbol.clone() } else { format!("{} ({unit})", c.column.symbol) }
    };
    let heads = table.columns.iter().map(head).chain(["set aside".to_owned()]);
    writer.write_record(heads)?;
    for row in &table.rows {
        // Other programs read a hyphen, not a minus sign.
        let cells = row.cells.iter().map(|c: &Cell| c.text().replace('\u{2212}', "-"));
        writer.write_record(cells.chain([if row.aside { "yes" } else { "" }.to_owned()]))?;
    }
    writer.into_inner().map_err(|e| e.into_error().into())
}

async fn graph(app: &App, access: &Access) -> Result<zeitmass_core::graph::Graph, WebError> {
    let desk = app.desks.desk(access.info.id).await?;
    let graph = desk.book.analyse().graph;
    graph
        .ok_or_else(|| WebError::Invalid("There is no graph yet: choose what goes up and what goes across.".to_owned()))
}

pub(super) async fn svg(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    let graph = graph(&app, &access).await?;
    Ok(file(draw::svg(&graph, Audience::Reader), "image/svg+xml", "graph.svg"))
}

pub(super) async fn png(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    let graph = graph(&app, &access).await?;
    let picture = tokio::task::spawn_blocking(move || draw::png(&graph)).await.map_err(|_| WebError::Broken)?;
    Ok(file(picture.ok_or(WebError::Broken)?, "image/png", "graph.png"))
}
