//! The free bench: a rig or the films with everything free and no task, and a sheet made of what was set up there.

use std::fmt::Write;

use super::{Draft, DraftEdit, DraftRefusal, LabSheet};
use crate::logbook::Logbook;
use crate::quantity::Precision;
use crate::record::{ColumnKind, ColumnSource};
use crate::rigs::{SettingKind, rig};

/// A value as a sheet writes it.
fn typed(pretty: &str) -> String {
    pretty.replace('\u{A0}', " ").replace('\u{2212}', "-")
}

impl LabSheet {
    /// The text of the free bench for a rig: all settings free, all instruments, curves and arrows there. `None` when there is no such rig.
    pub fn free_bench(name: &str) -> Option<String> {
        let card = rig(name)?.card();
        let mut out = format!(
            "+++\nnumber = \"0.1\"\ntitle = \"{}\"\nunit = \"Free bench\"\nrig = \"{name}\"\ntrials = 2\nstep_model = true\n\n[settings]\n",
            card.title
        );
        for spec in &card.settings {
            let value = typed(&spec.default_value().pretty());
            let _ = writeln!(out, "\"{}\" = \"{}\"", spec.name, format!("free {value}").trim_end());
        }
        // There is nothing to be found: what stands there is something that is known.
        let known = card.settings.iter().find_map(|s| match &s.kind {
            SettingKind::Quantity { unit, .. } if !s.symbol.is_empty() => Some((s.symbol, s.label, unit.to_string())),
            SettingKind::Quantity { .. }
            | SettingKind::Switch { .. }
            | SettingKind::Choice { .. }
            | SettingKind::Path { .. } => None,
        });
        let (symbol, label, unit) = known.unwrap_or(("c", "constant", String::new()));
        let _ = writeln!(
            out,
            "\n[goal]\nsymbol = \"{symbol}\"\nname = \"{label}\"\nkey = \"{symbol}\"\nunit = '{unit}'\n+++"
        );
        out.push_str(BENCH_WORDS);
        Some(out)
    }

    /// The text of the free bench for films: these demo films, and films that are brought.
    pub fn free_bench_of_films(films: &[&str]) -> String {
        let mut out = String::from(
            "+++\nnumber = \"0.2\"\ntitle = \"Filmed motion\"\nunit = \"Free bench\"\nown_films = true\ntrials = 2\nstep_model = true\n",
        );
        for film in films {
            let _ = write!(out, "\n[[films]]\nfilm = \"{film}\"\n");
        }
        out.push_str("\n[goal]\nsymbol = \"g\"\nname = \"free-fall acceleration\"\naccepted = \"9.81 m/s^2\"\nsource = \"survey of the tower\"\n+++\n");
        out.push_str(BENCH_WORDS);
        out
    }
}

/// What is read at the free bench.
const BENCH_WORDS: &str =
    "## Question\n\nEverything is free here, and nothing is asked. Set it up, run it, measure what you like.\n";

