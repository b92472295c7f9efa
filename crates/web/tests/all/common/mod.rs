//! A class with two students, a student of another class, and their teacher.

#![allow(dead_code, reason = "each test uses what it needs")]

use std::sync::atomic::{AtomicU64, Ordering};

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt;
use serde_json::Value;
use tower::ServiceExt;
use zeitmass_core::logbook::{Edit, Logbook};
use zeitmass_store::{Actor, Asked, Id, Store};
use zeitmass_web::{App, router};

pub struct Class {
    pub folder: tempfile::TempDir,
    pub store: Store,
    pub owner: Id,
    pub class: Id,
    pub sheet: Id,
    pub lab: Id,
    pub member: Id,
    pub classmate: Id,
    pub stranger: Id,
    /// Cookies of the teacher, the member, the classmate and the stranger.
    pub cookies: [String; 4],
}

/// The class, with one lab sheet assigned.
pub fn class(key: &str, sheet: &str) -> Class {
    let folder = tempfile::tempdir().unwrap();
    // The same deals in every run: what is met by chance is met always or never.
    let store = Store::open(folder.path()).unwrap().dealing_alike();
    store.load_shipped(key, sheet).unwrap();
    let owner = store.create_first_teacher("Ottilie Rast", "anchor and wheel").unwrap();
    let (class, other) = (store.create_class(owner, "10b").unwrap(), store.create_class(owner, "9a").unwrap());
    let sheet = store.sheets(owner).unwrap()[0].id;
    store.assign(owner, class, sheet).unwrap();
    let lab = store.assignments(class).unwrap()[0].id;
    let join = |class, name| store.join(&store.class(owner, class).unwrap().code, name, "2718").unwrap();
    let (member, classmate, stranger) = (join(class, "Minna"), join(class, "Jost"), join(other, "Veit"));
    let who = [Actor::Teacher(owner), Actor::Student(member), Actor::Student(classmate), Actor::Student(stranger)];
    let cookies = who.map(|actor| format!("zeitmass={}", store.begin_session(actor).unwrap()));
    Class { folder, store, owner, class, sheet, lab, member, classmate, stranger, cookies }
}

/// A student's edits, carried out and stored; gives the logbook after them.
pub fn work(store: &Store, logbook: Id, student: Id, edits: &[Edit]) -> Logbook {
    let mut book = store.load_logbook(logbook).unwrap().book;
    for edit in edits {
        let asked = Asked { by: Actor::Student(student), token: None, edit };
        store.carry_out(logbook, &mut book, asked).unwrap_or_else(|e| panic!("{edit:?}: {e}"));
    }
    book
}

/// A page with what is laid out over several lines on one.
pub fn one_line(page: &str) -> String {
    page.split_whitespace().collect::<Vec<_>>().join(" ")
}

/// A token that no other edit of this test has.
pub fn token() -> String {
    static LAST: AtomicU64 = AtomicU64::new(0);
    format!("token {:08}", LAST.fetch_add(1, Ordering::Relaxed))
}

/// The kind of a body: JSON, or a form.
pub fn kind(body: &str) -> &'static str {
    if body.starts_with(['{', '[', '"']) { "application/json" } else { "application/x-www-form-urlencoded" }
}

/// What a page sends for an edit.
pub fn sent(edit: &str, token: &str) -> String {
    format!(r#"{{"edit":{edit},"token":"{token}"}}"#)
}

/// Who asks, by their place among the cookies.
pub const TEACHER: usize = 0;
pub const MEMBER: usize = 1;
pub const CLASSMATE: usize = 2;
pub const STRANGER: usize = 3;

/// A server with the member's logbook of a class.
pub struct Served {
    pub folder: tempfile::TempDir,
    pub app: App,
    pub router: Router,
    pub class: Id,
    pub lab: Id,
    pub member: Id,
    pub classmate: Id,
    pub logbook: Id,
    pub cookies: [String; 4],
}

pub fn served(key: &str, sheet: &str) -> Served {
    serve(class(key, sheet))
}

/// A server over a class that was worked in already.
pub fn serve(c: Class) -> Served {
    let Class { folder, store, class, lab, member, classmate, cookies, .. } = c;
    let logbook = store.open_logbook(member, lab).unwrap();
    let app = App::new(store).unwrap();
    Served { router: router(app.clone()), app, folder, class, lab, member, classmate, logbook, cookies }
}

impl Served {
    /// Asks for a path below the logbook's, or for another one when it begins with a double slash.
    pub async fn ask(&self, method: &str, path: &str, who: usize, body: &str) -> (StatusCode, String) {
        let answer = self.answer(method, path, who, body).await;
        let status = answer.status();
        let bytes = answer.into_body().collect().await.unwrap().to_bytes();
        (status, String::from_utf8_lossy(&bytes).into_owned())
    }

    pub async fn answer(&self, method: &str, path: &str, who: usize, body: &str) -> axum::response::Response {
        let uri = path.strip_prefix('/').filter(|p| p.starts_with('/')).map(str::to_owned);
        let request = Request::builder()
            .method(method)
            .uri(uri.unwrap_or_else(|| format!("/logbooks/{}{path}", self.logbook)))
            .header(header::COOKIE, &self.cookies[who])
            .header(header::CONTENT_TYPE, kind(body))
            .body(Body::from(body.to_owned()))
            .unwrap();
        self.router.clone().oneshot(request).await.unwrap()
    }

    /// Sends an edit under a token of its own; gives the status and the outcome.
    pub async fn edit(&self, who: usize, edit: &Value) -> (StatusCode, Value) {
        self.edit_as(who, edit, &token()).await
    }

    pub async fn edit_as(&self, who: usize, edit: &Value, token: &str) -> (StatusCode, Value) {
        let (status, text) = self.ask("POST", "/edits", who, &sent(&edit.to_string(), token)).await;
        (status, serde_json::from_str(&text).unwrap_or(Value::String(text)))
    }

    /// What is stored, as another program over the same folder reads it.
    pub fn stored(&self) -> Logbook {
        Store::open(self.folder.path()).unwrap().load_logbook(self.logbook).unwrap().book
    }

    pub fn database(&self) -> rusqlite::Connection {
        rusqlite::Connection::open(self.folder.path().join("zeitmass.sqlite")).unwrap()
    }
}
