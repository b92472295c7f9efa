//! The room, live.

use axum::Form;
use axum::extract::{Path, Query, State};
use axum::response::{IntoResponse, Response};
use serde::Deserialize;
use zeitmass_core::logbook::{Edit, OfficeEdit, Part};
use zeitmass_store::{Actor, Id, LabRow};

use super::marking::PARTS;
use super::page;
use crate::app::App;
use crate::error::WebError;
use crate::session::AsTeacher;
use crate::views::{RoundsPage, RoundsPart, part_name, rounds};

/// How the room is looked at.
#[derive(Deserialize)]
pub(super) struct How {
    /// Without names, for the projector.
    #[serde(default)]
    nameless: bool,
}

/// Labs of a class that somebody has begun, by number; and the one in which something was done last.
async fn begun(app: &App, owner: Id, class: Id) -> Result<(Vec<LabRow>, Option<Id>), WebError> {
    let (mut labs, progress) = app
        .store(move |s| {
            s.class(owner, class)?;
            Ok((s.assignments(class)?, s.progress(class)?))
        })
        .await?;
    labs.retain(|l| progress.iter().any(|p| p.assignment == l.id));
    labs.sort_by_key(|l| (app.sheet(&l.source).ok().map(|s| s.number), l.id));
    let at = |lab: Id| {
        let own = progress.iter().filter(|p| p.assignment == lab);
        own.filter_map(|p| p.standing.as_ref().map(|s| s.at)).max()
    };
    let newest = labs.iter().max_by_key(|l| at(l.id)).map(|l| l.id);
    Ok((labs, newest))
}

/// The lab that is looked at first: the one in which something was done last.
pub(super) async fn newest(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(class): Path<Id>,
) -> Result<Response, WebError> {
    match begun(&app, teacher.id, class).await?.1 {
        Some(lab) => Ok(super::go(format!("/classes/{class}/labs/{lab}/rounds"))),
        None => Ok(super::go(format!("/classes/{class}"))),
    }
}

pub(super) async fn show(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path((class, lab)): Path<(Id, Id)>,
    Query(how): Query<How>,
) -> Result<Response, WebError> {
    let id = teacher.id;
    let part = part_of(&app, id, (class, lab), how.nameless).await?;
    let (labs, _) = begun(&app, id, class).await?;
    let class_name = app.store(move |s| Ok(s.class(id, class)?.name)).await?;
    let title =
        |l: &LabRow| app.sheet(&l.source).map_or_else(|_| "Lab".to_owned(), |s| format!("{} {}", s.number, s.title));
    let labs = labs.iter().map(|l| (l.id, title(l), l.id == lab)).collect();
    let parts = PARTS.iter().map(|(part, words)| (part_name(*part), *words)).collect();
    page(&RoundsPage { who: teacher.name, class_name, labs, parts, part })
}

/// A word from the room: to one group, or to all.
#[derive(Deserialize)]
pub(super) struct Said {
    /// The logbook; none for all.
    #[serde(default)]
    to: String,
    part: Part,
    text: String,
}

pub(super) async fn say(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path((class, lab)): Path<(Id, Id)>,
    Form(Said { to, part, text }): Form<Said>,
) -> Result<Response, WebError> {
    let owner = teacher.id;
    let groups = app
        .store(move |s| {
            s.lab_of_class(owner, class, lab)?;
            s.groups(lab, i64::MAX)
        })
        .await?;
    let one: Option<Id> = if to.is_empty() { None } else { Some(to.parse().map_err(|_| WebError::NoPage)?) };
    let those: Vec<Id> = groups.iter().map(|g| g.logbook).filter(|id| one.is_none_or(|to| to == *id)).collect();
    if those.is_empty() {
        return Err(WebError::NoPage);
    }
    for logbook in &those {
        let word = OfficeEdit::SayWord { part, text: text.clone() };
        app.desks.edit(*logbook, Actor::Teacher(owner), None, Edit::Office(word)).await?;
    }
    let told = match those.len() {
        1 => "It is in their logbook now.".to_owned(),
        n => format!("It is in {n} logbooks now."),
    };
    Ok(told.into_response())
}

/// The rails alone.
pub(super) async fn part(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path((class, lab)): Path<(Id, Id)>,
    Query(how): Query<How>,
) -> Result<Response, WebError> {
    page(&part_of(&app, teacher.id, (class, lab), how.nameless).await?)
}

async fn part_of(app: &App, owner: Id, (class, lab): (Id, Id), nameless: bool) -> Result<RoundsPart, WebError> {
    let now = jiff::Timestamp::now().as_second();
    let (row, groups, students) = app
        .store(move |s| {
            let (_, row) = s.lab_of_class(owner, class, lab)?;
            Ok((row, s.groups(lab, now - rounds::LOOKS_BACK)?, s.students(class)?))
        })
        .await?;
    let span = rounds::span(&groups, now);
    let views = groups.iter().zip(1..).map(|(group, number)| {
        let names = if nameless { format!("Group {number}") } else { group.names() };
        rounds::rail(group, span, now, app.desks.refused_again(group.logbook, now), names)
    });
    let mut views: Vec<_> = views.collect();
    // Who waits for the stamp comes first, the one who waits longest at the top; all others stay where they are.
    views.sort_by_key(|v| match v.need {
        rounds::Need::Stamp { minutes, .. } => (0, -minutes),
        rounds::Need::Circles(_) | rounds::Need::Still(_) | rounds::Need::None => (1, 0),
    });
    let begun = |id: Id| groups.iter().any(|g| g.members.iter().any(|(m, _)| *m == id));
    let absent = students.into_iter().filter(|s| !begun(s.id)).map(|s| s.name);
    Ok(RoundsPart {
        class,
        lab,
        nameless,
        minutes: RoundsPart::axis(span),
        width: RoundsPart::WIDTH,
        groups: views,
        absent: if nameless { Vec::new() } else { absent.collect() },
        wanted: app.sheet(&row.source).map_or(0, |s| s.trials),
    })
}
