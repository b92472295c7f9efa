//! What a logbook holds at a moment, and the elementary changes that lead from one moment to the next.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::graph::{GraphId, GraphPlan};
use crate::inquiry::Forecast;
use crate::motion::{FilmWork, Mark, TrailId};
use crate::quantity::{Decimal, Reading, Unit};
use crate::record::{Column, ColumnId, Record, Row, StoppingRule, TableId};
use crate::result::{ResultId, ResultPlan};
use crate::rigs::{HandMotion, Outcome, SettingValue};

/// The content of a logbook.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct State {
    /// Free settings as they stand, by name.
    pub settings: BTreeMap<String, SettingValue>,
    /// Runs in order; run 1 comes first. Deleted ones keep their place, so that no number is used twice.
    pub runs: Vec<RunEntry>,
    /// Number of the run on the stage.
    #[serde(default)]
    pub on_stage: Option<u32>,
    /// Trials that are planned.
    #[serde(default)]
    pub plan: Option<TrialPlan>,
    /// What was committed to before the first run.
    #[serde(default)]
    pub forecast: Forecast,
    /// Tools on the stage of a rig.
    pub tools: Tools,
    /// Films that were on the stage, with what is laid over them.
    #[serde(default)]
    pub films: Vec<FilmWork>,
    /// Number of the film on the stage.
    #[serde(default)]
    pub shown: Option<u32>,
    /// The record: one table or several.
    pub tables: Vec<Record>,
    /// Quantities held, as stated by the students.
    pub held: Vec<StatedQuantity>,
    /// The graphs.
    pub graphs: Vec<GraphPlan>,
    /// The results.
    pub results: Vec<ResultPlan>,
    /// Texts of the write-up.
    pub texts: BTreeMap<TextField, String>,
    /// Whether the rig has ever run. Undo does not take that back: what was seen was seen.
    #[serde(skip)]
    pub has_run: bool,
    /// Whether the teacher has it.
    #[serde(skip)]
    pub handed_in: bool,
    /// The teacher's note when it was sent back.
    #[serde(skip)]
    pub note: Option<String>,
}

/// One run of the rig.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
#[serde(from = "StoredRun")]
pub struct RunEntry {
    /// Free settings it was run with, by name.
    pub settings: BTreeMap<String, SettingValue>,
    /// What it is called; its number if empty.
    pub name: String,
    /// Whether its path is shown faintly under others.
    pub faint: bool,
    /// Whether it was deleted.
    pub gone: bool,
    /// The pull, if it was made by hand.
    pub pull: Option<HandMotion>,
    /// What the rig made of it; found again from the settings, never taken from a file.
    #[serde(skip)]
    pub made: Made,
}

/// What is known of a run once it was made.
#[derive(Clone, Debug, PartialEq, Default)]
pub struct Made {
    /// Number of its frames.
    pub frames: u32,
    /// How it ended.
    pub outcome: Outcome,
}

/// A run as stored: early files have its settings alone.
#[derive(Deserialize)]
#[serde(untagged)]
enum StoredRun {
    Whole {
        settings: BTreeMap<String, SettingValue>,
        #[serde(default)]
        name: String,
        #[serde(default)]
        faint: bool,
        #[serde(default)]
        gone: bool,
        #[serde(default)]
        pull: Option<HandMotion>,
    },
    Settings(BTreeMap<String, SettingValue>),
}

impl From<StoredRun> for RunEntry {
    fn from(stored: StoredRun) -> Self {
        match stored {
            StoredRun::Whole { settings, name, faint, gone, pull } => {
                Self { settings, name, faint, gone, pull, made: Made::default() }
            }
            StoredRun::Settings(settings) => Self { settings, ..Self::default() },
        }
    }
}

/// Trials with equal intervals of one setting.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TrialPlan {
    /// Name of the setting.
    pub setting: String,
    /// Its values in order.
    pub values: Vec<SettingValue>,
    /// How many have been run.
    pub done: usize,
    /// Column that gets the value of each trial.
    pub column: Option<ColumnId>,
}

/// A quantity that is the same in all trials, stated beside the tables.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct StatedQuantity {
    /// Its symbol.
    pub symbol: String,
    /// Its name.
    pub name: String,
    /// Its value.
    pub number: Decimal,
    /// Its unit.
    pub unit: Unit,
}

/// Where the tools stand on the stage.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct Tools {
    /// Frame that counts as t = 0.
    pub zero: u32,
    /// First moment of the split.
    pub start: Option<u32>,
    /// Second moment of the split.
    pub end: Option<u32>,
    /// Zero end and reading end of the tape, in metres of the scene (x, y).
    pub tape: Option<[[f64; 2]; 2]>,
}

