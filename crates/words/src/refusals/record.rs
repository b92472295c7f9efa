//! Edits of tables.

use zeitmass_core::logbook::RecordRefusal;

use crate::Words;

impl Words for RecordRefusal {
    fn words(&self) -> String {
        match self {
            Self::GroupedByCalculated { symbol } => format!("Rows are grouped by a column of set, given or read values; {symbol} is calculated. Nothing was changed."),
            Self::NotRepeated { symbol } => format!("{symbol} is not one of several repeats. Nothing was changed."),
            Self::NoReason => "Say why this repeat is set aside. It still counts.".to_owned(),
            Self::RowGiven { symbol } => format!("This row holds a value of {symbol} that the sheet gives. Set the row aside if you do not need it."),
            Self::TableNamed { name } => format!("There is already a table “{name}”. Choose another name."),
            Self::TableOfMarks { trail } => format!("The marks of “{trail}” fill this table. Delete that trail on the stage instead."),
            Self::LastTable => "A logbook keeps one table. Delete its columns instead.".to_owned(),
            Self::TableGiven => "This table holds values that the sheet gives; it stays.".to_owned(),
            Self::SymbolOfColumn { table, symbol } => format!("The table “{table}” has a column {symbol}. Choose another symbol."),
            Self::FilledByMarks { symbol } => format!("The column {symbol} is filled by marks. Move the mark on the stage instead; nothing was written."),
            Self::Calculated { symbol } => format!("The column {symbol} is calculated by its formula. Nothing was written."),
            Self::Given { symbol } => format!("The values of {symbol} are given by the sheet and stay as they are."),
            Self::NoRepeats { stem } => format!("{stem} has no repeats. Add one to a measured column first. Nothing was changed."),
            Self::CountWanted => "A whole number of repeats, 2 to 100, is wanted. Nothing was changed.".to_owned(),
            Self::PercentWanted => "A percentage is more than 0 and at most 100. Nothing was changed.".to_owned(),
            Self::SettingsChanged => "The settings have changed since the run on the stage. Run first. Nothing was changed.".to_owned(),
            Self::NothingTaken => "No column of this table takes a setting or an instrument by itself. Nothing was changed.".to_owned(),
            Self::TrialThere { row } => format!("This trial is in row {row} already. Nothing was changed."),
            Self::NothingDrawn => "There is no such value to enter yet. Nothing was changed.".to_owned(),
            Self::LeadsBack => "This value is worked out from the table it would go into. Choose a cell of another table. Nothing was written.".to_owned(),
            Self::FollowsNothing => "This cell follows no curve. Nothing was changed.".to_owned(),
            Self::NotVaried { symbol } => format!("Only a column that is varied by hand is filled; {symbol} is measured. Nothing was changed."),
            Self::FillCount => "The number of trials can be 2 to 1000. Nothing was changed.".to_owned(),
            Self::SameEnds => "Both ends are the same, so nothing would vary. Nothing was changed.".to_owned(),
            Self::ColumnOfMarks => "Marks fill this column. Delete the trail on the stage if you no longer need it.".to_owned(),
            Self::SymbolTaken { symbol } => format!("There is already a column with the symbol {symbol}. Choose another symbol."),
            Self::SymbolHeld { symbol } => format!("{symbol} is a controlled variable beside the tables. Choose another symbol."),
            Self::FormulaGives { derived, wanted } => format!("The formula gives {}, which cannot be shown in {}. Nothing was changed.", derived.in_words(), wanted.in_words()),
            Self::NotMeasured { symbol } => format!("Repeats are of what is measured; {symbol} is not. Nothing was changed."),
            Self::NotASymbol { symbol } => format!("“{symbol}” cannot be a symbol: write a letter, then letters or digits, 12 at most. Nothing was changed."),
            Self::OwnUncertainty { symbol } => format!("{symbol} cannot be its own uncertainty. Nothing was changed."),
            Self::NoUncertainty { symbol } => format!("There is no column {symbol} in this table. Nothing was changed."),
            Self::UncertaintyUnit { symbol, uncertainty, column } => format!("The uncertainty {symbol} is in {}, the column in {}. Nothing was changed.", uncertainty.in_words(), column.in_words()),
        }
    }
}
