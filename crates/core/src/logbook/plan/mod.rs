//! From an edit to elementary changes: reads what was typed, checks it, and refuses what cannot be done.

mod film;
mod forecast;
mod graph;
mod moment;
mod paste;
mod record;
mod restore;
mod result;
mod run;

pub use moment::Seen;

use super::Logbook;
use super::edit::Edit;
use super::instrument::Instrument;
use super::refusal::Refusal;
use super::state::{Patch, TextField, Tools};
use crate::lab::Freedom;
use crate::quantity::{Decimal, Origin, Reading, Unit};
use crate::rigs::{Sampling, SettingValue};

/// Longest text of the write-up, in characters.
const LONGEST_TEXT: usize = 20_000;
/// Longest name of a column, a table, a graph or a result, in characters.
const LONGEST_NAME: usize = 40;
/// The tape is never laid farther out than this, in m or px.
pub(super) const FARTHEST: f64 = 1e4;

/// The changes an edit asks for.
#[derive(Debug, Default)]
pub(super) struct Planned {
    pub patches: Vec<Patch>,
    /// What the person should know about them.
    pub word: Option<String>,
}

impl From<Vec<Patch>> for Planned {
    fn from(patches: Vec<Patch>) -> Self {
        Self { patches, word: None }
    }
}

type Plan = Result<Vec<Patch>, Refusal>;

/// Ids that nothing in the logbook has had.
pub(super) struct Fresh(pub u32);

impl Fresh {
    fn next(&mut self) -> u32 {
        self.0 += 1;
        self.0 - 1
    }
}

impl Logbook {
    pub(super) fn plan(&self, edit: &Edit, fresh: &mut Fresh) -> Result<Planned, Refusal> {
        let state = &self.state;
        let patches = match edit {
            Edit::SetSetting { name, typed } => self.plan_setting(name, typed),
            Edit::Run
            | Edit::GoOn
            | Edit::StopHere { .. }
            | Edit::Pull { .. }
            | Edit::ChooseRun { .. }
            | Edit::NameRun { .. }
            | Edit::ShowRun { .. }
            | Edit::DeleteRun { .. }
            | Edit::PlanTrials { .. }
            | Edit::RunTrial
            | Edit::DropPlan
            | Edit::Record { .. } => return self.plan_run(edit, fresh),
            Edit::Sketch { .. } | Edit::Suppose { .. } | Edit::Predict { .. } | Edit::StateOutcome { .. } => {
                self.plan_forecast(edit)
            }
            Edit::PlaceTools { tools } if state.shown.is_some() => self.plan_film_tools(tools),
            Edit::PlaceTools { tools } => self.plan_tools(tools),
            Edit::ChooseFilm { .. }
            | Edit::PlaceRuler { .. }
            | Edit::DeleteRuler { .. }
            | Edit::PlaceAxes { .. }
            | Edit::AddTrail { .. }
            | Edit::NameTrail { .. }
            | Edit::DeleteTrail { .. }
            | Edit::PlaceMark { .. }
            | Edit::PlaceMarks { .. }
            | Edit::DeleteMarks { .. }
            | Edit::AddFromTrail { .. } => return self.plan_film(edit, fresh),
            Edit::LogReading { row, column, instrument } => {
                let (table, target) = self.writable(*column)?;
                let reading = self.read(instrument)?;
                let wanted = target.unit.clone().unwrap_or_default();
                // Logged in the column's unit, as it is read off.
                let fitting = reading.in_unit(&wanted).ok_or_else(|| Refusal::WrongUnit {
                    reading: reading.unit.clone(),
                    symbol: target.symbol.clone(),
                    column: wanted,
                })?;
                self.put(table, *row, *column, Some(fitting), fresh)
            }
            Edit::Write { field, text, was } => self.plan_text(*field, text, was),
            Edit::Paste { table, name, row, column, text } => {
                return self.plan_paste(*table, name, (*row, *column), text, fresh);
            }
            Edit::FillColumn { column, from, to, count } => {
                return self.plan_fill(*column, (from, to), *count as usize, fresh);
            }
            Edit::AddRun { column } => return self.plan_add_run(*column, fresh),
            Edit::Restore { content } => return self.plan_restore(content, fresh),
            // The logbook itself deals with these four.
            Edit::HandIn | Edit::SendBack { .. } | Edit::Undo | Edit::Redo => Ok(Vec::new()),
            Edit::AddGraph
            | Edit::DeleteGraph { .. }
            | Edit::NameGraph { .. }
            | Edit::AddSeries { .. }
            | Edit::RemoveSeries { .. }
            | Edit::SetAxis { .. }
            | Edit::Zoom { .. }
            | Edit::ShowOnGraph { .. }
            | Edit::ChooseFit { .. }
            | Edit::ChooseModel { .. }
            | Edit::AddStretch { .. }
            | Edit::ChangeStretch { .. }
            | Edit::DeleteStretch { .. }
            | Edit::LookAhead { .. }
            | Edit::ChooseShape { .. }
            | Edit::FillGap { .. }
            | Edit::ChooseAxes { .. } => self.plan_graph(edit, fresh),
            Edit::AddResult { .. }
            | Edit::NameResult { .. }
            | Edit::DeleteResult { .. }
            | Edit::ChooseSource { .. }
            | Edit::StateReading { .. }
            | Edit::StateLaw { .. }
            | Edit::StateAccepted { .. }
            | Edit::StateSource { .. } => self.plan_result(edit, fresh),
            in_record => self.plan_record(in_record, fresh),
        };
        patches.map(Planned::from)
    }

