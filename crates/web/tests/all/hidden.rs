//! Hidden settings, unknown specimens and keys never leave the server: everything a student's browser can be sent is searched.

use std::collections::{BTreeMap, BTreeSet};
use std::io::{Cursor, Read};
use zeitmass_core::logbook::{Edit, ForecastEdit, Logbook, RunEdit};

use axum::Router;
use axum::body::Body;
use axum::http::{Request, header};
use http_body_util::BodyExt;
use serde_json::Value;
use tower::ServiceExt;
use zeitmass_core::inquiry::{CurvePick, Supposed};
use zeitmass_core::lab::Freedom;
use zeitmass_core::rigs::{Role, SettingValue};
use zeitmass_store::Store;
use zeitmass_web::{App, SHIPPED_SHEETS, router};

use crate::common::{CLASSMATE, MEMBER};

async fn get(app: &Router, path: &str, cookie: &str) -> String {
    let request = Request::get(path).header(header::COOKIE, cookie).body(Body::empty()).unwrap();
    let answer = app.clone().oneshot(request).await.unwrap();
    let body = answer.into_body().collect().await.unwrap().to_bytes().to_vec();
    let Ok(mut zip) = zip::ZipArchive::new(Cursor::new(body.clone())) else {
        return String::from_utf8_lossy(&body).into_owned();
    };
    let mut all = String::new();
    for i in 0..zip.len() {
        let mut file = Vec::new();
        zip.by_index(i).unwrap().read_to_end(&mut file).unwrap();
        all.push_str(&String::from_utf8_lossy(&file));
    }
    all
}

/// Whether a number stands in a text by itself, not as a part of a longer one.
fn has_number(text: &str, number: &str) -> bool {
    let digit = |c: Option<char>| c.is_some_and(|c| c.is_ascii_digit() || c == '.');
    text.match_indices(number)
        .any(|(i, _)| !digit(text[..i].chars().next_back()) && !digit(text[i + number.len()..].chars().next()))
}

/// Whatever the sheet wants before the first run, then runs of everything that is hidden.
fn work(book: &Logbook) -> Vec<Edit> {
    let sheet = book.sheet();
    let mut edits = Vec::new();
    if let Some(plan) = &sheet.forecast {
        for curve in &plan.curves {
            let middle = 0.5 * (curve.ends[0] + curve.ends[1]);
            let points = vec![[0.0, middle], [plan.duration, middle]];
            edits.push(Edit::Forecast(ForecastEdit::Sketch { channel: curve.channel.to_owned(), points }));
        }
        if let Some(wanted) = &plan.hypothesis {
            let (cause, effect) = (wanted.causes[0].clone(), wanted.effects[0].clone());
            let (curve, reason) = (CurvePick::RisesStraight, "we think so".to_owned());
            edits.push(Edit::Forecast(ForecastEdit::Suppose { hypothesis: Supposed { cause, effect, curve, reason } }));
        }
        if let Some(wanted) = &plan.prediction {
            edits.push(Edit::Forecast(ForecastEdit::Predict { typed: format!("3 {}", wanted.unit) }));
        }
    }
    for (name, unknown) in [("spring", "specimen"), ("world", "unknown")] {
        if book.rule(name).is_some_and(|r| r.freedom == Freedom::Free) {
            edits.push(Edit::Run(RunEdit::SetSetting { name: name.to_owned(), typed: unknown.to_owned() }));
        }
    }
    edits.push(Edit::Run(RunEdit::Run));
    let time: Vec<&str> = sheet.card.channel_of(Role::Time).iter().map(|c| c.name).collect();
    let recordable = sheet.recordable.iter().filter(|c| !time.contains(c)).map(|c| (*c).to_owned()).collect::<Vec<_>>();
    if !recordable.is_empty() {
        edits.push(Edit::Run(RunEdit::Record { channels: recordable, from: 0, to: 40, every: 4, into: None }));
    }
    edits
}

/// A hidden setting with the digits it must not be found by.
type Secret = (String, String);

