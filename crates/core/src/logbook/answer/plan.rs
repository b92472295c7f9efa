//! Plans edits of answers.

use super::{AnswerChange, AnswerEdit, Tried};
use crate::inquiry::{
    Answer, Check, Gap, LONGEST_ANSWER, LONGEST_NUMBER, MOST_POINTED, Pointer, Question, QuestionKind, Verdict,
};
use crate::logbook::AnswerRefusal;
use crate::logbook::Logbook;
use crate::logbook::change::Change;
use crate::logbook::deed::Turn;
use crate::logbook::planning::{Plan, Planned};
use crate::logbook::refusal::{Absent, Counted, Kept, Limit, LongText, Refusal, ValueError};
use crate::logbook::state::State;
use crate::quantity::{Footage, Unit, parse_quantity};

/// Answers of one question that are kept as checked, where tries are not counted.
const MOST_TRIED: usize = 100;

/// Writes the words of an answer, unless a partner wrote others meanwhile.
fn written(words: &mut String, text: &str, was: &str) -> Result<(), Refusal> {
    let text = text.replace("\r\n", "\n");
    if text.chars().count() > LONGEST_ANSWER {
        return Err(Refusal::Limit(Limit::Long { of: LongText::Answer, most: LONGEST_ANSWER }));
    }
    if *words != was.replace("\r\n", "\n") && *words != text {
        return Err(Refusal::TextChanged { field: "answer" });
    }
    *words = text;
    Ok(())
}

impl Logbook {
    pub(in crate::logbook) fn plan_answer(&self, edit: &AnswerEdit) -> Plan {
        let name = edit.question();
        let stands = self.answers().into_iter().find(|a| a.question.name == name);
        let stands = stands.ok_or(Refusal::Absent(Absent::Question))?;
        if stands.waits {
            return Err(self.waiting(stands.number));
        }
        let question = stands.question;
        if stands.settled {
            return Err(Refusal::from(if stands.right { AnswerRefusal::Answered } else { AnswerRefusal::NoTries }));
        }
        let mut answer = stands.answer.cloned().filter(|a| question.takes(a)).unwrap_or_else(|| question.blank());
        let unfit = || Refusal::from(AnswerRefusal::OtherWay);
        match (edit, &mut answer) {
            (AnswerEdit::Check { .. }, _) => return self.plan_check(question, stands.answer),
            (
                AnswerEdit::Write { text, was, .. },
                Answer::Words { text: words } | Answer::Argument { reason: words, .. },
            ) => {
                written(words, text, was)?;
            }
            (AnswerEdit::Choose { option, on, .. }, Answer::Choice { chosen }) => {
                let QuestionKind::Choice { options, several } = &question.kind else { return Err(unfit()) };
                if !options.iter().any(|o| o.text == *option) {
                    return Err(Refusal::Absent(Absent::Option));
                }
                chosen.retain(|c| *several && c != option);
                if *on {
                    chosen.push(option.clone());
                    // In the order of the sheet, whatever the order of the clicks.
                    chosen.sort_by_key(|c| options.iter().position(|o| o.text == *c));
                }
            }
            (AnswerEdit::Fill { gap, typed, .. }, Answer::Filled { gaps }) => {
                let place = gaps.get_mut(*gap).ok_or_else(unfit)?;
                let asked = question.gaps();
                *place = filled(asked.get(*gap).ok_or_else(unfit)?, typed, place)?;
            }
            (AnswerEdit::Take { position, .. }, Answer::Argument { position: taken, .. }) => *taken = Some(*position),
            (
                AnswerEdit::Point { at, .. },
                Answer::Pointing { at: those } | Answer::Argument { evidence: those, .. },
            ) => {
                self.point(question, those, at)?;
            }
            (
                AnswerEdit::Unpoint { at, .. },
                Answer::Pointing { at: those } | Answer::Argument { evidence: those, .. },
            ) => {
                those.retain(|p| p != at);
            }
            (
                AnswerEdit::Write { .. }
                | AnswerEdit::Choose { .. }
                | AnswerEdit::Fill { .. }
                | AnswerEdit::Take { .. }
                | AnswerEdit::Point { .. }
                | AnswerEdit::Unpoint { .. },
                _,
            ) => return Err(unfit()),
        }
        let answer = Some(answer).filter(|a| *a != question.blank());
        if answer.as_ref() == stands.answer {
            return Ok(Vec::new().into());
        }
        let give = AnswerChange::Give { question: question.name.clone(), answer, deal: self.state.deals.number };
        Ok(vec![Change::Answer(give)].into())
    }

