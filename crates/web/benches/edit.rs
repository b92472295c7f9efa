//! Server time of an edit: from the request to the fragments, the edit applied and stored on the way. Lines
//! `name seconds` (median); `benches/compare` reads them.

use std::io::Write;
use std::time::Instant;

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt;
use tower::ServiceExt;
use zeitmass_core::fit::Model;
use zeitmass_core::logbook::{ColumnText, Edit};
use zeitmass_core::record::ColumnKind;
use zeitmass_store::{Id, Store};
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
    let (mut book, _) = store.load_logbook(id).expect("the logbook");
    let lines: String =
        (1..=rows).map(|i| format!("{:.3}\t{:.2}\n", 0.2 + i as f64 * 1e-3, 9.0 + i as f64 * 0.01)).collect();
    let text = ColumnText {
        name: "squared".into(),
        symbol: "Tsq".into(),
        formula: "(t10/10)^2".into(),
        ..ColumnText::default()
    };
    let edits = [
        Edit::Paste {
            table: Some(1),
            name: String::new(),
            row: None,
            column: None,
            text: format!("L (m)\tt10 (s)\n{lines}"),
        },
        Edit::AddColumn { table: 1, kind: ColumnKind::Worked, text },
        Edit::ChooseAxes { graph: 1, x: Some(1), y: None },
    ];
    let mut done = |edit: Edit| {
        book.apply(&edit).expect("an edit");
        store.append_edit(id, book.seq(), "Minna", &edit).expect("stored");
        book.state().tables[0].columns.last().map(|c| c.id)
    };
    let mut last = None;
    for edit in edits {
        last = done(edit);
    }
    done(Edit::ChooseAxes { graph: 1, x: Some(1), y: last });
    done(Edit::ChooseModel { graph: 1, model: Some(Model::Line) });
    (id, format!("zeitmass={}", store.begin_session(None, Some(student)).expect("a session")))
}

async fn edit(app: &Router, path: &str, cookie: &str, body: String) -> usize {
    let request = Request::post(path)
        .header(header::COOKIE, cookie)
        .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
        .body(Body::from(body))
        .expect("a request");
    let answer = app.clone().oneshot(request).await.expect("an answer");
    let status = answer.status();
    let bytes = answer.into_body().collect().await.expect("a body").to_bytes();
    assert_eq!(status, StatusCode::OK, "{}", String::from_utf8_lossy(&bytes));
    bytes.len()
}

#[tokio::main]
async fn main() -> std::io::Result<()> {
    let mut out = std::io::stdout().lock();
    for rows in [1_000, 10_000] {
        let folder = tempfile::tempdir()?;
        let store = Store::open(folder.path()).expect("a store");
        let (id, cookie) = logbook(&store, rows);
        let app = router(App::new(store).expect("an application"));
        let path = format!("/logbooks/{id}/edits");
        let mut times = Vec::new();
        let mut was = "19.00".to_owned();
        let mut size = 0;
        for i in 0..41 {
            let typed = format!("19.{:02}", i + 1);
            // The row that was pasted last.
            let row = 1001 + rows - 1;
            let body = format!("edit=type_cell&row={row}&column=2&typed={typed}&was={was}&since={}", 5 + i);
            if i == 0 {
                was = format!("{:.2}", 9.0 + rows as f64 * 0.01);
            }
            let body = body.replace("was=19.00", &format!("was={was}"));
            let begun = Instant::now();
            size = edit(&app, &path, &cookie, body).await;
            times.push(begun.elapsed().as_secs_f64());
            was = typed;
        }
        times.sort_by(f64::total_cmp);
        writeln!(out, "edit_{rows} {:e}", times[times.len() / 2])?;
        writeln!(out, "bytes_{rows} {size}")?;
    }
    Ok(())
}
