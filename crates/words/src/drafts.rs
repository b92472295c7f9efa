//! Sheets that are put together and grow: what is not taken in, what stays, and what is new.

use zeitmass_core::lab::{AnsweredBy, DraftRefusal, DraftRule, LARGEST, News, ReadFrom, Stays};

use crate::Words;

/// What a sheet does with a setting.
pub fn rule(rule: DraftRule) -> &'static str {
    match rule {
        DraftRule::Free => "free: students set it",
        DraftRule::Fixed => "fixed, for all to see",
        DraftRule::Hidden => "hidden",
        DraftRule::Dealt => "dealt from a range",
        DraftRule::DealtAmong => "dealt from a list",
        DraftRule::HiddenDealt => "dealt from a range, hidden",
        DraftRule::HiddenAmong => "dealt from a list, hidden",
    }
}

/// From when on a section is read.
pub fn from(from: ReadFrom) -> &'static str {
    match from {
        ReadFrom::Start => "from the start",
        ReadFrom::FirstRun => "after the forecast",
        ReadFrom::HandIn => "after handing in",
    }
}

/// How a question is answered.
pub fn answered_by(way: AnsweredBy) -> &'static str {
    match way {
        AnsweredBy::Choices => "by choosing",
        AnsweredBy::Number => "by a number with its unit",
        AnsweredBy::Words => "in words",
        AnsweredBy::Sentence => "by a sentence with gaps",
        AnsweredBy::Point => "by pointing",
        AnsweredBy::Argument => "by judging an argument",
    }
}

impl Words for DraftRefusal {
    fn words(&self) -> String {
        match self {
            Self::TooLong => format!("A lab sheet can have at most {LARGEST} characters. This was not taken in."),
            Self::Broken(error) => error.words(),
            Self::Fence => "A line cannot begin with +++: that is where the text of a sheet begins.".to_owned(),
            Self::Heading => "A line that begins with ## would start another section: add one instead.".to_owned(),
            Self::NoField(path) => format!("Nothing is called “{path}” on a sheet."),
            Self::Needed(path) => format!("“{path}” cannot be left out."),
            Self::NoWhole(given) => format!("“{given}” is not a whole number. It stays as it was."),
            Self::NoPair(line) => format!("“{line}” has no equals sign: write t = 30.00 s."),
            Self::NoRule(given) => format!("“{given}” cannot be done with a setting."),
            Self::NoRange => "Only a quantity is dealt from a range: deal it from a list.".to_owned(),
            Self::NoWay(given) => format!("A question cannot be answered “{given}”."),
            Self::NoMoment => "A text is read from the start, after the forecast or after handing in.".to_owned(),
            Self::BarInAnswer => "An answer cannot hold a bar |.".to_owned(),
            Self::BarInPoints => "Points cannot hold a bar |.".to_owned(),
            Self::NoList(path) => format!("“{path}” is not a list: nothing can be added or moved there."),
            Self::NothingToSketch => "Nothing of this motion can be sketched.".to_owned(),
            Self::Gone => "It is not there any more.".to_owned(),
            Self::NoApparatus => "There is no such apparatus any more.".to_owned(),
            Self::KeepsQuestion => "A sheet keeps its question.".to_owned(),
            Self::QuestionFirst => "The question comes first on a sheet.".to_owned(),
            Self::AtTheEnd => "It is at the end already.".to_owned(),
            Self::OrderOfWork => "Questions come in the order of work: choose another step for it.".to_owned(),
        }
    }
}

impl Words for Stays {
    fn words(&self) -> String {
        let said = match self {
            Self::Apparatus => "The apparatus or films stay as they were at the start.",
            Self::Settings => "Settings, and values that were dealt, stay as they were at the start.",
            Self::Bench => "Instruments, curves and arrows stay as they were at the start.",
            Self::Columns => "Columns stay as they were at the start.",
            Self::Forecast => "The forecast stays as it was at the start.",
            Self::Deals => "The number of deals stays as it was at the start.",
            Self::ReadOut => "What is said of slope and intercept in words stays as it was at the start.",
            Self::Goal => "The constant to be found and its key stay as they were at the start.",
            Self::LeftOut { number } => {
                return format!("Question {number} of the earlier text stays, since answers belong to it.");
            }
            Self::OtherWay { number } => {
                return format!(
                    "Question {number} of the earlier text stays as it was asked, since it is answered in another way now."
                );
            }
        };
        said.to_owned()
    }
}

/// For students; blank when nothing is new.
impl Words for News {
    fn words(&self) -> String {
        let count = |n: usize, one: &str, more: &str| match n {
            0 => None,
            1 => Some(format!("one {one}")),
            n => Some(format!("{n} {more}")),
        };
        let parts = [
            count(self.questions, "new question", "new questions"),
            count(self.texts, "new text", "new texts"),
            count(self.changed, "text that was changed", "texts that were changed"),
        ];
        let parts: Vec<String> = parts.into_iter().flatten().collect();
        match &parts[..] {
            [] if self.reworded => "Your teacher has changed questions of this sheet.".to_owned(),
            [] => String::new(),
            all => format!("Your teacher has added to this sheet: {}.", all.join(", ")),
        }
    }
}
