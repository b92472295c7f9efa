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
use super::read::{Fault, Lines, Under, read_quantity, unless};
use super::{SheetError, sentence};
use crate::formula::is_symbol;
use crate::inquiry::{
    Check, Choice, Expected, Extreme, NumberAsked, Piece, Pointable, Position, Question, QuestionKind, Step, Within,
};
use crate::quantity::Unit;
use crate::rigs::Card;

/// Most questions of a sheet.
pub const MOST_QUESTIONS: usize = 40;
/// Most answers to choose from.
const MOST_CHOICES: usize = 12;
/// Most gaps of a sentence.
const MOST_GAPS: usize = 8;
/// Longest question or argument, in characters.
const LONGEST_ASK: usize = 2000;
/// Longest answer to choose, and word about it, in characters.
const LONGEST_CHOICE: usize = 200;
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
            return Err(at(Fault::from(format!("Two questions have the name “{}”.", next.name))));
        }
        if let Some(before) = all.last().filter(|q| q.step > next.step) {
            return Err(at(Fault::from(format!(
                "Questions come in the order of work: one at {} cannot follow one at {}.",
                next.step.name(),
                before.step.name()
            ))));
        }
        if !has_step(next.step) {
            let message = format!("This sheet has no {}, so no question can be asked at it.", next.step.noun());
            return Err(at(Fault::from(message)));
        }
        all.push(next);
        if all.len() > MOST_QUESTIONS {
            return Err(at(Fault::from(format!("A sheet can have {MOST_QUESTIONS} questions."))));
        }
    }
    Ok(all)
}

fn question(front: FrontQuestion, card: &Card, goal: &Goal) -> Result<Question, Fault> {
    let sound = |c: char| c.is_alphanumeric() || matches!(c, '-' | ' ');
    if front.name.trim().is_empty() || front.name.chars().count() > 40 || !front.name.chars().all(sound) {
        return Err("A question has a name of 1 to 40 letters, digits, spaces and hyphens.").under("name");
    }
    let steps = || Step::ALL.map(Step::name).join(", ");
    let step = Step::named(&front.at)
        .ok_or_else(|| format!("“{}” is not a step. There is: {}.", front.at, steps()))
        .under("at")?;
    fits(&front.ask, LONGEST_ASK, "A question").under("ask")?;
    let long = front.answer.chars().count() > LONGEST_ASK;
    unless(long, "answer", &format!("The answer for the teacher can have {LONGEST_ASK} characters."))?;
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
        Some(name) => {
            let known = Check::ALL.iter().find(|(_, n)| *n == name);
            let check = known.ok_or_else(|| {
                format!(
                    "“{name}” is not when a question is checked. There is: {}.",
                    Check::ALL.map(|(_, n)| n).join(", ")
                )
            });
            check.under("check")?.0
        }
        None if question.can_be_judged() => Check::AtOnce,
        None => Check::ByTeacher,
    };
    if question.check != Check::ByTeacher && !question.can_be_judged() {
        return Err("This question says nowhere what is right, so only the teacher can check it.").under("check");
    }
    Ok(question)
}

fn fits(text: &str, most: usize, what: &str) -> Result<(), String> {
    if text.trim().is_empty() || text.chars().count() > most {
        return Err(format!("{what} needs 1 to {most} characters."));
    }
    Ok(())
}

