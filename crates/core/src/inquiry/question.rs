//! Questions along the way, what is answered to them, and what can be said about an answer.
//!
//! A [`Question`] is the sheet's; an [`Answer`] is kept as it was typed or pointed at, so that rounding and units can be judged, and so that a
//! sheet that grows meanwhile finds it again by the question's name and the words of its choices.

use serde::{Deserialize, Serialize};
use strum::{IntoStaticStr, VariantArray};

use super::step::Step;
use crate::formula::Formula;
use crate::graph::{GraphId, StretchId};
use crate::quantity::{Decimal, Footage, Unit};
use crate::record::{ColumnId, RowId};

/// Longest answer in words, in characters.
pub const LONGEST_ANSWER: usize = 4000;
/// Longest number as typed, with its unit, in characters.
pub const LONGEST_NUMBER: usize = 80;
/// Most things one answer points at.
pub const MOST_POINTED: usize = 8;

/// Something to be answered along the way.
#[derive(Clone, Debug, PartialEq)]
pub struct Question {
    /// Its name in the sheet, by which answers find it.
    pub name: String,
    /// The step it belongs to.
    pub step: Step,
    /// What is asked, as Markdown.
    pub ask: String,
    /// How it is answered.
    pub kind: QuestionKind,
    /// When an answer is judged.
    pub check: Check,
    /// How many times it can be checked at once; none for any number.
    pub tries: Option<u32>,
    /// Whether what comes after it waits until it is answered.
    pub holds: bool,
    /// A good answer, for the teacher.
    pub model: String,
}

/// How a question is answered.
#[derive(Clone, Debug, PartialEq)]
pub enum QuestionKind {
    /// In words.
    Words {
        /// Words that are wanted at least.
        least: usize,
    },
    /// By choosing.
    Choice {
        /// What there is to choose from.
        options: Vec<Choice>,
        /// Whether several may be right.
        several: bool,
    },
    /// By a number with its unit.
    Number(NumberAsked),
    /// By filling the gaps of a sentence.
    Sentence(Vec<Piece>),
    /// By pointing at something that was measured, drawn or sketched.
    Pointing {
        /// At what.
        at: Pointable,
        /// Which row or moment is right: the one where a column or channel is largest or smallest.
        right: Option<Extreme>,
    },
    /// By agreeing or not with somebody's argument.
    Argument {
        /// Who argues.
        pupil: String,
        /// What they say, as Markdown.
        argument: String,
        /// The position that holds.
        right: Option<Position>,
    },
}

/// When an answer is judged.
#[derive(Clone, Copy, Debug, PartialEq, Eq, VariantArray, IntoStaticStr)]
pub enum Check {
    /// Whenever the student asks.
    #[strum(serialize = "at once")]
    AtOnce,
    /// Once the logbook is handed in.
    #[strum(serialize = "after handing in")]
    AfterHandingIn,
    /// Only by the teacher.
    #[strum(serialize = "by the teacher")]
    ByTeacher,
}

impl Check {
    /// All.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in sheets.
    pub fn name(self) -> &'static str {
        self.into()
    }
}

/// One of the answers to choose from.
#[derive(Clone, Debug, PartialEq)]
pub struct Choice {
    /// Its words, by which it is found again.
    pub text: String,
    /// Whether it is right.
    pub right: bool,
    /// What is said to whoever chooses it wrongly.
    pub word: String,
}

/// A number that is asked for.
#[derive(Clone, Debug, PartialEq)]
pub struct NumberAsked {
    /// The unit of the answer; any unit of the same quantity will do. One for the slope or intercept of whichever line there is.
    pub unit: Unit,
    /// What it should be.
    pub expected: Expected,
    /// How near is near enough, where the sheet says so.
    pub within: Option<Within>,
}

/// What a number should be.
#[derive(Clone, Debug, PartialEq)]
pub enum Expected {
    /// Nobody knows: the teacher judges.
    Open,
    /// A published or computed value.
    Value(Decimal, Unit),
    /// A formula over the symbols of the rig's settings, hidden and dealt ones included.
    Key(Formula),
    /// The constant of the sheet.
    Constant,
    /// The slope of one of the logbook's own lines.
    Slope,
    /// The intercept of one of them.
    Intercept,
}

/// How near a number has to be.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Within {
    /// A share of the value.
    Share(f64),
    /// An amount, in coherent SI units.
    Amount(f64),
}