/// The hidden settings of a logbook: in their own unit with the last digit, and as the program computes with them. What the sheet's
/// text says itself is no secret.
fn secrets(book: &Logbook) -> Vec<Secret> {
    let sheet = book.sheet();
    let mut public: String = sheet.sections.iter().map(|s| s.text.as_str()).collect();
    public.extend(sheet.goal.accepted.iter().map(|(number, _)| format!(" {} ", number.pretty())));
    let hidden = book.rules().iter().filter(|r| r.freedom == Freedom::Hidden);
    let digits = hidden.filter_map(|r| match &r.value {
        SettingValue::Quantity(number, unit) => {
            let si = (number.value() * unit.size()).to_string();
            Some([number.pretty(), si].map(|digits| (r.name.to_owned(), digits)))
        }
        _ => None,
    });
    let long = |digits: &str| digits.chars().filter(char::is_ascii_digit).count() >= 3;
    digits.flatten().filter(|(_, digits)| long(digits) && !has_number(&public, digits)).collect()
}

/// Everything of a logbook that can be asked for.
fn addresses(book: &Logbook, logbook: i64) -> Vec<String> {
    let base = format!("/logbooks/{logbook}");
    let plain = [
        "",
        "/setup",
        "/runs/1",
        "/write-up",
        "/write-up.docx",
        "/logbook.zip",
        "/columns/1/simulation",
        "/runs/1/pictures/40.svg",
    ];
    let mut paths: Vec<String> = plain.into_iter().map(|p| format!("{base}{p}")).collect();
    paths.extend(book.state().record.tables.iter().map(|t| format!("{base}/tables/{}.csv", t.id)));
    let card = &book.sheet().card;
    paths.extend(card.arrows.iter().map(|a| format!("{base}/runs/1/arrows/{}", a.name.replace(' ', "%20"))));
    let all: Vec<String> = card.channels.iter().map(|c| c.name.replace(' ', "%20")).collect();
    paths.extend(all.iter().map(|c| format!("{base}/runs/1?curves={c}")));
    for frame in [0, 40] {
        paths.push(format!("{base}/runs/1/meters/{frame}"));
        paths.push(format!("{base}/moment?run=1&frame={frame}&mass=0.5%20kg"));
        paths.push(format!("{base}/moment?run=1&frame={frame}&mass=0.5%20kg&second=true"));
    }
    paths
}

#[tokio::test]
async fn nothing_a_browser_gets_holds_a_hidden_value() {
    let mut searched = 0;
    for (key, source) in SHIPPED_SHEETS {
        let c = crate::common::class(key, source);
        let mut books = Vec::new();
        for student in [c.member, c.classmate] {
            let logbook = c.store.open_logbook(student, c.lab).unwrap();
            let book = c.store.load_logbook(logbook).unwrap().book;
            let edits = if book.sheet().is_filmed() { Vec::new() } else { work(&book) };
            let book = crate::common::work(&c.store, logbook, student, &edits);
            books.push((logbook, book));
        }
        if secrets(&books[0].1).is_empty() {
            continue;
        }
        let dealt = books[0].1.rules().iter().any(|r| r.freedom == Freedom::Hidden && r.dealt.is_some());
        assert!(!dealt || secrets(&books[0].1) != secrets(&books[1].1), "{key}: both have the same values by chance");
        let app = router(App::new(c.store).unwrap());
        let [teacher, member, classmate, _] = &c.cookies;
        // Where a value is given away, it is for everybody; a number that is met by chance is not.
        let mut found: Vec<BTreeSet<(usize, String)>> = Vec::new();
        for ((logbook, book), cookie) in books.iter().zip([member, classmate]) {
            let mut leaks = BTreeSet::new();
            for (k, path) in addresses(book, *logbook).iter().enumerate() {
                let body = get(&app, path, cookie).await;
                let told = secrets(book).into_iter().filter(|(_, digits)| has_number(&body, digits));
                leaks.extend(told.map(|(name, _)| (k, name)));
                assert!(!body.contains("Key for the teacher"), "{key}: {path} shows the key");
                searched += 1;
            }
            found.push(leaks);
            // Places that depend on it are given to a tenth of a millimetre, arrows to two figures.
            let base = format!("/logbooks/{logbook}");
            for path in [format!("{base}/setup"), format!("{base}/runs/1")] {
                let footage: Value = serde_json::from_str(&get(&app, &path, cookie).await).unwrap();
                numbers(&footage["scene"]["shapes"], &mut |v| {
                    assert!((v * 1e4 - (v * 1e4).round()).abs() < 1e-6, "{key}: {path} has a place {v}");
                });
            }
            for arrow in &book.sheet().arrows {
                let body = get(&app, &format!("{base}/runs/1/arrows/{}", arrow.replace(' ', "%20")), cookie).await;
                let longest = serde_json::from_str::<Value>(&body).unwrap()["longest"].as_f64().unwrap();
                let two = format!("{longest:.1e}").parse::<f64>().unwrap();
                assert!((two - longest).abs() < 1e-9 * longest, "{key}: {arrow} {longest}");
            }
            // The search finds what is there: the teacher's page has the key and what was dealt.
            let page = get(&app, &base, teacher).await;
            assert!(
                page.contains("Key for the teacher") && secrets(book).iter().any(|(_, d)| has_number(&page, d)),
                "{key}"
            );
        }
        let both: Vec<_> = found[0].intersection(&found[1]).collect();
        let paths = addresses(&books[0].1, books[0].0);
        assert!(both.is_empty(), "{key}: {:?}", both.iter().map(|(k, name)| (&paths[*k], name)).collect::<Vec<_>>());
    }
    assert!(searched > 300, "{searched}");
}

