//! The drafting table: what is typed stays, what is wrong is told at its field, what is in force is changed by saving alone; logbooks that are
//! begun grow and keep what is theirs; a sheet is tried in a logbook of one's own, and the free bench is open to whom it is meant for.

use axum::http::StatusCode;
use serde_json::{Value, json};
use zeitmass_core::lab::LabSheet;
use zeitmass_core::logbook::{AnswerEdit, Edit, Logbook, OfficeEdit, RunEdit};
use zeitmass_store::{Actor, Id, Store};

use crate::common::{CLASSMATE, MEMBER, STRANGER, Served, TEACHER, one_line, served, work};

const PENDULUM: &str = include_str!("../../../../labs/2.1-tower-pendulum.md");

/// A town whose teacher has a copy of the sheet, assigned to the class.
struct Table {
    t: Served,
    store: Store,
    owner: Id,
    sheet: Id,
    lab: Id,
}

fn table() -> Table {
    let t = served("2.1-tower-pendulum.md", PENDULUM);
    let store = Store::open(t.folder.path()).unwrap();
    let owner = store.logbook_info(t.logbook).unwrap().teacher;
    let shipped = store.sheets(owner).unwrap()[0].id;
    let sheet = store.copy_sheet(owner, shipped).unwrap();
    store.assign(owner, t.class, sheet).unwrap();
    let lab = store.assignments(t.class).unwrap().last().unwrap().id;
    Table { t, store, owner, sheet, lab }
}

impl Table {
    async fn deeds(&self, deeds: Value, after: i64) -> (StatusCode, Value) {
        let body = json!({ "deeds": deeds, "after": after, "as_text": false }).to_string();
        let (status, text) = self.t.ask("POST", &format!("//sheets/{}/draft", self.sheet), TEACHER, &body).await;
        (status, serde_json::from_str(&text).unwrap_or(Value::String(text)))
    }

    async fn save(&self, form: &str) -> (StatusCode, String) {
        self.t.ask("POST", &format!("//sheets/{}/edit", self.sheet), TEACHER, form).await
    }

    fn in_force(&self) -> String {
        self.store.sheet(self.owner, self.sheet).unwrap().source
    }

    fn draft(&self) -> String {
        self.store.draft(self.owner, self.sheet).unwrap().source
    }
}

fn set(path: &str, value: &str) -> Value {
    json!({ "do": "set", "path": path, "value": value })
}

#[tokio::test]
async fn a_draft_is_kept_undone_and_saved_and_only_saving_puts_it_in_force() {
    let d = table();
    let (status, answer) =
        d.deeds(json!([set("title", "Pendulum of the tower"), set("trials", "six"), set("goal.symbol", "4")]), 0).await;
    assert_eq!(status, StatusCode::OK);
    // One field was refused and the others taken; what is wrong stands at its field and beside the form.
    assert_eq!(
        answer["refused"],
        json!([{ "path": "trials", "word": "“six” is not a whole number. It stays as it was." }])
    );
    let html = answer["html"].as_str().unwrap();
    assert!(html.contains("Still wrong") && html.contains("aria-describedby=\"w-goal.symbol\""), "{html}");
    assert!(html.contains("Pendulum of the tower"), "the rest is shown all the same");
    assert!(d.draft().contains("Pendulum of the tower") && d.in_force() == PENDULUM);
    assert!(d.t.ask("GET", "//sheets", TEACHER, "").await.1.contains("with a draft"));
    // What is wrong cannot be put in force or tried, and nothing is lost by asking.
    let (status, page) = d.save("").await;
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains("cannot be the symbol"), "{page}");
    let attempt = format!("//sheets/{}/try", d.sheet);
    assert_eq!(d.t.ask("POST", &attempt, TEACHER, "").await.0, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(d.in_force() == PENDULUM && d.draft().contains("Pendulum of the tower"));
    // Undone step by step to where it began, and made again.
    for _ in 0..5 {
        d.deeds(json!([{ "turn": "back" }]), 9).await;
    }
    assert_eq!(d.draft(), PENDULUM);
    d.deeds(json!([{ "turn": "forth" }]), 9).await;
    assert!(d.draft().contains("Pendulum of the tower") && LabSheet::parse(&d.draft()).is_ok());
    let (status, page) = d.save("").await;
    assert!(status.is_success() && page.contains("Saved."), "{page}");
    assert!(d.in_force().contains("Pendulum of the tower"));
    assert!(!d.t.ask("GET", "//sheets", TEACHER, "").await.1.contains("with a draft"));
    // The text as a text: also one with mistakes is kept, and one that was changed in another window meanwhile is said to be.
    let step = d.store.draft(d.owner, d.sheet).unwrap().step;
    let (_, answer) = d.deeds(json!([{ "text": "+++\r\nnumber = = 3\r\n+++\r\n" }]), step).await;
    assert!(answer["word"].is_null() && d.draft() == "+++\nnumber = = 3\n+++\n", "{answer}");
    let (_, answer) = d.deeds(json!([{ "text": PENDULUM }]), step).await;
    assert!(answer["word"].as_str().unwrap().contains("another window") && d.draft() == PENDULUM, "{answer}");
    d.deeds(json!([{ "turn": "back" }]), 0).await;
    let (_, form) = d.t.ask("GET", &format!("//sheets/{}/edit", d.sheet), TEACHER, "").await;
    assert!(form.contains("Line 2") && form.contains("To the text"), "a form says why it is not there: {form}");
}

