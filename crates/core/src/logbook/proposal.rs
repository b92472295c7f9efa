//! What the program can see when a logbook is marked: a proposal with what it rests on. The teacher decides.

use super::Logbook;
use crate::inquiry::{Check, Verdict};
use crate::lab::{Criterion, Sees};
use crate::logbook::{Finding, Judged, TextField};
use crate::quantity::Unit;
use crate::result::FIRST_RESULT;

/// An accepted value is met within this share, or within twice the uncertainty.
const NEAR: f64 = 0.02;

/// A proposed level.
#[derive(Clone, Debug, PartialEq)]
pub struct Proposal {
    /// Place of the level among the criterion's; none where only the teacher can tell.
    pub level: Option<usize>,
    /// What was seen.
    pub why: Noticed,
}

/// What can be seen in a logbook that is marked.
#[derive(Clone, Debug, PartialEq)]
pub enum Noticed {
    /// Trials in its first table.
    Trials {
        /// How many are recorded.
        recorded: usize,
        /// How many the sheet asks for.
        wanted: usize,
        /// In how many more than one quantity changed.
        odd: usize,
    },
    /// A graph, with its symbols.
    Graph {
        /// What goes up.
        y: String,
        /// What goes across.
        x: String,
        /// What goes through its points.
        line: Lined,
    },
    /// No graph.
    NoGraph,
    /// No value of the constant.
    NoConstant {
        /// Its symbol.
        symbol: String,
    },
    /// A value, where the sheet does not say what is right.
    ConstantOpen {
        /// Its symbol.
        symbol: String,
    },
    /// A value of another dimension.
    ConstantUnit {
        /// Its symbol.
        symbol: String,
        /// Its unit.
        found: Unit,
        /// The unit it should have.
        wanted: Unit,
    },
    /// A value beside what is right.
    Constant {
        /// Its symbol.
        symbol: String,
        /// How far it is off, as a share of what is right.
        off: f64,
        /// How well that is explained.
        fits: Fits,
    },
    /// Answers to questions.
    Questions {
        /// Those that can be checked.
        checked: usize,
        /// Those of them that are right.
        right: usize,
        /// Those for the teacher to read.
        to_read: usize,
        /// Those that are open.
        open: usize,
    },
    /// A claim held against its evidence.
    Claim(Box<Judged>),
    /// Nothing is claimed.
    NoClaim,
    /// Texts, with those that are empty.
    Texts {
        /// The empty ones.
        empty: Vec<TextField>,
    },
}

/// What goes through the points of a graph.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Lined {
    /// A straight line.
    Straight,
    /// Another curve.
    Curve,
    /// Nothing.
    Not,
}

/// How well the difference from what is right is explained.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Fits {
    /// By its uncertainty and the instruments.
    Explained,
    /// Not quite.
    Beyond,
    /// Not at all.
    Far,
}

/// A quality from 0 to 1, if the program can tell it, and what was seen.
type Seen = (Option<f64>, Noticed);

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

    fn sees_trials(&self) -> Seen {
        let wanted = self.sheet.trials;
        let first = self.state.record.tables.first();
        let recorded = first.map_or(0, |t| t.trials());
        let odd = first.map_or(0, |t| self.incomparable(t).len());
        let quality = match (recorded, odd) {
            (0, _) => 0.0,
            (n, _) if n < wanted => 1.0 / 3.0,
            (_, 0) => 1.0,
            (_, _) => 2.0 / 3.0,
        };
        (Some(quality), Noticed::Trials { recorded, wanted, odd })
    }

    fn sees_graph(&self) -> Seen {
        let analysis = self.analyse();
        let drawn: Vec<_> = analysis.graphs.iter().filter_map(|(_, g)| g.as_ref()).collect();
        let lined = drawn.iter().find(|g| g.first_fit().is_some());
        let Some(graph) = lined.or(drawn.first()) else { return (Some(0.0), Noticed::NoGraph) };
        let (quality, line) = match graph.first_fit() {
            Some(fit) if fit.slope().is_some() => (1.0, Lined::Straight),
            Some(_) => (2.0 / 3.0, Lined::Curve),
            None => (1.0 / 3.0, Lined::Not),
        };
        let (y, x) = (graph.y.symbol.clone(), graph.x.symbol.clone());
        (Some(quality), Noticed::Graph { y, x, line })
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

    fn sees_constant(&self) -> Seen {
        let analysis = self.analyse();
        let found = analysis.outcome(FIRST_RESULT).and_then(|o| o.constant.as_ref()?.as_ref().ok());
        let symbol = self.sheet.goal.symbol.clone();
        let Some(found) = found else { return (Some(0.0), Noticed::NoConstant { symbol }) };
        let Some((wanted, near, unit)) = self.what_is_right() else { return (None, Noticed::ConstantOpen { symbol }) };
        if !found.unit.same_dimension(&unit) {
            return (Some(1.0 / 3.0), Noticed::ConstantUnit { symbol, found: found.unit.clone(), wanted: unit });
        }
        let (value, u) = (found.value * found.unit.size(), found.u * found.unit.size());
        let off = (value - wanted).abs();
        let u = if u.is_finite() { u } else { 0.0 };
        let explained = near.hypot(2.0 * u);
        let (quality, fits) = if off <= explained {
            (1.0, Fits::Explained)
        } else if off <= 3.0 * explained {
            (2.0 / 3.0, Fits::Beyond)
        } else {
            (1.0 / 3.0, Fits::Far)
        };
        (Some(quality), Noticed::Constant { symbol, off: off / wanted.abs(), fits })
    }

    fn sees_questions(&self) -> Seen {
        let answers = self.answers();
        let judged: Vec<_> = answers.iter().filter(|a| a.question.check != Check::ByTeacher).collect();
        let right = judged.iter().filter(|a| matches!(self.verdict(a, true), Some(Verdict::Right { .. }))).count();
        let (checked, open) = (judged.len(), answers.iter().filter(|a| !a.whole).count());
        let quality = (checked > 0).then(|| right as f64 / checked as f64);
        (quality, Noticed::Questions { checked, right, to_read: answers.len() - checked, open })
    }

    /// A claim is as good as its evidence, whatever the hypothesis was.
    fn sees_claim(&self) -> Seen {
        let Some(judged) = self.judged_claim(&self.analyse()) else {
            let empty = self.empty_texts();
            let texts = empty.len() < TextField::ALL.len();
            return if texts { (None, Noticed::Texts { empty }) } else { (Some(0.0), Noticed::NoClaim) };
        };
        let shows = judged.shows.as_ref().and_then(Finding::holds) == Some(true);
        let sound = judged.enough.holds() == Some(true) && judged.controlled.holds() == Some(true);
        let quality = match (shows, sound) {
            (true, true) => 1.0,
            (true, false) => 2.0 / 3.0,
            (false, _) => 1.0 / 3.0,
        };
        (Some(quality), Noticed::Claim(Box::new(judged)))
    }

    fn sees_texts(&self) -> Seen {
        let empty = self.empty_texts();
        ((empty.len() == TextField::ALL.len()).then_some(0.0), Noticed::Texts { empty })
    }

    fn empty_texts(&self) -> Vec<TextField> {
        let written = |f: &TextField| self.state.writing.texts.get(f).is_some_and(|t| !t.trim().is_empty());
        TextField::ALL.into_iter().filter(|f| !written(f)).collect()
    }
}
