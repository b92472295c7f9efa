//! Questions along the way, as a sheet writes them.
//!
//! ```text
//! [[questions]]
//! name = "steady"
//! at = "measure"                 # the step of the spine
//! ask = "Is the shuttle steady, or does it speed up?"
//! choices = ["+ steady", "- speeding up | Then the distances would grow from second to second."]
//! tries = 2                      # and, if wanted, several = true, holds = true, check = "after handing in"
//! # Instead of choices: words = 15
//! # number = { unit = "m/s", key = "v_1", within = "3 %" }   # or value = "0.12 m/s", or of = "constant", "slope", "intercept"
//! # sentence = "For every second the position {+ rises | - falls} by {slope}."   # or {= 2.0 s within 1 %}
//! # point = "row", largest = "D"  # or "reading", "graph", "interval", "moment", "curve"
//! # pupil = "Mila", argument = "…", position = "disagree"
//! ```

use serde::Deserialize;
use toml::Spanned;

use super::goal::{Goal, formula_over};
use super::read::{Fault, LONGEST_NAME, Lines, Under, fits, one_named, one_of, unless};
use super::wrong::{Named, Number, Several, SheetError, Text, Twin, Wrong};
use crate::formula::is_symbol;
use crate::inquiry::{
    Check, Choice, Expected, Extreme, NumberAsked, Piece, Pointable, Question, QuestionKind, Step, Within,
};
use crate::quantity::{Unit, parse_quantity};
use crate::rigs::Card;

