//! Everything a person can do to a logbook, as stored.
//!
//! An edit holds what the person typed or pointed at; [`super::Logbook::apply`] reads and checks it.

use serde::{Deserialize, Serialize};

use super::state::{TextField, Tools};
use crate::fit::Model;
use crate::record::{ColumnId, ColumnKind, RowId};

/// One edit of a logbook.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "edit", rename_all = "snake_case")]
pub enum Edit {
    /// Sets a free setting of the rig.
    SetSetting {
        /// Name of the setting.
        name: String,
        /// Value as typed.
        typed: String,
    },
    /// Runs the rig with the settings as they stand.
    Run,
    /// Places t = 0, the split's two moments and the tape.
    PlaceTools {
        /// All tools as they now stand.
        tools: Tools,
    },
    /// Adds a column at the right.
    AddColumn {
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
    /// Adds an empty row at the bottom.
    AddRow,
    /// Deletes a row with all its readings.
    DeleteRow {
        /// Which row.
        row: RowId,
    },
    /// Types a value into a cell; an empty text clears it.
    TypeCell {
        /// Which row; `None` for a new one at the bottom.
        row: Option<RowId>,
        /// Which column.
        column: ColumnId,
        /// Value as typed.
        typed: String,
        /// What the person saw in the cell before.
        was: String,
    },
    /// Writes an instrument's reading into a cell.
    LogReading {
        /// Which row; `None` for a new one at the bottom.
        row: Option<RowId>,
        /// Which column.
        column: ColumnId,
        /// What is read.
        instrument: Instrument,
    },
    /// Sets a row aside from fits, or takes it back.
    SetAside {
        /// Which row.
        row: RowId,
        /// Aside or not.
        aside: bool,
    },
    /// Chooses what goes across and what goes up.
    ChooseAxes {
        /// Column across.
        x: Option<ColumnId>,
        /// Column up.
        y: Option<ColumnId>,
    },
    /// Chooses the line to be fitted, or none.
    ChooseModel {
        /// Which line.
        model: Option<Model>,
    },
    /// States what the slope means.
    StateLaw {
        /// The law as typed; empty to take it back.
        typed: String,
    },
    /// States the accepted value.
    StateAccepted {
        /// Value and unit as typed.
        typed: String,
    },
    /// Writes one of the write-up's texts.
    Write {
        /// Which text.
        field: TextField,
        /// The new text.
        text: String,
        /// The text the person started from.
        was: String,
    },
    /// Gives the logbook to the teacher; it can no longer be changed.
    HandIn,
    /// Gives it back to the students, with a note.
    SendBack {
        /// What is still to be done.
        note: String,
    },
    /// Takes back the last edit that was not yet taken back.
    Undo,
    /// Does again what was taken back last.
    Redo,
}

/// A column as typed into its form.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct ColumnText {
    /// Name.
    pub name: String,
    /// Symbol.
    pub symbol: String,
    /// Unit; empty for a pure number, or for a worked column's derived unit.
    pub unit: String,
    /// Formula of a worked column; empty otherwise.
    pub formula: String,
}

/// What is read off the bench.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "instrument", rename_all = "snake_case")]
pub enum Instrument {
    /// Time between two frames.
    Split {
        /// Number of the run.
        run: u32,
        /// One frame.
        start: u32,
        /// The other frame.
        end: u32,
    },
    /// Distance between the ends of the tape.
    Tape {
        /// Number of the run.
        run: u32,
        /// Frame on the stage.
        frame: u32,
        /// Zero end, in metres of the scene.
        zero: [f64; 2],
        /// Reading end, in metres of the scene.
        reading: [f64; 2],
        /// Tenths of a millimetre estimated by eye, 0 to 9.
        tenths: Option<u8>,
    },
    /// A setting as it stands.
    Setting {
        /// Name of the setting.
        name: String,
    },
}
