//! The store over a real folder: people, classes, sheets, and logbooks that read back as they were.

use std::collections::BTreeSet;

use zeitmass_core::logbook::{
    Edit, Heard, Holder, Limit, OfficeEdit, RecordEdit, Refusal, RowAt, RunEdit, SlipKind, StandingResult,
};
use zeitmass_core::motion::FilmFacts;
use zeitmass_store::{Actor, Asked, FilmLimits, FilmOwner, Store, StoreError, Who};

const SHEET: &str = include_str!("../../../labs/2.1-tower-pendulum.md");

struct Town {
    folder: tempfile::TempDir,
    store: Store,
    teacher: i64,
    class: i64,
    code: String,
    assignment: i64,
}

fn town() -> Town {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(folder.path()).unwrap();
    let teacher = store.create_first_teacher("Ottilie Rast", "anchor and wheel").unwrap();
    let class = store.create_class(teacher, "10b").unwrap();
    store.load_shipped("2.1-tower-pendulum.md", SHEET).unwrap();
    let sheet = store.sheets(teacher).unwrap()[0].id;
    store.assign(teacher, class, sheet).unwrap();
    let code = store.class(teacher, class).unwrap().code;
    let assignment = store.assignments(class).unwrap()[0].id;
    Town { folder, store, teacher, class, code, assignment }
}

#[test]
fn students_join_by_code_and_come_back_with_their_pin() {
    let t = town();
    let minna = t.store.join(&t.code.to_lowercase(), " Minna  Talhoff ", "4711").unwrap();
    assert_eq!(t.store.join(&t.code, "minna talhoff", "4711").unwrap(), minna);
    assert!(matches!(t.store.join(&t.code, "Minna Talhoff", "1234"), Err(StoreError::WrongSecret(_))));
    assert!(matches!(t.store.join("NOCODE", "Jost", "4711"), Err(StoreError::Invalid(_))));
    for (name, pin) in [("", "4711"), ("Jost", "12"), ("Jost", "12a4"), (&"J".repeat(41), "4711")] {
        assert!(matches!(t.store.join(&t.code, name, pin), Err(StoreError::Invalid(_))), "{name} {pin}");
    }
    assert_eq!(t.store.students(t.class).unwrap().len(), 1);

    let token = t.store.begin_session(Actor::Student(minna)).unwrap();
    assert!(
        matches!(t.store.who(&token).unwrap(), Some(Who::Student(s)) if s.id == minna && s.name == "Minna Talhoff")
    );
    t.store.end_session(&token).unwrap();
    assert_eq!(t.store.who(&token).unwrap(), None);
}

#[test]
fn there_is_one_first_teacher() {
    let t = town();
    assert!(matches!(t.store.create_first_teacher("Second", "anchor and wheel"), Err(StoreError::Taken(_))));
    assert_eq!(t.store.teacher_named("ottilie rast").unwrap(), Some(t.teacher));
    assert!(t.store.is_password(Some(t.teacher), "anchor and wheel").unwrap());
    assert!(!t.store.is_password(Some(t.teacher), "wrong").unwrap());
    assert!(t.store.teacher_named("Nobody").unwrap().is_none() && !t.store.is_password(None, "wrong").unwrap());
}

