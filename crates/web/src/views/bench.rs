//! The bench as a page, its parts as fragments, and the write-up.

use askama::Template;
use zeitmass_core::logbook::{Part, TextField};
use zeitmass_core::quantity::format::with_unit;
use zeitmass_store::{FilmLimits, Id, LogbookInfo};

use super::parts::{
    AnswerWords, ColumnHead, Look, Marks, ResultView, RowView, Scene, Written, answers_in_words, brought_words,
    heads_of, held_words, missing, rows_of, sentences,
};
use crate::desks::Sight;
use crate::draw::{self, Audience};
use crate::error::WebError;
use crate::text::markdown;
use crate::viewer::Viewer;

/// The parts that changed after edit number `since`, ready to replace those on the page.
///
/// `also` are parts wanted in any case, for another table or graph.
pub(crate) fn parts(sight: &Sight, viewer: Viewer, since: u64, look: Look, also: &[Part]) -> Result<String, WebError> {
    let scene = Scene { sight, viewer, look };
    let changed = sight.book.parts_since(since);
    let wanted = Part::ALL.into_iter().filter(|p| changed.contains(p) || also.contains(p));
    wanted.map(|part| scene.render(part)).collect()
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
    pub back: String,
    /// Whether a teacher tries something out in it.
    pub own: bool,
    /// Whether it is the free bench, and of what: a rig or `films`.
    pub free: bool,
    pub bench: &'static str,
    pub sheet: Id,
    pub sends_back: bool,
    pub writable: bool,
    /// Whether part of it cannot be read by this program.
    pub unread: bool,
    /// Scripts to be fetched at once, so that none waits for another.
    pub modules: Vec<String>,
    /// The one that starts the bench.
    pub script: String,
    pub sections: Vec<(String, String)>,
    pub header: String,
    pub forecast: String,
    pub with_forecast: bool,
    /// Number of steps of the spine.
    pub steps: u8,
    pub tracks: bool,
    pub stage: String,
    pub record: String,
    pub graph: String,
    pub strip: String,
    pub constant: String,
    pub texts: String,
    pub questions: String,
    /// Sections of the sheet that are at hand at the bench.
    pub at_hand: Vec<(String, String)>,
    pub trials: (usize, usize),
    pub filmed: bool,
    pub limits: FilmLimits,
}

fn people(info: &LogbookInfo) -> String {
    info.members.iter().map(|(_, name)| name.as_str()).collect::<Vec<_>>().join(", ")
}

impl Bench {
    pub(crate) fn of(sight: &Sight, info: &LogbookInfo, viewer: Viewer, limits: FilmLimits) -> Result<Self, WebError> {
        let scene = Scene { sight, viewer, look: Look::default() };
        let sheet = sight.book.sheet();
        let start = if sheet.is_filmed() { "bench-films" } else { "bench-runs" };
        Ok(Self {
            logbook: info.id,
            seq: sight.book.seq(),
            number: sheet.number.to_string(),
            title: sheet.title.clone(),
            people: people(info),
            back: match viewer {
                Viewer::Teacher => format!("/classes/{}", info.class),
                Viewer::Member => "/labs".to_owned(),
                Viewer::Own if info.free => "/bench".to_owned(),
                Viewer::Own => format!("/sheets/{}/edit", info.sheet),
            },
            own: viewer == Viewer::Own,
            free: info.free,
            bench: if sheet.is_filmed() { "films" } else { sheet.card.name },
            sheet: info.sheet,
            sends_back: viewer.may_send_back(),
            writable: viewer.may_write(),
            unread: sight.book.unread().is_some(),
            modules: crate::assets::modules(start),
            script: crate::assets::url(&format!("js/{start}.js")),
            sections: sheet.sections.iter().map(|s| scene.section(s)).collect(),
            header: scene.render(Part::Header)?,
            forecast: scene.render(Part::Forecast)?,
            with_forecast: sheet.forecast.is_some(),
            steps: if sheet.forecast.is_some() { 7 } else { 6 },
            tracks: !sheet.tracks.is_empty(),
            stage: scene.render(Part::Stage)?,
            record: scene.render(Part::Record)?,
            graph: scene.render(Part::Graph)?,
            strip: scene.render(Part::Strip)?,
            constant: scene.render(Part::Constant)?,
            texts: scene.render(Part::Texts)?,
            questions: scene.render(Part::Questions)?,
            at_hand: sheet.sections.iter().skip(1).map(|s| scene.section(s)).collect(),
            trials: (sheet.trials, sheet.most_trials),
            filmed: sheet.is_filmed(),
            limits,
        })
    }
}

