//! Pages around the bench: entry, classes, sheets, a student's labs.

use std::sync::Arc;

use askama::Template;
use zeitmass_core::inquiry::QuestionKind;
use zeitmass_core::lab::{AnsweredBy, Deal, Freedom, LabSheet, SheetNumber};
use zeitmass_core::quantity::format::with_unit;
use zeitmass_core::rigs::{CATALOGUE, Card};
use zeitmass_store::{ClassRow, Id, SessionRow, StudentRow};
use zeitmass_words::{Title, Words, drafts};

use super::parts::moment;
use crate::app::Guest;
use crate::text::markdown;

/// The first page: sign in, join, or make the first account.
#[derive(Template)]
#[template(path = "entry.html")]
pub(crate) struct EntryPage {
    pub first_visit: bool,
    pub message: String,
    pub name: String,
    pub code: String,
    /// The key for the first account, from the address.
    pub key: String,
    /// People anybody may be.
    pub guests: Arc<[Guest]>,
}

/// A teacher's classes.
#[derive(Template)]
#[template(path = "classes.html")]
pub(crate) struct ClassesPage {
    pub who: String,
    pub classes: Vec<ClassRow>,
    pub message: String,
}

/// Where somebody is signed in.
pub(crate) struct SessionView {
    pub id: Id,
    /// Since when; empty when that was not kept.
    pub since: String,
    pub browser: String,
    /// Whether it is the one of whoever looks.
    pub own: bool,
}

impl SessionView {
    pub(crate) fn of(session: SessionRow) -> Self {
        let browser = if session.browser.is_empty() { "a browser".to_owned() } else { session.browser };
        Self { id: session.id, since: session.begun.map_or_else(String::new, moment), browser, own: false }
    }
}

/// A logbook in a student's list.
pub(crate) struct OwnLogbookView {
    pub logbook: Id,
    pub title: String,
    /// The class it belongs to, if that is another one.
    pub elsewhere: String,
    pub handed_in: Option<String>,
}

/// One student of a class, with what the teacher can do.
#[derive(Template)]
#[template(path = "student.html")]
pub(crate) struct StudentPage {
    pub who: String,
    pub class: ClassRow,
    pub student: StudentRow,
    pub sessions: Vec<SessionView>,
    pub logbooks: Vec<OwnLogbookView>,
    /// Classes the student can be moved to.
    pub classes: Vec<ClassRow>,
    pub message: String,
}

/// A teacher's own account.
#[derive(Template)]
#[template(path = "account.html")]
pub(crate) struct AccountPage {
    pub who: String,
    pub sessions: Vec<SessionView>,
    pub message: String,
    /// Address of an invitation that was just made; empty for none.
    pub invitation: String,
}

/// Where an invitation leads: a new teacher's account.
#[derive(Template)]
#[template(path = "invited.html")]
pub(crate) struct InvitedPage {
    pub token: String,
    pub name: String,
    pub message: String,
}

/// How far one student is with one lab.
pub(crate) enum Mark {
    NotBegun,
    /// A logbook without any work in it.
    Opened {
        logbook: Id,
    },
    Begun {
        logbook: Id,
        step: &'static str,
        trials: u32,
        answers: String,
        edits: u64,
        /// Likely slips in its results.
        slips: Vec<&'static str>,
    },
    HandedIn {
        logbook: Id,
        at: String,
        /// Likely slips in its results.
        slips: Vec<&'static str>,
    },
}

/// A lab of a class.
pub(crate) struct ClassLab {
    pub id: Id,
    pub sheet: Id,
    pub title: String,
    pub unit: String,
    /// A date; empty for none.
    pub due: String,
    /// Students who have begun, and who have handed in.
    pub begun: usize,
    pub handed_in: usize,
    pub taken_back: bool,
}

/// One student's line in a class.
pub(crate) struct StudentMarks {
    pub id: Id,
    pub name: String,
    pub marks: Vec<Mark>,
}

/// How far a class is, as the table of its page.
#[derive(Template)]
#[template(path = "class_part.html")]
pub(crate) struct ClassTable {
    pub class: ClassRow,
    pub labs: Vec<String>,
    pub students: Vec<StudentMarks>,
}

