//! The record: columns with symbol and unit, rows of readings, worked columns by formula.
//!
//! [`Record`] is what is stored; [`Record::evaluate`] works out the [`Table`] people see.

mod table;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::formula::Formula;
use crate::quantity::{Reading, Unit};
pub use table::{Cell, Table, TableColumn, TableRow};

/// Most columns a record may have.
pub const MOST_COLUMNS: usize = 40;
/// Most rows a record may have.
pub const MOST_ROWS: usize = 10_000;

/// Identity of a column; never used twice in a logbook.
pub type ColumnId = u32;
/// Identity of a row; never used twice in a logbook.
pub type RowId = u32;

/// Where a column's values come from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum ColumnKind {
    /// Varied by hand.
    Set,
    /// Measured.
    Read,
    /// Worked out by formula.
    Worked,
}

impl ColumnKind {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Set => "set",
            Self::Read => "read",
            Self::Worked => "worked",
        }
    }

    /// The kind of that word.
    pub fn named(word: &str) -> Option<Self> {
        [Self::Set, Self::Read, Self::Worked].into_iter().find(|k| k.word() == word)
    }
}

/// A column of the record.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Column {
    /// Its identity.
    pub id: ColumnId,
    /// Where its values come from.
    pub kind: ColumnKind,
    /// Name: `length`.
    pub name: String,
    /// Symbol: `L`.
    pub symbol: String,
    /// Unit of its values. `None` in a worked column whose unit follows from its formula.
    pub unit: Option<Unit>,
    /// The formula of a worked column.
    pub formula: Option<Formula>,
}

/// A row of the record: one trial.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Row {
    /// Its identity.
    pub id: RowId,
    /// Readings by column.
    pub cells: BTreeMap<ColumnId, Reading>,
    /// Kept, but not used in fits.
    pub aside: bool,
}

/// Columns and rows as stored.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Record {
    /// Columns from left to right.
    pub columns: Vec<Column>,
    /// Rows from top to bottom.
    pub rows: Vec<Row>,
}

impl Record {
    /// The column with this id.
    pub fn column(&self, id: ColumnId) -> Option<&Column> {
        self.columns.iter().find(|c| c.id == id)
    }

    /// The column with this symbol.
    pub fn by_symbol(&self, symbol: &str) -> Option<&Column> {
        self.columns.iter().find(|c| c.symbol == symbol)
    }

    /// Place and row with this id.
    pub fn row(&self, id: RowId) -> Option<(usize, &Row)> {
        self.rows.iter().enumerate().find(|(_, r)| r.id == id)
    }

    /// Number of rows that hold at least one reading.
    pub fn trials(&self) -> usize {
        self.rows.iter().filter(|r| !r.cells.is_empty()).count()
    }
}
