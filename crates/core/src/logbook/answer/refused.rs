//! Why an edit of an answer was refused.

use thiserror::Error;

use crate::inquiry::{Missing, Pointable, Untold};

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[error("{self:?}")]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum AnswerRefusal {
    Answered,
    NoTries,
    OtherWay,
    OtherThing { wanted: Pointable },
    FirstAnswer { number: usize },
    NotAtOnce,
    NoAnswer,
    Missing(Missing),
    Untold(Untold),
    CheckedBefore,
    CheckedOften,
    TeacherTells,
}
