//! What many logbooks cost: opening one, the page of a full class, a room that edits all the time, and a heavy logbook beside another
//! student's page. Lines `name value`; `benches/spine` reads them.

use std::io::Write;
use std::sync::Arc;
use std::time::{Duration, Instant};

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt;
use serde_json::json;
use tower::ServiceExt;
use zeitmass_core::logbook::{ColumnText, Edit, RecordEdit, RowAt};
use zeitmass_core::record::ColumnKind;
use zeitmass_store::{Actor, Asked, Id, Store};
use zeitmass_web::{App, SHIPPED_SHEETS, router};

/// Students of a class, labs, classes that work at the same time.
const STUDENTS: usize = 36;
const LABS: usize = 30;
const CLASSES: usize = 5;

struct School {
    folder: tempfile::TempDir,
    store: Store,
    teacher: Id,
}

fn school() -> School {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(folder.path()).expect("a store");
    for (key, source) in SHIPPED_SHEETS {
        store.load_shipped(key, source).expect("a sheet");
    }
    let teacher = store.create_first_teacher("Ottilie Rast", "anchor and wheel").expect("a teacher");
    School { folder, store, teacher }
}

impl School {
    /// A class with students; labs are the shipped sheets and copies of them.
    fn class(&self, name: &str, students: usize, labs: usize) -> (Id, Vec<Id>, Vec<Id>) {
        let class = self.store.create_class(self.teacher, name).expect("a class");
        let code = self.store.class(self.teacher, class).expect("it").code;
        let pendulum =
            self.store.sheets(self.teacher).expect("sheets").into_iter().find(|s| s.source.contains("pendulum"));
        let sheet = pendulum.expect("the pendulum").id;
        for k in 0..labs {
            let copy = if k == 0 { sheet } else { self.store.copy_sheet(self.teacher, sheet).expect("a copy") };
            self.store.assign(self.teacher, class, copy).expect("a lab");
        }
        let people = (0..students).map(|k| self.store.join(&code, &format!("{name} {k}"), "2718").expect("a student"));
        let labs = self.store.assignments(class).expect("labs").iter().map(|a| a.id).collect();
        (class, people.collect(), labs)
    }

    fn write(&self, logbook: Id, student: Id, edits: impl IntoIterator<Item = Edit>) {
        let mut book = self.store.load_logbook(logbook).expect("the logbook").book;
        for edit in edits {
            let asked = Asked { by: Actor::Student(student), token: None, edit: &edit };
            self.store.carry_out(logbook, &mut book, asked).expect("an edit");
            if book.seq().is_multiple_of(200) {
                self.store.save_snapshot(logbook, &book.snapshot()).expect("a snapshot");
            }
        }
    }
}

/// Values typed one after the other, ten to a column and then over again.
fn typed(count: usize) -> impl Iterator<Item = Edit> {
    (0..count).map(|k| {
        let typed = format!("{}.{:02}", 1 + k % 7, k % 100);
        Edit::Record(RecordEdit::TypeCell { row: RowAt::Below, column: 1 + (k % 2) as u32, typed, was: None })
    })
}

fn median(mut times: Vec<f64>) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

async fn ask(app: &Router, method: &str, path: &str, cookie: &str, body: String) -> (StatusCode, usize) {
    let request = Request::builder().method(method).uri(path).header(header::COOKIE, cookie);
    let request = request.header(header::CONTENT_TYPE, "application/json").body(Body::from(body)).expect("a request");
    let answer = app.clone().oneshot(request).await.expect("an answer");
    let status = answer.status();
    (status, answer.into_body().collect().await.expect("a body").to_bytes().len())
}

fn opening(out: &mut impl Write) -> std::io::Result<()> {
    let s = school();
    let (_, students, labs) = s.class("10b", 2, 1);
    for (student, count) in students.iter().zip([100, 5_000]) {
        let logbook = s.store.open_logbook(*student, labs[0]).expect("a logbook");
        s.write(logbook, *student, typed(count));
        let times = (0..15).map(|_| {
            let begun = Instant::now();
            let seq = s.store.load_logbook(logbook).expect("the logbook").book.seq();
            assert_eq!(seq as usize, count);
            begun.elapsed().as_secs_f64()
        });
        writeln!(out, "open_{count} {:e}", median(times.collect()))?;
    }
    drop(s.folder);
    Ok(())
}

async fn class_page(out: &mut impl Write) -> std::io::Result<()> {
    let s = school();
    let (class, students, labs) = s.class("10b", STUDENTS, LABS);
    for student in &students {
        for lab in &labs {
            let logbook = s.store.open_logbook(*student, *lab).expect("a logbook");
            s.write(logbook, *student, typed(3));
        }
    }
    let cookie = format!("zeitmass={}", s.store.begin_session(Actor::Teacher(s.teacher)).expect("a session"));
    let app = router(App::new(s.store).expect("the application"));
    let mut times = Vec::new();
    for _ in 0..15 {
        let begun = Instant::now();
        let (status, _) = ask(&app, "GET", &format!("/classes/{class}"), &cookie, String::new()).await;
        assert_eq!(status, StatusCode::OK);
        times.push(begun.elapsed().as_secs_f64());
    }
    writeln!(out, "class_page {:e}", median(times))
}

