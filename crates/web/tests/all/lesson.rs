//! The teacher's half: marks are decided, kept apart and given out; a lab is taken back and assigned again; a refusal met again and again is seen
//! in the room; nobody reads a verdict, a key or a name that is not for them.

use axum::http::StatusCode;
use serde_json::json;
use zeitmass_core::logbook::Edit;
use zeitmass_store::Store;

use crate::common::{CLASSMATE, MEMBER, STRANGER, Served, TEACHER, class, one_line, serve, served, work};

const SHUTTLE: &str = include_str!("../../../../labs/1.1-mail-shuttle.md");
const PENDULUM: &str = include_str!("../../../../labs/2.1-tower-pendulum.md");

fn town() -> Served {
    let sheet = PENDULUM.replacen("trials = 6", "trials = 6\nstamps = [\"measure\"]", 1);
    served("2.1-tower-pendulum.md", &sheet)
}

#[tokio::test]
async fn marks_are_decided_kept_apart_and_given_out() {
    let t = town();
    let (class, lab) = (t.class, t.lab);
    let marks = format!("//classes/{class}/labs/{lab}/marks");
    let decide = |criterion: &str, level: &str| format!("criterion={}&level={level}", criterion.replace(' ', "+"));
    // What is sent by nobody's hand changes nothing.
    for body in ["criterion=Nonsense&level=0", "criterion=Trials&level=9"] {
        assert_eq!(t.ask("POST", "/marks", TEACHER, body).await.0, StatusCode::NOT_FOUND, "{body}");
    }
    assert!(t.ask("POST", "/marks", TEACHER, "criterion=Trials&level=-1").await.0.is_client_error());
    assert!(t.edit(MEMBER, &json!({ "office": "hand_in" })).await.0.is_success());
    for (criterion, level) in [("Trials", "1"), ("Graph", "3"), ("Constant", "3"), ("Questions", "2")] {
        let (status, part) = t.ask("POST", "/marks", TEACHER, &decide(criterion, level)).await;
        assert!(status.is_success() && part.contains("id=\"criteria\""), "{criterion}: {part}");
    }
    // Twice the same is the same, and a level can be left open again.
    t.ask("POST", "/marks", TEACHER, &decide("Trials", "0")).await;
    let (_, part) = t.ask("POST", "/marks", TEACHER, &decide("Trials", "1")).await;
    assert!(part.contains("<b>3</b> of 15") && part.contains("1 open"), "{part}");
    assert!(t.ask("POST", "/marks", TEACHER, "criterion=Questions").await.1.contains("2 open"));
    let csv = format!("//classes/{class}/labs/{lab}/files/marks.csv");
    let (_, file) = t.ask("GET", &csv, TEACHER, "").await;
    assert!(
        file.starts_with(
            "student,handed in,Trials,Graph,Constant,Questions,\"Claim, evidence, reasoning\",sum,of\nMinna,"
        ),
        "{file}"
    );
    assert!(file.trim_end().ends_with(",2,0,0,,,,15"), "no sum while something is open: {file}");
    // Students see nothing before, and theirs alone afterwards.
    let before = t.ask("GET", "/marked", MEMBER, "").await;
    assert!(before.0 == StatusCode::UNPROCESSABLE_ENTITY && !before.1.contains("of 15"), "{}", before.1);
    for (criterion, level) in [("Questions", "2"), ("Claim, evidence, reasoning", "3")] {
        t.ask("POST", "/marks", TEACHER, &decide(criterion, level)).await;
    }
    t.ask("POST", &marks, TEACHER, "do=give_out").await;
    let (status, page) = t.ask("GET", "/marked", MEMBER, "").await;
    assert!(status.is_success() && page.contains("enough trials, but more than one quantity changed"), "{page}");
    assert!(t.ask("GET", "//labs", MEMBER, "").await.1.contains("your marks"));
    assert!(!t.ask("GET", "//labs", CLASSMATE, "").await.1.contains("your marks"));
    assert_eq!(t.ask("GET", "/marked", CLASSMATE, "").await.0, StatusCode::NOT_FOUND);
    // Sent back, the marks are out of sight until it is handed in again; nothing is lost.
    t.ask("POST", "/send-back", TEACHER, "note=Two+more+lengths").await;
    assert_eq!(t.ask("GET", "/marked", MEMBER, "").await.0, StatusCode::UNPROCESSABLE_ENTITY);
    let kept = Store::open(t.folder.path()).unwrap().marks(lab).unwrap();
    assert_eq!(kept.len(), 5);
    // Only what was opened again can be changed; a step that there is not opens nothing.
    t.edit(MEMBER, &json!({ "office": "hand_in" })).await;
    assert_eq!(t.ask("POST", "/send-back", TEACHER, "note=x&open=nowhere").await.0, StatusCode::UNPROCESSABLE_ENTITY);
    t.ask("POST", "/send-back", TEACHER, "note=More+trials&open=measure").await;
    let write = json!({ "writing": { "write": { "field": "claim", "text": "So it is.", "was": "" } } });
    let (_, said) = t.edit(MEMBER, &write).await;
    assert!(said["word"].as_str().unwrap().contains("opened only Measure again"), "{said}");
    assert_eq!(t.edit(MEMBER, &json!({ "run": "run" })).await.1["done"], true);
    // The marks of a logbook go with it.
    t.database().execute_batch("PRAGMA foreign_keys = ON; DELETE FROM members; DELETE FROM edits; DELETE FROM standings; DELETE FROM snapshots; DELETE FROM partner_codes; DELETE FROM logbooks").unwrap();
    assert!(Store::open(t.folder.path()).unwrap().marks(lab).unwrap().is_empty());
}