#[test]
fn a_logbook_read_again_is_the_same_and_edits_stay_in_step() {
    let t = town();
    let minna = t.store.join(&t.code, "Minna", "4711").unwrap();
    let id = t.store.open_logbook(minna, t.assignment).unwrap();
    assert_eq!(t.store.open_logbook(minna, t.assignment).unwrap(), id);
    let mut book = t.store.load_logbook(id).unwrap().book;
    let by = Actor::Student(minna);
    let typed =
        |v: &str| Edit::Record(RecordEdit::TypeCell { row: RowAt::Below, column: 1, typed: v.into(), was: None });
    for edit in [typed("0.450"), typed("0,9"), Edit::Undo, Edit::Run(RunEdit::Run), Edit::Office(OfficeEdit::HandIn)] {
        t.store.carry_out(id, &mut book, Asked { by, token: None, edit: &edit }).unwrap();
    }
    let mut behind = t.store.load_logbook(id).unwrap().book;
    assert!(behind == book && behind.unread().is_none());
    // Only a teacher can give it back, and two who both have the newest logbook do not write over each other.
    let back = Edit::Office(OfficeEdit::SendBack { note: "the third trial".to_owned(), steps: BTreeSet::new() });
    let teacher = Asked { by: Actor::Teacher(t.teacher), token: None, edit: &back };
    t.store.carry_out(id, &mut book, teacher).unwrap();
    assert!(matches!(t.store.carry_out(id, &mut behind, teacher), Err(StoreError::OutOfStep)));
    let hand_in = Edit::Office(OfficeEdit::HandIn);
    t.store.carry_out(id, &mut book, Asked { by, token: None, edit: &hand_in }).unwrap();
    let standing = t.store.progress(t.class).unwrap()[0].standing.clone().unwrap();
    assert!(standing.handed_in.is_some() && (standing.seq, standing.trials, standing.runs) == (7, 1, 1));

    let reopened = Store::open(t.folder.path()).unwrap();
    let again = reopened.load_logbook(id).unwrap();
    assert!(again.book == book);
    assert_eq!(again.last.map(|l| (l.seq, l.by)), Some((7, by)));
    assert_eq!(reopened.name_of(by).unwrap(), "Minna");
}

#[test]
fn a_logbook_goes_back_to_each_of_its_edits_and_forth_again() {
    let t = town();
    let minna = t.store.join(&t.code, "Minna", "4711").unwrap();
    let id = t.store.open_logbook(minna, t.assignment).unwrap();
    let mut book = t.store.load_logbook(id).unwrap().book;
    let act = |book: &mut _, edit: &Edit| {
        t.store.carry_out(id, book, Asked { by: Actor::Student(minna), token: None, edit }).map(|_| ())
    };
    let typed =
        |v: &str| Edit::Record(RecordEdit::TypeCell { row: RowAt::Below, column: 1, typed: v.into(), was: None });
    for edit in [typed("0.450"), Edit::Run(RunEdit::Run), typed("0.9"), Edit::Undo, Edit::Run(RunEdit::Run), Edit::Redo]
    {
        let _ = act(&mut book, &edit);
    }
    // A snapshot is no hindrance: what was before it is found again.
    t.store.save_snapshot(id, &book.snapshot()).unwrap();
    let last = book.seq();
    for to in (0..last).rev() {
        let (now, then) = (book.state().clone(), t.store.logbook_at(id, to).unwrap());
        assert_eq!(then.seq(), to);
        let back = Edit::Office(OfficeEdit::GoBack { to, content: Box::new(then.state().clone()) });
        act(&mut book, &back).unwrap();
        let state = book.state();
        assert_eq!(
            (&state.record, &state.graph, &state.run.runs),
            (&then.state().record, &then.state().graph, &then.state().run.runs)
        );
        // What was seen stays seen, whatever is gone back to.
        assert!(state.run.seen);
        act(&mut book, &Edit::Undo).unwrap();
        assert!(*book.state() == now, "undo after going back to {to}");
        let read = t.store.load_logbook(id).unwrap().book;
        assert!(read == book);
    }
    let there = |to| OfficeEdit::GoBack { to, content: Box::new(book.state().clone()) };
    for to in [book.seq(), u64::MAX] {
        assert!(matches!(
            t.store.carry_out(
                id,
                &mut book.clone(),
                Asked { by: Actor::Student(minna), token: None, edit: &Edit::Office(there(to)) }
            ),
            Err(StoreError::Refused(_))
        ));
    }
    assert!(matches!(t.store.logbook_at(id, 10_000), Err(StoreError::NotFound(_))));
    // With the teacher nobody goes back, and the wish does not hold the content a second time.
    let back = Edit::Office(there(1));
    assert!(serde_json::to_string(&back).unwrap().len() < 60);
    act(&mut book, &Edit::Office(OfficeEdit::HandIn)).unwrap();
    assert!(matches!(act(&mut book, &back), Err(StoreError::Refused(_))));
}

