//! Edits of the tables. An edit holds what the person typed or pointed at; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use crate::graph::GraphId;
use crate::logbook::footage::Instrument;
use crate::quantity::{Decimal, DrawnFrom, PrecisionText};
use crate::record::{ColumnId, ColumnKind, RowId, TableId};

/// What a person can do to the tables.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum RecordEdit {
    /// Adds an empty table.
    AddTable {
        /// Its name.
        name: String,
    },
    /// Renames a table.
    NameTable {
        /// Which table.
        table: TableId,
        /// Its new name.
        name: String,
    },
    /// Deletes a table with all its readings.
    DeleteTable {
        /// Which table.
        table: TableId,
    },
    /// Parts the rows of a table into groups by a column, or no longer.
    GroupBy {
        /// Which table.
        table: TableId,
        /// By which column.
        column: Option<ColumnId>,
    },
    /// Adds a column at the right.
    AddColumn {
        /// Which table.
        table: TableId,
        /// Set, read or worked.
        kind: ColumnKind,
        /// Name, symbol, unit and formula.
        text: ColumnText,
    },
    /// Changes a column's name, symbol, unit or formula.
    ChangeColumn {
        /// Which column.
        column: ColumnId,
        /// Name, symbol, unit and formula.
        text: ColumnText,
    },
    /// Deletes a column with all its readings.
    DeleteColumn {
        /// Which column.
        column: ColumnId,
    },
    /// Moves a column to the left or right.
    MoveColumn {
        /// Which column.
        column: ColumnId,
        /// By how many places; negative to the left.
        by: i32,
    },
    /// Fills a set column with equal intervals, from its first empty cell on.
    FillColumn {
        /// Which column.
        column: ColumnId,
        /// First value as typed.
        from: String,
        /// Last value as typed.
        to: String,
        /// Number of values.
        count: u32,
    },
    /// Makes room for one more run of a measured quantity: a column beside it.
    AddRun {
        /// A column of that quantity.
        column: ColumnId,
    },
    /// Sets a run aside with a reason, or takes it back.
    SetRunAside {
        /// The run's column.
        column: ColumnId,
        /// Why; `None` takes it back.
        why: Option<String>,
    },
    /// States when there are runs enough.
    StopWhen {
        /// Which table.
        table: TableId,
        /// Stem of the runs; empty for no rule.
        stem: String,
        /// Of what kind the rule is.
        rule: StopBy,
        /// Number of runs, or percent, as typed.
        value: String,
    },
    /// Pastes a block of cells.
    Paste {
        /// Into which table; a new one without.
        table: Option<TableId>,
        /// Name of a new table.
        #[serde(default)]
        name: String,
        /// From which row on.
        row: RowAt,
        /// From which column on, where the block has no heads.
        column: Option<ColumnId>,
        /// The block as text.
        text: String,
    },
    /// States a quantity that is the same in all trials.
    HoldQuantity {
        /// Its symbol; one that is held already is changed.
        symbol: String,
        /// Its name.
        name: String,
        /// Value and unit as typed.
        typed: String,
    },
    /// Takes a stated quantity away.
    ReleaseQuantity {
        /// Its symbol.
        symbol: String,
    },
    /// Adds an empty row at the bottom, or above another.
    AddRow {
        /// Which table.
        table: TableId,
        /// Above which row.
        above: Option<RowId>,
    },
    /// Moves a row up or down.
    MoveRow {
        /// Which row.
        row: RowId,
        /// By how many places; negative upwards.
        by: i32,
    },
    /// Deletes a row with all its readings.
    DeleteRow {
        /// Which row.
        row: RowId,
    },
    /// Types a value into a cell; an empty text clears it.
    TypeCell {
        /// Which row.
        row: RowAt,
        /// Which column.
        column: ColumnId,
        /// Value as typed.
        typed: String,
        /// The number the cell held when the person began to type; none for an empty one.
        was: Option<Decimal>,
    },
    /// Writes an instrument's reading into a cell.
    LogReading {
        /// Which row.
        row: RowAt,
        /// Which column.
        column: ColumnId,
        /// What is read.
        instrument: Instrument,
    },
    /// Writes an instrument's reading where nobody pointed at a cell: into this one if it fits there, or else into the first empty one of
    /// the row that it fits.
    LogBeside {
        /// Which row.
        row: RowAt,
        /// Which column comes first.
        column: ColumnId,
        /// What is read.
        instrument: Instrument,
    },
    /// Writes a value that a curve or a result gives into a column, or the same of every curve of a graph or every group of a result.
    LogDrawn {
        /// Which column.
        column: ColumnId,
        /// The value, or one of them.
        like: DrawnFrom,
        /// Whether all that are like it are meant.
        all: bool,
    },
    /// Freezes a cell that follows a curve, or lets it follow again.
    Freeze {
        /// Which row.
        row: RowId,
        /// Which column.
        column: ColumnId,
        /// Frozen or not.
        frozen: bool,
    },
    /// Writes a whole trial of the run on the stage: every column of a table that comes from a setting or a meter.
    LogTrial {
        /// Which table.
        table: TableId,
        /// The moment on the stage.
        frame: u32,
    },
    /// Sets a row aside from fits, or takes it back.
    SetAside {
        /// Which row.
        row: RowId,
        /// Aside or not.
        aside: bool,
        /// Why.
        #[serde(default)]
        why: String,
    },
    /// Sets all points in a part of a graph aside, or takes them back.
    SetBoxAside {
        /// Which graph.
        graph: GraphId,
        /// Ends across and up in the units of the axes.
        range: [[f64; 2]; 2],
        /// Aside or not.
        aside: bool,
    },
}

/// Row ids from here up are given by the page on which the row was begun, so that it can be typed into before the server knows
/// of it. Ids that the program gives stay below.
pub const PAGE_ROWS: RowId = 1 << 31;

/// Which row is meant.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum RowAt {
    /// One that is there.
    There(RowId),
    /// One begun on a page, under the id the page gave it; it is made at the bottom unless it is there already.
    Begun(RowId),
    /// A new one at the bottom.
    Below,
}

impl RowAt {
    /// The row with this id, wherever it was begun.
    pub fn of(id: RowId) -> Self {
        if id < PAGE_ROWS { Self::There(id) } else { Self::Begun(id) }
    }
}

/// Of what kind a rule is that says when there are runs enough.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum StopBy {
    /// A number of runs.
    Runs,
    /// The mean changes by less than so many percent.
    Change,
}

/// A column as typed into its form.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ColumnText {
    /// Name.
    pub name: String,
    /// Symbol.
    pub symbol: String,
    /// Unit; empty for a pure number, or for a worked column's derived unit.
    pub unit: String,
    /// Formula of a worked column; empty otherwise.
    #[serde(default)]
    pub formula: String,
    /// How precisely its readings are known.
    #[serde(default)]
    pub precision: PrecisionText,
}
