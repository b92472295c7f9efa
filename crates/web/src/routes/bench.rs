//! The free bench: any rig, or films, with everything free and no sheet.

use axum::Form;
use axum::extract::{Path, State};
use axum::response::Response;
use serde::Deserialize;
use zeitmass_store::{Id, StoreError, Who};
use zeitmass_words::Words;

use super::sheets::free_number;
use super::{go, page};
use crate::app::App;
use crate::error::WebError;
use crate::session::{Access, AsTeacher, Visitor};
use crate::viewer::Viewer;
use crate::views::{FreeBenchPage, rigs};

/// Everything there is a bench for.
pub(super) async fn list(State(app): State<App>, visitor: Visitor) -> Result<Response, WebError> {
    let (who, teacher) = match visitor.0 {
        Some(Who::Teacher(teacher)) => (teacher.name, true),
        Some(Who::Student(student)) if student.waits => return Err(WebError::Waits),
        Some(Who::Student(student)) => {
            let class = student.class;
            if !app.store(move |s| s.may_go_to_free_bench(class)).await? {
                return Err(StoreError::NotFound("free bench").into());
            }
            (student.name, false)
        }
        None => return Err(WebError::SignedOut),
    };
    page(&FreeBenchPage { who, teacher, rigs: rigs() })
}

#[derive(Deserialize)]
pub(super) struct Anew {
    /// Whether it is begun anew, and what was there is given up.
    #[serde(default)]
    anew: String,
}

/// Opens the bench: the one that is there, or a new one.
pub(super) async fn open(
    State(app): State<App>,
    visitor: Visitor,
    Path(name): Path<String>,
    Form(form): Form<Anew>,
) -> Result<Response, WebError> {
    let logbook = match visitor.0 {
        Some(Who::Teacher(teacher)) => {
            let anew = form.anew == "yes";
            let (logbook, erased) = app.store(move |s| s.free_bench(teacher.id, &name, anew)).await?;
            erased.into_iter().for_each(|logbook| app.desks.close(logbook));
            logbook
        }
        Some(Who::Student(student)) if student.waits => return Err(WebError::Waits),
        Some(Who::Student(student)) => app.store(move |s| s.free_bench_of_student(student.id, &name)).await?,
        None => return Err(WebError::SignedOut),
    };
    Ok(go(format!("/logbooks/{logbook}#measure")))
}

/// Makes a sheet of what was set up in a logbook of the teacher's own, and opens it at the drafting table.
pub(super) async fn to_sheet(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    access: Access,
) -> Result<Response, WebError> {
    if access.viewer != Viewer::Own {
        return Err(WebError::Forbidden);
    }
    let owner = teacher.id;
    let book = app.desks.book(access.info.id).await?;
    let number = free_number(&app, owner).await?;
    let source = book.as_sheet(&number).map_err(|e| WebError::Invalid(format!("{} No sheet was made.", e.words())))?;
    let sheet: Id = app.store(move |s| s.new_sheet(owner, &source)).await?;
    Ok(go(format!("/sheets/{sheet}/edit")))
}
