//! Why a change of a draft is not made.

use crate::lab::SheetError;

/// Why a change of a draft is not made. Nothing was changed.
#[derive(Clone, Debug, PartialEq)]
pub enum DraftRefusal {
    /// The text would have more than [`LARGEST`](crate::lab::LARGEST) characters.
    TooLong,
    /// What came of it would break the notation.
    Broken(Box<SheetError>),
    /// A line would be taken for the end of the front matter.
    Fence,
    /// A line would be taken for a heading.
    Heading,
    /// No field has this path.
    NoField(String),
    /// A field or a part that has to stay.
    Needed(String),
    /// Not a whole number.
    NoWhole(String),
    /// A line without name and value.
    NoPair(String),
    /// Nothing that can be done with a setting.
    NoRule(String),
    /// A range of what is no quantity.
    NoRange,
    /// No way to answer a question.
    NoWay(String),
    /// Not a moment from which a text is read.
    NoMoment,
    /// An answer with the bar that parts it from the word about it.
    BarInAnswer,
    /// Points with the bar that parts them from their words.
    BarInPoints,
    /// Nothing can be added there.
    NoList(String),
    /// Nothing of the motion can be sketched.
    NothingToSketch,
    /// It is there no longer.
    Gone,
    /// The apparatus is there no longer.
    NoApparatus,
    /// The question stays.
    KeepsQuestion,
    /// The question comes first.
    QuestionFirst,
    /// It cannot go further.
    AtTheEnd,
    /// Questions stand in the order of work.
    OrderOfWork,
}

impl From<SheetError> for DraftRefusal {
    fn from(error: SheetError) -> Self {
        Self::Broken(Box::new(error))
    }
}