    fn plan_setting(&self, name: &str, typed: &str) -> Plan {
        let free = self.rule(name).filter(|r| r.freedom == Freedom::Free);
        let rule = free.ok_or_else(|| {
            Refusal::Invalid(format!("The setting “{name}” is not free in this lab. Nothing was changed."))
        })?;
        let current = self.state.settings.get(name).unwrap_or(&rule.value);
        let value = self.sheet.card.check(name, typed).map_err(|message| Refusal::Value {
            message,
            kept: format!("The setting is still {}", self.setting_words(name, current)),
        })?;
        Ok(vec![Patch::Setting(name.to_owned(), value)])
    }

    fn plan_text(&self, field: TextField, text: &str, was: &str) -> Plan {
        let text = text.replace("\r\n", "\n");
        if text.chars().count() > LONGEST_TEXT {
            return Err(Refusal::Limit(format!(
                "The {} can have {LONGEST_TEXT} characters. What was saved before is kept; shorten the text to save it.",
                field.name()
            )));
        }
        let current = self.state.texts.get(&field).map_or("", String::as_str);
        if current != was.replace("\r\n", "\n") && current != text {
            return Err(Refusal::TextChanged { field: field.name() });
        }
        Ok(vec![Patch::Text(field, text)])
    }

    /// What an instrument shows.
    fn read(&self, instrument: &Instrument) -> Result<Reading, Refusal> {
        let metre = || Unit::coherent(&crate::quantity::Dimension::of([1, 0, 0, 0, 0, 0, 0]));
        let second = || Unit::coherent(&crate::quantity::Dimension::of([0, 0, 1, 0, 0, 0, 0]));
        match instrument {
            Instrument::Split { run, start, end } => {
                self.frame_of(*run, *start)?;
                self.frame_of(*run, *end)?;
                let (start, end) = (*start.min(end), *start.max(end));
                let step = Sampling::STAGE_EVERY;
                let number = Decimal::rounded(f64::from(end - start) * step, step);
                Ok(Reading {
                    number,
                    unit: second(),
                    resolution: step,
                    origin: Origin::Split { run: *run, start, end },
                })
            }
            Instrument::Tape { run, frame, zero, reading, tenths } => {
                self.frame_of(*run, *frame)?;
                if !zero.iter().chain(reading).all(|v| v.abs() < FARTHEST) || tenths.is_some_and(|t| t > 9) {
                    return Err(Refusal::Invalid("The tape lies outside the scene. Nothing was written.".to_owned()));
                }
                let distance = (reading[0] - zero[0]).hypot(reading[1] - zero[1]);
                let (value, resolution) = tape_reading(distance, self.sheet.card.division, *tenths);
                Ok(Reading {
                    number: Decimal::rounded(value, resolution),
                    unit: metre(),
                    resolution,
                    origin: Origin::Tape { run: *run, frame: *frame, zero: *zero, reading: *reading },
                })
            }
            Instrument::Meter { run, name, frame } => self.read_meter(*run, name, *frame),
            Instrument::FilmSplit { .. } | Instrument::FilmTape { .. } => self.read_film(instrument),
            Instrument::Moment { of, what, mass } => self.read_moment(of, what, mass),
            Instrument::Setting { name } => {
                let rule = self.rule(name).filter(|r| r.freedom != Freedom::Hidden);
                let value = rule.map(|r| self.state.settings.get(name).unwrap_or(&r.value));
                let Some(SettingValue::Quantity(number, unit)) = value else {
                    return Err(Refusal::Invalid(format!(
                        "“{name}” is not a setting that can be logged. Nothing was written."
                    )));
                };
                let run = self.state.run_on_stage().filter(|_| !self.settings_are_new());
                let origin = Origin::Setting { name: name.clone(), run };
                Ok(Reading { resolution: number.last_digit(), number: number.clone(), unit: unit.clone(), origin })
            }
        }
    }

