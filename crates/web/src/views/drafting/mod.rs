//! The drafting table: a sheet as a form in the order of the lab, with what is wrong at its field and the student's view beside it.

mod apparatus;
mod asking;
mod form;
mod work;

use std::collections::BTreeMap;
use std::sync::Arc;

use askama::Template;
use zeitmass_core::lab::{Draft, Freedom, LabSheet, ReadFrom, looked_over};
use zeitmass_core::logbook::{Logbook, Part, SetUp};
use zeitmass_core::rigs::PLACE;
use zeitmass_store::{DraftRow, FilmRow, Id};
use zeitmass_words::{Words, drafts};

use form::{Form, films};

use super::parts::{Look, Scene};
use super::teacher::SheetPreview;
use crate::desks::Sight;
use crate::draw;
use crate::error::WebError;
use crate::notation::{escape, symbol_html};
use crate::text::markdown;
use crate::viewer::Viewer;

/// How a field is filled in.
pub(crate) enum Control {
    Line,
    Area,
    Tick,
    /// Options: value and words.
    Pick(Vec<(String, String)>),
}

/// A field of the form.
pub(crate) struct Field {
    pub path: String,
    pub label: String,
    pub value: String,
    pub hint: String,
    pub wrong: String,
    pub control: Control,
}

impl Field {
    /// Whether what is said about it stands below it, being too long to stand in it.
    pub(crate) fn long(&self) -> bool {
        self.hint.chars().count() > 24
    }

    /// Whether it takes more room than most.
    pub(crate) fn roomy(&self) -> bool {
        self.long()
            || matches!(&self.control, Control::Pick(all) if all.iter().any(|(_, words)| words.chars().count() > 26))
    }

    /// Whether it holds what is none of its options.
    pub(crate) fn unknown(&self) -> bool {
        matches!(&self.control, Control::Pick(options) if options.iter().all(|(value, _)| *value != self.value))
    }
}

impl Item {
    /// Whether what is seldom filled in is filled in, or wrong.
    pub(crate) fn more_open(&self) -> bool {
        self.more.iter().any(|f| !f.value.is_empty() || !f.wrong.is_empty())
    }
}

/// Names of which some are ticked.
pub(crate) struct Ticks {
    pub path: &'static str,
    pub label: &'static str,
    pub names: Vec<(String, String, bool)>,
    /// Whether it is said which; else it is as it usually is.
    pub said: bool,
    pub wrong: String,
}

/// A line in a list within an item: an answer to choose from, a level.
pub(crate) struct Row {
    pub path: String,
    pub fields: Vec<Field>,
}

