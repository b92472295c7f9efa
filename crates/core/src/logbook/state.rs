//! What a logbook holds at a moment. Every subject has a state of its own; [`super::change`] leads from one moment to the next.

use serde::{Deserialize, Serialize};

use super::answer::AnswerState;
use super::claim::ClaimState;
use super::deals::Deals;
use super::film::FilmState;
use super::graph::GraphState;
use super::model::ModelState;
use super::office::OfficeState;
use super::record::RecordState;
use super::result::ResultState;
use super::run::{RunEntry, RunState};
use super::write_up::WriteUpState;
use super::writing::WritingState;
use crate::graph::{GraphId, GraphSpec};
use crate::inquiry::Forecast;
use crate::motion::{FilmWork, TrailId};
use crate::record::{ColumnId, Record, TableId};
use crate::result::{ResultId, ResultSpec};

/// The content of a logbook.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct State {
    /// The rig: settings, runs, tools on its stage.
    pub run: RunState,
    /// Films with what is laid over them.
    pub film: FilmState,
    /// What was committed to before the first run.
    pub forecast: Forecast,
    /// The tables and what is held beside them.
    pub record: RecordState,
    /// The graphs.
    pub graph: GraphState,
    /// The step model.
    #[serde(default, skip_serializing_if = "ModelState::is_empty")]
    pub model: ModelState,
    /// The results.
    pub result: ResultState,
    /// Texts.
    pub writing: WritingState,
    /// Answers to the sheet's questions.
    #[serde(default, skip_serializing_if = "AnswerState::is_empty")]
    pub answers: AnswerState,
    /// What is claimed, and the rows that show it.
    #[serde(default, skip_serializing_if = "ClaimState::is_empty")]
    pub claim: ClaimState,
    /// What the write-up is put together from.
    #[serde(default, skip_serializing_if = "WriteUpState::is_empty")]
    pub write_up: WriteUpState,
    /// Handing in and back.
    pub office: OfficeState,
    /// Which deal of numbers is at hand, and what was measured with the others.
    #[serde(default, skip_serializing_if = "Deals::is_first")]
    pub deals: Deals,
}

impl State {
    /// The run with this number, unless it was deleted or belongs to another deal.
    pub fn run(&self, number: u32) -> Option<&RunEntry> {
        self.run.runs.get((number as usize).checked_sub(1)?).filter(|r| self.shows(r))
    }

    /// Whether a run is there and of the deal at hand.
    fn shows(&self, run: &RunEntry) -> bool {
        !run.gone && run.deal == self.deals.number
    }

    /// Runs of the deal at hand that were not deleted, with their numbers.
    pub fn runs_kept(&self) -> impl DoubleEndedIterator<Item = (u32, &RunEntry)> {
        self.run
            .runs
            .iter()
            .zip(1..)
            .filter(|(r, _)| self.shows(r))
            .map(|(r, n)| (n, r))
            .collect::<Vec<_>>()
            .into_iter()
    }

    /// Number of the run on the stage: the chosen one, or the last one there is.
    pub fn run_on_stage(&self) -> Option<u32> {
        self.run.on_stage.filter(|n| self.run(*n).is_some()).or_else(|| self.runs_kept().next_back().map(|(n, _)| n))
    }

    /// The table with this id.
    pub fn table(&self, id: TableId) -> Option<&Record> {
        self.record.tables.iter().find(|t| t.id == id).map(AsRef::as_ref)
    }

    /// The table that has this column.
    pub fn table_of(&self, column: ColumnId) -> Option<&Record> {
        self.record.tables.iter().find(|t| t.column(column).is_some()).map(AsRef::as_ref)
    }

    /// The graph with this id.
    pub fn graph(&self, id: GraphId) -> Option<&GraphSpec> {
        self.graph.graphs.iter().find(|g| g.id == id)
    }

    /// The result with this id.
    pub fn result(&self, id: ResultId) -> Option<&ResultSpec> {
        self.result.results.iter().find(|r| r.id == id)
    }

    /// The film of that name, and its number.
    pub fn film(&self, key: &str) -> Option<(u32, &FilmWork)> {
        self.film.films.iter().zip(0..).find(|(f, _)| f.facts.key == key).map(|(f, n)| (n, f))
    }

    /// The film on the stage, and its number.
    pub fn film_shown(&self) -> Option<(u32, &FilmWork)> {
        let n = self.film.shown?;
        Some((n, self.film.films.get(n as usize)?))
    }

    /// The film that has this trail, and its number.
    pub fn film_of(&self, trail: TrailId) -> Option<(u32, &FilmWork)> {
        self.film.films.iter().zip(0..).find(|(f, _)| f.trail(trail).is_some()).map(|(f, n)| (n, f))
    }
}
