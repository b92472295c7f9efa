//! The runs of a logbook: listed, compared, planned.

use zeitmass_core::lab::Freedom;
use zeitmass_core::logbook::{Logbook, RunEntry};
use zeitmass_core::quantity::Unit;
use zeitmass_core::record::ColumnKind;
use zeitmass_core::rigs::{SettingKind, SettingSpec, SettingValue};
use zeitmass_words::Words;

use super::Scene;

/// Runs that are compared at a time, the latest.
const MOST_COMPARED: usize = 7;

impl Scene<'_> {
    /// What is held and varied in the run on the stage: `run 3 · length 0.800 m · …`.
    pub(super) fn caption(&self) -> String {
        let state = self.book().state();
        let Some((number, run)) = state.run_on_stage().and_then(|n| Some((n, state.run(n)?))) else {
            return String::new();
        };
        run_words(self.book(), number, run)
    }

    pub(super) fn run_rows(&self, on_stage: Option<u32>) -> Vec<RunRow> {
        let (book, state) = (self.book(), self.book().state());
        let mut before: Option<&RunEntry> = None;
        let mut rows = Vec::new();
        for (number, run) in state.runs_kept() {
            let changed: Vec<String> = match before {
                Some(before) => run
                    .settings
                    .iter()
                    .filter_map(|(name, value)| {
                        let spec = book.sheet().card.setting(name)?;
                        let was = before.settings.get(name)?;
                        (was != value).then(|| format!("{} {} → {}", spec.label, spec.pretty(was), spec.pretty(value)))
                    })
                    .collect(),
                None => words_of(book, run),
            };
            rows.push(RunRow {
                number,
                name: run.name.clone(),
                on_stage: on_stage == Some(number),
                faint: run.faint,
                several: before.is_some() && changed.len() > 1,
                changed: if run.pull.is_some() {
                    "pulled by hand".to_owned()
                } else if changed.is_empty() {
                    "as the run before".to_owned()
                } else {
                    changed.join(", ")
                },
                said: run.made.outcome.words(),
                failed: run.made.outcome.failed,
            });
            before = Some(run);
        }
        rows.reverse();
        rows
    }

    /// The settings in which the run on the stage and those behind it differ; nothing for a single run.
    pub(super) fn compared(&self, on_stage: Option<u32>) -> Option<Compared> {
        let (book, state) = (self.book(), self.book().state());
        let of: Vec<(u32, &RunEntry)> = state.runs_kept().filter(|(n, r)| r.faint || Some(*n) == on_stage).collect();
        let of = &of[of.len().saturating_sub(MOST_COMPARED)..];
        if of.len() < 2 {
            return None;
        }
        let (mut rows, mut same) = (Vec::new(), Vec::new());
        for spec in book.rules().iter().filter_map(|r| book.sheet().card.setting(r.name)) {
            let values: Vec<String> = of
                .iter()
                .filter_map(|(_, r)| {
                    let value = r.settings.get(spec.name)?;
                    Some(if let SettingValue::Blank(meaning) = value { meaning.clone() } else { spec.pretty(value) })
                })
                .collect();
            match values.first() {
                Some(first) if values.iter().any(|v| v != first) => rows.push((spec.label, values)),
                Some(first) if spec.line.is_none() => same.push(format!("{} {first}", spec.label)),
                _ => {}
            }
        }
        Some(Compared { runs: of.iter().map(|(n, r)| title(*n, r)).collect(), rows, same: same.join(" · ") })
    }

    pub(super) fn plan(&self) -> Option<PlanView> {
        let book = self.book();
        let plan = book.state().run.plan.as_ref()?;
        let spec = book.sheet().card.setting(&plan.setting)?;
        let words = |i: usize| plan.values.get(i).map_or_else(String::new, |v| spec.pretty(v));
        Some(PlanView {
            label: spec.label,
            from: words(0),
            to: words(plan.values.len().saturating_sub(1)),
            done: plan.done,
            of: plan.values.len(),
            next: words(plan.done),
        })
    }

    /// Columns that may take the values of a plan: id, name, and the settings whose values fit.
    pub(super) fn set_columns(&self) -> Vec<(u32, String, Vec<&'static str>)> {
        let Some(table) = self.table() else { return Vec::new() };
        let set = table.record.columns.iter().filter(|c| c.kind == ColumnKind::Set);
        let fits = |unit: &Unit| {
            let all = self.plannable().into_iter();
            let card = &self.book().sheet().card;
            let of = |name: &str| match card.setting(name).map(|s| &s.kind) {
                Some(SettingKind::Quantity { unit: own, .. }) => own.same_dimension(unit),
                Some(SettingKind::Choice { .. } | SettingKind::Switch { .. } | SettingKind::Path { .. }) | None => {
                    false
                }
            };
            all.map(|(name, ..)| name).filter(|name| of(name)).collect()
        };
        set.map(|c| (c.id, format!("{} ({})", c.name, c.symbol), fits(&c.unit.clone().unwrap_or_default()))).collect()
    }

    /// Settings a plan of trials may vary.
    pub(super) fn plannable(&self) -> Vec<(&'static str, &'static str, String)> {
        let book = self.book();
        let free = book.rules().iter().filter(|r| r.freedom == Freedom::Free);
        free.filter_map(|r| {
            let spec = book.sheet().card.setting(r.name)?;
            matches!(spec.kind, SettingKind::Quantity { blank: None, .. })
                .then(|| (spec.name, spec.label, spec.range()))
        })
        .collect()
    }
}

/// A run with the settings it was run with, as far as a line holds them: `run 3 · length 0.800 m · …`.
pub(crate) fn run_words(book: &Logbook, number: u32, run: &RunEntry) -> String {
    let mut words = vec![title(number, run)];
    words.extend(words_of(book, run).into_iter().take(5));
    words.join(" · ")
}

/// The free settings of a run, blank ones left out.
fn words_of(book: &Logbook, run: &RunEntry) -> Vec<String> {
    if run.pull.is_some() {
        return vec!["pulled by hand".to_owned()];
    }
    let specs = book.rules().iter().filter_map(|r| book.sheet().card.setting(r.name));
    let counts = |spec: &&SettingSpec| {
        let with = spec.with.and_then(|(choice, option)| Some((run.settings.get(choice)?, option)));
        with.is_none_or(|(chosen, option)| matches!(chosen, SettingValue::Choice(name) if name == option))
    };
    let told = specs.filter(counts).filter_map(|spec| {
        let value = run.settings.get(spec.name)?;
        let blank = matches!(value, SettingValue::Blank(_));
        (!blank).then(|| format!("{} {}", spec.label, spec.pretty(value)))
    });
    told.collect()
}

/// What a run is called.
fn title(number: u32, run: &RunEntry) -> String {
    if run.name.is_empty() { format!("run {number}") } else { format!("run {number}, {}", run.name) }
}

pub(super) struct RunRow {
    pub(super) number: u32,
    pub(super) name: String,
    pub(super) on_stage: bool,
    pub(super) faint: bool,
    pub(super) several: bool,
    pub(super) changed: String,
    pub(super) said: String,
    pub(super) failed: bool,
}

/// Runs beside each other.
pub(super) struct Compared {
    pub(super) runs: Vec<String>,
    /// Label of a setting that differs, and its value in each run.
    pub(super) rows: Vec<(&'static str, Vec<String>)>,
    /// Settings that are the same in all of them.
    pub(super) same: String,
}

pub(super) struct PlanView {
    pub(super) label: &'static str,
    pub(super) from: String,
    pub(super) to: String,
    pub(super) done: usize,
    pub(super) of: usize,
    pub(super) next: String,
}
