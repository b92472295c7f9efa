//! A class with two students, a student of another class, and their teacher.

#![allow(dead_code, reason = "each test uses what it needs")]

use std::sync::atomic::{AtomicU64, Ordering};

use zeitmass_core::logbook::{Edit, Logbook};
use zeitmass_store::{Actor, Asked, Id, Store};

pub struct Class {
    pub folder: tempfile::TempDir,
    pub store: Store,
    pub owner: Id,
    pub class: Id,
    pub sheet: Id,
    pub lab: Id,
    pub member: Id,
    pub classmate: Id,
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
    let session = |teacher, student| format!("zeitmass={}", store.begin_session(teacher, student).unwrap());
    let cookies = [
        session(Some(owner), None),
        session(None, Some(member)),
        session(None, Some(classmate)),
        session(None, Some(stranger)),
    ];
    Class { folder, store, owner, class, sheet, lab, member, classmate, cookies }
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
    format!(r#"{{"edit":{edit},"token":"{token}","since":0,"look":{{}}}}"#)
}
