//! Edits of answers.

use zeitmass_core::logbook::AnswerRefusal;

use crate::Words;
use crate::answers::how_to_point;

impl Words for AnswerRefusal {
    fn words(&self) -> String {
        match self {
            Self::Answered => "It is answered already; the answer stays as it is.".to_owned(),
            Self::NoTries => "Its tries are used up; the answer stays as it is.".to_owned(),
            Self::OtherWay => "This question is answered in another way. Nothing was changed.".to_owned(),
            Self::OtherThing { wanted } => format!("That is something else. {}", how_to_point(*wanted)),
            Self::FirstAnswer { number } => format!("First answer question {number}. Nothing was changed."),
            Self::NotAtOnce => {
                "This question is not checked at once. Nothing was checked, and no try is lost.".to_owned()
            }
            Self::NoAnswer => "There is no answer yet. Nothing was checked, and no try is lost.".to_owned(),
            Self::Missing(missing) => format!("{} Nothing was checked, and no try is lost.", missing.words()),
            Self::Untold(why) => format!("{} Nothing was checked, and no try is lost.", why.words()),
            Self::CheckedBefore => {
                "This answer was checked before. Nothing was checked, and no try is lost.".to_owned()
            }
            Self::CheckedOften => "It was checked very often. Nothing was checked, and no try is lost.".to_owned(),
            Self::TeacherTells => {
                "Only your teacher can check this. Nothing was checked, and no try is lost.".to_owned()
            }
        }
    }
}
