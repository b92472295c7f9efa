//! What a teacher keeps in order: students of a class, classes that are over, the own account, and other teachers.

use axum::Form;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, header};
use axum::response::{IntoResponse, Response};
use axum_extra::extract::CookieJar;
use serde::de::Error;
use serde::{Deserialize, Deserializer};
use zeitmass_store::{Actor, Id, StoreError, Teacher, Work};

use super::entry::Account;
use super::{go, page};
use crate::app::{App, Ended};
use crate::error::WebError;
use crate::gate::{Caller, now};
use crate::session::{AsTeacher, SignedIn, cookie};
use crate::views::{AccountPage, InvitedPage, OwnLogbookView, SessionView, StudentPage, moment};

/// What can be done for a student.
#[derive(Deserialize)]
#[serde(rename_all = "snake_case", tag = "do")]
pub(super) enum ForStudent {
    Rename {
        name: String,
    },
    ResetPin {
        pin: String,
    },
    SignOut,
    EndSession {
        #[serde(deserialize_with = "number")]
        session: Id,
    },
    Move {
        #[serde(deserialize_with = "number")]
        class: Id,
        work: Work,
    },
    LetIn,
    Remove {
        work: Work,
    },
}

/// A number as forms send it, which is as text.
fn number<'de, D: Deserializer<'de>>(form: D) -> Result<Id, D::Error> {
    let text = String::deserialize(form)?;
    text.parse().map_err(D::Error::custom)
}

/// What can be done with a class.
#[derive(Deserialize)]
#[serde(rename_all = "snake_case", tag = "do")]
pub(super) enum ForClass {
    NewCode,
    Close,
    Open,
    /// New names wait for the teacher's nod from now on.
    Ask,
    /// They do not any more; whoever waits is let in.
    AskNot,
    /// Lets everybody in who waits.
    LetIn,
    /// The students may go to the free bench from now on.
    FreeBench,
    /// They may not any more; what they have there is kept.
    FreeBenchNot,
}

async fn student_page(
    app: &App,
    teacher: Teacher,
    (class, student): (Id, Id),
    message: String,
) -> Result<Response, WebError> {
    let owner = teacher.id;
    let (class, found, sessions, logbooks, classes) = app
        .store(move |s| {
            let row = s.class(owner, class)?;
            let found = s.everybody(class)?.into_iter().find(|p| p.id == student);
            let found = found.ok_or(StoreError::NotFound("student"))?;
            let others = s.classes(owner)?.into_iter().filter(|c| c.id != class && !c.closed).collect();
            Ok((row, found, s.sessions_of(Actor::Student(student))?, s.logbooks_of(student)?, others))
        })
        .await?;
    let logbooks = logbooks.into_iter().map(|l| OwnLogbookView {
        title: app
            .sheet(&l.source)
            .map_or_else(|_| "Unreadable sheet".to_owned(), |s| format!("{} {}", s.number, s.title)),
        elsewhere: if l.class == class.id { String::new() } else { l.class_name },
        logbook: l.logbook,
        handed_in: l.handed_in.map(moment),
    });
    let logbooks = logbooks.collect();
    let sessions = sessions.into_iter().map(SessionView::of).collect();
    page(&StudentPage { who: teacher.name, class, student: found, sessions, logbooks, classes, message })
}

/// Ends the streams of sessions that may just have ended.
fn end_streams(app: &App) {
    // Nobody listening is no error.
    let _ = app.ended.send(Ended::Some);
}

pub(super) async fn student(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(ids): Path<(Id, Id)>,
) -> Result<Response, WebError> {
    student_page(&app, teacher, ids, String::new()).await
}

