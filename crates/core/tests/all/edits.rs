//! Edits as pages send them and as the store keeps them: one spelling each, nothing more and nothing less; and how far a logbook is
//! after them.

use std::sync::Arc;

use serde_json::{Value, json};
use zeitmass_core::logbook::{Edit, Heard, Logbook, PAGE_ROWS, Step, Touched};
use zeitmass_words::Words;

use crate::common::{cell, done, empty, open};

/// Edits of every subject, as a page sends them.
fn sent() -> Vec<Value> {
    let text = json!({ "name": "period", "symbol": "T", "unit": "", "formula": "t10/10",
        "precision": { "by": "resolution", "value": "", "parts": "" } });
    let tools = json!({ "zero": 3, "start": 4, "end": null, "tape": [[0.0, 0.5], [1.0, 0.5]] });
    let split = json!({ "split": { "of": { "run": 1 }, "start": 0, "end": 200 } });
    vec![
        json!({ "run": "run" }),
        json!({ "run": { "set_setting": { "name": "length", "typed": "0.800 m" } } }),
        json!({ "run": { "pull": { "motion": [[0.0, 0.0], [0.5, 0.1]] } } }),
        json!({ "footage": { "place_tools": { "on": { "run": 1 }, "tools": tools } } }),
        json!({ "film": { "place_mark": { "trail": 3, "frame": 7, "at": [12.5, 40.0] } } }),
        json!({ "forecast": { "sketch": { "channel": "x", "points": [[0.0, 0.0], [9.0, 1.0]] } } }),
        json!({ "record": { "type_cell": { "row": { "begun": PAGE_ROWS }, "column": 1, "typed": "0,4", "was": null } } }),
        json!({ "record": { "type_cell": { "row": { "there": 1003 }, "column": 1, "typed": "0,4", "was": "0.40" } } }),
        json!({ "record": { "log_reading": { "row": "below", "column": 2, "instrument": split } } }),
        json!({ "record": { "log_beside": { "row": "below", "column": 2, "instrument": split } } }),
        json!({ "record": { "add_column": { "table": 1, "kind": "worked", "text": text } } }),
        json!({ "graph": "add_graph" }),
        json!({ "graph": { "choose_axes": { "graph": 1, "x": 1, "y": 2 } } }),
        json!({ "graph": { "choose_fit": { "graph": 1, "stretch": null, "curve": { "offered": "inverse-square" }, "weighting": "equal" } } }),
        json!({ "graph": { "choose_fit": { "graph": 1, "stretch": 4, "curve": { "formula": { "formula": "k*L", "start": "" } }, "weighting": "both" } } }),
        json!({ "result": { "choose_source": { "result": 1, "from": { "curve": { "graph": 1, "stretch": null, "parameter": "slope" } } } } }),
        json!({ "result": { "state_law": { "result": 1, "term": "slope", "typed": "4*pi^2/g" } } }),
        json!({ "writing": { "write": { "field": "claim", "text": "It is a line.", "was": "" } } }),
        json!({ "answer": { "choose": { "question": "guess", "option": "it falls", "on": true } } }),
        json!({ "answer": { "point": { "question": "guess", "at": { "moment": { "of": { "run": 1 }, "frame": 3 } } } } }),
        json!({ "office": "hand_in" }),
        json!("undo"),
        json!("redo"),
    ]
}