#[tokio::test]
async fn whatever_is_sent_to_the_drafting_table_leaves_a_text_that_can_be_read_on() {
    let d = table();
    let long = "x".repeat(99_990);
    let bad = [
        json!([set("questions.0.name", "x")]),
        json!([set("nonsense", "x")]),
        json!([set("sections.0.text", "+++\n[goal]\nsymbol = \"x\"")]),
        json!([set("sections.0.text", "a\n## Answers\nb")]),
        json!([set("sections.99.text", "x")]),
        json!([set("questions.999999999999999999999.ask", "x")]),
        json!([set("title", &long)]),
        json!([{ "do": "remove", "path": "sections.0" }]),
        json!([{ "do": "remove", "path": "goal" }]),
        json!([{ "do": "clear", "path": "title" }]),
        json!([{ "do": "add", "path": "goal", "kind": "" }]),
        json!([{ "do": "move", "path": "questions.0", "down": false }]),
        json!([set("settings.length.rule", "free for all")]),
        json!([{ "text": "x".repeat(100_001) }]),
        json!([{ "text": " " }]),
    ];
    for deeds in bad {
        let (status, answer) = d.deeds(deeds.clone(), 0).await;
        assert!(status.is_success() && answer["refused"].as_array().unwrap().len() == 1, "{deeds}: {status} {answer}");
        assert_eq!(d.draft(), PENDULUM, "{deeds}");
    }
    let many: Vec<Value> = (0..201).map(|n| set("title", &n.to_string())).collect();
    assert_eq!(d.deeds(json!(many), 0).await.0, StatusCode::PAYLOAD_TOO_LARGE);
    for forged in [json!([{ "do": "burn", "path": "x" }]), json!([{}]), json!("x")] {
        assert!(d.deeds(forged, 0).await.0.is_client_error());
    }
    // Twice the same is the same.
    d.deeds(json!([set("title", "Once"), set("title", "Once")]), 0).await;
    d.deeds(json!([set("title", "Once")]), 0).await;
    assert_eq!(d.store.draft(d.owner, d.sheet).unwrap().step, 1);
    // Nobody else's: not a student's, not another teacher's.
    let body = json!({ "deeds": [set("title", "Mine")], "after": 0, "as_text": false }).to_string();
    let path = format!("//sheets/{}/draft", d.sheet);
    assert_eq!(d.t.ask("POST", &path, MEMBER, &body).await.0, StatusCode::FORBIDDEN);
    let token = d.store.invite(d.owner, 0).unwrap();
    let other = d.store.accept_invitation(&token, "Alma Pohl", "another long word", 0).unwrap();
    assert!(d.store.draft(other, d.sheet).is_err() && d.store.begun_with(other, d.sheet).is_err());
    assert!(d.store.change_draft(other, d.sheet, |_| Ok(String::new())).is_err());
    assert!(d.store.try_sheet(other, d.sheet, PENDULUM, false).is_err());
}

