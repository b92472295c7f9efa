//! A teacher's classes.

use std::collections::HashMap;
use std::convert::Infallible;

use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::sse::{Event, KeepAlive};
use axum::response::{IntoResponse, Response, Sse};
use axum_extra::extract::Form;
use futures_util::{Stream, StreamExt};
use serde::Deserialize;
use tokio_stream::wrappers::BroadcastStream;
use zeitmass_store::{ClassRow, Id, LabRow, SheetRow, StudentRow};
use zeitmass_words::slips::few_words;

use super::{go, page};
use crate::app::App;
use crate::error::WebError;
use crate::gate::Caller;
use crate::session::{AsTeacher, SignedIn};
use crate::views::{ClassLab, ClassPage, ClassTable, ClassesPage, Mark, StudentMarks, moment};
use zeitmass_words::Title;

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
    /// Labs that somebody has begun, by number and title.
    begun: Vec<String>,
    students: Vec<StudentMarks>,
    /// All labs that are assigned, by their numbers, and those that were taken back.
    labs: Vec<ClassLab>,
    sheets: Vec<SheetRow>,
}

/// How far a class is. Standings are read, no logbook is opened.
async fn progressed(app: &App, owner: Id, id: Id) -> Result<Progressed, WebError> {
    let (class, students, mut labs, progress, sheets) = app
        .store(move |s| {
            let class = s.class(owner, id)?;
            Ok((class, s.students(id)?, s.labs(id)?, s.progress(id)?, s.sheets(owner)?))
        })
        .await?;
    let number = |lab: &LabRow| app.sheet(&lab.source).ok().map(|s| s.number);
    labs.sort_by_key(|lab| (number(lab), lab.id));
    let counted = |lab: Id, handed: bool| {
        let own = progress.iter().filter(|p| p.assignment == lab);
        own.filter(|p| !handed || p.standing.as_ref().is_some_and(|s| s.handed_in.is_some())).count()
    };
    let view = |lab: &LabRow| ClassLab {
        id: lab.id,
        title: title(app, &lab.source),
        unit: app.sheet(&lab.source).map_or_else(|_| String::new(), |s| s.unit.clone()),
        due: lab.due.clone().unwrap_or_default(),
        begun: counted(lab.id, false),
        handed_in: counted(lab.id, true),
        taken_back: lab.taken_back.is_some(),
        sheet: lab.sheet,
    };
    let views: Vec<ClassLab> = labs.iter().map(view).collect();
    let shown: Vec<&ClassLab> = views.iter().filter(|l| l.begun > 0 && !l.taken_back).collect();
    let marks = progress.iter().map(|p| {
        let standing = p.standing.as_ref();
        let slips = || standing.iter().flat_map(|s| s.slips.iter().map(|kind| few_words(*kind))).collect();
        let mark = match standing {
            Some(s) if s.handed_in.is_some() => {
                Mark::HandedIn { logbook: p.logbook, at: s.handed_in.map(moment).unwrap_or_default(), slips: slips() }
            }
            Some(s) => Mark::Begun {
                logbook: p.logbook,
                step: s.step.title(),
                trials: s.trials,
                answers: match s.questions {
                    [0, ..] => String::new(),
                    [all, answered, _] => format!(", {answered}/{all} answers"),
                },
                edits: s.seq,
                slips: slips(),
            },
            None => Mark::Opened { logbook: p.logbook },
        };
        ((p.student, p.assignment), mark)
    });
    let mut marks: HashMap<(Id, Id), Mark> = marks.collect();
    let students = students.into_iter().map(|student| StudentMarks {
        marks: shown.iter().map(|l| marks.remove(&(student.id, l.id)).unwrap_or(Mark::NotBegun)).collect(),
        id: student.id,
        name: student.name,
    });
    let students = students.collect();
    Ok(Progressed { students, class, begun: shown.iter().map(|l| l.title.clone()).collect(), labs: views, sheets })
}

pub(super) async fn show(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    caller: Caller,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    class_page(&app, (teacher.id, teacher.name), &caller, id, String::new()).await
}

