//! What can be wrong with a sheet.

use derive_more::From;

use crate::formula::Problem;
use crate::inquiry::Step;
use crate::quantity::{PrecisionError, QuantityError, Unit, UnitError};
use crate::rigs::SettingError;

/// What is wrong with a sheet, and in which line of its text. What it says to developers is no sentence.
#[derive(Clone, Debug, PartialEq)]
pub struct SheetError {
    /// Line, from 1.
    pub line: usize,
    /// What is wrong.
    pub wrong: Wrong,
}

/// What is wrong with a sheet.
#[derive(Clone, Debug, PartialEq, From)]
pub enum Wrong {
    /// The text has more than [`LARGEST`](super::LARGEST) characters.
    TooLong,
    /// It does not start with front matter.
    NoFence,
    /// The front matter has no end.
    Unclosed,
    /// The front matter breaks the notation, or has a key that is not known: what the reader of the notation remarks.
    Notation(String),
    /// Text stands above the first heading.
    NoHeading,
    /// The text does not begin with the question.
    NoQuestion,
    /// A quantity cannot be read.
    #[from]
    Quantity(QuantityError),
    /// A unit cannot be read.
    #[from]
    Unit(UnitError),
    /// A formula cannot be read, or does not come out.
    #[from]
    Formula(Problem),
    /// A value does not suit its setting.
    #[from]
    Setting(SettingError),
    /// A scale cannot be read.
    #[from]
    Precision(PrecisionError),
    /// A text is empty or too long.
    Length {
        /// Which text.
        of: Text,
        /// Most characters.
        most: usize,
    },
    /// A text that may be left out is too long.
    Longer {
        /// Which text.
        of: Text,
        /// Most characters.
        most: usize,
    },
    /// There are more than there can be.
    TooMany {
        /// Of what.
        of: Several,
        /// Most of them.
        most: usize,
    },
    /// A number is outside of what it can be.
    Range {
        /// Which number.
        of: Number,
        /// From.
        from: u32,
        /// To, included.
        to: u32,
    },
    /// A name that nothing has.
    Unknown {
        /// What it should be the name of.
        of: Named,
        /// What is written.
        given: String,
        /// What there is.
        known: Vec<&'static str>,
    },
    /// Something that may be there once only is there twice.
    Twice {
        /// What.
        of: Twin,
        /// Its name or symbol.
        name: String,
    },
    /// A text that cannot be a symbol.
    NotASymbol(String),
    /// Not a sheet's number.
    NoNumber(String),
    /// Both a rig and films.
    TwoMotions,
    /// Neither a rig nor films.
    NoMotion,
    /// Fewer trials are enough than are wanted, or far more.
    MostTrials,
    /// Further deals of numbers, but nothing is dealt.
    NothingDealt,
    /// Two films that cannot be told from each other.
    FilmTwice,
    /// A stamp at no step of this lab, or at the write-up.
    NoStamp(String),
    /// A kind that a column cannot start with.
    NoColumnKind(String),
    /// A given column without values, or values of another one.
    GivenValues,
    /// A value in a unit of another dimension than its column.
    NotOfColumn(String),
    /// A column that comes from nothing on the bench.
    NoSource {
        /// Names of the meters on the bench.
        meters: Vec<&'static str>,
    },
    /// A level that is not written as one.
    NoLevel(String),
    /// Levels that do not fall.
    LevelsOrder,
    /// A symbol that cannot stand for what goes across.
    NotAcross(String),
    /// A curve in another unit than the axis.
    CurveUnit {
        /// What the curve comes to.
        found: Box<Unit>,
        /// What goes up.
        up: Box<Unit>,
    },
    /// A film without a value for each condition.
    FilmConditions {
        /// How many conditions there are.
        conditions: usize,
    },
    /// A value in a unit of another dimension than its condition.
    NotOfCondition {
        /// What is written.
        given: String,
        /// Name of the condition.
        condition: String,
    },
    /// Not a ruler.
    NoRuler(String),
    /// Not axes.
    NoAxes(String),
    /// A symbol that the constant cannot have.
    NotTheConstant(String),
    /// A symbol in a formula that the rig does not have.
    NoSuchSymbol {
        /// The symbol.
        symbol: String,
        /// What there is.
        known: Vec<String>,
    },
    /// Neither an accepted value nor a key.
    NoAccepted,
    /// A duration that is no time.
    NoTime(String),
    /// An end of an axis in a unit of another dimension.
    NotOfCurve {
        /// What is written.
        given: String,
        /// Name of the curve.
        curve: String,
    },
    /// A forecast of no time, or of a very long one.
    Duration {
        /// Unit of times.
        time: Box<Unit>,
    },
    /// An axis whose ends do not rise.
    AxisOrder {
        /// Name of the curve.
        curve: String,
    },
    /// A hypothesis with nothing to choose from.
    NoHypothesis,
    /// Rounds without curves, or too many.
    Rounds,
    /// A forecast of nothing.
    NothingForecast,
    /// A rule that no setting can have.
    NoRule {
        /// Name of the setting.
        setting: &'static str,
        /// What it can be.
        range: String,
    },
    /// A range to deal from that does not rise.
    DealtOrder {
        /// The setting, for people.
        label: &'static str,
    },
    /// A question after one that is asked later in the work.
    QuestionsOrder {
        /// Step of the question.
        step: Step,
        /// Step of the one before it.
        before: Step,
    },
    /// A question at a step that this lab does not have.
    NoStep(Step),
    /// A name that no question can have.
    QuestionName,
    /// A question is checked by the program, but nowhere it is said what is right.
    NobodyChecks,
    /// No way of answering, or several.
    OneWay,
    /// Several right answers where there is nothing to choose.
    SeveralChoices,
    /// An extreme where nothing is pointed at.
    PointingOnly,
    /// Somebody who argues where there is no argument.
    ArgumentOnly,
    /// More words are asked for than can be.
    Words {
        /// The most.
        most: usize,
    },
    /// Both the largest and the smallest.
    TwoExtremes,
    /// A text that cannot be the symbol of a column.
    NotOfAColumn(String),
    /// The largest or smallest of something that has no size.
    NoExtreme,
    /// An answer that is said to be neither right nor wrong.
    NeitherRightNorWrong(String),
    /// Two answers that read alike.
    ChoicesAlike,
    /// Several right answers where one is chosen.
    OneRight,
    /// What is asked for is no part of the result.
    NotAskedFor(String),
    /// A number given in several ways.
    NumberTwice,
    /// An answer in another unit than it is asked for in.
    AnswerUnit {
        /// The unit that is asked for.
        asked: Box<Unit>,
        /// The unit of the answer.
        answer: Box<Unit>,
    },
    /// Nothing says how near is near enough.
    NoNear,
    /// What is written does not say it.
    HowNear(String),
    /// A gap that is not closed.
    OpenGap,
    /// A sentence without a gap.
    NoGap,
}

