//! Who is asking: extractors that let a handler ask for a teacher, a student, or a logbook one may open.

use axum::extract::{FromRequestParts, Path, Request};
use axum::http::request::Parts;
use axum::http::{Method, header};
use axum::middleware::Next;
use axum::response::Response;
use axum_extra::extract::CookieJar;
use axum_extra::extract::cookie::{Cookie, SameSite};
use zeitmass_store::{Actor, Id, LogbookInfo, StoreError, Student, Teacher, Who};

use crate::app::App;
use crate::error::WebError;
use crate::viewer::Viewer;

/// Name of the session's cookie.
pub(crate) const COOKIE: &str = "zeitmass";

/// The cookie that carries a session's token.
pub(crate) fn cookie(token: String) -> Cookie<'static> {
    Cookie::build((COOKIE, token)).path("/").http_only(true).same_site(SameSite::Lax).permanent().build()
}

/// Whoever is signed in, if anybody.
pub(crate) struct Visitor(pub Option<Who>);

/// A signed-in teacher.
pub(crate) struct AsTeacher(pub Teacher);

/// A signed-in student.
pub(crate) struct AsStudent(pub Student);

/// A logbook the visitor may look at: as one of its members, or as the teacher of its class.
pub(crate) struct Access {
    pub info: LogbookInfo,
    /// What the visitor may do and see.
    pub viewer: Viewer,
    /// Who it is.
    pub actor: Actor,
}

impl Access {
    /// Who writes, if that is allowed.
    pub(crate) fn writer(&self) -> Result<Actor, WebError> {
        if self.viewer.may_write() { Ok(self.actor) } else { Err(WebError::Forbidden) }
    }

    /// Who sends back, if that is allowed.
    pub(crate) fn sender_back(&self) -> Result<Actor, WebError> {
        if self.viewer.may_send_back() { Ok(self.actor) } else { Err(WebError::Forbidden) }
    }
}

impl FromRequestParts<App> for Visitor {
    type Rejection = WebError;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, WebError> {
        let jar = CookieJar::from_headers(&parts.headers);
        let Some(token) = jar.get(COOKIE).map(|c| c.value().to_owned()) else { return Ok(Self(None)) };
        Ok(Self(app.store(move |s| s.who(&token)).await?))
    }
}

impl FromRequestParts<App> for AsTeacher {
    type Rejection = WebError;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, WebError> {
        match Visitor::from_request_parts(parts, app).await?.0 {
            Some(Who::Teacher(teacher)) => Ok(Self(teacher)),
            Some(Who::Student(_)) => Err(WebError::Forbidden),
            None => Err(WebError::SignedOut),
        }
    }
}

impl FromRequestParts<App> for AsStudent {
    type Rejection = WebError;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, WebError> {
        match Visitor::from_request_parts(parts, app).await?.0 {
            Some(Who::Student(student)) => Ok(Self(student)),
            Some(Who::Teacher(_)) => Err(WebError::Forbidden),
            None => Err(WebError::SignedOut),
        }
    }
}

impl FromRequestParts<App> for Access {
    type Rejection = WebError;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, WebError> {
        let who = Visitor::from_request_parts(parts, app).await?.0.ok_or(WebError::SignedOut)?;
        let Path(path) = Path::<std::collections::HashMap<String, String>>::from_request_parts(parts, app)
            .await
            .map_err(|_| WebError::NoPage)?;
        let id: Id = path.get("logbook").and_then(|id| id.parse().ok()).ok_or(WebError::NoPage)?;
        let info = app.store(move |s| s.logbook_info(id)).await?;
        let (viewer, actor, allowed) = match &who {
            Who::Teacher(teacher) => (Viewer::Teacher, Actor::Teacher(teacher.id), info.teacher == teacher.id),
            Who::Student(student) => {
                let member = info.members.iter().any(|(member, _)| *member == student.id);
                (Viewer::Member, Actor::Student(student.id), member)
            }
        };
        // To others a logbook does not exist, so that numbers cannot be tried out.
        if allowed { Ok(Self { info, viewer, actor }) } else { Err(StoreError::NotFound("logbook").into()) }
    }
}

/// Refuses requests that change something when a browser says that another site sent them.
pub(crate) async fn same_site(request: Request, next: Next) -> Result<Response, WebError> {
    if !matches!(*request.method(), Method::GET | Method::HEAD) {
        let value = |name| request.headers().get(name).and_then(|v: &axum::http::HeaderValue| v.to_str().ok());
        let foreign = match (value(header::HeaderName::from_static("sec-fetch-site")), value(header::ORIGIN)) {
            (Some(site), _) => !matches!(site, "same-origin" | "none"),
            (None, Some(origin)) => {
                let host = value(header::HOST).unwrap_or_default();
                origin.split_once("://").is_none_or(|(_, from)| from != host)
            }
            // Not a browser: there is no cookie to abuse.
            (None, None) => false,
        };
        if foreign {
            return Err(WebError::Foreign);
        }
    }
    Ok(next.run(request).await)
}
