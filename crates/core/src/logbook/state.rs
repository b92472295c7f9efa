//! What a logbook holds at a moment, and the elementary changes that lead from one moment to the next.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use crate::fit::Model;
use crate::formula::Formula;
use crate::quantity::{Decimal, Reading, Unit};
use crate::record::{Column, ColumnId, Record, Row, RowId};
use crate::rigs::SettingValue;

/// The content of a logbook.
#[derive(Clone, Debug, PartialEq)]
pub struct State {
    /// Free settings as they stand, by name.
    pub settings: BTreeMap<String, SettingValue>,
    /// Runs in order; run 1 comes first.
    pub runs: Vec<BTreeMap<String, SettingValue>>,
    /// Tools on the stage.
    pub tools: Tools,
    /// The record.
    pub record: Record,
    /// Column across.
    pub x: Option<ColumnId>,
    /// Column up.
    pub y: Option<ColumnId>,
    /// The line to be fitted.
    pub model: Option<Model>,
    /// What the slope means.
    pub law: Option<Formula>,
    /// Accepted value of the constant.
    pub accepted: (Decimal, Unit),
    /// Texts of the write-up.
    pub texts: BTreeMap<TextField, String>,
    /// Whether the teacher has it.
    pub handed_in: bool,
    /// The teacher's note when it was sent back.
    pub note: Option<String>,
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
}

impl TextField {
    /// All texts, in the order of the write-up.
    pub const ALL: [Self; 3] = [Self::Claim, Self::Evidence, Self::Reasoning];

    /// The name in forms.
    pub fn name(self) -> &'static str {
        match self {
            Self::Claim => "claim",
            Self::Evidence => "evidence",
            Self::Reasoning => "reasoning",
        }
    }

    /// The heading for people.
    pub fn title(self) -> &'static str {
        match self {
            Self::Claim => "Claim",
            Self::Evidence => "Evidence",
            Self::Reasoning => "Reasoning",
        }
    }

    /// The text of that name.
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|f| f.name() == name)
    }
}

/// An elementary change. Doing it gives the change that takes it back.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Patch {
    Setting(String, SettingValue),
    PushRun(BTreeMap<String, SettingValue>),
    PopRun,
    Tools(Tools),
    InsertColumn(usize, Column),
    RemoveColumn(usize),
    ReplaceColumn(usize, Column),
    InsertRow(usize, Row),
    RemoveRow(usize),
    Cell(RowId, ColumnId, Option<Reading>),
    Aside(RowId, bool),
    Axes(Option<ColumnId>, Option<ColumnId>),
    Model(Option<Model>),
    Law(Option<Formula>),
    Accepted(Decimal, Unit),
    Text(TextField, String),
}

/// Parts of the bench that are shown and refreshed on their own.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Part {
    /// Saved time, hand in.
    Header,
    /// Settings, instruments, runs and tools.
    Stage,
    /// The table.
    Record,
    /// Graph and line.
    Graph,
    /// The constant.
    Constant,
    /// The write-up's texts.
    Texts,
}

impl Part {
    /// All parts.
    pub const ALL: [Self; 6] = [Self::Header, Self::Stage, Self::Record, Self::Graph, Self::Constant, Self::Texts];
}

impl Patch {
    /// The parts of the bench this change shows in.
    pub(super) fn parts(&self) -> &'static [Part] {
        match self {
            Self::Setting(..) | Self::PushRun(_) | Self::PopRun => &[Part::Stage, Part::Record, Part::Constant],
            Self::Tools(_) => &[Part::Stage],
            Self::InsertColumn(..)
            | Self::RemoveColumn(_)
            | Self::ReplaceColumn(..)
            | Self::InsertRow(..)
            | Self::RemoveRow(_)
            | Self::Cell(..)
            | Self::Aside(..) => &[Part::Record, Part::Graph, Part::Constant],
            Self::Axes(..) | Self::Model(_) => &[Part::Graph, Part::Constant],
            Self::Law(_) | Self::Accepted(..) => &[Part::Constant],
            Self::Text(..) => &[Part::Texts],
        }
    }
}

impl State {
    /// Does one change and gives the change that takes it back. Changes come from `plan`, which has checked
    /// that places and ids exist.
    pub(super) fn change(&mut self, patch: Patch) -> Patch {
        use std::mem::replace;
        match patch {
            Patch::Setting(name, value) => {
                let old = self.settings.insert(name.clone(), value.clone());
                Patch::Setting(name, old.unwrap_or(value))
            }
            Patch::PushRun(run) => {
                self.runs.push(run);
                Patch::PopRun
            }
            Patch::PopRun => Patch::PushRun(self.runs.pop().unwrap_or_default()),
            Patch::Tools(tools) => Patch::Tools(replace(&mut self.tools, tools)),
            Patch::InsertColumn(index, column) => {
                self.record.columns.insert(index, column);
                Patch::RemoveColumn(index)
            }
            Patch::RemoveColumn(index) => Patch::InsertColumn(index, self.record.columns.remove(index)),
            Patch::ReplaceColumn(index, column) => {
                Patch::ReplaceColumn(index, replace(&mut self.record.columns[index], column))
            }
            Patch::InsertRow(index, row) => {
                self.record.rows.insert(index, row);
                Patch::RemoveRow(index)
            }
            Patch::RemoveRow(index) => Patch::InsertRow(index, self.record.rows.remove(index)),
            Patch::Cell(row, column, reading) => {
                let cells = self.record.rows.iter_mut().find(|r| r.id == row).map(|r| &mut r.cells);
                let old = cells.and_then(|cells| match reading {
                    Some(reading) => cells.insert(column, reading),
                    None => cells.remove(&column),
                });
                Patch::Cell(row, column, old)
            }
            Patch::Aside(row, aside) => {
                let old = self.record.rows.iter_mut().find(|r| r.id == row).map(|r| replace(&mut r.aside, aside));
                Patch::Aside(row, old.unwrap_or(aside))
            }
            Patch::Axes(x, y) => Patch::Axes(replace(&mut self.x, x), replace(&mut self.y, y)),
            Patch::Model(model) => Patch::Model(replace(&mut self.model, model)),
            Patch::Law(law) => Patch::Law(replace(&mut self.law, law)),
            Patch::Accepted(number, unit) => {
                let (number, unit) = replace(&mut self.accepted, (number, unit));
                Patch::Accepted(number, unit)
            }
            Patch::Text(field, text) => {
                let old = if text.is_empty() { self.texts.remove(&field) } else { self.texts.insert(field, text) };
                Patch::Text(field, old.unwrap_or_default())
            }
        }
    }
}