/// A piece of a sentence.
#[derive(Clone, Debug, PartialEq)]
pub enum Piece {
    /// Words.
    Words(String),
    /// A gap to be filled by choosing.
    Choose(Vec<Choice>),
    /// A gap to be filled by a number.
    Number(NumberAsked),
}

/// What can be pointed at.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, VariantArray, IntoStaticStr)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum Pointable {
    /// A row of a table.
    Row,
    /// A value in a cell.
    Reading,
    /// A graph.
    Graph,
    /// A stretch of a graph.
    #[strum(serialize = "interval")]
    Stretch,
    /// A moment of a run or a film.
    Moment,
    /// A sketched curve of the forecast.
    Curve,
}

impl Pointable {
    /// All.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in sheets.
    pub fn name(self) -> &'static str {
        self.into()
    }
}

/// Where a quantity is largest or smallest.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Extreme {
    /// Symbol of a column, or name of a channel.
    pub of: String,
    /// Whether the largest is meant.
    pub largest: bool,
}

/// Something pointed at.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Pointer {
    /// A row.
    Row {
        /// Which.
        row: RowId,
    },
    /// A value.
    Reading {
        /// Its row.
        row: RowId,
        /// Its column.
        column: ColumnId,
    },
    /// A graph.
    Graph {
        /// Which.
        graph: GraphId,
    },
    /// A stretch of a graph.
    Stretch {
        /// The graph.
        graph: GraphId,
        /// The stretch.
        stretch: StretchId,
    },
    /// A moment of a run or a film.
    Moment {
        /// Of which.
        of: Footage,
        /// The frame.
        frame: usize,
    },
    /// A sketched curve.
    Curve {
        /// Name of its channel.
        channel: String,
    },
}

impl Pointer {
    /// Gives it the ids that what it points at has now.
    pub(crate) fn renumber(&mut self, id: &mut impl FnMut(&mut u32)) {
        match self {
            Self::Row { row } => id(row),
            Self::Reading { row, column } => {
                id(row);
                id(column);
            }
            Self::Graph { graph } => id(graph),
            Self::Stretch { graph, stretch } => {
                id(graph);
                id(stretch);
            }
            Self::Moment { .. } | Self::Curve { .. } => {}
        }
    }

    /// What kind of thing it points at.
    pub fn at(&self) -> Pointable {
        match self {
            Self::Row { .. } => Pointable::Row,
            Self::Reading { .. } => Pointable::Reading,
            Self::Graph { .. } => Pointable::Graph,
            Self::Stretch { .. } => Pointable::Stretch,
            Self::Moment { .. } => Pointable::Moment,
            Self::Curve { .. } => Pointable::Curve,
        }
    }
}

/// How somebody stands to an argument.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, VariantArray, IntoStaticStr)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum Position {
    /// It holds.
    Agree,
    /// Part of it holds.
    Partly,
    /// It does not hold.
    Disagree,
}

impl Position {
    /// All.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in sheets.
    pub fn name(self) -> &'static str {
        self.into()
    }
}

/// What was answered, as it was typed or pointed at.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Answer {
    /// In words.
    Words {
        /// The words.
        text: String,
    },
    /// By choosing.
    Choice {
        /// The words of what was chosen.
        chosen: Vec<String>,
    },
    /// One number as typed, or what stands in each gap.
    Filled {
        /// What was typed or chosen, gap by gap; empty where nothing is.
        gaps: Vec<String>,
    },
    /// By pointing.
    Pointing {
        /// At what.
        at: Vec<Pointer>,
    },
    /// A position on an argument.
    Argument {
        /// The position.
        position: Option<Position>,
        /// The evidence.
        evidence: Vec<Pointer>,
        /// The reason.
        reason: String,
    },
}

impl Answer {
    /// The words it has: an answer in words, or a reason.
    pub fn words(&self) -> &str {
        match self {
            Self::Words { text } | Self::Argument { reason: text, .. } => text,
            Self::Choice { .. } | Self::Filled { .. } | Self::Pointing { .. } => "",
        }
    }

    /// What was chosen.
    pub fn chosen(&self) -> &[String] {
        match self {
            Self::Choice { chosen } => chosen,
            Self::Words { .. } | Self::Filled { .. } | Self::Pointing { .. } | Self::Argument { .. } => &[],
        }
    }

    /// What stands in its gaps.
    pub fn gaps(&self) -> &[String] {
        match self {
            Self::Filled { gaps } => gaps,
            Self::Words { .. } | Self::Choice { .. } | Self::Pointing { .. } | Self::Argument { .. } => &[],
        }
    }