/// Calls for every number in a value.
fn numbers(value: &Value, call: &mut impl FnMut(f64)) {
    match value {
        Value::Number(n) => call(n.as_f64().unwrap()),
        Value::Array(all) => all.iter().for_each(|v| numbers(v, call)),
        Value::Object(all) => all.values().for_each(|v| numbers(v, call)),
        _ => {}
    }
}

/// What a student gets who sets the spring balance up with one load after the other, as a page does, and runs nothing: the places of the
/// pointer, and the best line through them.
#[tokio::test]
async fn set_ups_that_nobody_ran_do_not_tell_a_spring_better_than_the_scale() {
    let (key, sheet) = SHIPPED_SHEETS.into_iter().find(|(key, _)| key.starts_with("5.4-")).unwrap();
    let mut squares = 0.0;
    for _ in 0..6 {
        let mut t = crate::common::served(key, sheet);
        // Dealt by chance, as a class is: the classmate's own logbook in the same folder.
        let store = Store::open(t.folder.path()).unwrap();
        t.logbook = store.open_logbook(t.classmate, t.lab).unwrap();
        t.router = router(App::new(store).unwrap());
        let truth = t.stored();
        let stiffness = truth.rule("stiffness").unwrap().value.clone();
        let SettingValue::Quantity(number, unit) = stiffness else { panic!("a number") };
        let stiffness = number.value() * unit.size();
        let (mut loads, mut places) = (Vec::new(), Vec::new());
        for k in 0..28 {
            let load = 0.05 + 0.01 * f64::from(k);
            let typed = format!("{:.0}", 1000.0 * load);
            let set = serde_json::json!({ "run": { "set_setting": { "name": "load", "typed": typed } } });
            let (status, outcome) = t.edit(CLASSMATE, &set).await;
            assert!(status.is_success(), "{outcome}");
            let (_, text) = t.ask("GET", "/setup", CLASSMATE, "").await;
            let footage: Value = serde_json::from_str(&text).unwrap();
            let packed = &footage["channels"]["y"];
            places.push(packed["step"].as_f64().unwrap() * packed["values"][0].as_f64().unwrap());
            loads.push(load);
        }
        let mean = |v: &[f64]| v.iter().sum::<f64>() / v.len() as f64;
        let (mx, my) = (mean(&loads), mean(&places));
        let sxy: f64 = loads.iter().zip(&places).map(|(x, y)| (x - mx) * (y - my)).sum();
        let sxx: f64 = loads.iter().map(|x| (x - mx).powi(2)).sum();
        let found = 9.81 / (sxy / sxx).abs();
        squares += (found / stiffness - 1.0).powi(2) / 6.0;
    }
    // A third of the key's tolerance, 0.08 N/m in 25.6, is one part in a thousand.
    let error = squares.sqrt();
    assert!(error > 1e-3, "the spring constant is found to {error:.1e} of itself");
}

