//! Answers: what they lack, what is off, and why it cannot be told.

use zeitmass_core::inquiry::{Fault, Missing, NumberFault, Pointable, Position, Untold};

use crate::Words;

/// What somebody has to do to point at such a thing.
pub fn how_to_point(at: Pointable) -> &'static str {
    match at {
        Pointable::Row => "Click a row of a table.",
        Pointable::Reading => "Click a value in a table.",
        Pointable::Graph => "Click a graph.",
        Pointable::Stretch => "Choose an interval of the graph.",
        Pointable::Moment => "Bring the instant to the stage.",
        Pointable::Curve => "Click a curve of your forecast.",
    }
}

/// How somebody stands to an argument, in their own words.
pub fn position(position: Position) -> &'static str {
    match position {
        Position::Agree => "I agree",
        Position::Partly => "I agree in part",
        Position::Disagree => "I do not agree",
    }
}

/// What is said of a right answer that has more digits than can be known.
pub const SURPLUS: &str = "It has more digits than can be known.";

/// Never which way, nor by how much.
impl Words for Fault {
    fn words(&self) -> String {
        match self {
            Self::Said(word) => word.clone(),
            Self::LookAgain => "Look again.".to_owned(),
            Self::OneDoesNotHold => "Something you chose does not hold.".to_owned(),
            Self::Incomplete => "What you chose holds, but something is missing.".to_owned(),
            Self::Number(fault) => fault.words(),
            Self::NotThatOne => "Look at the values once more: that is not the one.".to_owned(),
            Self::AgainstData => "Compare the argument with your own data once more.".to_owned(),
            Self::NotYet => "Not yet.".to_owned(),
            Self::Gap { number, fault } => format!("Gap {number}: {}", fault.words()),
        }
    }
}

impl Words for NumberFault {
    fn words(&self) -> String {
        let said = match self {
            Self::NotANumber => "This cannot be read as a number with a unit.",
            Self::NoUnit => "The unit is missing.",
            Self::Quantity => "This unit belongs to another quantity.",
            Self::Unit => "Look at the unit: the number does not belong to it.",
            Self::Sign => "Look at the sign.",
            Self::Power => "The digits are right, the power of ten is not.",
            Self::Digits => "With so few digits this cannot be decided. Give one more.",
            Self::Value => "Not yet.",
        };
        said.to_owned()
    }
}

impl Words for Missing {
    fn words(&self) -> String {
        match self {
            Self::Words => "Write your answer.".to_owned(),
            Self::MoreWords { have, least } => format!("{have} of {least} words so far."),
            Self::Position => "Say whether you agree.".to_owned(),
            Self::Evidence => "Point at what shows it.".to_owned(),
            Self::Reason => "Write your reason.".to_owned(),
            Self::Choice => "Choose an answer.".to_owned(),
            Self::Number => "Type a number with its unit.".to_owned(),
            Self::Gaps(1) => "One gap is empty.".to_owned(),
            Self::Gaps(n) => format!("{n} gaps are empty."),
            Self::Pointer => "Point at your answer.".to_owned(),
            Self::OtherWay => "Answer once more.".to_owned(),
        }
    }
}

impl Words for Untold {
    fn words(&self) -> String {
        let said = match self {
            Self::TeacherTells => "Only your teacher can check this.",
            Self::NotWorkedOut => "It cannot be worked out for this lab.",
            Self::NoLine => "Put a line through the points of a graph first.",
            Self::RowGone => "The row you pointed at is gone.",
            Self::NoColumn => "This table has no such column yet.",
            Self::RowIncomplete => "The row you pointed at is not complete yet.",
            Self::RunGone => "The run you pointed at is gone.",
            Self::NoQuantity => "The run does not have this quantity.",
            Self::NoInstant => "The run has no such instant.",
        };
        said.to_owned()
    }
}
