//! What comes back of an edit, and what is in the store after it: outcomes as data, rows begun on a page, partners who are faster,
//! edits that come twice, sizes nobody needs, and entries that cannot be read.

use crate::common::{CLASSMATE, MEMBER, STRANGER, Served, TEACHER, served};
use axum::body::Body;
use axum::http::{HeaderValue, Request, StatusCode};
use futures_util::StreamExt;
use serde_json::{Value, json};
use tower::ServiceExt;
use zeitmass_core::logbook::{ColumnText, Logbook, PAGE_ROWS};

const PENDULUM: &str = include_str!("../../../../labs/2.1-tower-pendulum.md");

fn town() -> Served {
    served("2.1-tower-pendulum.md", PENDULUM)
}

fn text(name: &str, symbol: &str, formula: &str) -> Value {
    let (name, symbol, formula) = (name.to_owned(), symbol.to_owned(), formula.to_owned());
    serde_json::to_value(ColumnText { name, symbol, formula, ..ColumnText::default() }).unwrap()
}

fn cell(row: &Value, column: u32, typed: &str, was: Option<&str>) -> Value {
    json!({ "record": { "type_cell": { "row": row, "column": column, "typed": typed, "was": was } } })
}

/// The classmate becomes a partner in the member's logbook.
async fn partners(t: &Served) {
    let (_, shown) = t.ask("POST", "/partner-code", MEMBER, "{}").await;
    let shown: Value = serde_json::from_str(&shown).unwrap();
    let code = shown["code"].as_str().unwrap();
    let (status, text) = t.ask("POST", "//labs/partner", CLASSMATE, &format!("code={code}")).await;
    assert_eq!(status, StatusCode::SEE_OTHER, "{text}");
}

/// The texts of the first table's rows.
fn rows(book: &Logbook) -> Vec<(String, String)> {
    let analysis = book.analyse();
    let table = &analysis.tables[0];
    (0..table.rows.len()).map(|r| (table.text(0, r), table.text(1, r))).collect()
}

fn pairs(wanted: &[(&str, &str)]) -> Vec<(String, String)> {
    wanted.iter().map(|(a, b)| ((*a).to_owned(), (*b).to_owned())).collect()
}