/// The texts of the write-up.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum TextField {
    /// What the data show.
    Claim,
    /// The data that show it.
    Evidence,
    /// Why they show it.
    Reasoning,
    /// Whether the intercept makes sense; asked beside the graph.
    Intercept,
    /// Why the outcome differs from the prediction; asked beside the forecast.
    Difference,
}

impl TextField {
    /// The texts of the write-up, in order.
    pub const ALL: [Self; 3] = [Self::Claim, Self::Evidence, Self::Reasoning];

    /// The name in forms.
    pub fn name(self) -> &'static str {
        match self {
            Self::Claim => "claim",
            Self::Evidence => "evidence",
            Self::Reasoning => "reasoning",
            Self::Intercept => "intercept",
            Self::Difference => "difference",
        }
    }

    /// The heading for people.
    pub fn title(self) -> &'static str {
        match self {
            Self::Claim => "Claim",
            Self::Evidence => "Evidence",
            Self::Reasoning => "Reasoning",
            Self::Intercept => "Intercept",
            Self::Difference => "Why they differ",
        }
    }

    /// The text of that name.
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().chain([Self::Intercept, Self::Difference]).find(|f| f.name() == name)
    }
}

/// An elementary change. Doing it gives the change that takes it back. Places count at the moment of the change, which is
/// the same each time, since changes are taken back in the opposite order.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Patch {
    Setting(String, SettingValue),
    /// A run by its place; none takes the last one away.
    Run(usize, Option<Box<RunEntry>>),
    OnStage(Option<u32>),
    Plan(Option<TrialPlan>),
    Forecast(Box<Forecast>),
    Tools(Tools),
    /// All of a film but its marks; none takes the last one away.
    Film(u32, Option<Box<FilmWork>>),
    Shown(Option<u32>),
    /// Film, trail, frame.
    Mark(u32, TrailId, u32, Option<Mark>),
    InsertTable(usize, Record),
    RemoveTable(usize),
    TableHead(TableId, TableHead),
    InsertColumn(TableId, usize, Column),
    RemoveColumn(TableId, usize),
    ReplaceColumn(TableId, usize, Column),
    InsertRow(TableId, usize, Row),
    RemoveRow(TableId, usize),
    /// The row by its place, for it may be one of thousands.
    Cell(TableId, usize, ColumnId, Option<Reading>),
    Aside(TableId, usize, bool, String),
    Held(Vec<StatedQuantity>),
    InsertGraph(usize, GraphPlan),
    RemoveGraph(usize),
    Graph(GraphId, Box<GraphPlan>),
    InsertResult(usize, ResultPlan),
    RemoveResult(usize),
    Result(ResultId, Box<ResultPlan>),
    Text(TextField, String),
    /// Everything at once.
    All(Box<State>),
}

/// What a table has beside columns and rows.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct TableHead {
    pub name: String,
    pub group: Option<ColumnId>,
    pub stopping: Option<StoppingRule>,
}

/// Parts of the bench that are shown and refreshed on their own.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Part {
    /// Saved time, hand in.
    Header,
    /// Sketches, hypothesis and prediction.
    Forecast,
    /// Settings, instruments, runs and tools.
    Stage,
    /// The tables.
    Record,
    /// Graph, curves and read-out.
    Graph,
    /// The shape strip.
    Strip,
    /// The results.
    Constant,
    /// The write-up's texts.
    Texts,
}

impl Part {
    /// All parts.
    pub const ALL: [Self; 8] = [
        Self::Header,
        Self::Forecast,
        Self::Stage,
        Self::Record,
        Self::Graph,
        Self::Strip,
        Self::Constant,
        Self::Texts,
    ];

    /// The name in requests.
    pub fn name(self) -> &'static str {
        match self {
            Self::Header => "header",
            Self::Forecast => "forecast",
            Self::Stage => "stage",
            Self::Record => "record",
            Self::Graph => "graph",
            Self::Strip => "strip",
            Self::Constant => "constant",
            Self::Texts => "texts",
        }
    }

    /// The part of that name.
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|p| p.name() == name)
    }
}

