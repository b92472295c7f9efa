//! What was answered, and what was checked.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::inquiry::Answer;

/// Answers by the name of their question.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct AnswerState {
    /// What was given.
    pub given: BTreeMap<String, Given>,
}

/// What was given to one question.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Given {
    /// The answer as it stands.
    pub answer: Option<Answer>,
    /// The deal of numbers it belongs to.
    #[serde(default)]
    pub deal: u32,
    /// Answers that were checked at once, in order. Nothing takes that back.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tried: Vec<Tried>,
}

/// An answer that was checked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Tried {
    /// The answer.
    pub answer: Answer,
    /// Whether it was said to be right.
    pub right: bool,
}

impl AnswerState {
    /// Keeps what was checked in a logbook whatever else its content becomes.
    pub(in crate::logbook) fn keep_tries(&mut self, own: &Self) {
        for given in self.given.values_mut() {
            given.tried.clear();
        }
        for (question, was) in own.given.iter().filter(|(_, was)| !was.tried.is_empty()) {
            let given = self.given.entry(question.clone()).or_default();
            given.tried.clone_from(&was.tried);
        }
        self.given.retain(|_, given| given.answer.is_some() || !given.tried.is_empty());
    }

    /// Gives what is pointed at the ids it has now.
    pub(in crate::logbook) fn renumber(&mut self, id: &mut impl FnMut(&mut u32)) {
        for answer in self.given.values_mut().filter_map(|g| g.answer.as_mut()) {
            match answer {
                Answer::Pointing { at } | Answer::Argument { evidence: at, .. } => {
                    at.iter_mut().for_each(|p| p.renumber(id));
                }
                Answer::Words { .. } | Answer::Choice { .. } | Answer::Filled { .. } => {}
            }
        }
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.given.is_empty()
    }
}
