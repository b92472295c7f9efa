//! The claim with its evidence, and the texts of the write-up.

use askama::Template;
use zeitmass_core::inquiry::{Step, is_column};
use zeitmass_core::logbook::{Finding, Judged, Part, Shows, Taken, TextField};
use zeitmass_core::record::{ColumnKind, RowId};
use zeitmass_words::Title;
use zeitmass_words::{Words, claims};

use super::Scene;
use super::words::Beside;
use crate::views::picks::{PickView, picks};
use crate::wish::json;

/// Rows that are offered as evidence at once, with those that are chosen.
const MOST_AT_ONCE: usize = 200;

impl Scene<'_> {
    pub(super) fn texts(&self) -> TextsPart {
        let state = self.book().state();
        let prompt = |field| match field {
            TextField::Claim => "Anything to add to the claim above? One or two sentences, in your quantities.",
            TextField::Evidence => "Which graph, which numbers show it? The rows are chosen above.",
            TextField::Reasoning => "Why do they show it? Use the law from the background.",
            TextField::Intercept | TextField::Difference => "",
        };
        let field = |f: TextField| {
            let text = state.writing.texts.get(&f).cloned().unwrap_or_default();
            let title = if f == TextField::Claim { "Claim, in your own words" } else { f.title() };
            TextView { name: f.name(), title, prompt: prompt(f), text }
        };
        TextsPart {
            beside: self.beside(Part::Texts),
            writable: self.open_at(Step::WriteUp),
            claim: self.claim(),
            texts: TextField::ALL.map(field).into(),
            blocks: self.outline(),
        }
    }

    pub(crate) fn claim(&self) -> ClaimView {
        let (book, analysis) = (self.book(), self.analysis());
        let claim = book.state().claim.claim.as_ref();
        let judged = book.judged_claim(analysis);
        let (cause, effect) = claim.map(|c| (c.cause, c.effect)).or_else(|| self.likely()).unwrap_or_default();
        let several = analysis.tables.len() > 1;
        let options = |chosen: u32| {
            let columns = analysis.tables.iter().flat_map(|t| t.columns.iter().map(move |c| (t, &c.column)));
            let option = columns.map(|(t, c)| {
                let name = if several {
                    format!("{} {} in {}", c.name, c.symbol, t.record.name)
                } else {
                    format!("{} {}", c.name, c.symbol)
                };
                (c.id, name, c.id == chosen)
            });
            option.collect::<Vec<_>>()
        };
        let findings = judged.as_ref().map(|j| {
            let all = [j.shows.as_ref(), j.beside.as_ref(), Some(&j.controlled), Some(&j.enough)];
            all.into_iter().flatten().map(|f| FindingView::of(j, f)).collect()
        });
        let unchosen = claim.and_then(|c| {
            let table = analysis.tables.iter().find(|t| t.place(c.cause).is_some())?;
            let (x, y) = (table.place(c.cause)?, table.place(c.effect)?);
            let odd = book.incomparable(&table.record);
            let whole = |i: &usize| [x, y].iter().all(|place| table.columns[*place].cells[*i].value().is_some());
            let rows = (0..table.rows.len()).filter(|i| !table.rows[*i].aside && whole(i)).map(|i| table.rows[i].id);
            let rows = rows.filter(|id| !odd.contains_key(id) && !c.evidence.contains(id)).collect::<Vec<RowId>>();
            Some(rows).filter(|rows| rows.len() + c.evidence.len() <= MOST_AT_ONCE)
        });
        ClaimView {
            stated: claim.is_some(),
            causes: options(cause),
            effects: options(effect),
            picks: picks(claim.map(|c| c.curve)),
            sentence: judged.as_ref().map_or_else(String::new, Words::words),
            lost: claim.is_some() && judged.is_none(),
            rows: judged.iter().flat_map(|j| &j.rows).map(|row| (row.id, row.number, row.words())).collect(),
            findings: findings.unwrap_or_default(),
            questions: judged.as_ref().and_then(claims::question).into_iter().collect(),
            // All or none: a long table is pointed at row by row.
            unchosen: unchosen.as_ref().map_or(0, Vec::len),
            all_rows: json(&unchosen.unwrap_or_default()),
        }
    }

    /// The blocks of the write-up, as they can be put in order.
    fn outline(&self) -> Vec<BlockRow> {
        let state = self.book().state();
        let rows = self.book().write_up().into_iter().map(|laid| {
            let number = laid.number.map(|n| format!(" {n}")).unwrap_or_default();
            let (name, kind) = match laid.block.shows {
                Shows::Question => ("Question".to_owned(), Kind::Plain),
                Shows::Forecast => ("Forecast".to_owned(), Kind::Plain),
                Shows::Held => ("What was held".to_owned(), Kind::Plain),
                Shows::Table(id) => {
                    let name = state.table(id).map(|t| t.name.clone()).unwrap_or_default();
                    (format!("Table{number}: {name}"), Kind::Introduced)
                }
                Shows::Graph(id) => {
                    let graph = self.analysis().graph(id);
                    let axes = graph.map(|g| format!(": {} against {}", g.y.symbol, g.x.symbol)).unwrap_or_default();
                    (format!("Figure{number}{axes}"), Kind::Introduced)
                }
                Shows::Result(id) => {
                    let name = state.result(id).map(|r| r.name.clone()).filter(|n| !n.is_empty());
                    (format!("Result {}", name.unwrap_or_else(|| self.book().sheet().goal.symbol.clone())), Kind::Plain)
                }
                Shows::Model => (format!("Figure{number}: step model"), Kind::Introduced),
                Shows::Picture(id) => {
                    let of = match &laid.block.taken {
                        Some(Taken::Run { run, .. }) => format!(": picture of run {run}"),
                        Some(Taken::Film { .. }) => ": picture of the film".to_owned(),
                        None => String::new(),
                    };
                    (format!("Figure{number}{of}"), Kind::Picture(id))
                }
                Shows::Claim => ("Claim with evidence".to_owned(), Kind::Plain),
                Shows::Text(field) => (field.title().to_owned(), Kind::Plain),
                Shows::Own(_) => ("Text of your own".to_owned(), Kind::Own),
                Shows::Answers => ("Questions and answers".to_owned(), Kind::Plain),
            };
            BlockRow {
                key: json(&laid.block.shows),
                id: json(&laid.block.shows).chars().filter(char::is_ascii_alphanumeric).collect(),
                name,
                introduced: matches!(kind, Kind::Introduced | Kind::Picture(_)),
                picture: if let Kind::Picture(id) = kind { Some(id) } else { None },
                own: kind == Kind::Own,
                intro: laid.block.intro,
                hidden: laid.block.hidden,
                wants_intro: laid.wants_intro,
            }
        });
        rows.collect()
    }

    /// What a claim is likely about: the quantities of the hypothesis, those on the graph, or the first that is set and the first that is read.
    fn likely(&self) -> Option<(u32, u32)> {
        let (book, analysis) = (self.book(), self.analysis());
        let of_hypothesis = || {
            let h = book.state().forecast.hypothesis.as_ref()?;
            analysis.tables.iter().find_map(|t| {
                let named = |wanted: &str| t.columns.iter().map(|c| &c.column).find(|c| is_column(wanted, &c.name));
                Some((named(&h.cause)?.id, named(&h.effect)?.id))
            })
        };
        let of_graph = || analysis.graph(self.graph_id())?.series.first().map(|s| s.columns);
        let of_table = || {
            let columns = &analysis.tables.first()?.columns;
            let kind = |kind: ColumnKind| columns.iter().map(|c| &c.column).find(|c| c.kind == kind).map(|c| c.id);
            Some((kind(ColumnKind::Set).or(kind(ColumnKind::Given))?, kind(ColumnKind::Read)?))
        };
        let of_any = || {
            let columns = &analysis.tables.first()?.columns;
            Some((columns.first()?.column.id, columns.get(1)?.column.id))
        };
        of_hypothesis().or_else(of_graph).or_else(of_table).or_else(of_any)
    }
}

