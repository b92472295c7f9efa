//! From an edit to elementary changes: reads what was typed, checks it, and refuses what cannot be done. Nothing is changed here; a
//! plan is done by [`Logbook::take`], once it is stored.

use super::Logbook;
use super::change::Change;
use super::deed::{Deed, Turn};
use super::edit::Edit;
use super::forecast::ForecastChange;
use super::heard::Heard;
use super::run::RunChange;
use super::touched::Touched;
use crate::inquiry::Step;
use crate::logbook::refusal::{Kept, Named, Refusal, ValueError};
use crate::quantity::{Decimal, Unit};

/// Longest text of the write-up, in characters.
pub(super) const LONGEST_TEXT: usize = 20_000;
/// Longest name of a column, a table, a graph or a result, in characters.
pub(super) const LONGEST_NAME: usize = 40;
/// Ids below this belong to what a sheet starts with.
pub(super) const FIRST_ID: u32 = 1000;

/// The changes an edit asks for.
#[derive(Debug, Default)]
pub(super) struct Planned {
    pub turn: Turn,
    pub changes: Vec<Change>,
    /// What the person should know about them.
    pub heard: Vec<Heard>,
}

impl From<Vec<Change>> for Planned {
    fn from(changes: Vec<Change>) -> Self {
        Self { changes, ..Self::default() }
    }
}

pub(super) type Plan = Result<Planned, Refusal>;
pub(super) type Changes = Result<Vec<Change>, Refusal>;

/// What an edit would do, not done yet.
#[derive(Clone, Debug, PartialEq)]
pub struct Intent {
    /// What is to be stored.
    pub deed: Deed,
    /// What the person should hear about it.
    pub heard: Vec<Heard>,
    /// What it is about; nothing where nothing changes.
    pub about: Option<Touched>,
}

/// Ids that nothing in the logbook has had.
pub(super) struct Fresh(pub u32);

impl Fresh {
    pub fn next(&mut self) -> u32 {
        self.0 += 1;
        self.0 - 1
    }
}

impl Logbook {
    /// Reads and checks an edit, and works out what it would change. `at` is the time in seconds since 1970 (UTC).
    ///
    /// # Errors
    /// [`Refusal`], which says what was kept.
    pub fn plan(&self, edit: &Edit, at: i64) -> Result<Intent, Refusal> {
        if self.unread.is_some() {
            return Err(Refusal::Unread);
        }
        if self.state.office.handed_in && !edit.is_of_the_office() {
            return Err(Refusal::HandedIn);
        }
        if let Some(step) = self.step_of(edit) {
            self.check_open(step)?;
        }
        if let Some(open) = edit.step().and_then(|step| self.held_back(step)) {
            return Err(self.waiting(open.number + 1));
        }
        if let Some(step) = edit.step().and_then(|step| self.stamp_before(step)) {
            return Err(Refusal::StampFirst { step });
        }
        let mut fresh = Fresh(self.next_id);
        let planned = match edit {
            Edit::Run(edit) => self.plan_run(edit, &mut fresh),
            Edit::Footage(edit) => self.plan_footage(edit),
            Edit::Film(edit) => self.plan_film(edit, &mut fresh),
            Edit::Forecast(edit) => self.plan_forecast(edit, at),
            Edit::Record(edit) => self.plan_record(edit, &mut fresh),
            Edit::Graph(edit) => self.plan_graph(edit, &mut fresh),
            Edit::Model(edit) => self.plan_model(edit, &mut fresh),
            Edit::Result(edit) => self.plan_result(edit, &mut fresh),
            Edit::Writing(edit) => self.plan_writing(edit),
            Edit::Answer(edit) => self.plan_answer(edit),
            Edit::Claim(edit) => self.plan_claim(edit),
            Edit::WriteUp(edit) => self.plan_write_up(edit, &mut fresh),
            Edit::Office(edit) => self.plan_office(edit, &mut fresh, at),
            Edit::Undo => self.plan_undo(),
            Edit::Redo => {
                let changes = self.redo.last().cloned().ok_or(Refusal::NothingToRedo)?;
                let heard = Touched::by(&changes, &self.state).map(Heard::DoneAgain).into_iter().collect();
                Ok(Planned { turn: Turn::Redo, changes, heard })
            }
        }?;
        let Planned { turn, changes, mut heard } = planned;
        let mut deed = Deed { turn, changes, next_id: fresh.0 };
        let followed = self.let_follow(&mut deed);
        heard.extend((!followed.is_empty()).then_some(Heard::Followed(followed)));
        let about = Touched::by(&deed.changes, &self.state);
        Ok(Intent { deed, heard, about })
    }

    /// The step of the work an edit belongs to; none for what concerns the whole logbook or only looks.
    pub fn step_of(&self, edit: &Edit) -> Option<Step> {
        if let Edit::Answer(answer) = edit {
            let asked = self.sheet.questions.iter().find(|q| q.name == answer.question());
            return asked.map(|q| q.step);
        }
        edit.step()
    }

    fn plan_undo(&self) -> Plan {
        let changes = self.undo.last().cloned().ok_or(Refusal::NothingToUndo)?;
        let forecast = |c: &Change| matches!(c, Change::Forecast(ForecastChange { .. }));
        if self.forecast_stands() && changes.iter().any(forecast) {
            return Err(Refusal::ForecastStands);
        }
        let heard = Touched::by(&changes, &self.state).map(Heard::Undone).into_iter().collect();
        Ok(Planned { turn: Turn::Undo, changes, heard })
    }
}

/// The rig has been seen running.
pub(super) fn seen() -> Change {
    Change::Run(RunChange::Seen)
}

pub(super) fn pretty(number: &Decimal, unit: &Unit) -> String {
    crate::quantity::format::with_unit(&number.pretty(), unit)
}

/// A name of 1 to 40 characters.
pub(super) fn name_of(typed: &str, of: Named) -> Result<String, Refusal> {
    let name = typed.trim();
    if name.is_empty() || name.chars().count() > LONGEST_NAME {
        return Err(Refusal::Name { of, most: LONGEST_NAME });
    }
    Ok(name.to_owned())
}

/// A value that could not be taken, without anything else to be said about what was kept.
pub(super) fn nothing_changed(wrong: impl Into<ValueError>) -> Refusal {
    Refusal::Value { wrong: wrong.into(), kept: Kept::NothingChanged }
}
