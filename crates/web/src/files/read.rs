//! Reading a file somebody brings.

use encoding_rs::{Encoding, WINDOWS_1252};
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

/// The text in the encoding its mark tells; without one in UTF-8, or in what spreadsheets on Windows write.
fn decode(bytes: &[u8]) -> String {
    if let Some((told, mark)) = Encoding::for_bom(bytes) {
        return told.decode_without_bom_handling(&bytes[mark..]).0.into_owned();
    }
    let windows = || WINDOWS_1252.decode_without_bom_handling(bytes).0.into_owned();
    std::str::from_utf8(bytes).map_or_else(|_| windows(), str::to_owned)
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_text_is_read_in_the_encoding_it_was_written_in() {
        let text = "Weg – Zeit (µs)\n0,5\n";
        let narrow: Vec<u8> =
            text.chars().map(|c| if c == '–' { 0x96 } else { u8::try_from(u32::from(c)).unwrap() }).collect();
        let wide =
            |unit: fn(u16) -> [u8; 2]| "\u{FEFF}".encode_utf16().chain(text.encode_utf16()).flat_map(unit).collect();
        let marked = ["\u{FEFF}".as_bytes(), text.as_bytes()].concat();
        for bytes in [narrow, wide(u16::to_le_bytes), wide(u16::to_be_bytes), marked, text.as_bytes().to_vec()] {
            assert_eq!(decode(&bytes), text, "{bytes:x?}");
        }
    }
}