/// How many times it can be tried. What is hidden or dealt is never asked without end.
fn tries(front: &FrontQuestion, kind: &QuestionKind) -> Result<Option<u32>, String> {
    if front.tries.is_some_and(|n| !(1..=MOST_TRIES).contains(&n)) {
        return Err(format!("A question can be tried 1 to {MOST_TRIES} times."));
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
        let message = "A question is answered in one way: words, choices, number, sentence, point, or argument.";
        return Err(message).under("");
    }
    if front.several && front.choices.is_none() {
        return Err("Only choices can have several right answers.").under("several");
    }
    if front.point.is_none() && (front.largest.is_some() || front.smallest.is_some()) {
        return Err("“largest” and “smallest” belong to a question that is answered by pointing.").under("");
    }
    if front.argument.is_none() && (front.pupil.is_some() || front.position.is_some()) {
        return Err("“pupil” and “position” belong to an argument.").under("");
    }
    if let Some(least) = front.words {
        if least > 300 {
            return Err("An answer can be asked to have 300 words at most.").under("words");
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
    fits(&argument, LONGEST_ASK, "An argument").under("argument")?;
    let pupil = front.pupil.clone().unwrap_or_default();
    fits(&pupil, 40, "The name of whoever argues").under("pupil")?;
    let right = front.position.as_deref().map(|name| {
        let known = Position::ALL.iter().find(|(_, n, _)| *n == name);
        known.map(|(p, _, _)| *p).ok_or_else(|| format!("“{name}” is not a position. Write agree, partly or disagree."))
    });
    Ok(QuestionKind::Argument { pupil, argument, right: right.transpose().under("position")? })
}

fn pointing(name: &str, front: &FrontQuestion, card: &Card) -> Result<QuestionKind, String> {
    let known = Pointable::ALL.iter().find(|(_, n)| *n == name);
    let at = known.map(|(p, _)| *p).ok_or_else(|| {
        format!("“{name}” cannot be pointed at. There is: {}.", Pointable::ALL.map(|(_, n)| n).join(", "))
    })?;
    let right = match (&front.largest, &front.smallest) {
        (None, None) => None,
        (Some(_), Some(_)) => return Err("It is the largest or the smallest, not both.".to_owned()),
        (Some(of), None) => Some(Extreme { of: of.clone(), largest: true }),
        (None, Some(of)) => Some(Extreme { of: of.clone(), largest: false }),
    };
    if let Some(Extreme { of, .. }) = &right {
        match at {
            Pointable::Row if is_symbol(of) => {}
            Pointable::Row => return Err(format!("“{of}” cannot be the symbol of a column.")),
            Pointable::Moment if card.channels.iter().any(|c| c.name == of) => {}
            Pointable::Moment => {
                let all: Vec<&str> = card.channels.iter().map(|c| c.name).collect();
                return Err(format!("There is no channel “{of}”. There is: {}.", all.join(", ")));
            }
            Pointable::Reading | Pointable::Graph | Pointable::Stretch | Pointable::Curve => {
                return Err("Only rows and moments can be the largest or the smallest.".to_owned());
            }
        }
    }
    Ok(QuestionKind::Pointing { at, right })
}

/// `+ steady`, or `- speeding up | a word about it`.
fn choice(text: &str) -> Result<Choice, String> {
    let (right, rest) = match text.trim().split_at_checked(1) {
        Some(("+", rest)) => (true, rest),
        Some(("-", rest)) => (false, rest),
        _ => return Err(format!("“{text}” begins with neither + for a right answer nor - for a wrong one.")),
    };
    let (words, word) = rest.split_once('|').unwrap_or((rest, ""));
    fits(words, LONGEST_CHOICE, "An answer to choose")?;
    if word.chars().count() > LONGEST_CHOICE {
        return Err(format!("A word about an answer can have {LONGEST_CHOICE} characters."));
    }
    Ok(Choice { text: words.trim().to_owned(), right, word: word.trim().to_owned() })
}

fn check_choices(options: &[Choice], several: bool) -> Result<(), String> {
    if !(2..=MOST_CHOICES).contains(&options.len()) {
        return Err(format!("There are 2 to {MOST_CHOICES} answers to choose from."));
    }
    if options.iter().enumerate().any(|(i, o)| options[..i].iter().any(|p| p.text == o.text)) {
        return Err("Two answers to choose from are the same.".to_owned());
    }
    if !several && options.iter().filter(|o| o.right).count() > 1 {
        return Err("Where one answer is chosen, one is right; write several = true for more.".to_owned());
    }
    Ok(())
}

fn number(front: &FrontNumber, card: &Card, goal: &Goal) -> Result<NumberAsked, String> {
    let unit = Unit::parse(&front.unit).map_err(|e| sentence(&e.to_string()))?;
    let expected = match (&front.value, &front.key, front.of.as_deref()) {
        (None, None, None) => Expected::Open,
        (Some(value), None, None) => {
            let (number, unit) = read_quantity(value, &unit)?;
            Expected::Value(number, unit)
        }
        (None, Some(key), None) => Expected::Key(formula_over(key, card, &[])?),
        (None, None, Some("constant")) => Expected::Constant,
        (None, None, Some("slope")) => Expected::Slope,
        (None, None, Some("intercept")) => Expected::Intercept,
        (None, None, Some(other)) => {
            return Err(format!("“{other}” cannot be asked for. Write of = \"constant\", \"slope\" or \"intercept\"."));
        }
        _ => return Err("A number is given by one of value, key and of.".to_owned()),
    };
    let within = front.within.as_deref().map(|w| within(w, &unit)).transpose()?;
    asked(unit, expected, within, goal)
}

/// Checks that units fit, and that it is said how near is near enough.
fn asked(unit: Unit, expected: Expected, within: Option<Within>, goal: &Goal) -> Result<NumberAsked, String> {
    let other = match &expected {
        Expected::Value(_, of) => Some(of),
        Expected::Constant => Some(goal.accepted.as_ref().map_or(&goal.unit, |(_, u)| u)),
        Expected::Open | Expected::Key(_) | Expected::Slope | Expected::Intercept => None,
    };
    if let Some(other) = other.filter(|o| !o.same_dimension(&unit)) {
        return Err(format!("The answer is asked for in {}, but it is in {}.", unit.pretty(), other.pretty()));
    }
    if matches!(expected, Expected::Key(_)) && within.is_none() {
        return Err("Say how near an answer by key has to be: within = \"3 %\".".to_owned());
    }
    Ok(NumberAsked { unit, expected, within })
}

fn within(text: &str, unit: &Unit) -> Result<Within, String> {
    let wrong = || format!("“{text}” does not say how near. Write a share such as 3 %, or an amount such as 0.1 m.");
    if let Some(percent) = text.trim().strip_suffix('%') {
        let share = percent.trim().replace(',', ".").parse::<f64>().map_err(|_| wrong())?;
        return if (0.0..=50.0).contains(&share) && share > 0.0 {
            Ok(Within::Share(share / 100.0))
        } else {
            Err(wrong())
        };
    }
    let (number, typed) = read_quantity(text, unit)?;
    let amount = number.value() * typed.size();
    if typed.same_dimension(unit) && amount > 0.0 { Ok(Within::Amount(amount)) } else { Err(wrong()) }
}

/// A sentence whose gaps stand in braces.
fn gapped(text: &str, card: &Card, goal: &Goal) -> Result<Vec<Piece>, String> {
    fits(text, LONGEST_ASK, "A sentence")?;
    let mut pieces = Vec::new();
    let mut rest = text;
    while let Some((words, after)) = rest.split_once('{') {
        let (gap, behind) = after.split_once('}').ok_or("A gap has no closing brace }.")?;
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
        0 => Err("A sentence has a gap in braces: {+ rises | - falls}, {slope} or {= 2.0 s within 1 %}.".to_owned()),
        n if n > MOST_GAPS => Err(format!("A sentence can have {MOST_GAPS} gaps.")),
        _ => Ok(pieces),
    }
}

fn gap_of(gap: &str, card: &Card, goal: &Goal) -> Result<Piece, String> {
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
            let unit = Unit::parse(unit).map_err(|e| sentence(&e.to_string()))?;
            let near = near.map(|w| within(w, &unit)).transpose()?;
            return Ok(Piece::Number(asked(
                unit,
                Expected::Key(formula_over(formula.trim(), card, &[])?),
                near,
                goal,
            )?));
        }
        let (number, unit) = read_quantity(value, &Unit::one())?;
        let near = near.map(|w| within(w, &unit)).transpose()?;
        return Ok(Piece::Number(asked(unit.clone(), Expected::Value(number, unit), near, goal)?));
    }
    let options = gap.split('|').map(choice).collect::<Result<Vec<_>, _>>()?;
    check_choices(&options, false)?;
    Ok(Piece::Choose(options))
}
