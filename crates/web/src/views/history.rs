//! Who did what in a logbook.

use askama::Template;
use zeitmass_core::logbook::Logbook;
use zeitmass_store::{Id, LogbookInfo, Past, Share};

use super::moment;
use super::told::told;

/// One edit.
pub(crate) struct PastView {
    pub seq: u64,
    pub at: String,
    pub name: String,
    /// What was done, as a sentence; none if a newer program did it.
    pub what: Option<String>,
}

/// One person's share.
pub(crate) struct ShareView {
    pub name: String,
    pub edits: u64,
    pub first: String,
    pub last: String,
}

/// The page.
#[derive(Template)]
#[template(path = "history.html")]
pub(crate) struct HistoryPage {
    /// Who looks.
    pub who: String,
    /// Whether that is a teacher.
    pub teaches: bool,
    /// Whether who looks can go back.
    pub goes_back: bool,
    /// Number of the last edit.
    pub now: u64,
    pub logbook: Id,
    pub class: Id,
    pub class_name: String,
    pub title: String,
    pub shares: Vec<ShareView>,
    pub past: Vec<PastView>,
    /// Number of the edit before which more are to be seen.
    pub earlier: Option<u64>,
}

impl HistoryPage {
    pub(crate) fn of(
        (who, class_name): (String, String),
        (teaches, goes_back): (bool, bool),
        info: &LogbookInfo,
        book: &Logbook,
        (past, shares): (Vec<Past>, Vec<Share>),
    ) -> Self {
        let earlier = past.last().map(|p| p.saved.seq).filter(|seq| *seq > 1);
        let past = past.into_iter().map(|p| {
            let what = told(&p, book);
            PastView { seq: p.saved.seq, at: moment(p.saved.at), name: p.name, what }
        });
        let shares = shares.into_iter().map(|s| ShareView {
            name: s.name,
            edits: s.edits,
            first: moment(s.first),
            last: moment(s.last),
        });
        Self {
            who,
            teaches,
            logbook: info.id,
            class: info.class,
            class_name,
            title: format!("{} {}", book.sheet().number, book.sheet().title),
            goes_back,
            now: book.seq(),
            shares: shares.collect(),
            past: past.collect(),
            earlier,
        }
    }
}