/// What came with the first growth stays in the second.
async fn grows_again(d: &Table, mine: Id, new: &str) {
    // It grows again: what came with the first growth stays too.
    let place = LabSheet::parse(&d.draft()).unwrap().questions.iter().position(|q| q.name == new).unwrap();
    d.deeds(json!([{ "do": "remove", "path": format!("questions.{place}") }, { "do": "add", "path": "questions", "kind": "words" }]), 0).await;
    d.save("logbooks=begun").await;
    let again = d.store.load_logbook(mine).unwrap().book;
    assert!(again.sheet().questions.iter().any(|q| q.name == new), "answers belong to it");
}

/// The page that was open learns of the growth with its next look, and its owner answers what is new; gives the new question.
async fn learns_of_it(d: &Table, mine: Id, before: &Logbook, after: &Logbook) -> String {
    let (_, news) =
        d.t.ask(
            "POST",
            &format!("//logbooks/{mine}/parts"),
            MEMBER,
            &json!({ "since": before.seq(), "look": {} }).to_string(),
        )
        .await;
    assert!(news.contains("What is asked?") && news.contains("one new question"), "{news}");
    let new = after.sheet().questions.iter().find(|q| q.ask == "What is asked?").unwrap().name.clone();
    let (status, _) =
        d.t.ask(
            "POST",
            &format!("//logbooks/{mine}/edits"),
            MEMBER,
            &crate::common::sent(
                &json!({ "answer": { "write": { "question": new, "text": "It swings.", "was": "" } } }).to_string(),
                "grown 1 token",
            ),
        )
        .await;
    assert!(status.is_success());
    new
}

#[tokio::test]
async fn a_sheet_in_use_grows_and_what_was_begun_stays() {
    let d = table();
    let begin = |student, edits: &[Edit]| {
        let logbook = d.store.open_logbook(student, d.lab).unwrap();
        (logbook, work(&d.store, logbook, student, edits))
    };
    let first = LabSheet::parse(PENDULUM)
        .unwrap()
        .questions
        .into_iter()
        .find(|q| matches!(q.kind, zeitmass_core::inquiry::QuestionKind::Words { .. }))
        .unwrap();
    let answer = Edit::Answer(AnswerEdit::Write {
        question: first.name.clone(),
        text: "Nothing else moved.".to_owned(),
        was: String::new(),
    });
    let length = Edit::Run(RunEdit::SetSetting { name: "length".to_owned(), typed: "1.2 m".to_owned() });
    let (mine, before) = begin(d.t.member, &[length, Edit::Run(RunEdit::Run), answer]);
    let (done, _) = begin(d.t.classmate, &[Edit::Office(OfficeEdit::HandIn)]);
    // Somebody has the logbook open while the sheet grows.
    d.t.ask("GET", &format!("//logbooks/{mine}"), MEMBER, "").await;
    let deeds = json!([
        { "do": "add", "path": "questions", "kind": "words" },
        { "do": "add", "path": "sections" },
        set("settings.length.first", "1.9 m"),
        { "do": "add", "path": "columns" },
    ]);
    let (_, answer) = d.deeds(deeds, 0).await;
    assert_eq!(answer["refused"], json!([]));
    // The question answered in words is taken off the new text: it stays where it was answered.
    let place = LabSheet::parse(&d.draft()).unwrap().questions.iter().position(|q| q.name == first.name).unwrap();
    let (_, answer) = d.deeds(json!([{ "do": "remove", "path": format!("questions.{place}") }]), 0).await;
    let html = one_line(answer["html"].as_str().unwrap());
    for said in [
        "2 logbooks were started",
        "Also the 1 handed in",
        "Settings, and values that were dealt, stay",
        "Columns stay",
        "since answers belong to it",
    ] {
        assert!(html.contains(said), "{said}: {html}");
    }
    // One that is handed in and not reopened stays as it was handed in.
    let (status, page) = d.save("logbooks=begun").await;
    assert!(status.is_success() && page.contains("The logbook already started has it too"), "{page}");
    assert!(d.store.load_logbook(done).unwrap().book.state().office.handed_in);
    assert_eq!(d.store.load_logbook(done).unwrap().book.sheet().questions.len(), before.sheet().questions.len());
    let (status, page) = d.save("logbooks=begun&reopen=yes").await;
    assert!(
        status.is_success() && page.contains("The logbook that was handed in has it too, and is open again"),
        "{page}"
    );
    let after = d.store.load_logbook(mine).unwrap().book;
    assert_eq!(after.sheet().questions.len(), before.sheet().questions.len() + 1, "one more, and none less");
    assert_eq!(after.state().run, before.state().run);
    assert_eq!((&after.state().answers, &after.state().record), (&before.state().answers, &before.state().record));
    assert_eq!(after.sheet().settings, before.sheet().settings);
    assert!(after.sheet().sections.len() > before.sheet().sections.len());
    let word = |book: &Logbook| book.state().office.words.iter().any(|w| w.text.contains("one new question"));
    assert!(word(&after));
    let reopened = d.store.load_logbook(done).unwrap().book;
    assert!(!reopened.state().office.handed_in && word(&reopened));
    let new = learns_of_it(&d, mine, &before, &after).await;
    grows_again(&d, mine, &new).await;
    // Saved without a word for them, logbooks keep their text; one that is begun later gets the new one.
    d.deeds(json!([set("title", "Another title")]), 0).await;
    d.save("logbooks=new").await;
    assert_ne!(d.store.load_logbook(mine).unwrap().book.sheet().title, "Another title");
}