/// Texts of a sheet that have a length.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Text {
    /// The sheet's title.
    Title,
    /// Name of its unit.
    Unit,
    /// Name of a table.
    Table,
    /// Name of a column.
    Column,
    /// Name of a condition.
    Condition,
    /// Name of a criterion.
    Criterion,
    /// Words of a level.
    Level,
    /// What is asked.
    Question,
    /// The answer for the teacher.
    Answer,
    /// An argument.
    Argument,
    /// Whoever argues.
    Pupil,
    /// An answer to choose.
    Choice,
    /// A word about an answer to choose.
    WordOnChoice,
    /// A sentence with gaps.
    Sentence,
}

/// Things of which a sheet has several.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Several {
    /// Values of a column.
    Values,
    /// Criteria.
    Criteria,
    /// Questions.
    Questions,
    /// Gaps of a sentence.
    Gaps,
    /// Curves to sketch.
    Curves,
}

/// Numbers that have a range.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Number {
    /// Trials wanted.
    Trials,
    /// Deals of a logbook.
    Deals,
    /// Levels of a criterion.
    Levels,
    /// Points of a level.
    Points,
    /// Tries at a question.
    Tries,
    /// Answers to choose from.
    Choices,
}

/// Things that are found by name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Named {
    /// A rig.
    Rig,
    /// What may stand under a key of the front matter.
    Entry(&'static str),
    /// One of the words of a key, the first of which holds if none is written.
    Word(&'static str),
    /// What the program looks at to propose a level.
    Seen,
    /// A curve that the rig records.
    Recorded,
    /// A curve whose moments are pointed at.
    Channel,
    /// A step.
    Step,
    /// When a question is checked.
    Check,
    /// A position on an argument.
    Position,
    /// What can be pointed at.
    Pointed,
}

/// Things that a sheet has once.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Twin {
    /// Columns of a table, by symbol.
    Column,
    /// Criteria, by name.
    Criterion,
    /// Questions, by name.
    Question,
}
