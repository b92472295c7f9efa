//! Coming in and going out.

use std::sync::Arc;

use axum::Form;
use axum::extract::{Query, State};
use axum::response::{IntoResponse, Response};
use axum_extra::extract::CookieJar;
use serde::Deserialize;
use zeitmass_store::{Actor, Who};

use super::{go, page};
use crate::app::{App, Ended};
use crate::error::WebError;
use crate::gate::Caller;
use crate::session::{COOKIE, Visitor, cookie, device_cookie, is_token};
use crate::views::EntryPage;

pub(super) async fn start(
    State(app): State<App>,
    jar: CookieJar,
    caller: Caller,
    visitor: Visitor,
    Query(first): Query<First>,
) -> Result<Response, WebError> {
    match visitor.0 {
        Some(Who::Teacher(_)) => Ok(go("/classes")),
        Some(Who::Student(_)) => Ok(go("/labs")),
        None => {
            // Known from now on, so that wrong tries here can be told from those of others.
            let jar = match &caller.device {
                Some(_) => jar,
                None => jar.add(device_cookie(zeitmass_store::token(), &caller)),
            };
            Ok((jar, entry(&app, String::new(), ("", "", &first.key)).await?).into_response())
        }
    }
}

/// The first page: coming in, or the first account. What was typed stands there again.
async fn entry(app: &App, message: String, (name, code, key): (&str, &str, &str)) -> Result<Response, WebError> {
    let first_visit = !app.store(zeitmass_store::Store::has_teacher).await?;
    let (name, code, key) = (short(name).to_owned(), short(code).to_owned(), short(key).to_owned());
    page(&EntryPage { first_visit, message, name, code, key, guests: Arc::clone(&app.guests) })
}

/// The key for the first account, in the address that the console shows.
#[derive(Deserialize)]
pub(super) struct First {
    #[serde(default)]
    key: String,
}

#[derive(Deserialize)]
pub(super) struct Account {
    pub(super) name: String,
    pub(super) password: String,
    /// For the first account only.
    #[serde(default)]
    key: String,
}

pub(super) async fn first_teacher(
    State(app): State<App>,
    jar: CookieJar,
    caller: Caller,
    Form(form): Form<Account>,
) -> Result<Response, WebError> {
    let (name, password) = (form.name.clone(), form.password);
    // The key is of no use once there is an account.
    let made = if app.first_key().is_some_and(|key| key.eq_ignore_ascii_case(form.key.trim())) {
        app.hashing(move |s| s.create_first_teacher(&name, &password)).await
    } else {
        let message =
            "This is not the key of this server. It is in the address that the server printed when it was started.";
        Err(WebError::Invalid(message.to_owned()))
    };
    welcome(&app, (jar, caller), made.map(Actor::Teacher), (&form.name, "", &form.key)).await
}

pub(super) async fn sign_in(
    State(app): State<App>,
    jar: CookieJar,
    caller: Caller,
    Form(form): Form<Account>,
) -> Result<Response, WebError> {
    let found = app.teacher_at_gate(&caller, &form.name, form.password).await;
    welcome(&app, (jar, caller), found.map(Actor::Teacher), (&form.name, "", "")).await
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
    caller: Caller,
    Form(form): Form<Joining>,
) -> Result<Response, WebError> {
    let found = app.student_at_gate(&caller, &form.code, &form.name, form.pin).await;
    welcome(&app, (jar, caller), found.map(Actor::Student), (&form.name, &form.code, "")).await
}

/// Begins a session, or shows the first page again with what went wrong and what was typed, save secrets.
async fn welcome(
    app: &App,
    (jar, caller): (CookieJar, Caller),
    who: Result<Actor, WebError>,
    typed: (&str, &str, &str),
) -> Result<Response, WebError> {
    match who {
        Ok(actor) => come_in(app, (jar, caller), actor).await,
        Err(e) if e.is_for_the_form() => {
            tracing::info!(status = e.status().as_u16(), address = ?caller.address, "refused at the door");
            let again = entry(app, e.to_string(), typed).await?;
            Ok((e.status(), again).into_response())
        }
        Err(e) => Err(e),
    }
}

/// Begins the session of somebody who has just shown who it is.
pub(super) async fn come_in(app: &App, (jar, caller): (CookieJar, Caller), actor: Actor) -> Result<Response, WebError> {
    // Whoever was signed in here before is not any more.
    end_session(app, &jar).await?;
    let browser = caller.browser.clone();
    let token = app.store(move |s| s.begin_session_in(actor, &browser)).await?;
    // A browser that sent no token yet gets one with which it will be known.
    let device = caller.device.clone().unwrap_or_else(zeitmass_store::token);
    let caller = Caller { device: Some(device.clone()), ..caller };
    app.remember(&caller, actor).await?;
    tracing::info!(who = ?actor, "signed in");
    let jar = jar.add(device_cookie(device, &caller)).add(cookie(token, &caller));
    let to = match actor {
        Actor::Teacher(_) => "/classes",
        Actor::Student(_) => "/labs",
    };
    Ok((jar, go(to)).into_response())
}

/// What was typed, as far as it is worth showing again.
fn short(typed: &str) -> &str {
    typed.char_indices().nth(60).map_or(typed, |(end, _)| &typed[..end])
}

/// Ends the session of a browser, and its streams.
async fn end_session(app: &App, jar: &CookieJar) -> Result<(), WebError> {
    let Some(token) = jar.get(COOKIE).map(|c| c.value().to_owned()).filter(|t| is_token(t)) else { return Ok(()) };
    // Nobody listening is no error.
    let _ = app.ended.send(Ended::Session(zeitmass_store::token_hash(&token)));
    app.store(move |s| s.end_session(&token)).await
}

pub(super) async fn sign_out(State(app): State<App>, jar: CookieJar, caller: Caller) -> Result<Response, WebError> {
    end_session(&app, &jar).await?;
    Ok((jar.remove(cookie(String::new(), &caller)), go("/")).into_response())
}
