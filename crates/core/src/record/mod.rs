//! The record: tables of columns with symbol and unit, rows of readings, worked columns by formula.
//!
//! [`Record`] is one table as it is stored; [`Record::evaluate`] works out the [`Table`] people see.

mod block;
mod simulate;
mod stop;
mod stopping;
mod table;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use strum::{EnumString, IntoStaticStr, VariantArray};

use crate::formula::Formula;
use crate::quantity::{Precision, Reading, Uncertain, Unit};
pub use block::{Block, BlockError, Head, LARGEST_BLOCK, read_head};
pub use simulate::{Simulated, TooManyRows, simulate};
pub use stop::Stop;
pub use stopping::{Standing, StoppingRule};
pub(crate) use table::shown;
pub use table::{Cell, Table, TableColumn, TableRow};

/// Most columns a table may have.
pub const MOST_COLUMNS: usize = 40;
/// Most rows a table may have.
pub const MOST_ROWS: usize = 10_000;
/// Most tables of a logbook.
pub const MOST_TABLES: usize = 12;

/// Identity of a table; never used twice in a logbook.
pub type TableId = u32;
/// Identity of a column; never used twice in a logbook.
pub type ColumnId = u32;
/// Identity of a row; never used twice in a logbook.
pub type RowId = u32;

/// The table every logbook starts with.
pub const FIRST_TABLE: TableId = 1;

/// Quantities that are the same for all rows, by symbol: value and uncertainty in coherent SI units, and the unit.
pub type Held = BTreeMap<String, (Uncertain, Unit)>;

/// Where a column's values come from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, VariantArray, IntoStaticStr, EnumString)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum ColumnKind {
    /// Varied by hand.
    Set,
    /// Measured.
    Read,
    /// Supplied by the sheet.
    Given,
    /// Worked out by formula.
    Worked,
}

impl ColumnKind {
    /// All kinds.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The word for it.
    pub fn word(self) -> &'static str {
        self.into()
    }

    /// The kind of that word.
    pub fn named(word: &str) -> Option<Self> {
        word.parse().ok()
    }
}

/// A column of a table.
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
    /// Unit its values are shown in. `None` in a worked column whose unit follows from its formula.
    pub unit: Option<Unit>,
    /// The formula of a worked column.
    pub formula: Option<Formula>,
    /// How precisely its readings are known.
    #[serde(default)]
    pub precision: Precision,
    /// The quantity it is one run of: columns n_1 and n_2 have the stem n.
    #[serde(default)]
    pub stem: Option<String>,
    /// Why this run is set aside, if it is.
    #[serde(default)]
    pub aside: Option<String>,
    /// Whether the marks of a trail fill it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub filled: bool,
    /// The instrument or setting of the rig it is logged from with the rest of a trial.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub source: Option<Box<ColumnSource>>,
}

/// What a column is logged from when a whole trial is.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum ColumnSource {
    /// A setting of the rig, by its name.
    Setting(String),
    /// A meter of the rig, by its name.
    Meter(String),
}

impl Column {
    /// A column of readings, each known to its last digit.
    pub fn of_readings(id: ColumnId, kind: ColumnKind, name: String, symbol: String, unit: Unit) -> Self {
        Self { kind, unit: Some(unit), formula: None, ..Self::worked(id, name, symbol, None) }
    }

    /// A column that a formula fills, in the unit that follows from it.
    pub fn worked(id: ColumnId, name: String, symbol: String, formula: Option<Formula>) -> Self {
        let (kind, precision) = (ColumnKind::Worked, Precision::default());
        Self {
            id,
            kind,
            name,
            symbol,
            unit: None,
            formula,
            precision,
            stem: None,
            aside: None,
            filled: false,
            source: None,
        }
    }
}

/// A row of a table: one trial.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Row {
    /// Its identity.
    pub id: RowId,
    /// Readings by column; each on its own, since a tree keeps room for eleven of them for every row.
    #[serde(deserialize_with = "crate::number_keys::map")]
    pub cells: BTreeMap<ColumnId, Box<Reading>>,
    /// Kept, but not used in fits.
    pub aside: bool,
    /// Why it is set aside.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub why: String,
    /// The mark it belongs to: trail and frame.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mark: Option<(u32, u32)>,
}

/// A table as stored.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Record {
    /// Its identity.
    pub id: TableId,
    /// Its name.
    pub name: String,
    /// Columns from left to right.
    pub columns: Vec<Column>,
    /// Rows from top to bottom.
    pub rows: Vec<Row>,
    /// The column whose values part the rows into groups.
    #[serde(default)]
    pub group: Option<ColumnId>,
    /// When there are runs enough.
    #[serde(default)]
    pub stopping: Option<StoppingRule>,
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

    /// Number of rows that hold at least one reading that was not given.
    pub fn trials(&self) -> usize {
        let given: Vec<ColumnId> = self.columns.iter().filter(|c| c.kind == ColumnKind::Given).map(|c| c.id).collect();
        self.rows.iter().filter(|r| r.cells.keys().any(|id| !given.contains(id))).count()
    }

    /// Whether marks of a film fill it: its rows are frames of one motion then, and no trials.
    pub fn is_filled(&self) -> bool {
        self.columns.iter().any(|c| c.filled)
    }

    /// The runs of a quantity, those set aside included, from left to right.
    pub fn runs(&self, stem: &str) -> impl Iterator<Item = &Column> {
        self.columns.iter().filter(move |c| c.stem.as_deref() == Some(stem))
    }

    /// Symbols of the runs of a quantity that count; `None` when it has no runs.
    fn counting_runs(&self, stem: &str) -> Option<Vec<String>> {
        let mut all = self.runs(stem).peekable();
        all.peek()?;
        Some(all.filter(|c| c.aside.is_none()).map(|c| c.symbol.clone()).collect())
    }
}
