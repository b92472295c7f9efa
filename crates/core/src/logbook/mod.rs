//! The logbook: the sum of what was changed in it.
//!
//! An [`Edit`] is what a person asks for. [`Logbook::plan`] reads and checks it and works out its elementary changes, without doing
//! them; [`Logbook::take`] does them and keeps those that take them back. What is stored is the wish and its [`Deed`]: reading a
//! logbook again takes the deeds, and judges nothing a second time. Undo, redo, snapshots and live sharing follow from that list.
//!
//! Every subject has a folder of its own with edit, plan, change and state.

mod analysis;
mod answer;
mod astray;
mod change;
mod claim;
mod deals;
mod deed;
mod drawn;
mod edit;
mod film;
mod footage;
mod forecast;
mod graph;
mod groups;
mod heard;
mod model;
mod office;
mod part;
mod planning;
mod proposal;
mod recall;
mod record;
mod refusal;
mod result;
mod run;
mod slips;
mod snapshot;
mod standing;
mod state;
mod touched;
mod write_up;
mod writing;

use std::collections::{BTreeMap, BTreeSet};
use std::sync::{Arc, OnceLock};

use crate::chance::Chance;
use crate::graph::{Graph, GraphSpec};
pub use crate::inquiry::Step;
use crate::lab::{Expected, Freedom, Key, LabSheet, SettingRule};
use crate::record::{Column, FIRST_TABLE, Record, Row};
use crate::result::ResultSpec;
use crate::rigs::{Clock, RigError, Run, Scene, SettingSpec, SettingValue, Settings};
pub use analysis::{Analysis, HeldQuantity, HeldValue, ResultOutcome, Strip, TermVerdict};
pub use answer::{AnswerChange, AnswerEdit, AnswerRefusal, AnswerState, Answered, Given, Tried};
use astray::Astray;
pub use change::{Change, Misfit};
pub use claim::{AskedRatios, ClaimChange, ClaimEdit, ClaimRefusal, ClaimState, Finding, Judged, JudgedRow};
pub use deals::{DealChange, Deals, Shelf};
pub use deed::{Deed, MadeByEdit, Turn};
pub use drawn::{Behind, DrawError, Found};
pub use edit::Edit;
pub use film::{FilmChange, FilmEdit, FilmRefusal, FilmState, FromTrail};
pub use footage::{FootageEdit, FootageRefusal, Instrument, MassError, MomentOf, Seen};
pub use forecast::{ForecastChange, ForecastEdit, ForecastPart, ForecastRefusal};
pub use graph::{CurveText, GraphChange, GraphEdit, GraphRefusal, GraphShows, GraphState};
pub use groups::GroupOutcome;
pub use heard::{Followed, Heard};
pub use model::{
    Called, Compared, Differs, FittedPart, Ledgered, ModelChange, ModelEdit, ModelOutcome, ModelRefusal, ModelRun,
    ModelRunId, ModelSpec, ModelState, Trace, Worked,
};
pub use office::{
    BroughtParts, Flaw, Kind, OfficeChange, OfficeEdit, OfficeRefusal, OfficeState, Stamped, TeacherWord,
};
pub use part::Part;
use planning::FIRST_ID;
pub use planning::Intent;
pub use proposal::{Fits, Lined, Noticed, Proposal};
use recall::Memo;
pub use recall::Recall;
pub use record::{
    ColumnText, PAGE_ROWS, RecordChange, RecordEdit, RecordRefusal, RecordState, RowAt, StatedQuantity, StopBy,
    TableHead,
};
pub use refusal::{Absent, Counted, Holder, Kept, Limit, LongText, Named, Refusal, ShortText, Thing, ValueError};
pub use result::{ResultChange, ResultEdit, ResultSource, ResultState};
pub use run::{Made, RunChange, RunEdit, RunEntry, RunRefusal, RunState, TrialPlan};
pub use slips::{AxisPower, Factor, Hint, Mistyped, Sign, Slip, SlipKind};
pub use snapshot::{Snapshot, Start};
pub use standing::{Standing, StandingResult};
pub use state::State;
pub use touched::Touched;
pub use write_up::{Block, Laid, Shows, Sources, Taken, WriteUpChange, WriteUpEdit, WriteUpRefusal, WriteUpState};
pub use writing::{TextField, WritingChange, WritingEdit, WritingState};

/// Edits that can be taken back, at most.
const DEEPEST_UNDO: usize = 1000;

