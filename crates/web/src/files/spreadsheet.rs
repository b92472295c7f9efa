//! The first sheet of an XLSX (ECMA-376) or ODS (OASIS OpenDocument 1.3) file, as rows of text.
//!
//! Both are read here, a tag at a time, because the libraries for them make room for as many cells, rows and words as a file says it
//! has, and a file of a kilobyte can say anything. Here room is made for what is there, and for no more than [`Sheet`] takes.

use std::collections::HashMap;
use std::io::{Cursor, Read};

use quick_xml::Reader;
use quick_xml::XmlVersion::Implicit1_0;
use quick_xml::escape::resolve_predefined_entity;
use quick_xml::events::{BytesRef, BytesStart, Event};
use zip::ZipArchive;

/// Bytes of all the parts that are read, unpacked.
const MOST_UNPACKED: u64 = 48_000_000;
/// Rows and columns: more than a table takes, so that the table's own word about its limits is heard.
const MOST_ROWS: usize = 20_000;
const MOST_COLUMNS: usize = 100;
/// Bytes of text in the cells.
const MOST_TEXT: usize = 8_000_000;

/// Why a spreadsheet cannot be read.
#[derive(Debug, thiserror::Error)]
pub(super) enum Unread {
    #[error("it is neither XLSX nor ODS")]
    OtherKind,
    #[error("it has no sheet")]
    NoSheet,
    #[error("its first sheet reaches beyond row {MOST_ROWS} or column {MOST_COLUMNS}")]
    TooWide,
    #[error("it is too large")]
    TooLarge,
    #[error("it is damaged: {0}")]
    Damaged(String),
}

fn damaged(reason: impl ToString) -> Unread {
    Unread::Damaged(reason.to_string())
}

/// The first sheet's rows, from the first cell that holds something to the last; each is as long as it reaches.
pub(super) fn first_sheet(bytes: &[u8]) -> Result<Vec<Vec<String>>, Unread> {
    let mut parts = Parts { zip: ZipArchive::new(Cursor::new(bytes)).map_err(damaged)?, left: MOST_UNPACKED };
    let sheet = if let Some(content) = parts.read("content.xml")? {
        open_document(&content)?
    } else if let Some(book) = parts.read("xl/workbook.xml")? {
        office_open(&book, &mut parts)?
    } else {
        return Err(Unread::OtherKind);
    };
    Ok(sheet.trimmed())
}

/// The files inside, unpacked up to a bound.
struct Parts<'a> {
    zip: ZipArchive<Cursor<&'a [u8]>>,
    left: u64,
}

impl Parts<'_> {
    fn read(&mut self, name: &str) -> Result<Option<String>, Unread> {
        let Ok(file) = self.zip.by_name(name) else { return Ok(None) };
        let mut text = String::new();
        let read = file.take(self.left + 1).read_to_string(&mut text).map_err(damaged)? as u64;
        self.left = self.left.checked_sub(read).ok_or(Unread::TooLarge)?;
        Ok(Some(text))
    }
}

/// Cells as they are found.
#[derive(Default)]
struct Sheet {
    rows: Vec<Vec<String>>,
    text: usize,
}

impl Sheet {
    fn put(&mut self, row: usize, column: usize, text: String) -> Result<(), Unread> {
        if text.is_empty() {
            return Ok(());
        }
        if row >= MOST_ROWS || column >= MOST_COLUMNS {
            return Err(Unread::TooWide);
        }
        // An empty cell takes room too.
        let row_before = self.rows.get(row).map_or(0, Vec::len);
        self.text += text.len() + (column + 1).saturating_sub(row_before);
        if self.text > MOST_TEXT {
            return Err(Unread::TooLarge);
        }
        if self.rows.len() <= row {
            self.rows.resize_with(row + 1, Vec::new);
        }
        let cells = &mut self.rows[row];
        if cells.len() <= column {
            cells.resize_with(column + 1, String::new);
        }
        cells[column] = text;
        Ok(())
    }

    /// Without the empty rows above and the empty columns to the left.
    fn trimmed(mut self) -> Vec<Vec<String>> {
        let left = self.rows.iter().filter_map(|row| row.iter().position(|c| !c.is_empty())).min().unwrap_or(0);
        let above = self.rows.iter().take_while(|row| row.is_empty()).count();
        self.rows.drain(..above);
        for row in &mut self.rows {
            row.drain(..left.min(row.len()));
        }
        self.rows
    }
}

/// A number as a spreadsheet stores it, written as short as it can be.
fn number(text: String) -> String {
    text.trim().parse::<f64>().map_or(text, |v| v.to_string())
}

/// An attribute's value by its name, whatever its prefix.
fn attribute(tag: &BytesStart<'_>, name: &str) -> Result<Option<String>, Unread> {
    for found in tag.attributes() {
        let found = found.map_err(damaged)?;
        if found.key.local_name().as_ref() == name {
            return Ok(Some(found.normalized_value(Implicit1_0).map_err(damaged)?.into_owned()));
        }
    }
    Ok(None)
}

