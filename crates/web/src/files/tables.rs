//! A table as a file: heads `L (m)`, values as shown, numbers as numbers, and one column that says which rows are set aside.

use std::io::{Cursor, Write};

use askama::Template;
use rust_xlsxwriter::{Format, Workbook};
use zeitmass_core::quantity::Unit;
use zeitmass_core::record::{Table, TableColumn};
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

use crate::error::WebError;
use zeitmass_words::Words;

/// The kinds of files a table can be taken along as.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum TableFormat {
    Csv,
    Ods,
    Xlsx,
}

impl TableFormat {
    pub(crate) fn named(extension: &str) -> Option<Self> {
        Some(match extension {
            "csv" => Self::Csv,
            "ods" => Self::Ods,
            "xlsx" => Self::Xlsx,
            _ => return None,
        })
    }

    pub(crate) fn media_type(self) -> &'static str {
        match self {
            Self::Csv => "text/csv; charset=utf-8",
            Self::Ods => "application/vnd.oasis.opendocument.spreadsheet",
            Self::Xlsx => "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        }
    }
}

/// What stands in a cell of a file.
enum Content {
    Nothing,
    /// A number with its decimal places, so that trailing zeros survive.
    Number(f64, usize),
    Text(String),
}

/// Heads, then rows; and what is to be noted about the columns.
struct Sheets {
    heads: Vec<String>,
    rows: Vec<Vec<Content>>,
    notes: Vec<[String; 5]>,
}

fn head(c: &TableColumn) -> String {
    let unit = c.unit.as_ref().map(ToString::to_string).unwrap_or_default();
    if unit.is_empty() { c.column.symbol.clone() } else { format!("{} ({unit})", c.column.symbol) }
}

/// The text of a cell as other programs read it: a hyphen, not a minus sign; 1.5e-9, not a raised exponent.
fn plain_text(table: &Table, column: usize, row: usize) -> String {
    let text = table.text(column, row);
    if !text.contains('×') {
        return text.replace('\u{2212}', "-");
    }
    let size = table.columns[column].unit.as_ref().map_or(1.0, Unit::size);
    table.columns[column].cells[row].value().map_or_else(String::new, |v| format!("{:e}", v.value / size))
}

fn content(text: String) -> Content {
    match text.parse::<f64>() {
        _ if text.is_empty() => Content::Nothing,
        Ok(number) => {
            let mantissa = text.split(['e', 'E']).next().unwrap_or("");
            Content::Number(number, mantissa.split_once('.').map_or(0, |(_, d)| d.len()))
        }
        Err(_) => Content::Text(text),
    }
}

fn sheets(table: &Table) -> Sheets {
    let columns = 0..table.columns.len();
    let rows = table.rows.iter().enumerate().map(|(i, row)| {
        let cells = columns.clone().map(|c| content(plain_text(table, c, i)));
        let aside = if row.aside { Content::Text("yes".to_owned()) } else { Content::Nothing };
        cells.chain([aside]).collect()
    });
    let note = |c: &TableColumn| {
        [
            c.column.symbol.clone(),
            c.column.name.clone(),
            c.unit.as_ref().map(ToString::to_string).unwrap_or_default(),
            c.column.formula.as_ref().map_or(c.column.kind.word().to_owned(), |f| format!("= {}", f.text())),
            if c.column.formula.is_some() { String::new() } else { c.column.precision.words() },
        ]
    };
    Sheets {
        heads: table.columns.iter().map(head).chain(["set aside".to_owned()]).collect(),
        rows: rows.collect(),
        notes: table.columns.iter().map(note).collect(),
    }
}

const NOTE_HEADS: [&str; 5] = ["symbol", "name", "unit", "where from", "uncertainty"];

/// A table as a file.
pub(crate) fn table_file(table: &Table, format: TableFormat) -> Result<Vec<u8>, WebError> {
    let broken = |e: &dyn std::fmt::Display| {
        tracing::error!("a table could not be written as a file: {e}");
        WebError::Broken
    };
    let sheets = sheets(table);
    match format {
        TableFormat::Csv => csv(table, &sheets).map_err(|e| broken(&e)),
        TableFormat::Xlsx => xlsx(&sheets).map_err(|e| broken(&e)),
        TableFormat::Ods => ods(&sheets).map_err(|e| broken(&e)),
    }
}

/// A cell that no spreadsheet takes for a formula, whatever name somebody gave: an apostrophe before it makes it words (OWASP, *CSV Injection*).
fn harmless(cell: &str) -> String {
    let begins = cell.starts_with(['=', '+', '-', '@', '\t', '\r']);
    if begins && cell.parse::<f64>().is_err() { format!("'{cell}") } else { cell.to_owned() }
}