    fn frame_of(&self, run: u32, frame: u32) -> Result<(), Refusal> {
        let entry = self
            .state
            .run(run)
            .ok_or_else(|| Refusal::Gone(format!("Run {run} is no longer in this logbook. Nothing was written.")))?;
        if frame >= entry.made.frames {
            return Err(Refusal::Invalid(format!("Run {run} has no frame {frame}. Nothing was written.")));
        }
        Ok(())
    }

    fn plan_tools(&self, tools: &Tools) -> Plan {
        let frames = self.state.run_on_stage().and_then(|n| self.state.run(n)).map_or(0, |r| r.made.frames);
        let moments = [Some(tools.zero), tools.start, tools.end];
        let ends = tools.tape.iter().flatten().flatten();
        if moments.into_iter().flatten().any(|f| f >= frames) || !ends.into_iter().all(|v| v.abs() < FARTHEST) {
            return Err(Refusal::Invalid(
                "The tools cannot stand outside the run. They are where they were.".to_owned(),
            ));
        }
        Ok(vec![Patch::Tools(tools.clone())])
    }

    /// A setting's value for people.
    fn setting_words(&self, name: &str, value: &SettingValue) -> String {
        self.sheet.card.setting(name).map_or_else(|| value.pretty(), |s| s.pretty(value))
    }
}

/// What the tape shows for a distance, and its resolution; all in m. With a tenth estimated by eye, the
/// last division passed counts; without, the nearest one.
pub(super) fn tape_reading(distance: f64, division: f64, tenths: Option<u8>) -> (f64, f64) {
    let divisions = distance / division;
    match tenths {
        None => (divisions.round() * division, division),
        // A distance of exactly 1.500 m may be stored a little low.
        Some(t) => (((divisions + 1e-6).floor() + f64::from(t) / 10.0) * division, division / 10.0),
    }
}

fn pretty(number: &Decimal, unit: &Unit) -> String {
    crate::quantity::format::with_unit(&number.pretty(), unit)
}

fn named(unit: &Unit) -> String {
    if unit.is_one() { "pure numbers".to_owned() } else { unit.pretty() }
}

/// A name of 1 to 40 characters.
fn name_of(typed: &str, of: &str) -> Result<String, Refusal> {
    let name = typed.trim();
    if name.is_empty() || name.chars().count() > LONGEST_NAME {
        return Err(Refusal::Invalid(format!(
            "The name of {of} needs 1 to {LONGEST_NAME} characters. Nothing was changed."
        )));
    }
    Ok(name.to_owned())
}

fn gone(what: &str) -> Refusal {
    Refusal::Gone(format!("This {what} is no longer in the logbook: it was deleted meanwhile. Nothing was changed."))
}
