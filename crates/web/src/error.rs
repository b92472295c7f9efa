//! Everything that can go wrong in a request, and the page or notice that says so.

use askama::Template;
use axum::extract::Request;
use axum::extract::rejection::JsonRejection;
use axum::http::{HeaderMap, StatusCode, header};
use axum::middleware::Next;
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::{Extension, Json};
use serde::Serialize;
use zeitmass_core::logbook::Refusal;
use zeitmass_store::StoreError;
use zeitmass_words::Words;

/// Why a request was not done.
#[derive(Debug, thiserror::Error)]
pub(crate) enum WebError {
    /// Nobody is signed in.
    #[error("Sign in first.")]
    SignedOut,
    /// Somebody else is.
    #[error("You can’t open this page: it belongs to somebody else.")]
    Forbidden,
    /// The name waits for the teacher's nod.
    #[error("Your teacher has not let you in yet. Nothing was changed; look again in a minute.")]
    Waits,
    /// The request came from another site.
    #[error("This request came from another site and was not done.")]
    Foreign,
    /// No such page.
    #[error("There is no such page.")]
    NoPage,
    /// A form with parts missing or malformed.
    #[error("The request could not be read: {0}. Nothing was changed.")]
    Unreadable(String),
    /// More than a request may hold.
    #[error("This is more than can be sent at once. Nothing was changed.")]
    TooLarge,
    /// Something typed cannot be taken.
    #[error("{0}")]
    Invalid(String),
    /// The logbook refused an edit.
    #[error("{}", .0.words())]
    Refused(Refusal),
    /// The store did not do it.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// More wants to be done at once than can be.
    #[error("Many are signing in at this moment. Nothing was changed; try again in a few seconds.")]
    Busy,
    /// A picture or page could not be made.
    #[error("The page could not be made. Nothing was changed; try again.")]
    Broken,
}

impl From<Refusal> for WebError {
    fn from(why: Refusal) -> Self {
        Self::Refused(why)
    }
}

impl From<JsonRejection> for WebError {
    fn from(refused: JsonRejection) -> Self {
        match refused.status() {
            StatusCode::PAYLOAD_TOO_LARGE => Self::TooLarge,
            _ => Self::Unreadable(refused.body_text()),
        }
    }
}

impl From<askama::Error> for WebError {
    fn from(_: askama::Error) -> Self {
        Self::Broken
    }
}

impl WebError {
    /// Whether a form is shown again with what went wrong: something else can be typed, or the same a little later.
    pub(crate) fn is_for_the_form(&self) -> bool {
        let again = [StatusCode::UNPROCESSABLE_ENTITY, StatusCode::TOO_MANY_REQUESTS, StatusCode::SERVICE_UNAVAILABLE];
        again.contains(&self.status())
    }

    pub(crate) fn status(&self) -> StatusCode {
        match self {
            Self::SignedOut => StatusCode::UNAUTHORIZED,
            Self::Forbidden | Self::Waits | Self::Foreign => StatusCode::FORBIDDEN,
            Self::NoPage | Self::Store(StoreError::NotFound(_)) => StatusCode::NOT_FOUND,
            Self::Unreadable(_) => StatusCode::BAD_REQUEST,
            Self::TooLarge => StatusCode::PAYLOAD_TOO_LARGE,
            Self::Store(StoreError::Wait(_)) => StatusCode::TOO_MANY_REQUESTS,
            Self::Busy => StatusCode::SERVICE_UNAVAILABLE,
            Self::Refused(
                Refusal::Gone(_) | Refusal::Absent(_) | Refusal::Changed { .. } | Refusal::TextChanged { .. },
            )
            | Self::Store(StoreError::OutOfStep) => StatusCode::CONFLICT,
            Self::Invalid(_)
            | Self::Refused(_)
            | Self::Store(
                StoreError::Taken(_)
                | StoreError::WrongSecret(_)
                | StoreError::Invalid(_)
                | StoreError::NotSaved(_)
                | StoreError::NotTried(_)
                | StoreError::NotDrafted(_)
                | StoreError::Refused(_),
            ) => StatusCode::UNPROCESSABLE_ENTITY,
            Self::Store(
                StoreError::Database(_) | StoreError::Migration(_) | StoreError::Content(_) | StoreError::Folder(_),
            )
            | Self::Broken => StatusCode::INTERNAL_SERVER_ERROR,
        }
    }
}

/// The words of an error, beside the page that shows them: for scripts, which ask for them as data.
#[derive(Clone)]
struct Said(String);

/// Beside the answer to somebody who is not signed in any more.
#[derive(Clone)]
struct SignedOut;

/// What came of a request that has nothing else to tell, as data.
#[derive(Serialize)]
pub(crate) struct Notice {
    pub done: bool,
    pub word: String,
}

/// Whether an outcome is wanted as data and not as a page.
pub(crate) fn wants_data(headers: &HeaderMap) -> bool {
    headers.get(header::ACCEPT).is_some_and(|kind| kind == "application/json")
}

/// Sends errors as data to whoever asks for that.
pub(crate) async fn errors_as_data(request: Request, next: Next) -> Response {
    let wanted = wants_data(request.headers());
    let part = request.headers().contains_key("hx-request");
    let answer = next.run(request).await;
    // A part of a page would be replaced by the front page that a redirect leads to: the whole page goes there.
    if part && answer.extensions().get::<SignedOut>().is_some() {
        return [("hx-redirect", "/")].into_response();
    }
    match answer.extensions().get::<Said>() {
        Some(Said(word)) if wanted => {
            (answer.status(), Json(Notice { done: false, word: word.clone() })).into_response()
        }
        _ => answer,
    }
}

#[derive(Template)]
#[template(path = "error.html")]
struct ErrorPage {
    message: String,
}

impl IntoResponse for WebError {
    fn into_response(self) -> Response {
        let status = self.status();
        if status.is_server_error() {
            tracing::error!(error = ?self, "a request failed");
        }
        if matches!(self, Self::SignedOut) {
            return (Extension(SignedOut), Redirect::to("/")).into_response();
        }
        let page = ErrorPage { message: self.to_string() };
        let body = page.render().unwrap_or_else(|_| self.to_string());
        (status, Extension(Said(self.to_string())), Html(body)).into_response()
    }
}
