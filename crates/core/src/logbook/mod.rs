//! The logbook: the sum of its edits.
//!
//! [`Logbook::apply`] is the one way in. It turns an [`Edit`] into elementary changes (`plan`), does them, and keeps
//! the changes that take them back; undo and redo replay those. A logbook read again from its list of
//! edits is therefore the same as one that never left memory.

mod analysis;
mod edit;
mod instrument;
mod plan;
mod refusal;
mod state;

use std::collections::BTreeMap;
use std::sync::Arc;

use crate::graph::GraphPlan;
use crate::lab::{Freedom, Key, LabSheet, SettingRule};
use crate::record::{Column, FIRST_TABLE, Record, Row};
use crate::result::ResultPlan;
use crate::rigs::{RigError, Run, Sampling, Scene, SettingValue, Settings};
pub use analysis::{Analysis, HeldQuantity, HeldValue, Outcome, Strip};
pub use edit::{ColumnText, Edit};
pub use instrument::{Instrument, MomentOf};
use plan::Fresh;
pub use plan::Seen;
pub use refusal::Refusal;
use state::Patch;
pub use state::{Made, Part, RunEntry, State, StatedQuantity, TextField, Tools, TrialPlan};

/// Edits that can be taken back, at most.
const DEEPEST_UNDO: usize = 1000;
/// Longest note of a teacher, in characters.
const LONGEST_NOTE: usize = 2000;
/// Ids below this belong to the columns a sheet starts with.
const FIRST_ID: u32 = 1000;

/// A student's or group's copy of a lab sheet, with all work in it.
#[derive(Clone, Debug)]
pub struct Logbook {
    sheet: Arc<LabSheet>,
    seed: u64,
    /// The sheet's rules with the values this logbook was dealt.
    rules: Vec<SettingRule>,
    state: State,
    undo: Vec<Vec<Patch>>,
    redo: Vec<Vec<Patch>>,
    seq: u64,
    /// The first id nothing has had yet, where it is beyond that of the edit's number.
    free: u32,
    /// Number of the last edit that shows in each part, in the order of [`Part::ALL`].
    touched: [u64; Part::ALL.len()],
}

/// Two logbooks are equal when they hold the same and can undo and redo the same.
impl PartialEq for Logbook {
    fn eq(&self, other: &Self) -> bool {
        self.seed == other.seed
            && self.state == other.state
            && self.undo == other.undo
            && self.redo == other.redo
            && self.seq == other.seq
    }
}

impl Logbook {
    /// An empty logbook for a sheet. `seed` deals this logbook's own values.
    pub fn new(sheet: Arc<LabSheet>, seed: u64) -> Self {
        let rules = sheet.deal(seed);
        let free = rules.iter().filter(|r| r.freedom == Freedom::Free);
        let state = State {
            settings: free.map(|r| (r.name.to_owned(), r.value.clone())).collect(),
            tables: start_tables(&sheet),
            graphs: vec![GraphPlan::default()],
            results: vec![ResultPlan {
                accepted: sheet.goal.accepted.clone(),
                source: sheet.goal.source.clone(),
                ..ResultPlan::default()
            }],
            ..State::default()
        };
        Self {
            sheet,
            seed,
            rules,
            state,
            undo: Vec::new(),
            redo: Vec::new(),
            seq: 0,
            free: 0,
            touched: [0; Part::ALL.len()],
        }
    }