/// Rows of a table that the write-up prints; longer tables go on in the file.
const MOST_PRINTED: usize = 300;

/// A table of the write-up.
pub(crate) struct WrittenTable {
    pub number: usize,
    pub id: u32,
    pub name: String,
    pub columns: Vec<ColumnHead>,
    pub rows: Vec<RowView>,
    pub left_out: usize,
}

/// A graph of the write-up.
pub(crate) struct Figure {
    pub number: usize,
    pub id: u32,
    pub svg: String,
    pub sentences: Vec<String>,
}

/// The write-up as a page, for reading and printing.
#[derive(Template)]
#[template(path = "write_up.html")]
pub(crate) struct WriteUpPage {
    pub w: WriteUp,
}

/// The write-up as a file that stands alone.
#[derive(Template)]
#[template(path = "write_up_file.html")]
pub(crate) struct WriteUpFile {
    pub w: WriteUp,
}

/// What the write-up gathers.
pub(crate) struct WriteUp {
    pub logbook: Id,
    pub number: String,
    pub title: String,
    pub people: String,
    pub class: String,
    pub handed_in: bool,
    /// What was brought from a file and could not be checked.
    pub brought: String,
    pub brought_cells: bool,
    pub question: String,
    pub forecast: Option<Written>,
    pub answers: Vec<AnswerWords>,
    pub held: String,
    pub stated: String,
    pub tables: Vec<WrittenTable>,
    pub figures: Vec<Figure>,
    pub results: Vec<ResultView>,
    pub intercept: String,
    pub texts: Vec<(&'static str, String)>,
    pub missing: Vec<String>,
}

impl WriteUp {
    pub(crate) fn of(sight: &Sight, info: &LogbookInfo, class: String) -> Self {
        let (book, analysis) = (&sight.book, &sight.analysis);
        // A write-up is read by students too, whoever asks for it.
        let scene = Scene { sight, viewer: Viewer::Member, look: Look::default() };
        let state = book.state();
        Self {
            logbook: info.id,
            number: book.sheet().number.to_string(),
            title: book.sheet().title.clone(),
            people: people(info),
            class,
            handed_in: state.office.handed_in,
            brought: brought_words(book.brought()),
            brought_cells: book.brought().readings > 0,
            question: markdown(book.sheet().question()),
            forecast: scene.forecast_of_all_rounds(),
            answers: answers_in_words(book),
            held: held_words(book),
            stated: state
                .record
                .held
                .iter()
                .map(|h| format!("{} {} = {}", h.name, h.symbol, with_unit(&h.number.pretty(), &h.unit)))
                .collect::<Vec<_>>()
                .join(" · "),
            tables: analysis
                .tables
                .iter()
                .zip(1..)
                .filter(|(t, _)| !t.rows.is_empty())
                .map(|(t, number)| WrittenTable {
                    number,
                    id: t.record.id,
                    name: t.record.name.clone(),
                    columns: heads_of(t),
                    rows: rows_of(t, 0, MOST_PRINTED, false, &Marks::of(book, analysis, t)),
                    left_out: t.rows.len().saturating_sub(MOST_PRINTED),
                })
                .collect(),
            figures: analysis
                .graphs
                .iter()
                .filter_map(|(id, g)| Some((*id, g.as_ref()?)))
                .zip(1..)
                .map(|((id, g), number)| Figure {
                    number,
                    id,
                    svg: draw::svg(g, Audience::Reader),
                    sentences: {
                        let expected =
                            g.expected.iter().map(|_| "The line of dashes and dots is what was expected.".to_owned());
                        sentences(g).into_iter().chain(expected).collect()
                    },
                })
                .collect(),
            results: scene.results(),
            intercept: state.writing.texts.get(&TextField::Intercept).cloned().unwrap_or_default(),
            texts: TextField::ALL.map(|f| (f.title(), state.writing.texts.get(&f).cloned().unwrap_or_default())).into(),
            missing: missing(book, analysis),
        }
    }
}