pub(super) async fn change_student(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path((class, student)): Path<(Id, Id)>,
    Form(form): Form<ForStudent>,
) -> Result<Response, WebError> {
    let (owner, back) = (teacher.id, format!("/classes/{class}"));
    let done = match form {
        ForStudent::Rename { name } => {
            app.store(move |s| s.rename_student(owner, student, &name)).await.map(|()| "The name is changed.")
        }
        ForStudent::ResetPin { pin } => app
            .hashing(move |s| s.reset_pin(owner, student, &pin))
            .await
            .map(|()| "The PIN is changed. Tell it to the student, who has to sign in again."),
        ForStudent::SignOut => app
            .store(move |s| s.sign_out_student(owner, student))
            .await
            .map(|()| "The student is signed out everywhere."),
        ForStudent::EndSession { session } => app
            .store(move |s| {
                s.class(owner, class)?;
                s.students(class)?.into_iter().find(|p| p.id == student).ok_or(StoreError::NotFound("student"))?;
                s.end_one_session(Actor::Student(student), session)
            })
            .await
            .map(|()| "The student is signed out there."),
        ForStudent::LetIn => {
            app.store(move |s| s.let_in(owner, class, Some(student))).await.map(|()| "The student is let in.")
        }
        ForStudent::Move { class: to, work } => {
            let moved = app.store(move |s| s.move_student(owner, student, to, work)).await;
            if let Ok(erased) = &moved {
                erased.iter().for_each(|logbook| app.desks.close(*logbook));
                app.give_space_back();
                tracing::info!(teacher = owner, student, to, erased = erased.len(), "a student was moved");
                return Ok(go(format!("/classes/{to}/students/{student}")));
            }
            moved.map(|_| "")
        }
        ForStudent::Remove { work } => {
            let erased = app.store(move |s| s.remove_student(owner, student, work, now())).await?;
            erased.into_iter().for_each(|logbook| app.desks.close(logbook));
            end_streams(&app);
            app.give_space_back();
            tracing::info!(teacher = owner, student, erased = matches!(work, Work::Erased), "a student was removed");
            return Ok(go(back));
        }
    };
    end_streams(&app);
    match done {
        Ok(word) => student_page(&app, teacher, (class, student), word.to_owned()).await,
        Err(e) if e.is_for_the_form() => {
            let again = student_page(&app, teacher, (class, student), e.to_string()).await?;
            Ok((e.status(), again).into_response())
        }
        Err(e) => Err(e),
    }
}

pub(super) async fn change_class(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(class): Path<Id>,
    Form(form): Form<ForClass>,
) -> Result<Response, WebError> {
    let owner = teacher.id;
    app.store(move |s| match form {
        ForClass::NewCode => s.new_class_code(owner, class),
        ForClass::Close => s.close_class(owner, class, Some(now())),
        ForClass::Open => s.close_class(owner, class, None),
        ForClass::Ask => s.ask_for_names(owner, class, true),
        ForClass::AskNot => {
            s.ask_for_names(owner, class, false)?;
            s.let_in(owner, class, None)
        }
        ForClass::LetIn => s.let_in(owner, class, None),
        ForClass::FreeBench => s.allow_free_bench(owner, class, true),
        ForClass::FreeBenchNot => s.allow_free_bench(owner, class, false),
    })
    .await?;
    end_streams(&app);
    Ok(go(format!("/classes/{class}")))
}

/// Everything about one student, as a JSON file: who it is, what was done when, and the logbooks as they are.
pub(super) async fn everything(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path((class, student)): Path<(Id, Id)>,
) -> Result<Response, WebError> {
    let owner = teacher.id;
    let text = app
        .store(move |s| {
            s.class(owner, class)?;
            s.students(class)?.into_iter().find(|p| p.id == student).ok_or(StoreError::NotFound("student"))?;
            s.everything_about(student)
        })
        .await?;
    let headers = [
        (header::CONTENT_TYPE, "application/json".to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"student-{student}.json\"")),
    ];
    Ok((headers, text).into_response())
}

pub(super) async fn account(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    signed_in: SignedIn,
) -> Result<Response, WebError> {
    page(&account_page(&app, teacher, &signed_in, String::new(), String::new()).await?)
}

/// A teacher's own account, with where it is signed in.
async fn account_page(
    app: &App,
    teacher: Teacher,
    signed_in: &SignedIn,
    message: String,
    invitation: String,
) -> Result<AccountPage, WebError> {
    let id = teacher.id;
    let open = app.store(move |s| s.sessions_of(Actor::Teacher(id))).await?;
    let sessions = open.into_iter().map(|s| SessionView { own: s.hash == signed_in.hash(), ..SessionView::of(s) });
    Ok(AccountPage { who: teacher.name, sessions: sessions.collect(), message, invitation })
}

