//! Why an edit was refused. A refused edit leaves the logbook as it was.

use thiserror::Error;

use crate::formula::FormulaError;
use crate::inquiry::Step;
use crate::quantity::Unit;

/// Why an edit was refused: what happened, and what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum Refusal {
    /// The logbook is with the teacher.
    #[error("This logbook is handed in. It can be changed again when it is sent back.")]
    HandedIn,
    /// It is not with the teacher, so it cannot be sent back.
    #[error("This logbook is not handed in, so it cannot be sent back.")]
    NotHandedIn,
    /// Part of it was written by a newer program.
    #[error(
        "This logbook holds work that this version of Zeitmass cannot read. It can be looked at as far as it can be read; nothing in it is changed."
    )]
    Unread,
    /// Nothing to take back.
    #[error("There is nothing to undo.")]
    NothingToUndo,
    /// Nothing to do again.
    #[error("There is nothing to redo.")]
    NothingToRedo,
    /// The forecast was made before the first run, and that has been.
    #[error("The forecast was made before the first run and stays as it was. Nothing was changed.")]
    ForecastStands,
    /// The sheet wants a forecast first.
    #[error("First the forecast: {missing}. The apparatus waits until it is there.")]
    ForecastFirst {
        /// What is still missing, in words.
        missing: String,
    },
    /// It was sent back with other steps open again.
    #[error("Your teacher opened only {open} again. The rest stays as it was handed in.")]
    Closed {
        /// The steps that are open, in words.
        open: String,
    },
    /// The teacher signs off first.
    #[error("First ask your teacher for the stamp at “{}”. Nothing was changed.", step.title())]
    StampFirst {
        /// The step whose stamp is missing.
        step: Step,
    },
    /// What the edit is about was deleted meanwhile.
    #[error("{0}")]
    Gone(String),
    /// The cell changed since the person looked.
    #[error("This cell was changed meanwhile{}. The newer value is kept; look, and type again if yours is right.", if now.is_empty() { " and is empty now".to_owned() } else { format!(" to {now}") })]
    Changed {
        /// What the cell holds now.
        now: String,
    },
    /// The text changed since the person began to write.
    #[error(
        "A partner changed the {field} meanwhile. Your words are still in the box, not yet saved: change them once more to save them over the other text."
    )]
    TextChanged {
        /// Which text.
        field: &'static str,
    },
    /// A typed value could not be taken.
    #[error("{message} {kept}.")]
    Value {
        /// What is wrong.
        message: String,
        /// What is still there.
        kept: String,
    },
    /// A reading does not fit its column.
    #[error(
        "A reading in {} does not fit the column {symbol}, which is in {}. Nothing was written.",
        show(reading),
        show(column)
    )]
    WrongUnit {
        /// Unit of the reading.
        reading: Unit,
        /// Symbol of the column.
        symbol: String,
        /// Unit of the column.
        column: Unit,
    },
    /// A formula has a mistake at a place.
    #[error("{}", at_place(text, error))]
    Formula {
        /// The formula as typed.
        text: String,
        /// What is wrong, and where.
        error: FormulaError,
    },
    /// More than a logbook can hold.
    #[error("{0}")]
    Limit(String),
    /// Anything else that cannot be done.
    #[error("{0}")]
    Invalid(String),
}

impl Refusal {
    pub(super) fn formula(text: &str, error: FormulaError) -> Self {
        Self::Formula { text: text.to_owned(), error }
    }
}

fn show(unit: &Unit) -> String {
    if unit.is_one() { "pure numbers".to_owned() } else { unit.pretty() }
}

fn at_place(text: &str, error: &FormulaError) -> String {
    let problem = &error.problem;
    match text.get(error.span.clone()) {
        Some(part) if !part.is_empty() && part.len() < text.len() => {
            let place = text[..error.span.start].chars().count() + 1;
            format!("{problem} Look at “{part}”, character {place} of {text}. Nothing was changed.")
        }
        _ if error.span.start >= text.len() && !text.is_empty() => {
            format!("{problem} Look at the end of {text}. Nothing was changed.")
        }
        _ => format!("{problem} Nothing was changed."),
    }
}
