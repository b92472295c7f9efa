//! Why an edit of an answer was refused.

use crate::inquiry::{Missing, Pointable, Untold};

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
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