/// What a browser gets of a logbook with one run, meters apart: places of every channel, curve and arrow, and the numbers of the scene, each with
/// the step it is sent in.
async fn received(app: &Router, logbook: i64, book: &Logbook, cookie: &str) -> BTreeMap<String, (f64, Vec<f64>)> {
    let base = format!("/logbooks/{logbook}");
    let card = &book.sheet().card;
    let mut all = BTreeMap::new();
    let curves = card.channels.iter().map(|c| format!("{base}/runs/1?curves={}", c.name.replace(' ', "%20")));
    for path in curves.chain([format!("{base}/runs/1"), format!("{base}/setup")]) {
        let footage: Value = serde_json::from_str(&get(app, &path, cookie).await).unwrap();
        let kind = if path.ends_with("setup") { "setup" } else { "run" };
        for (name, packed) in footage["channels"].as_object().unwrap() {
            let step = packed["step"].as_f64().unwrap();
            all.insert(format!("{kind} {name}"), (step, unpacked(packed)));
        }
        let mut drawn = Vec::new();
        numbers(&footage["scene"], &mut |v| drawn.push(v));
        all.insert(format!("{kind} scene"), (1e-4, drawn));
    }
    for arrow in &book.sheet().arrows {
        let path = format!("{base}/runs/1/arrows/{}", arrow.replace(' ', "%20"));
        let sent: Value = serde_json::from_str(&get(app, &path, cookie).await).unwrap();
        for part in ["x", "y", "foot_x", "foot_y"] {
            // What is drawn to a hundredth of the longest is compared on its scale.
            let step = sent[part]["step"].as_f64().unwrap();
            all.insert(format!("arrow {arrow} {part}"), (step, unpacked(&sent[part])));
        }
    }
    all
}

/// What the page makes of a packed channel.
fn unpacked(packed: &Value) -> Vec<f64> {
    let step = packed["step"].as_f64().unwrap();
    let (mut value, mut rise) = (0, 0);
    let steps = packed["values"].as_array().unwrap().iter().enumerate().map(|(i, v)| {
        let v = v.as_i64().unwrap();
        match i {
            0 => value = v,
            _ => {
                rise = if i == 1 { v } else { rise + v };
                value += rise;
            }
        }
        value as f64 * step
    });
    steps.collect()
}

/// The sheet with values in place of what is hidden or dealt: what somebody who knows the program works with at home.
fn with_values(source: &str, book: &Logbook, other: Option<(&str, f64)>) -> String {
    // Where nothing is dealt any more there is nothing to deal again.
    let lines = source.lines().filter(|line| !line.starts_with("deals = ")).map(|line| {
        let Some((name, _)) = line.split_once('=') else { return line.to_owned() };
        let name = name.trim().trim_matches('"');
        let Some(rule) = book.rule(name) else { return line.to_owned() };
        let SettingValue::Quantity(number, unit) = &rule.value else { return line.to_owned() };
        if rule.freedom != Freedom::Hidden && rule.dealt.is_none() || !line.contains("= \"") {
            return line.to_owned();
        }
        let (mut value, step) = (number.value(), number.last_digit());
        if let Some((_, steps)) = other.filter(|(n, _)| *n == name) {
            value += steps * step;
        }
        let digits = (-step.log10()).round().max(0.0) as usize;
        format!("\"{name}\" = \"fixed {value:.digits$} {}\"", unit.pretty().replace('\u{A0}', " "))
    });
    lines.collect::<Vec<_>>().join("\n")
}

