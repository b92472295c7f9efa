//! Who is asking: extractors that let a handler ask for a teacher, a student, or a logbook one may open.

use axum::extract::{FromRequestParts, Path, Request};
use axum::http::request::Parts;
use axum::http::{Method, header};
use axum::middleware::Next;
use axum::response::Response;
use axum_extra::extract::CookieJar;
use axum_extra::extract::cookie::{Cookie, SameSite};
use tokio::sync::broadcast::error::RecvError;
use zeitmass_store::{Actor, DAYS_SIGNED_IN, Id, LogbookInfo, StoreError, Student, Teacher, Who};

use crate::app::{App, Ended};
use crate::error::WebError;
use crate::gate::Caller;
use crate::viewer::Viewer;

/// Name of the session's cookie.
pub(crate) const COOKIE: &str = "zeitmass";

/// Name of the cookie by which a browser is known again, whoever is signed in there.
pub(crate) const DEVICE: &str = "zeitmass-device";
/// Days for which a browser is known again: browsers keep no cookie for longer.
const DAYS_KNOWN: i64 = 400;

/// The cookie that carries a session's token, for as long as the session.
pub(crate) fn cookie(token: String, caller: &Caller) -> Cookie<'static> {
    lasting((COOKIE, token), DAYS_SIGNED_IN, caller)
}

/// The cookie by which a browser is known again.
pub(crate) fn device_cookie(token: String, caller: &Caller) -> Cookie<'static> {
    lasting((DEVICE, token), DAYS_KNOWN, caller)
}

fn lasting(named: (&'static str, String), days: i64, caller: &Caller) -> Cookie<'static> {
    let life = time::Duration::days(days);
    Cookie::build(named)
        .path("/")
        .http_only(true)
        .same_site(SameSite::Lax)
        .secure(caller.encrypted)
        .max_age(life)
        .build()
}

/// The browser a request comes from, in words, as far as it says so: enough to know one's own tablet again in a list.
pub(crate) fn browser_words(headers: &header::HeaderMap) -> String {
    let said = headers.get(header::USER_AGENT).and_then(|v| v.to_str().ok()).unwrap_or_default();
    // Later ones name earlier ones too, so the first that is found counts.
    let first =
        |known: &[(&str, &str)]| known.iter().find(|(sign, _)| said.contains(sign)).map(|(_, name)| (*name).to_owned());
    let browser = first(&[
        ("Firefox/", "Firefox"),
        ("Edg", "Edge"),
        ("Chrom", "Chromium"),
        ("CriOS", "Chromium"),
        ("Safari/", "Safari"),
    ]);
    let system = first(&[
        ("iPad", "iPad"),
        ("iPhone", "iPhone"),
        ("CrOS", "Chromebook"),
        ("Android", "Android"),
        ("Windows", "Windows"),
        ("Mac OS", "Mac"),
        ("Linux", "Linux"),
    ]);
    [browser, system].into_iter().flatten().collect::<Vec<_>>().join(" on ")
}

/// Whether a text can be a token of ours.
pub(crate) fn is_token(text: &str) -> bool {
    text.len() == 64 && text.bytes().all(|b| b.is_ascii_hexdigit())
}

/// Whoever is signed in, if anybody.
pub(crate) struct Visitor(pub Option<Who>);

/// The session that a request belongs to, by the hash of its token.
pub(crate) struct SignedIn(String);

impl SignedIn {
    /// The session of a token.
    pub(crate) fn of(token: &str) -> Self {
        Self(zeitmass_store::token_hash(token))
    }

    /// The hash of its token.
    pub(crate) fn hash(&self) -> &str {
        &self.0
    }

    /// Comes when that session ends, or the server stops. While it is waited for, it counts as one of the session's streams.
    ///
    /// # Errors
    /// [`WebError::Busy`] when the session has too many.
    pub(crate) fn out(self, app: &App) -> Result<impl Future<Output = ()> + Send + use<>, WebError> {
        let (mut ended, mut stopping) = (app.ended.subscribe(), app.stopping.subscribe());
        let counted = app.stream_of(&self.0)?;
        Ok(async move {
            let _counted = counted;
            loop {
                tokio::select! {
                    what = ended.recv() => match what {
                        Ok(Ended::Session(hash)) if hash != self.0 => {}
                        // One who fell behind may have missed it: the browser comes again, and is asked who it is.
                        Ok(_) | Err(RecvError::Lagged(_) | RecvError::Closed) => return,
                    },
                    // A server that is gone stops too.
                    _ = stopping.wait_for(|stops| *stops) => return,
                }
            }
        })
    }
}

impl FromRequestParts<App> for SignedIn {
    type Rejection = WebError;

    async fn from_request_parts(parts: &mut Parts, _: &App) -> Result<Self, WebError> {
        let jar = CookieJar::from_headers(&parts.headers);
        let token = jar.get(COOKIE).ok_or(WebError::SignedOut)?;
        Ok(Self(zeitmass_store::token_hash(token.value())))
    }
}

/// A signed-in teacher.
pub(crate) struct AsTeacher(pub Teacher);

/// A signed-in student.
pub(crate) struct AsStudent(pub Student);

/// A logbook the visitor may look at: as one of its members, as the teacher of its class, or as one's own for trying things out.
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
        let who = app.store(move |s| s.who(&token)).await?;
        let known = who.as_ref().map(|who| match who {
            Who::Teacher(teacher) => format!("teacher {}", teacher.id),
            Who::Student(student) => format!("student {}", student.id),
        });
        if let Some(known) = known {
            tracing::Span::current().record("who", known);
        }
        Ok(Self(who))
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
            Some(Who::Student(student)) if student.waits => Err(WebError::Waits),
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
            Who::Teacher(teacher) => {
                let viewer = if info.own { Viewer::Own } else { Viewer::Teacher };
                (viewer, Actor::Teacher(teacher.id), info.teacher == teacher.id)
            }
            Who::Student(student) if student.waits => return Err(WebError::Waits),
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
