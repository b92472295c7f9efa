//! A student's labs.

use axum::Form;
use axum::extract::{Path, State};
use axum::response::{IntoResponse, Response};
use serde::Deserialize;
use zeitmass_store::{Id, PoolOpen, Student, Who};

use super::{go, page};
use crate::app::App;
use crate::error::WebError;
use crate::session::{AsStudent, Visitor};
use crate::views::{EarlierLab, LabGroup, LabRow, LabStage, LabsPage};

pub(super) async fn list(State(app): State<App>, visitor: Visitor) -> Result<Response, WebError> {
    match visitor.0 {
        // The one page that is open to whoever waits for the teacher's nod.
        Some(Who::Student(student)) if student.waits => {
            let class = student.class;
            let class = app.store(move |s| s.class_name(class)).await?;
            let (who, groups, earlier) = (student.name, Vec::new(), Vec::new());
            page(&LabsPage { who, class, waits: true, groups, free_bench: false, earlier, message: String::new() })
        }
        Some(Who::Student(student)) => labs(&app, student, String::new()).await,
        Some(Who::Teacher(_)) => Err(WebError::Forbidden),
        None => Err(WebError::SignedOut),
    }
}

async fn labs(app: &App, student: Student, message: String) -> Result<Response, WebError> {
    let (class, id) = (student.class, student.id);
    let (name, labs, mine, own) =
        app.store(move |s| Ok((s.class_name(class)?, s.labs(class)?, s.progress_of(id)?, s.logbooks_of(id)?))).await?;
    let free_bench = app.store(move |s| s.may_go_to_free_bench(class)).await?;
    let earlier = own.into_iter().filter(|l| l.class != class).map(|l| EarlierLab {
        title: app.sheet(&l.source).map_or_else(|_| "Logbook".to_owned(), |s| format!("{} {}", s.number, s.title)),
        logbook: l.logbook,
        class: l.class_name,
    });
    let earlier = earlier.collect();
    let rows = labs.into_iter().filter_map(|lab| {
        let sheet = app.sheet(&lab.source).ok()?;
        let progress = mine.iter().find(|p| p.assignment == lab.id);
        // One that was taken back is there for those who have begun it.
        if lab.taken_back.is_some() && progress.is_none() {
            return None;
        }
        let handed_in = progress.and_then(|p| p.standing.as_ref()).is_some_and(|s| s.handed_in.is_some());
        let stage = match progress {
            Some(_) if handed_in => LabStage::HandedIn,
            Some(_) => LabStage::Begun,
            None => LabStage::New,
        };
        let row = LabRow {
            assignment: lab.id,
            number: sheet.number.to_string(),
            title: sheet.title.clone(),
            unit: sheet.unit.clone(),
            stage,
            taken_back: lab.taken_back.is_some(),
            due: lab.due.clone().unwrap_or_default(),
            marked: progress.filter(|_| handed_in && lab.marks_given.is_some()).map(|p| p.logbook),
            pool: (lab.pool != PoolOpen::Closed).then_some(lab.id),
        };
        Some((sheet.number, row))
    });
    let groups = LabGroup::of(rows.collect());
    page(&LabsPage { who: student.name, class: name, waits: false, groups, free_bench, earlier, message })
}

pub(super) async fn open(
    State(app): State<App>,
    AsStudent(student): AsStudent,
    Path(assignment): Path<Id>,
) -> Result<Response, WebError> {
    let logbook = app.store(move |s| s.open_logbook(student.id, assignment)).await?;
    Ok(go(format!("/logbooks/{logbook}")))
}

#[derive(Deserialize)]
pub(super) struct PartnerCode {
    code: String,
}

pub(super) async fn partner(
    State(app): State<App>,
    AsStudent(student): AsStudent,
    Form(form): Form<PartnerCode>,
) -> Result<Response, WebError> {
    match app.partner_at_gate(student.id, form.code).await {
        Ok(logbook) => Ok(go(format!("/logbooks/{logbook}"))),
        Err(e) if e.is_for_the_form() => Ok((e.status(), labs(&app, student, e.to_string()).await?).into_response()),
        Err(e) => Err(e),
    }
}
