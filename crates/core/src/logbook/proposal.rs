//! What the program can see when a logbook is marked: a proposal with its reason. The teacher decides.

use super::Logbook;
use crate::inquiry::{Check, Verdict};
use crate::lab::{Criterion, Sees};
use crate::logbook::TextField;
use crate::quantity::Unit;
use crate::result::FIRST_RESULT;

/// An accepted value is met within this share, or within twice the uncertainty.
const NEAR: f64 = 0.02;

/// A proposed level.
#[derive(Clone, Debug, PartialEq)]
pub struct Proposal {
    /// Place of the level among the criterion's; none where only the teacher can tell.
    pub level: Option<usize>,
    /// What was seen, as a sentence.
    pub why: String,
}

impl Logbook {
    /// What is proposed for a criterion; none for one the program cannot see.
    pub fn proposal(&self, criterion: &Criterion) -> Option<Proposal> {
        let (quality, why) = match criterion.sees? {
            Sees::Trials => self.sees_trials(),
            Sees::Graph => self.sees_graph(),
            Sees::Constant => self.sees_constant(),
            Sees::Questions => self.sees_questions(),
            Sees::Claim => self.sees_claim(),
            Sees::Texts => self.sees_texts(),
        };
        Some(Proposal { level: quality.map(|q| criterion.level_for(q)), why })
    }

    fn sees_trials(&self) -> (Option<f64>, String) {
        let wanted = self.sheet.trials;
        let first = self.state.record.tables.first();
        let trials = first.map_or(0, |t| t.trials());
        let odd = first.map_or(0, |t| self.incomparable(t).len());
        let counted = format!(
            "{trials} {} recorded; the sheet asks for {wanted}",
            if trials == 1 { "trial is" } else { "trials are" }
        );
        match (trials, odd) {
            (0, _) => (Some(0.0), "No trial is recorded.".to_owned()),
            (n, _) if n < wanted => (Some(1.0 / 3.0), format!("{counted}.")),
            (_, 0) => (Some(1.0), format!("{counted}. In none did more than one quantity change.")),
            (_, n) => (Some(2.0 / 3.0), format!("{counted}. In {n} of them more than one quantity changed.")),
        }
    }

    fn sees_graph(&self) -> (Option<f64>, String) {
        let analysis = self.analyse();
        let drawn: Vec<_> = analysis.graphs.iter().filter_map(|(_, g)| g.as_ref()).collect();
        let lined = drawn.iter().find(|g| g.first_fit().is_some());
        match (lined, drawn.first()) {
            (Some(g), _) => {
                let straight = g.first_fit().is_some_and(|f| f.slope().is_some());
                let quality = if straight { 1.0 } else { 2.0 / 3.0 };
                let kind = if straight { "a straight line" } else { "a curve" };
                (Some(quality), format!("{} is drawn against {}, with {kind}.", g.y.symbol, g.x.symbol))
            }
            (None, Some(g)) => {
                (Some(1.0 / 3.0), format!("{} is drawn against {}, without a line.", g.y.symbol, g.x.symbol))
            }
            (None, None) => (Some(0.0), "There is no graph.".to_owned()),
        }
    }

    /// What is right, its tolerance and its unit, in coherent SI units: the key, or the accepted value of the sheet.
    pub(super) fn what_is_right(&self) -> Option<(f64, f64, Unit)> {
        if let Some(key) = self.key() {
            let size = key.unit.size();
            return Some((key.value * size, key.tolerance.unwrap_or(NEAR * key.value.abs()) * size, key.unit));
        }
        let (number, unit) = self.sheet.goal.accepted.as_ref()?;
        let value = number.value() * unit.size();
        Some((value, NEAR * value.abs(), unit.clone()))
    }

