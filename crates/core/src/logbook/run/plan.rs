//! Edits of runs: running the rig, earlier runs, planned trials, recordings, meters.

use super::{Made, RunChange, RunEdit, RunEntry, TrialPlan};
use crate::lab::Freedom;
use crate::logbook::Flaw;
use crate::logbook::Heard;
use crate::logbook::Logbook;
use crate::logbook::RunRefusal;
use crate::logbook::change::Change;
use crate::logbook::planning::{Changes, Fresh, LONGEST_NAME, Plan, Planned, name_of, nothing_changed, pretty, seen};
use crate::logbook::record::RowAt;
use crate::logbook::refusal::{Absent, Counted, Kept, Limit, Named, Refusal, Thing};
use crate::logbook::state::State;
use crate::motion::Tools;
use crate::quantity::{Decimal, Footage, Origin, Reading};
use crate::rigs::{RigError, SettingKind, SettingValue, Shows, merged};

/// Most runs of a logbook.
pub(in crate::logbook) const MOST_RUNS: usize = 500;
/// Most trials of a plan.
const MOST_PLANNED: u32 = 100;

/// Meters by name, each with what it shows, if anything.
pub type Shown = Vec<(&'static str, Option<String>)>;

impl Logbook {
    pub(in crate::logbook) fn plan_run(&self, edit: &RunEdit, fresh: &mut Fresh) -> Plan {
        let state = &self.state;
        let changes = match edit {
            RunEdit::Run => {
                return self.plan_new_run(self.next_run(), state.run.runs.len());
            }
            RunEdit::Pull { motion } => {
                if !self.sheet.by_hand() {
                    return Err(Refusal::from(RunRefusal::NotByHand));
                }
                motion.check().map_err(nothing_changed)?;
                let pull = Some(motion.clone());
                let entry = RunEntry { pull, ..self.next_run() };
                return self.plan_new_run(entry, state.run.runs.len());
            }
            RunEdit::GoOn => {
                let number = state.run_on_stage().ok_or(Refusal::Gone(Thing::Run))?;
                let entry = state.run(number).ok_or(Refusal::Gone(Thing::Run))?;
                if !self.can_go_on() {
                    return Err(Refusal::from(RunRefusal::CannotGoOn));
                }
                let entry = RunEntry { settings: state.run.settings.clone(), ..entry.clone() };
                return self.plan_new_run(entry, number as usize - 1);
            }
            RunEdit::StopHere { frame } => self.plan_stop(*frame)?,
            RunEdit::ChooseRun { run } => {
                let entry = state.run(*run).ok_or(Refusal::Gone(Thing::Run))?;
                let mut changes = vec![
                    Change::Run(RunChange::OnStage { run: Some(*run) }),
                    Change::Run(RunChange::Tools { tools: fresh_tools(state) }),
                ];
                // Its settings come with it, so that it can be varied from there.
                changes.extend(
                    entry
                        .settings
                        .iter()
                        .map(|(n, v)| Change::Run(RunChange::Setting { name: n.clone(), value: v.clone() })),
                );
                changes
            }
            RunEdit::TakeDeal { deal } => self.plan_deal(*deal, fresh)?,
            RunEdit::NameRun { run, name } => {
                let name = if name.trim().is_empty() { String::new() } else { name_of(name, Named::Run)? };
                self.changed_run(*run, |r| r.name = name)?
            }
            RunEdit::ShowRun { run, on } => self.changed_run(*run, |r| r.faint = *on)?,
            RunEdit::DeleteRun { run } => {
                let mut changes = self.changed_run(*run, |r| r.gone = true)?;
                if state.run_on_stage() == Some(*run) {
                    changes.push(Change::Run(RunChange::OnStage { run: None }));
                    changes.push(Change::Run(RunChange::Tools { tools: fresh_tools(state) }));
                }
                changes
            }
            RunEdit::PlanTrials { name, from, to, count, column } => {
                return self.plan_trials(name, (from, to), *count, *column);
            }
            RunEdit::RunTrial => return self.plan_trial(fresh),
            RunEdit::DropPlan => vec![Change::Run(RunChange::Plan { plan: None })],
            RunEdit::Record { channels, from, to, every, into } => {
                return self.plan_recording(channels, (*from, *to), *every, *into, fresh);
            }
            RunEdit::SetSetting { name, typed } => {
                let value = self.read_typed(name, typed)?;
                vec![Change::Run(RunChange::Setting { name: name.clone(), value })]
            }
            RunEdit::SetSettings { typed, seen } => {
                // All of them or none.
                let read = typed.iter().map(|(name, typed)| Ok((name, self.read_typed(name, typed)?)));
                let mut read = read.collect::<Result<Vec<_>, Refusal>>()?;
                // Nodes of a ready-made track become nodes of one's own as a whole.
                let differs = |(name, value): &&(&String, SettingValue)| state.run.settings.get(*name) != Some(value);
                if read.iter().filter(differs).count() == 1 {
                    for (name, value) in &mut read {
                        self.merge_path(name, value, seen.get(*name))?;
                    }
                }
                let change = |(name, value): (&String, SettingValue)| RunChange::Setting { name: name.clone(), value };
                read.into_iter().map(|one| Change::Run(change(one))).collect()
            }
        };
        Ok(changes.into())
    }

    /// Keeps what somebody else did to other nodes of a path since this person saw it.
    fn merge_path(&self, name: &str, mine: &mut SettingValue, seen: Option<&String>) -> Result<(), Refusal> {
        let now = self.state.run.settings.get(name);
        let (Some(seen), SettingValue::Path(nodes), Some(SettingValue::Path(theirs))) = (seen, &*mine, now) else {
            return Ok(());
        };
        let SettingValue::Path(seen) = self.read_typed(name, seen)? else { return Ok(()) };
        let both = merged(&seen, nodes, theirs).ok_or_else(|| Refusal::from(RunRefusal::TrackChanged))?;
        *mine = self.read_typed(name, &SettingValue::Path(both).pretty())?;
        Ok(())
    }

    /// A typed value of a free setting.
    pub(in crate::logbook) fn read_typed(&self, name: &str, typed: &str) -> Result<SettingValue, Refusal> {
        let free = self.rule(name).filter(|r| r.freedom == Freedom::Free);
        let rule = free.ok_or_else(|| Refusal::from(RunRefusal::NotFree { name: name.to_owned() }))?;
        let current = self.state.run.settings.get(name).unwrap_or(&rule.value);
        self.sheet
            .card
            .check(name, typed)
            .map_err(|e| Refusal::Value { wrong: e.into(), kept: Kept::Setting(self.setting_words(name, current)) })
    }

    /// A setting's value for people.
    fn setting_words(&self, name: &str, value: &SettingValue) -> String {
        self.sheet.card.setting(name).map_or_else(|| value.pretty(), |s| s.pretty(value))
    }

    /// A run that takes a place among the runs, and what the rig has to say about it.
    fn plan_new_run(&self, mut entry: RunEntry, place: usize) -> Plan {
        if self.sheet.rig().is_none() {
            return Err(Refusal::from(RunRefusal::Filmed));
        }
        if place >= MOST_RUNS {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Runs, most: MOST_RUNS }));
        }
        let missing = self.forecast_missing();
        if !missing.is_empty() {
            return Err(Refusal::ForecastFirst { missing });
        }
        let goes_on = place < self.state.run.runs.len();
        if !goes_on {
            entry.born = self.seq + 1;
        }
        self.remake(&mut entry)?;
        let outcome = entry.made.outcome.clone();
        // Its path stays in the picture when the next one comes.
        entry.faint |= !goes_on;
        let mut changes = vec![
            Change::Run(RunChange::Run { place, entry: Some(Box::new(entry)) }),
            Change::Run(RunChange::OnStage { run: Some(place as u32 + 1) }),
        ];
        if !goes_on {
            changes.push(Change::Run(RunChange::Tools { tools: fresh_tools(&self.state) }));
        }
        changes.push(seen());
        changes.extend(self.seen_again());
        let heard = outcome.is_told().then_some(Heard::Run(outcome)).into_iter().collect();
        Ok(Planned { heard, ..changes.into() })
    }

    /// Finds out again what the rig makes of a run.
    pub(in crate::logbook) fn remake(&self, entry: &mut RunEntry) -> Result<(), RigError> {
        if let Some(run) = self.make(entry) {
            let run = run?;
            let frames = u32::try_from(run.frames()).unwrap_or(u32::MAX);
            entry.made = Made { frames, outcome: run.outcome.clone(), revision: self.rig_revision() };
        }
        Ok(())
    }

    /// Whether the run on the stage can go on with the settings as they stand: its open stretch was ended, and nothing before that
    /// is changed.
    pub fn can_go_on(&self) -> bool {
        let state = &self.state;
        let Some(run) = state.run_on_stage().and_then(|n| state.run(n)).filter(|r| r.pull.is_none()) else {
            return false;
        };
        let line = |name: &str| self.sheet.card.setting(name).and_then(|s| s.line);
        let blank = |v: &SettingValue| matches!(v, SettingValue::Blank(_));
        let open = run.settings.iter().filter(|(name, v)| name.starts_with("duration") && blank(v));
        let Some(open) = open.filter_map(|(name, _)| line(name)).min() else { return false };
        let ended = format!("duration {open}");
        self.sheet.by_hand()
            && state.run.settings.get(&ended).is_some_and(|v| !blank(v))
            && run.settings.iter().all(|(name, was)| {
                *name == ended || line(name).is_some_and(|l| l > open) || state.run.settings.get(name) == Some(was)
            })
    }

    /// The run with this number.
    pub(in crate::logbook) fn run_entry(&self, number: u32) -> Result<&RunEntry, Refusal> {
        let gone = || Refusal::Absent(Absent::Run(number));
        self.state.run(number).ok_or_else(gone)
    }

    fn changed_run(&self, number: u32, change: impl FnOnce(&mut RunEntry)) -> Changes {
        let mut entry = self.state.run(number).ok_or(Refusal::Gone(Thing::Run))?.clone();
        change(&mut entry);
        Ok(vec![Change::Run(RunChange::Run { place: number as usize - 1, entry: Some(Box::new(entry)) })])
    }

    /// The stretch that lasts until it is stopped gets the time from its beginning to the frame.
    fn plan_stop(&self, frame: u32) -> Changes {
        let state = &self.state;
        let number = state.run_on_stage().ok_or(Refusal::Gone(Thing::Run))?;
        let run = state.run(number).ok_or(Refusal::Gone(Thing::Run))?;
        let clock = self.clock(number).ok_or(Refusal::Gone(Thing::Run))?;
        let mut before = 0.0;
        for spec in self.sheet.card.durations() {
            match run.settings.get(spec.name) {
                Some(SettingValue::Blank(_)) => {
                    let (_, digit, unit) = clock.written();
                    let lasts = Decimal::rounded((f64::from(frame) * clock.every - before) / unit.size(), digit);
                    let value = spec.check(&format!("{} {unit}", lasts.as_str())).map_err(nothing_changed)?;
                    return Ok(vec![Change::Run(RunChange::Setting { name: spec.name.to_owned(), value })]);
                }
                Some(value) => before += value.si().unwrap_or_default(),
                None => break,
            }
        }
        Err(Refusal::from(RunRefusal::NotOpen))
    }

    fn plan_trials(&self, name: &str, (from, to): (&str, &str), count: u32, column: Option<u32>) -> Plan {
        let spec =
            self.sheet.card.setting(name).filter(|_| self.rule(name).is_some_and(|r| r.freedom == Freedom::Free));
        let Some((spec, SettingKind::Quantity { resolution, unit, .. })) = spec.map(|s| (s, &s.kind)) else {
            return Err(Refusal::from(RunRefusal::NotPlanned { name: name.to_owned() }));
        };
        if !(2..=MOST_PLANNED).contains(&count) {
            return Err(Refusal::from(RunRefusal::PlanCount { most: MOST_PLANNED }));
        }
        let end = |typed: &str| {
            let value = spec.check(typed).map_err(nothing_changed)?;
            value.si().map(|v| v / unit.size()).ok_or_else(|| Refusal::from(RunRefusal::EndsWanted))
        };
        let (a, b) = (end(from)?, end(to)?);
        let step = (b - a) / f64::from(count - 1);
        if step.abs() < resolution * 0.999 {
            let steps = ((b - a).abs() / resolution).round() as u32 + 1;
            return Err(Refusal::from(RunRefusal::TooFine {
                setting: spec.label,
                step: crate::quantity::format::with_unit(&resolution.to_string(), unit),
                values: steps,
            }));
        }
        let value = |i: u32| {
            let exact = a + step * f64::from(i);
            SettingValue::Quantity(
                Decimal::rounded((exact / resolution).round() * resolution, *resolution),
                unit.clone(),
            )
        };
        if let Some(id) = column {
            let (_, column) = self.writable(id)?;
            if !column.unit.as_ref().is_some_and(|u| u.same_dimension(unit)) {
                return Err(Refusal::WrongUnit {
                    reading: unit.clone(),
                    symbol: column.symbol.clone(),
                    column: column.unit.clone().unwrap_or_default(),
                });
            }
        }
        let values: Vec<SettingValue> = (0..count).map(value).collect();
        let mut changes = vec![Change::Run(RunChange::Setting { name: name.to_owned(), value: values[0].clone() })];
        changes.push(Change::Run(RunChange::Plan {
            plan: Some(TrialPlan { setting: name.to_owned(), values, done: 0, column }),
        }));
        let heard = self.sheet.advice(count as usize).map(Heard::Trials).into_iter().collect();
        Ok(Planned { heard, ..changes.into() })
    }

    /// Runs the next trial of the plan: sets the value, runs, and begins a row with it.
    fn plan_trial(&self, fresh: &mut Fresh) -> Plan {
        let state = &self.state;
        let plan = state.run.plan.as_ref().ok_or(Refusal::Gone(Thing::Plan))?;
        let Some(value) = plan.values.get(plan.done) else {
            return Err(Refusal::from(RunRefusal::AllRun));
        };
        let mut settings = state.run.settings.clone();
        settings.insert(plan.setting.clone(), value.clone());
        let number = state.run.runs.len() as u32 + 1;
        let mut planned = self.plan_new_run(RunEntry { settings, ..self.next_run() }, state.run.runs.len())?;
        planned.changes.push(Change::Run(RunChange::Setting { name: plan.setting.clone(), value: value.clone() }));
        planned
            .changes
            .push(Change::Run(RunChange::Plan { plan: Some(TrialPlan { done: plan.done + 1, ..plan.clone() }) }));
        if let (Some((table, column)), SettingValue::Quantity(number_set, unit)) =
            (plan.column.and_then(|c| self.writable(c).ok()), value)
        {
            let reading = Reading {
                resolution: number_set.last_digit(),
                number: number_set.clone(),
                unit: unit.clone(),
                origin: Origin::Setting { name: plan.setting.clone(), run: Some(number) },
            };
            let wanted = column.unit.clone().unwrap_or_default();
            if let Some(fitting) = reading.in_unit(&wanted) {
                // The first row without anything in it, or a new one.
                let empty = table.rows.iter().find(|r| r.cells.is_empty());
                let empty = empty.map_or(RowAt::Below, |r| RowAt::There(r.id));
                planned.changes.extend(self.put(table, empty, column.id, Some(fitting), fresh)?);
            }
        }
        Ok(planned)
    }

    /// What a meter shows of a run at a frame.
    pub(in crate::logbook) fn read_meter(&self, number: u32, name: &str, frame: u32) -> Result<Reading, Refusal> {
        self.frame_of(Footage::Run(number), frame)?;
        let entry = self.state.run(number).ok_or(Refusal::Gone(Thing::Run))?;
        let run = self.exact(entry).ok_or(Refusal::Gone(Thing::Run))??;
        let nothing = || Refusal::from(RunRefusal::MeterEmpty { name: name.to_owned(), run: number });
        let meter = self.sheet.card.meter(name).filter(|m| self.sheet.meters.contains(&m.name)).ok_or_else(nothing)?;
        let value = meter.read(&run, frame as usize, self.chance_of(number, entry)).ok_or_else(nothing)?;
        let frame = matches!(meter.shows, Shows::Now(_)).then_some(frame);
        Ok(Reading {
            number: meter.shown(value),
            unit: meter.unit.clone(),
            resolution: meter.width(value),
            origin: Origin::Meter { name: meter.label.to_owned(), run: number, frame },
        })
    }

    /// All meters of a run at a frame: name and what it shows, if anything.
    ///
    /// # Errors
    /// [`RigError`] when the motion cannot be made again. `None` when there is no such run.
    pub fn meters(&self, number: u32, frame: u32) -> Option<Result<Shown, RigError>> {
        let entry = self.state.run(number)?;
        let run = match self.exact(entry)? {
            Ok(run) => run,
            Err(e) => return Some(Err(e)),
        };
        let chance = self.chance_of(number, entry);
        let show = |m: &crate::rigs::MeterSpec| {
            let value = m.read(&run, frame as usize, chance)?;
            Some(pretty(&m.shown(value), &m.unit))
        };
        let on_bench = self.sheet.card.meters.iter().filter(|m| self.sheet.meters.contains(&m.name));
        Some(Ok(on_bench.map(|m| (m.name, show(m))).collect()))
    }

    /// Runs of a file that is brought back: nothing in it is trusted.
    pub(in crate::logbook) fn check_restored_runs(&self, state: &State) -> Result<(), Flaw> {
        let numbers = state.run.on_stage.iter().all(|n| (1..=state.run.runs.len()).contains(&(*n as usize)));
        let names = state.run.runs.iter().all(|r| r.name.chars().count() <= LONGEST_NAME);
        let pulls = state.run.runs.iter().filter_map(|r| r.pull.as_ref());
        if !numbers || !names || pulls.into_iter().any(|p| !self.sheet.by_hand() || p.check().is_err()) {
            return Err(Flaw::Runs);
        }
        let plan = state.run.plan.iter().all(|p| p.values.len() <= MOST_PLANNED as usize && p.done <= p.values.len());
        if !plan || !crate::logbook::forecast::plan::sound(&state.forecast) {
            return Err(Flaw::PlanOrForecast);
        }
        Ok(())
    }
}

/// Tools for a run that has just come on the stage: the tape stays where it is.
pub(in crate::logbook) fn fresh_tools(state: &State) -> Tools {
    Tools { tape: state.run.tools.tape, ..Tools::default() }
}
