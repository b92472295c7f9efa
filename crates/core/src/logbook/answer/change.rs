//! Changes of answers.

use serde::{Deserialize, Serialize};

use super::{AnswerState, Tried};
use crate::inquiry::Answer;

/// A change of an answer.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum AnswerChange {
    /// Another answer.
    Give {
        /// Name of the question.
        question: String,
        /// The answer.
        answer: Option<Answer>,
        /// The deal of numbers it belongs to.
        #[serde(default)]
        deal: u32,
    },
    /// What was checked so far.
    Tries {
        /// Name of the question.
        question: String,
        /// The checked answers.
        tried: Vec<Tried>,
    },
}

impl AnswerState {
    pub(in crate::logbook) fn change(&mut self, change: AnswerChange) -> AnswerChange {
        match change {
            AnswerChange::Give { question, answer, deal } => {
                let given = self.given.entry(question.clone()).or_default();
                let (answer, deal) =
                    (std::mem::replace(&mut given.answer, answer), std::mem::replace(&mut given.deal, deal));
                if given.answer.is_none() && given.tried.is_empty() {
                    self.given.remove(&question);
                }
                AnswerChange::Give { question, answer, deal }
            }
            AnswerChange::Tries { question, tried } => {
                let given = self.given.entry(question.clone()).or_default();
                let tried = std::mem::replace(&mut given.tried, tried);
                AnswerChange::Tries { question, tried }
            }
        }
    }
}
