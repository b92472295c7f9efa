//! The whole logbook as a zip: a Frictionless Data Package (<https://datapackage.org/standard/data-package/>) with a CSV file
//! a table, an SVG file a graph, the write-up as a page, and the logbook's content to bring it back.

use std::io::{Cursor, Read, Write};

use askama::Template;
use serde_json::{Value, json};
use zeitmass_core::logbook::{Logbook, State};
use zeitmass_core::record::Stop;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipArchive, ZipWriter};

use super::{TableFormat, file_name, table_file};
use crate::draw::{self, Audience};
use crate::error::WebError;
use crate::views::{WriteUp, WriteUpFile};

/// The file inside the zip that brings a logbook back.
const CONTENT: &str = "logbook.json";
/// Largest content that is read, unpacked, in bytes.
const LARGEST: u64 = 60_000_000;

/// The zip of a logbook; given up once `stop` is set.
pub(crate) fn package(book: &Logbook, write_up: WriteUp, stop: &Stop) -> Result<Vec<u8>, WebError> {
    let goes_on = || if stop.is_set() { Err(WebError::Broken) } else { Ok(()) };
    let broken = |e: &dyn std::fmt::Display| {
        tracing::error!("a logbook could not be packed: {e}");
        WebError::Broken
    };
    let analysis = book.analyse();
    let mut files: Vec<(String, Vec<u8>)> = Vec::new();
    let mut resources: Vec<Value> = Vec::new();
    for (table, number) in analysis.tables.iter().zip(1..) {
        goes_on()?;
        let name = format!("{number}-{}", file_name(&table.record.name));
        let path = format!("tables/{name}.csv");
        let mut fields: Vec<Value> = table
            .columns
            .iter()
            .map(|c| {
                let unit = c.unit.as_ref().map(ToString::to_string).unwrap_or_default();
                let head =
                    if unit.is_empty() { c.column.symbol.clone() } else { format!("{} ({unit})", c.column.symbol) };
                let mut field = json!({
                    "name": head, "title": c.column.name, "type": "number",
                    "symbol": c.column.symbol, "unit": unit, "kind": c.column.kind.word(),
                });
                if let Some(formula) = &c.column.formula {
                    field["formula"] = formula.text().into();
                }
                field
            })
            .collect();
        fields.push(json!({ "name": "set aside", "type": "string" }));
        resources.push(json!({
            "name": name, "title": table.record.name, "path": path, "profile": "tabular-data-resource",
            "format": "csv", "mediatype": "text/csv", "encoding": "utf-8",
            "schema": { "fields": fields, "missingValues": [""] },
        }));
        files.push((path, table_file(table, TableFormat::Csv)?));
    }
    for ((_, graph), number) in analysis.graphs.iter().zip(1..) {
        goes_on()?;
        let Some(graph) = graph else { continue };
        let path =
            format!("graphs/{number}-{}.svg", file_name(&format!("{} against {}", graph.y.symbol, graph.x.symbol)));
        resources.push(
            json!({ "name": format!("graph-{number}"), "path": path, "format": "svg", "mediatype": "image/svg+xml" }),
        );
        files.push((path, draw::svg(graph, Audience::Reader).into_bytes()));
    }
    let sheet = book.sheet();
    let descriptor = json!({
        "profile": "data-package",
        "name": file_name(&format!("{} {}", sheet.number, sheet.title)),
        "title": format!("{} {}", sheet.number, sheet.title),
        "contributors": [{ "title": write_up.people, "role": "author" }],
        "resources": resources,
    });
    files.push(("write-up.docx".to_owned(), super::docx(&write_up)?));
    let page = WriteUpFile { w: write_up }.render()?;
    files.push(("write-up.html".to_owned(), page.into_bytes()));
    files.push(("datapackage.json".to_owned(), serde_json::to_vec_pretty(&descriptor).map_err(|e| broken(&e))?));
    files.push((CONTENT.to_owned(), serde_json::to_vec(book.state()).map_err(|e| broken(&e))?));

    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    let options = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
    for (path, content) in files {
        goes_on()?;
        zip.start_file(path, options).map_err(|e| broken(&e))?;
        zip.write_all(&content).map_err(|e| broken(&e))?;
    }
    Ok(zip.finish().map_err(|e| broken(&e))?.into_inner())
}

/// The content of a logbook's zip; `None` when the file is another kind of zip.
pub(crate) fn content_of(bytes: &[u8]) -> Result<Option<State>, WebError> {
    let unreadable = |e: &dyn std::fmt::Display| {
        WebError::Invalid(format!("This logbook's zip cannot be read ({e}). The logbook is as it was."))
    };
    let Ok(mut zip) = ZipArchive::new(Cursor::new(bytes)) else { return Ok(None) };
    let Ok(file) = zip.by_name(CONTENT) else { return Ok(None) };
    // A small file may unpack to a huge one.
    let mut text = String::new();
    let read = file.take(LARGEST + 1).read_to_string(&mut text).map_err(|e| unreadable(&e))?;
    if read as u64 > LARGEST {
        return Err(unreadable(&"it is too large"));
    }
    serde_json::from_str(&text).map(Some).map_err(|e| unreadable(&e))
}