/// The best linear estimate of how far the unknowns are from where they are thought to be: least squares over everything, each number with the
/// weight its step gives it. `slopes` has what changes with each unknown.
fn least_squares(rest: &[(f64, f64)], slopes: &[Vec<f64>]) -> Vec<f64> {
    let k = slopes.len();
    let mut m = vec![vec![0.0; k + 1]; k];
    for (i, (off, step)) in rest.iter().enumerate() {
        for a in 0..k {
            for b in 0..k {
                m[a][b] += slopes[a][i] * slopes[b][i] / (step * step);
            }
            m[a][k] += slopes[a][i] * off / (step * step);
        }
    }
    for a in 0..k {
        // What nothing depends on stays where it is thought to be.
        if m[a][a] == 0.0 {
            m[a][a] = 1.0;
        }
        for b in 0..k {
            if b != a {
                let f = m[b][a] / m[a][a];
                (0..=k).for_each(|c| m[b][c] -= f * m[a][c]);
            }
        }
    }
    (0..k).map(|a| m[a][k] / m[a][a]).collect()
}

/// One logbook more of a class: a sheet of its own with one run in it.
fn one_more(c: &crate::common::Class, key: &str, source: &str) -> (i64, Logbook) {
    c.store.load_shipped(key, source).unwrap();
    let sheet = c.store.sheets(c.owner).unwrap().into_iter().map(|s| s.id).max().unwrap();
    c.store.assign(c.owner, c.class, sheet).unwrap();
    let lab = c.store.assignments(c.class).unwrap().into_iter().map(|l| l.id).max().unwrap();
    let logbook = c.store.open_logbook(c.member, lab).unwrap();
    let book = c.store.load_logbook(logbook).unwrap().book;
    let mut edits = work(&book);
    // As the constant is found: with the specimen, on the world, of the liquid that is not known.
    for (name, value) in &book.sheet().goal.with {
        if book.rule(name).is_some_and(|r| r.freedom == Freedom::Free) {
            let typed = value.pretty().replace('\u{A0}', " ");
            edits.insert(0, Edit::Run(RunEdit::SetSetting { name: (*name).to_owned(), typed }));
        }
    }
    if book.sheet().number.to_string() == "5.4" {
        edits.insert(0, Edit::Run(RunEdit::SetSetting { name: "load".to_owned(), typed: "200".to_owned() }));
    }
    (logbook, crate::common::work(&c.store, logbook, c.member, &edits))
}

/// Logbooks each lab is tried with.
const TRIED: usize = 7;

/// What the best estimate leaves open in one lab, in words; the squares of how far off it is, in careful trials, and how many they are. None where
/// nothing is hidden that a run could tell.
async fn estimated(key: &'static str, source: &'static str) -> Option<(String, f64, u32)> {
    let c = crate::common::class(key, source);
    let probe = c.store.load_logbook(c.store.open_logbook(c.classmate, c.lab).unwrap()).unwrap().book;
    let hidden =
        |b: &Logbook| b.rules().iter().filter(|r| r.freedom == Freedom::Hidden).map(|r| r.name).collect::<Vec<_>>();
    if probe.sheet().is_filmed() || probe.key().is_none() || hidden(&probe).is_empty() || probe.sheet().goal.one_motion
    {
        return None;
    }
    let mut cases = Vec::new();
    for i in 0..TRIED {
        let (logbook, book) = one_more(&c, &format!("own {i}"), source);
        let home = |name: &str, other| {
            let text = with_values(source, &book, other);
            one_more(&c, &format!("home {i} {name}"), &text)
        };
        let middle = home("", None);
        let around = hidden(&book).into_iter().map(|name| {
            // A step of the setting: over a minute of swings, more would be another swing.
            let [low, high] = [-1.0, 1.0].map(|s| home(&format!("{name} {s}"), Some((name, s))));
            (low, high)
        });
        let around: Vec<_> = around.collect();
        cases.push(((logbook, book), middle, around));
    }
    let cookie = c.cookies[1].clone();
    let app = router(App::new(c.store).unwrap());
    let (mut squares, mut silent, mut all, mut count) = (0.0, 0, 0.0, 0);
    for ((logbook, book), middle, around) in &cases {
        let got = received(&app, *logbook, book, &cookie).await;
        let thought = received(&app, middle.0, &middle.1, &cookie).await;
        let mut sides = Vec::new();
        for (low, high) in around {
            sides.push((received(&app, low.0, &low.1, &cookie).await, received(&app, high.0, &high.1, &cookie).await));
        }
        let (mut rest, mut slopes) = (Vec::new(), vec![Vec::new(); sides.len()]);
        for (name, (step, values)) in &got {
            let lists: Vec<&Vec<f64>> =
                [&thought].into_iter().chain(sides.iter().flat_map(|(l, h)| [l, h])).map(|r| &r[name].1).collect();
            let long = lists.iter().map(|l| l.len()).min().unwrap().min(values.len());
            for i in 0..long {
                rest.push((values[i] - lists[0][i], *step));
                for (k, slope) in slopes.iter_mut().enumerate() {
                    slope.push((lists[2 + 2 * k][i] - lists[1 + 2 * k][i]) / 2.0);
                }
            }
        }
        // Where nothing that is sent depends on what is hidden, there is nothing to learn.
        if slopes.iter().flatten().all(|s| *s == 0.0) {
            silent += 1;
            continue;
        }
        let found = least_squares(&rest, &slopes);
        let constant = |b: &Logbook| b.key().unwrap().value;
        let off: f64 = found.iter().zip(around).map(|(f, (l, h))| f * (constant(&h.1) - constant(&l.1)) / 2.0).sum();
        let trial = book.key().unwrap().tolerance.unwrap() / 3.0;
        squares += (off / trial).powi(2) / TRIED as f64;
        (all, count) = (all + (off / trial).powi(2), count + 1);
    }
    let told = format!("{key}: {:.2} of what one careful trial leaves open", squares.sqrt());
    assert!(silent == TRIED || silent == 0 && squares.sqrt() > 0.6, "{told}");
    Some((told, all, count))
}

