//! What is wrong with a sheet, and what to write there.

use zeitmass_core::inquiry::Step;
use zeitmass_core::lab::{LARGEST, Named, Number, Several, SheetError, Text, Twin, Wrong};

use crate::Words;

impl Words for SheetError {
    fn words(&self) -> String {
        format!("Line {}: {}", self.line, self.wrong.words())
    }
}

impl Words for Wrong {
    #[expect(clippy::too_many_lines, reason = "a list: one mistake after the other")]
    fn words(&self) -> String {
        match self {
            Self::TooLong => format!("A lab sheet can have at most {LARGEST} characters."),
            Self::NoFence => "A lab sheet starts with a line +++ and its front matter.".to_owned(),
            Self::Unclosed => "The front matter has no closing line +++.".to_owned(),
            Self::Notation(remark) => sentence(remark),
            Self::NoHeading => "Text starts under a heading: write ## Question first.".to_owned(),
            Self::NoQuestion => "The text starts with the heading ## Question and the question below it.".to_owned(),
            Self::Quantity(error) => sentence(&error.words()),
            Self::Unit(error) => sentence(&error.words()),
            Self::Formula(problem) => sentence(&problem.words()),
            Self::Setting(error) => error.words(),
            Self::Precision(error) => error.words(),
            Self::Length { of, most } => format!("{} needs 1 to {most} characters.", of.words()),
            Self::Longer { of, most } => format!("{} can have at most {most} characters.", of.words()),
            Self::TooMany { of, most } => too_many(*of, *most),
            Self::Range { of, from, to } => range(*of, *from, *to),
            Self::Unknown { of, given, known } => unknown(*of, given, known),
            Self::Twice { of: Twin::Column, name } => format!("Two columns have the symbol {name}."),
            Self::Twice { of: Twin::Criterion, name } => format!("Two criteria have the name “{name}”."),
            Self::Twice { of: Twin::Question, name } => format!("Two questions have the name “{name}”."),
            Self::NotASymbol(given) => format!("“{given}” cannot be a symbol. Write a letter, then letters or digits."),
            Self::NoNumber(given) => format!("“{given}” is not a sheet number. Write unit and place, such as 2.1."),
            Self::TwoMotions => "The motion comes from a rig or from films, not from both.".to_owned(),
            Self::NoMotion => {
                "Say where the motion comes from: rig = \"…\", film = \"…\", [[films]] or own_films = true.".to_owned()
            }
            Self::MostTrials => "At most 1000 trials, and not fewer than trials.".to_owned(),
            Self::NothingDealt => "Further deals need a setting that is dealt: \"dealt 1 m to 2 m\".".to_owned(),
            Self::FilmTwice => "Two films have the same name or the same conditions.".to_owned(),
            Self::NoStamp(given) => {
                format!("There is no stamp at “{given}”. Write a step of this lab before the write-up.")
            }
            Self::NoColumnKind(given) => {
                format!("“{given}” is not a kind of column to start with. Write set, read or given.")
            }
            Self::GivenValues => {
                "A given column has values, and only a given one: values = [\"0.20\", \"0.40\"].".to_owned()
            }
            Self::NotOfColumn(given) => format!("“{given}” is not in a unit of this column."),
            Self::NoSource { meters } => format!(
                "A column comes from a setting or from a meter on the bench: from = \"setting …\" or \"meter …\". There are: {}.",
                meters.join(", ")
            ),
            Self::NoLevel(given) => {
                format!("“{given}” is not a level. Write points and words: \"3 | six trials or more\".")
            }
            Self::LevelsOrder => "Levels come with the most points first.".to_owned(),
            Self::NotAcross(given) => format!("“{given}” cannot be the symbol of what is across."),
            Self::CurveUnit { found, up } => {
                format!("The curve comes to {}, which is not {}.", found.pretty(), up.pretty())
            }
            Self::FilmConditions { conditions } => {
                format!("This film needs a value for each of the {conditions} conditions.")
            }
            Self::NotOfCondition { given, condition } => format!("“{given}” is not in a unit of the {condition}."),
            Self::NoRuler(given) => {
                format!("“{given}” is not a ruler. Write two ends in pixels and a length: 28,312; 28,112; 2.000 m.")
            }
            Self::NoAxes(given) => {
                format!("“{given}” are not axes. Write the origin in pixels and an angle: 28,312; -20 deg.")
            }
            Self::NotTheConstant(given) => format!("“{given}” cannot be the symbol of the constant."),
            Self::NoSuchSymbol { symbol, known } => {
                format!("“{symbol}” is not a symbol of this rig. Known are: {}.", known.join(", "))
            }
            Self::NoAccepted => {
                "Say what comes out: accepted = \"9.81 m/s^2\", or key = a formula over the settings.".to_owned()
            }
            Self::NoTime(given) => format!("“{given}” is not a time."),
            Self::NotOfCurve { given, curve } => format!("“{given}” is not in a unit of the {curve}."),
            Self::Duration { time } => format!("A forecast covers 0.1 to 60 {}.", time.pretty()),
            Self::AxisOrder { curve } => format!("The axis of the {curve} runs from a smaller value to a larger one."),
            Self::NoHypothesis => {
                "A hypothesis needs causes and effects to choose from: causes = [\"mass\", \"angle\"].".to_owned()
            }
            Self::Rounds => "The curves are sketched in 1 to 6 rounds: rounds = 3.".to_owned(),
            Self::NothingForecast => "A forecast asks for a curve, a hypothesis or a prediction.".to_owned(),
            Self::NoRule { setting, range } => format!(
                "Write {setting} = \"free …\", \"fixed …\", \"hidden …\", \"dealt … to …\" or \"hidden dealt … to …\" with a value, {range}."
            ),
            Self::DealtOrder { label } => format!("The {label} is dealt from a smaller value to a larger one."),
            Self::QuestionsOrder { step, before } => format!(
                "Questions come in the order of work: one at {} cannot follow one at {}.",
                step.name(),
                before.name()
            ),
            Self::NoStep(step) => format!("This sheet has no {}, so no question can be asked at it.", lacking(*step)),
            Self::QuestionName => "A question has a name of 1 to 40 letters, digits, spaces and hyphens.".to_owned(),
            Self::NobodyChecks => {
                "This question says nowhere what is right, so only the teacher can check it.".to_owned()
            }
            Self::OneWay => {
                "A question is answered in one way: words, choices, number, sentence, point, or argument.".to_owned()
            }
            Self::SeveralChoices => "Only choices can have several right answers.".to_owned(),
            Self::PointingOnly => {
                "“largest” and “smallest” belong to a question that is answered by pointing.".to_owned()
            }
            Self::ArgumentOnly => "“pupil” and “position” belong to an argument.".to_owned(),
            Self::Words { most } => format!("An answer can be asked to have {most} words at most."),
            Self::TwoExtremes => "It is the largest or the smallest, not both.".to_owned(),
            Self::NotOfAColumn(given) => format!("“{given}” cannot be the symbol of a column."),
            Self::NoExtreme => "Only rows and moments can be the largest or the smallest.".to_owned(),
            Self::NeitherRightNorWrong(given) => {
                format!("“{given}” begins with neither + for a right answer nor - for a wrong one.")
            }
            Self::ChoicesAlike => "Two answers to choose from are the same.".to_owned(),
            Self::OneRight => "Where one answer is chosen, one is right; write several = true for more.".to_owned(),
            Self::NotAskedFor(given) => {
                format!("“{given}” cannot be asked for. Write of = \"constant\", \"slope\" or \"intercept\".")
            }
            Self::NumberTwice => "A number is given by one of value, key and of.".to_owned(),
            Self::AnswerUnit { asked, answer } => {
                format!("The answer is asked for in {}, but it is in {}.", asked.pretty(), answer.pretty())
            }
            Self::NoNear => "Say how near an answer by key has to be: within = \"3 %\".".to_owned(),
            Self::HowNear(given) => {
                format!("“{given}” does not say how near. Write a share such as 3 %, or an amount such as 0.1 m.")
            }
            Self::OpenGap => "A gap has no closing brace }.".to_owned(),
            Self::NoGap => {
                "A sentence has a gap in braces: {+ rises | - falls}, {slope} or {= 2.0 s within 1 %}.".to_owned()
            }
        }
    }
}