#[test]
fn an_edit_has_one_spelling() {
    for value in sent() {
        let edit: Edit = serde_json::from_value(value.clone()).unwrap_or_else(|e| panic!("{value}: {e}"));
        assert_eq!(serde_json::to_value(&edit).unwrap(), value, "it is written as it was read");
        let Some((subject, kind, fields)) = parted(&value) else { continue };
        // A field too many, a kind or a subject nobody knows.
        let mut more = fields.clone();
        more.insert("and".to_owned(), json!(1));
        for bad in [
            json!({ subject: { kind: more } }),
            json!({ subject: { format!("{kind}s"): fields } }),
            json!({ format!("{subject}s"): { kind: fields } }),
            json!({ subject: { kind: fields }, "undo": null }),
            json!({ subject: kind }),
            json!([{ subject: { kind: fields } }]),
        ] {
            assert!(serde_json::from_value::<Edit>(bad.clone()).is_err(), "{bad}");
        }
        // A field too few, unless nothing is what it may hold.
        for name in fields.keys() {
            let mut fewer = fields.clone();
            let had = fewer.remove(name).unwrap();
            let read = serde_json::from_value::<Edit>(json!({ subject: { kind: fewer } }));
            assert!(read.is_err() || had.is_null() || read.unwrap() != edit, "{kind} without {name}");
        }
        // A value of another kind.
        for name in fields.keys() {
            let mut other = fields.clone();
            other.insert(name.clone(), json!({ "of": ["another", "kind"] }));
            assert!(serde_json::from_value::<Edit>(json!({ subject: { kind: other } })).is_err(), "{kind} {name}");
        }
    }
}

/// Subject, kind and fields of an edit that has fields.
fn parted(edit: &Value) -> Option<(&str, &str, &serde_json::Map<String, Value>)> {
    let (subject, inner) = edit.as_object()?.iter().next()?;
    let (kind, fields) = inner.as_object()?.iter().next()?;
    Some((subject, kind, fields.as_object()?))
}

/// Facts of films, marks of a follower, whole contents and the teacher's word are formed by the server alone.
#[test]
fn what_only_the_server_may_form_is_not_read() {
    for forged in [
        json!({ "film": { "choose_film": { "facts": { "key": "x", "title": "x", "width": 4, "height": 4, "times": [0.0, 1.0], "length": "" } } } }),
        json!({ "film": { "place_marks": { "trail": 1, "marks": [[0, [1.0, 1.0]]] } } }),
        json!({ "office": { "send_back": { "note": "Well done." } } }),
        json!({ "office": { "restore": { "content": serde_json::to_value(empty().state()).unwrap() } } }),
    ] {
        let refused = serde_json::from_value::<Edit>(forged.clone()).unwrap_err().to_string();
        assert!(refused.contains("unknown variant"), "{forged}: {refused}");
    }
}

fn act(book: &mut Logbook, edit: Value) {
    let edit: Edit = serde_json::from_value(edit).unwrap();
    book.apply(&edit, 0).unwrap_or_else(|e| panic!("{edit:?}: {e:?}"));
}

fn type_cell(row: u32, column: u32, typed: &str) -> Value {
    json!({ "record": { "type_cell": { "row": { "begun": PAGE_ROWS + row }, "column": column, "typed": typed, "was": null } } })
}

/// The furthest step in which something was done; undo goes back in it.
#[test]
fn a_standing_tells_how_far_a_logbook_is() {
    let mut book = empty();
    let step = |book: &Logbook| book.standing().step;
    assert_eq!(step(&book), Step::Question);
    act(&mut book, type_cell(1, 1, "0.400"));
    let standing = book.standing();
    assert_eq!((standing.rows, standing.trials, standing.runs), (1, 1, 0));
    act(&mut book, type_cell(1, 2, "12.71"));
    assert_eq!((step(&book), book.standing().trials), (Step::Measure, 1));
    for (row, (length, time)) in (2..).zip([("0.700", "16.76"), ("1.000", "20.05"), ("1.300", "22.87")]) {
        act(&mut book, type_cell(row, 1, length));
        act(&mut book, type_cell(row, 2, time));
    }
    act(&mut book, json!({ "graph": { "choose_axes": { "graph": 1, "x": 1, "y": 2 } } }));
    assert_eq!(step(&book), Step::Graph);
    act(&mut book, json!({ "graph": { "choose_model": { "graph": 1, "model": "line" } } }));
    assert_eq!(step(&book), Step::Linearize);
    act(&mut book, json!("undo"));
    assert_eq!(step(&book), Step::Graph);
    act(&mut book, json!("redo"));
    act(&mut book, json!({ "result": { "state_law": { "result": 1, "term": "slope", "typed": "k" } } }));
    assert_eq!(step(&book), Step::Constant);
    act(&mut book, json!({ "writing": { "write": { "field": "claim", "text": "It rises.", "was": "" } } }));
    assert_eq!((step(&book), book.standing().handed_in), (Step::WriteUp, false));
    act(&mut book, json!({ "office": "hand_in" }));
    let standing = book.standing();
    assert_eq!((standing.handed_in, standing.trials, standing.rows, standing.runs), (true, 4, 4, 0));
    // A snapshot stands where its logbook does, and so does one that went through JSON.
    let snapshot = serde_json::to_value(book.snapshot()).unwrap();
    let sheet = Arc::clone(book.sheet());
    let start = Logbook::start(Arc::clone(&sheet), 7);
    let again = Logbook::resume(sheet, 7, start, serde_json::from_value(snapshot).ok());
    assert_eq!(again.standing(), standing);
    assert!(again == book && cell(&again, 1, 3) == "22.87");
}

