//! Server time of an edit: from the request to the answer, the edit planned and stored on the way; beside it a floor. Then the time until
//! the page has what follows from it. Lines `name seconds` (median); `benches/compare` reads them.

use std::io::Write;
use std::path::Path;
use std::sync::{Arc, Mutex};
use std::time::Instant;

use axum::Json;
use axum::routing::post;
use rusqlite::Connection;
use serde_json::{Value, json};
use zeitmass_core::logbook::{ColumnText, Edit, GraphEdit, RecordEdit, RowAt};

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt;
use tower::ServiceExt;
use zeitmass_core::fit::Model;
use zeitmass_core::record::ColumnKind;
use zeitmass_store::{Actor, Asked, Id, Store};
use zeitmass_web::{App, SHIPPED_SHEETS, router};

/// A logbook with so many rows of two readings, a worked column, a graph with a line and a stated law.
fn logbook(store: &Store, rows: usize) -> (Id, String) {
    let teacher = store.create_first_teacher("Ottilie Rast", "anchor and wheel").expect("a teacher");
    let (key, source) = SHIPPED_SHEETS.into_iter().find(|(key, _)| key.starts_with("2.1-")).expect("the pendulum");
    store.load_shipped(key, source).expect("the sheet");
    let class = store.create_class(teacher, "10b").expect("a class");
    store.assign(teacher, class, store.sheets(teacher).expect("sheets")[0].id).expect("a lab");
    let code = store.class(teacher, class).expect("the class").code;
    let student = store.join(&code, "Minna", "2718").expect("a student");
    let id = store.open_logbook(student, store.assignments(class).expect("labs")[0].id).expect("a logbook");
    let mut book = store.load_logbook(id).expect("the logbook").book;
    let lines: String =
        (1..=rows).map(|i| format!("{:.3}\t{:.2}\n", 0.2 + i as f64 * 1e-3, 9.0 + i as f64 * 0.01)).collect();
    let text = ColumnText {
        name: "squared".into(),
        symbol: "Tsq".into(),
        formula: "(t10/10)^2".into(),
        ..ColumnText::default()
    };
    let edits = [
        Edit::Record(RecordEdit::Paste {
            table: Some(1),
            name: String::new(),
            row: RowAt::Below,
            column: None,
            text: format!("L (m)\tt10 (s)\n{lines}"),
        }),
        Edit::Record(RecordEdit::AddColumn { table: 1, kind: ColumnKind::Worked, text }),
        Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(1), y: None }),
    ];
    let mut done = |edit: Edit| {
        let asked = Asked { by: Actor::Student(student), token: None, edit: &edit };
        store.carry_out(id, &mut book, asked).expect("an edit");
        book.state().record.tables[0].columns.last().map(|c| c.id)
    };
    let mut last = None;
    for edit in edits {
        last = done(edit);
    }
    done(Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(1), y: last }));
    done(Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(Model::Line) }));
    (id, format!("zeitmass={}", store.begin_session(Actor::Student(student)).expect("a session")))
}

async fn send(app: &Router, path: &str, cookie: &str, body: String) -> usize {
    let request = Request::post(path)
        .header(header::COOKIE, cookie)
        .header(header::CONTENT_TYPE, "application/json")
        .body(Body::from(body))
        .expect("a request");
    let answer = app.clone().oneshot(request).await.expect("an answer");
    let status = answer.status();
    let bytes = answer.into_body().collect().await.expect("a body").to_bytes();
    assert_eq!(status, StatusCode::OK, "{}", String::from_utf8_lossy(&bytes));
    bytes.len()
}

/// The floor: a bare handler that takes the same JSON and commits one row, as durably as an edit.
fn floor(folder: &Path) -> Router {
    let connection = Connection::open(folder.join("floor.sqlite")).expect("a database");
    connection.pragma_update(None, "journal_mode", "wal").expect("WAL");
    connection.pragma_update(None, "synchronous", "full").expect("full");
    connection.execute("CREATE TABLE edits (seq INTEGER PRIMARY KEY, edit TEXT NOT NULL)", []).expect("a table");
    let connection = Arc::new(Mutex::new(connection));
    let handler = async move |Json(content): Json<Value>| {
        let connection = Arc::clone(&connection);
        let commit = tokio::task::spawn_blocking(move || {
            let mut connection = connection.lock().expect("the database");
            let transaction = connection.transaction().expect("a transaction");
            transaction.execute("INSERT INTO edits (edit) VALUES (?)", [content.to_string()]).expect("a row");
            transaction.commit().expect("a commit");
        });
        commit.await.expect("the work");
        Json(json!({ "done": true }))
    };
    Router::new().route("/edits", post(handler))
}

/// Median of what `work` takes in s, and what it gave last.
fn median(mut times: Vec<f64>) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

#[tokio::main]
async fn main() -> std::io::Result<()> {
    let mut out = std::io::stdout().lock();
    for rows in [1_000, 10_000] {
        let folder = tempfile::tempdir()?;
        let store = Store::open(folder.path()).expect("a store");
        let (id, cookie) = logbook(&store, rows);
        let last = store.load_logbook(id).expect("the logbook").book.state().record.tables[0].rows.last().map(|r| r.id);
        let (app, floor) = (router(App::new(store).expect("an application")), floor(folder.path()));
        let path = format!("/logbooks/{id}/edits");
        let parts = format!("/logbooks/{id}/parts");
        let (mut edits, mut shown, mut floors, mut size) = (Vec::new(), Vec::new(), Vec::new(), 0);
        let mut was = format!("{:.2}", 9.0 + rows as f64 * 0.01);
        for i in 0..61 {
            let typed = format!("19.{:02}", i + 1);
            let cell = json!({ "row": { "there": last }, "column": 2, "typed": typed, "was": was });
            let edit_json = json!({ "record": { "type_cell": cell } });
            let body = json!({ "edit": edit_json, "token": format!("edit number {i}") });
            // One after the other, so that both see the machine as it is.
            let begun = Instant::now();
            send(&app, &path, &cookie, body.to_string()).await;
            edits.push(begun.elapsed().as_secs_f64());
            let news = json!({ "since": 5 + i, "look": {} });
            size = send(&app, &parts, &cookie, news.to_string()).await;
            shown.push(begun.elapsed().as_secs_f64());
            let begun = Instant::now();
            send(&floor, "/edits", "", body.to_string()).await;
            floors.push(begun.elapsed().as_secs_f64());
            was = typed;
        }
        let (edits, floors) = (median(edits), median(floors));
        writeln!(out, "edit_{rows} {edits:e}")?;
        writeln!(out, "shown_{rows} {:e}", median(shown))?;
        writeln!(out, "floor_{rows} {floors:e}")?;
        writeln!(out, "ratio_{rows} {:.2}", edits / floors)?;
        writeln!(out, "bytes_{rows} {size}")?;
    }
    Ok(())
}
