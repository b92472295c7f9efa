//! Marks: deciding, giving out, taking along.

use std::io::{Cursor, Write};

use askama::Template;
use axum::Form;
use axum::extract::{Path, State};
use axum::response::Response;
use serde::Deserialize;
use serde_json::json;
use zeitmass_core::graph::Graph;
use zeitmass_core::lab::{LabSheet, ReadFrom};
use zeitmass_core::logbook::Part;
use zeitmass_core::quantity::format::{plain, plus_minus, with_unit};
use zeitmass_core::result::FIRST_RESULT;
use zeitmass_store::{Decided, Id, LabRow};
use zeitmass_words::slips;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

use super::exports::{file, write_up_of};
use super::pool::newest_graph;
use super::{go, page};
use crate::app::App;
use crate::desks::blocking;
use crate::draw;
use crate::error::WebError;
use crate::files::{TableFormat, file_name, list_file};
use crate::session::{Access, AsTeacher, Visitor};
use crate::text::markdown;
use crate::views::{CriteriaPart, MarkedPage, MarkingPage, MarksPage, WriteUpFile, moment, part_name};

/// Parts a note can stand beside, with their names for people.
pub(super) const PARTS: [(Part, &str); 8] = [
    (Part::Questions, "questions"),
    (Part::Forecast, "forecast"),
    (Part::Stage, "stage"),
    (Part::Record, "record"),
    (Part::Graph, "graph"),
    (Part::Constant, "constant"),
    (Part::Model, "step model"),
    (Part::Texts, "write-up"),
];

/// Groups of a lab in the order in which they are marked: those that handed in first.
async fn groups(app: &App, lab: Id) -> Result<Vec<(Id, String, bool)>, WebError> {
    let all = app.store(move |s| s.groups(lab, i64::MAX)).await?;
    let mut all: Vec<_> = all
        .into_iter()
        .map(|g| {
            let names = g.names();
            (g.logbook, names, g.standing.is_some_and(|s| s.handed_in.is_some()))
        })
        .collect();
    all.sort_by_key(|(_, _, handed_in)| !handed_in);
    Ok(all)
}

/// The marking page of a logbook.
pub(super) async fn show(State(app): State<App>, access: Access) -> Result<Response, WebError> {
    access.sender_back()?;
    let (id, lab, owner) = (access.info.id, access.info.assignment, access.info.teacher);
    let w = write_up_of(&app, &access.info).await?;
    let groups = groups(&app, lab).await?;
    let (row, decided) = app.store(move |s| Ok((s.lab(owner, lab)?, s.marks(lab)?))).await?;
    let place = groups.iter().position(|(l, ..)| *l == id).unwrap_or_default();
    let at = |place: Option<usize>| place.and_then(|p| groups.get(p)).map(|(l, ..)| *l);
    let book = app.desks.book(id).await?;
    let (key, steps) = (wanted_words(&book), book.sheet().steps().collect());
    let worked_out = move || {
        let slips = book.slips(&book.analyse()).into_iter().map(|s| slips::evidence(&s));
        (CriteriaPart::of(id, &book, &decided), slips.collect::<Vec<_>>())
    };
    let (criteria, slips) = blocking(worked_out).await?;
    page(&MarkingPage {
        w,
        class: access.info.class,
        lab,
        before: at(place.checked_sub(1)),
        next: at(Some(place + 1)),
        place: place + 1,
        all: groups.len(),
        given_out: row.marks_given.is_some(),
        key,
        steps,
        parts: PARTS.iter().map(|(part, words)| (part_name(*part), *words)).collect(),
        criteria,
        slips,
    })
}

/// What should have come out.
fn wanted_words(book: &zeitmass_core::logbook::Logbook) -> String {
    let goal = &book.sheet().goal;
    match (book.key(), &goal.accepted) {
        (Some(key), _) => {
            let value = key.tolerance.map_or_else(|| plain(key.value), |t| plus_minus(key.value, t));
            format!("{} = {}", key.symbol, with_unit(&value, &key.unit))
        }
        (None, Some((number, unit))) => format!("{} = {}", goal.symbol, with_unit(&number.pretty(), unit)),
        (None, None) => String::new(),
    }
}