#[tokio::test]
async fn an_outcome_says_as_data_what_was_done() {
    let t = town();
    let (status, done) = t.edit(MEMBER, &cell(&json!({ "begun": PAGE_ROWS }), 1, "0,400", None)).await;
    assert_eq!((status, &done["done"], &done["seq"]), (StatusCode::OK, &json!(true), &json!(1)));
    assert_eq!((&done["holds"], &done["place"]), (&json!("0.400"), &Value::Null));
    let (_, news) = t.ask("POST", "/parts", MEMBER, r#"{"since":0,"look":{}}"#).await;
    let news: Value = serde_json::from_str(&news).unwrap();
    let parts = news["parts"].as_str().unwrap();
    assert!(
        news["seq"] == json!(1) && parts.contains(r#"id="part-record""#) && !parts.contains(r#"id="part-stage""#),
        "only what it shows in"
    );

    // A mistake in a formula has its place, in characters; nothing was done.
    let text = text("period", "T", "2·pi·t10 + + 1");
    let worked = json!({ "record": { "add_column": { "table": 1, "kind": "worked", "text": text } } });
    let (status, refused) = t.edit(MEMBER, &worked).await;
    assert_eq!(
        (status, &refused["done"], &refused["seq"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!(false), &json!(1))
    );
    let place: (usize, usize) = serde_json::from_value(refused["place"].clone()).unwrap();
    assert!(place.0 >= 9 && place.1 <= 13, "{place:?}");
    assert!(refused["holds"].is_null() && refused.get("holds").is_none(), "no cell was typed in");

    // What was made is named, so that the page can go there.
    let (_, made) = t.edit(MEMBER, &json!({ "record": { "add_table": { "name": "second" } } })).await;
    assert_eq!(made["made"]["table"], json!(t.stored().state().record.tables[1].id));
    let (_, made) = t.edit(MEMBER, &json!({ "graph": "add_graph" })).await;
    assert_eq!(made["made"]["graph"], json!(t.stored().state().graph.graphs[1].id));

    // A refused value: what the cell holds is told beside the reason.
    let row = json!({ "there": t.stored().state().record.tables[0].rows[0].id });
    let (status, refused) = t.edit(MEMBER, &cell(&row, 1, "0.4 kg", Some("0.400"))).await;
    assert_eq!((status, &refused["holds"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("0.400")));
    assert!(refused["word"].as_str().unwrap().contains("in m, not in kg"), "{}", refused["word"]);
    assert_eq!(rows(&t.stored()), pairs(&[("0.400", "")]));
}

/// Conflicts are found by comparing readings, digits and all; how the page writes them does not matter.
#[tokio::test]
async fn a_faster_partner_is_not_overwritten() {
    let t = town();
    partners(&t).await;
    t.edit(MEMBER, &cell(&json!("below"), 1, "0.400", None)).await;
    let row = json!({ "there": t.stored().state().record.tables[0].rows[0].id });
    let (status, _) = t.edit(CLASSMATE, &cell(&row, 1, "0.66", Some("0,400"))).await;
    assert_eq!(status, StatusCode::OK, "0.400 is what the cell holds");
    let (status, late) = t.edit(MEMBER, &cell(&row, 1, "0.55", Some("0.400"))).await;
    assert_eq!((status, &late["done"], &late["holds"]), (StatusCode::CONFLICT, &json!(false), &json!("0.66")));
    assert_eq!(rows(&t.stored()), pairs(&[("0.66", "")]));
    let (status, _) = t.edit(MEMBER, &cell(&row, 1, "0.55", late["holds"].as_str())).await;
    assert_eq!(status, StatusCode::OK, "whoever has seen it may change it");
    // An empty cell both write into; a row that one deletes while the other writes into it.
    let (status, _) = t.edit(CLASSMATE, &cell(&row, 2, "14.9", None)).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(t.edit(MEMBER, &cell(&row, 2, "15.0", None)).await.0, StatusCode::CONFLICT);
    t.edit(CLASSMATE, &json!({ "record": { "delete_row": { "row": row["there"] } } })).await;
    let (status, gone) = t.edit(MEMBER, &cell(&row, 1, "0.7", Some("0.55"))).await;
    assert_eq!((status, &gone["holds"]), (StatusCode::CONFLICT, &Value::Null));
    assert!(rows(&t.stored()).is_empty());
    // Both are named by id; a class never learns of it by name in the store.
    let by: Vec<i64> = {
        let database = t.database();
        let mut query = database.prepare("SELECT DISTINCT student FROM edits ORDER BY 1").unwrap();
        query.query_map([], |r| r.get(0)).unwrap().map(Result::unwrap).collect()
    };
    assert_eq!(by, [t.member, t.classmate]);
}

#[tokio::test]
async fn a_row_begun_on_a_page_keeps_its_key() {
    let t = town();
    let begun = |k: u32| json!({ "begun": PAGE_ROWS + k });
    // The second cell of a row may come before the first: either makes the row.
    for (row, column, typed) in [(7, 2, "12.71"), (7, 1, "0.400"), (9, 1, "0.700"), (9, 2, "16.76")] {
        assert_eq!(t.edit(MEMBER, &cell(&begun(row), column, typed, None)).await.0, StatusCode::OK);
    }
    let wanted = pairs(&[("0.400", "12.71"), ("0.700", "16.76")]);
    assert_eq!(rows(&t.stored()), wanted);
    // Somebody else's page has drawn the same key: it is the same row, and what stands in it is not written over.
    assert_eq!(t.edit(MEMBER, &cell(&begun(9), 1, "0.8", None)).await.0, StatusCode::CONFLICT);
    // Keys that no page may choose, and rows that are gone.
    let forged = json!({ "begun": 5 });
    assert_eq!(t.edit(MEMBER, &cell(&forged, 1, "0.8", None)).await.0, StatusCode::CONFLICT);
    assert_eq!(t.edit(MEMBER, &cell(&json!({ "there": PAGE_ROWS + 1 }), 1, "0.8", None)).await.0, StatusCode::CONFLICT);
    assert_eq!(t.edit(MEMBER, &cell(&json!({ "begun": u64::MAX }), 1, "0.8", None)).await.0, StatusCode::BAD_REQUEST);
    assert_eq!(rows(&t.stored()), wanted);
    // A key of one table does not reach into another.
    let (_, made) = t.edit(MEMBER, &json!({ "record": { "add_table": { "name": "second" } } })).await;
    let text = text("count", "n", "");
    t.edit(
        MEMBER,
        &json!({ "record": { "add_column": { "table": made["made"]["table"], "kind": "read", "text": text } } }),
    )
    .await;
    let other = t.stored().state().record.tables[1].columns[0].id;
    assert_eq!(t.edit(MEMBER, &cell(&begun(7), other, "3", None)).await.0, StatusCode::CONFLICT);
    assert_eq!(rows(&t.stored()), wanted);
}

#[tokio::test]
async fn a_token_stands_for_one_edit_whatever_comes_with_it() {
    let t = town();
    partners(&t).await;
    let (first, second) = (cell(&json!("below"), 1, "0.4", None), cell(&json!("below"), 1, "0.9", None));
    let (_, done) = t.edit_as(MEMBER, &first, "one and the same").await;
    for (who, edit) in [(MEMBER, &first), (MEMBER, &second), (CLASSMATE, &second)] {
        let (status, again) = t.edit_as(who, edit, "one and the same").await;
        assert_eq!((status, &again["seq"]), (StatusCode::OK, &done["seq"]));
    }
    assert_eq!(rows(&t.stored()), pairs(&[("0.4", "")]));
    // One that was refused was not done: the token is free still.
    let wrong = cell(&json!("below"), 1, "four", None);
    assert_eq!(t.edit_as(MEMBER, &wrong, "another token").await.0, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(t.edit_as(MEMBER, &second, "another token").await.0, StatusCode::OK);
    assert_eq!(rows(&t.stored()).len(), 2);
    // Four at once, all the same.
    let once = || t.edit_as(MEMBER, &first, "four at once");
    let answers = tokio::join!(once(), once(), once(), once());
    for (status, _) in [answers.0, answers.1, answers.2, answers.3] {
        assert_eq!(status, StatusCode::OK);
    }
    assert_eq!(rows(&t.stored()).len(), 3);
}

/// The largest, the smallest and the strangest of everything: a clear answer, and either done or not.
#[tokio::test]
async fn sizes_nobody_needs_are_answered() {
    let t = town();
    let long = "9".repeat(100_000);
    let mut edits = vec![json!({ "run": "run" }), cell(&json!("below"), 1, "0.4", None)];
    for typed in [long.as_str(), "1e999", "-0", "NaN", "1e-400 m", "\u{0}", "٣", "0.4\n0.5", "=1+1", ""] {
        edits.push(cell(&json!("below"), 1, typed, None));
        edits.push(json!({ "run": { "set_setting": { "name": "length", "typed": typed } } }));
        edits.push(json!({ "result": { "state_law": { "result": 1, "term": "slope", "typed": typed } } }));
        edits.push(json!({ "record": { "hold_quantity": { "symbol": "q", "name": typed, "typed": typed } } }));
        edits.push(json!({ "record": { "fill_column": { "column": 1, "from": typed, "to": "1", "count": 4_000_000_000u32 } } }));
        edits.push(json!({ "graph": { "set_axis": { "graph": 1, "up": true, "from": typed, "to": "1", "logarithmic": true, "zero": true } } }));
        edits.push(json!({ "record": { "paste": { "table": null, "name": typed, "row": "below", "column": null, "text": typed } } }));
    }
    for number in [0, u32::MAX] {
        edits.push(json!({ "run": { "choose_run": { "run": number } } }));
        edits.push(json!({ "run": { "stop_here": { "frame": number } } }));
        edits.push(json!({ "run": { "record": { "channels": ["theta"], "from": 0, "to": number, "every": number } } }));
        edits.push(json!({ "record": { "move_row": { "row": number, "by": -2_000_000_000 } } }));
        edits.push(json!({ "graph": { "remove_series": { "graph": 1, "index": number } } }));
        let tools = json!({ "zero": number, "start": number, "end": number, "tape": [[1e308, -1e308], [0.0, 0.0]] });
        edits.push(json!({ "footage": { "place_tools": { "on": { "run": number }, "tools": tools } } }));
    }
    for edit in edits {
        let before = t.stored().seq();
        let (status, outcome) = t.edit(MEMBER, &edit).await;
        let name = edit.to_string();
        assert!(!status.is_server_error(), "{name:.200}: {outcome}");
        let done = status == StatusCode::OK;
        assert_eq!(t.stored().seq(), before + u64::from(done), "{name:.200}");
        assert!(
            done || outcome["word"].as_str().map_or(outcome.is_string(), |w| !w.is_empty()),
            "{name:.200}: {outcome}"
        );
    }
    // What a page says it shows may be anything.
    for look in [json!({ "table": u32::MAX, "from": u64::MAX, "graph": 7, "begun": u32::MAX }), json!({ "from": 3 })] {
        let asked = json!({ "since": u64::MAX, "look": look, "also": ["record", "graph", "strip"] }).to_string();
        let (status, text) = t.ask("POST", "/parts", MEMBER, &asked).await;
        assert_eq!(status, StatusCode::OK, "{text:.300}");
    }
    assert_eq!(t.ask("POST", "/parts", STRANGER, r#"{"since":0,"look":{}}"#).await.0, StatusCode::NOT_FOUND);
    assert_eq!(t.ask("GET", "", MEMBER, "").await.0, StatusCode::OK);
}

/// A logbook with an entry of a newer program opens as far as it can be read; student and teacher are told, and nothing is written.
#[tokio::test]
async fn an_entry_that_cannot_be_read_is_told_and_kept() {
    let t = town();
    for typed in ["0.4", "0.7", "0.9"] {
        t.edit(MEMBER, &cell(&json!("below"), 1, typed, None)).await;
    }
    let newer = r#"{"turn":"work","changes":[{"hologram":{"turned":true}}],"next_id":9}"#;
    t.database().execute("UPDATE edits SET deed = ? WHERE seq = 3", [newer]).unwrap();
    let store = zeitmass_store::Store::open(t.folder.path()).unwrap();
    let app = zeitmass_web::App::new(store).unwrap();
    let t = Served { router: zeitmass_web::router(app.clone()), app, ..t };
    for who in [MEMBER, TEACHER] {
        let (status, page) = t.ask("GET", "", who, "").await;
        assert_eq!(status, StatusCode::OK);
        assert!(page.contains("id=\"unread\"") && page.contains("newer version of Zeitmass"), "told");
        assert!(page.contains("0.7") && !page.contains("data-edit"), "shown, and nothing to write with");
    }
    for edit in [cell(&json!("below"), 1, "1.2", None), json!("undo"), json!({ "office": "hand_in" })] {
        let (status, outcome) = t.edit(MEMBER, &edit).await;
        assert!(status.is_client_error() && outcome["done"] == json!(false), "{edit}: {status} {outcome}");
        assert!(outcome["word"].as_str().unwrap().contains("cannot read"), "{}", outcome["word"]);
    }
    assert_eq!(t.ask("POST", "/send-back", TEACHER, "note=Go+on").await.0.as_u16() / 100, 4, "nor can the teacher");
    let kept: (i64, String) = t
        .database()
        .query_row("SELECT count(*), max(deed) FILTER (WHERE seq = 3) FROM edits", [], |r| Ok((r.get(0)?, r.get(1)?)))
        .unwrap();
    assert_eq!(kept, (3, newer.to_owned()));
    // It can be taken along as far as it was read, and lists do not open it at all.
    assert_eq!(t.ask("GET", "/tables/1.csv", MEMBER, "").await.0, StatusCode::OK);
    let (status, list) = t.ask("GET", &format!("//classes/{}", t.class), TEACHER, "").await;
    assert!(status == StatusCode::OK && list.contains("3 edits"), "{status}");
}

/// The class page reads standings alone, and hears what moves.
#[tokio::test]
async fn a_class_page_follows_its_logbooks() {
    let t = town();
    let class = format!("//classes/{}", t.class);
    for (path, who, status) in [
        ("/standings", TEACHER, StatusCode::OK),
        ("/standings", MEMBER, StatusCode::FORBIDDEN),
        ("/events", STRANGER, StatusCode::FORBIDDEN),
    ] {
        assert_eq!(t.answer("GET", &format!("{class}{path}"), who, "").await.status(), status, "{path}");
    }
    // Who is not signed in any more is led to the front page as a whole, not inside the table.
    let part = Request::get(format!("/classes/{}/standings", t.class)).header("hx-request", "true");
    let led = t.router.clone().oneshot(part.body(Body::empty()).unwrap()).await.unwrap();
    assert_eq!((led.status(), &led.headers()["hx-redirect"]), (StatusCode::OK, &HeaderValue::from_static("/")));
    let mut events = t.answer("GET", &format!("{class}/events"), TEACHER, "").await.into_body().into_data_stream();
    for count in 1..=2 {
        t.edit(MEMBER, &cell(&json!("below"), 1, "0.4", None)).await;
        let heard = events.next().await.unwrap().unwrap();
        let heard = String::from_utf8_lossy(&heard).into_owned();
        assert!(heard.contains("event: moved") && heard.contains(&format!("data: {}", t.logbook)), "{heard}");
        let (_, table) = t.ask("GET", &format!("{class}/standings"), TEACHER, "").await;
        assert!(table.contains(&format!("{count} edits")), "{table}");
    }
    // Results follow when they are worked out, with their uncertainty; the standing says of which edit they are.
    let edits = [
        json!({ "record": { "paste": { "table": 1, "name": "", "row": "below", "column": null,
            "text": "L (m)\tt10 (s)\n0.300\t10.99\n0.600\t15.54\n0.900\t19.03\n1.200\t21.97" } } }),
        json!({ "record": { "add_column": { "table": 1, "kind": "worked", "text": text("square", "q", "(t10/10)^2") } } }),
        json!({ "graph": { "choose_model": { "graph": 1, "model": "line" } } }),
        json!({ "result": { "state_law": { "result": 1, "term": "slope", "typed": "4*pi^2/g" } } }),
    ];
    for (k, edit) in edits.iter().enumerate() {
        assert_eq!(t.edit(MEMBER, edit).await.0, StatusCode::OK, "{edit}");
        if k == 1 {
            let square = t.stored().state().record.tables[0].by_symbol("q").unwrap().id;
            t.edit(MEMBER, &json!({ "graph": { "choose_axes": { "graph": 1, "x": 1, "y": square } } })).await;
        }
    }
    let store = zeitmass_store::Store::open(t.folder.path()).unwrap();
    // Nobody's page asks for them: they are worked out all the same.
    let standing = loop {
        let standing = store.standing(t.logbook).unwrap().unwrap();
        if standing.results_seq == 7 {
            break standing;
        }
        tokio::time::sleep(std::time::Duration::from_millis(5)).await;
    };
    assert_eq!(standing.seq, 7);
    let g = &standing.results[0];
    let u = g.u.unwrap();
    assert!((g.value - 9.81).abs() < 0.02 && u < 0.02 && g.symbol == "g", "{g:?}");
    t.edit(MEMBER, &json!({ "office": "hand_in" })).await;
    assert!(store.standing(t.logbook).unwrap().unwrap().handed_in.is_some());
}

/// What a hand would set and the apparatus cannot take is refused in the words it has when it is typed.
#[tokio::test]
async fn a_set_up_that_cannot_be_is_refused_in_words() {
    let t = town();
    for (name, value, told) in [
        ("length", "5kg", "The length is given in"),
        ("length", "%E2%80%935m", "The length can be"),
        ("colour", "1", "“colour” is not free in this lab"),
    ] {
        let (status, text) = t.ask("GET", &format!("/setup?set=%7B%22{name}%22:%22{value}%22%7D"), MEMBER, "").await;
        assert!(status.is_client_error() && text.contains(told), "{name} = {value}: {status} {text}");
    }
}
