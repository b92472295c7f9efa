//! A teacher's classes.

use std::collections::HashMap;
use std::convert::Infallible;

use axum::Form;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::sse::{Event, KeepAlive};
use axum::response::{IntoResponse, Response, Sse};
use futures_util::{Stream, StreamExt};
use serde::Deserialize;
use tokio_stream::wrappers::BroadcastStream;
use zeitmass_store::{ClassRow, Id, LabRow, SheetRow, StudentRow};

use super::{go, page};
use crate::app::App;
use crate::error::WebError;
use crate::gate::Caller;
use crate::session::{AsTeacher, SignedIn};
use crate::views::{ClassPage, ClassTable, ClassesPage, Mark, StudentMarks, moment};

pub(super) async fn list(State(app): State<App>, AsTeacher(teacher): AsTeacher) -> Result<Response, WebError> {
    let classes = app.store(move |s| s.classes(teacher.id)).await?;
    page(&ClassesPage { who: teacher.name, classes, message: String::new() })
}

#[derive(Deserialize)]
pub(super) struct NewClass {
    name: String,
}

pub(super) async fn create(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Form(form): Form<NewClass>,
) -> Result<Response, WebError> {
    match app.store(move |s| s.create_class(teacher.id, &form.name)).await {
        Ok(class) => Ok(go(format!("/classes/{class}"))),
        Err(e) if e.status() == StatusCode::UNPROCESSABLE_ENTITY => {
            let classes = app.store(move |s| s.classes(teacher.id)).await?;
            let again = page(&ClassesPage { who: teacher.name, classes, message: e.to_string() })?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response())
        }
        Err(e) => Err(e),
    }
}

/// A class with its students, labs and how far they are.
struct Progressed {
    class: ClassRow,
    labs: Vec<LabRow>,
    students: Vec<StudentMarks>,
    sheets: Vec<SheetRow>,
}

/// How far a class is. Standings are read, no logbook is opened.
async fn progressed(app: &App, owner: Id, id: Id) -> Result<Progressed, WebError> {
    let (class, students, labs, progress, sheets) = app
        .store(move |s| {
            let class = s.class(owner, id)?;
            Ok((class, s.students(id)?, s.assignments(id)?, s.progress(id)?, s.sheets(owner)?))
        })
        .await?;
    let marks = progress.into_iter().map(|p| {
        let standing = p.standing.as_ref();
        let mark = match standing.and_then(|s| s.handed_in) {
            Some(at) => Mark::HandedIn { logbook: p.logbook, at: moment(at) },
            None => Mark::Begun { logbook: p.logbook, edits: standing.map_or(0, |s| s.seq) },
        };
        ((p.student, p.assignment), mark)
    });
    let mut marks: HashMap<(Id, Id), Mark> = marks.collect();
    let students = students.into_iter().map(|student| StudentMarks {
        marks: labs.iter().map(|l| marks.remove(&(student.id, l.id)).unwrap_or(Mark::NotBegun)).collect(),
        id: student.id,
        name: student.name,
    });
    Ok(Progressed { students: students.collect(), class, labs, sheets })
}

pub(super) async fn show(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    caller: Caller,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let Progressed { class, labs, students, sheets } = progressed(&app, teacher.id, id).await?;
    let (waiting, former): (Vec<_>, Vec<_>) =
        app.store(move |s| s.everybody(id)).await?.into_iter().filter(|s| s.waits || s.left).partition(|s| !s.left);
    let named = |all: Vec<StudentRow>| all.into_iter().map(|s| (s.id, s.name)).collect();
    let free = sheets.iter().filter(|s| labs.iter().all(|l| l.sheet != s.id));
    page(&ClassPage {
        who: teacher.name,
        students,
        waiting: named(waiting),
        former: named(former),
        in_clear: !caller.encrypted && !caller.at_home,
        sheets: free.map(|s| (s.id, title(&app, &s.source) + if s.shipped { "" } else { " (my own)" })).collect(),
        labs: labs.iter().map(|l| title(&app, &l.source)).collect(),
        class,
    })
}

/// The table of a class alone, to be put in place of the one that is shown.
pub(super) async fn standings(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let Progressed { class, labs, students, .. } = progressed(&app, teacher.id, id).await?;
    page(&ClassTable { class, labs: labs.iter().map(|l| title(&app, &l.source)).collect(), students })
}

/// The logbooks of a class that move, as server-sent events.
pub(super) async fn events(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
    signed_in: SignedIn,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, WebError> {
    // Another's class does not exist.
    app.store(move |s| s.class(teacher.id, id)).await?;
    let moves = BroadcastStream::new(app.desks.watch_class(id));
    // One who fell behind looks again all the same.
    let stream = moves.map(|moved| {
        let logbook = moved.map_or_else(|_| String::new(), |logbook| logbook.to_string());
        Ok(Event::default().event("moved").data(logbook))
    });
    Ok(Sse::new(stream.take_until(signed_in.out(&app)?)).keep_alive(KeepAlive::default()))
}

/// Number and title of a sheet.
fn title(app: &App, source: &str) -> String {
    app.sheet(source).map_or_else(|_| "Unreadable sheet".to_owned(), |s| format!("{} {}", s.number, s.title))
}

#[derive(Deserialize)]
pub(super) struct NewLab {
    sheet: Id,
}

pub(super) async fn assign(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(class): Path<Id>,
    Form(form): Form<NewLab>,
) -> Result<Response, WebError> {
    app.store(move |s| s.assign(teacher.id, class, form.sheet)).await?;
    Ok(go(format!("/classes/{class}")))
}