#[test]
fn partners_share_a_logbook_and_no_work_is_lost_by_joining() {
    let t = town();
    let people: Vec<i64> =
        ["Minna", "Jost", "Alma", "Veit", "Ruth"].iter().map(|n| t.store.join(&t.code, n, "4711").unwrap()).collect();
    let id = t.store.open_logbook(people[0], t.assignment).unwrap();
    let unknown = |outcome| matches!(outcome, Err(StoreError::WrongSecret(_)));
    for (person, now) in people[1..4].iter().zip([1000, 2000, 3000]) {
        let code = t.store.let_partner_in(id, now).unwrap();
        assert_eq!(t.store.let_partner_in(id, now + 1).unwrap(), code, "asked twice, there is one code");
        // Too late, and then again once it is used up, it opens nothing.
        assert!(unknown(t.store.join_logbook(*person, &code.code, code.until)));
        let typed = format!(" {}-{} ", &code.code[..4].to_lowercase(), &code.code[4..]);
        assert_eq!(t.store.join_logbook(*person, &typed, now).unwrap(), id);
        assert!(unknown(t.store.join_logbook(people[4], &code.code, now)));
    }
    let code = t.store.let_partner_in(id, 4000).unwrap().code;
    assert!(matches!(t.store.join_logbook(people[4], &code, 4000), Err(StoreError::Invalid(_))));
    assert_eq!(t.store.logbook_info(id).unwrap().members.len(), 4);

    let own = t.store.open_logbook(people[4], t.assignment).unwrap();
    let run = |id: i64, by: i64| {
        let mut book = t.store.load_logbook(id).unwrap().book;
        let edit = Edit::Run(RunEdit::Run);
        t.store.carry_out(id, &mut book, Asked { by: Actor::Student(by), token: None, edit: &edit }).unwrap();
    };
    run(own, people[4]);
    let own_code = t.store.let_partner_in(own, 5000).unwrap().code;
    run(id, people[0]);
    let refused = t.store.join_logbook(people[0], &own_code, 5000);
    assert!(matches!(refused, Err(StoreError::Invalid(m)) if m.contains("It is kept")));
}

#[test]
fn a_sheet_edited_later_leaves_begun_logbooks_alone() {
    let t = town();
    let shipped = t.store.sheets(t.teacher).unwrap()[0].id;
    let copy = t.store.copy_sheet(t.teacher, shipped).unwrap();
    t.store.assign(t.teacher, t.class, copy).unwrap();
    let assignment = t.store.assignments(t.class).unwrap()[1].id;
    let minna = t.store.join(&t.code, "Minna", "4711").unwrap();
    let id = t.store.open_logbook(minna, assignment).unwrap();
    t.store.save_sheet(t.teacher, copy, &SHEET.replace("Tower pendulum", "Town pendulum")).unwrap();
    assert_eq!(t.store.load_logbook(id).unwrap().book.sheet().title, "Tower pendulum");
    assert!(matches!(t.store.save_sheet(t.teacher, copy, "nothing"), Err(StoreError::NotSaved(_))));
    assert!(matches!(t.store.save_sheet(t.teacher, shipped, SHEET), Err(StoreError::NotFound(_))));
    assert!(t.store.sheet(t.teacher, copy).unwrap().source.contains("Town pendulum"));
}