#[derive(PartialEq)]
enum Kind {
    Plain,
    Introduced,
    /// A picture, with its id.
    Picture(u32),
    Own,
}

/// A block in the outline of the write-up.
struct BlockRow {
    /// What it shows, as JSON.
    key: String,
    id: String,
    name: String,
    introduced: bool,
    picture: Option<u32>,
    own: bool,
    intro: String,
    hidden: bool,
    wants_intro: bool,
}

struct TextView {
    name: &'static str,
    title: &'static str,
    prompt: &'static str,
    text: String,
}

/// What is claimed, and what was found of it.
pub(crate) struct ClaimView {
    stated: bool,
    causes: Vec<(u32, String, bool)>,
    effects: Vec<(u32, String, bool)>,
    picks: Vec<PickView>,
    pub sentence: String,
    /// Whether its columns are gone.
    lost: bool,
    pub rows: Vec<(RowId, usize, String)>,
    pub findings: Vec<FindingView>,
    pub questions: Vec<String>,
    /// How many rows that count are no evidence yet, and which, as JSON.
    unchosen: usize,
    all_rows: String,
}

/// A finding with the word before it.
pub(crate) struct FindingView {
    pub word: &'static str,
    pub class: &'static str,
    pub text: String,
}

impl FindingView {
    fn of(judged: &Judged, finding: &Finding) -> Self {
        let (word, class) = match finding.holds() {
            Some(true) => ("yes", "agrees"),
            Some(false) => ("not yet", "differs"),
            None => ("open", "open"),
        };
        Self { word, class, text: claims::finding(judged, finding) }
    }
}

#[derive(Template)]
#[template(path = "bench/texts_part.html")]
pub(super) struct TextsPart {
    beside: Beside,
    writable: bool,
    claim: ClaimView,
    texts: Vec<TextView>,
    blocks: Vec<BlockRow>,
}
