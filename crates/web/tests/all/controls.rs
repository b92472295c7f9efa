//! Every control of the bench stands for an edit: what its attributes say, with what a person chooses or types, is read as one.

use axum::body::Body;
use axum::http::{Request, header};
use http_body_util::BodyExt;
use serde_json::{Value, json};
use tower::ServiceExt;
use zeitmass_core::logbook::{
    ColumnText, Edit, FilmEdit, GraphEdit, Logbook, ModelEdit, RecordEdit, ResultEdit, RowAt, RunEdit,
};
use zeitmass_core::record::ColumnKind;
use zeitmass_core::step_model::{ForceName, ModelField};
use zeitmass_web::{App, SHIPPED_SHEETS, router};

/// A tag with its attributes, entities replaced.
struct Tag {
    name: String,
    attributes: Vec<(String, String)>,
}

impl Tag {
    fn get(&self, name: &str) -> Option<&str> {
        self.attributes.iter().find(|(n, _)| n == name).map(|(_, v)| v.as_str())
    }
}

/// The tags of a page, one after the other.
fn tags(page: &str) -> Vec<Tag> {
    let mut all = Vec::new();
    let mut rest = page;
    while let Some(at) = rest.find('<') {
        rest = &rest[at + 1..];
        let end = rest.find(|c: char| c.is_whitespace() || c == '>').unwrap_or(rest.len());
        let mut tag = Tag { name: rest[..end].to_owned(), attributes: Vec::new() };
        rest = rest[end..].trim_start();
        while !rest.is_empty() && !rest.starts_with(['>', '/']) {
            let end = rest.find(|c: char| c.is_whitespace() || c == '=' || c == '>').unwrap_or(rest.len());
            let name = rest[..end].to_owned();
            rest = &rest[end..];
            let mut value = String::new();
            if let Some(quoted) = rest.strip_prefix('=') {
                let quote = quoted.chars().next().expect("a quote");
                let end = quoted[1..].find(quote).expect("its end") + 1;
                quoted[1..end].clone_into(&mut value);
                rest = &quoted[end + 1..];
            }
            for (entity, sign) in [
                ("&#34;", "\""),
                ("&quot;", "\""),
                ("&#39;", "'"),
                ("&#60;", "<"),
                ("&#62;", ">"),
                ("&#38;", "&"),
                ("&amp;", "&"),
            ] {
                value = value.replace(entity, sign);
            }
            tag.attributes.push((name, value));
            rest = rest.trim_start();
        }
        all.push(tag);
    }
    all
}

/// What somebody might choose or type in a control, in the type it is sent in.
fn chosen(tag: &Tag, options: &[Tag]) -> Value {
    let first =
        || options.iter().find(|o| o.name == "option" && o.get("disabled").is_none()).and_then(|o| o.get("value"));
    match (tag.get("data-as"), tag.get("type"), tag.name.as_str()) {
        (Some("on-off"), ..) => json!("on"),
        (Some("list"), ..) => json!([tag.get("value").unwrap_or_default()]),
        (_, Some("checkbox"), _) => json!(true),
        (Some("json"), _, "select") => serde_json::from_str(first().unwrap_or("null")).expect("an option as JSON"),
        (Some("json"), ..) => serde_json::from_str(tag.get("value").expect("a value")).expect("a value as JSON"),
        (_, Some("radio"), _) => json!(tag.get("value").expect("a value")),
        (Some("number"), ..) => json!(1),
        (None, _, "select") => json!(first().unwrap_or("rises")),
        _ => json!("1"),
    }
}

fn put(edit: &mut Value, path: &str, value: Value) {
    let mut inner = edit.as_object_mut().and_then(|e| e.values_mut().next()).and_then(Value::as_object_mut);
    inner = inner.and_then(|subject| subject.values_mut().next()).and_then(Value::as_object_mut);
    let mut fields = inner.expect("an edit with fields");
    let (last, outer) =
        path.split('.').rev().collect::<Vec<_>>().split_first().map(|(l, o)| (*l, o.to_vec())).expect("a name");
    for name in outer.into_iter().rev() {
        fields = fields.get_mut(name).and_then(Value::as_object_mut).expect("an object");
    }
    match fields.get_mut(last) {
        Some(Value::Array(list)) if value.is_array() => list.extend(value.as_array().expect("a list").iter().cloned()),
        _ => {
            fields.insert(last.to_owned(), value);
        }
    }
}

