//! What the tests of logbooks share.

#![allow(dead_code, reason = "each test uses a part of it")]

use std::sync::Arc;

use zeitmass_core::lab::{LabSheet, Wrong};
use zeitmass_core::logbook::{ColumnText, Edit, Heard, Logbook, RecordEdit, Refusal, RowAt};
use zeitmass_core::record::{ColumnKind, Record};

/// Whether a mistake of a sheet is the one that is meant.
pub type IsTold = fn(&Wrong) -> bool;

/// A logbook of a sheet's text.
pub fn open(sheet: &str, seed: u64) -> Logbook {
    Logbook::new(Arc::new(LabSheet::parse(sheet).unwrap()), seed)
}

/// All sheets that come with the program: the name of the file and its text.
pub fn shipped() -> Vec<(String, String)> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../labs");
    let files = std::fs::read_dir(folder).unwrap().map(|f| f.unwrap().path());
    let mut all: Vec<_> = files
        .filter(|path| path.extension().is_some_and(|e| e == "md"))
        .map(|path| (path.file_name().unwrap().to_string_lossy().into_owned(), std::fs::read_to_string(&path).unwrap()))
        .collect();
    all.sort();
    assert!(all.len() >= 40);
    all
}

/// An empty logbook of the tower pendulum.
pub fn empty() -> Logbook {
    open(include_str!("../../../../../labs/2.1-tower-pendulum.md"), 7)
}

pub fn text(name: &str, symbol: &str, unit: &str, formula: &str) -> ColumnText {
    let (name, symbol, unit, formula) = (name.into(), symbol.into(), unit.into(), formula.into());
    ColumnText { name, symbol, unit, formula, ..ColumnText::default() }
}

pub fn worked(name: &str, symbol: &str, formula: &str) -> Edit {
    Edit::Record(RecordEdit::AddColumn { table: 1, kind: ColumnKind::Worked, text: text(name, symbol, "", formula) })
}

pub fn typed(row: Option<u32>, column: u32, value: &str) -> Edit {
    let row = row.map_or(RowAt::Below, RowAt::There);
    Edit::Record(RecordEdit::TypeCell { row, column, typed: value.into(), was: None })
}

#[track_caller]
pub fn done(book: &mut Logbook, edit: Edit) -> Vec<Heard> {
    let intent = book.apply(&edit, 0);
    intent.unwrap_or_else(|e| panic!("{} {edit:?}: {e:?}", book.sheet().number)).heard
}

#[track_caller]
pub fn refused(book: &mut Logbook, edit: &Edit) -> Refusal {
    let before = book.clone();
    let refusal = book.apply(edit, 0).expect_err("refused");
    assert!(*book == before, "a refused edit changed the logbook: {edit:?}");
    refusal
}

/// The first table.
pub fn record(book: &Logbook) -> &Record {
    &book.state().record.tables[0]
}

/// Text of a cell of the first table, by places.
pub fn cell(book: &Logbook, column: usize, row: usize) -> String {
    book.analyse().tables[0].text(column, row)
}

/// A line of what was found, for `tools/truth`, which sets ZEITMASS_TELL.
pub fn tell(line: &str) {
    use std::io::Write;
    if std::env::var_os("ZEITMASS_TELL").is_some() {
        let _ = writeln!(std::io::stdout(), "{line}");
    }
}