#[tokio::test]
async fn a_sheet_is_tried_in_a_logbook_of_ones_own_that_is_in_no_list() {
    let d = table();
    let attempt = format!("//sheets/{}/try", d.sheet);
    d.deeds(json!([set("title", "Tried and unsaved")]), 0).await;
    let open = |form: &'static str| {
        let attempt = attempt.clone();
        let t = &d.t;
        async move {
            let answer = t.answer("POST", &attempt, TEACHER, form).await;
            answer.headers()["location"].to_str().unwrap().to_owned()
        }
    };
    let book = open("").await;
    let (_, page) = d.t.ask("GET", &format!("/{book}"), TEACHER, "").await;
    assert!(
        page.contains("tried by you") && page.contains("Tried and unsaved") && page.contains("data-writable=\"true\""),
        "{page}"
    );
    assert!(page.contains("Key for the teacher"), "the key is in sight");
    assert_eq!(d.in_force(), PENDULUM, "trying puts nothing in force");
    let run = crate::common::sent(r#"{"run":"run"}"#, "tried by the teacher");
    let (status, answer) = d.t.ask("POST", &format!("/{book}/edits"), TEACHER, &run).await;
    assert!(status.is_success(), "{answer}");
    // Again it is the same one while the text is the same; anew it is another.
    assert_eq!(open("").await, book);
    let anew = open("anew=yes").await;
    assert_ne!(anew, book);
    assert_eq!(d.t.ask("GET", &format!("/{book}"), TEACHER, "").await.0, StatusCode::NOT_FOUND);
    // Nobody else finds it, and no list has it.
    for who in [MEMBER, CLASSMATE, STRANGER] {
        assert_eq!(d.t.ask("GET", &format!("/{anew}"), who, "").await.0, StatusCode::NOT_FOUND);
        assert_eq!(d.t.ask("POST", &attempt, who, "").await.0, StatusCode::FORBIDDEN);
    }
    assert_eq!(d.store.classes(d.owner).unwrap().len(), 2);
    let id: Id = anew.rsplit('/').next().unwrap().parse().unwrap();
    let own = d.store.logbook_info(id).unwrap().class;
    for path in [format!("//classes/{own}"), format!("//classes/{own}/events"), format!("//classes/{own}/rounds")] {
        assert_eq!(d.t.ask("GET", &path, TEACHER, "").await.0, StatusCode::NOT_FOUND, "{path}");
    }
    assert!(d.store.begun_with(d.owner, d.sheet).unwrap().is_empty());
    // A sheet that was only tried can be deleted, with what it was tried with.
    let unused = d.store.copy_sheet(d.owner, d.sheet).unwrap();
    let (tried, _) = d.store.try_sheet(d.owner, unused, PENDULUM, false).unwrap();
    d.store.delete_sheet(d.owner, unused).unwrap();
    assert!(d.store.logbook_info(tried).is_err());
    assert!(zeitmass_store::check(d.t.folder.path()).is_ok());
}