/// Whoever chooses one axis leaves the other as it is by then, though the page showed another when the hand went down.
#[test]
fn one_axis_is_chosen_without_the_other() {
    let mut book = empty();
    let axis = |up: bool, column: Option<u32>| json!({ "graph": { "choose_axis": { "graph": 1, "up": up, "column": column } } });
    let axes = |book: &Logbook| book.state().graph(1).map(|g| (g.x, g.y)).unwrap();
    act(&mut book, axis(true, Some(2)));
    act(&mut book, axis(false, Some(1)));
    assert_eq!(axes(&book), (Some(1), Some(2)));
    act(&mut book, axis(true, None));
    assert_eq!(axes(&book), (Some(1), None));
    let edit: Edit = serde_json::from_value(axis(true, Some(77))).unwrap();
    assert!(book.apply(&edit, 0).is_err() && axes(&book) == (Some(1), None));
}

/// Undo and redo name the one thing a person would name.
#[test]
fn undo_says_what_it_took_back() {
    let mut book = empty();
    let column = json!({ "record": { "add_column": { "table": 1, "kind": "worked", "text": { "name": "period", "symbol": "T", "unit": "", "formula": "t10/10" } } } });
    let steps = [
        (
            json!({ "run": { "set_setting": { "name": "length", "typed": "0.6 m" } } }),
            Touched::Setting("length".into()),
        ),
        (json!({ "run": "run" }), Touched::Run(1)),
        (type_cell(1, 1, "0.600"), Touched::Row(1)),
        (
            json!({ "record": { "type_cell": { "row": { "begun": PAGE_ROWS + 1 }, "column": 2, "typed": "15.54", "was": null } } }),
            Touched::Cell("t10".into(), 1),
        ),
        (
            json!({ "record": { "paste": { "table": 1, "name": "", "row": "below", "column": null, "text": "0.9\t19.0\n1.2\t22.0" } } }),
            Touched::Rows(2),
        ),
        (column, Touched::Column("T".into())),
        (json!({ "record": { "add_table": { "name": "second" } } }), Touched::Table("second".into())),
        (json!({ "graph": { "choose_axes": { "graph": 1, "x": 1, "y": 2 } } }), Touched::Graph),
        (json!({ "result": { "state_law": { "result": 1, "term": "slope", "typed": "k" } } }), Touched::Result),
        (json!({ "writing": { "write": { "field": "claim", "text": "It rises.", "was": "" } } }), Touched::Text),
        (json!({ "write_up": { "add_text": { "before": null } } }), Touched::WriteUp),
    ];
    for (edit, _) in &steps {
        act(&mut book, edit.clone());
    }
    for (_, what) in steps.iter().rev() {
        assert_eq!(done(&mut book, Edit::Undo), [Heard::Undone(what.clone())]);
    }
    for (_, what) in &steps {
        assert_eq!(done(&mut book, Edit::Redo), [Heard::DoneAgain(what.clone())]);
    }
}