/// One class: students, labs, progress.
#[derive(Template)]
#[template(path = "class.html")]
pub(crate) struct ClassPage {
    pub who: String,
    pub class: ClassRow,
    /// Labs that somebody has begun.
    pub labs: Vec<String>,
    pub students: Vec<StudentMarks>,
    /// All labs of the class.
    pub assigned: Vec<ClassLab>,
    /// The teacher's other classes.
    pub others: Vec<(Id, String)>,
    pub message: String,
    /// Those who wait for the teacher's nod, and those who have left: number and name.
    pub waiting: Vec<(Id, String)>,
    pub former: Vec<(Id, String)>,
    /// Whether whoever listens on the way can read everything.
    pub in_clear: bool,
    /// Sheets that can still be assigned: id and title.
    pub sheets: Vec<(Id, String)>,
}

/// A sheet in a list.
pub(crate) struct SheetListRow {
    pub id: Id,
    /// Whether it can be read.
    pub sound: bool,
    pub number: String,
    pub title: String,
    pub unit: String,
    pub shipped: bool,
    /// Whether it has changes that are not saved.
    pub drafted: bool,
    /// Classes it is assigned to.
    pub classes: String,
}

/// All sheets a teacher can use.
#[derive(Template)]
#[template(path = "sheets.html")]
pub(crate) struct SheetsPage {
    pub who: String,
    pub sheets: Vec<SheetListRow>,
    pub message: String,
    pub rigs: Vec<(&'static str, &'static str)>,
}

/// Everything there is a free bench for.
#[derive(Template)]
#[template(path = "free_bench.html")]
pub(crate) struct FreeBenchPage {
    pub who: String,
    pub teacher: bool,
    pub rigs: Vec<(&'static str, &'static str)>,
}

/// Names and titles of all rigs.
pub(crate) fn rigs() -> Vec<(&'static str, &'static str)> {
    CATALOGUE.iter().map(|rig| rig.card()).map(|card| (card.name, card.title)).collect()
}

/// How a sheet is written, with what every rig has to offer.
#[derive(Template)]
#[template(path = "sheet_guide.html")]
pub(crate) struct SheetGuidePage {
    who: String,
    text: String,
    rigs: Vec<Card>,
}

impl SheetGuidePage {
    pub(crate) fn of(who: String) -> Self {
        let text = markdown(include_str!("../../../../docs/lab-sheets.md"));
        Self { who, text, rigs: CATALOGUE.iter().map(|rig| rig.card()).collect() }
    }
}