/// A student's or group's copy of a lab sheet, with all work in it.
#[derive(Clone, Debug)]
pub struct Logbook {
    sheet: Arc<LabSheet>,
    seed: u64,
    /// The sheet's rules with the values this logbook was dealt, deal by deal.
    rules: Vec<Vec<SettingRule>>,
    state: State,
    undo: Vec<Vec<Change>>,
    redo: Vec<Vec<Change>>,
    seq: u64,
    /// The first id nothing has had yet.
    next_id: u32,
    /// Number of the last edit that shows in each part, in the order of [`Part::ALL`].
    touched: [u64; Part::ALL.len()],
    /// Number of the first stored edit that could not be read, if there is one. Nothing is added after it.
    unread: Option<u64>,
    /// Recordings, shared with other logbooks.
    recall: Arc<Recall>,
    /// What was worked out from the state as it is.
    memo: Memo,
    /// How far hidden settings stray in the motion of a run, worked out when it is first asked for, deal by deal.
    astray: Arc<Vec<OnceLock<Vec<Astray>>>>,
}

/// Two logbooks are equal when they hold the same and can undo and redo the same.
impl PartialEq for Logbook {
    fn eq(&self, other: &Self) -> bool {
        self.seed == other.seed
            && self.state == other.state
            && self.undo == other.undo
            && self.redo == other.redo
            && self.seq == other.seq
            && self.next_id == other.next_id
            && self.unread == other.unread
    }
}

impl Logbook {
    /// An empty logbook for a sheet. `seed` deals this logbook's own values.
    pub fn new(sheet: Arc<LabSheet>, seed: u64) -> Self {
        let rules: Vec<_> = (0..sheet.deals.max(1)).map(|number| sheet.deal_again(seed, number)).collect();
        let free = rules[0].iter().filter(|r| r.freedom == Freedom::Free);
        let settings = free.map(|r| (r.name.to_owned(), r.value.clone())).collect();
        let (record, graph, result) = started(&sheet);
        let state =
            State { run: RunState { settings, ..RunState::default() }, record, graph, result, ..State::default() };
        let astray = Arc::new(rules.iter().map(|_| OnceLock::new()).collect());
        Self {
            sheet,
            seed,
            rules,
            state,
            undo: Vec::new(),
            redo: Vec::new(),
            seq: 0,
            next_id: FIRST_ID,
            touched: [0; Part::ALL.len()],
            unread: None,
            recall: Arc::default(),
            memo: Memo::default(),
            astray,
        }
    }

    /// Grows by a later text of its sheet; see [`LabSheet::grown`]. Everything is to be shown anew.
    pub fn grow(&mut self, later: &LabSheet) {
        self.sheet = Arc::new(self.sheet.grown(later));
        self.touched = [self.seq + 1; Part::ALL.len()];
        self.memo.clear();
    }

    /// Shares the recordings of other logbooks.
    pub fn share(&mut self, recall: Arc<Recall>) {
        self.recall = recall;
    }

    /// Plans an edit and takes it. On refusal nothing has changed. `at` is the time in seconds since 1970 (UTC).
    ///
    /// # Errors
    /// [`Refusal`], which says what was kept.
    pub fn apply(&mut self, edit: &Edit, at: i64) -> Result<Intent, Refusal> {
        let intent = self.plan(edit, at)?;
        self.take(intent.deed.clone())?;
        Ok(intent)
    }

    /// Does what was planned, or what was stored: the next edit.
    ///
    /// # Errors
    /// [`Misfit`]; then nothing has changed.
    pub fn take(&mut self, deed: Deed) -> Result<(), Misfit> {
        let seq = self.seq + 1;
        let parts: Vec<&'static [Part]> = deed.changes.iter().map(Change::parts).collect();
        // What was worked out holds the tables, and a table that is held elsewhere is copied before it is changed.
        self.memo.clear();
        let was = self.open_steps();
        let back = self.state.change_all(deed.changes)?;
        match deed.turn {
            // An edit that changes nothing is not worth an undo step of its own.
            Turn::Work if back.is_empty() => {}
            Turn::Work => {
                self.undo.push(back);
                if self.undo.len() > DEEPEST_UNDO {
                    self.undo.remove(0);
                }
                self.redo.clear();
            }
            Turn::Undo => {
                self.undo.pop();
                self.redo.push(back);
            }
            Turn::Redo => {
                self.redo.pop();
                self.undo.push(back);
            }
            // What was handed in and stays closed is not undone.
            Turn::Office if !self.state.office.reopened.is_empty() && was != self.open_steps() => {
                self.undo.clear();
                self.redo.clear();
            }
            Turn::Office => {}
        }
        for (touched, part) in self.touched.iter_mut().zip(Part::ALL.iter().copied()) {
            if part == Part::Header || parts.iter().any(|shown| shown.contains(&part)) {
                *touched = seq;
            }
        }
        self.next_id = deed.next_id;
        self.seq = seq;
        Ok(())
    }

