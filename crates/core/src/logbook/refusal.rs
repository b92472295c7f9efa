//! Why an edit was refused. A refused edit leaves the logbook as it was. People are told it by `zeitmass-words`.

use std::collections::BTreeSet;

use derive_more::From;

use super::answer::AnswerRefusal;
use super::change::Misfit;
use super::claim::ClaimRefusal;
use super::drawn::DrawError;
use super::film::FilmRefusal;
use super::footage::{FootageRefusal, MassError};
use super::forecast::{ForecastPart, ForecastRefusal};
use super::graph::GraphRefusal;
use super::model::ModelRefusal;
use super::office::OfficeRefusal;
use super::record::RecordRefusal;
use super::run::RunRefusal;
use super::write_up::WriteUpRefusal;
use crate::formula::FormulaError;
use crate::inquiry::Step;
use crate::quantity::{NumberError, PrecisionError, QuantityError, Unit, UnitError};
use crate::record::BlockError;
use crate::rigs::{PullError, RigError, SettingError};
use crate::step_model::ModelError;

/// Why an edit was refused: what happened, and what was kept.
#[derive(Clone, Debug, PartialEq, From)]
pub enum Refusal {
    /// The logbook is with the teacher.
    HandedIn,
    /// It is not with the teacher, so it cannot be sent back.
    NotHandedIn,
    /// Part of it was written by a newer program.
    Unread,
    /// Nothing to take back.
    NothingToUndo,
    /// Nothing to do again.
    NothingToRedo,
    /// The forecast was made before the first run, and that has been.
    ForecastStands,
    /// The sheet wants a forecast first.
    ForecastFirst {
        /// What is still missing.
        missing: Vec<ForecastPart>,
    },
    /// It was sent back with other steps open again.
    Closed {
        /// The steps that are open.
        open: BTreeSet<Step>,
    },
    /// The teacher signs off first.
    StampFirst {
        /// The step whose stamp is missing.
        step: Step,
    },
    /// What the edit is about was deleted meanwhile.
    Gone(Thing),
    /// There is no such thing in this lab.
    Absent(Absent),
    /// The cell changed since the person looked.
    Changed {
        /// What the cell holds now.
        now: String,
    },
    /// The text changed since the person began to write.
    TextChanged {
        /// Which text.
        field: &'static str,
    },
    /// A typed value could not be taken.
    Value {
        /// What is wrong.
        wrong: ValueError,
        /// What is still there.
        kept: Kept,
    },
    /// A reading does not fit its column.
    WrongUnit {
        /// Unit of the reading.
        reading: Unit,
        /// Symbol of the column.
        symbol: String,
        /// Unit of the column.
        column: Unit,
    },
    /// A formula has a mistake at a place.
    Formula {
        /// The formula as typed.
        text: String,
        /// What is wrong, and where.
        error: FormulaError,
    },
    /// More than a logbook can hold.
    Limit(Limit),
    /// A name is missing or too long.
    Name {
        /// Of what.
        of: Named,
        /// Characters at most.
        most: usize,
    },
    /// The sheet has fewer deals.
    NoSuchDeal {
        /// How many it has.
        deals: u32,
    },
    /// What was planned does not fit what is there.
    #[from]
    Misfit(Misfit),
    /// The apparatus cannot run so.
    #[from]
    Rig(RigError),
    /// About settings, runs and plans of trials.
    #[from]
    Run(RunRefusal),
    /// About tools and instruments.
    #[from]
    Footage(FootageRefusal),
    /// About films.
    #[from]
    Film(FilmRefusal),
    /// About the forecast.
    #[from]
    Forecast(ForecastRefusal),
    /// About tables.
    #[from]
    Record(RecordRefusal),
    /// About graphs.
    #[from]
    Graph(GraphRefusal),
    /// About the step model.
    #[from]
    Model(ModelRefusal),
    /// About answers.
    #[from]
    Answer(AnswerRefusal),
    /// About the claim.
    #[from]
    Claim(ClaimRefusal),
    /// About the order of the write-up.
    #[from]
    WriteUp(WriteUpRefusal),
    /// About the logbook as a whole.
    #[from]
    Office(OfficeRefusal),
    /// This is the constant the sheet asks for.
    SheetsConstant,
}

impl Refusal {
    pub(super) fn formula(text: &str, error: FormulaError) -> Self {
        Self::Formula { text: text.to_owned(), error }
    }
}