/// What has a length, at the start of a sentence.
impl Words for Text {
    fn words(&self) -> String {
        let said = match self {
            Self::Title => "The title",
            Self::Unit => "The unit's name",
            Self::Table => "A table's name",
            Self::Column => "A column's name",
            Self::Condition => "A condition's name",
            Self::Criterion => "A criterion's name",
            Self::Level => "The words of a level",
            Self::Question => "A question",
            Self::Answer => "The answer for the teacher",
            Self::Argument => "An argument",
            Self::Pupil => "The name of the person who argues",
            Self::Choice => "An answer to choose",
            Self::WordOnChoice => "A word about an answer",
            Self::Sentence => "A sentence",
        };
        said.to_owned()
    }
}

fn too_many(of: Several, most: usize) -> String {
    match of {
        Several::Values => format!("A column can have {most} values."),
        Several::Criteria => format!("A sheet can have {most} criteria."),
        Several::Questions => format!("A sheet can have {most} questions."),
        Several::Gaps => format!("A sentence can have {most} gaps."),
        Several::Curves => format!("At most {most} curves are sketched."),
    }
}

fn range(of: Number, from: u32, to: u32) -> String {
    match of {
        Number::Trials => format!("The number of trials can be {from} to {to}."),
        Number::Deals => format!("A logbook can have {from} to {to} deals of numbers."),
        Number::Levels => format!("A criterion has {from} to {to} levels."),
        Number::Points => format!("A level has {from} to {to} points."),
        Number::Tries => format!("A question can be tried {from} to {to} times."),
        Number::Choices => format!("There are {from} to {to} answers to choose from."),
    }
}