impl Logbook {
    /// The text of a sheet of what was set up in this logbook: its settings as they stand, and the columns of its first table.
    ///
    /// # Errors
    /// [`DraftRefusal`], when what was set up does not fit on a sheet.
    pub fn as_sheet(&self, number: &str) -> Result<String, DraftRefusal> {
        let sheet = self.sheet();
        let text = if sheet.is_filmed() {
            let films: Vec<&str> = sheet.films.iter().map(|f| f.key.as_str()).collect();
            LabSheet::free_bench_of_films(&films)
        } else {
            LabSheet::blank(sheet.card.name).ok_or(DraftRefusal::NoApparatus)?
        };
        let mut draft = Draft::read(&text)?;
        let mut set =
            |path: &str, value: &str| draft.apply(&DraftEdit::Set { path: path.to_owned(), value: value.to_owned() });
        set("number", number)?;
        set("unit", "My labs")?;
        set("title", &format!("A lab with: {}", sheet.card.title.to_lowercase()))?;
        if sheet.is_filmed() {
            set("title", "A lab with films")?;
        }
        set("sections.0.text", "**What is to be found out?**")?;
        if !self.state().model.runs.is_empty() {
            set("step_model", "true")?;
        }
        for (name, value) in &self.state().run.settings {
            if sheet.card.setting(name).is_some() {
                set(&format!("settings.{name}.first"), &typed(&value.pretty()))?;
            }
        }
        let Some(table) = self.state().record.tables.first() else { return Ok(draft.text()) };
        let kept = |kind| matches!(kind, ColumnKind::Set | ColumnKind::Read);
        let columns: Vec<_> = table.columns.iter().filter(|c| kept(c.kind)).collect();
        if columns.is_empty() {
            return Ok(draft.text());
        }
        while draft.count("columns") > 0 {
            draft.apply(&DraftEdit::Remove { path: "columns.0".to_owned() })?;
        }
        for (column, place) in columns.into_iter().zip(0..) {
            draft.apply(&DraftEdit::Add { path: "columns".to_owned(), kind: String::new() })?;
            let mut set = |key: &str, value: &str| {
                let path = format!("columns.{place}.{key}");
                draft.apply(&DraftEdit::Set { path, value: value.to_owned() })
            };
            set("kind", column.kind.word())?;
            set("name", &column.name)?;
            set("symbol", &column.symbol)?;
            set("unit", &column.unit.as_ref().map(ToString::to_string).unwrap_or_default())?;
            match column.source.as_deref() {
                Some(ColumnSource::Setting(name)) => set("from", &format!("setting {name}"))?,
                Some(ColumnSource::Meter(name)) => set("from", &format!("meter {name}"))?,
                None => {}
            }
            if column.precision == Precision::Counting {
                set("counts", "true")?;
            }
        }
        Ok(draft.text())
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::lab::Freedom;
    use crate::logbook::{Edit, RunEdit};
    use crate::rigs::CATALOGUE;

    #[test]
    fn the_free_bench_of_every_rig_is_free_and_what_is_set_up_there_becomes_a_sheet() {
        for rig in CATALOGUE {
            let card = rig.card();
            let text = LabSheet::free_bench(card.name).unwrap();
            let sheet = LabSheet::parse(&text).unwrap_or_else(|e| panic!("{e:?}\n{text}"));
            assert!(sheet.settings.iter().all(|r| r.freedom == Freedom::Free), "{text}");
            assert_eq!(sheet.meters.len(), card.meters.len());
            let mut book = Logbook::new(Arc::new(sheet), 1);
            book.apply(&Edit::Run(RunEdit::Run), 0).unwrap();
            // Something is set to the end of its range.
            let spec = card.settings.iter().find(|s| matches!(s.kind, SettingKind::Quantity { .. })).unwrap();
            let most = typed(&spec.range()).split_once(" to ").unwrap().1.to_owned();
            let set = RunEdit::SetSetting { name: spec.name.to_owned(), typed: most };
            book.apply(&Edit::Run(set), 0).unwrap();
            let made = book.as_sheet("20.7").unwrap();
            let made = LabSheet::parse(&made).unwrap_or_else(|e| panic!("{e:?}\n{made}"));
            assert_eq!(made.number.to_string(), "20.7");
            for rule in &made.settings {
                assert_eq!(
                    Some(&rule.value),
                    book.state().run.settings.get(rule.name),
                    "{} of the {}",
                    rule.name,
                    card.name
                );
            }
        }
        let films = LabSheet::parse(&LabSheet::free_bench_of_films(&["tower-yard", "bounces"])).unwrap();
        let made = Logbook::new(Arc::new(films), 1).as_sheet("20.7").unwrap();
        assert_eq!(LabSheet::parse(&made).unwrap().films.len(), 2);
        assert_eq!(LabSheet::free_bench("carousel"), None);
    }
}
