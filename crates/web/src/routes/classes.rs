//! A teacher's classes.

use std::collections::HashMap;

use axum::Form;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use serde::Deserialize;
use zeitmass_core::lab::LabSheet;
use zeitmass_store::Id;

use super::{go, page};
use crate::app::App;
use crate::error::WebError;
use crate::session::AsTeacher;
use crate::views::{ClassPage, ClassesPage, Mark, StudentMarks};

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

pub(super) async fn show(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let owner = teacher.id;
    let (class, students, labs, progress, sheets) = app
        .store(move |s| {
            let class = s.class(owner, id)?;
            Ok((class, s.students(id)?, s.assignments(id)?, s.progress(id)?, s.sheets(owner)?))
        })
        .await?;
    let mut marks: HashMap<(Id, Id), Mark> = progress
        .into_iter()
        .map(|p| {
            let mark = match p.handed_in {
                Some(at) => Mark::HandedIn { logbook: p.logbook, at },
                None => Mark::Begun { logbook: p.logbook, edits: p.edits },
            };
            ((p.student, p.assignment), mark)
        })
        .collect();
    let students = students.into_iter().map(|student| StudentMarks {
        marks: labs.iter().map(|l| marks.remove(&(student.id, l.id)).unwrap_or(Mark::NotBegun)).collect(),
        name: student.name,
    });
    let free = sheets.iter().filter(|s| labs.iter().all(|l| l.sheet != s.id));
    page(&ClassPage {
        who: teacher.name,
        students: students.collect(),
        sheets: free.map(|s| (s.id, title(&s.source) + if s.shipped { "" } else { " (my own)" })).collect(),
        labs: labs.iter().map(|l| title(&l.source)).collect(),
        class,
    })
}

/// Number and title of a sheet.
fn title(source: &str) -> String {
    LabSheet::parse(source).map_or_else(|_| "Unreadable sheet".to_owned(), |s| format!("{} {}", s.number, s.title))
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