    /// Does an edit. On refusal nothing has changed. Gives a word the person should hear, if there is one.
    ///
    /// # Errors
    /// [`Refusal`], which says what was kept.
    pub fn apply(&mut self, edit: &Edit) -> Result<Option<String>, Refusal> {
        let seq = self.seq + 1;
        let mut word = None;
        match edit {
            Edit::SendBack { note } => {
                if !self.state.handed_in {
                    return Err(Refusal::NotHandedIn);
                }
                if note.chars().count() > LONGEST_NOTE {
                    return Err(Refusal::Limit(format!(
                        "A note can have {LONGEST_NOTE} characters. The logbook is still handed in."
                    )));
                }
                self.state.handed_in = false;
                self.state.note = Some(note.trim().to_owned()).filter(|n| !n.is_empty());
                self.touch(seq, &Part::ALL);
            }
            _ if self.state.handed_in => return Err(Refusal::HandedIn),
            Edit::HandIn => {
                self.state.handed_in = true;
                self.state.note = None;
                self.touch(seq, &Part::ALL);
            }
            Edit::Undo => {
                let forecast = |p: &Patch| matches!(p, Patch::Forecast(_));
                if self.state.has_run && self.undo.last().is_some_and(|p| p.iter().any(forecast)) {
                    return Err(Refusal::ForecastStands);
                }
                let patches = self.undo.pop().ok_or(Refusal::NothingToUndo)?;
                let back = self.change_all(patches, seq);
                self.redo.push(back);
            }
            Edit::Redo => {
                let patches = self.redo.pop().ok_or(Refusal::NothingToRedo)?;
                let back = self.change_all(patches, seq);
                self.undo.push(back);
            }
            _ => {
                let first = FIRST_ID + u32::try_from(seq).unwrap_or(u32::MAX - FIRST_ID);
                let mut fresh = Fresh(first.max(self.free));
                let planned = self.plan(edit, &mut fresh)?;
                self.free = fresh.0;
                word = planned.word;
                let back = self.change_all(planned.patches, seq);
                // Afterwards: the forecast of a file is the one that was made before the file's runs.
                self.state.has_run |= match edit {
                    Edit::Run | Edit::RunTrial | Edit::Pull { .. } => true,
                    Edit::Restore { content } => !content.runs.is_empty(),
                    _ => false,
                };
                // An edit that changes nothing is not worth an undo step of its own.
                if !back.is_empty() {
                    self.undo.push(back);
                    if self.undo.len() > DEEPEST_UNDO {
                        self.undo.remove(0);
                    }
                    self.redo.clear();
                }
            }
        }
        self.touch(seq, &[Part::Header]);
        self.seq = seq;
        Ok(word)
    }

    /// Counts an edit without doing it: one that was stored by an earlier program and is refused now.
    pub fn skip(&mut self) {
        self.seq += 1;
    }

    /// Does changes in order; gives those that take them back, also in order.
    fn change_all(&mut self, patches: Vec<Patch>, seq: u64) -> Vec<Patch> {
        let mut back = Vec::with_capacity(patches.len());
        for patch in patches {
            self.touch(seq, patch.parts());
            back.push(self.state.change(patch));
        }
        back.reverse();
        back
    }

    fn touch(&mut self, seq: u64, parts: &[Part]) {
        for (touched, part) in self.touched.iter_mut().zip(Part::ALL) {
            if parts.contains(&part) {
                *touched = seq;
            }
        }
    }

    /// The sheet it was made from.
    pub fn sheet(&self) -> &Arc<LabSheet> {
        &self.sheet
    }

    /// What it holds.
    pub fn state(&self) -> &State {
        &self.state
    }

    /// Number of the last edit.
    pub fn seq(&self) -> u64 {
        self.seq
    }

    /// Whether there is something to undo and something to redo.
    pub fn can_undo_redo(&self) -> (bool, bool) {
        (!self.undo.is_empty(), !self.redo.is_empty())
    }

    /// The parts that changed after edit number `seq`.
    pub fn parts_since(&self, seq: u64) -> Vec<Part> {
        Part::ALL.into_iter().zip(self.touched).filter(|(_, touched)| *touched > seq).map(|(part, _)| part).collect()
    }

    /// The sheet's rules for this logbook, dealt values filled in. Hidden ones are not for people's eyes.
    pub fn rules(&self) -> &[SettingRule] {
        &self.rules
    }

    /// The rule for a setting.
    pub fn rule(&self, name: &str) -> Option<&SettingRule> {
        self.rules.iter().find(|r| r.name == name)
    }

    /// The right answer for this logbook. For the teacher only.
    pub fn key(&self) -> Option<Key> {
        self.sheet.key(&self.rules)
    }