/// A list as a file: heads and rows of words and numbers.
pub(crate) fn list_file(heads: &[String], rows: &[Vec<String>], format: TableFormat) -> Result<Vec<u8>, WebError> {
    let broken = |e: &dyn std::fmt::Display| {
        tracing::error!("a list could not be written as a file: {e}");
        WebError::Broken
    };
    let sheets = Sheets {
        heads: heads.to_vec(),
        rows: rows.iter().map(|row| row.iter().map(|cell| content(cell.clone())).collect()).collect(),
        notes: Vec::new(),
    };
    match format {
        TableFormat::Csv => {
            let mut writer = csv::Writer::from_writer(Vec::new());
            let mut lines = std::iter::once(heads).chain(rows.iter().map(Vec::as_slice));
            let written = lines.try_for_each(|line| writer.write_record(line.iter().map(|cell| harmless(cell))));
            written.map_err(|e| broken(&e))?;
            writer.into_inner().map_err(|e| broken(&e))
        }
        TableFormat::Xlsx => xlsx(&sheets).map_err(|e| broken(&e)),
        TableFormat::Ods => ods(&sheets).map_err(|e| broken(&e)),
    }
}

fn csv(table: &Table, sheets: &Sheets) -> Result<Vec<u8>, csv::Error> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(&sheets.heads)?;
    for (i, row) in table.rows.iter().enumerate() {
        let cells = (0..table.columns.len()).map(|c| plain_text(table, c, i));
        writer.write_record(cells.chain([if row.aside { "yes" } else { "" }.to_owned()]))?;
    }
    writer.into_inner().map_err(|e| e.into_error().into())
}

fn xlsx(sheets: &Sheets) -> Result<Vec<u8>, rust_xlsxwriter::XlsxError> {
    let mut book = Workbook::new();
    let bold = Format::new().set_bold();
    let sheet = book.add_worksheet().set_name("table")?;
    for (c, head) in (0u16..).zip(&sheets.heads) {
        sheet.write_with_format(0, c, head.as_str(), &bold)?;
    }
    for (r, row) in (1u32..).zip(&sheets.rows) {
        for (c, cell) in (0u16..).zip(row) {
            match cell {
                Content::Nothing => {}
                Content::Number(v, places) => {
                    let shown =
                        if *places == 0 { "0".to_owned() } else { format!("0.{}", "0".repeat((*places).min(15))) };
                    // Very large and small values are left to the program's own format.
                    if (1e-6..1e9).contains(&v.abs()) || *v == 0.0 {
                        sheet.write_with_format(r, c, *v, &Format::new().set_num_format(&shown))?;
                    } else {
                        sheet.write(r, c, *v)?;
                    }
                }
                Content::Text(t) => {
                    sheet.write(r, c, t.as_str())?;
                }
            }
        }
    }
    let notes = book.add_worksheet().set_name("columns")?;
    for (c, head) in (0u16..).zip(NOTE_HEADS) {
        notes.write_with_format(0, c, head, &bold)?;
    }
    for (r, note) in (1u32..).zip(&sheets.notes) {
        for (c, text) in (0u16..).zip(note) {
            notes.write_string(r, c, text.as_str())?;
        }
    }
    book.save_to_buffer()
}

/// An OpenDocument spreadsheet of two plain sheets (OASIS OpenDocument 1.3, parts 2 and 3: package and spreadsheet document).
#[derive(Template)]
#[template(path = "files/ods.xml")]
struct OdsContent<'a> {
    sheets: &'a Sheets,
}

const ODS_MANIFEST: &str = r#"<?xml version="1.0" encoding="UTF-8"?>
<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.3">
<manifest:file-entry manifest:full-path="/" manifest:version="1.3" manifest:media-type="application/vnd.oasis.opendocument.spreadsheet"/>
<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/>
</manifest:manifest>
"#;

fn ods(sheets: &Sheets) -> Result<Vec<u8>, zip::result::ZipError> {
    let content = OdsContent { sheets }.render().map_err(std::io::Error::other)?;
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    // The kind comes first and unpacked, so that it can be told without unpacking.
    let stored = SimpleFileOptions::default().compression_method(CompressionMethod::Stored);
    let packed = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
    let kind = TableFormat::Ods.media_type();
    let parts = [
        ("mimetype", stored, kind),
        ("META-INF/manifest.xml", packed, ODS_MANIFEST),
        ("content.xml", packed, &content),
    ];
    for (path, options, text) in parts {
        zip.start_file(path, options)?;
        zip.write_all(text.as_bytes())?;
    }
    Ok(zip.finish()?.into_inner())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_name_is_no_formula() {
        let rows = [vec!["=HYPERLINK(\"x\")".to_owned(), "-3.5".to_owned(), "@Minna".to_owned(), "Minna".to_owned()]];
        let heads = ["student", "sum", "a", "b"].map(str::to_owned);
        let file = String::from_utf8(list_file(&heads, &rows, TableFormat::Csv).unwrap()).unwrap();
        assert_eq!(file, "student,sum,a,b\n\"'=HYPERLINK(\"\"x\"\")\",-3.5,'@Minna,Minna\n");
    }
}
