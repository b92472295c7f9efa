//! What a person should hear about an edit that was done, beside what it is about.

use super::refusal::Holder;
use super::touched::Touched;
use crate::lab::Advice;
use crate::rigs::RunOutcome;
use crate::step_model::ForceField;

/// Something to be heard about an edit that was done.
#[derive(Clone, Debug, PartialEq)]
pub enum Heard {
    /// It was taken back.
    Undone(Touched),
    /// It was done again.
    DoneAgain(Touched),
    /// Cells follow curves that it moved.
    Followed(Vec<Followed>),
    /// How a run ended.
    Run(RunOutcome),
    /// The number of trials is small or large for this lab.
    Trials(Advice),
    /// A value was entered into rows of a table.
    Entered {
        /// Symbol of its column.
        symbol: String,
        /// Numbers of the rows.
        rows: Vec<usize>,
        /// Name of the table.
        table: String,
    },
    /// A block was pasted.
    Pasted {
        /// Its rows.
        rows: usize,
        /// Its columns that went into the table.
        columns: usize,
        /// Columns that are new.
        new: usize,
        /// Columns that were left out.
        skipped: usize,
    },
    /// A column became the first of its repeats.
    FirstRepeat {
        /// Symbol they share.
        stem: String,
        /// Its own symbol.
        first: String,
    },
    /// One repeat more of many.
    Repeat {
        /// Its number.
        number: usize,
    },
    /// A recording became a table.
    Recorded {
        /// Its instants.
        instants: usize,
        /// Name of the table.
        table: String,
    },
    /// A recording became one repeat more.
    RecordedAsRepeat {
        /// Name of the table.
        table: String,
    },
    /// A parameter was fitted.
    Fitted {
        /// Which.
        field: ForceField,
        /// Its value with uncertainty and unit.
        value: String,
    },
    /// Scales of a film differ by more than reading them explains.
    ScalesDiffer {
        /// By how much, as a share.
        spread: f64,
    },
    /// The logbook is what a file held.
    Brought {
        /// Values that could not be checked.
        unchecked: usize,
    },
    /// The logbook is as it was.
    BackTo {
        /// After which edit; 0 for the start.
        edit: u64,
    },
    /// Room gets tight.
    Tight {
        /// Of whose logbooks.
        holder: Holder,
        /// MB they hold.
        held: u64,
        /// MB they can hold.
        most: u64,
    },
}

/// A cell that follows a curve.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Followed {
    /// Symbol of its column.
    pub symbol: String,
    /// Number of its row.
    pub row: usize,
    /// What it holds now, with its unit.
    pub now: String,
}