/// Checks all controls of a page; gives the edits they stand for.
fn edits(page: &str) -> Vec<Edit> {
    let tags = tags(page);
    let after = |i: usize| {
        let end = tags[i + 1..]
            .iter()
            .position(|t| t.name != "option" && t.name != "/option" && !t.name.ends_with("optgroup"));
        &tags[i + 1..i + 1 + end.unwrap_or(0)]
    };
    let mut found = Vec::new();
    for (i, tag) in tags.iter().enumerate() {
        let Some(text) = tag.get("data-edit") else { continue };
        let mut edit: Value = serde_json::from_str(text).unwrap_or_else(|e| panic!("{text}: {e}"));
        match tag.name.as_str() {
            "input" | "select" | "textarea" => {
                put(&mut edit, tag.get("data-field").unwrap_or("typed"), chosen(tag, after(i)));
                if tag.name == "textarea" {
                    put(&mut edit, "was", json!("before"));
                }
            }
            "form" => {
                let end = tags[i..].iter().position(|t| t.name == "/form").expect("the form's end");
                for (k, control) in tags.iter().enumerate().take(i + end).skip(i) {
                    let named = control
                        .get("name")
                        .filter(|_| ["input", "select", "textarea"].contains(&control.name.as_str()))
                        .filter(|_| control.get("type") != Some("radio") || control.get("checked").is_some());
                    if let Some(name) = named {
                        put(&mut edit, name, chosen(control, after(k)));
                    }
                }
                // A browser asks for a pick before it sends the form.
                let radios = || tags[i..i + end].iter().filter(|t| t.get("type") == Some("radio"));
                for radio in radios().filter(|t| t.get("required").is_some()) {
                    let name = radio.get("name").unwrap_or_default();
                    let of_it = || radios().filter(|t| t.get("name") == Some(name));
                    if of_it().all(|t| t.get("checked").is_none()) {
                        put(&mut edit, name, chosen(radio, &[]));
                    }
                }
                // The script adds which curve.
                if text.contains("choose_fit") {
                    put(&mut edit, "curve", json!({ "offered": "inverse-square" }));
                }
            }
            _ => {}
        }
        found.push(serde_json::from_value(edit.clone()).unwrap_or_else(|e| panic!("<{}> {edit}: {e}", tag.name)));
    }
    found
}

/// A logbook with a little of everything.
fn worked(book: &Logbook) -> Vec<Edit> {
    let text =
        ColumnText { name: "square".into(), symbol: "sq".into(), formula: "xq^2".into(), ..ColumnText::default() };
    let block = "length (m)\ttime xq (s)\n0.3\t1.1\n0.6\t1.6\n0.9\t1.9";
    let free = book.next_ids(3);
    let mut edits = vec![
        Edit::Record(RecordEdit::Paste {
            table: None,
            name: "own".into(),
            row: RowAt::Below,
            column: None,
            text: block.into(),
        }),
        Edit::Record(RecordEdit::AddColumn { table: free[0], kind: ColumnKind::Worked, text }),
        Edit::Record(RecordEdit::HoldQuantity { symbol: "mq".into(), name: "it's mass".into(), typed: "2 kg".into() }),
        Edit::Graph(GraphEdit::AddGraph),
        Edit::Graph(GraphEdit::ChooseAxes { graph: 1, x: Some(free[1]), y: Some(free[2]) }),
        Edit::Graph(GraphEdit::ChooseModel { graph: 1, model: Some(zeitmass_core::fit::Model::Line) }),
        Edit::Graph(GraphEdit::AddStretch { graph: 1, from: "0".into(), to: "1 m".into() }),
        Edit::Result(ResultEdit::AddResult { name: "second".into() }),
    ];
    if book.sheet().is_filmed() {
        let facts = zeitmass_web::demo_film("tower-yard").expect("a film");
        edits.push(Edit::Film(FilmEdit::ChooseFilm { facts: Box::new(facts) }));
        edits.push(Edit::Film(FilmEdit::AddTrail { film: "tower-yard".into(), name: "ball".into(), table: None }));
    } else if book.sheet().forecast.is_none() {
        edits.extend([Edit::Run(RunEdit::Run), Edit::Run(RunEdit::Run)]);
    }
    if book.sheet().step_model {
        let typed = |field, typed: &str| Edit::Model(ModelEdit::Type { field, typed: typed.into() });
        edits.extend([typed(ModelField::Mass, "1 kg"), typed(ModelField::Until, "1 s"), Edit::Model(ModelEdit::Run)]);
        edits.extend(ForceName::ALL.iter().map(|kind| Edit::Model(ModelEdit::AddForce { kind: *kind })));
    }
    edits
}

