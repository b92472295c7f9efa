//! Settings, instruments, runs and tools.

use askama::Template;
use zeitmass_core::lab::Freedom;
use zeitmass_core::logbook::HeldValue;
use zeitmass_core::rigs::{SettingKind, SettingValue};

use super::Scene;
use crate::notation::symbol_html;

impl Scene<'_> {
    pub(super) fn stage(&self) -> StagePart {
        let (book, state) = (self.book(), self.book().state());
        let held = book.held();
        let settings = book.sheet().settings.iter().zip(held).filter_map(|(rule, held)| {
            let spec = book.sheet().card.setting(rule.name)?;
            let value = state.settings.get(rule.name).unwrap_or(&rule.value);
            let note = match (rule.freedom, held.value) {
                (Freedom::Hidden, _) => "hidden by the sheet",
                (Freedom::Fixed, _) => "fixed by the sheet",
                (Freedom::Free, HeldValue::Varied) => "varied",
                (Freedom::Free, _) if state.runs.len() > 1 => "held",
                (Freedom::Free, _) => "",
            };
            Some(SettingRow {
                name: rule.name,
                label: spec.label,
                symbol: symbol_html(spec.symbol),
                // A hidden value never reaches the page.
                value: if rule.freedom == Freedom::Hidden { String::new() } else { value.pretty() },
                free: rule.freedom == Freedom::Free,
                hidden: rule.freedom == Freedom::Hidden,
                switch: matches!(spec.kind, SettingKind::Switch { .. }),
                on: rule.freedom != Freedom::Hidden && *value == SettingValue::Switch(true),
                loggable: rule.freedom != Freedom::Hidden && matches!(spec.kind, SettingKind::Quantity { .. }),
                range: spec.range(),
                note,
            })
        });
        let tools = &state.tools;
        let frame = |f: Option<u32>| f.map_or_else(String::new, |f| f.to_string());
        let tape = tools.tape.map(|[[a, b], [c, d]]| format!("{a},{b},{c},{d}"));
        StagePart {
            swap: self.swap,
            writable: self.open(),
            settings: settings.collect(),
            run: state.runs.len(),
            fresh: book.settings_are_new(),
            zero: tools.zero,
            start: frame(tools.start),
            end: frame(tools.end),
            tape: tape.unwrap_or_default(),
            caption: self.caption(),
        }
    }

    /// What is held and varied in the run on the stage: `run 3 · length 0.800 m · …`.
    fn caption(&self) -> String {
        let (book, state) = (self.book(), self.book().state());
        let Some(run) = state.runs.last() else { return String::new() };
        let mut words = vec![format!("run {}", state.runs.len())];
        for rule in &book.sheet().settings {
            if let (Some(spec), Some(value)) = (book.sheet().card.setting(rule.name), run.get(rule.name)) {
                words.push(format!("{} {}", spec.label, value.pretty()));
            }
        }
        words.join(" · ")
    }
}

struct SettingRow {
    name: &'static str,
    label: &'static str,
    symbol: String,
    value: String,
    free: bool,
    hidden: bool,
    switch: bool,
    on: bool,
    loggable: bool,
    range: String,
    note: &'static str,
}

#[derive(Template)]
#[template(path = "bench/stage_part.html")]
pub(super) struct StagePart {
    swap: bool,
    writable: bool,
    settings: Vec<SettingRow>,
    run: usize,
    fresh: bool,
    zero: u32,
    start: String,
    end: String,
    tape: String,
    caption: String,
}
