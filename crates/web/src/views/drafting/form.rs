//! The form, field by field, in the order of the lab.

use zeitmass_core::lab::{Draft, LabSheet, Mistake};
use zeitmass_core::rigs::Card;
use zeitmass_store::FilmRow;
use zeitmass_words::Words;

use super::{Area, Control, Field, Item, Ticks};
use crate::notation::escape;

/// Builds the form.
pub(super) struct Form<'a> {
    pub draft: &'a Draft,
    pub card: Card,
    pub wrong: &'a [Mistake],
    pub sheet: Option<LabSheet>,
    /// Films there are: name and words.
    pub films: Vec<(String, String)>,
}

/// Demo films, and the teacher's own.
pub(super) fn films(own: &[FilmRow]) -> Vec<(String, String)> {
    let demo = zeitmass_film::catalogue::FILMS.iter().map(|f| (f.name.to_owned(), f.title.to_owned()));
    let own = own.iter().map(|f| (f.facts.key.clone(), format!("{} (my own)", f.facts.title)));
    std::iter::once((String::new(), "choose".to_owned())).chain(own).chain(demo).collect()
}

pub(super) fn picks(all: &[(&str, &str)]) -> Control {
    Control::Pick(all.iter().map(|(value, words)| ((*value).to_owned(), (*words).to_owned())).collect())
}

impl Form<'_> {
    /// What is wrong at a path, and not within one that has a place of its own.
    pub(super) fn wrong_at(&self, path: &str) -> String {
        let told: Vec<String> = self.wrong.iter().filter(|m| m.path == path).map(|m| m.error.wrong.words()).collect();
        told.join(" ")
    }

    pub(super) fn field(&self, path: impl Into<String>, label: &str, control: Control) -> Field {
        let path = path.into();
        Field {
            label: label.to_owned(),
            value: self.draft.value(&path),
            hint: String::new(),
            wrong: self.wrong_at(&path),
            control,
            path,
        }
    }

    pub(super) fn hinted(
        &self,
        path: impl Into<String>,
        label: &str,
        control: Control,
        hint: impl Into<String>,
    ) -> Field {
        Field { hint: hint.into(), ..self.field(path, label, control) }
    }

    pub(super) fn area(&self, id: &'static str, title: &'static str) -> Area {
        Area {
            id,
            title,
            about: String::new(),
            fields: Vec::new(),
            ticks: Vec::new(),
            settings: Vec::new(),
            items: Vec::new(),
            more: Vec::new(),
            add: Vec::new(),
            without: None,
            wrong: String::new(),
        }
    }

    pub(super) fn item(&self, list: &str, place: usize, title: String, fields: Vec<Field>, more: Vec<Field>) -> Item {
        let path = format!("{list}.{place}");
        let count = self.draft.count(list);
        let shown = |path: &str| fields.iter().chain(&more).any(|f| f.path == path);
        // What is wrong somewhere in it, and has no field of its own to stand at.
        let wrong: Vec<String> = self
            .wrong
            .iter()
            .filter(|m| m.path == path || m.path.starts_with(&format!("{path}.")) && !shown(&m.path))
            .map(|m| m.error.wrong.words())
            .collect();
        let wrong = wrong.join(" ");
        Item {
            head: escape(&title),
            title,
            fields,
            more,
            rows: Vec::new(),
            list: (String::new(), ""),
            wrong,
            up: place > 0,
            down: place + 1 < count,
            fixed: false,
            path,
        }
    }

    pub(super) fn areas(&self) -> Vec<Area> {
        let mut all = vec![self.head(), self.motion()];
        if !self.card.settings.is_empty() {
            all.push(self.settings());
            all.push(self.bench());
        }
        all.extend([self.texts(), self.forecast(), self.columns(), self.questions(), self.goal(), self.marks()]);
        all
    }

    fn head(&self) -> Area {
        Area {
            fields: vec![
                self.hinted("number", "Number", Control::Line, "unit.place, such as 4.2"),
                self.field("title", "Title", Control::Line),
                self.field("unit", "Unit", Control::Line),
            ],
            ..self.area("sheet", "The sheet")
        }
    }

    pub(super) fn ticks(
        &self,
        path: &'static str,
        label: &'static str,
        all: Vec<(&str, &str)>,
        usual: &[&str],
    ) -> Ticks {
        let said = self.draft.has(path);
        let value = self.draft.value(path);
        let chosen: Vec<&str> = if said { value.lines().collect() } else { usual.to_vec() };
        let names = all.into_iter().map(|(name, words)| (name.to_owned(), words.to_owned(), chosen.contains(&name)));
        Ticks { path, label, names: names.collect(), said, wrong: self.wrong_at(path) }
    }
}