    /// Points at something in an answer.
    fn point(&self, question: &Question, those: &mut Vec<Pointer>, at: &Pointer) -> Result<(), Refusal> {
        if let QuestionKind::Pointing { at: kind, .. } = &question.kind
            && at.at() != *kind
        {
            return Err(Refusal::from(AnswerRefusal::OtherThing { wanted: *kind }));
        }
        self.is_there(at)?;
        // A question for one thing is answered by the last one pointed at.
        if matches!(question.kind, QuestionKind::Pointing { .. }) {
            those.clear();
        }
        if those.len() >= MOST_POINTED {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Pointed, most: MOST_POINTED }));
        }
        if !those.contains(at) {
            those.push(at.clone());
        }
        Ok(())
    }

    fn plan_check(&self, question: &Question, answer: Option<&Answer>) -> Plan {
        if question.check != Check::AtOnce {
            return Err(Refusal::from(AnswerRefusal::NotAtOnce));
        }
        let answer = answer.ok_or_else(|| Refusal::from(AnswerRefusal::NoAnswer))?;
        if let Some(missing) = question.missing(answer) {
            return Err(Refusal::from(AnswerRefusal::Missing(missing)));
        }
        let given = self.state.answers.given.get(&question.name);
        let tried = given.map_or(&[][..], |g| &g.tried);
        if tried.iter().any(|t| t.answer == *answer) {
            return Err(Refusal::from(AnswerRefusal::CheckedBefore));
        }
        if tried.len() >= MOST_TRIED {
            return Err(Refusal::from(AnswerRefusal::CheckedOften));
        }
        let deal = given.map_or(0, |g| g.deal);
        let verdict = self.judge(question, answer, deal).map_err(AnswerRefusal::Untold)?;
        let right = match verdict {
            Verdict::Right { .. } => true,
            Verdict::Wrong(_) => false,
            Verdict::Open => return Err(Refusal::from(AnswerRefusal::TeacherTells)),
        };
        let tried = tried.iter().cloned().chain([Tried { answer: answer.clone(), right }]).collect();
        let change = Change::Answer(AnswerChange::Tries { question: question.name.clone(), tried });
        Ok(Planned { turn: Turn::Office, ..vec![change].into() })
    }

    /// Whether what is pointed at is there.
    fn is_there(&self, at: &Pointer) -> Result<(), Refusal> {
        let inside = match at {
            Pointer::Moment { of: Footage::Run(run), frame } => {
                self.footage(*run).and_then(Result::ok).is_some_and(|run| *frame < run.frames())
            }
            Pointer::Moment { of: Footage::Film(_), .. }
            | Pointer::Row { .. }
            | Pointer::Reading { .. }
            | Pointer::Graph { .. }
            | Pointer::Stretch { .. }
            | Pointer::Curve { .. } => true,
        };
        if inside && self.pointed_at(at).is_some() {
            return Ok(());
        }
        let kind = at.at().name();
        Err(Refusal::Absent(Absent::Pointed(kind)))
    }

    /// Answers from a file: only what this sheet asks, in the way it asks, within its limits.
    pub(in crate::logbook) fn check_answers(&self, state: &mut State) {
        let deals = self.sheet.deals;
        state.answers.given.retain(|name, given| {
            let question = self.sheet.questions.iter().find(|q| q.name == *name);
            let fits = |a: &Answer| question.is_some_and(|q| q.takes(a)) && short(a);
            given.answer.as_ref().is_some_and(fits) && given.deal < deals
        });
    }

    /// An answer is asked for first.
    pub(in crate::logbook) fn waiting(&self, number: usize) -> Refusal {
        let open = self.answers().into_iter().find(|a| a.question.holds && !a.is_answered() && a.number < number);
        let first = open.map_or(1, |a| a.number);
        Refusal::from(AnswerRefusal::FirstAnswer { number: first })
    }
}

/// Whether an answer is no longer than one can be.
fn short(answer: &Answer) -> bool {
    match answer {
        Answer::Words { text } | Answer::Argument { reason: text, .. } => text.chars().count() <= LONGEST_ANSWER,
        Answer::Filled { gaps } => gaps.iter().all(|g| g.chars().count() <= LONGEST_NUMBER.max(200)),
        Answer::Choice { .. } | Answer::Pointing { .. } => true,
    }
}

/// What stands in a gap now: a choice there is, or a number with a unit.
fn filled(gap: &Gap<'_>, typed: &str, stood: &str) -> Result<String, Refusal> {
    let typed = typed.trim();
    if typed.is_empty() {
        return Ok(String::new());
    }
    match gap {
        Gap::Choose(options) if options.iter().any(|o| o.text == typed) => Ok(typed.to_owned()),
        Gap::Choose(_) => Err(Refusal::Absent(Absent::Option)),
        Gap::Number(_) => {
            let kept = Kept::Field((!stood.is_empty()).then(|| stood.to_owned()));
            if typed.chars().count() > LONGEST_NUMBER {
                return Err(Refusal::Value { wrong: ValueError::TooLong, kept });
            }
            parse_quantity(typed, &Unit::one()).map_err(|e| Refusal::Value { wrong: e.into(), kept })?;
            Ok(typed.to_owned())
        }
    }
}