#[derive(Deserialize)]
pub(super) struct OneSession {
    session: Id,
}

/// Signs a teacher out in one place.
pub(super) async fn end_session(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Form(form): Form<OneSession>,
) -> Result<Response, WebError> {
    let id = teacher.id;
    app.store(move |s| s.end_one_session(Actor::Teacher(id), form.session)).await?;
    end_streams(&app);
    Ok(go("/account"))
}

#[derive(Deserialize)]
pub(super) struct Passwords {
    old: String,
    new: String,
}

pub(super) async fn change_password(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    (jar, signed_in): (CookieJar, SignedIn),
    caller: Caller,
    Form(form): Form<Passwords>,
) -> Result<Response, WebError> {
    let id = teacher.id;
    // As careful as at the door: whoever finds an open page must not try passwords there.
    let changed = match app.teacher_at_gate(&caller, &teacher.name, form.old).await {
        Ok(_) => app.hashing(move |s| s.change_password(id, &form.new)).await,
        Err(e) => Err(e),
    };
    match changed {
        Ok(()) => {
            end_streams(&app);
            // All sessions have ended, this one too; whoever just showed the password goes on.
            let browser = caller.browser.clone();
            let token = app.store(move |s| s.begin_session_in(Actor::Teacher(id), &browser)).await?;
            let signed_in = SignedIn::of(&token);
            app.remember(&caller, Actor::Teacher(id)).await?;
            let message = "Your password is changed. Everywhere else you are signed out.".to_owned();
            let again = page(&account_page(&app, teacher, &signed_in, message, String::new()).await?)?;
            Ok((jar.add(cookie(token, &caller)), again).into_response())
        }
        Err(e) if e.is_for_the_form() => {
            let again = account_page(&app, teacher, &signed_in, e.to_string(), String::new()).await?;
            Ok((e.status(), page(&again)?).into_response())
        }
        Err(e) => Err(e),
    }
}

/// Makes a link with which another teacher can make an account.
pub(super) async fn invite(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    (caller, signed_in): (Caller, SignedIn),
    headers: HeaderMap,
) -> Result<Response, WebError> {
    // The address as the teacher's own browser has it.
    let host = headers.get(header::HOST).and_then(|h| h.to_str().ok());
    let scheme = if caller.encrypted { "https" } else { "http" };
    let server = host.map_or_else(String::new, |host| format!("{scheme}://{host}"));
    let id = teacher.id;
    let token = app.store(move |s| s.invite(id, now())).await?;
    tracing::info!(teacher = id, "a teacher was invited");
    let invitation = format!("{server}/invitations/{token}");
    page(&account_page(&app, teacher, &signed_in, String::new(), invitation).await?)
}

/// Where an invitation leads.
pub(super) async fn invited(State(app): State<App>, Path(token): Path<String>) -> Result<Response, WebError> {
    let asked = token.clone();
    if !app.store(move |s| s.is_invited(&asked, now())).await? {
        return Err(WebError::Invalid("This invitation was used before or is over. Ask for a new one.".to_owned()));
    }
    page(&InvitedPage { token, name: String::new(), message: String::new() })
}

pub(super) async fn accept(
    State(app): State<App>,
    jar: CookieJar,
    caller: Caller,
    Path(token): Path<String>,
    Form(form): Form<Account>,
) -> Result<Response, WebError> {
    let (asked, name) = (token.clone(), form.name.clone());
    // Nothing is hashed for whoever was not invited.
    if !app.store(move |s| s.is_invited(&asked, now())).await? {
        return Err(WebError::Invalid("This invitation was used before or is over. Ask for a new one.".to_owned()));
    }
    let asked = token.clone();
    match app.hashing(move |s| s.accept_invitation(&asked, &name, &form.password, now())).await {
        Ok(id) => super::entry::come_in(&app, (jar, caller), Actor::Teacher(id)).await,
        Err(e) if e.is_for_the_form() => {
            let again = page(&InvitedPage { token, name: form.name, message: e.to_string() })?;
            Ok((e.status(), again).into_response())
        }
        Err(e) => Err(e),
    }
}