#[derive(Deserialize)]
pub(super) struct Choice {
    criterion: String,
    /// Place of the level; left out to leave it open again.
    level: Option<u32>,
}

/// Decides about a criterion; answers with the criteria as they stand.
pub(super) async fn decide(
    State(app): State<App>,
    access: Access,
    Form(Choice { criterion, level }): Form<Choice>,
) -> Result<Response, WebError> {
    access.sender_back()?;
    let (id, lab, owner) = (access.info.id, access.info.assignment, access.info.teacher);
    let book = app.desks.book(id).await?;
    let known = book.sheet().criteria.iter().find(|c| c.name == criterion).ok_or(WebError::NoPage)?;
    let points = match level {
        Some(level) => Some(known.levels.get(level as usize).ok_or(WebError::NoPage)?.points),
        None => None,
    };
    let decided =
        Decided { logbook: id, criterion, level: level.unwrap_or_default(), points: points.unwrap_or_default() };
    let marks = app
        .store(move |s| {
            s.decide(owner, &decided, points.is_none())?;
            s.marks(lab)
        })
        .await?;
    page(&blocking(move || CriteriaPart::of(id, &book, &marks)).await?)
}

/// A lab of a class, if both are the teacher's.
pub(super) async fn lab_of(app: &App, owner: Id, class: Id, lab: Id) -> Result<(String, LabRow), WebError> {
    app.store(move |s| s.lab_of_class(owner, class, lab)).await
}

pub(super) async fn list(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path((class, lab)): Path<(Id, Id)>,
) -> Result<Response, WebError> {
    marks_page(&app, (teacher.id, teacher.name), (class, lab), String::new()).await
}

async fn marks_page(
    app: &App,
    (owner, who): (Id, String),
    (class, lab): (Id, Id),
    message: String,
) -> Result<Response, WebError> {
    let (class_name, row) = lab_of(app, owner, class, lab).await?;
    let sheet = app.sheet(&row.source).map_err(|_| WebError::Broken)?;
    let (groups, decided) = (groups(app, lab).await?, app.store(move |s| s.marks(lab)).await?);
    page(&MarksPage {
        who,
        class,
        class_name,
        lab,
        title: format!("{} {}", sheet.number, sheet.title),
        criteria: sheet.criteria.iter().map(|c| (c.name.clone(), plain(c.most()))).collect(),
        rows: MarksPage::rows(&sheet.criteria, &groups, &decided),
        given: row.marks_given.map(moment),
        message,
        register: app.register().is_some(),
    })
}

/// What the teacher does with all marks of a lab.
#[derive(Deserialize)]
#[serde(rename_all = "snake_case")]
enum WithMarks {
    GiveOut,
    TakeIn,
    Register,
}

#[derive(Deserialize)]
pub(super) struct Asked {
    r#do: WithMarks,
}