/// What is wrong with a typed value.
#[derive(Clone, Debug, PartialEq, From)]
pub enum ValueError {
    /// It cannot be read.
    #[from]
    Quantity(QuantityError),
    /// No setting has it.
    #[from]
    Setting(SettingError),
    /// It is no precision of a column.
    #[from]
    Precision(PrecisionError),
    /// It cannot be pasted.
    #[from]
    Block(BlockError),
    /// No model runs with it.
    Model(Box<ModelError>),
    /// No curve or result gives it.
    Draw(Box<DrawError>),
    /// It was not pulled so.
    #[from]
    Pull(PullError),
    /// It is no mass.
    #[from]
    Mass(MassError),
    /// It is of another dimension than its column.
    OtherUnit {
        /// Symbol of the column.
        symbol: String,
        /// Unit of the column.
        column: Unit,
        /// Unit as typed.
        typed: Unit,
    },
    /// It is longer than a number.
    TooLong,
    /// A pasted block is wider than the table from there on.
    Wide {
        /// Columns of the block.
        block: usize,
        /// Columns there are.
        there: usize,
    },
    /// A pasted block would cover what cannot be written into.
    Covers {
        /// Symbol of the column.
        symbol: String,
    },
    /// A cell of a pasted block cannot be read.
    Cell {
        /// Row of the block, from 1.
        row: usize,
        /// Symbol of the column.
        symbol: String,
        /// What is wrong.
        error: QuantityError,
    },
    /// A cell of a pasted block is of another dimension than the column.
    CellUnit {
        /// Row of the block, from 1.
        row: usize,
        /// Symbol of the column.
        symbol: String,
        /// The cell.
        typed: String,
    },
    /// No start value of a fit.
    Start {
        /// As typed.
        part: String,
    },
}

impl From<ModelError> for ValueError {
    fn from(error: ModelError) -> Self {
        Self::Model(Box::new(error))
    }
}

impl From<DrawError> for ValueError {
    fn from(error: DrawError) -> Self {
        Self::Draw(Box::new(error))
    }
}

impl From<NumberError> for ValueError {
    fn from(error: NumberError) -> Self {
        Self::Quantity(error.into())
    }
}

impl From<UnitError> for ValueError {
    fn from(error: UnitError) -> Self {
        Self::Quantity(error.into())
    }
}

/// What a refused value left as it was.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Kept {
    /// All.
    NothingChanged,
    /// All cells.
    NothingWritten,
    /// The table.
    NothingPasted,
    /// The cell, with what it holds.
    Cell(Option<String>),
    /// A field of an answer, with what it holds.
    Field(Option<String>),
    /// The setting, with its value.
    Setting(String),
    /// The accepted value.
    Accepted(Option<String>),
}

/// What a partner may have deleted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "the name says it")]
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

/// What has a name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "the name says it")]
pub enum Named {
    Table,
    Column,
    Quantity,
    Result,
    Run,
    Object,
}

/// What a lab does not have.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "the name says it")]
pub enum Absent {
    Question,
    Option,
    Pointed(&'static str),
    Stamp,
    Rig,
    Run(u32),
}

/// Of what there is enough.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Limit {
    /// So many at most.
    Many {
        /// Of what.
        of: Counted,
        /// How many.
        most: usize,
    },
    /// A short text: so many characters at most.
    Short {
        /// Which.
        of: ShortText,
        /// How many.
        most: usize,
    },
    /// A long text: so many characters at most; what was saved is kept.
    Long {
        /// Which.
        of: LongText,
        /// How many.
        most: usize,
    },
    /// A word of the teacher.
    Word(usize),
    /// A note with a logbook that is sent back.
    Note(usize),
    /// Room on the disk, in MB.
    Space {
        /// Of what.
        holder: Holder,
        /// How many MB.
        most: u64,
    },
}

/// What is counted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "the name says it")]
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

/// A text of one line.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "the name says it")]
pub enum ShortText {
    Title,
    Gap,
    Reason,
    Source,
    Typed,
}

/// A text of many lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "the name says it")]
pub enum LongText {
    Answer,
    Block,
    Claim,
    Evidence,
    Reasoning,
    Intercept,
    Difference,
}

/// What takes room on the disk.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[allow(missing_docs, reason = "the name says it")]
pub enum Holder {
    Edit,
    Logbook,
    Student,
    Class,
}