/// One reading is chosen from the start; where an instrument of the sheet shows what the first column of readings holds, it is such a one.
fn what_fills_the_table_is_chosen(key: &str, page: &str, book: &Logbook) {
    let tags = tags(page);
    let chosen: Vec<&Tag> =
        tags.iter().filter(|t| t.get("data-reading").is_some() && t.get("checked").is_some()).collect();
    // A film is there from the first look at it on.
    assert_eq!(chosen.len(), usize::from(!book.sheet().is_filmed()), "{key}: {} readings are chosen", chosen.len());
    let Some(chosen) = chosen.first() else { return };
    let table = book.state().record.tables.first();
    let first = table.and_then(|t| t.columns.iter().find(|c| c.kind == ColumnKind::Read)?.unit.clone());
    let meters = || book.sheet().card.meters.iter().filter(|m| book.sheet().meters.contains(&m.name));
    let suits = first.is_some_and(|unit| meters().any(|m| m.unit.same_dimension(&unit)));
    let what = chosen.get("data-reading");
    assert!(what == Some(if suits { "meter" } else { "split" }) || what == Some("meter"), "{key}: {what:?} is chosen");
    let shown = meters().map(|m| m.name).find(|name| chosen.get("data-name") == Some(name));
    assert_eq!(shown.is_some(), what == Some("meter"), "{key}");
}

#[tokio::test]
async fn every_control_of_the_bench_stands_for_an_edit() {
    let mut kinds = std::collections::BTreeSet::new();
    for (key, source) in SHIPPED_SHEETS {
        let c = crate::common::class(key, source);
        let logbook = c.store.open_logbook(c.member, c.lab).unwrap();
        let begun = c.store.load_logbook(logbook).unwrap().book;
        let app = |store| router(App::new(store).unwrap());
        // The empty one, and one in which there is something of everything.
        let page_of = async |app: axum::Router| {
            let request = Request::get(format!("/logbooks/{logbook}")).header(header::COOKIE, &c.cookies[1]);
            let answer = app.oneshot(request.body(Body::empty()).unwrap()).await.unwrap();
            String::from_utf8_lossy(&answer.into_body().collect().await.unwrap().to_bytes()).into_owned()
        };
        let page = page_of(app(zeitmass_store::Store::open(c.folder.path()).unwrap())).await;
        what_fills_the_table_is_chosen(key, &page, &begun);
        let mut found = edits(&page);
        crate::common::work(&c.store, logbook, c.member, &worked(&begun));
        found.extend(edits(&page_of(app(c.store)).await));
        assert!(found.len() > 40, "{key}: {} controls", found.len());
        kinds.extend(found.iter().map(|e| {
            let edit = serde_json::to_value(e).unwrap();
            edit.as_object().map_or(edit.to_string(), |o| {
                let (subject, inner) = o.iter().next().unwrap();
                let kind = inner.as_str().map(str::to_owned).or_else(|| inner.as_object()?.keys().next().cloned());
                format!("{subject} {}", kind.unwrap_or_default())
            })
        }));
    }
    assert!(kinds.len() >= 58, "{} kinds of edits: {kinds:?}", kinds.len());
}