#[tokio::test]
async fn the_free_bench_is_open_to_whom_it_is_meant_for_and_becomes_a_sheet() {
    let d = table();
    let office = format!("//classes/{}/office", d.t.class);
    for path in ["//bench/pendulum", "//bench/films"] {
        assert_eq!(d.t.ask("POST", path, MEMBER, "").await.0, StatusCode::NOT_FOUND);
    }
    assert_eq!(d.t.ask("GET", "//bench", MEMBER, "").await.0, StatusCode::NOT_FOUND);
    assert!(!d.t.ask("GET", "//labs", MEMBER, "").await.1.contains("/bench"));
    d.t.ask("POST", &office, TEACHER, "do=free_bench").await;
    assert!(d.t.ask("GET", "//labs", MEMBER, "").await.1.contains("/bench"));
    assert_eq!(d.t.ask("POST", "//bench/pendulum", STRANGER, "").await.0, StatusCode::NOT_FOUND, "another class");
    let place = |answer: &axum::response::Response| {
        let to = answer.headers()["location"].to_str().unwrap();
        to.split('#').next().unwrap().to_owned()
    };
    let student = place(&d.t.answer("POST", "//bench/pendulum", MEMBER, "").await);
    assert_eq!(place(&d.t.answer("POST", "//bench/pendulum", MEMBER, "anew=yes").await), student, "it goes on");
    assert_eq!(d.t.ask("GET", &format!("/{student}"), CLASSMATE, "").await.0, StatusCode::NOT_FOUND);
    assert_eq!(d.t.ask("POST", &format!("/{student}/sheet"), MEMBER, "").await.0, StatusCode::FORBIDDEN);
    assert_eq!(d.t.ask("POST", &format!("/{student}/sheet"), TEACHER, "").await.0, StatusCode::FORBIDDEN);
    // It is no lab: neither the class's page nor the student's list counts it, nor the list of sheets.
    for (path, who) in
        [(format!("//classes/{}", d.t.class), TEACHER), ("//labs".to_owned(), MEMBER), ("//sheets".to_owned(), TEACHER)]
    {
        let (_, page) = d.t.ask("GET", &path, who, "").await;
        assert!(!page.contains("0.1 Pendulum") && !page.contains(">Pendulum<"), "{page}");
    }
    d.t.ask("POST", &office, TEACHER, "do=free_bench_not").await;
    assert_eq!(d.t.ask("POST", "//bench/pendulum", MEMBER, "").await.0, StatusCode::NOT_FOUND);
    assert_eq!(d.t.ask("GET", &format!("/{student}"), MEMBER, "").await.0, StatusCode::OK, "what was done is kept");
    // Nor is there another way in for whoever knows the number of the lab.
    let lab = d.store.logbook_info(student.rsplit('/').next().unwrap().parse().unwrap()).unwrap().assignment;
    assert_eq!(d.t.ask("POST", &format!("//labs/{lab}/open"), CLASSMATE, "").await.0, StatusCode::NOT_FOUND);
    assert!(d.store.logbook_of(d.t.classmate, lab).unwrap().is_none());
    // What a teacher sets up becomes a sheet.
    assert_eq!(d.t.ask("POST", "//bench/carousel", TEACHER, "").await.0, StatusCode::NOT_FOUND);
    let own = place(&d.t.answer("POST", "//bench/pendulum", TEACHER, "").await);
    let length = json!({ "run": { "set_setting": { "name": "length", "typed": "1.35 m" } } });
    d.t.ask("POST", &format!("/{own}/edits"), TEACHER, &crate::common::sent(&length.to_string(), "bench token")).await;
    let sheet = place(&d.t.answer("POST", &format!("/{own}/sheet"), TEACHER, "").await);
    let id: Id = sheet.split('/').nth(2).unwrap().parse().unwrap();
    let made = LabSheet::parse(&d.store.sheet(d.owner, id).unwrap().source).unwrap();
    assert_eq!(made.rule("length").unwrap().value.pretty(), "1.350\u{A0}m");
    // The stop of a session ends nothing of it, and its author is the teacher.
    let history = d.store.load_logbook(own.rsplit('/').next().unwrap().parse().unwrap()).unwrap();
    assert_eq!(history.last.unwrap().by, Actor::Teacher(d.owner));
}