    /// Whether the teacher has it, and the steps that are open again.
    fn open_steps(&self) -> (bool, BTreeSet<Step>) {
        (self.state.office.handed_in, self.state.office.reopened.clone())
    }

    /// Closes the logbook for good: the stored edit that comes next cannot be read by this program, and nothing may be added
    /// after it.
    pub fn close_unread(&mut self) {
        self.unread = Some(self.seq + 1);
    }

    /// Number of the first stored edit that cannot be read, if there is one.
    pub fn unread(&self) -> Option<u64> {
        self.unread
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

    /// The ids that the next so many things will have.
    pub fn next_ids(&self, count: u32) -> Vec<u32> {
        (self.next_id..self.next_id + count).collect()
    }

    /// Whether there is something to undo and something to redo.
    pub fn can_undo_redo(&self) -> (bool, bool) {
        (!self.undo.is_empty(), !self.redo.is_empty())
    }

    /// The parts that changed after edit number `seq`.
    pub fn parts_since(&self, seq: u64) -> Vec<Part> {
        Part::ALL
            .iter()
            .copied()
            .zip(self.touched)
            .filter(|(_, touched)| *touched > seq)
            .map(|(part, _)| part)
            .collect()
    }

    /// The sheet's rules for this logbook, dealt values filled in. Hidden ones are not for people's eyes.
    pub fn rules(&self) -> &[SettingRule] {
        self.rules_of(self.state.deals.number)
    }

    /// The rules with the numbers of a deal.
    fn rules_of(&self, deal: u32) -> &[SettingRule] {
        self.rules.get(deal as usize).unwrap_or(&self.rules[0])
    }

    /// The rule for a setting.
    pub fn rule(&self, name: &str) -> Option<&SettingRule> {
        self.rules().iter().find(|r| r.name == name)
    }

    /// Whether a setting counts with the choices as they stand.
    pub fn counts(&self, spec: &SettingSpec) -> bool {
        spec.with.is_none_or(|(choice, option)| {
            let rule = self.rule(choice);
            let chosen = self.state.run.settings.get(choice).or(rule.map(|r| &r.value));
            // What is hidden may count.
            rule.is_some_and(|r| r.freedom == Freedom::Hidden)
                || chosen.is_some_and(|v| matches!(v, SettingValue::Choice(name) if name == option))
        })
    }

    /// The right answer for this logbook. For the teacher only.
    pub fn key(&self) -> Option<Key> {
        self.sheet.key(self.rules())
    }

    /// The curve the points of a graph should lie on with this logbook's own numbers. As secret as the key.
    pub fn expected_by_key(&self, graph: &Graph) -> Option<Expected> {
        let curve = self.sheet.expected.iter().find(|e| e.fits(&graph.x.unit, &graph.y.unit))?;
        if curve.is_published() {
            return Some(curve.clone());
        }
        let key = self.key()?;
        let known = self.sheet.known_of(self.rules())?;
        Some(curve.at(key.value * key.unit.size(), &|symbol| known.get(symbol).map(|k| k.value)))
    }

    /// Whether the settings as they stand are not those of the run on the stage.
    pub fn settings_are_new(&self) -> bool {
        let run = self.state.run_on_stage().and_then(|n| self.state.run(n));
        run.is_none_or(|r| r.settings != self.state.run.settings || r.pull.is_some())
    }

    /// The settings a run gets: the student's where free, the sheet's where not. Not for people's eyes.
    fn effective(&self, run: &RunEntry) -> Settings {
        let mut all = Settings::default();
        for rule in self.rules_of(run.deal) {
            let own = run.settings.get(rule.name).filter(|_| rule.freedom == Freedom::Free);
            all.put(rule.name, own.unwrap_or(&rule.value));
        }
        all
    }

    /// The settings of a run as its motion shows them, hidden ones included. Not for people's eyes.
    pub fn run_settings(&self, number: u32) -> Option<Settings> {
        Some(self.pictured(self.state.run(number)?))
    }

    /// The present revision of the sheet's rig.
    fn rig_revision(&self) -> u32 {
        let improved = u32::from(crate::other_rules::on());
        self.sheet.rig().map_or(0, |rig| rig.card().revision + improved)
    }

    /// Whether the rig was improved since a run was made: the stage then shows a newer computation than the one its readings are
    /// from.
    pub fn is_newer_than(&self, run: &RunEntry) -> bool {
        run.made.revision != self.rig_revision()
    }

    /// Makes the motion of a run again; the same every time. `None` when there is no such run.
    pub fn footage(&self, number: u32) -> Option<Result<Arc<Run>, RigError>> {
        self.make(self.state.run(number)?)
    }

    /// The apparatus as it is set now, but for free settings that are typed otherwise: the run that would come, and its scene. Only its
    /// first frame is for people's eyes.
    ///
    /// # Errors
    /// [`Refusal`] without a rig, or when something cannot be set so.
    pub fn setup(&self, typed: &BTreeMap<String, String>) -> Result<SetUp, Refusal> {
        let mut settings = self.state.run.settings.clone();
        for (name, typed) in typed {
            settings.insert(name.clone(), self.read_typed(name, typed)?);
        }
        let entry = RunEntry { settings, ..self.next_run() };
        let none = || Refusal::Absent(Absent::Rig);
        let rig = self.sheet.rig().ok_or_else(none)?;
        let pictured = self.pictured(&entry);
        let run = self.make(&entry).ok_or_else(none)??;
        let (scene, clock) = (rig.scene(&pictured, &run), rig.clock(&pictured));
        Ok(SetUp { settings: entry.settings, run, scene, clock })
    }

    /// The clock of a run.
    pub fn clock(&self, number: u32) -> Option<Clock> {
        Some(self.sheet.rig()?.clock(&self.run_settings(number)?))
    }

    /// The motion of a run as everybody sees it.
    fn make(&self, entry: &RunEntry) -> Option<Result<Arc<Run>, RigError>> {
        self.motion(&self.pictured(entry), entry)
    }

    fn motion(&self, settings: &Settings, entry: &RunEntry) -> Option<Result<Arc<Run>, RigError>> {
        let rig = self.sheet.rig()?;
        // Dealt from the edit that made the run, so that no two runs have the same luck, and a run made again has its own.
        let seed = if rig.left_to_chance() { Chance::of(self.seed, "luck", entry.born).deal() } else { 0 };
        Some(self.recall.run(rig, settings, entry.pull.as_ref(), seed, rig.clock(settings).sampling()))
    }
}

/// The apparatus before it runs.
#[derive(Clone, Debug)]
pub struct SetUp {
    /// The free settings, by name.
    pub settings: BTreeMap<String, SettingValue>,
    /// The run that would come.
    pub run: Arc<Run>,
    /// How it is drawn.
    pub scene: Scene,
    /// Its clock.
    pub clock: Clock,
}

/// The tables, the graph and the result a sheet starts with.
fn started(sheet: &LabSheet) -> (RecordState, GraphState, ResultState) {
    let result = ResultSpec {
        accepted: sheet.goal.accepted.clone(),
        source: sheet.goal.source.clone(),
        ..ResultSpec::default()
    };
    (
        RecordState { tables: start_tables(sheet), held: Vec::new() },
        GraphState { graphs: vec![GraphSpec::default()] },
        ResultState { results: vec![result] },
    )
}

/// The tables a sheet starts with. Given values make rows.
fn start_tables(sheet: &LabSheet) -> Vec<Arc<Record>> {
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
                let (name, symbol) = (c.name.clone(), c.symbol.clone());
                let column = Column::of_readings(id, c.kind, name, symbol, c.unit.clone());
                let column =
                    Column { precision: c.precision.clone(), source: c.source.clone().map(Box::new), ..column };
                (column, c)
            })
            .collect();
        let long = columns.iter().map(|(_, c)| c.values.len()).max().unwrap_or(0);
        let rows = (0..long).map(|i| {
            let given = columns.iter().filter_map(|(column, c)| Some((column.id, Box::new(c.values.get(i)?.clone()))));
            let row = Row { id: row_id, cells: given.collect(), ..Row::default() };
            row_id += 1;
            row
        });
        let rows = rows.collect();
        let group = columns.iter().find(|(_, c)| c.groups).map(|(column, _)| column.id);
        Arc::new(Record {
            id,
            name: name.to_owned(),
            columns: columns.into_iter().map(|(c, _)| c).collect(),
            rows,
            group,
            ..Record::default()
        })
    });
    tables.collect()
}
