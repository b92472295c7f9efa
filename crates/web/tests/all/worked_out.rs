//! What follows from a logbook is worked out once for each of its states, however many look at it and in whatever way.

use crate::common::{MEMBER, Served, TEACHER, served};
use axum::http::StatusCode;
use serde_json::{Value, json};
use zeitmass_core::logbook::ColumnText;

const PENDULUM: &str = include_str!("../../../../labs/2.1-tower-pendulum.md");
const SHUTTLE: &str = include_str!("../../../../labs/1.1-mail-shuttle.md");

struct Story(Served);

impl Story {
    async fn ask(&self, method: &str, path: &str, who: usize, body: &str) -> String {
        let (status, text) = self.0.ask(method, path, who, body).await;
        assert_eq!(status, StatusCode::OK, "{path}: {text:.300}");
        text
    }

    /// Does an edit, and lets the student and the teacher look at everything; gives how many motions and how many analyses that took.
    async fn seen_by_all(&self, edit: &Value) -> (u64, u64) {
        let before = self.0.app.worked_out();
        let answer =
            self.ask("POST", "/edits", MEMBER, &crate::common::sent(&edit.to_string(), &crate::common::token())).await;
        let seq = serde_json::from_str::<Value>(&answer).unwrap()["seq"].as_u64().unwrap();
        let look = json!({ "since": 0, "look": {}, "also": ["strip", "constant"] }).to_string();
        for who in [MEMBER, TEACHER] {
            self.ask("GET", "", who, "").await;
            let news: Value = serde_json::from_str(&self.ask("POST", "/parts", who, &look).await).unwrap();
            self.ask("GET", "/write-up", who, "").await;
            // There may be nothing to draw yet.
            self.0.ask("GET", "/graphs/1.svg", who, "").await;
            self.ask("GET", "/setup", who, "").await;
            if news["parts"].as_str().unwrap().contains("data-run=\"1\"") {
                self.ask("GET", "/runs/1", who, "").await;
                self.ask("GET", "/runs/1/meters/3", who, "").await;
            }
        }
        self.ask("GET", "/logbook.zip", MEMBER, "").await;
        assert!(seq > 0);
        let after = self.0.app.worked_out();
        (after.0 - before.0, after.1 - before.1)
    }
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn each_state_is_worked_out_once() {
    let story = Story(served("2.1-tower-pendulum.md", PENDULUM));
    let cell = |column: u32, typed: &str| json!({ "record": { "type_cell": { "row": "below", "column": column, "typed": typed, "was": null } } });
    let square =
        ColumnText { name: "square".into(), symbol: "q".into(), formula: "t10^2".into(), ..ColumnText::default() };
    let worked = json!({ "record": { "add_column": { "table": 1, "kind": "worked", "text": square } } });
    let again = json!({ "run": { "set_setting": { "name": "length", "typed": "0.900" } } });
    let back = json!({ "run": { "set_setting": { "name": "length", "typed": "0.800" } } });
    // Edits, and how many motions each of them needs. What is set is shown before it runs, and is the same motion when it does; the same
    // settings give the same motion as before.
    let edits = [
        (json!({ "run": "run" }), 1),
        (again, 1),
        (json!({ "run": "run" }), 0),
        (back, 0),
        (json!({ "run": "run" }), 0),
        (cell(1, "0.800"), 0),
        (cell(2, "17.94"), 0),
        (worked, 0),
        (json!({ "graph": { "choose_axes": { "graph": 1, "x": 1, "y": 2 } } }), 0),
        (json!({ "graph": { "choose_model": { "graph": 1, "model": "line" } } }), 0),
        (json!({ "result": { "state_law": { "result": 1, "term": "slope", "typed": "4*pi^2/g" } } }), 0),
        (json!("undo"), 0),
        (json!("redo"), 0),
    ];
    for (edit, motions) in edits {
        let (integrations, analyses) = story.seen_by_all(&edit).await;
        assert_eq!(integrations, motions, "motions worked out for {edit}");
        assert_eq!(analyses, 1, "analyses of {edit}");
    }
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn typing_in_a_lab_with_a_forecast_works_out_no_motion() {
    let story = Story(served("1.1-mail-shuttle.md", SHUTTLE));
    let sketch = json!({ "forecast": { "sketch": { "channel": "x", "points": [[0.0, 0.1], [40.0, 3.0]] } } });
    let predict = json!({ "forecast": { "predict": { "typed": "12 m" } } });
    let run = json!({ "run": "run" });
    let cell = json!({ "record": { "type_cell": { "row": "below", "column": 1, "typed": "2.00", "was": null } } });
    for (edit, motions) in [(sketch, 1), (predict, 0), (run, 0), (cell.clone(), 0), (cell, 0)] {
        let (integrations, analyses) = story.seen_by_all(&edit).await;
        assert_eq!((integrations, analyses), (motions, 1), "motions and analyses of {edit}");
    }
}