/// What a teacher sends to ask a class for a curve.
fn asked_form(class: Id, channel: &str, pick: bool) -> String {
    format!("class={class}&channel={channel}&pick={pick}&low=-0.5&high=50+cm&duration=4+s")
}

/// Forged and senseless: another's class, no such quantity, axes that run backwards, units of something else, a lab's logbook.
async fn refuses_forged_asks(d: &Table, asks: &str) {
    assert_eq!(d.t.ask("POST", asks, TEACHER, &asked_form(d.t.class + 50, "x", false)).await.0, StatusCode::NOT_FOUND);
    for bad in [
        asked_form(d.t.class, "taste", false),
        asked_form(d.t.class, "x", false).replace("low=-0.5", "low=3"),
        asked_form(d.t.class, "x", false).replace("50+cm", "50+kg"),
        asked_form(d.t.class, "x", false).replace("4+s", "1e9+s"),
        asked_form(d.t.class, "x", false).replace("4+s", "-4+s"),
        asked_form(d.t.class, "x", false).replace("low=-0.5", "low=1e400"),
    ] {
        let (status, page) = d.t.ask("POST", asks, TEACHER, &bad).await;
        assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains("role=\"alert\""), "{bad}: {status}");
    }
    assert_eq!(d.t.ask("POST", "/asks", TEACHER, &asked_form(d.t.class, "x", false)).await.0, StatusCode::FORBIDDEN);
}

