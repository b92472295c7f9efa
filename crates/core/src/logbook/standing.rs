//! How far a logbook is: what lists of many logbooks show, so that they never open one.

use serde::{Deserialize, Serialize};

use super::{Analysis, Logbook};
use crate::inquiry::Step;
use crate::result::ResultId;

/// How far a logbook is, as far as its content alone tells.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Standing {
    /// The furthest step in which something was done.
    pub step: Step,
    /// Runs and films' marks that are there.
    pub runs: usize,
    /// Trials in the first table.
    pub trials: usize,
    /// Rows of all tables.
    pub rows: usize,
    /// Whether the teacher has it.
    pub handed_in: bool,
    /// The step whose stamp is asked for, and since when, in seconds since 1970 (UTC).
    pub asks: Option<(Step, i64)>,
    /// Questions of the sheet.
    pub questions: usize,
    /// Those that are answered.
    pub answered: usize,
    /// Those that are answered rightly, as far as the program can tell.
    pub right: usize,
}

/// A result in a list.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct StandingResult {
    /// Which result.
    pub result: ResultId,
    /// Its symbol.
    pub symbol: String,
    /// Its value in its unit.
    pub value: f64,
    /// Its standard uncertainty in its unit; none when it cannot be told.
    pub u: Option<f64>,
    /// Its unit.
    pub unit: String,
}

impl Logbook {
    /// How far it is.
    pub fn standing(&self) -> Standing {
        let state = self.state();
        let marks: usize = state.film.films.iter().flat_map(|f| &f.trails).map(|t| t.marks.len()).sum();
        let runs = state.runs_kept().count() + marks;
        let rows = state.record.tables.iter().map(|t| t.rows.len()).sum();
        let trials = state.record.tables.first().map_or(0, |t| t.trials());
        let forecast = &state.forecast;
        let reached = [
            (Step::WriteUp, state.office.handed_in || !state.writing.texts.is_empty()),
            (
                Step::Constant,
                state.result.results.len() > 1 || state.result.results.iter().any(|r| r.law.slope.is_some()),
            ),
            (Step::Model, !state.model.runs.is_empty()),
            (Step::Linearize, state.graph.graphs.iter().any(|g| g.fit.is_some())),
            (Step::Graph, state.graph.graphs.iter().any(|g| g.x.is_some() && g.y.is_some())),
            (Step::Measure, runs > 0 || trials > 0),
            (
                Step::Forecast,
                !forecast.sketches.is_empty() || forecast.hypothesis.is_some() || forecast.prediction.is_some(),
            ),
        ];
        let step = reached.into_iter().find(|(_, there)| *there).map_or(Step::Question, |(step, _)| step);
        let answers = self.answers();
        Standing {
            step,
            runs,
            trials,
            rows,
            handed_in: state.office.handed_in,
            asks: self.stamp_asked(),
            questions: answers.len(),
            answered: answers.iter().filter(|a| a.is_answered()).count(),
            right: self.right_answers(&answers),
        }
    }
}

impl Analysis {
    /// The results there are, for lists.
    pub fn standing(&self) -> Vec<StandingResult> {
        let found = self.results.iter().filter_map(|r| Some((r.id, r.constant.as_ref()?.as_ref().ok()?)));
        found
            .map(|(result, c)| StandingResult {
                result,
                symbol: c.symbol.clone(),
                value: c.value,
                u: Some(c.u).filter(|u| u.is_finite()),
                unit: c.unit.pretty(),
            })
            .collect()
    }
}