/// A sheet as students will see it, with what is on the bench.
#[derive(Template)]
#[template(path = "sheet_part.html")]
pub(crate) struct SheetPreview {
    pub number: String,
    pub title: String,
    pub unit: String,
    pub rig: &'static str,
    pub settings: Vec<(String, &'static str, String)>,
    /// What else lies on the bench, and what comes before the first run: words and their list.
    pub bench: Vec<(&'static str, String)>,
    pub columns: Vec<String>,
    pub trials: usize,
    pub goal: String,
    pub sections: Vec<(String, String)>,
    /// Questions: number, step, words, and how they are answered.
    pub questions: Vec<(usize, &'static str, String, &'static str)>,
    /// What is wrong; then the rest is empty.
    pub error: String,
}

impl SheetPreview {
    /// Reads a sheet's text for showing.
    pub(crate) fn of(source: &str) -> Self {
        match LabSheet::parse(source) {
            Ok(sheet) => Self::read(&sheet),
            Err(e) => Self {
                number: String::new(),
                title: String::new(),
                unit: String::new(),
                rig: "",
                settings: Vec::new(),
                bench: Vec::new(),
                columns: Vec::new(),
                trials: 0,
                goal: String::new(),
                sections: Vec::new(),
                questions: Vec::new(),
                error: e.words(),
            },
        }
    }

    pub(crate) fn read(sheet: &LabSheet) -> Self {
        let settings = sheet.settings.iter().filter_map(|rule| {
            let word = match (rule.freedom, &rule.dealt) {
                (Freedom::Free, _) => "free",
                (Freedom::Fixed, None) => "fixed",
                (Freedom::Fixed, Some(_)) => "dealt",
                (Freedom::Hidden, None) => "hidden",
                (Freedom::Hidden, Some(_)) => "dealt and hidden",
            };
            let spec = sheet.card.setting(rule.name)?;
            let value = match &rule.dealt {
                None => spec.pretty(&rule.value),
                Some(Deal::Range(ends)) => format!("{} to {}", spec.pretty(&ends.0), spec.pretty(&ends.1)),
                Some(Deal::Among(all)) => all.iter().map(|v| spec.pretty(v)).collect::<Vec<_>>().join(", "),
            };
            Some((spec.label.to_owned(), word, value))
        });
        let columns = sheet.columns.iter().map(|c| {
            let unit = c.unit.pretty();
            let unit = if unit.is_empty() { String::new() } else { format!(" ({unit})") };
            format!("{} {}{unit}, {}", c.name, c.symbol, c.kind.word())
        });
        let accepted = match (&sheet.goal.accepted, &sheet.goal.key) {
            (Some((number, unit)), _) => format!("accepted value {}", with_unit(&number.pretty(), unit)),
            (None, Some(key)) => format!("own key for each logbook: {}", key.text()),
            (None, None) => String::new(),
        };
        Self {
            number: sheet.number.to_string(),
            title: sheet.title.clone(),
            unit: sheet.unit.clone(),
            rig: sheet.card.title,
            settings: settings.collect(),
            bench: bench(sheet),
            columns: columns.collect(),
            trials: sheet.trials,
            goal: format!("{} {}, {accepted}", sheet.goal.name, sheet.goal.symbol),
            sections: sheet.sections.iter().map(|s| (s.heading.clone(), markdown(&s.text))).collect(),
            questions: sheet
                .questions
                .iter()
                .zip(1..)
                .map(|(q, number)| (number, q.step.title(), markdown(&q.ask), answered_by(&q.kind)))
                .collect(),
            error: String::new(),
        }
    }
}

/// How a question is answered, in words.
fn answered_by(kind: &QuestionKind) -> &'static str {
    drafts::answered_by(match kind {
        QuestionKind::Words { .. } => AnsweredBy::Words,
        QuestionKind::Choice { .. } => AnsweredBy::Choices,
        QuestionKind::Number(_) => AnsweredBy::Number,
        QuestionKind::Sentence(_) => AnsweredBy::Sentence,
        QuestionKind::Pointing { .. } => AnsweredBy::Point,
        QuestionKind::Argument { .. } => AnsweredBy::Argument,
    })
}

/// Instruments, curves and arrows of a sheet, its films, and its forecast.
fn bench(sheet: &LabSheet) -> Vec<(&'static str, String)> {
    let card = &sheet.card;
    let list = |labels: Vec<&str>| if labels.is_empty() { "none".to_owned() } else { labels.join(", ") };
    let mut all = Vec::new();
    if sheet.is_filmed() {
        let films = sheet.films.iter().map(|f| [std::slice::from_ref(&f.key), &f.conditions].concat().join(" "));
        let own = sheet.own_films.then(|| "films the students bring".to_owned());
        all.push(("Films", films.chain(own).collect::<Vec<_>>().join("; ")));
    } else {
        let on_bench = |names: &[&str], name: &str| names.contains(&name);
        let meters = card.meters.iter().filter(|m| on_bench(&sheet.meters, m.name)).map(|m| m.label);
        let curves = card.channels.iter().filter(|c| on_bench(&sheet.tracks, c.name)).map(|c| c.label);
        let arrows = card.arrows.iter().filter(|a| on_bench(&sheet.arrows, a.name)).map(|a| a.label);
        all.push(("Instruments beside tape and split", list(meters.collect())));
        all.push(("Curves beside the stage", list(curves.collect())));
        all.push(("Arrows", list(arrows.collect())));
    }
    if !sheet.stamps.is_empty() {
        all.push(("Stamps at", sheet.stamps.iter().map(|s| s.title()).collect::<Vec<_>>().join(", ")));
    }
    all.push(("Marked by", sheet.criteria.iter().map(|c| c.name.as_str()).collect::<Vec<_>>().join("; ")));
    if let Some(plan) = &sheet.forecast {
        let sketches = plan.curves.iter().map(|c| format!("sketch of the {}", c.name));
        let hypothesis = plan.hypothesis.as_ref().map(|_| "hypothesis".to_owned());
        let prediction = plan.prediction.as_ref().map(|_| "prediction".to_owned());
        let wanted = sketches.chain(hypothesis).chain(prediction).collect::<Vec<_>>().join(", ");
        all.push((if plan.hold { "Forecast, for which the rig waits" } else { "Forecast" }, wanted));
    }
    all
}

/// One sheet.
#[derive(Template)]
#[template(path = "sheet.html")]
pub(crate) struct SheetPage {
    pub who: String,
    pub id: Id,
    pub shipped: bool,
    pub preview: SheetPreview,
}

/// A lab in a student's list.
pub(crate) struct LabRow {
    pub assignment: Id,
    pub number: String,
    pub title: String,
    pub unit: String,
    pub stage: LabStage,
    /// Whether the teacher has taken it back meanwhile.
    pub taken_back: bool,
    /// A date; empty for none.
    pub due: String,
    /// The logbook whose marks are given out.
    pub marked: Option<Id>,
    /// The lab whose class pool is open to students.
    pub pool: Option<Id>,
}

/// How far a student is with a lab.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum LabStage {
    New,
    Begun,
    HandedIn,
}