/// Snapshots and wishes are never needed: without them, or with nonsense in their place, a logbook opens from its deeds.
#[test]
fn only_deeds_are_needed_to_open_a_logbook() {
    let t = town();
    let minna = t.store.join(&t.code, "Minna", "4711").unwrap();
    let id = t.store.open_logbook(minna, t.assignment).unwrap();
    let by = Actor::Student(minna);
    let mut book = t.store.load_logbook(id).unwrap().book;
    let typed = |k: u64| {
        Edit::Record(RecordEdit::TypeCell { row: RowAt::Below, column: 1, typed: format!("0.{k}"), was: None })
    };
    let mut due = 0;
    for k in 1..=450u64 {
        let edit = if k % 9 == 0 { Edit::Undo } else { typed(k) };
        let done = t.store.carry_out(id, &mut book, Asked { by, token: None, edit: &edit }).unwrap();
        assert_eq!((done.saved.seq, done.saved.by), (k, by));
        // The standing is in the edit's own transaction.
        let standing = t.store.standing(id).unwrap().unwrap();
        assert_eq!((standing.seq, standing.rows as usize), (k, book.state().record.tables[0].rows.len()));
        if Store::snapshot_is_due(k - due, 0) {
            t.store.save_snapshot(id, &book.snapshot()).unwrap();
            due = k;
        }
    }
    let loaded = t.store.load_logbook(id).unwrap();
    assert!(loaded.book == book && (350..450).contains(&loaded.snapshot), "{}", loaded.snapshot);
    // An older snapshot that comes late does not take the place of a newer one.
    t.store.save_snapshot(id, &t.store.load_logbook(id).unwrap().book.snapshot()).unwrap();
    let early = t.store.load_logbook(id).unwrap().snapshot;
    assert_eq!(early, 450);
    let database = rusqlite::Connection::open(t.folder.path().join("zeitmass.sqlite")).unwrap();
    for damage in [
        "UPDATE snapshots SET content = '{}'",
        "UPDATE snapshots SET content = '[1,2'",
        "DELETE FROM snapshots",
        "UPDATE edits SET wish = 'no wish at all', token = NULL",
        "DELETE FROM standings",
    ] {
        database.execute(damage, []).unwrap();
        let again = t.store.load_logbook(id).unwrap();
        assert!(again.book == book && again.book.unread().is_none(), "{damage}");
        assert_eq!((again.snapshot, again.last.map(|l| l.seq)), (0, Some(450)), "{damage}");
    }
    // Undo goes on where it was, and the standing is written anew.
    for expected in [451, 452] {
        let done = t.store.carry_out(id, &mut book, Asked { by, token: None, edit: &Edit::Undo }).unwrap();
        assert_eq!((done.saved.seq, t.store.standing(id).unwrap().unwrap().seq), (expected, expected));
    }
    assert!(t.store.load_logbook(id).unwrap().book == book);
    // A deed that is missing in the middle closes the logbook there.
    database.execute("DELETE FROM edits WHERE seq = 100", []).unwrap();
    let broken = t.store.load_logbook(id).unwrap().book;
    assert!(broken.unread().is_some() && broken.seq() < 101, "{}", broken.seq());
}

/// People are stored by id: whoever has another name now has it in all that was done before.
#[test]
fn names_are_looked_up_and_results_wait_for_their_edit() {
    let t = town();
    let minna = t.store.join(&t.code, "Minna", "4711").unwrap();
    let id = t.store.open_logbook(minna, t.assignment).unwrap();
    assert!(t.store.standing(id).unwrap().is_none(), "nothing was done yet");
    let mut book = t.store.load_logbook(id).unwrap().book;
    let by = Actor::Student(minna);
    let (token, other) = (Some("a token of eight"), Some("another token"));
    let asked = Asked { by, token, edit: &Edit::Run(RunEdit::Run) };
    let first = t.store.carry_out(id, &mut book, asked).unwrap();
    let again = t.store.carry_out(id, &mut book, asked).unwrap();
    assert_eq!((first.saved, first.made), (again.saved, again.made));
    assert_eq!(book.seq(), 1);
    t.store.carry_out(id, &mut book, Asked { token: other, ..asked }).unwrap();
    let database = rusqlite::Connection::open(t.folder.path().join("zeitmass.sqlite")).unwrap();
    database.execute("UPDATE students SET name = 'Minna Talhoff' WHERE id = ?", [minna]).unwrap();
    let last = t.store.load_logbook(id).unwrap().last.unwrap();
    assert_eq!(t.store.name_of(last.by).unwrap(), "Minna Talhoff");
    assert_eq!(t.store.name_of(Actor::Teacher(t.teacher)).unwrap(), "Ottilie Rast");
    assert!(matches!(t.store.name_of(Actor::Student(99)), Err(StoreError::NotFound(_))));
    // Results of an earlier state, worked out slowly, do not take the place of newer ones.
    let result =
        |value: f64| StandingResult { result: 1, symbol: "g".into(), value, u: Some(0.02), unit: "m/s^2".into() };
    for (seq, value) in [(2, 9.8), (1, 7.0)] {
        t.store.save_results(id, seq, (&[result(value)], &[SlipKind::Square])).unwrap();
        let standing = t.store.standing(id).unwrap().unwrap();
        assert_eq!((standing.results_seq, standing.results), (2, vec![result(9.8)]));
        assert_eq!(standing.slips, [SlipKind::Square]);
    }
    // The next edit keeps them until there are newer ones, and says so.
    t.store.carry_out(id, &mut book, Asked { by, token: None, edit: &Edit::Undo }).unwrap();
    let standing = t.store.standing(id).unwrap().unwrap();
    assert_eq!((standing.seq, standing.results_seq, standing.results.len()), (3, 2, 1));
    // What the teacher's lists show of it.
    let listed = t.store.progress(t.class).unwrap();
    assert_eq!(listed.iter().map(|p| (p.student, p.logbook)).collect::<Vec<_>>(), [(minna, id)]);
    assert_eq!(t.store.progress_of(minna).unwrap().len(), 1);
    assert_eq!(listed[0].standing.as_ref().map(|s| (s.seq, s.handed_in)), Some((3, None)));
}

