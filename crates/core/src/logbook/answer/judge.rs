//! How answers stand: what is open, right, or to be looked at again, and what waits for them.

use crate::graph::GraphId;
use crate::inquiry::{
    Answer, Check, Expected, Extreme, Fault, NumberAsked, Pointer, Question, Step, Target, Untold, Verdict, Wanted,
    Within,
};
use crate::logbook::Logbook;
use crate::quantity::format::{bracketed, plain, with_unit};
use crate::quantity::{Footage, Unit};
use crate::result::FIRST_RESULT;

/// A value without a stated tolerance is right to this share.
const USUAL: f64 = 0.02;
/// Largest uncertainty of an own result that widens what is right, as a share of the value.
const MOST_EXCUSED: f64 = 0.05;

/// How a question stands.
#[derive(Clone, Debug)]
pub struct Answered<'a> {
    /// The question.
    pub question: &'a Question,
    /// Its number in the sheet, from 1.
    pub number: usize,
    /// The answer that counts: the last one checked when nothing more can be said, else the one at hand.
    pub answer: Option<&'a Answer>,
    /// Whether the answer is whole.
    pub whole: bool,
    /// Whether nothing more can be said: it is right, or the tries are used up.
    pub settled: bool,
    /// How many times it was checked.
    pub tried: usize,
    /// Whether the answer at hand was the last one that was checked.
    pub checked: bool,
    /// Whether it was checked, and was right.
    pub right: bool,
    /// The deal of numbers it belongs to.
    deal: u32,
    /// Whether it waits for an earlier question.
    pub waits: bool,
}

impl Answered<'_> {
    /// Whether it counts as answered.
    pub fn is_answered(&self) -> bool {
        if self.question.check == Check::AtOnce { self.settled } else { self.whole }
    }

    /// Tries that are left, where they are counted.
    pub fn left(&self) -> Option<usize> {
        self.question.tries.map(|n| (n as usize).saturating_sub(self.tried))
    }
}