/// In a lab with a forecast the forecast is a step of its own, before anything is measured.
#[test]
fn a_forecast_is_a_step() {
    let mut book = open(include_str!("../../../../labs/1.1-mail-shuttle.md"), 3);
    act(&mut book, json!({ "forecast": { "predict": { "typed": "12 m" } } }));
    assert_eq!(book.standing().step, Step::Forecast);
    act(&mut book, json!({ "forecast": { "sketch": { "channel": "x", "points": [[0.0, 0.1], [40.0, 3.0]] } } }));
    act(&mut book, json!({ "run": "run" }));
    assert_eq!((book.standing().step, book.standing().runs), (Step::Measure, 1));
}

/// Each edit is done or refused: a refusal has words and changes nothing, what was done can be undone and done again, and its deed, written
/// and read, does the same in another copy of the logbook.
#[test]
fn each_edit_is_done_or_refused_and_told() {
    let mut book = open(include_str!("../../../../labs/1.1-mail-shuttle.md"), 3);
    act(&mut book, type_cell(1, 1, "2.00"));
    act(&mut book, type_cell(1, 2, "-3.10"));
    let (mut done, mut refused) = (0, 0);
    for value in sent() {
        if value.is_string() {
            continue;
        }
        let edit: Edit = serde_json::from_value(value).unwrap();
        let before = book.clone();
        match book.plan(&edit, 0) {
            Err(refusal) => {
                let words = refusal.words();
                assert!(words.ends_with(['.', '!', '?']) && words.len() > 10, "{edit:?}: {words}");
                assert!(book == before, "{edit:?}");
                refused += 1;
            }
            Ok(intent) => {
                assert!(book == before, "planning changes nothing: {edit:?}");
                let written = serde_json::to_string(&intent.deed).unwrap();
                let mut copy = book.clone();
                book.take(intent.deed).unwrap();
                copy.take(serde_json::from_str(&written).unwrap()).unwrap();
                assert!(copy == book, "{edit:?}");
                assert_eq!(book.seq(), before.seq() + 1);
                done += 1;
            }
        }
    }
    assert!(done >= 5 && refused >= 3, "{done} were done, {refused} refused");
}

/// A row begun on a page has its key from then on, in whatever order its cells come; keys are the page's only from 2³¹ up.
#[test]
fn begun_rows_have_the_keys_of_their_page() {
    let mut book = empty();
    for (row, column, typed) in [(9, 2, "16.76"), (4, 1, "0.400"), (9, 1, "0.700"), (4, 2, "12.71")] {
        act(&mut book, type_cell(row, column, typed));
    }
    let ids: Vec<u32> = book.state().record.tables[0].rows.iter().map(|r| r.id).collect();
    assert_eq!(ids, [PAGE_ROWS + 9, PAGE_ROWS + 4], "in the order in which they were begun");
    assert_eq!([cell(&book, 0, 0), cell(&book, 1, 1)], ["0.700", "12.71"]);
    act(&mut book, json!("undo"));
    act(&mut book, type_cell(4, 2, "12.75"));
    assert_eq!(cell(&book, 1, 1), "12.75");
    act(&mut book, json!({ "record": { "delete_row": { "row": PAGE_ROWS + 4 } } }));
    assert_eq!(book.state().record.tables[0].rows.len(), 1);
    for forged in [0, 5, 1003, PAGE_ROWS - 1] {
        let value = json!({ "record": { "type_cell": { "row": { "begun": forged }, "column": 1, "typed": "1", "was": null } } });
        let edit: Edit = serde_json::from_value(value).unwrap();
        let before = book.clone();
        assert!(book.apply(&edit, 0).is_err() && book == before, "{forged}");
    }
}