impl LabRow {
    /// Its state in words.
    fn state(&self) -> &'static str {
        match self.stage {
            _ if self.taken_back => "taken back; your logbook is kept",
            LabStage::New => "",
            LabStage::Begun => "started",
            LabStage::HandedIn => "handed in",
        }
    }

    /// What its button says.
    fn act(&self) -> &'static str {
        match self.stage {
            LabStage::New => "Start",
            LabStage::Begun => "Go on",
            LabStage::HandedIn => "Look",
        }
    }
}

/// Labs under one heading.
pub(crate) struct LabGroup {
    pub heading: String,
    pub labs: Vec<LabRow>,
}

impl LabGroup {
    /// What is due or begun first, then what is new by unit, then what is done.
    pub(crate) fn of(mut all: Vec<(SheetNumber, LabRow)>) -> Vec<Self> {
        all.sort_by_key(|(number, _)| *number);
        let mut now: Vec<LabRow> = Vec::new();
        let (mut new, mut done): (Vec<Self>, Vec<LabRow>) = (Vec::new(), Vec::new());
        for (_, lab) in all {
            match lab.stage {
                LabStage::HandedIn => done.push(lab),
                LabStage::Begun => now.push(lab),
                LabStage::New if !lab.due.is_empty() => now.push(lab),
                LabStage::New => match new.iter_mut().find(|g| g.heading == lab.unit) {
                    Some(group) => group.labs.push(lab),
                    None => new.push(Self { heading: lab.unit.clone(), labs: vec![lab] }),
                },
            }
        }
        // Soonest first; what has no date comes behind. What is begun goes before what is not.
        now.sort_by_key(|l| (l.due.is_empty(), l.due.clone(), l.stage != LabStage::Begun));
        let mut groups = vec![Self { heading: "Now".to_owned(), labs: now }];
        groups.extend(new);
        groups.push(Self { heading: "Handed in".to_owned(), labs: done });
        groups.retain(|g| !g.labs.is_empty());
        groups
    }
}

/// A logbook that stayed with an earlier class.
pub(crate) struct EarlierLab {
    pub logbook: Id,
    pub title: String,
    pub class: String,
}

/// A student's labs.
#[derive(Template)]
#[template(path = "labs.html")]
pub(crate) struct LabsPage {
    pub who: String,
    pub class: String,
    /// Whether the teacher has not let the name in yet; then there is nothing else.
    pub waits: bool,
    pub groups: Vec<LabGroup>,
    /// Whether one may go to the free bench.
    pub free_bench: bool,
    /// Logbooks that stayed with a class one was in before.
    pub earlier: Vec<EarlierLab>,
    pub message: String,
}