impl Logbook {
    /// How all questions stand.
    pub fn answers(&self) -> Vec<Answered<'_>> {
        let mut waits = false;
        let all = self.sheet.questions.iter().zip(1..).map(|(question, number)| {
            let stands = Answered { waits, ..self.answered(question, number) };
            waits |= question.holds && !stands.is_answered();
            stands
        });
        all.collect()
    }

    fn answered<'a>(&'a self, question: &'a Question, number: usize) -> Answered<'a> {
        let given = self.state.answers.given.get(&question.name);
        let tried = given.map_or(&[][..], |g| &g.tried);
        let last = tried.last();
        let used_up = question.tries.is_some_and(|n| tried.len() >= n as usize);
        let settled = last.is_some_and(|t| t.right) || !tried.is_empty() && used_up;
        let own = given.and_then(|g| g.answer.as_ref());
        let answer = if settled { last.map(|t| &t.answer) } else { own };
        let whole = answer.is_some_and(|a| question.missing(a).is_none());
        let checked = last.is_some_and(|t| Some(&t.answer) == answer);
        let deal = given.map_or(self.state.deals.number, |g| g.deal);
        let right = last.is_some_and(|t| t.right);
        Answered { question, number, answer, whole, settled, tried: tried.len(), checked, right, deal, waits: false }
    }

    /// What is to be said of an answer. `all` tells what the sheet knows, whether or not the student may hear it yet.
    pub fn verdict(&self, stands: &Answered<'_>, all: bool) -> Option<Verdict> {
        let Answered { question, answer, whole, checked, right, deal, .. } = *stands;
        let answer = answer?;
        let judged = || self.judge(question, answer, deal);
        match question.check {
            Check::ByTeacher => None,
            // What was said is not said otherwise later.
            Check::AtOnce if checked && right => match judged() {
                Ok(Verdict::Right { surplus }) => Some(Verdict::Right { surplus }),
                Ok(Verdict::Open | Verdict::Wrong(_)) | Err(_) => Some(Verdict::Right { surplus: false }),
            },
            Check::AtOnce if checked => match judged() {
                Ok(Verdict::Wrong(faults)) => Some(Verdict::Wrong(faults)),
                Ok(Verdict::Open | Verdict::Right { .. }) | Err(_) => Some(Verdict::Wrong(vec![Fault::NotYet])),
            },
            Check::AtOnce | Check::AfterHandingIn => {
                let may = all || self.state.office.handed_in;
                if may && whole { judged().ok() } else { None }
            }
        }
    }

    /// Questions answered rightly, as far as the students may know.
    pub(in crate::logbook) fn right_answers(&self, answers: &[Answered<'_>]) -> usize {
        let known = |a: &&Answered<'_>| {
            let late = self.state.office.handed_in && !a.right;
            a.right || late && matches!(self.verdict(a, false), Some(Verdict::Right { .. }))
        };
        answers.iter().filter(known).count()
    }

    /// The first question that holds back a step.
    pub fn held_back(&self, step: Step) -> Option<Answered<'_>> {
        if !self.sheet.questions.iter().any(|q| q.holds) {
            return None;
        }
        self.answers().into_iter().find(|a| a.question.holds && a.question.step < step && !a.is_answered())
    }

    /// Judges an answer that was given with a deal of numbers.
    ///
    /// # Errors
    /// [`Untold`], when it cannot be told yet.
    pub(super) fn judge(&self, question: &Question, answer: &Answer, deal: u32) -> Result<Verdict, Untold> {
        question.judge(answer, &|asked| self.wanted(asked, deal), &|pointer, right| self.is_extreme(pointer, right))
    }

    /// What a number should be.
    fn wanted(&self, asked: &NumberAsked, deal: u32) -> Wanted {
        let target = |value: f64, usual: f64, unit| {
            let tolerance = match asked.within {
                Some(Within::Share(share)) => share * value.abs(),
                Some(Within::Amount(amount)) => amount,
                None => usual,
            };
            Target { value, tolerance, unit }
        };
        let rules = self.rules_of(deal);
        match &asked.expected {
            Expected::Open => Err(Untold::TeacherTells),
            Expected::Value(number, unit) => {
                let (value, half) = (number.value() * unit.size(), 0.5 * number.last_digit() * unit.size());
                Ok(vec![target(value, half, unit.clone())])
            }
            Expected::Key(formula) => {
                let value = self.sheet.worked_key(formula, rules).ok_or(Untold::NotWorkedOut)?;
                Ok(vec![target(value, USUAL * value.abs(), asked.unit.clone())])
            }
            Expected::Constant => {
                let (value, tolerance, unit) = match (self.sheet.key(rules), &self.sheet.goal.accepted) {
                    (Some(key), _) => (key.value, key.tolerance, key.unit),
                    (None, Some((number, unit))) => (number.value(), None, unit.clone()),
                    (None, None) => return Err(Untold::NotWorkedOut),
                };
                let size = unit.size();
                let usual = tolerance.unwrap_or(USUAL * value.abs()) * size;
                Ok(vec![target(value * size, usual.hypot(2.0 * self.own_uncertainty(&unit, value * size)), unit)])
            }
            Expected::Slope | Expected::Intercept => {
                let analysis = self.analyse();
                let graphs = analysis.graphs.iter().filter_map(|(_, g)| g.as_ref());
                let fits = graphs.flat_map(|g| &g.fits).filter_map(|f| f.outcome.as_ref().ok());
                let found = fits
                    .filter_map(|fit| if asked.expected == Expected::Slope { fit.slope() } else { fit.intercept() });
                let any = asked.unit.is_one();
                let found = found.filter(|p| any || p.unit.same_dimension(&asked.unit)).map(|p| {
                    let size = p.unit.size();
                    let u = if p.u.is_finite() { p.u } else { 0.0 };
                    target(p.value * size, u * size, p.unit.clone())
                });
                let found: Vec<Target> = found.collect();
                if found.is_empty() { Err(Untold::NoLine) } else { Ok(found) }
            }
        }
    }

    /// The uncertainty the logbook's own result states, in SI units: a number is never judged finer than what it comes from. One that is uncertain by
    /// more than a twentieth says nothing, and excuses nothing.
    fn own_uncertainty(&self, unit: &Unit, value: f64) -> f64 {
        let analysis = self.analyse();
        let found = analysis.outcome(FIRST_RESULT).and_then(|o| o.constant.as_ref()?.as_ref().ok());
        let found = found.filter(|c| c.unit.same_dimension(unit)).map(|c| c.u * c.unit.size());
        found.filter(|u| u.is_finite() && *u <= MOST_EXCUSED * value.abs()).unwrap_or(0.0)
    }

    /// Whether something pointed at is where a quantity is largest or smallest.
    fn is_extreme(&self, pointer: &Pointer, right: &Extreme) -> Result<bool, Untold> {
        let best = |values: &mut dyn Iterator<Item = f64>| {
            let sign = if right.largest { 1.0 } else { -1.0 };
            values.filter(|v| v.is_finite()).map(|v| v * sign).fold(f64::NEG_INFINITY, f64::max) * sign
        };
        match pointer {
            Pointer::Row { row } => {
                let analysis = self.analyse();
                let table = analysis.tables.iter().find(|t| t.rows.iter().any(|r| r.id == *row));
                let table = table.ok_or(Untold::RowGone)?;
                let column = table.columns.iter().find(|c| c.column.symbol == right.of);
                let column = column.ok_or(Untold::NoColumn)?;
                let at = table.rows.iter().position(|r| r.id == *row).unwrap_or_default();
                let value = |i: usize| column.cells.get(i).and_then(|c| c.value()).map(|v| v.value);
                let own = value(at).ok_or(Untold::RowIncomplete)?;
                let most = best(&mut (0..table.rows.len()).filter_map(value));
                Ok((own - most).abs() <= 1e-9 * most.abs())
            }
            Pointer::Moment { of: Footage::Run(run), frame } => {
                let run = self.footage(*run).and_then(Result::ok).ok_or(Untold::RunGone)?;
                let values = run.channel(&right.of).ok_or(Untold::NoQuantity)?;
                let own = *values.get(*frame).ok_or(Untold::NoInstant)?;
                let most = best(&mut values.iter().copied());
                let least = values
                    .iter()
                    .copied()
                    .filter(|v| v.is_finite())
                    .fold(most, |a, b| if right.largest { a.min(b) } else { a.max(b) });
                // A moment is shown by eye: within a hundredth of the whole way is there.
                Ok((own - most).abs() <= 0.01 * (most - least).abs())
            }
            Pointer::Reading { .. }
            | Pointer::Graph { .. }
            | Pointer::Stretch { .. }
            | Pointer::Moment { of: Footage::Film(_), .. }
            | Pointer::Curve { .. } => Err(Untold::TeacherTells),
        }
    }

    /// What something pointed at is, in words; none when it is gone.
    pub fn pointed_at(&self, pointer: &Pointer) -> Option<String> {
        let state = &self.state;
        let place = |row| {
            let table = state.record.tables.iter().find(|t| t.rows.iter().any(|r| r.id == row))?;
            let at = table.rows.iter().position(|r| r.id == row)? + 1;
            let of = if state.record.tables.len() > 1 { format!(" of {}", table.name) } else { String::new() };
            Some((table, at, of))
        };
        Some(match pointer {
            Pointer::Row { row } => {
                let (_, at, of) = place(*row)?;
                format!("row {at}{of}")
            }
            Pointer::Reading { row, column } => {
                let (table, at, of) = place(*row)?;
                let column = table.column(*column)?;
                let analysis = self.analyse();
                let worked = analysis.tables.iter().find(|t| t.record.id == table.id)?;
                let cell = worked.columns.iter().find(|c| c.column.id == column.id)?.cells.get(at - 1)?.value()?;
                let unit = worked.columns.iter().find(|c| c.column.id == column.id)?.unit.clone().unwrap_or_default();
                let value = match table.rows.get(at - 1)?.cells.get(&column.id) {
                    Some(reading) => with_unit(&reading.number.pretty(), &reading.unit),
                    None => with_unit(&bracketed(cell.value / unit.size(), cell.u() / unit.size()), &unit),
                };
                format!("{} = {value} in row {at}{of}", column.symbol)
            }
            Pointer::Graph { graph } => self.graph_words(*graph)?,
            Pointer::Stretch { graph, stretch } => {
                let plan = state.graph(*graph)?;
                let letter = plan.stretches.iter().position(|s| s.id == *stretch)?;
                let letter = char::from(b'A' + u8::try_from(letter).ok()?);
                format!("interval {letter} of {}", self.graph_words(*graph)?)
            }
            Pointer::Moment { of: Footage::Run(run), frame } => {
                state.run(*run)?;
                let clock = self.clock(*run)?;
                let unit = Unit::parse(clock.unit).ok()?;
                let t = *frame as f64 * clock.every / unit.size();
                format!("run {run} at {}", with_unit(&plain((t * 1e6).round() / 1e6), &unit))
            }
            Pointer::Moment { of: Footage::Film(film), frame } => {
                let facts = &state.film.films.get(*film as usize)?.facts;
                let t = facts.times.get(*frame)?;
                format!("{} at {}", facts.title, with_unit(&plain((t * 1e3).round() / 1e3), &Unit::parse("s").ok()?))
            }
            Pointer::Curve { channel } => {
                state.forecast.sketches.get(channel)?;
                let plan = self.sheet.forecast.as_ref()?;
                let name = plan.curves.iter().find(|c| c.channel == channel).map_or(channel.as_str(), |c| &c.name);
                format!("your sketch of the {name}")
            }
        })
    }

    fn graph_words(&self, id: GraphId) -> Option<String> {
        let at = self.state.graph.graphs.iter().position(|g| g.id == id)? + 1;
        let analysis = self.analyse();
        let axes = analysis.graph(id).map(|g| format!(": {} against {}", g.y.symbol, g.x.symbol)).unwrap_or_default();
        Some(format!("graph {at}{axes}"))
    }
}
