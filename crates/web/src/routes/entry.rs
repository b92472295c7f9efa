//! Coming in and going out.

use axum::Form;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use axum_extra::extract::CookieJar;
use serde::Deserialize;
use zeitmass_store::{Id, Who};

use super::{go, page};
use crate::app::App;
use crate::error::WebError;
use crate::session::{COOKIE, Visitor, cookie};
use crate::views::EntryPage;

pub(super) async fn start(State(app): State<App>, visitor: Visitor) -> Result<Response, WebError> {
    match visitor.0 {
        Some(Who::Teacher(_)) => Ok(go("/classes")),
        Some(Who::Student(_)) => Ok(go("/labs")),
        None => entry(&app, String::new(), "", "").await,
    }
}

async fn entry(app: &App, message: String, name: &str, code: &str) -> Result<Response, WebError> {
    let first_visit = !app.store(zeitmass_store::Store::has_teacher).await?;
    page(&EntryPage { first_visit, message, name: name.to_owned(), code: code.to_owned() })
}

#[derive(Deserialize)]
pub(super) struct Account {
    name: String,
    password: String,
}

pub(super) async fn first_teacher(
    State(app): State<App>,
    jar: CookieJar,
    Form(form): Form<Account>,
) -> Result<Response, WebError> {
    let (name, password) = (form.name.clone(), form.password);
    let made = app.store(move |s| s.create_first_teacher(&name, &password)).await;
    welcome(&app, jar, made.map(|id| (Some(id), None)), "/classes", &form.name, "").await
}

pub(super) async fn sign_in(
    State(app): State<App>,
    jar: CookieJar,
    Form(form): Form<Account>,
) -> Result<Response, WebError> {
    let (name, password) = (form.name.clone(), form.password);
    let found = app.guarded(&format!("teacher {name}"), move |s| s.check_teacher(&name, &password)).await;
    welcome(&app, jar, found.map(|id| (Some(id), None)), "/classes", &form.name, "").await
}

#[derive(Deserialize)]
pub(super) struct Joining {
    code: String,
    name: String,
    pin: String,
}

pub(super) async fn join(
    State(app): State<App>,
    jar: CookieJar,
    Form(form): Form<Joining>,
) -> Result<Response, WebError> {
    let (code, name, pin) = (form.code.clone(), form.name.clone(), form.pin);
    let found = app.guarded(&format!("student {code} {name}"), move |s| s.join(&code, &name, &pin)).await;
    welcome(&app, jar, found.map(|id| (None, Some(id))), "/labs", &form.name, &form.code).await
}

/// Begins a session, or shows the first page again with what went wrong and what was typed, save secrets.
async fn welcome(
    app: &App,
    jar: CookieJar,
    who: Result<(Option<Id>, Option<Id>), WebError>,
    to: &str,
    name: &str,
    code: &str,
) -> Result<Response, WebError> {
    match who {
        Ok((teacher, student)) => {
            let token = app.store(move |s| s.begin_session(teacher, student)).await?;
            Ok((jar.add(cookie(token)), go(to)).into_response())
        }
        Err(e) if e.status() == StatusCode::UNPROCESSABLE_ENTITY => {
            let again = entry(app, e.to_string(), name, code).await?;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response())
        }
        Err(e) => Err(e),
    }
}

pub(super) async fn sign_out(State(app): State<App>, jar: CookieJar) -> Result<Response, WebError> {
    if let Some(token) = jar.get(COOKIE).map(|c| c.value().to_owned()) {
        app.store(move |s| s.end_session(&token)).await?;
    }
    Ok((jar.remove(cookie(String::new())), go("/")).into_response())
}