/// Groups with numbers of their own: in the class pool each is held against its own key, for the teacher alone.
#[tokio::test]
async fn results_of_dealt_numbers_are_held_against_their_own_keys() {
    let c = class("1.1-mail-shuttle.md", SHUTTLE);
    let edit = |value: serde_json::Value| serde_json::from_value::<Edit>(value).unwrap();
    let cell = |column: u32, row: serde_json::Value, typed: String| {
        edit(json!({ "record": { "type_cell": { "row": row, "column": column, "typed": typed, "was": null } } }))
    };
    let mut keys = Vec::new();
    // The second group is ten uncertainties off.
    for (student, off) in [(c.member, 1.0), (c.classmate, 1.5)] {
        let logbook = c.store.open_logbook(student, c.lab).unwrap();
        let book = c.store.load_logbook(logbook).unwrap().book;
        let key = book.key().unwrap().value;
        keys.push(key);
        let mut edits: Vec<Edit> = Vec::new();
        for k in 0..7u32 {
            // Each row begins with its time and goes on where it stands.
            edits.push(cell(1, json!("below"), format!("{}.00", 4 * k)));
            let x = key * off * 4.0 * f64::from(k) + if k % 2 == 0 { 0.004 } else { -0.004 };
            edits.push(cell(2, json!({ "there": book.next_ids(7)[k as usize] }), format!("{x:.3}")));
        }
        for more in [
            json!({ "graph": { "choose_axes": { "graph": 1, "x": 1, "y": 2 } } }),
            json!({ "graph": { "choose_model": { "graph": 1, "model": "line" } } }),
            json!({ "result": { "state_law": { "result": 1, "term": "slope", "typed": "v" } } }),
        ] {
            edits.push(edit(more));
        }
        work(&c.store, logbook, student, &edits);
    }
    assert_ne!(keys[0], keys[1]);
    let (class, lab) = (c.class, c.lab);
    let t = serve(c);
    let (_, page) = t.ask("GET", &format!("//classes/{class}/labs/{lab}/pool"), TEACHER, "").await;
    assert!(page.contains("1 of 2 results lie within two of their uncertainties"), "{page}");
    assert_eq!(page.matches("class=\"right\"").count(), 2);
    t.ask("POST", &format!("//classes/{class}/labs/{lab}/pool"), TEACHER, "open=named").await;
    let (status, page) = t.ask("GET", &format!("//labs/{lab}/pool"), MEMBER, "").await;
    assert!(status.is_success() && page.matches("<circle").count() >= 2, "{page}");
    assert!(!page.contains("class=\"right\"") && !page.contains("what is right"), "{page}");
}

#[tokio::test]
async fn a_lab_taken_back_and_assigned_again_loses_nothing() {
    let t = town();
    let (class, lab) = (t.class, t.lab);
    t.edit(MEMBER, &json!({ "run": "run" })).await;
    let change = format!("//classes/{class}/labs/{lab}");
    assert!(t.ask("POST", &change, TEACHER, "do=take_back").await.0.is_redirection());
    let (_, mine) = t.ask("GET", "//labs", MEMBER, "").await;
    assert!(mine.contains("taken back; your logbook is kept"), "{mine}");
    assert!(!t.ask("GET", "//labs", CLASSMATE, "").await.1.contains("Tower pendulum"));
    assert_eq!(t.ask("POST", &format!("//labs/{lab}/open"), CLASSMATE, "").await.0, StatusCode::NOT_FOUND);
    assert!(t.ask("POST", &format!("//labs/{lab}/open"), MEMBER, "").await.0.is_redirection(), "who has begun goes on");
    assert!(t.edit(MEMBER, &json!({ "run": "run" })).await.0.is_success());
    t.ask("POST", &change, TEACHER, "do=assign_again").await;
    assert!(t.ask("POST", &format!("//labs/{lab}/open"), CLASSMATE, "").await.0.is_redirection(), "a late beginner");
    assert_eq!(t.stored().state().run.runs.len(), 2);
    let (status, page) = t.ask("POST", &change, TEACHER, "do=due&due=next+week").await;
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains("2026-12-01"), "{status}");
    t.ask("POST", &change, TEACHER, "do=due&due=2026-12-01").await;
    assert!(t.ask("GET", "//labs", MEMBER, "").await.1.contains("due 2026-12-01"));
}