impl Patch {
    /// The parts of the bench this change shows in.
    pub(super) fn parts(&self) -> &'static [Part] {
        match self {
            // A setting held is a quantity that formulas and laws may use.
            Self::Setting(..) => &[Part::Stage, Part::Record, Part::Graph, Part::Strip, Part::Constant],
            Self::Run(..) => &[Part::Stage, Part::Forecast, Part::Record, Part::Graph, Part::Strip, Part::Constant],
            Self::OnStage(_) => &[Part::Stage, Part::Forecast],
            Self::Plan(_) => &[Part::Stage],
            // Whether the rig may run depends on it.
            Self::Forecast(_) => &[Part::Forecast, Part::Stage],
            Self::Film(..) | Self::Shown(_) | Self::Mark(..) => &[Part::Stage],
            Self::Tools(_) => &[Part::Stage],
            Self::InsertTable(..)
            | Self::RemoveTable(_)
            | Self::TableHead(..)
            | Self::InsertColumn(..)
            | Self::RemoveColumn(..)
            | Self::ReplaceColumn(..)
            | Self::InsertRow(..)
            | Self::RemoveRow(..)
            | Self::Cell(..)
            | Self::Aside(..)
            // A hypothesis is held against the record.
            | Self::Held(_) => &[Part::Forecast, Part::Record, Part::Graph, Part::Strip, Part::Constant],
            Self::InsertGraph(..) | Self::RemoveGraph(_) | Self::Graph(..) => {
                &[Part::Graph, Part::Strip, Part::Constant]
            }
            Self::InsertResult(..) | Self::RemoveResult(_) | Self::Result(..) => &[Part::Constant],
            // The question about the intercept stands beside the graph.
            Self::Text(TextField::Intercept, _) => &[Part::Graph],
            Self::Text(TextField::Difference, _) => &[Part::Forecast],
            Self::Text(..) => &[Part::Texts],
            Self::All(_) => &Part::ALL,
        }
    }
}

impl State {
    /// The run with this number, unless it was deleted.
    pub fn run(&self, number: u32) -> Option<&RunEntry> {
        self.runs.get((number as usize).checked_sub(1)?).filter(|r| !r.gone)
    }

    /// Runs that were not deleted, with their numbers.
    pub fn runs_kept(&self) -> impl DoubleEndedIterator<Item = (u32, &RunEntry)> {
        self.runs.iter().zip(1..).filter(|(r, _)| !r.gone).map(|(r, n)| (n, r)).collect::<Vec<_>>().into_iter()
    }

    /// Number of the run on the stage: the chosen one, or the last one there is.
    pub fn run_on_stage(&self) -> Option<u32> {
        self.on_stage.filter(|n| self.run(*n).is_some()).or_else(|| self.runs_kept().next_back().map(|(n, _)| n))
    }

    /// The table with this id.
    pub fn table(&self, id: TableId) -> Option<&Record> {
        self.tables.iter().find(|t| t.id == id)
    }

    /// The table that has this column.
    pub fn table_of(&self, column: ColumnId) -> Option<&Record> {
        self.tables.iter().find(|t| t.column(column).is_some())
    }

    /// The graph with this id.
    pub fn graph(&self, id: GraphId) -> Option<&GraphPlan> {
        self.graphs.iter().find(|g| g.id == id)
    }

    /// The result with this id.
    pub fn result(&self, id: ResultId) -> Option<&ResultPlan> {
        self.results.iter().find(|r| r.id == id)
    }

    /// The film of that name, and its number.
    pub fn film(&self, key: &str) -> Option<(u32, &FilmWork)> {
        self.films.iter().zip(0..).find(|(f, _)| f.facts.key == key).map(|(f, n)| (n, f))
    }

    /// The film on the stage, and its number.
    pub fn film_shown(&self) -> Option<(u32, &FilmWork)> {
        let n = self.shown?;
        Some((n, self.films.get(n as usize)?))
    }

    /// The film that has this trail, and its number.
    pub fn film_of(&self, trail: TrailId) -> Option<(u32, &FilmWork)> {
        self.films.iter().zip(0..).find(|(f, _)| f.trail(trail).is_some()).map(|(f, n)| (n, f))
    }

    fn table_mut(&mut self, id: TableId) -> Option<&mut Record> {
        self.tables.iter_mut().find(|t| t.id == id)
    }