/// What `&amp;` or `&#956;` stands for.
pub(super) fn referred(entity: &BytesRef<'_>) -> Result<String, Unread> {
    if let Some(letter) = entity.resolve_char_ref().map_err(damaged)? {
        return Ok(letter.to_string());
    }
    let word = resolve_predefined_entity(entity).ok_or_else(|| damaged(format!("&{}; is unknown", &**entity)))?;
    Ok(word.to_owned())
}

/// Goes through a part; `each` sees tags that open and close, and text, and says when it has seen enough.
fn walk(part: &str, mut each: impl FnMut(Seen<'_>) -> Result<Go, Unread>) -> Result<(), Unread> {
    let mut reader = Reader::from_str(part);
    loop {
        let go = match reader.read_event().map_err(damaged)? {
            Event::Start(tag) => each(Seen::Opens(tag.local_name().as_ref(), &tag))?,
            Event::Empty(tag) => {
                let name = tag.local_name();
                match each(Seen::Opens(name.as_ref(), &tag))? {
                    Go::On => each(Seen::Closes(name.as_ref()))?,
                    Go::Enough => Go::Enough,
                }
            }
            Event::End(tag) => each(Seen::Closes(tag.local_name().as_ref()))?,
            Event::Text(text) => each(Seen::Text(&text.xml10_content()))?,
            Event::CData(text) => each(Seen::Text(&text.xml10_content()))?,
            Event::GeneralRef(entity) => each(Seen::Text(&referred(&entity)?))?,
            Event::Eof => Go::Enough,
            Event::Comment(_) | Event::Decl(_) | Event::PI(_) | Event::DocType(_) => Go::On,
        };
        match go {
            Go::On => {}
            Go::Enough => return Ok(()),
        }
    }
}

enum Seen<'a> {
    Opens(&'a str, &'a BytesStart<'a>),
    Closes(&'a str),
    Text(&'a str),
}

enum Go {
    On,
    Enough,
}

/// XLSX: the sheet that the workbook names first.
fn office_open(book: &str, parts: &mut Parts<'_>) -> Result<Sheet, Unread> {
    let mut id = None;
    walk(book, |seen| match seen {
        Seen::Opens("sheet", tag) => {
            id = attribute(tag, "id")?;
            Ok(Go::Enough)
        }
        Seen::Opens(..) | Seen::Closes(_) | Seen::Text(_) => Ok(Go::On),
    })?;
    let id = id.ok_or(Unread::NoSheet)?;
    let relations = parts.read("xl/_rels/workbook.xml.rels")?.ok_or(Unread::NoSheet)?;
    let mut target = None;
    walk(&relations, |seen| match seen {
        Seen::Opens("Relationship", tag) if attribute(tag, "Id")?.as_deref() == Some(&id) => {
            target = attribute(tag, "Target")?;
            Ok(Go::Enough)
        }
        Seen::Opens(..) | Seen::Closes(_) | Seen::Text(_) => Ok(Go::On),
    })?;
    let target = target.ok_or(Unread::NoSheet)?;
    // Beside the workbook, or from the root.
    let path = target.strip_prefix('/').map_or_else(|| format!("xl/{target}"), str::to_owned);
    let words = parts.read("xl/sharedStrings.xml")?.map_or_else(|| Ok(Vec::new()), |part| shared_words(&part))?;
    let cells = parts.read(&path)?.ok_or(Unread::NoSheet)?;
    office_open_cells(&cells, &words)
}

/// The words that cells name by number.
fn shared_words(part: &str) -> Result<Vec<String>, Unread> {
    let (mut words, mut word, mut inside, mut spoken) = (Vec::new(), String::new(), false, 0u32);
    walk(part, |seen| {
        match seen {
            Seen::Opens("t", _) => inside = spoken == 0,
            Seen::Closes("t") => inside = false,
            // How a word is pronounced is not part of it.
            Seen::Opens("rPh", _) => spoken += 1,
            Seen::Closes("rPh") => spoken = spoken.saturating_sub(1),
            Seen::Closes("si") => words.push(std::mem::take(&mut word)),
            Seen::Text(text) if inside => word.push_str(text),
            Seen::Opens(..) | Seen::Closes(_) | Seen::Text(_) => {}
        }
        Ok(Go::On)
    })?;
    Ok(words)
}

/// `B3` as row and column from 0; `None` when it is no place on a sheet.
fn place(name: &str) -> Option<(usize, usize)> {
    let letters = name.bytes().take_while(u8::is_ascii_uppercase).count();
    if !(1..=3).contains(&letters) {
        return None;
    }
    let column = name.bytes().take(letters).fold(0, |sum, b| sum * 26 + usize::from(b - b'A') + 1);
    let row: usize = name[letters..].parse().ok()?;
    Some((row.checked_sub(1)?, column - 1))
}

fn office_open_cells(part: &str, words: &[String]) -> Result<Sheet, Unread> {
    let mut sheet = Sheet::default();
    let (mut row, mut column) = (0, 0);
    let (mut kind, mut text, mut inside) = (String::new(), String::new(), false);
    walk(part, |seen| {
        match seen {
            Seen::Opens("row", tag) => {
                if let Some(named) = attribute(tag, "r")? {
                    row = named
                        .parse::<usize>()
                        .ok()
                        .and_then(|r| r.checked_sub(1))
                        .ok_or_else(|| damaged("a row has no number"))?;
                }
                column = 0;
            }
            Seen::Closes("row") => row += 1,
            Seen::Opens("c", tag) => {
                if let Some(named) = attribute(tag, "r")? {
                    (row, column) = place(&named).ok_or_else(|| damaged("a cell has no place"))?;
                }
                kind = attribute(tag, "t")?.unwrap_or_default();
                text.clear();
            }
            Seen::Opens("v" | "t", _) => inside = true,
            Seen::Closes("v" | "t") => inside = false,
            Seen::Text(more) if inside => text.push_str(more),
            Seen::Closes("c") => {
                let text = std::mem::take(&mut text);
                let value = match kind.as_str() {
                    "s" if text.is_empty() => text,
                    "s" => {
                        let word = text.trim().parse::<usize>().ok().and_then(|k| words.get(k));
                        word.ok_or_else(|| damaged("a cell names a word that is not there"))?.clone()
                    }
                    "b" => if text.trim() == "1" { "true" } else { "false" }.to_owned(),
                    "str" | "inlineStr" | "e" | "d" => text,
                    _ => number(text),
                };
                sheet.put(row, column, value)?;
                column += 1;
            }
            Seen::Closes("sheetData") => return Ok(Go::Enough),
            Seen::Opens(..) | Seen::Closes(_) | Seen::Text(_) => {}
        }
        Ok(Go::On)
    })?;
    Ok(sheet)
}

/// ODS: the first table.
fn open_document(part: &str) -> Result<Sheet, Unread> {
    let mut sheet = Sheet::default();
    let (mut found, mut row, mut column) = (false, 0usize, 0usize);
    let (mut rows_alike, mut cells_alike) = (1usize, 1usize);
    // The row that is open, to be put as often as it is repeated.
    let mut cells: HashMap<usize, String> = HashMap::new();
    let (mut value, mut text, mut paragraphs, mut inside, mut notes) = (None, String::new(), 0, 0u32, 0u32);
    let repeated = |tag: &BytesStart<'_>, name| -> Result<usize, Unread> {
        let times = attribute(tag, name)?.map_or(Ok(1), |t| t.parse::<usize>());
        Ok(times.map_err(damaged)?.max(1))
    };
    walk(part, |seen| {
        match seen {
            Seen::Opens("table", _) => found = true,
            Seen::Closes("table") => return Ok(Go::Enough),
            Seen::Opens("table-row", tag) => {
                (column, rows_alike) = (0, repeated(tag, "number-rows-repeated")?);
                cells.clear();
            }
            Seen::Closes("table-row") => {
                if !cells.is_empty() {
                    // Rows beyond the last that is taken are refused at the first of them.
                    for copy in 0..rows_alike {
                        for (column, text) in &cells {
                            sheet.put(row.saturating_add(copy), *column, text.clone())?;
                        }
                    }
                }
                row = row.saturating_add(rows_alike);
            }
            Seen::Opens("table-cell" | "covered-table-cell", tag) => {
                cells_alike = repeated(tag, "number-columns-repeated")?;
                value = match attribute(tag, "value-type")?.as_deref() {
                    Some("float" | "percentage" | "currency") => attribute(tag, "value")?.map(number),
                    Some("boolean") => attribute(tag, "boolean-value")?,
                    _ => None,
                };
                (text, paragraphs, notes) = (String::new(), 0, 0);
            }
            Seen::Closes("table-cell" | "covered-table-cell") => {
                let text = value.take().unwrap_or_else(|| std::mem::take(&mut text));
                if !text.is_empty() {
                    let last = column.saturating_add(cells_alike);
                    if last > MOST_COLUMNS {
                        return Err(Unread::TooWide);
                    }
                    cells.extend((column..last).map(|c| (c, text.clone())));
                }
                column = column.saturating_add(cells_alike);
            }
            Seen::Opens("annotation", _) => notes += 1,
            Seen::Closes("annotation") => notes = notes.saturating_sub(1),
            Seen::Opens("p", _) if notes == 0 => {
                if paragraphs > 0 {
                    text.push(' ');
                }
                (paragraphs, inside) = (paragraphs + 1, inside + 1);
            }
            Seen::Closes("p") if notes == 0 => inside = inside.saturating_sub(1),
            // Several spaces, a tab or a break are one space in a cell.
            Seen::Opens("s" | "tab" | "line-break", _) if inside > 0 && notes == 0 => text.push(' '),
            Seen::Text(more) if inside > 0 && notes == 0 => text.push_str(more),
            Seen::Opens(..) | Seen::Closes(_) | Seen::Text(_) => {}
        }
        Ok(Go::On)
    })?;
    if found { Ok(sheet) } else { Err(Unread::NoSheet) }
}
