//! Why an edit of the tables was refused.

use crate::quantity::Unit;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum RecordRefusal {
    GroupedByCalculated { symbol: String },
    NotRepeated { symbol: String },
    NoReason,
    RowGiven { symbol: String },
    TableNamed { name: String },
    TableOfMarks { trail: String },
    LastTable,
    TableGiven,
    SymbolOfColumn { table: String, symbol: String },
    FilledByMarks { symbol: String },
    Calculated { symbol: String },
    Given { symbol: String },
    NoRepeats { stem: String },
    CountWanted,
    PercentWanted,
    SettingsChanged,
    NothingTaken,
    TrialThere { row: usize },
    NothingDrawn,
    LeadsBack,
    FollowsNothing,
    NotVaried { symbol: String },
    FillCount,
    SameEnds,
    ColumnOfMarks,
    SymbolTaken { symbol: String },
    SymbolHeld { symbol: String },
    FormulaGives { derived: Unit, wanted: Unit },
    NotMeasured { symbol: String },
    NotASymbol { symbol: String },
    OwnUncertainty { symbol: String },
    NoUncertainty { symbol: String },
    UncertaintyUnit { symbol: String, uncertainty: Unit, column: Unit },
}
