//! Why an edit of the tables was refused.

use crate::logbook::refusal::show;
use crate::quantity::Unit;

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum RecordRefusal {
    #[error("Rows are grouped by a column of set, given or read values; {symbol} is calculated. Nothing was changed.")]
    GroupedByCalculated { symbol: String },
    #[error("{symbol} is not one of several repeats. Nothing was changed.")]
    NotRepeated { symbol: String },
    #[error("Say why this repeat is set aside. It still counts.")]
    NoReason,
    #[error("This row holds a value of {symbol} that the sheet gives. Set the row aside if you do not need it.")]
    RowGiven { symbol: String },
    #[error("There is already a table “{name}”. Choose another name.")]
    TableNamed { name: String },
    #[error("The marks of “{trail}” fill this table. Delete that trail on the stage instead.")]
    TableOfMarks { trail: String },
    #[error("A logbook keeps one table. Delete its columns instead.")]
    LastTable,
    #[error("This table holds values that the sheet gives; it stays.")]
    TableGiven,
    #[error("The table “{table}” has a column {symbol}. Choose another symbol.")]
    SymbolOfColumn { table: String, symbol: String },
    #[error("The column {symbol} is filled by marks. Move the mark on the stage instead; nothing was written.")]
    FilledByMarks { symbol: String },
    #[error("The column {symbol} is calculated by its formula. Nothing was written.")]
    Calculated { symbol: String },
    #[error("The values of {symbol} are given by the sheet and stay as they are.")]
    Given { symbol: String },
    #[error("{stem} has no repeats. Add one to a measured column first. Nothing was changed.")]
    NoRepeats { stem: String },
    #[error("A whole number of repeats, 2 to 100, is wanted. Nothing was changed.")]
    CountWanted,
    #[error("A percentage is more than 0 and at most 100. Nothing was changed.")]
    PercentWanted,
    #[error("The settings have changed since the run on the stage. Run first. Nothing was changed.")]
    SettingsChanged,
    #[error("No column of this table takes a setting or an instrument by itself. Nothing was changed.")]
    NothingTaken,
    #[error("This trial is in row {row} already. Nothing was changed.")]
    TrialThere { row: usize },
    #[error("There is no such value to enter yet. Nothing was changed.")]
    NothingDrawn,
    #[error(
        "This value is worked out from the table it would go into. Choose a cell of another table. Nothing was written."
    )]
    LeadsBack,
    #[error("This cell follows no curve. Nothing was changed.")]
    FollowsNothing,
    #[error("Only a column that is varied by hand is filled; {symbol} is measured. Nothing was changed.")]
    NotVaried { symbol: String },
    #[error("The number of trials can be 2 to 1000. Nothing was changed.")]
    FillCount,
    #[error("Both ends are the same, so nothing would vary. Nothing was changed.")]
    SameEnds,
    #[error("Marks fill this column. Delete the trail on the stage if you no longer need it.")]
    ColumnOfMarks,
    #[error("There is already a column with the symbol {symbol}. Choose another symbol.")]
    SymbolTaken { symbol: String },
    #[error("{symbol} is a controlled variable beside the tables. Choose another symbol.")]
    SymbolHeld { symbol: String },
    #[error("The formula gives {}, which cannot be shown in {}. Nothing was changed.", show(derived), show(wanted))]
    FormulaGives { derived: Unit, wanted: Unit },
    #[error("Repeats are of what is measured; {symbol} is not. Nothing was changed.")]
    NotMeasured { symbol: String },
    #[error("“{symbol}” cannot be a symbol: write a letter, then letters or digits, 12 at most. Nothing was changed.")]
    NotASymbol { symbol: String },
    #[error("{symbol} cannot be its own uncertainty. Nothing was changed.")]
    OwnUncertainty { symbol: String },
    #[error("There is no column {symbol} in this table. Nothing was changed.")]
    NoUncertainty { symbol: String },
    #[error(
        "The uncertainty {symbol} is in {}, the column in {}. Nothing was changed.",
        show(uncertainty),
        show(column)
    )]
    UncertaintyUnit { symbol: String, uncertainty: Unit, column: Unit },
}
