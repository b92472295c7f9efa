//! The class pool: the results of a lab under one another, for the teacher, and for the students once it is opened.

use std::collections::BTreeMap;

use axum::Form;
use axum::extract::{Path, Query, State};
use axum::response::Response;
use serde::Deserialize;
use zeitmass_core::graph::{self, Graph};
use zeitmass_core::logbook::Analysis;
use zeitmass_store::{Group, Id, LabRow, PoolOpen};

use super::marking::lab_of;
use super::{go, page};
use crate::app::App;
use crate::error::WebError;
use crate::session::{AsStudent, AsTeacher};
use crate::views::pool::{Points, PoolLine, PoolPage, drawn, sentences};

/// How names are shown.
#[derive(Clone, Copy)]
enum Names {
    All,
    /// Only the own one.
    Own,
}

/// How the graph is seen: each group with its line, or all points as one cloud.
#[derive(Deserialize)]
pub(super) struct Seen {
    #[serde(default)]
    cloud: bool,
}

pub(super) async fn show(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path((class, lab)): Path<(Id, Id)>,
    Query(Seen { cloud }): Query<Seen>,
) -> Result<Response, WebError> {
    let (class_name, row) = lab_of(&app, teacher.id, class, lab).await?;
    let mut page_of = pooled(&app, &row, Names::All, None, cloud).await?;
    page_of.who = teacher.name;
    page_of.class = Some((class, class_name));
    page(&page_of)
}

#[derive(Deserialize)]
pub(super) struct Opened {
    open: PoolOpen,
}

/// Opens the pool to the students, or closes it.
pub(super) async fn open(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path((class, lab)): Path<(Id, Id)>,
    Form(Opened { open }): Form<Opened>,
) -> Result<Response, WebError> {
    lab_of(&app, teacher.id, class, lab).await?;
    app.store(move |s| s.open_pool(teacher.id, lab, open)).await?;
    Ok(go(format!("/classes/{class}/labs/{lab}/pool")))
}

/// The pool as students see it: what is right is not told.
pub(super) async fn shown(
    State(app): State<App>,
    AsStudent(student): AsStudent,
    Path(lab): Path<Id>,
    Query(Seen { cloud }): Query<Seen>,
) -> Result<Response, WebError> {
    let class = student.class;
    let row =
        app.store(move |s| Ok(s.labs(class)?.into_iter().find(|l| l.id == lab))).await?.ok_or(WebError::NoPage)?;
    let names = match row.pool {
        PoolOpen::Closed => return Err(WebError::NoPage),
        PoolOpen::Nameless => Names::Own,
        PoolOpen::Named => Names::All,
    };
    let mut page_of = pooled(&app, &row, names, Some(student.id), cloud).await?;
    page_of.who = student.name;
    page(&page_of)
}

/// The pool for the teacher, or for a student, who is not told what is right.
async fn pooled(app: &App, row: &LabRow, names: Names, own: Option<Id>, cloud: bool) -> Result<PoolPage, WebError> {
    let (lab, teacher) = (row.id, own.is_none());
    let sheet = app.sheet(&row.source).map_err(|_| WebError::Broken)?;
    let mut groups: Vec<Group> = app.store(move |s| s.groups(lab, i64::MAX)).await?;
    // Points and lines are of now, and so are the results that follow from them.
    let mut sights = Vec::new();
    for group in &groups {
        sights.push(app.desks.sight(group.logbook).await?);
    }
    let looked_at: Vec<Id> = groups.iter().map(|g| g.logbook).collect();
    groups = app.store(move |s| s.groups(lab, i64::MAX)).await?;
    let graphs: Vec<Option<&Graph>> = sights.iter().map(|s| newest_graph(&s.analysis)).collect();
    let mine = |group: &Group| own.is_some_and(|id| group.members.iter().any(|(m, _)| *m == id));
    let together = graph::pooled(&graphs);
    let numbers: Vec<usize> = (1..=groups.len()).collect();
    let place = groups.iter().position(mine);
    let points = together.as_ref().map(|g| Points::of(g, &numbers, place, cloud));
    let found: Vec<_> = groups
        .iter()
        .zip(1..)
        .filter_map(|(g, number)| Some((g, g.standing.as_ref()?.results.first()?, number)))
        .collect();
    // Most results are in one unit; those that are not cannot stand on the same axis.
    let mut units: BTreeMap<&str, usize> = BTreeMap::new();
    found.iter().for_each(|(_, r, _)| *units.entry(r.unit.as_str()).or_default() += 1);
    let unit = units.into_iter().max_by_key(|(_, n)| *n).map_or_else(String::new, |(unit, _)| unit.to_owned());
    // What is right for each group's own numbers, in the unit of the axis. By logbook: a group may have come between the two looks.
    let keys: BTreeMap<Id, f64> = looked_at
        .iter()
        .zip(&sights)
        .filter_map(|(id, s)| Some((*id, s.book.key().filter(|k| teacher && k.unit.pretty() == unit)?.value)))
        .collect();
    let lines = found.iter().filter(|(_, r, _)| r.unit == unit).map(|(group, result, number)| {
        let mine = mine(group);
        let shown = match names {
            Names::All => format!("{number} {}", group.names()),
            Names::Own if mine => format!("{number} {}", group.names()),
            Names::Own => format!("Group {number}"),
        };
        PoolLine { names: shown, value: result.value, u: result.u, own: mine, key: keys.get(&group.logbook).copied() }
    });
    let mut lines: Vec<PoolLine> = lines.collect();
    let accepted = sheet.goal.accepted.as_ref().filter(|(_, u)| teacher && u.pretty() == unit);
    let mut right = accepted.map(|(number, _)| number.value());
    // Hidden from all alike, one line across says it.
    if let Some(one) = lines.first().and_then(|l| l.key).filter(|one| lines.iter().all(|l| l.key == Some(*one))) {
        right = Some(one);
        lines.iter_mut().for_each(|l| l.key = None);
    }
    let about = (sheet.goal.symbol.as_str(), unit.as_str());
    let words = sentences(&lines, about, right);
    Ok(PoolPage {
        who: String::new(),
        class: None,
        lab,
        title: format!("{} {}", sheet.number, sheet.title),
        drawn: if lines.is_empty() { String::new() } else { drawn(&lines, about, right) },
        points,
        sentences: words,
        outside: found.len() - lines.len(),
        lines: lines.len(),
        open: row.pool,
    })
}

/// The graph of a logbook that says most: the newest with a line, else the newest with points.
pub(super) fn newest_graph(analysis: &Analysis) -> Option<&Graph> {
    let all = || analysis.graphs.iter().rev().filter_map(|(_, g)| g.as_ref());
    all().find(|g| g.first_fit().is_some()).or_else(|| all().find(|g| g.points().next().is_some()))
}
