//! Saved time, undo, hand in.

use askama::Template;
use zeitmass_core::logbook::{Analysis, Logbook, TextField};
use zeitmass_core::record::Record;
use zeitmass_core::result::FIRST_RESULT;

use super::Scene;

impl Scene<'_> {
    pub(super) fn header(&self) -> HeaderPart {
        let state = self.book().state();
        let (can_undo, can_redo) = self.book().can_undo_redo();
        HeaderPart {
            swap: self.swap,
            writable: self.open(),
            member: self.writable,
            seq: self.book().seq(),
            saved: self.desk.saved.as_ref().map(|s| s.at.clone()),
            author: self.desk.saved.as_ref().map_or_else(String::new, |s| s.author.clone()),
            handed_in: state.handed_in,
            note: state.note.clone().unwrap_or_default(),
            missing: missing(self.book(), self.analysis),
            can_undo,
            can_redo,
        }
    }
}

/// What the sheet wants and the logbook does not have yet.
pub(crate) fn missing(book: &Logbook, analysis: &Analysis<'_>) -> Vec<String> {
    let mut list = Vec::new();
    let (trials, wanted) = (book.state().tables.first().map_or(0, Record::trials), book.sheet().trials);
    if trials < wanted {
        list.push(format!("{trials} of {wanted} trials are recorded"));
    }
    if analysis.graphs.iter().all(|(_, g)| g.as_ref().is_none_or(|g| g.first_fit().is_none())) {
        list.push("there is no best-fit line yet".to_owned());
    }
    if !matches!(analysis.outcome(FIRST_RESULT).map(|r| &r.constant), Some(Some(Ok(_)))) {
        list.push(format!("there is no value of {} yet", book.sheet().goal.symbol));
    }
    for field in TextField::ALL {
        if !book.state().texts.contains_key(&field) {
            list.push(format!("the {} is empty", field.name()));
        }
    }
    list
}

#[derive(Template)]
#[template(path = "bench/header_part.html")]
pub(super) struct HeaderPart {
    swap: bool,
    writable: bool,
    member: bool,
    seq: u64,
    saved: Option<String>,
    author: String,
    handed_in: bool,
    note: String,
    missing: Vec<String>,
    can_undo: bool,
    can_redo: bool,
}