    fn sees_constant(&self) -> (Option<f64>, String) {
        let analysis = self.analyse();
        let found = analysis.outcome(FIRST_RESULT).and_then(|o| o.constant.as_ref()?.as_ref().ok());
        let symbol = &self.sheet.goal.symbol;
        let Some(found) = found else { return (Some(0.0), format!("There is no value of {symbol}.")) };
        let Some((wanted, near, unit)) = self.what_is_right() else {
            return (None, format!("There is a value of {symbol}, and the sheet does not say what is right."));
        };
        if !found.unit.same_dimension(&unit) {
            return (
                Some(1.0 / 3.0),
                format!("The value of {symbol} is in {}, not in {}.", found.unit.pretty(), unit.pretty()),
            );
        }
        let (value, u) = (found.value * found.unit.size(), found.u * found.unit.size());
        let off = (value - wanted).abs();
        let u = if u.is_finite() { u } else { 0.0 };
        let percent = super::percent(off / wanted.abs());
        if off <= near.hypot(2.0 * u) {
            (Some(1.0), format!("{symbol} is in order: {percent} % from what is right."))
        } else if off <= 3.0 * near.hypot(2.0 * u) {
            (
                Some(2.0 / 3.0),
                format!("{symbol} is {percent} % off, more than its uncertainty and the instruments explain."),
            )
        } else {
            (Some(1.0 / 3.0), format!("{symbol} is {percent} % off."))
        }
    }

    fn sees_questions(&self) -> (Option<f64>, String) {
        let answers = self.answers();
        let judged: Vec<_> = answers.iter().filter(|a| a.question.check != Check::ByTeacher).collect();
        let right = judged.iter().filter(|a| matches!(self.verdict(a, true), Some(Verdict::Right { .. }))).count();
        let read = answers.len() - judged.len();
        let open = answers.iter().filter(|a| !a.whole).count();
        let mut why = format!("{right} of {} answers that can be checked are right", judged.len());
        if read > 0 {
            why += &format!("; {read} {} for you to read", if read == 1 { "is" } else { "are" });
        }
        if open > 0 {
            why += &format!("; {open} {} not answered", if open == 1 { "is" } else { "are" });
        }
        let quality = (!judged.is_empty()).then(|| right as f64 / judged.len() as f64);
        (quality, why + ".")
    }

    /// A claim is as good as its evidence, whatever the hypothesis was.
    fn sees_claim(&self) -> (Option<f64>, String) {
        let Some(judged) = self.judged_claim(&self.analyse()) else {
            let (_, written) = self.sees_texts();
            let texts =
                TextField::ALL.iter().any(|f| self.state.writing.texts.get(f).is_some_and(|t| !t.trim().is_empty()));
            return if texts { (None, written) } else { (Some(0.0), "Nothing is claimed.".to_owned()) };
        };
        let shows = judged.shows.as_ref().and_then(|f| f.holds) == Some(true);
        let sound = judged.enough.holds == Some(true) && judged.controlled.holds == Some(true);
        let quality = match (shows, sound) {
            (true, true) => 1.0,
            (true, false) => 2.0 / 3.0,
            (false, _) => 1.0 / 3.0,
        };
        let found = [judged.shows, judged.beside, Some(judged.controlled), Some(judged.enough)];
        let found: Vec<String> = found.into_iter().flatten().map(|f| f.text).collect();
        (Some(quality), format!("{} {}", judged.sentence, found.join(" ")))
    }

    fn sees_texts(&self) -> (Option<f64>, String) {
        let empty: Vec<&str> = TextField::ALL
            .into_iter()
            .filter(|f| self.state.writing.texts.get(f).is_none_or(|t| t.trim().is_empty()))
            .map(TextField::name)
            .collect();
        match empty.len() {
            0 => (None, "Claim, evidence and reasoning are written: for you to read.".to_owned()),
            n if n == TextField::ALL.len() => (Some(0.0), "Nothing is written.".to_owned()),
            _ => (None, format!("Not written: {}. The rest is for you to read.", empty.join(", "))),
        }
    }
}