fn unknown(of: Named, given: &str, known: &[&str]) -> String {
    let amiss = match of {
        Named::Rig => format!("There is no rig “{given}”."),
        Named::Entry(key) => format!("“{given}” cannot be under {key}."),
        Named::Word(key) => return format!("“{given}” says nothing about {key}. Write {}.", known.join(" or ")),
        Named::Seen => format!("The program cannot look at “{given}”."),
        Named::Recorded => format!("“{given}” is not recorded by this rig."),
        Named::Channel => format!("There is no channel “{given}”."),
        Named::Step => format!("“{given}” is not a step."),
        Named::Check => format!("“{given}” is not when a question is checked."),
        Named::Position => format!("“{given}” is not a position."),
        Named::Pointed => format!("“{given}” cannot be pointed at."),
    };
    format!("{amiss} Known are: {}.", known.join(", "))
}

/// A remark as a sentence.
fn sentence(text: &str) -> String {
    let mut chars = text.trim().chars();
    let first = chars.next().map(char::to_uppercase).into_iter().flatten();
    let joined = first.chain(chars).collect::<String>().replace('\n', ", ");
    if joined.ends_with('.') { joined } else { joined + "." }
}

/// What a sheet without this step lacks.
fn lacking(step: Step) -> &'static str {
    match step {
        Step::Model => "step model",
        Step::Question
        | Step::Forecast
        | Step::Measure
        | Step::Graph
        | Step::Linearize
        | Step::Constant
        | Step::WriteUp => step.name(),
    }
}

#[cfg(test)]
mod tests {
    use zeitmass_core::lab::LabSheet;

    use super::*;

    const SHEET: &str = include_str!("../../../labs/2.1-tower-pendulum.md");

    #[test]
    fn a_mistake_says_where_it_is_and_what_to_write() {
        for (from, to, told) in [
            ("number = \"2.1\"", "number = \"two\"", "“two” is not a sheet number. Write unit and place, such as 2.1."),
            ("trials = 6", "trials = 1", "The number of trials can be 2 to 200."),
            (
                "trials = 6",
                "trials = 6\nstrip = \"sometimes\"",
                "“sometimes” says nothing about strip. Write always or after attempt or never.",
            ),
            ("title = \"Tower pendulum\"", "title = \"\"", "The title needs 1 to 80 characters."),
            ("symbol = \"L\"", "symbol = \"4\"", "“4” cannot be a symbol. Write a letter, then letters or digits."),
        ] {
            let error = LabSheet::parse(&SHEET.replacen(from, to, 1)).unwrap_err();
            assert_eq!(error.words(), format!("Line {}: {told}", error.line), "{to}");
        }
    }

    #[test]
    fn what_libraries_remark_becomes_a_sentence() {
        assert_eq!(sentence("expected a value\nfound `=`"), "Expected a value, found `=`.");
        let error = LabSheet::parse(&SHEET.replacen("trials = 6", "whisker = 3", 1)).unwrap_err();
        assert!(error.words().contains("whisker"), "{}", error.words());
    }
}
