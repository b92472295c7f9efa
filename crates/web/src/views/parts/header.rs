//! Saved time, undo, hand in.

use std::hash::{DefaultHasher, Hash, Hasher};

use askama::Template;
use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::{Analysis, BroughtParts, Logbook, TextField};
use zeitmass_core::result::FIRST_RESULT;
use zeitmass_words::{Title, Words};

use super::words::StampView;
use super::{Scene, moment};

impl Scene<'_> {
    pub(super) fn header(&self) -> HeaderPart {
        let state = self.book().state();
        let (can_undo, can_redo) = self.book().can_undo_redo();
        HeaderPart {
            writable: self.open(),
            sends_back: self.viewer.may_send_back(),
            seq: self.book().seq(),
            texts: texts_of(self.book().sheet()),
            saved: self.sight.saved.map(|s| moment(s.at)),
            author: self.sight.author.clone(),
            unread: self.book().unread().is_some(),
            handed_in: state.office.handed_in,
            words: if self.viewer.may_write() { self.open_words() } else { 0 },
            stamps: self.book().sheet().stamps.iter().filter_map(|s| self.stamp(*s)).collect(),
            brought: brought_words(self.book().brought()),
            reopened: self.book().state().office.reopened.words(),
            note: state.office.note.clone().unwrap_or_default(),
            missing: missing(self.book(), self.analysis()),
            can_undo,
            can_redo,
        }
    }
}

/// A number that another text of the sheet does not have, so that a page sees that its sheet has grown.
fn texts_of(sheet: &LabSheet) -> u64 {
    let mut hasher = DefaultHasher::new();
    sheet.sections.iter().for_each(|s| (&s.heading, &s.text).hash(&mut hasher));
    hasher.finish()
}

/// What was brought from a file and could not be checked; nothing when there is no such thing.
pub(crate) fn brought_words(brought: BroughtParts) -> String {
    let readings = match brought.readings {
        0 => None,
        1 => Some("1 reading".to_owned()),
        n => Some(format!("{n} readings")),
    };
    let forecast = (brought.forecast > 0).then(|| "the forecast".to_owned());
    let models = match brought.models {
        0 => None,
        1 => Some("1 fitted parameter".to_owned()),
        n => Some(format!("{n} fitted parameters")),
    };
    let all: Vec<String> = readings.into_iter().chain(forecast).chain(models).collect();
    all.join(" and ")
}

/// What the sheet wants and the logbook does not have yet.
pub(crate) fn missing(book: &Logbook, analysis: &Analysis) -> Vec<String> {
    let mut list = Vec::new();
    let (table, wanted) = (book.state().record.tables.first(), book.sheet().trials);
    let trials = table.map_or(0, |t| t.trials());
    if trials < wanted {
        let what = if table.is_some_and(|t| t.is_filled()) { "marks are placed" } else { "trials are recorded" };
        list.push(format!("{trials} of {wanted} {what}"));
    }
    if analysis.graphs.iter().all(|(_, g)| g.as_ref().is_none_or(|g| g.first_fit().is_none())) {
        list.push("there is no best-fit line yet".to_owned());
    }
    if !matches!(analysis.outcome(FIRST_RESULT).map(|r| &r.constant), Some(Some(Ok(_)))) {
        list.push(format!("there is no value of {} yet", book.sheet().goal.symbol));
    }
    let answers = book.answers();
    match answers.iter().filter(|a| !a.is_answered()).count() {
        0 => {}
        1 => list.push("one question is open".to_owned()),
        n => list.push(format!("{n} of {} questions are open", answers.len())),
    }
    for field in TextField::ALL {
        if !book.state().writing.texts.contains_key(&field) {
            list.push(format!("the {} is empty", field.name()));
        }
    }
    list
}

#[derive(Template)]
#[template(path = "bench/header_part.html")]
pub(super) struct HeaderPart {
    writable: bool,
    /// The steps that are open again, where not all are.
    reopened: String,
    sends_back: bool,
    seq: u64,
    texts: u64,
    saved: Option<String>,
    /// Whether part of the logbook cannot be read by this program.
    unread: bool,
    author: String,
    handed_in: bool,
    /// Words of the teacher that are not ticked off.
    words: usize,
    /// The stamps of the sheet.
    stamps: Vec<StampView>,
    note: String,
    /// What was brought from a file and could not be checked.
    brought: String,
    missing: Vec<String>,
    can_undo: bool,
    can_redo: bool,
}