    /// Whether the settings as they stand are not those of the run on the stage.
    pub fn settings_are_new(&self) -> bool {
        let run = self.state.run_on_stage().and_then(|n| self.state.run(n));
        run.is_none_or(|r| r.settings != self.state.settings || r.pull.is_some())
    }

    /// The settings a run gets: the student's where free, the sheet's where not. Not for people's eyes.
    fn effective(&self, chosen: &BTreeMap<String, SettingValue>) -> Settings {
        let mut all = Settings::default();
        for rule in &self.rules {
            let own = chosen.get(rule.name).filter(|_| rule.freedom == Freedom::Free);
            all.put(rule.name, own.unwrap_or(&rule.value));
        }
        all
    }

    /// The settings of a run, hidden ones included. Not for people's eyes.
    pub fn run_settings(&self, number: u32) -> Option<Settings> {
        Some(self.effective(&self.state.run(number)?.settings))
    }

    /// Each run of a logbook has its own chance, dealt from the logbook's seed.
    pub fn chance_of(&self, number: u32) -> u64 {
        self.seed.wrapping_add(u64::from(number).wrapping_mul(0x9E37_79B9_7F4A_7C15))
    }

    /// Makes the motion of a run again; the same every time. `None` when there is no such run.
    pub fn footage(&self, number: u32) -> Option<Result<Run, RigError>> {
        self.make(self.state.run(number)?)
    }

    /// The apparatus as it is set now: the run that would come, and its scene. `None` without a rig. Only its first frame is for
    /// people's eyes.
    pub fn setup(&self) -> Option<Result<(Run, Scene), RigError>> {
        let entry = RunEntry { settings: self.state.settings.clone(), ..RunEntry::default() };
        let rig = self.sheet.rig()?;
        Some(self.make(&entry)?.map(|run| {
            let scene = rig.scene(&self.effective(&entry.settings), &run);
            (run, scene)
        }))
    }

    fn make(&self, entry: &RunEntry) -> Option<Result<Run, RigError>> {
        let sampling = Sampling { every: Sampling::STAGE_EVERY, duration: self.sheet.card.lasts };
        Some(self.sheet.rig()?.run_or_pull(&self.effective(&entry.settings), entry.pull.as_ref(), sampling))
    }
}

/// A share as percent, to two figures.
fn percent(share: f64) -> String {
    crate::quantity::format::to_step(100.0 * share, if share < 0.1 { 0.1 } else { 1.0 })
}

/// The tables a sheet starts with. Given values make rows.
fn start_tables(sheet: &LabSheet) -> Vec<Record> {
    let mut names: Vec<&str> = vec![&sheet.first_table];
    for column in &sheet.columns {
        if !names.contains(&column.table.as_str()) {
            names.push(&column.table);
        }
    }
    let mut row_id = 1;
    let tables = names.into_iter().zip(FIRST_TABLE..).map(|(name, id)| {
        let own = sheet.columns.iter().zip(1..).filter(|(c, _)| c.table == name);
        let columns: Vec<(Column, &crate::lab::StartColumn)> = own
            .map(|(c, id)| {
                let column = Column {
                    id,
                    kind: c.kind,
                    name: c.name.clone(),
                    symbol: c.symbol.clone(),
                    unit: Some(c.unit.clone()),
                    formula: None,
                    precision: c.precision.clone(),
                    stem: None,
                    aside: None,
                    filled: false,
                };
                (column, c)
            })
            .collect();
        let long = columns.iter().map(|(_, c)| c.values.len()).max().unwrap_or(0);
        let rows = (0..long).map(|i| {
            let given = columns.iter().filter_map(|(column, c)| Some((column.id, c.values.get(i)?.clone())));
            let row = Row { id: row_id, cells: given.collect(), ..Row::default() };
            row_id += 1;
            row
        });
        let rows = rows.collect();
        Record {
            id,
            name: name.to_owned(),
            columns: columns.into_iter().map(|(c, _)| c).collect(),
            rows,
            ..Record::default()
        }
    });
    tables.collect()
}