    /// What it points at.
    pub fn pointed(&self) -> &[Pointer] {
        match self {
            Self::Pointing { at } | Self::Argument { evidence: at, .. } => at,
            Self::Words { .. } | Self::Choice { .. } | Self::Filled { .. } => &[],
        }
    }

    /// The position it takes.
    pub fn position(&self) -> Option<Position> {
        match self {
            Self::Argument { position, .. } => *position,
            Self::Words { .. } | Self::Choice { .. } | Self::Filled { .. } | Self::Pointing { .. } => None,
        }
    }
}

impl Question {
    /// Whether an answer can be judged by the program.
    pub fn is_judged(&self) -> bool {
        self.check != Check::ByTeacher && self.can_be_judged()
    }

    /// Whether the sheet says what is right.
    pub(crate) fn can_be_judged(&self) -> bool {
        let number = |asked: &NumberAsked| asked.expected != Expected::Open;
        match &self.kind {
            QuestionKind::Words { .. } => false,
            QuestionKind::Choice { options, .. } => options.iter().any(|o| o.right),
            QuestionKind::Number(asked) => number(asked),
            QuestionKind::Sentence(pieces) => pieces.iter().all(|p| match p {
                Piece::Words(_) => true,
                Piece::Choose(options) => options.iter().any(|o| o.right),
                Piece::Number(asked) => number(asked),
            }),
            QuestionKind::Pointing { right, .. } => right.is_some(),
            QuestionKind::Argument { right, .. } => right.is_some(),
        }
    }

    /// The gaps it has: one for a number.
    pub fn gaps(&self) -> Vec<Gap<'_>> {
        match &self.kind {
            QuestionKind::Number(asked) => vec![Gap::Number(asked)],
            QuestionKind::Sentence(pieces) => pieces
                .iter()
                .filter_map(|p| match p {
                    Piece::Words(_) => None,
                    Piece::Choose(options) => Some(Gap::Choose(options)),
                    Piece::Number(asked) => Some(Gap::Number(asked)),
                })
                .collect(),
            QuestionKind::Words { .. }
            | QuestionKind::Choice { .. }
            | QuestionKind::Pointing { .. }
            | QuestionKind::Argument { .. } => Vec::new(),
        }
    }

    /// Whether an answer is of the kind that is asked for.
    pub fn takes(&self, answer: &Answer) -> bool {
        match (&self.kind, answer) {
            (QuestionKind::Words { .. }, Answer::Words { .. }) => true,
            (QuestionKind::Choice { options, several }, Answer::Choice { chosen }) => {
                let known = |c: &String| options.iter().any(|o| o.text == *c);
                chosen.iter().all(known) && (*several || chosen.len() <= 1)
            }
            (QuestionKind::Number(_) | QuestionKind::Sentence(_), Answer::Filled { gaps }) => {
                gaps.len() == self.gaps().len()
            }
            (QuestionKind::Pointing { at, .. }, Answer::Pointing { at: those }) => {
                those.len() <= MOST_POINTED && those.iter().all(|p| p.at() == *at)
            }
            (QuestionKind::Argument { .. }, Answer::Argument { evidence, .. }) => evidence.len() <= MOST_POINTED,
            (_, Answer::Words { .. })
            | (_, Answer::Choice { .. })
            | (_, Answer::Filled { .. })
            | (_, Answer::Pointing { .. })
            | (_, Answer::Argument { .. }) => false,
        }
    }

    /// An answer to begin with.
    pub(crate) fn blank(&self) -> Answer {
        match &self.kind {
            QuestionKind::Words { .. } => Answer::Words { text: String::new() },
            QuestionKind::Choice { .. } => Answer::Choice { chosen: Vec::new() },
            QuestionKind::Number(_) | QuestionKind::Sentence(_) => {
                Answer::Filled { gaps: vec![String::new(); self.gaps().len()] }
            }
            QuestionKind::Pointing { .. } => Answer::Pointing { at: Vec::new() },
            QuestionKind::Argument { .. } => {
                Answer::Argument { position: None, evidence: Vec::new(), reason: String::new() }
            }
        }
    }
}

/// A gap to be filled.
#[derive(Clone, Copy, Debug)]
pub enum Gap<'a> {
    /// By choosing.
    Choose(&'a [Choice]),
    /// By a number.
    Number(&'a NumberAsked),
}