    /// Does one change and gives the change that takes it back. Changes come from `plan`, which has checked
    /// that places and ids exist.
    pub(super) fn change(&mut self, patch: Patch) -> Patch {
        use std::mem::replace;
        match patch {
            Patch::Setting(name, value) => {
                let old = self.settings.insert(name.clone(), value.clone());
                Patch::Setting(name, old.unwrap_or(value))
            }
            Patch::Run(index, run) => {
                let old = match run {
                    Some(run) if index < self.runs.len() => Some(replace(&mut self.runs[index], *run)),
                    Some(run) => {
                        self.runs.push(*run);
                        None
                    }
                    None => self.runs.pop(),
                };
                Patch::Run(index, old.map(Box::new))
            }
            Patch::OnStage(run) => Patch::OnStage(replace(&mut self.on_stage, run)),
            Patch::Plan(plan) => Patch::Plan(replace(&mut self.plan, plan)),
            Patch::Forecast(forecast) => Patch::Forecast(Box::new(replace(&mut self.forecast, *forecast))),
            Patch::Film(number, film) => {
                let index = number as usize;
                let old = match film {
                    Some(film) if index < self.films.len() => Some(replace(&mut self.films[index], *film)),
                    Some(film) => {
                        self.films.push(*film);
                        None
                    }
                    None => self.films.pop(),
                };
                Patch::Film(number, old.map(Box::new))
            }
            Patch::Shown(shown) => Patch::Shown(replace(&mut self.shown, shown)),
            Patch::Mark(film, id, frame, mark) => {
                let film_at = self.films.get_mut(film as usize);
                let trail = film_at.and_then(|f| f.trails.iter_mut().find(|t| t.id == id));
                let old = trail.and_then(|t| match mark {
                    Some(mark) => t.marks.insert(frame, mark),
                    None => t.marks.remove(&frame),
                });
                Patch::Mark(film, id, frame, old)
            }
            Patch::Tools(tools) => Patch::Tools(replace(&mut self.tools, tools)),
            Patch::InsertTable(index, table) => {
                self.tables.insert(index, table);
                Patch::RemoveTable(index)
            }
            Patch::RemoveTable(index) => Patch::InsertTable(index, self.tables.remove(index)),
            Patch::Held(held) => Patch::Held(replace(&mut self.held, held)),
            Patch::InsertGraph(index, graph) => {
                self.graphs.insert(index, graph);
                Patch::RemoveGraph(index)
            }
            Patch::RemoveGraph(index) => Patch::InsertGraph(index, self.graphs.remove(index)),
            Patch::Graph(id, mut plan) => {
                if let Some(old) = self.graphs.iter_mut().find(|g| g.id == id) {
                    std::mem::swap(old, &mut plan);
                }
                Patch::Graph(id, plan)
            }
            Patch::InsertResult(index, result) => {
                self.results.insert(index, result);
                Patch::RemoveResult(index)
            }
            Patch::RemoveResult(index) => Patch::InsertResult(index, self.results.remove(index)),
            Patch::Result(id, mut plan) => {
                if let Some(old) = self.results.iter_mut().find(|r| r.id == id) {
                    std::mem::swap(old, &mut plan);
                }
                Patch::Result(id, plan)
            }
            Patch::Text(field, text) => {
                let old = if text.is_empty() { self.texts.remove(&field) } else { self.texts.insert(field, text) };
                Patch::Text(field, old.unwrap_or_default())
            }
            Patch::All(mut state) => {
                // Handing in and out is not undone with the work.
                (state.handed_in, state.note) = (self.handed_in, self.note.clone());
                // Nor is what was seen, and what was said before it was seen stays as it was said.
                state.has_run = self.has_run;
                if self.has_run {
                    state.forecast.clone_from(&self.forecast);
                }
                std::mem::swap(self, &mut state);
                Patch::All(state)
            }
            in_table => self.change_table(in_table),
        }
    }

    fn change_table(&mut self, patch: Patch) -> Patch {
        use std::mem::replace;
        let id = match &patch {
            Patch::TableHead(id, _)
            | Patch::InsertColumn(id, ..)
            | Patch::RemoveColumn(id, _)
            | Patch::ReplaceColumn(id, ..)
            | Patch::InsertRow(id, ..)
            | Patch::RemoveRow(id, _)
            | Patch::Cell(id, ..)
            | Patch::Aside(id, ..) => *id,
            _ => return patch,
        };
        let Some(table) = self.table_mut(id) else { return patch };
        match patch {
            Patch::TableHead(_, head) => {
                let old = TableHead {
                    name: replace(&mut table.name, head.name),
                    group: replace(&mut table.group, head.group),
                    stopping: replace(&mut table.stopping, head.stopping),
                };
                Patch::TableHead(id, old)
            }
            Patch::InsertColumn(_, index, column) => {
                table.columns.insert(index, column);
                Patch::RemoveColumn(id, index)
            }
            Patch::RemoveColumn(_, index) => Patch::InsertColumn(id, index, table.columns.remove(index)),
            Patch::ReplaceColumn(_, index, column) => {
                Patch::ReplaceColumn(id, index, replace(&mut table.columns[index], column))
            }
            Patch::InsertRow(_, index, row) => {
                table.rows.insert(index, row);
                Patch::RemoveRow(id, index)
            }
            Patch::RemoveRow(_, index) => Patch::InsertRow(id, index, table.rows.remove(index)),
            Patch::Cell(_, row, column, reading) => {
                let cells = &mut table.rows[row].cells;
                let old = match reading {
                    Some(reading) => cells.insert(column, reading),
                    None => cells.remove(&column),
                };
                Patch::Cell(id, row, column, old)
            }
            Patch::Aside(_, row, aside, why) => {
                let row_at = &mut table.rows[row];
                Patch::Aside(id, row, replace(&mut row_at.aside, aside), replace(&mut row_at.why, why))
            }
            other => other,
        }
    }
}