/// A clock that was wrong for a while, ahead or behind, signs nobody out.
#[test]
fn sessions_survive_a_clock_that_jumps() {
    let t = town();
    let minna = t.store.join(&t.code, "Minna", "4711").unwrap();
    let database = rusqlite::Connection::open(t.folder.path().join("zeitmass.sqlite")).unwrap();
    for days in [-2000, -500, 0, 500, 4000] {
        // As if all had happened so many days ago, and the clock had jumped since.
        let token = t.store.begin_session(Actor::Student(minna)).unwrap();
        let hash = zeitmass_store::token_hash(&token);
        let sql = "UPDATE sessions SET expires = strftime('%Y-%m-%dT%H:%M:%SZ', expires, ?1) WHERE token_hash = ?2";
        database.execute(sql, rusqlite::params![format!("{days} days"), hash]).unwrap();
        database.execute("UPDATE clock SET at = unixepoch('now', ?1)", [format!("{days} days")]).unwrap();
        let again = Store::open(t.folder.path()).unwrap();
        assert!(again.who(&token).unwrap().is_some(), "{days}");
        let other = again.begin_session(Actor::Student(minna)).unwrap();
        assert!([&token, &other].iter().all(|t| again.who(t).unwrap().is_some()), "{days}");
    }
    // A month that has passed has passed.
    let token = t.store.begin_session(Actor::Student(minna)).unwrap();
    database.execute("UPDATE clock SET at = unixepoch('now', '-31 days')", []).unwrap();
    let sql = "UPDATE sessions SET expires = strftime('%Y-%m-%dT%H:%M:%SZ', 'now', '-1 days')";
    database.execute(sql, []).unwrap();
    assert!(Store::open(t.folder.path()).unwrap().who(&token).unwrap().is_none());
}

#[test]
fn a_logbook_that_is_nearly_full_says_so_and_a_full_one_can_still_be_handed_in() {
    let t = town();
    let minna = t.store.join(&t.code, "Minna", "4711").unwrap();
    let id = t.store.open_logbook(minna, t.assignment).unwrap();
    let mut book = t.store.load_logbook(id).unwrap().book;
    let database = rusqlite::Connection::open(t.folder.path().join("zeitmass.sqlite")).unwrap();
    let paste = |rows: usize| {
        let text = (0..rows).map(|k| format!("0.{:03}\t1{}\n", k % 1000, k % 7)).collect();
        let (table, name, row) = (Some(1), String::new(), RowAt::Below);
        Edit::Record(RecordEdit::Paste { table, name, row, column: None, text })
    };
    let mut act = |edit: &Edit| {
        t.store.carry_out(id, &mut book, Asked { by: Actor::Student(minna), token: None, edit }).map(|d| d.heard)
    };
    act(&paste(10)).unwrap();
    let bytes =
        |c: &rusqlite::Connection| c.query_row("SELECT bytes FROM standings", [], |r| r.get::<_, i64>(0)).unwrap();
    let stored = "SELECT sum(length(wish) + length(deed)) FROM edits";
    assert_eq!(bytes(&database), database.query_row(stored, [], |r| r.get::<_, i64>(0)).unwrap());
    database.execute("UPDATE standings SET bytes = 52999000", []).unwrap();
    let tight = Heard::Tight { holder: Holder::Logbook, held: 53, most: 64 };
    assert!(act(&paste(10)).unwrap().contains(&tight));
    assert!(!act(&paste(10)).unwrap().contains(&tight), "it is not said each time");
    database.execute("UPDATE standings SET bytes = 63999900", []).unwrap();
    let full = act(&paste(200)).unwrap_err();
    assert!(
        matches!(&full, StoreError::Refused(Refusal::Limit(Limit::Space { holder: Holder::Logbook, most: 64 }))),
        "{full}"
    );
    act(&Edit::Record(RecordEdit::TypeCell { row: RowAt::Below, column: 1, typed: "0.5".into(), was: None })).unwrap();
    act(&Edit::Office(OfficeEdit::HandIn)).unwrap();
    // What was refused left nothing.
    assert!(t.store.load_logbook(id).unwrap().book == book);
}