#[tokio::test]
async fn a_class_forecasts_on_its_own_devices_and_nobody_sees_what_others_draw() {
    let d = table();
    let place = |answer: &axum::response::Response| {
        answer.headers()["location"].to_str().unwrap().split('#').next().unwrap().to_owned()
    };
    let bench = place(&d.t.answer("POST", "//bench/pendulum", TEACHER, "").await);
    let asks = format!("/{bench}/asks");
    assert!(d.t.ask("GET", &asks, TEACHER, "").await.1.contains("Ask the class"));
    refuses_forged_asks(&d, &asks).await;
    assert_eq!(d.t.ask("GET", "//ask/now", MEMBER, "").await.1, r#"{"ask":null}"#);
    let asked = place(&d.t.answer("POST", &asks, TEACHER, &asked_form(d.t.class, "x", false)).await);
    let id: Id = asked.rsplit('/').next().unwrap().parse().unwrap();
    assert_eq!(d.t.ask("GET", "//ask/now", MEMBER, "").await.1, format!("{{\"ask\":{id}}}"));
    assert_eq!(d.t.ask("GET", "//ask/now", STRANGER, "").await.1, r#"{"ask":null}"#);
    let send = |who, ask: Id, answer: &str| {
        let body = json!({ "answer": answer }).to_string();
        let t = &d.t;
        async move { t.ask("POST", &format!("//ask/{ask}"), who, &body).await }
    };
    let falls: Vec<[f64; 2]> =
        (0..=100).map(|k| [0.04 * f64::from(k), if k < 50 { 0.4 } else { 0.4 - 0.016 * f64::from(k - 50) }]).collect();
    let many: Vec<[f64; 2]> = (0..5000).map(|k| [f64::from(k) * 1e-4, 0.0]).collect();
    for bad in [
        "",
        "[]",
        "[[0,0]]",
        "[[0,0],[9,0]]",
        "[[0,0],[1,7]]",
        "[[1,0],[0,0]]",
        "[[0,0],[0,0.1]]",
        "[[0,null],[1,0]]",
        "[[0,1e999],[1,0]]",
        "level",
        "x",
        &json!(many).to_string(),
    ] {
        assert_eq!(send(MEMBER, id, bad).await.0, StatusCode::UNPROCESSABLE_ENTITY, "{bad}");
    }
    assert_eq!(send(STRANGER, id, &json!(falls).to_string()).await.0, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(d.store.forecasts(id).unwrap().is_empty());
    // A later answer takes the place of an earlier one; what others drew is in nobody's sight before it is closed, nor in a student's after.
    assert!(send(MEMBER, id, "[[0,0],[4,0.4]]").await.0.is_success());
    assert!(send(MEMBER, id, &json!(falls).to_string()).await.0.is_success());
    assert!(send(CLASSMATE, id, "[[0,0.4],[4,-0.4]]").await.0.is_success());
    let part = format!("/{asked}/part");
    let (_, open) = d.t.ask("GET", &part, TEACHER, "").await;
    assert!(open.contains(">2</b> of 2 ready") && open.contains("Minna") && !open.contains("<svg"), "{open}");
    assert!(!d.t.ask("GET", "//ask", CLASSMATE, "").await.1.contains("Minna"));
    d.t.ask("POST", &format!("/{asked}"), TEACHER, "do=close").await;
    let (status, late) = send(MEMBER, id, "[[0,0],[4,0.4]]").await;
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && late.contains("is kept"), "{late}");
    let run = crate::common::sent(r#"{"run":"run"}"#, "run before the class");
    d.t.ask("POST", &format!("/{bench}/edits"), TEACHER, &run).await;
    let (_, closed) = d.t.ask("GET", &part, TEACHER, "").await;
    for said in [">1</b> level, then falling", ">1</b> falling from the start", "Solid: run 1"] {
        assert!(closed.contains(said), "{said}: {closed}");
    }
    assert_eq!(closed.matches("class=\"one-of-many\"").count(), 2);
    for who in [MEMBER, CLASSMATE, STRANGER] {
        assert_eq!(d.t.ask("GET", &part, who, "").await.0, StatusCode::FORBIDDEN);
    }
    // A pick among shapes; what was asked before it is closed by that.
    let picked = place(&d.t.answer("POST", &asks, TEACHER, &asked_form(d.t.class, "x", true)).await);
    let pick: Id = picked.rsplit('/').next().unwrap().parse().unwrap();
    assert_eq!(send(MEMBER, id, &json!(falls).to_string()).await.0, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(send(MEMBER, pick, "[[0,0],[4,0.4]]").await.0, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(send(MEMBER, pick, "up_and_down").await.0.is_success());
    d.t.ask("POST", &format!("/{picked}"), TEACHER, "do=close").await;
    assert!(d.t.ask("GET", &format!("/{picked}/part"), TEACHER, "").await.1.contains(">1</b> up and down"));
    // Opened again it is the one thing that is asked; begun anew, the bench takes its questions with it.
    d.t.ask("POST", &format!("/{asked}"), TEACHER, "do=open").await;
    assert_eq!(d.t.ask("GET", "//ask/now", MEMBER, "").await.1, format!("{{\"ask\":{id}}}"));
    assert!(d.store.everything_about(d.t.member).unwrap().contains("up_and_down"));
    d.t.ask("POST", "//bench/pendulum", TEACHER, "anew=yes").await;
    assert_eq!(d.t.ask("GET", &part, TEACHER, "").await.0, StatusCode::NOT_FOUND);
    assert!(d.store.forecasts(id).unwrap().is_empty());
}