/// Most questions of a sheet.
pub const MOST_QUESTIONS: usize = 40;
/// Most answers to choose from.
const MOST_CHOICES: u32 = 12;
/// Most gaps of a sentence.
const MOST_GAPS: usize = 8;
/// Longest question or argument, in characters.
const LONGEST_ASK: usize = 2000;
/// Longest answer to choose, and word about it, in characters.
const LONGEST_CHOICE: usize = 200;
/// Most words that are asked for.
const MOST_WORDS: usize = 300;
/// Most tries that are counted.
const MOST_TRIES: u32 = 9;
/// Tries at a value that is hidden or dealt, where the sheet does not say.
const USUAL_TRIES: u32 = 3;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct FrontQuestion {
    name: String,
    at: String,
    ask: String,
    check: Option<String>,
    tries: Option<u32>,
    #[serde(default)]
    holds: bool,
    #[serde(default)]
    answer: String,
    words: Option<usize>,
    choices: Option<Vec<String>>,
    #[serde(default)]
    several: bool,
    number: Option<FrontNumber>,
    sentence: Option<String>,
    point: Option<String>,
    largest: Option<String>,
    smallest: Option<String>,
    pupil: Option<String>,
    argument: Option<String>,
    position: Option<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FrontNumber {
    unit: String,
    value: Option<String>,
    key: Option<String>,
    of: Option<String>,
    within: Option<String>,
}

/// The questions in the order of work.
pub(super) fn questions(
    written: Vec<Spanned<FrontQuestion>>,
    (card, goal, has_step): (&Card, &Goal, &dyn Fn(Step) -> bool),
    lines: &Lines<'_>,
) -> Result<Vec<Question>, SheetError> {
    let mut all: Vec<Question> = Vec::new();
    for spanned in written {
        let at = lines.at(&spanned);
        let next = question(spanned.into_inner(), card, goal).map_err(&at)?;
        if all.iter().any(|q| q.name == next.name) {
            return Err(at(Wrong::Twice { of: Twin::Question, name: next.name }.into()));
        }
        if let Some(before) = all.last().filter(|q| q.step > next.step) {
            return Err(at(Wrong::QuestionsOrder { step: next.step, before: before.step }.into()));
        }
        if !has_step(next.step) {
            return Err(at(Wrong::NoStep(next.step).into()));
        }
        all.push(next);
        if all.len() > MOST_QUESTIONS {
            return Err(at(Wrong::TooMany { of: Several::Questions, most: MOST_QUESTIONS }.into()));
        }
    }
    Ok(all)
}

fn question(front: FrontQuestion, card: &Card, goal: &Goal) -> Result<Question, Fault> {
    let sound = |c: char| c.is_alphanumeric() || matches!(c, '-' | ' ');
    if front.name.trim().is_empty() || front.name.chars().count() > LONGEST_NAME || !front.name.chars().all(sound) {
        return Err(Wrong::QuestionName).under("name");
    }
    let step = one_named(&front.at, Named::Step).under("at")?;
    fits(&front.ask, Text::Question, LONGEST_ASK).under("ask")?;
    let long = front.answer.chars().count() > LONGEST_ASK;
    unless(long, "answer", Wrong::Longer { of: Text::Answer, most: LONGEST_ASK })?;
    let kind = kind(&front, card, goal)?;
    let tries = tries(&front, &kind).under("tries")?;
    let mut question = Question {
        name: front.name,
        step,
        ask: front.ask,
        kind,
        check: Check::ByTeacher,
        tries,
        holds: front.holds,
        model: front.answer,
    };
    question.check = match front.check.as_deref() {
        Some(name) => one_named(name, Named::Check).under("check")?,
        None if question.can_be_judged() => Check::AtOnce,
        None => Check::ByTeacher,
    };
    if question.check != Check::ByTeacher && !question.can_be_judged() {
        return Err(Wrong::NobodyChecks).under("check");
    }
    Ok(question)
}

/// How many times it can be tried. What is hidden or dealt is never asked without end.
fn tries(front: &FrontQuestion, kind: &QuestionKind) -> Result<Option<u32>, Wrong> {
    if front.tries.is_some_and(|n| !(1..=MOST_TRIES).contains(&n)) {
        return Err(Wrong::Range { of: Number::Tries, from: 1, to: MOST_TRIES });
    }
    let secret = |asked: &NumberAsked| matches!(asked.expected, Expected::Key(_) | Expected::Constant);
    let guarded = match kind {
        QuestionKind::Number(asked) => secret(asked),
        QuestionKind::Sentence(pieces) => pieces.iter().any(|p| matches!(p, Piece::Number(asked) if secret(asked))),
        QuestionKind::Words { .. }
        | QuestionKind::Choice { .. }
        | QuestionKind::Pointing { .. }
        | QuestionKind::Argument { .. } => false,
    };
    Ok(front.tries.or(guarded.then_some(USUAL_TRIES)))
}

fn kind(front: &FrontQuestion, card: &Card, goal: &Goal) -> Result<QuestionKind, Fault> {
    let ways = [
        front.words.is_some(),
        front.choices.is_some(),
        front.number.is_some(),
        front.sentence.is_some(),
        front.point.is_some(),
        front.argument.is_some(),
    ];
    if ways.into_iter().filter(|w| *w).count() != 1 {
        return Err(Wrong::OneWay.into());
    }
    if front.several && front.choices.is_none() {
        return Err(Wrong::SeveralChoices).under("several");
    }
    if front.point.is_none() && (front.largest.is_some() || front.smallest.is_some()) {
        return Err(Wrong::PointingOnly.into());
    }
    if front.argument.is_none() && (front.pupil.is_some() || front.position.is_some()) {
        return Err(Wrong::ArgumentOnly.into());
    }
    if let Some(least) = front.words {
        if least > MOST_WORDS {
            return Err(Wrong::Words { most: MOST_WORDS }).under("words");
        }
        return Ok(QuestionKind::Words { least });
    }
    if let Some(choices) = &front.choices {
        let options = choices.iter().map(|c| choice(c)).collect::<Result<Vec<_>, _>>().under("choices")?;
        check_choices(&options, front.several).under("choices")?;
        return Ok(QuestionKind::Choice { options, several: front.several });
    }
    if let Some(asked) = &front.number {
        return Ok(QuestionKind::Number(number(asked, card, goal).under("number")?));
    }
    if let Some(text) = &front.sentence {
        return Ok(QuestionKind::Sentence(gapped(text, card, goal).under("sentence")?));
    }
    if let Some(name) = &front.point {
        return pointing(name, front, card).under("point");
    }
    let argument = front.argument.clone().unwrap_or_default();
    fits(&argument, Text::Argument, LONGEST_ASK).under("argument")?;
    let pupil = front.pupil.clone().unwrap_or_default();
    fits(&pupil, Text::Pupil, LONGEST_NAME).under("pupil")?;
    let right = front.position.as_deref().map(|name| one_named(name, Named::Position));
    Ok(QuestionKind::Argument { pupil, argument, right: right.transpose().under("position")? })
}

fn pointing(name: &str, front: &FrontQuestion, card: &Card) -> Result<QuestionKind, Wrong> {
    let at = one_named(name, Named::Pointed)?;
    let right = match (&front.largest, &front.smallest) {
        (None, None) => None,
        (Some(_), Some(_)) => return Err(Wrong::TwoExtremes),
        (Some(of), None) => Some(Extreme { of: of.clone(), largest: true }),
        (None, Some(of)) => Some(Extreme { of: of.clone(), largest: false }),
    };
    if let Some(Extreme { of, .. }) = &right {
        match at {
            Pointable::Row if is_symbol(of) => {}
            Pointable::Row => return Err(Wrong::NotOfAColumn(of.clone())),
            Pointable::Moment => {
                let channels: Vec<_> = card.channels.iter().map(|c| (c.name, ())).collect();
                one_of(&channels, of, Named::Channel)?;
            }
            Pointable::Reading | Pointable::Graph | Pointable::Stretch | Pointable::Curve => {
                return Err(Wrong::NoExtreme);
            }
        }
    }
    Ok(QuestionKind::Pointing { at, right })
}

/// `+ steady`, or `- speeding up | a word about it`.
fn choice(text: &str) -> Result<Choice, Wrong> {
    let (right, rest) = match text.trim().split_at_checked(1) {
        Some(("+", rest)) => (true, rest),
        Some(("-", rest)) => (false, rest),
        _ => return Err(Wrong::NeitherRightNorWrong(text.to_owned())),
    };
    let (words, word) = rest.split_once('|').unwrap_or((rest, ""));
    fits(words, Text::Choice, LONGEST_CHOICE)?;
    if word.chars().count() > LONGEST_CHOICE {
        return Err(Wrong::Longer { of: Text::WordOnChoice, most: LONGEST_CHOICE });
    }
    Ok(Choice { text: words.trim().to_owned(), right, word: word.trim().to_owned() })
}

fn check_choices(options: &[Choice], several: bool) -> Result<(), Wrong> {
    if !(2..=MOST_CHOICES as usize).contains(&options.len()) {
        return Err(Wrong::Range { of: Number::Choices, from: 2, to: MOST_CHOICES });
    }
    if options.iter().enumerate().any(|(i, o)| options[..i].iter().any(|p| p.text == o.text)) {
        return Err(Wrong::ChoicesAlike);
    }
    if !several && options.iter().filter(|o| o.right).count() > 1 {
        return Err(Wrong::OneRight);
    }
    Ok(())
}

fn number(front: &FrontNumber, card: &Card, goal: &Goal) -> Result<NumberAsked, Wrong> {
    let unit = Unit::parse(&front.unit)?;
    let expected = match (&front.value, &front.key, front.of.as_deref()) {
        (None, None, None) => Expected::Open,
        (Some(value), None, None) => {
            let (number, unit) = parse_quantity(value, &unit)?;
            Expected::Value(number, unit)
        }
        (None, Some(key), None) => Expected::Key(formula_over(key, card, &[])?),
        (None, None, Some("constant")) => Expected::Constant,
        (None, None, Some("slope")) => Expected::Slope,
        (None, None, Some("intercept")) => Expected::Intercept,
        (None, None, Some(other)) => {
            return Err(Wrong::NotAskedFor(other.to_owned()));
        }
        _ => return Err(Wrong::NumberTwice),
    };
    let within = front.within.as_deref().map(|w| within(w, &unit)).transpose()?;
    asked(unit, expected, within, goal)
}

/// Checks that units fit, and that it is said how near is near enough.
fn asked(unit: Unit, expected: Expected, within: Option<Within>, goal: &Goal) -> Result<NumberAsked, Wrong> {
    let other = match &expected {
        Expected::Value(_, of) => Some(of),
        Expected::Constant => Some(goal.accepted.as_ref().map_or(&goal.unit, |(_, u)| u)),
        Expected::Open | Expected::Key(_) | Expected::Slope | Expected::Intercept => None,
    };
    if let Some(other) = other.filter(|o| !o.same_dimension(&unit)) {
        return Err(Wrong::AnswerUnit { asked: Box::new(unit), answer: Box::new(other.clone()) });
    }
    if matches!(expected, Expected::Key(_)) && within.is_none() {
        return Err(Wrong::NoNear);
    }
    Ok(NumberAsked { unit, expected, within })
}

fn within(text: &str, unit: &Unit) -> Result<Within, Wrong> {
    let wrong = || Wrong::HowNear(text.to_owned());
    if let Some(percent) = text.trim().strip_suffix('%') {
        let share = percent.trim().replace(',', ".").parse::<f64>().map_err(|_| wrong())?;
        return if (0.0..=50.0).contains(&share) && share > 0.0 {
            Ok(Within::Share(share / 100.0))
        } else {
            Err(wrong())
        };
    }
    let (number, typed) = parse_quantity(text, unit)?;
    let amount = number.value() * typed.size();
    if typed.same_dimension(unit) && amount > 0.0 { Ok(Within::Amount(amount)) } else { Err(wrong()) }
}

/// A sentence whose gaps stand in braces.
fn gapped(text: &str, card: &Card, goal: &Goal) -> Result<Vec<Piece>, Wrong> {
    fits(text, Text::Sentence, LONGEST_ASK)?;
    let mut pieces = Vec::new();
    let mut rest = text;
    while let Some((words, after)) = rest.split_once('{') {
        let (gap, behind) = after.split_once('}').ok_or(Wrong::OpenGap)?;
        if !words.is_empty() {
            pieces.push(Piece::Words(words.to_owned()));
        }
        pieces.push(gap_of(gap.trim(), card, goal)?);
        rest = behind;
    }
    if !rest.is_empty() {
        pieces.push(Piece::Words(rest.to_owned()));
    }
    match pieces.iter().filter(|p| !matches!(p, Piece::Words(_))).count() {
        0 => Err(Wrong::NoGap),
        n if n > MOST_GAPS => Err(Wrong::TooMany { of: Several::Gaps, most: MOST_GAPS }),
        _ => Ok(pieces),
    }
}

fn gap_of(gap: &str, card: &Card, goal: &Goal) -> Result<Piece, Wrong> {
    let any = |expected| Ok(Piece::Number(NumberAsked { unit: Unit::one(), expected, within: None }));
    match gap {
        // Its unit is that of the line, whichever that is.
        "slope" => return any(Expected::Slope),
        "intercept" => return any(Expected::Intercept),
        "constant" => {
            let unit = goal.accepted.as_ref().map_or(&goal.unit, |(_, u)| u).clone();
            return Ok(Piece::Number(NumberAsked { unit, expected: Expected::Constant, within: None }));
        }
        _ => {}
    }
    if let Some(value) = gap.strip_prefix('=') {
        let (value, near) = value.split_once("within").map_or((value, None), |(v, w)| (v, Some(w)));
        let value = value.trim();
        if let Some((formula, unit)) = value.strip_suffix(']').and_then(|v| v.rsplit_once('[')) {
            let unit = Unit::parse(unit)?;
            let near = near.map(|w| within(w, &unit)).transpose()?;
            return Ok(Piece::Number(asked(
                unit,
                Expected::Key(formula_over(formula.trim(), card, &[])?),
                near,
                goal,
            )?));
        }
        let (number, unit) = parse_quantity(value, &Unit::one())?;
        let near = near.map(|w| within(w, &unit)).transpose()?;
        return Ok(Piece::Number(asked(unit.clone(), Expected::Value(number, unit), near, goal)?));
    }
    let options = gap.split('|').map(choice).collect::<Result<Vec<_>, _>>()?;
    check_choices(&options, false)?;
    Ok(Piece::Choose(options))
}
