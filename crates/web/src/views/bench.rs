//! The bench as a page, its parts as fragments, and the write-up.

use askama::Template;
use zeitmass_core::logbook::{Part, Refusal, TextField};
use zeitmass_store::{Id, LogbookInfo};

use super::parts::{ColumnHead, RowView, Scene, held_words, missing};
use crate::desks::Desk;
use crate::draw::{self, Audience};
use crate::error::WebError;
use crate::text::markdown;

/// The parts that changed after edit number `since`, ready to replace those on the page.
pub(crate) fn parts(desk: &Desk, writable: bool, since: u64) -> Result<String, WebError> {
    let analysis = desk.book.analyse();
    let scene = Scene { desk, analysis: &analysis, writable, swap: true };
    desk.book.parts_since(since).into_iter().map(|part| scene.render(part)).collect()
}

/// A line above the bench that says what happened.
#[derive(Template)]
#[template(path = "bench/notice_part.html")]
pub(crate) struct Notice {
    pub message: String,
    /// Place of a mistake in a formula, in characters: start and end.
    pub place: Option<(usize, usize)>,
}

impl Notice {
    /// What went wrong, for the person who did it.
    pub(crate) fn of(error: &WebError) -> Self {
        let place = match error {
            WebError::Refused(Refusal::Formula { text, error }) => {
                let chars = |bytes: usize| text.get(..bytes).map_or(0, |t| t.chars().count());
                Some((chars(error.span.start), chars(error.span.end)))
            }
            _ => None,
        };
        Self { message: error.to_string(), place }
    }
}

/// The bench.
#[derive(Template)]
#[template(path = "bench/bench.html")]
pub(crate) struct Bench {
    pub logbook: Id,
    pub seq: u64,
    pub number: String,
    pub title: String,
    pub people: String,
    pub partner_code: String,
    pub back: String,
    pub teacher: bool,
    pub writable: bool,
    pub sections: Vec<(String, String)>,
    pub header: String,
    pub stage: String,
    pub record: String,
    pub graph: String,
    pub constant: String,
    pub texts: String,
}

fn people(info: &LogbookInfo) -> String {
    info.members.iter().map(|(_, name)| name.as_str()).collect::<Vec<_>>().join(", ")
}

impl Bench {
    pub(crate) fn of(desk: &Desk, info: &LogbookInfo, teacher: bool) -> Result<Self, WebError> {
        let analysis = desk.book.analyse();
        let scene = Scene { desk, analysis: &analysis, writable: !teacher, swap: false };
        let sheet = desk.book.sheet();
        Ok(Self {
            logbook: info.id,
            seq: desk.book.seq(),
            number: sheet.number.to_string(),
            title: sheet.title.clone(),
            people: people(info),
            partner_code: info.partner_code.clone(),
            back: if teacher { format!("/classes/{}", info.class) } else { "/labs".to_owned() },
            teacher,
            writable: !teacher,
            sections: sheet.sections.iter().map(|s| (s.heading.clone(), markdown(&s.text))).collect(),
            header: scene.render(Part::Header)?,
            stage: scene.render(Part::Stage)?,
            record: scene.render(Part::Record)?,
            graph: scene.render(Part::Graph)?,
            constant: scene.render(Part::Constant)?,
            texts: scene.render(Part::Texts)?,
        })
    }
}

/// The write-up, for reading and printing.
#[derive(Template)]
#[template(path = "write_up.html")]
pub(crate) struct WriteUp {
    pub logbook: Id,
    pub number: String,
    pub title: String,
    pub people: String,
    pub class: String,
    pub handed_in: bool,
    pub question: String,
    pub held: String,
    pub columns: Vec<ColumnHead>,
    pub rows: Vec<RowView>,
    pub graph: String,
    pub sentences: Vec<String>,
    pub law: String,
    pub value: String,
    pub verdict: Vec<String>,
    pub texts: Vec<(&'static str, String)>,
    pub missing: Vec<String>,
}

impl WriteUp {
    pub(crate) fn of(desk: &Desk, info: &LogbookInfo, class: String) -> Self {
        let analysis = desk.book.analyse();
        let scene = Scene { desk, analysis: &analysis, writable: false, swap: false };
        let (columns, rows) = scene.table();
        let (value, verdict, law) = scene.outcome();
        let state = desk.book.state();
        Self {
            logbook: info.id,
            number: desk.book.sheet().number.to_string(),
            title: desk.book.sheet().title.clone(),
            people: people(info),
            class,
            handed_in: state.handed_in,
            question: markdown(desk.book.sheet().question()),
            held: held_words(&desk.book),
            columns,
            rows,
            graph: analysis.graph.as_ref().map(|g| draw::svg(g, Audience::Reader)).unwrap_or_default(),
            sentences: scene.sentences(),
            law,
            value,
            verdict,
            texts: TextField::ALL.map(|f| (f.title(), state.texts.get(&f).cloned().unwrap_or_default())).into(),
            missing: missing(&desk.book, &analysis),
        }
    }
}
