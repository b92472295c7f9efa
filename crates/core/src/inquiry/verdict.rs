//! What is to be said of an answer: what is missing in it, whether it is right, and what is off.

use super::number::{NumberFault, judge_number};
use super::question::{Choice, Extreme, Gap, NumberAsked, Pointer, Question, QuestionKind};
use super::{Answer, Target};

/// What is said of an answer.
#[derive(Clone, Debug, PartialEq)]
pub enum Verdict {
    /// It is for the teacher to say.
    Open,
    /// Right.
    Right {
        /// Whether it has more digits than can be known.
        surplus: bool,
    },
    /// Not right: what is off, which never gives the answer.
    Wrong(Vec<Fault>),
}

/// What is off in an answer; never which way, nor by how much.
#[derive(Clone, Debug, PartialEq)]
pub enum Fault {
    /// What the sheet says of what was chosen.
    Said(String),
    /// The choice.
    LookAgain,
    /// One of several choices.
    OneDoesNotHold,
    /// One more would have to be chosen.
    Incomplete,
    /// The number.
    Number(NumberFault),
    /// The place that was pointed at.
    NotThatOne,
    /// The position on an argument.
    AgainstData,
    /// It was judged wrong, and what is off cannot be told now.
    NotYet,
    /// One gap of several.
    Gap {
        /// Which, from 1.
        number: usize,
        /// What is off there.
        fault: Box<Self>,
    },
}

/// What an answer lacks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Missing {
    /// Its words.
    Words,
    /// More words.
    MoreWords {
        /// Words there are.
        have: usize,
        /// Words that are wanted at least.
        least: usize,
    },
    /// The position on an argument.
    Position,
    /// The evidence.
    Evidence,
    /// The reason.
    Reason,
    /// A choice.
    Choice,
    /// A number with its unit.
    Number,
    /// That many gaps.
    Gaps(usize),
    /// Something pointed at.
    Pointer,
    /// All of it: the question is answered in another way now.
    OtherWay,
}

/// Why it cannot be told yet whether an answer is right.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Untold {
    /// Nobody but the teacher knows.
    TeacherTells,
    /// The lab does not have what it is worked out from.
    NotWorkedOut,
    /// The logbook has no line yet.
    NoLine,
    /// The row pointed at was deleted.
    RowGone,
    /// Its table has no such column yet.
    NoColumn,
    /// The row pointed at has no value yet.
    RowIncomplete,
    /// The run pointed at was deleted.
    RunGone,
    /// The run does not record the quantity.
    NoQuantity,
    /// The run has no such instant.
    NoInstant,
}

/// Values that are right, or why that cannot be told yet.
pub type Wanted = Result<Vec<Target>, Untold>;

impl Question {
    /// What is still missing in an answer; none when it is whole.
    pub fn missing(&self, answer: &Answer) -> Option<Missing> {
        let words = |text: &str| text.split_whitespace().count();
        match (&self.kind, answer) {
            (QuestionKind::Words { least }, Answer::Words { text }) => match words(text) {
                0 => Some(Missing::Words),
                n if n < *least => Some(Missing::MoreWords { have: n, least: *least }),
                _ => None,
            },
            (QuestionKind::Argument { .. }, Answer::Argument { position, evidence, reason }) => {
                if position.is_none() {
                    Some(Missing::Position)
                } else if evidence.is_empty() {
                    Some(Missing::Evidence)
                } else if words(reason) == 0 {
                    Some(Missing::Reason)
                } else {
                    None
                }
            }
            (_, Answer::Choice { chosen }) => chosen.is_empty().then_some(Missing::Choice),
            (QuestionKind::Number(_), Answer::Filled { gaps }) => {
                gaps.iter().any(String::is_empty).then_some(Missing::Number)
            }
            (_, Answer::Filled { gaps }) => {
                let open = gaps.iter().filter(|g| g.is_empty()).count();
                (open > 0).then_some(Missing::Gaps(open))
            }
            (_, Answer::Pointing { at }) => at.is_empty().then_some(Missing::Pointer),
            (_, Answer::Words { .. }) | (_, Answer::Argument { .. }) => Some(Missing::OtherWay),
        }
    }

    /// Judges an answer. `wanted` tells what a number should be, `pointed` whether something pointed at is the right one.
    ///
    /// # Errors
    /// [`Untold`], when that cannot be told yet.
    pub(crate) fn judge(
        &self,
        answer: &Answer,
        wanted: &dyn Fn(&NumberAsked) -> Wanted,
        pointed: &dyn Fn(&Pointer, &Extreme) -> Result<bool, Untold>,
    ) -> Result<Verdict, Untold> {
        if !self.can_be_judged() {
            return Ok(Verdict::Open);
        }
        let mut faults: Vec<Fault> = Vec::new();
        let mut surplus = false;
        match (&self.kind, answer) {
            (QuestionKind::Choice { options, several }, Answer::Choice { chosen }) => {
                let is_chosen = |o: &Choice| chosen.contains(&o.text);
                let wrong: Vec<&Choice> = options.iter().filter(|o| is_chosen(o) && !o.right).collect();
                faults.extend(wrong.iter().filter(|o| !o.word.is_empty()).map(|o| Fault::Said(o.word.clone())));
                if !wrong.is_empty() && faults.is_empty() {
                    faults.push(if *several { Fault::OneDoesNotHold } else { Fault::LookAgain });
                }
                if wrong.is_empty() && options.iter().any(|o| o.right && !is_chosen(o)) && *several {
                    faults.push(Fault::Incomplete);
                }
            }
            (QuestionKind::Number(_) | QuestionKind::Sentence(_), Answer::Filled { gaps }) => {
                let asked = self.gaps();
                for ((gap, typed), number) in asked.iter().zip(gaps).zip(1..) {
                    let fault = match gap {
                        Gap::Choose(options) => {
                            let chosen = options.iter().find(|o| o.text == *typed);
                            match chosen {
                                Some(o) if o.right => None,
                                Some(o) if !o.word.is_empty() => Some(Fault::Said(o.word.clone())),
                                Some(_) | None => Some(Fault::Number(NumberFault::Value)),
                            }
                        }
                        Gap::Number(asked) => match judge_number(typed, &wanted(asked)?) {
                            Ok(finer) => {
                                surplus |= finer;
                                None
                            }
                            Err(fault) => Some(Fault::Number(fault)),
                        },
                    };
                    if let Some(fault) = fault {
                        faults.push(if asked.len() > 1 {
                            Fault::Gap { number, fault: Box::new(fault) }
                        } else {
                            fault
                        });
                    }
                }
            }
            (QuestionKind::Pointing { right: Some(right), .. }, Answer::Pointing { at }) => {
                for pointer in at {
                    if !pointed(pointer, right)? {
                        faults.push(Fault::NotThatOne);
                        break;
                    }
                }
            }
            (QuestionKind::Argument { right, .. }, Answer::Argument { position, .. }) => {
                if position != right {
                    faults.push(Fault::AgainstData);
                }
            }
            (_, Answer::Words { .. })
            | (_, Answer::Choice { .. })
            | (_, Answer::Filled { .. })
            | (_, Answer::Pointing { .. })
            | (_, Answer::Argument { .. }) => return Ok(Verdict::Open),
        }
        Ok(if faults.is_empty() { Verdict::Right { surplus } } else { Verdict::Wrong(faults) })
    }
}
