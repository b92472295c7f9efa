//! Why an edit was refused. A refused edit leaves the logbook as it was.

use thiserror::Error;

use super::answer::AnswerRefusal;
use super::change::Misfit;
use super::claim::ClaimRefusal;
use super::film::FilmRefusal;
use super::footage::FootageRefusal;
use super::forecast::ForecastRefusal;
use super::graph::GraphRefusal;
use super::model::ModelRefusal;
use super::office::OfficeRefusal;
use super::record::RecordRefusal;
use super::run::RunRefusal;
use super::write_up::WriteUpRefusal;
use crate::formula::FormulaError;
use crate::inquiry::Step;
use crate::quantity::Unit;
use crate::rigs::RigError;

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
    #[error("This {} is no longer in the logbook: it was deleted meanwhile. Nothing was changed.", .0.word())]
    Gone(Thing),
    /// There is no such thing in this lab.
    #[error("{0}")]
    Absent(Absent),
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
    Limit(Limit),
    /// A name is missing or too long.
    #[error("The name of {} needs 1 to {most} characters. Nothing was changed.", .of.word())]
    Name {
        /// Of what.
        of: Named,
        /// Characters at most.
        most: usize,
    },
    /// The sheet has fewer deals.
    #[error("{}", if *.deals == 1 { "This lab has one deal of numbers. Nothing was changed.".to_owned() } else { format!("This lab has {deals} deals of numbers. Nothing was changed.") })]
    NoSuchDeal {
        /// How many it has.
        deals: u32,
    },
    /// What was planned does not fit what is there.
    #[error(transparent)]
    Misfit(#[from] Misfit),
    /// The apparatus cannot run so.
    #[error(transparent)]
    Rig(#[from] RigError),
    /// About settings, runs and plans of trials.
    #[error(transparent)]
    Run(#[from] RunRefusal),
    /// About tools and instruments.
    #[error(transparent)]
    Footage(#[from] FootageRefusal),
    /// About films.
    #[error(transparent)]
    Film(#[from] FilmRefusal),
    /// About the forecast.
    #[error(transparent)]
    Forecast(#[from] ForecastRefusal),
    /// About tables.
    #[error(transparent)]
    Record(#[from] RecordRefusal),
    /// About graphs.
    #[error(transparent)]
    Graph(#[from] GraphRefusal),
    /// About the step model.
    #[error(transparent)]
    Model(#[from] ModelRefusal),
    /// About answers.
    #[error(transparent)]
    Answer(#[from] AnswerRefusal),
    /// About the claim.
    #[error(transparent)]
    Claim(#[from] ClaimRefusal),
    /// About the order of the write-up.
    #[error(transparent)]
    WriteUp(#[from] WriteUpRefusal),
    /// About the logbook as a whole.
    #[error(transparent)]
    Office(#[from] OfficeRefusal),
    /// This is the constant the sheet asks for.
    #[error("This is the constant the sheet asks for; it stays.")]
    SheetsConstant,
}

impl Refusal {
    pub(super) fn formula(text: &str, error: FormulaError) -> Self {
        Self::Formula { text: text.to_owned(), error }
    }
}

pub(super) fn show(unit: &Unit) -> String {
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

/// What a partner may have deleted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "each is told by its word")]
pub enum Thing {
    Block,
    Calibration,
    Column,
    Curve,
    Film,
    Force,
    Graph,
    Interval,
    Model,
    Parameter,
    Plan,
    Reading,
    Rectangle,
    Result,
    Row,
    Ruler,
    Run,
    SecondBody,
    Series,
    Table,
    Trail,
    Word,
}

impl Thing {
    fn word(self) -> &'static str {
        match self {
            Self::Block => "block",
            Self::Calibration => "calibration",
            Self::Column => "column",
            Self::Curve => "curve",
            Self::Film => "film",
            Self::Force => "force",
            Self::Graph => "graph",
            Self::Interval => "interval",
            Self::Model => "model",
            Self::Parameter => "parameter",
            Self::Plan => "plan",
            Self::Reading => "reading",
            Self::Rectangle => "rectangle",
            Self::Result => "result",
            Self::Row => "row",
            Self::Ruler => "ruler",
            Self::Run => "run",
            Self::SecondBody => "second body",
            Self::Series => "series",
            Self::Table => "table",
            Self::Trail => "trail",
            Self::Word => "word",
        }
    }
}

/// What has a name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "each is told by its word")]
pub enum Named {
    Table,
    Column,
    Quantity,
    Result,
    Run,
    Object,
}

impl Named {
    fn word(self) -> &'static str {
        match self {
            Self::Table => "a table",
            Self::Column => "a column",
            Self::Quantity => "a quantity",
            Self::Result => "a result",
            Self::Run => "a run",
            Self::Object => "an object",
        }
    }
}

/// What a lab does not have.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum Absent {
    #[error("This lab has no such question. Nothing was changed.")]
    Question,
    #[error("This answer is not there to be chosen. Nothing was changed.")]
    Option,
    #[error("There is no such {0}. Nothing was changed.")]
    Pointed(&'static str),
    #[error("This lab has no stamp at this step. Nothing was changed.")]
    Stamp,
    #[error("There is no rig in this lab.")]
    Rig,
    #[error("Run {0} is no longer in this logbook. Nothing was written.")]
    Run(u32),
}

/// Of what there is enough.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum Limit {
    /// So many at most.
    #[error("{} can have {most} {}. Nothing was added.", .of.words().0, .of.words().1)]
    Many {
        /// Of what.
        of: Counted,
        /// How many.
        most: usize,
    },
    /// A short text: so many characters at most.
    #[error("{} can have {most} characters. Nothing was changed.", .of.word())]
    Short {
        /// Which.
        of: ShortText,
        /// How many.
        most: usize,
    },
    /// A long text: so many characters at most; what was saved is kept.
    #[error("{} can have {most} characters. What was saved before is kept; shorten the text to save it.", .of.word())]
    Long {
        /// Which.
        of: LongText,
        /// How many.
        most: usize,
    },
    /// A word of the teacher.
    #[error("A word needs 1 to {0} characters. Nothing was sent.")]
    Word(usize),
    /// A note with a logbook that is sent back.
    #[error("A note can have {0} characters. The logbook is still handed in.")]
    Note(usize),
    /// Room on the disk, in MB.
    #[error("{what} can hold {most} MB, and would hold more. Nothing was changed.")]
    Space {
        /// Of what.
        what: &'static str,
        /// How many MB.
        most: u64,
    },
}

/// What is counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "each is told by its word")]
pub enum Counted {
    Tables,
    Rows,
    Columns,
    Graphs,
    Series,
    Intervals,
    Results,
    Runs,
    Films,
    Rulers,
    Trails,
    Pictures,
    OwnTexts,
    Forces,
    Models,
    Held,
    Evidence,
    Words,
    Pointed,
}

impl Counted {
    /// What can have how many of it.
    fn words(self) -> (&'static str, &'static str) {
        match self {
            Self::Tables => ("A logbook", "tables"),
            Self::Rows => ("A table", "rows"),
            Self::Columns => ("A table", "columns"),
            Self::Graphs => ("A logbook", "graphs"),
            Self::Series => ("A graph", "series"),
            Self::Intervals => ("A graph", "intervals"),
            Self::Results => ("A logbook", "results"),
            Self::Runs => ("A logbook", "runs"),
            Self::Films => ("A logbook", "films"),
            Self::Rulers => ("A film", "rulers"),
            Self::Trails => ("A film", "trails"),
            Self::Pictures => ("A write-up", "pictures of the stage"),
            Self::OwnTexts => ("A write-up", "texts of your own"),
            Self::Forces => ("A model", "forces"),
            Self::Models => ("A logbook", "models"),
            Self::Held => ("A logbook", "controlled variables"),
            Self::Evidence => ("A claim", "rows as evidence"),
            Self::Words => ("A logbook", "words of its teacher"),
            Self::Pointed => ("An answer", "things it points at"),
        }
    }
}

/// A text of one line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "each is told by its word")]
pub enum ShortText {
    Title,
    Gap,
    Reason,
    Source,
    Typed,
}

impl ShortText {
    fn word(self) -> &'static str {
        match self {
            Self::Title => "A title",
            Self::Gap => "A gap",
            Self::Reason => "A reason",
            Self::Source => "A source",
            Self::Typed => "This",
        }
    }
}

/// A text of many lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "each is told by its word")]
pub enum LongText {
    Answer,
    Block,
    Claim,
    Evidence,
    Reasoning,
    Intercept,
    Difference,
}

impl LongText {
    fn word(self) -> &'static str {
        match self {
            Self::Answer => "An answer",
            Self::Block => "This text",
            Self::Claim => "The claim",
            Self::Evidence => "The evidence",
            Self::Reasoning => "The reasoning",
            Self::Intercept => "The intercept",
            Self::Difference => "The difference",
        }
    }
}
