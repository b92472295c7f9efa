//! Marks: the marking page of a logbook, the marks of a lab, and what students see of them.

use askama::Template;
use zeitmass_core::inquiry::Step;
use zeitmass_core::lab::{Criterion, Level};
use zeitmass_core::logbook::{Logbook, Proposal};
use zeitmass_core::quantity::format::plain;
use zeitmass_store::{Decided, Id};
use zeitmass_words::{Title, Words};

use super::WriteUp;

/// A level to choose.
pub(crate) struct LevelView {
    pub place: usize,
    pub words: String,
    pub points: String,
    pub decided: bool,
    pub proposed: bool,
}

/// A criterion on the page.
pub(crate) struct CriterionView {
    pub number: usize,
    pub name: String,
    pub levels: Vec<LevelView>,
    /// Why a level is proposed, or why none is.
    pub why: String,
    pub decided: bool,
}

/// The criteria beside the write-up.
#[derive(Template)]
#[template(path = "lesson/criteria_part.html")]
pub(crate) struct CriteriaPart {
    pub logbook: Id,
    pub criteria: Vec<CriterionView>,
    pub sum: String,
    pub most: String,
    pub open: usize,
}

/// The marking page.
#[derive(Template)]
#[template(path = "lesson/marking.html")]
pub(crate) struct MarkingPage {
    pub w: WriteUp,
    pub class: Id,
    pub lab: Id,
    pub before: Option<Id>,
    pub next: Option<Id>,
    pub place: usize,
    pub all: usize,
    pub given_out: bool,
    /// What is right, for the teacher.
    pub key: String,
    pub parts: Vec<(&'static str, &'static str)>,
    /// Steps that can be opened again.
    pub steps: Vec<Step>,
    pub criteria: CriteriaPart,
    /// Likely mistakes, with what was seen.
    pub slips: Vec<String>,
}

impl CriteriaPart {
    pub(crate) fn of(logbook: Id, book: &Logbook, decided: &[Decided]) -> Self {
        let criteria = &book.sheet().criteria;
        let of = |c: &Criterion| decided.iter().find(|d| d.logbook == logbook && d.criterion == c.name);
        let view = |(criterion, number): (&Criterion, usize)| {
            let decided = of(criterion).map(|d| d.level as usize);
            let proposal = book.proposal(criterion);
            let proposed = proposal.as_ref().and_then(|p: &Proposal| p.level);
            CriterionView {
                number,
                name: criterion.name.clone(),
                levels: criterion
                    .levels
                    .iter()
                    .enumerate()
                    .map(|(place, level): (usize, &Level)| LevelView {
                        place,
                        words: level.words.clone(),
                        points: plain(level.points),
                        decided: decided == Some(place),
                        proposed: proposed == Some(place),
                    })
                    .collect(),
                why: proposal.map_or_else(|| "For you to judge.".to_owned(), |p| p.why.words()),
                decided: decided.is_some(),
            }
        };
        let sum: f64 = criteria.iter().filter_map(|c| Some(of(c)?.points)).sum();
        Self {
            logbook,
            criteria: criteria.iter().zip(1..).map(view).collect(),
            sum: plain(sum),
            most: plain(criteria.iter().map(Criterion::most).sum()),
            open: criteria.iter().filter(|c| of(c).is_none()).count(),
        }
    }
}

/// A group in the list of marks.
pub(crate) struct MarkRow {
    pub logbook: Id,
    pub names: String,
    pub handed_in: bool,
    /// Points by criterion; empty where it is open.
    pub points: Vec<String>,
    pub sum: String,
    pub open: usize,
}

/// The marks of a lab.
#[derive(Template)]
#[template(path = "lesson/marks.html")]
pub(crate) struct MarksPage {
    pub who: String,
    pub class: Id,
    pub class_name: String,
    pub lab: Id,
    pub title: String,
    pub criteria: Vec<(String, String)>,
    pub rows: Vec<MarkRow>,
    /// When they were given out.
    pub given: Option<String>,
    pub message: String,
    /// Whether a register can be written to.
    pub register: bool,
}

impl MarksPage {
    /// The groups with what is decided about them.
    pub(crate) fn rows(criteria: &[Criterion], groups: &[(Id, String, bool)], decided: &[Decided]) -> Vec<MarkRow> {
        let row = |(logbook, names, handed_in): &(Id, String, bool)| {
            let of = |c: &Criterion| decided.iter().find(|d| d.logbook == *logbook && d.criterion == c.name);
            let points = criteria.iter().map(|c| of(c).map_or_else(String::new, |d| plain(d.points)));
            MarkRow {
                logbook: *logbook,
                names: names.clone(),
                handed_in: *handed_in,
                points: points.collect(),
                sum: plain(criteria.iter().filter_map(|c| Some(of(c)?.points)).sum()),
                open: criteria.iter().filter(|c| of(c).is_none()).count(),
            }
        };
        groups.iter().map(row).collect()
    }
}

/// What students see of their marks.
#[derive(Template)]
#[template(path = "lesson/marked.html")]
pub(crate) struct MarkedPage {
    pub who: String,
    pub logbook: Id,
    pub title: String,
    /// Criterion, level in words, points, and the most there are.
    pub marks: Vec<(String, String, String, String)>,
    pub sum: String,
    pub most: String,
    /// What should have come out, and what did.
    pub wanted: String,
    pub found: String,
    /// Texts that wait until a logbook is handed in.
    /// The newest graph with the curve it should have shown; blank where the sheet has none for it.
    pub graph: String,
    pub sections: Vec<(String, String)>,
}
