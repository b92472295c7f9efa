//! A class with two students, a student of another class, and their teacher.

#![allow(dead_code, reason = "each test uses what it needs")]

use zeitmass_store::{Id, Store};

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
