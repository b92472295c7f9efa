//! Edits of answers. An edit holds what the person typed, chose or pointed at; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use crate::inquiry::{Pointer, Position};

/// What a person can do to an answer.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum AnswerEdit {
    /// Writes an answer in words, or the reason for a position.
    Write {
        /// Name of the question.
        question: String,
        /// The words.
        text: String,
        /// The words the person started from.
        was: String,
    },
    /// Chooses an answer, or takes the choice back.
    Choose {
        /// Name of the question.
        question: String,
        /// The words of what is chosen.
        option: String,
        /// Whether it is chosen.
        on: bool,
    },
    /// Fills a gap, or types the number that is asked for.
    Fill {
        /// Name of the question.
        question: String,
        /// The gap, from 0.
        gap: usize,
        /// What stands in it; empty for nothing.
        typed: String,
    },
    /// Takes a position on an argument.
    Take {
        /// Name of the question.
        question: String,
        /// The position.
        position: Position,
    },
    /// Points at something.
    Point {
        /// Name of the question.
        question: String,
        /// At what.
        at: Pointer,
    },
    /// Takes back what was pointed at.
    Unpoint {
        /// Name of the question.
        question: String,
        /// At what.
        at: Pointer,
    },
    /// Has the answer checked at once.
    Check {
        /// Name of the question.
        question: String,
    },
}

impl AnswerEdit {
    /// The question it belongs to.
    pub(in crate::logbook) fn question(&self) -> &str {
        match self {
            Self::Write { question, .. }
            | Self::Choose { question, .. }
            | Self::Fill { question, .. }
            | Self::Take { question, .. }
            | Self::Point { question, .. }
            | Self::Unpoint { question, .. }
            | Self::Check { question } => question,
        }
    }
}