pub(super) async fn change(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path((class, lab)): Path<(Id, Id)>,
    Form(Asked { r#do }): Form<Asked>,
) -> Result<Response, WebError> {
    let (class_name, row) = lab_of(&app, teacher.id, class, lab).await?;
    let id = teacher.id;
    match r#do {
        WithMarks::GiveOut => app.store(move |s| s.give_marks(id, lab, true)).await?,
        WithMarks::TakeIn => app.store(move |s| s.give_marks(id, lab, false)).await?,
        WithMarks::Register => {
            let message = write_register(&app, &class_name, &row).await?;
            return marks_page(&app, (id, teacher.name), (class, lab), message).await;
        }
    }
    Ok(go(format!("/classes/{class}/labs/{lab}/marks")))
}

/// Heads and rows of the marks of a lab, one row a student.
async fn as_list(app: &App, row: &LabRow) -> Result<(Vec<String>, Vec<Vec<String>>), WebError> {
    let lab = row.id;
    let sheet: std::sync::Arc<LabSheet> = app.sheet(&row.source).map_err(|_| WebError::Broken)?;
    let (groups, decided) = app.store(move |s| Ok((s.groups(lab, i64::MAX)?, s.marks(lab)?))).await?;
    let fixed = ["student", "handed in"].map(str::to_owned);
    let heads: Vec<String> = fixed
        .into_iter()
        .chain(sheet.criteria.iter().map(|c| c.name.clone()))
        .chain(["sum".to_owned(), "of".to_owned()])
        .collect();
    let most = plain(sheet.criteria.iter().map(zeitmass_core::lab::Criterion::most).sum());
    let rows = groups.iter().flat_map(|g| {
        let handed = g.standing.as_ref().and_then(|s| s.handed_in).map(moment).unwrap_or_default();
        let of = |name: &str| decided.iter().find(|d| d.logbook == g.logbook && d.criterion == name).map(|d| d.points);
        let points: Vec<Option<f64>> = sheet.criteria.iter().map(|c| of(&c.name)).collect();
        let shown: Vec<String> =
            points.iter().map(|p| p.map_or_else(String::new, |p| plain(p).replace('\u{2212}', "-"))).collect();
        // A sum that leaves something open would be taken for the whole.
        let sum = points.iter().copied().sum::<Option<f64>>().map_or_else(String::new, plain);
        let most = most.clone();
        g.members.iter().map(move |(_, name)| {
            let mut line = vec![name.clone(), handed.clone()];
            line.extend(shown.iter().cloned());
            line.extend([sum.clone(), most.clone()]);
            line
        })
    });
    Ok((heads, rows.collect()))
}

/// Marks as CSV, ODS or XLSX; or all write-ups as one zip.
pub(super) async fn take_along(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path((class, lab, name)): Path<(Id, Id, String)>,
) -> Result<Response, WebError> {
    let (class_name, row) = lab_of(&app, teacher.id, class, lab).await?;
    let sheet = app.sheet(&row.source).map_err(|_| WebError::Broken)?;
    let stem = file_name(&format!("{class_name} {} {}", sheet.number, sheet.title));
    if name == "write-ups.zip" {
        let groups = groups(&app, lab).await?;
        let mut pages = Vec::new();
        for (logbook, names, _) in groups {
            let info = app.store(move |s| s.logbook_info(logbook)).await?;
            let w = write_up_of(&app, &info).await?;
            let text = blocking(move || WriteUpFile { w }.render()).await??;
            pages.push((format!("{}-{logbook}.html", file_name(&names)), text));
        }
        let packed = blocking(move || zipped(pages)).await??;
        return Ok(file(packed, "application/zip", &format!("{stem}-write-ups.zip")));
    }
    let extension = name.strip_prefix("marks.").ok_or(WebError::NoPage)?.to_owned();
    let format = TableFormat::named(&extension).ok_or(WebError::NoPage)?;
    let (heads, rows) = as_list(&app, &row).await?;
    let content = blocking(move || list_file(&heads, &rows, format)).await??;
    Ok(file(content, format.media_type(), &format!("{stem}-marks.{extension}")))
}

fn zipped(pages: Vec<(String, String)>) -> Result<Vec<u8>, WebError> {
    let broken = |e: &dyn std::fmt::Display| {
        tracing::error!("write-ups could not be packed: {e}");
        WebError::Broken
    };
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    let options = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
    for (name, text) in pages {
        zip.start_file(name, options).map_err(|e| broken(&e))?;
        zip.write_all(text.as_bytes()).map_err(|e| broken(&e))?;
    }
    Ok(zip.finish().map_err(|e| broken(&e))?.into_inner())
}

/// Writes the marks of a lab into the folder of the register, as a CSV file with its description (W3C, *Metadata Vocabulary for Tabular Data*, 2015).
/// Each file is put in place whole, so that nobody reads half of one.
async fn write_register(app: &App, class: &str, row: &LabRow) -> Result<String, WebError> {
    let folder = app.register().ok_or(WebError::NoPage)?.to_owned();
    let (heads, rows) = as_list(app, row).await?;
    let sheet = app.sheet(&row.source).map_err(|_| WebError::Broken)?;
    let name = format!("{}.csv", file_name(&format!("{class} {} {} {}", sheet.number, sheet.title, row.id)));
    let columns: Vec<_> = heads
        .iter()
        .enumerate()
        .map(|(i, head)| json!({ "titles": head, "datatype": if i < 2 { "string" } else { "number" } }))
        .collect();
    let about = json!({
        "@context": "http://www.w3.org/ns/csvw",
        "url": name,
        "dc:title": format!("{class}: {} {}", sheet.number, sheet.title),
        "tableSchema": { "columns": columns },
    });
    let path = name.clone();
    let written = blocking(move || -> std::io::Result<()> {
        let csv = list_file(&heads, &rows, TableFormat::Csv).map_err(|e| std::io::Error::other(e.to_string()))?;
        std::fs::create_dir_all(&folder)?;
        for (file, content) in [(format!("{path}-metadata.json"), about.to_string().into_bytes()), (path.clone(), csv)]
        {
            let (half, whole) = (folder.join(format!(".{file}.part")), folder.join(&file));
            std::fs::write(&half, content)?;
            std::fs::rename(&half, &whole)?;
        }
        Ok(())
    })
    .await?;
    Ok(match written {
        Ok(()) => format!("Written to the register as {name}."),
        Err(e) => {
            tracing::warn!(error = %e, "the register could not be written");
            format!("The register could not be written: {e}. The marks are kept here.")
        }
    })
}

/// What students see once the marks are given out.
pub(super) async fn marked(State(app): State<App>, access: Access, visitor: Visitor) -> Result<Response, WebError> {
    let (id, lab) = (access.info.id, access.info.assignment);
    let (given, _) = app.store(move |s| s.given_out(id)).await?;
    let sight = app.desks.sight(id).await?;
    let book = &sight.book;
    if !access.viewer.sees_key() && (given.is_none() || !book.state().office.handed_in) {
        let word = "The marks of this lab are not given out yet. Look again when your teacher says so.";
        return Err(WebError::Invalid(word.to_owned()));
    }
    let decided = app.store(move |s| s.marks(lab)).await?;
    let criteria = &book.sheet().criteria;
    let of = |name: &str| decided.iter().find(|d| d.logbook == id && d.criterion == name);
    let marks = criteria.iter().map(|c| {
        let decided = of(&c.name);
        let words = decided.and_then(|d| c.levels.get(d.level as usize)).map_or("", |l| l.words.as_str());
        let points = decided.map_or_else(String::new, |d| plain(d.points));
        (c.name.clone(), words.to_owned(), points, plain(c.most()))
    });
    let found = sight.analysis.outcome(FIRST_RESULT).and_then(|o| o.constant.as_ref()?.as_ref().ok());
    let found =
        found.map_or_else(String::new, |c| format!("{} = {}", c.symbol, with_unit(&plus_minus(c.value, c.u), &c.unit)));
    // The own points with the curve they should lie on, by the own numbers.
    let graph = newest_graph(&sight.analysis).and_then(|g| Some((g, book.expected_by_key(g)?)));
    let graph = graph.map_or_else(String::new, |(g, curve)| {
        let wanted = Graph { expected: Some(curve), look: None, ..g.clone() };
        draw::svg(&wanted, draw::Audience::Reader)
    });
    let late = book.sheet().sections.iter().filter(|s| s.from == ReadFrom::HandIn);
    let who = match visitor.0 {
        Some(zeitmass_store::Who::Teacher(t)) => t.name,
        Some(zeitmass_store::Who::Student(s)) => s.name,
        None => String::new(),
    };
    page(&MarkedPage {
        who,
        logbook: id,
        title: format!("{} {}", book.sheet().number, book.sheet().title),
        marks: marks.collect(),
        sum: plain(criteria.iter().filter_map(|c| Some(of(&c.name)?.points)).sum()),
        most: plain(criteria.iter().map(zeitmass_core::lab::Criterion::most).sum()),
        wanted: wanted_words(book),
        found,
        graph,
        sections: late.map(|s| (s.heading.clone(), markdown(&s.text))).collect(),
    })
}