#[tokio::test]
async fn the_room_shows_who_waits_and_who_goes_round_in_circles() {
    let t = town();
    let (class, lab) = (t.class, t.lab);
    let room = format!("//classes/{class}/labs/{lab}/rounds/part");
    for _ in 0..3 {
        let (status, told) = t.edit(MEMBER, &json!({ "graph": "add_graph" })).await;
        assert!(status.is_client_error() && told["word"].as_str().unwrap().contains("stamp"), "{told}");
    }
    let seen = one_line(&t.ask("GET", &room, TEACHER, "").await.1);
    assert!(seen.contains("goes round in circles") && seen.contains("3 times: First ask your teacher"), "{seen}");
    t.edit(MEMBER, &json!({ "office": { "ask_stamp": { "step": "measure", "on": true } } })).await;
    let seen = one_line(&t.ask("GET", &room, TEACHER, "").await.1);
    assert!(seen.contains("asks for the stamp at Measure") && seen.contains("Minna"), "{seen}");
    let (_, nameless) = t.ask("GET", &format!("{room}?nameless=true"), TEACHER, "").await;
    assert!(nameless.contains("Group 1") && !nameless.contains("Minna") && !nameless.contains("Jost"), "{nameless}");
    // A page can neither stamp for itself nor speak for the teacher.
    for forged in [
        json!({ "office": { "stamp": { "step": "measure", "given": true } } }),
        json!({ "office": { "say_word": { "part": "record", "text": "x" } } }),
    ] {
        assert!(t.edit(MEMBER, &forged).await.0.is_client_error());
    }
    let (status, told) = t.ask("POST", "/stamp", TEACHER, "step=measure&given=true").await;
    assert!(status.is_success() && told.contains("\"done\":true"), "{told}");
    assert!(t.edit(MEMBER, &json!({ "graph": "add_graph" })).await.0.is_success());
    let (status, told) = t.ask("POST", "/words", TEACHER, &format!("part=record&text={}", "x".repeat(501))).await;
    assert!(status.is_client_error() && told.contains("500 characters"), "{told}");
    t.ask("POST", "/words", TEACHER, "part=record&text=%3Cb%3ELook%3C%2Fb%3E").await;
    let (_, page) = t.ask("GET", "", MEMBER, "").await;
    assert!(page.contains("&#60;b&#62;Look") && page.contains("1 word from your teacher"), "shown, and as text");
}

/// What students get holds neither the right choices nor good answers, nor questions that wait.
#[tokio::test]
async fn a_page_does_not_answer_its_own_questions() {
    let source = PENDULUM.replacen("tries = 2", "tries = 2\nholds = true", 1);
    let t = served("2.1-tower-pendulum.md", &source);
    for path in ["", "/write-up"] {
        let (status, page) = t.ask("GET", path, MEMBER, "").await;
        assert!(status.is_success());
        for secret in [
            "class=\"holds\"",
            "Good answer",
            "consistent with zero. A systematic",
            "Which row has the longest",
            "0.01 s",
        ] {
            assert!(!page.contains(secret), "{path} holds {secret}");
        }
    }
    let (_, page) = t.ask("GET", "", TEACHER, "").await;
    assert!(
        page.contains("class=\"holds\"") && page.contains("Good answer") && page.contains("Which row has the longest")
    );
    let outcome = |word: &str| json!({ "answer": { "choose": { "question": "guess", "option": word, "on": true } } });
    assert!(t.edit(MEMBER, &outcome("gain time: each swing takes less long")).await.0.is_success());
    let (status, told) = t.edit(STRANGER, &outcome("keep time as before")).await;
    assert_eq!((status, told.as_str().is_some()), (StatusCode::NOT_FOUND, told.as_str().is_some()));
    assert!(t.edit(MEMBER, &json!({ "answer": { "check": { "question": "guess" } } })).await.0.is_success());
    let (_, page) = t.ask("GET", "", MEMBER, "").await;
    assert!(page.contains("A longer pendulum has farther to go") && page.contains("1 try is left"));
}