/// The rule: whoever knows the program and everything that was sent of a run but the meters, and fits it with all the art there is, knows the
/// constant no better than one careful trial with the sheet's instruments, which is a third of the key's tolerance.
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn the_best_estimate_from_everything_sent_is_no_better_than_one_careful_trial() {
    // Half of the labs each: it is by far the longest of these tests.
    let half = |which: usize| async move {
        let mut found = Vec::new();
        for (key, source) in SHIPPED_SHEETS.into_iter().skip(which).step_by(2) {
            found.extend(estimated(key, source).await);
        }
        found
    };
    let (one, other) = tokio::join!(tokio::spawn(half(0)), tokio::spawn(half(1)));
    let found: Vec<_> = one.unwrap().into_iter().chain(other.unwrap()).collect();
    let (all, count) = found.iter().fold((0.0, 0), |(all, count), (_, a, n)| (all + a, count + n));
    let told: Vec<&str> = found.iter().map(|(told, ..)| told.as_str()).collect();
    let rms = (all / f64::from(count)).sqrt();
    assert!(count >= 80 && rms > 1.0, "{rms}:\n{}", told.join("\n"));
}

/// A known world's error cannot be subtracted from an unknown one's, and no run shows the same motion twice.
#[tokio::test]
async fn a_run_that_is_made_anew_errs_anew() {
    let (key, sheet) = SHIPPED_SHEETS.into_iter().find(|(key, _)| key.starts_with("5.3-")).unwrap();
    let t = crate::common::served(key, sheet);
    let suppose = work(&t.stored());
    for edit in &suppose[..1] {
        assert!(t.edit(MEMBER, &serde_json::to_value(edit).unwrap()).await.0.is_success());
    }
    let (mut meters, mut motions) = (BTreeSet::new(), BTreeSet::new());
    for world in ["Earth", "Earth", "unknown", "unknown", "unknown"] {
        let set = serde_json::json!({ "run": { "set_setting": { "name": "world", "typed": world } } });
        assert!(t.edit(MEMBER, &set).await.0.is_success());
        for _ in 0..4 {
            assert!(t.edit(MEMBER, &serde_json::json!({ "run": "run" })).await.0.is_success());
            meters.insert(t.ask("GET", "/runs/1/meters/0", MEMBER, "").await.1);
            if world == "unknown" {
                motions.insert(t.ask("GET", "/runs/1", MEMBER, "").await.1);
            }
            assert!(t.edit(MEMBER, &serde_json::json!("undo")).await.0.is_success());
        }
    }
    assert!(meters.len() > 12 && motions.len() == 12, "{} {}", meters.len(), motions.len());
}
