//! A sheet as a form and as a text in turn: nothing is lost, a change changes what it says and nothing else, and mistakes stand where they are.

use proptest::prelude::*;
use proptest::sample::{Index, select};
use zeitmass_core::lab::{AnsweredBy, Draft, DraftEdit, DraftRule, LabSheet, Text, Wrong, mistakes};
use zeitmass_core::rigs::SettingError;

use crate::common::{IsTold, shipped};

/// What the notation says, however it is laid out: front matter and body.
fn said(text: &str) -> (toml::Table, String) {
    let (front, body) = text.strip_prefix("+++\n").unwrap().split_once("\n+++\n").unwrap();
    (toml::from_str(front).unwrap_or_else(|e| panic!("{e}\n{front}")), body.to_owned())
}

/// Paths of all that is written on a sheet and can be filled in, with what the notation holds there.
fn leaves(value: &toml::Value, path: &str, found: &mut Vec<String>) {
    let below = |key: &str| if path.is_empty() { key.to_owned() } else { format!("{path}.{key}") };
    match value {
        toml::Value::Table(table) => table.iter().for_each(|(key, v)| leaves(v, &below(key), found)),
        toml::Value::Array(all) if all.iter().all(toml::Value::is_table) => {
            all.iter().enumerate().for_each(|(i, v)| leaves(v, &below(&i.to_string()), found));
        }
        _ => found.push(path.to_owned()),
    }
}

/// What the notation holds at a path.
fn at(tree: &toml::Table, path: &str) -> Option<toml::Value> {
    let mut value = toml::Value::Table(tree.clone());
    for step in path.split('.') {
        value = match (value, step.parse::<usize>()) {
            (toml::Value::Array(all), Ok(place)) => all.get(place)?.clone(),
            (value, _) => value.get(step)?.clone(),
        };
    }
    Some(value)
}

fn set(path: &str, value: &str) -> DraftEdit {
    DraftEdit::Set { path: path.to_owned(), value: value.to_owned() }
}

fn add(path: &str, kind: &str) -> DraftEdit {
    DraftEdit::Add { path: path.to_owned(), kind: kind.to_owned() }
}

#[test]
fn every_shipped_sheet_goes_through_the_form_and_back() {
    for (name, text) in shipped() {
        let draft = Draft::read(&text).unwrap_or_else(|e| panic!("{name}: {e:?}"));
        assert_eq!(draft.text(), text, "{name}");
        assert_eq!(mistakes(&text), [], "{name}");
        // Each field filled in with what it holds says the same.
        let mut found = Vec::new();
        leaves(&toml::Value::Table(said(&text).0), "", &mut found);
        let mut again = draft.clone();
        let mut filled = 0;
        for path in &found {
            // Names of questions are not filled in: answers belong to them. Parts of a setting are, one by one.
            let part = if path.starts_with("settings.") { format!("{path}.first") } else { path.clone() };
            if path.ends_with(".name") && path.starts_with("questions.")
                || path.ends_with("choices")
                || path.ends_with("levels")
            {
                continue;
            }
            let pairs = ["goal.beside.", "goal.with.", "goal.readings."].iter().any(|p| path.starts_with(p));
            let part = if pairs { part.split('.').take(2).collect::<Vec<_>>().join(".") } else { part };
            again.apply(&set(&part, &draft.value(&part))).unwrap_or_else(|e| panic!("{name}: {part}: {e:?}"));
            filled += 1;
        }
        for i in 0..draft.count("sections") {
            for part in ["heading", "from", "text"] {
                let path = format!("sections.{i}.{part}");
                again.apply(&set(&path, &draft.value(&path))).unwrap();
            }
        }
        assert!(filled > 15, "{name}: {filled}");
        for path in &found {
            assert_eq!(at(&said(&again.text()).0, path), at(&said(&text).0, path), "{name}: {path}");
        }
        assert_eq!(said(&again.text()).0, said(&text).0, "{name}");
        let (before, after) = (LabSheet::parse(&text).unwrap(), LabSheet::parse(&again.text()).unwrap());
        let trimmed = |sheet: &LabSheet| -> Vec<_> {
            sheet.sections.iter().map(|s| (s.heading.clone(), s.text.trim().to_owned(), s.from)).collect()
        };
        assert_eq!(trimmed(&before), trimmed(&after), "{name}");
        // Comments are part of what was written.
        let comments = |t: &str| t.lines().filter(|l| l.starts_with('#') && !l.starts_with("##")).count();
        assert_eq!(comments(&again.text()), comments(&text), "{name}");
    }
}