async fn class_page(
    app: &App,
    (owner, who): (Id, String),
    caller: &Caller,
    id: Id,
    message: String,
) -> Result<Response, WebError> {
    let Progressed { class, begun, labs, students, sheets } = progressed(app, owner, id).await?;
    let (everybody, classes) = app.store(move |s| Ok((s.everybody(id)?, s.classes(owner)?))).await?;
    let (waiting, former): (Vec<_>, Vec<_>) =
        everybody.into_iter().filter(|s| s.waits || s.left).partition(|s| !s.left);
    let named = |all: Vec<StudentRow>| all.into_iter().map(|s| (s.id, s.name)).collect();
    let mut free: Vec<_> = sheets
        .iter()
        .filter(|s| labs.iter().all(|l| l.sheet != s.id || l.taken_back))
        .map(|s| {
            let number = app.sheet(&s.source).ok().map(|s| s.number);
            (number, s.id, title(app, &s.source) + if s.shipped { "" } else { " (my own)" })
        })
        .collect();
    free.sort();
    page(&ClassPage {
        who,
        students,
        waiting: named(waiting),
        former: named(former),
        in_clear: !caller.encrypted && !caller.at_home,
        sheets: free.into_iter().map(|(_, id, title)| (id, title)).collect(),
        others: classes.into_iter().filter(|c| c.id != id && !c.closed).map(|c| (c.id, c.name)).collect(),
        labs: begun,
        assigned: labs,
        class,
        message,
    })
}

/// The table of a class alone, to be put in place of the one that is shown.
pub(super) async fn standings(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let Progressed { class, begun, students, .. } = progressed(&app, teacher.id, id).await?;
    page(&ClassTable { class, labs: begun, students })
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
    /// By when, as a date; empty for no date.
    #[serde(default)]
    due: String,
    /// Further classes it is assigned to.
    #[serde(default)]
    also: Vec<Id>,
}

pub(super) async fn assign(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    caller: Caller,
    Path(class): Path<Id>,
    Form(form): Form<NewLab>,
) -> Result<Response, WebError> {
    let id = teacher.id;
    let done = app
        .store(move |s| {
            for class in std::iter::once(class).chain(form.also) {
                s.assign(id, class, form.sheet)?;
                let labs = s.labs(class)?;
                if let Some(lab) = labs.iter().find(|l| l.sheet == form.sheet).filter(|_| !form.due.is_empty()) {
                    s.set_due(id, lab.id, &form.due)?;
                }
            }
            Ok(())
        })
        .await;
    told(&app, (id, teacher.name), &caller, class, done).await
}

/// What a teacher does with a lab of a class.
#[derive(Deserialize)]
#[serde(rename_all = "snake_case")]
enum WithLab {
    Due,
    TakeBack,
    AssignAgain,
}

#[derive(Deserialize)]
pub(super) struct LabChange {
    r#do: WithLab,
    #[serde(default)]
    due: String,
}

pub(super) async fn change_lab(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    caller: Caller,
    Path((class, lab)): Path<(Id, Id)>,
    Form(LabChange { r#do, due }): Form<LabChange>,
) -> Result<Response, WebError> {
    super::marking::lab_of(&app, teacher.id, class, lab).await?;
    let id = teacher.id;
    let done = match r#do {
        WithLab::Due => app.store(move |s| s.set_due(id, lab, &due)).await,
        WithLab::TakeBack => app.store(move |s| s.take_back(id, lab, true)).await,
        WithLab::AssignAgain => app.store(move |s| s.take_back(id, lab, false)).await,
    };
    told(&app, (id, teacher.name), &caller, class, done).await
}

/// After a form: the class as it is now, with a word if something could not be done.
async fn told(
    app: &App,
    owner: (Id, String),
    caller: &Caller,
    class: Id,
    done: Result<(), WebError>,
) -> Result<Response, WebError> {
    match done {
        Ok(()) => Ok(go(format!("/classes/{class}"))),
        Err(e) if e.status() == StatusCode::UNPROCESSABLE_ENTITY => {
            let again = class_page(app, owner, caller, class, e.to_string()).await?;
            Ok((e.status(), again).into_response())
        }
        Err(e) => Err(e),
    }
}
