//! Why an edit of an answer was refused.

use crate::inquiry::Pointable;

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum AnswerRefusal {
    #[error("It is answered already; the answer stays as it is.")]
    Answered,
    #[error("Its tries are used up; the answer stays as it is.")]
    NoTries,
    #[error("This question is answered in another way. Nothing was changed.")]
    OtherWay,
    #[error("That is something else. {}", .wanted.how())]
    OtherThing { wanted: Pointable },
    #[error("First answer question {number}. Nothing was changed.")]
    FirstAnswer { number: usize },
    #[error("This question is not checked at once. Nothing was checked, and no try is lost.")]
    NotAtOnce,
    #[error("There is no answer yet. Nothing was checked, and no try is lost.")]
    NoAnswer,
    #[error("{missing} Nothing was checked, and no try is lost.")]
    Missing { missing: String },
    #[error("This answer was checked before. Nothing was checked, and no try is lost.")]
    CheckedBefore,
    #[error("It was checked very often. Nothing was checked, and no try is lost.")]
    CheckedOften,
    #[error("Only your teacher can tell. Nothing was checked, and no try is lost.")]
    TeacherTells,
}
