//! Reading a file somebody brings.

use zeitmass_core::logbook::State;

use super::package::content_of;
use super::spreadsheet::first_sheet;
use crate::error::WebError;

/// What a brought file holds.
pub(crate) enum Upload {
    /// A table, as text with tabs.
    Table(String),
    /// The content of a logbook.
    Logbook(Box<State>),
}

/// The first table of a CSV, TSV, ODS or XLSX file as text with tabs.
///
/// # Errors
/// Why it cannot be read, for people.
pub fn read_table(name: &str, bytes: &[u8]) -> Result<String, String> {
    match read_upload(name, bytes).map_err(|e| e.to_string())? {
        Upload::Table(text) => Ok(text),
        Upload::Logbook(_) => Err("It is a whole logbook.".to_owned()),
    }
}

/// Reads CSV, TSV, ODS, XLSX, or a logbook's zip.
pub(crate) fn read_upload(name: &str, bytes: &[u8]) -> Result<Upload, WebError> {
    if bytes.is_empty() {
        return Err(WebError::Invalid("The file is empty. Nothing was changed.".to_owned()));
    }
    // Zip files begin so, and spreadsheets of both kinds are zip files.
    if !bytes.starts_with(b"PK") {
        return Ok(Upload::Table(decode(bytes)));
    }
    if let Some(content) = content_of(bytes)? {
        return Ok(Upload::Logbook(Box::new(content)));
    }
    spreadsheet(bytes).map(Upload::Table).map_err(|e| {
        let name: String = name.chars().take(60).collect();
        WebError::Invalid(format!(
            "The file {name} cannot be read ({e}). CSV, TSV, ODS, XLSX and a logbook's zip can. Nothing was changed."
        ))
    })
}

/// UTF-8, UTF-16 with its mark, or else one byte a letter.
fn decode(bytes: &[u8]) -> String {
    let wide = |pairs: &[u8], unit: fn([u8; 2]) -> u16| {
        let units: Vec<u16> = pairs.as_chunks::<2>().0.iter().map(|p| unit(*p)).collect();
        String::from_utf16_lossy(&units)
    };
    match bytes {
        [0xFF, 0xFE, rest @ ..] => wide(rest, u16::from_le_bytes),
        [0xFE, 0xFF, rest @ ..] => wide(rest, u16::from_be_bytes),
        _ => std::str::from_utf8(bytes).map_or_else(|_| bytes.iter().map(|b| char::from(*b)).collect(), str::to_owned),
    }
}

/// The first sheet as text with tabs.
fn spreadsheet(bytes: &[u8]) -> Result<String, String> {
    let mut writer = csv::WriterBuilder::new().delimiter(b'\t').flexible(true).from_writer(Vec::new());
    let rows = first_sheet(bytes).map_err(|e| e.to_string())?;
    let width = rows.iter().map(Vec::len).max().unwrap_or(0);
    for row in rows {
        let cells = row.iter().map(|c| c.replace(['\t', '\n', '\r'], " "));
        writer.write_record(cells.chain(std::iter::repeat(String::new())).take(width)).map_err(|e| e.to_string())?;
    }
    let text = writer.into_inner().map_err(|e| e.to_string())?;
    String::from_utf8(text).map_err(|e| e.to_string())
}