/// Five classes, everybody with an edit a second, for so many seconds.
async fn room(out: &mut impl Write, seconds: u32) -> std::io::Result<()> {
    let s = school();
    let mut people = Vec::new();
    for c in 0..CLASSES {
        let (_, students, labs) = s.class(&format!("class {c}"), STUDENTS, 1);
        for student in students {
            let logbook = s.store.open_logbook(student, labs[0]).expect("a logbook");
            s.write(logbook, student, typed(8));
            let cookie = format!("zeitmass={}", s.store.begin_session(Actor::Student(student)).expect("a session"));
            people.push((logbook, cookie));
        }
    }
    let app = router(App::new(s.store).expect("the application"));
    let begin = tokio::time::Instant::now() + Duration::from_millis(500);
    let count = people.len() as u32;
    let hands = people.into_iter().zip(0u32..).map(|((logbook, cookie), k)| {
        let app = app.clone();
        tokio::spawn(async move {
            let mut times = Vec::new();
            for second in 0..seconds {
                // Spread over the second, as a room is.
                tokio::time::sleep_until(
                    begin + Duration::from_secs(second.into()) + Duration::from_secs(1) * k / count,
                )
                .await;
                let cell =
                    json!({ "row": "below", "column": 1, "typed": format!("0.{:03}", second + 100), "was": null });
                let edit =
                    json!({ "edit": { "record": { "type_cell": cell } }, "token": format!("edit {second} of {k}") });
                let begun = Instant::now();
                let (status, _) =
                    ask(&app, "POST", &format!("/logbooks/{logbook}/edits"), &cookie, edit.to_string()).await;
                assert_eq!(status, StatusCode::OK);
                let news = json!({ "since": 8 + second, "look": {} });
                let (status, _) =
                    ask(&app, "POST", &format!("/logbooks/{logbook}/parts"), &cookie, news.to_string()).await;
                assert_eq!(status, StatusCode::OK);
                times.push(begun.elapsed().as_secs_f64());
            }
            times
        })
    });
    let mut times = Vec::new();
    for hand in hands.collect::<Vec<_>>() {
        times.extend(hand.await.expect("a hand"));
    }
    times.sort_by(f64::total_cmp);
    writeln!(out, "room_edits {}", times.len())?;
    writeln!(out, "room_median {:e}", times[times.len() / 2])?;
    writeln!(out, "room_p99 {:e}", times[times.len() * 99 / 100])
}

/// A logbook with five columns of many local parabolas over ten thousand rows, and somebody else's page meanwhile.
async fn heavy(out: &mut impl Write) -> std::io::Result<()> {
    let s = school();
    let (_, students, labs) = s.class("10b", 2, 1);
    let books: Vec<Id> = students.iter().map(|p| s.store.open_logbook(*p, labs[0]).expect("a logbook")).collect();
    let lines: String =
        (1..=10_000).map(|i| format!("{:.3}\t{:.2}\n", f64::from(i) * 1e-3, 9.0 + f64::from(i % 97) * 0.01)).collect();
    let paste = RecordEdit::Paste {
        table: None,
        name: "heavy".to_owned(),
        row: RowAt::Below,
        column: None,
        text: format!("a (m)\tb (s)\n{lines}"),
    };
    let formula = vec!["rate(a,b,51)"; 30].join("+");
    s.write(books[0], students[0], [Edit::Record(paste)]);
    let table = s.store.load_logbook(books[0]).expect("the logbook").book.state().record.tables[1].id;
    let column = |k: usize| {
        let (name, symbol) = (format!("rate {k}"), format!("r{k}"));
        let text = ColumnText { name, symbol, formula: formula.clone(), ..ColumnText::default() };
        Edit::Record(RecordEdit::AddColumn { table, kind: ColumnKind::Worked, text })
    };
    s.write(books[0], students[0], (0..5).map(column));
    let cookies =
        students.iter().map(|p| format!("zeitmass={}", s.store.begin_session(Actor::Student(*p)).expect("a session")));
    let cookies: Vec<String> = cookies.collect();
    let app = router(App::new(s.store).expect("the application"));
    ask(&app, "GET", &format!("/logbooks/{}", books[1]), &cookies[1], String::new()).await;
    let asked = tokio::spawn({
        let (app, cookie, path) = (app.clone(), cookies[0].clone(), format!("/logbooks/{}", books[0]));
        async move {
            let begun = Instant::now();
            ask(&app, "GET", &path, &cookie, String::new()).await;
            begun.elapsed().as_secs_f64()
        }
    });
    let mut times = Vec::new();
    while !asked.is_finished() {
        let begun = Instant::now();
        ask(&app, "GET", &format!("/logbooks/{}", books[1]), &cookies[1], String::new()).await;
        times.push(begun.elapsed().as_secs_f64());
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    let own = asked.await.expect("the heavy page");
    times.sort_by(f64::total_cmp);
    writeln!(out, "heavy_own {own:e}")?;
    writeln!(out, "heavy_other_median {:e}", times[times.len() / 2])?;
    writeln!(out, "heavy_other_worst {:e}", times[times.len() - 1])
}

fn main() -> std::io::Result<()> {
    let mut out = std::io::stdout().lock();
    let wanted = std::env::args().nth(1).filter(|a| !a.starts_with('-'));
    let wants = |name: &str| wanted.as_deref().is_none_or(|w| w == name);
    let runtime = Arc::new(tokio::runtime::Builder::new_multi_thread().worker_threads(2).enable_all().build()?);
    if wants("opening") {
        opening(&mut out)?;
    }
    if wants("class") {
        runtime.block_on(class_page(&mut out))?;
    }
    if wants("room") {
        runtime.block_on(room(&mut out, 10))?;
    }
    if wants("heavy") {
        runtime.block_on(heavy(&mut out))?;
    }
    Ok(())
}