/// One of a list: a column, a question, a text.
pub(crate) struct Item {
    pub path: String,
    pub title: String,
    /// The title as markup.
    pub head: String,
    pub fields: Vec<Field>,
    /// What is seldom filled in.
    pub more: Vec<Field>,
    pub rows: Vec<Row>,
    /// Path of the list the rows stand in, and what one of them is called; blank without such a list.
    pub list: (String, &'static str),
    pub wrong: String,
    pub up: bool,
    pub down: bool,
    pub fixed: bool,
}

/// A part of the form.
pub(crate) struct Area {
    pub id: &'static str,
    pub title: &'static str,
    pub about: String,
    pub fields: Vec<Field>,
    pub ticks: Vec<Ticks>,
    /// Settings, each a row: rule, value, second value.
    pub settings: Vec<Item>,
    pub items: Vec<Item>,
    pub more: Vec<Field>,
    /// What can be added: path, kind, words.
    pub add: Vec<(&'static str, &'static str, String)>,
    /// What can be taken out as a whole: path and words.
    pub without: Option<(&'static str, &'static str)>,
    pub wrong: String,
}

/// What is wrong, for the list beside the form.
pub(crate) struct Wrong {
    pub path: String,
    pub line: usize,
    pub message: String,
}

/// Logbooks that were begun with an earlier text.
pub(crate) struct Growth {
    pub begun: usize,
    pub handed_in: usize,
    /// What does not reach them.
    pub stays: Vec<String>,
}

/// What stands above the form: what is saved, what can be taken back.
#[derive(Template)]
#[template(path = "drafting/head.html")]
pub(crate) struct DraftHead {
    pub id: Id,
    pub row: DraftRow,
    pub sound: bool,
    pub growth: Option<Growth>,
    pub as_text: bool,
    pub message: String,
    pub saved: bool,
}

/// The form.
#[derive(Template)]
#[template(path = "drafting/form.html")]
pub(crate) struct DraftForm {
    pub id: Id,
    pub areas: Vec<Area>,
    /// Why there is no form; blank where there is one.
    pub unreadable: String,
}

/// The student's view beside it, under what is wrong.
#[derive(Template)]
#[template(path = "drafting/beside.html")]
pub(crate) struct DraftBeside {
    pub wrong: Vec<Wrong>,
    pub as_text: bool,
    pub student: Option<StudentsView>,
}

/// A sheet as a student meets it, and what only the teacher sees.
pub(crate) struct StudentsView {
    pub number: String,
    pub title: String,
    pub sections: Vec<(String, String, Option<&'static str>)>,
    /// The apparatus before it runs, with what stands in the sheet; none for films.
    pub stage: Option<String>,
    /// What is set, what is read, what is found: words and their list.
    pub bench: Vec<(&'static str, String)>,
    pub questions: String,
    pub teacher: String,
}

/// The page.
#[derive(Template)]
#[template(path = "drafting/page.html")]
pub(crate) struct DraftPage {
    pub who: String,
    pub id: Id,
    pub as_text: bool,
    pub source: String,
    pub head: String,
    pub form: String,
    pub beside: String,
}

/// All parts of the page that change.
pub(crate) struct DraftParts {
    pub head: DraftHead,
    pub form: DraftForm,
    pub beside: DraftBeside,
}

impl DraftParts {
    pub(crate) fn of(
        id: Id,
        row: DraftRow,
        growth: Option<Growth>,
        own_films: &[FilmRow],
        as_text: bool,
    ) -> Result<Self, WebError> {
        let (wrong, sound) = looked_over(&row.source);
        let form = match Draft::read(&row.source) {
            Ok(draft) => DraftForm {
                id,
                areas: Form {
                    draft: &draft,
                    card: draft.card(),
                    wrong: &wrong,
                    sheet: sound.clone(),
                    films: films(own_films),
                }
                .areas(),
                unreadable: String::new(),
            },
            Err(e) => DraftForm { id, areas: Vec::new(), unreadable: e.words() },
        };
        let student = sound.map(StudentsView::of).transpose()?;
        let told =
            wrong.iter().map(|m| Wrong { path: m.path.clone(), line: m.error.line, message: m.error.wrong.words() });
        Ok(Self {
            beside: DraftBeside { wrong: told.collect(), as_text, student },
            head: DraftHead { id, sound: wrong.is_empty(), row, growth, as_text, message: String::new(), saved: false },
            form,
        })
    }

    /// Head, form and what stands beside it.
    pub(crate) fn rendered(&self) -> Result<(String, String, String), WebError> {
        let form = if self.head.as_text { String::new() } else { self.form.render()? };
        Ok((self.head.render()?, form, self.beside.render()?))
    }

    /// All of them as fragments.
    pub(crate) fn fragments(&self) -> Result<String, WebError> {
        let (head, form, beside) = self.rendered()?;
        Ok(head + &form + &beside)
    }
}

impl StudentsView {
    fn of(sheet: LabSheet) -> Result<Self, WebError> {
        let teacher = SheetPreview::read(&sheet).render()?;
        let sections = sheet.sections.iter().map(|s| {
            let later = (s.from != ReadFrom::Start).then(|| drafts::from(s.from));
            (s.heading.clone(), markdown(&s.text), later)
        });
        let bench = at_the_bench(&sheet);
        let (number, title, sections) = (sheet.number.to_string(), sheet.title.clone(), sections.collect());
        let book = Arc::new(Logbook::new(Arc::new(sheet), 1));
        let drawn = |s: SetUp| draw::stage(&s.scene.rounded(PLACE), &s.run, &book.sheet().card.length, 0).0;
        // What cannot run as it stands is said by the form.
        let stage = book.setup(&BTreeMap::new()).ok().filter(|_| !book.sheet().is_filmed()).map(drawn);
        let analysis = book.analyse();
        let sight = Sight { book, analysis, saved: None, author: String::new() };
        let scene = Scene { sight: &sight, viewer: Viewer::Member, look: Look::default() };
        Ok(Self { number, title, sections, stage, bench, questions: scene.render(Part::Questions)?, teacher })
    }
}

/// What students set, read and find with a sheet.
fn at_the_bench(sheet: &LabSheet) -> Vec<(&'static str, String)> {
    let pairs = || sheet.settings.iter().zip(&sheet.card.settings);
    let free = pairs().filter(|(r, _)| r.freedom == Freedom::Free).map(|(_, s)| named(s.label, s.symbol));
    let fixed = pairs().filter(|(r, _)| r.freedom == Freedom::Fixed).map(|(r, s)| match &r.dealt {
        None => escape(&format!("{} {}", s.label, s.pretty(&r.value))),
        Some(_) => format!("{}, a value of one’s own", named(s.label, s.symbol)),
    });
    let meters = sheet.card.meters.iter().filter(|m| sheet.meters.contains(&m.name)).map(|m| escape(m.label));
    let columns = sheet.columns.iter().map(|c| named(&c.name, &c.symbol));
    let all: [(&'static str, Vec<String>); 5] = [
        ("Set", free.collect()),
        ("Given", fixed.collect()),
        ("Read by tape, split and", meters.collect()),
        ("Columns", columns.collect()),
        ("To be found", vec![named(&sheet.goal.name, &sheet.goal.symbol)]),
    ];
    all.into_iter().filter(|(_, list)| !list.is_empty()).map(|(what, list)| (what, list.join("; "))).collect()
}

/// A name and its symbol, as markup.
fn named(name: &str, symbol: &str) -> String {
    if symbol.is_empty() { escape(name) } else { format!("{} {}", escape(name), symbol_html(symbol)) }
}
