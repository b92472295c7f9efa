//! A program with other limits, other rigs and other numbers opens the same store to equal logbooks. In a process of its own, since
//! the rules hold for all of it.

use std::path::Path;

use zeitmass_core::logbook::{Edit, RecordEdit, RowAt, RunEdit, Snapshot};
use zeitmass_store::{Actor, Asked, Id, Store};

#[test]
fn other_rules_change_nothing_that_is_stored() {
    let fixture = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures/store-1");
    let folder = tempfile::tempdir().unwrap();
    std::fs::copy(fixture.join("zeitmass.sqlite"), folder.path().join("zeitmass.sqlite")).unwrap();
    let kept: Vec<(Id, Snapshot)> =
        serde_json::from_slice(&std::fs::read(fixture.join("states.json")).unwrap()).unwrap();
    let store = Store::open(folder.path()).unwrap();
    let before = store.load_logbook(1).unwrap().book;
    let key = before.key().map(|k| k.value);
    let frames = before.footage(1).unwrap().unwrap().frames();

    zeitmass_core::other_rules::turn_on();
    for (id, then) in &kept {
        let now = store.load_logbook(*id).unwrap().book;
        assert!(now.unread().is_none() && now.snapshot() == *then, "logbook {id}");
    }
    // The rules are others indeed: a setting that was in range is refused, a table that was not full is, a run is worked out anew.
    let mut book = store.load_logbook(1).unwrap().book;
    assert_eq!(book.key().map(|k| k.value), key, "what was dealt is a fact");
    let run = book.state().run(1).unwrap();
    assert!(book.is_newer_than(run) && run.made.frames as usize == frames);
    assert_ne!(book.footage(1).unwrap().unwrap().frames(), frames);
    for edit in [
        Edit::Run(RunEdit::SetSetting { name: "length".into(), typed: "1.9".into() }),
        Edit::Record(RecordEdit::TypeCell { row: RowAt::Below, column: 1, typed: "1".into(), was: None }),
    ] {
        let asked = Asked { by: Actor::Student(1), token: None, edit: &edit };
        assert!(store.carry_out(1, &mut book, asked).is_err(), "{edit:?}");
    }
}