/// What somebody may do at the form, without looking.
#[derive(Clone, Debug)]
enum Deed {
    Fill(Index, String),
    Rule(Index, DraftRule),
    Section(Index, String),
    Add(&'static str, &'static str),
    Answer(Index, &'static str),
    Remove(&'static str, Index),
    Move(&'static str, Index, bool),
    Step(Index, &'static str),
}

fn deed() -> impl Strategy<Value = Deed> {
    let typed = prop_oneof![
        "[ -~]{0,40}",
        "[a-zäöüß“”−µ·\n\"'#=\\[\\]{}|\\\\$^]{0,40}",
        select(vec!["true", "3", "9.81 m/s^2", "[goal]", "''' \"\"\"", "a\n\nb", "+++", "## x", "= 1\n\r\n"])
            .prop_map(String::from),
    ];
    let lists = || {
        select(vec![
            "questions",
            "columns",
            "criteria",
            "sections",
            "forecast.curves",
            "expected",
            "questions.0.choices",
        ])
    };
    let steps = vec!["question", "measure", "graph", "linearize", "constant", "write-up"];
    prop_oneof![
        4 => (any::<Index>(), typed.clone()).prop_map(|(i, t)| Deed::Fill(i, t)),
        1 => (any::<Index>(), select(DraftRule::ALL)).prop_map(|(i, r)| Deed::Rule(i, r)),
        1 => (any::<Index>(), typed).prop_map(|(i, t)| Deed::Section(i, t)),
        2 => (select(vec!["questions", "columns", "criteria", "sections", "forecast", "forecast.curves", "forecast.hypothesis", "forecast.prediction", "conditions", "films"]), select(AnsweredBy::ALL.iter().map(|a| a.name()).collect::<Vec<_>>()))
            .prop_map(|(l, k)| Deed::Add(l, k)),
        1 => (any::<Index>(), select(AnsweredBy::ALL.iter().map(|a| a.name()).collect::<Vec<_>>())).prop_map(|(i, k)| Deed::Answer(i, k)),
        1 => (lists(), any::<Index>()).prop_map(|(l, i)| Deed::Remove(l, i)),
        2 => (lists(), any::<Index>(), any::<bool>()).prop_map(|(l, i, d)| Deed::Move(l, i, d)),
        1 => (any::<Index>(), select(steps)).prop_map(|(i, s)| Deed::Step(i, s)),
    ]
}

/// The tree with one leaf taken out, to compare all others.
fn but(mut tree: toml::Table, path: &str) -> toml::Table {
    fn take(value: &mut toml::Value, steps: &[&str]) {
        let [first, rest @ ..] = steps else { return };
        match (value, rest) {
            (toml::Value::Table(t), []) => {
                t.remove(*first);
            }
            (toml::Value::Table(t), rest) => {
                if let Some(v) = t.get_mut(*first) {
                    take(v, rest);
                }
            }
            (toml::Value::Array(a), rest) => {
                if let Some(v) = first.parse::<usize>().ok().and_then(|i| a.get_mut(i)) {
                    take(v, rest);
                }
            }
            _ => {}
        }
    }
    let steps: Vec<&str> = path.split('.').collect();
    let mut value = toml::Value::Table(std::mem::take(&mut tree));
    take(&mut value, &steps);
    value.as_table().unwrap().clone()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(if cfg!(debug_assertions) { 200 } else { 1000 }))]

    #[test]
    fn whatever_is_done_at_the_form_changes_what_it_says_and_nothing_else(sheet in any::<Index>(), deeds in prop::collection::vec(deed(), 1..12)) {
        let all = shipped();
        let mut draft = Draft::read(&sheet.get(&all).1).unwrap();
        for deed in deeds {
            let before = draft.text();
            let (tree, body) = said(&before);
            let mut found = Vec::new();
            leaves(&toml::Value::Table(tree.clone()), "", &mut found);
            match deed {
                Deed::Fill(i, typed) => {
                    let path = i.get(&found).clone();
                    if draft.apply(&set(&path, &typed)).is_ok() {
                        let (after, same) = said(&draft.text());
                        // One that moves to another step takes its place in the order of work.
                        if !path.ends_with(".at") {
                            prop_assert_eq!(but(after, &path), but(tree, &path), "{} = {:?}", path, typed);
                        }
                        prop_assert_eq!(same, body);
                        if !path.starts_with("settings.") && !path.ends_with(".at") && draft.has(&path) {
                            let lines = |t: &str| t.lines().map(str::trim).filter(|l| !l.is_empty()).map(String::from).collect::<Vec<_>>();
                            let typed = typed.replace("\r\n", "\n");
                            prop_assert_eq!(lines(&draft.value(&path)), lines(&typed), "{}", path);
                        }
                    }
                }
                Deed::Rule(i, rule) => {
                    let card = draft.card();
                    if card.settings.is_empty() { continue; }
                    let spec = i.get(&card.settings);
                    let name = rule.name();
                    let path = format!("settings.{}", spec.name);
                    if draft.apply(&set(&format!("{path}.rule"), name)).is_ok() {
                        prop_assert_eq!(draft.setting(spec.name).unwrap().rule, rule, "{:?}", draft.setting(spec.name));
                        prop_assert_eq!(but(said(&draft.text()).0, &path), but(tree, &path));
                    }
                }
                Deed::Section(i, typed) => {
                    let path = format!("sections.{}.text", i.index(draft.count("sections")));
                    let count = draft.count("sections");
                    if draft.apply(&set(&path, &typed)).is_ok() {
                        let (kept, typed) = (draft.value(&path), typed.replace("\r\n", "\n"));
                        prop_assert_eq!(kept.trim(), typed.trim());
                        prop_assert_eq!(draft.count("sections"), count);
                    }
                    prop_assert_eq!(said(&draft.text()).0, tree);
                }
                Deed::Add(list, kind) => {
                    let count = draft.count(list);
                    if draft.apply(&add(list, kind)).is_ok() && !matches!(list, "criteria" | "questions") && !list.starts_with("forecast") {
                        prop_assert_eq!(draft.count(list), count + 1);
                        draft.apply(&DraftEdit::Remove { path: format!("{list}.{count}") }).unwrap();
                        prop_assert_eq!(said(&draft.text()).0, tree);
                        draft.apply(&add(list, kind)).unwrap();
                    }
                }
                Deed::Answer(i, kind) => {
                    let count = draft.count("questions");
                    if count == 0 { continue; }
                    let i = i.index(count);
                    draft.apply(&set(&format!("questions.{i}.kind"), kind)).unwrap();
                    prop_assert_eq!(draft.answered_by(i).name(), kind);
                    draft.apply(&set(&format!("questions.{i}.kind"), kind)).unwrap();
                }
                Deed::Remove(list, i) => {
                    let count = draft.count(list);
                    if count == 0 { continue; }
                    let path = format!("{list}.{}", i.index(count));
                    if draft.apply(&DraftEdit::Remove { path }).is_ok() {
                        prop_assert_eq!(draft.count(list), count - 1);
                    }
                }
                Deed::Move(list, i, down) => {
                    let count = draft.count(list);
                    if count == 0 { continue; }
                    let place = i.index(count);
                    if draft.apply(&DraftEdit::Move { path: format!("{list}.{place}"), down }).is_ok() {
                        let back = if down { place + 1 } else { place - 1 };
                        prop_assert_eq!(draft.count(list), count);
                        let moved = draft.clone();
                        draft.apply(&DraftEdit::Move { path: format!("{list}.{back}"), down: !down }).unwrap();
                        prop_assert_eq!(said(&draft.text()).0, tree);
                        draft = moved;
                    }
                }
                Deed::Step(i, step) => {
                    let count = draft.count("questions");
                    if count == 0 { continue; }
                    let name = |d: &Draft, i: usize| d.value(&format!("questions.{i}.ask"));
                    let i = i.index(count);
                    let asked = name(&draft, i);
                    draft.apply(&set(&format!("questions.{i}.at"), step)).unwrap();
                    prop_assert_eq!(draft.count("questions"), count);
                    let there = (0..count).any(|k| name(&draft, k) == asked && draft.value(&format!("questions.{k}.at")) == step);
                    prop_assert!(there, "{} at {}", asked, step);
                }
            }
            // The text is read again as it was written, and telling what is wrong comes to an end.
            let text = draft.text();
            prop_assert_eq!(Draft::read(&text).unwrap().text(), text.clone());
            let wrong = mistakes(&text);
            prop_assert_eq!(wrong.is_empty(), LabSheet::parse(&text).is_ok());
            let lines = text.lines().count();
            prop_assert!(wrong.iter().all(|m| (1..=lines + 1).contains(&m.error.line)), "{:?}", wrong);
        }
    }
}

#[test]
fn mistakes_stand_at_their_fields_and_beside_each_other() {
    let (_, text) = shipped().into_iter().find(|(name, _)| name.starts_with("2.1-")).unwrap();
    let mut draft = Draft::read(&text).unwrap();
    draft.apply(&add("questions", "number")).unwrap();
    let last =
        (0..draft.count("questions")).find(|i| draft.value(&format!("questions.{i}.ask")) == "What is asked?").unwrap();
    let wrong: [(String, &str, IsTold); 5] = [
        ("title".to_owned(), "", |w| *w == Wrong::Length { of: Text::Title, most: 80 }),
        ("settings.gravity.first".to_owned(), "90 m/s^2", |w| {
            matches!(w, Wrong::Setting(SettingError::Outside { .. }))
        }),
        ("columns.0.symbol".to_owned(), "4", |w| *w == Wrong::NotASymbol("4".into())),
        (format!("questions.{last}.number.value"), "soon", |w| matches!(w, Wrong::Quantity(_))),
        ("goal.accepted".to_owned(), "heavy", |w| matches!(w, Wrong::Quantity(_))),
    ];
    for (path, value, _) in &wrong {
        draft.apply(&set(path, value)).unwrap();
    }
    let told = mistakes(&draft.text());
    let mut paths: Vec<&str> = told.iter().map(|m| m.path.as_str()).collect();
    paths.sort_unstable();
    let mut wanted = vec!["title", "settings.gravity", "columns.0.symbol", "goal.accepted"];
    let question = format!("questions.{last}.number");
    wanted.push(&question);
    wanted.sort_unstable();
    assert_eq!(paths, wanted, "{told:?}");
    for (path, _, is_told) in &wrong {
        assert!(told.iter().any(|m| path.starts_with(&m.path) && is_told(&m.error.wrong)), "{path}: {told:?}");
    }
    // Lines are those of the text as it is, whatever was left out to find the others.
    let text = draft.text();
    for mistake in &told {
        let key = mistake.path.rsplit('.').next().unwrap();
        let line = text.lines().nth(mistake.error.line - 1).unwrap();
        assert!(line.contains(key), "{key}: {line}");
    }
    // What is no notation is told with its line, and stays a text.
    let broken = text.replacen("trials = 6", "trials = = 6", 1);
    let line = broken.lines().position(|l| l.contains("= =")).unwrap() + 1;
    assert_eq!(Draft::read(&broken).unwrap_err().line, line);
    assert_eq!(mistakes(&broken)[0].error.line, line);
}

#[test]
fn a_sheet_with_dealt_springs_is_filled_in_without_the_notation() {
    let mut draft = Draft::read(&LabSheet::blank("spring").unwrap()).unwrap();
    let fill = [
        ("title", "Which spring"),
        ("unit", "Springs"),
        ("settings.stiffness.rule", "hidden-dealt"),
        ("settings.stiffness.first", "20 N/m"),
        ("settings.stiffness.second", "60 N/m"),
    ];
    for (path, value) in fill {
        draft.apply(&set(path, value)).unwrap_or_else(|e| panic!("{path}: {e:?}"));
    }
    for path in ["goal.accepted", "goal.source"] {
        draft.apply(&set(path, "")).unwrap();
    }
    let fill = [("goal.symbol", "k"), ("goal.name", "spring constant"), ("goal.key", "k"), ("goal.unit", "N/m")];
    for (path, value) in fill {
        draft.apply(&set(path, value)).unwrap();
    }
    draft.apply(&add("questions", "choices")).unwrap();
    for (path, value) in [
        ("at", "graph"),
        ("ask", "What does the slope of force against stretch tell?"),
        ("choices.0.text", "the stiffness"),
        ("choices.1.text", "the load"),
        ("choices.1.word", "The load is on an axis."),
    ] {
        draft.apply(&set(&format!("questions.0.{path}"), value)).unwrap();
    }
    draft.apply(&add("questions", "number")).unwrap();
    draft.apply(&set("questions.0.number.unit", "m")).unwrap();
    let text = draft.text();
    assert_eq!(mistakes(&text), [], "{text}");
    let sheet = LabSheet::parse(&text).unwrap();
    let rule = sheet.rule("stiffness").unwrap();
    assert!(rule.dealt.is_some() && sheet.goal.key.is_some() && sheet.questions.len() == 2, "{text}");
    assert!(sheet.questions[0].step <= sheet.questions[1].step);
}