#[test]
fn a_class_and_a_student_have_bounds_too() {
    let t = town();
    let minna = t.store.join(&t.code, "Minna", "4711").unwrap();
    let id = t.store.open_logbook(minna, t.assignment).unwrap();
    let mut book = t.store.load_logbook(id).unwrap().book;
    let database = rusqlite::Connection::open(t.folder.path().join("zeitmass.sqlite")).unwrap();
    let other = t.store.join(&t.code, "Jost", "4711").unwrap();
    let theirs = t.store.open_logbook(other, t.assignment).unwrap();
    let mut act = |typed: &str| {
        let edit = Edit::Record(RecordEdit::TypeCell { row: RowAt::Below, column: 1, typed: typed.into(), was: None });
        t.store.carry_out(id, &mut book, Asked { by: Actor::Student(minna), token: None, edit: &edit })
    };
    act("0.5").unwrap();
    let sql = "INSERT INTO standings (logbook, seq, at, step, runs, trials, row_count, bytes) VALUES (?, 0, 0, 'question', 0, 0, 0, 3000000000)";
    database.execute(sql, [theirs]).unwrap();
    database.execute("UPDATE standings SET bytes = 999999 WHERE logbook = ?", [id]).unwrap();
    let full = act("0.6").unwrap_err();
    let most = Limit::Space { holder: Holder::Class, most: 2000 };
    assert!(matches!(&full, StoreError::Refused(Refusal::Limit(limit)) if *limit == most), "{full}");
}

fn film_of(store: &Store, owner: &FilmOwner, frames: usize, bytes: usize) -> Result<i64, StoreError> {
    let times = (0..frames).map(|n| n as f64 / 30.0).collect();
    let facts = FilmFacts { title: "yard".into(), width: 64, height: 36, times, ..FilmFacts::default() };
    let film = store.begin_film(owner, &facts)?;
    let all: Vec<(u32, Vec<u8>)> = (0..frames as u32).map(|n| (n, vec![n as u8; bytes])).collect();
    store.put_frames(film, &all)?;
    Ok(film)
}

#[test]
fn a_films_number_is_never_used_twice_and_its_space_is_given_back() {
    let t = town();
    let owner = FilmOwner::Teacher(t.teacher);
    let first = film_of(&t.store, &owner, 20, 1_000_000).unwrap();
    let file = t.folder.path().join("films.sqlite");
    t.store.give_space_back().unwrap();
    let large = file.metadata().unwrap().len();
    assert!(large > 20_000_000, "{large}");
    t.store.delete_film(first).unwrap();
    t.store.give_space_back().unwrap();
    let small = file.metadata().unwrap().len();
    assert!(small < 1_000_000, "{small}");
    let second = film_of(&t.store, &owner, 2, 100).unwrap();
    assert!(second > first, "{second} {first}");
    t.store.delete_film(second).unwrap();
    let again = Store::open(t.folder.path()).unwrap();
    assert!(film_of(&again, &owner, 2, 100).unwrap() > second);
}

#[test]
fn films_have_bounds_for_a_logbook_and_for_a_class() {
    let t = town();
    let store = Store::open(t.folder.path()).unwrap().with_film_limits(FilmLimits { frames: 100, bytes: 1000 });
    let books = ["Minna", "Jost"].map(|name| {
        let student = store.join(&t.code, name, "4711").unwrap();
        FilmOwner::Logbook(store.open_logbook(student, t.assignment).unwrap())
    });
    for _ in 0..5 {
        film_of(&store, &books[0], 10, 100).unwrap();
    }
    assert_eq!(store.film_room(&books[1]).unwrap(), (0, 5000));
    let full = film_of(&store, &books[0], 10, 100).unwrap_err();
    assert!(full.to_string().contains("The films here take"), "{full}");
    let database = rusqlite::Connection::open(t.folder.path().join("films.sqlite")).unwrap();
    database.execute("UPDATE films SET bytes = 50000 WHERE id = 1", []).unwrap();
    let full = film_of(&store, &books[1], 10, 100).unwrap_err();
    assert!(full.to_string().contains("The films of this class"), "{full}");
}
