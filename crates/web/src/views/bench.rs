//! The bench as a page, its parts as fragments, and the write-up.

use askama::Template;
use zeitmass_core::inquiry::Step;
use zeitmass_core::logbook::Part;
use zeitmass_store::{FilmLimits, Id, LogbookInfo};

use super::parts::{Look, Scene};
use crate::desks::Sight;
use crate::error::WebError;
use crate::viewer::Viewer;
use zeitmass_words::Title;

/// The parts that changed after edit number `since`, ready to replace those on the page.
///
/// `also` are parts wanted in any case, for another table or graph.
pub(crate) fn parts(sight: &Sight, viewer: Viewer, since: u64, look: Look, also: &[Part]) -> Result<String, WebError> {
    let scene = Scene { sight, viewer, look };
    let changed = sight.book.parts_since(since);
    let wanted = Part::ALL.iter().copied().filter(|p| changed.contains(p) || also.contains(p));
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
    /// The steps of the spine.
    pub spine: Vec<Step>,
    pub tracks: bool,
    pub stage: String,
    pub record: String,
    pub graph: String,
    pub strip: String,
    pub model: String,
    pub constant: String,
    pub texts: String,
    pub questions: String,
    /// Sections of the sheet that are at hand at the bench.
    pub at_hand: Vec<(String, String)>,
    pub trials: (usize, usize),
    pub filmed: bool,
    pub limits: FilmLimits,
}

pub(super) fn people(info: &LogbookInfo) -> String {
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
            spine: sheet.steps().collect(),
            tracks: !sheet.tracks.is_empty(),
            stage: scene.render(Part::Stage)?,
            record: scene.render(Part::Record)?,
            graph: scene.render(Part::Graph)?,
            strip: scene.render(Part::Strip)?,
            model: scene.render(Part::Model)?,
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
