//! The stage and the graph come closer: by keys, by Ctrl and the wheel, by two fingers and by buttons. What is measured and marked stays what it was.

use std::time::Duration;

use fantoccini::actions::{
    Actions, InputSource, KeyAction, KeyActions, PointerAction, TouchActions, WheelAction, WheelActions,
};
use serde_json::json;

use crate::common::{Browser, Lab, drag};
use crate::films::{click_at, open_lab};

/// The view box of the stage: left, top, width and height.
async fn seen(browser: &Browser) -> [f64; 4] {
    let script = "return document.getElementById('stage').getAttribute('viewBox').split(' ').map(Number)";
    let all = browser.client.execute(script, vec![]).await.unwrap();
    [0, 1, 2, 3].map(|k| all[k].as_f64().unwrap())
}

/// Where the middle of an element is on the screen.
async fn middle(browser: &Browser, css: &str) -> (f64, f64) {
    let (x, y, width, height) = browser.rectangle(css).await;
    (x + width / 2.0, y + height / 2.0)
}

/// Turns the wheel with Ctrl held.
async fn wheel(browser: &Browser, (x, y): (f64, f64), by: i64) {
    let rest = Duration::from_millis(1);
    let keys = KeyActions::new("keys".to_owned())
        .then(KeyAction::Down { value: '\u{E009}' })
        .then(KeyAction::Pause { duration: rest })
        .then(KeyAction::Up { value: '\u{E009}' });
    let turn = WheelAction::Scroll { duration: None, x: x as i64, y: y as i64, delta_x: 0, delta_y: by };
    let wheel = WheelActions::new("wheel".to_owned()).then(WheelAction::Pause { duration: rest }).then(turn);
    browser.client.perform_actions(Actions::from(keys).and(wheel)).await.unwrap();
}

/// Two fingers that move apart or together about a place, from so far to so far, in px.
async fn pinch(browser: &Browser, (x, y): (f64, f64), [from, to]: [f64; 2]) {
    let finger = |name: &str, side: f64| {
        let at = |off: f64| PointerAction::MoveTo {
            duration: Some(Duration::from_millis(20)),
            x: (x + side * off).round(),
            y: y.round(),
        };
        TouchActions::new(name.to_owned())
            .then(at(from))
            .then(PointerAction::Down { button: 0 })
            .then(at(0.5 * (from + to)))
            .then(at(to))
            .then(PointerAction::Up { button: 0 })
    };
    browser.client.perform_actions(Actions::from(finger("one", -1.0)).and(finger("other", 1.0))).await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn stage_film_and_graph_come_closer_and_what_is_measured_stays() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    ruth.join(&lab.code(), "Ruth Anselm").await;
    ruth.lab("Tower pendulum").await;
    ruth.click(".spine a[data-step=measure]").await;
    ruth.until("document.getElementById('stage').getAttribute('viewBox') !== null").await;
    ruth.click("#run").await;
    ruth.until("Number(document.getElementById('stage').dataset.frame) > 2").await;
    ruth.click("#run").await;
    ruth.click("#tape-lay").await;
    let tape = ruth.until("document.getElementById('tape-value').textContent").await;
    let whole = seen(&ruth).await;
    // By keys and buttons, about the middle.
    ruth.keys("++").await;
    let near = seen(&ruth).await;
    assert!((whole[2] / near[2] - 2.25).abs() < 0.01 && near[0] > whole[0] && near[1] > whole[1], "{whole:?} {near:?}");
    ruth.until("document.getElementById('lens-power').textContent === '×2.3'").await;
    ruth.accessible("the stage from near").await;
    // By dragging, and no farther than its edge; a drag is no click and moves no frame.
    let frame = ruth.until("document.getElementById('stage').dataset.frame").await;
    drag(&ruth, "#plate", (60.0, 40.0), (-50.0, 30.0)).await;
    let moved = seen(&ruth).await;
    assert!(moved[0] > near[0] && moved[1] < near[1] && (moved[2] - near[2]).abs() < 1e-9, "{near:?} {moved:?}");
    drag(&ruth, "#plate", (-200.0, 40.0), (700.0, 0.0)).await;
    assert!((seen(&ruth).await[0] - whole[0]).abs() < 1e-9);
    assert_eq!(ruth.until("document.getElementById('stage').dataset.frame").await, frame);
    // By the wheel: what is under the pointer stays there.
    let (x, y) = middle(&ruth, "#plate").await;
    let under = format!(
        "const p = new DOMPoint({}, {}).matrixTransform(document.getElementById('stage').getScreenCTM().inverse()); return [p.x, p.y]",
        x - 80.0,
        y + 30.0
    );
    let before = ruth.client.execute(&under, vec![]).await.unwrap();
    wheel(&ruth, (x - 80.0, y + 30.0), -200).await;
    ruth.until("Number(document.getElementById('lens-power').textContent.slice(1)) > 2.5").await;
    let after = ruth.client.execute(&under, vec![]).await.unwrap();
    for k in 0..2 {
        assert!((before[k].as_f64().unwrap() - after[k].as_f64().unwrap()).abs() < 0.01, "{before} {after}");
    }
    assert_eq!(ruth.until("document.getElementById('tape-value').textContent").await, tape);
    ruth.click("#lens-power").await;
    assert_eq!(seen(&ruth).await, whole);
    // Two fingers come closer too.
    pinch(&ruth, (x, y), [40.0, 100.0]).await;
    ruth.until("Number(document.getElementById('lens-power').textContent.slice(1)) > 2").await;
    ruth.click("#lens-power").await;
    graph(&lab).await;
    film(&lab).await;
}

/// A bench that is loaded anew at a step stands still: what a person begins to read does not move away (layout shift, wanted below 0.05).
async fn loads_without_moving(browser: &Browser) {
    browser.client.refresh().await.unwrap();
    browser.bench().await;
    let watch = "window.moved = 0; new PerformanceObserver((all) => { for (const one of all.getEntries()) window.moved += one.value; }).observe({ type: 'layout-shift', buffered: true }); requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(() => (window.told = true))));";
    browser.client.execute(watch, vec![]).await.unwrap();
    browser.until("window.told === true").await;
    let moved = browser.client.execute("return window.moved", vec![]).await.unwrap().as_f64().unwrap();
    assert!(moved < 0.05, "{moved}");
}

/// The box with the line's figures goes to the next corner by a click, where a hand drags it, and stays there when the graph is drawn anew.
async fn card(browser: &Browser) {
    let at = "(b => [Math.round(b.x), Math.round(b.y)].join(' '))(document.querySelector('#part-graph .card').getBoundingClientRect())";
    let css = "#part-graph .card rect";
    let first = browser.until(at).await;
    let mut places = vec![first.clone()];
    for _ in 0..4 {
        let before = places.last().unwrap().clone();
        drag(browser, css, (0.0, 0.0), (0.0, 0.0)).await;
        browser.until(&format!("{at} !== {before}")).await;
        places.push(browser.until(at).await);
    }
    let corners: std::collections::BTreeSet<String> = places.iter().map(ToString::to_string).collect();
    assert!(corners.len() >= 4, "{places:?}");
    let before = browser.until(at).await;
    drag(browser, css, (0.0, 0.0), (-60.0, 40.0)).await;
    browser.until(&format!("{at} !== {before}")).await;
    let put = browser.until(at).await;
    let across = "document.querySelector('#part-graph .drawing svg[data-frame]').dataset.across";
    let drawn = browser.until(across).await;
    let seq = browser.seq().await;
    wheel(browser, middle(browser, "#part-graph .drawing svg[data-frame]").await, -100).await;
    browser.moved(seq).await;
    assert_eq!(browser.until(at).await, put);
    browser.click("[data-edit='\"undo\"']").await;
    browser.until(&format!("{across} === {drawn}")).await;
}

/// Each stop of the page, once it has the focus, is at least partly on top: no head that stays in sight covers it.
async fn nothing_hides_the_focus(browser: &Browser, step: &str) {
    let hidden = "
        const stops = [...document.querySelectorAll('a, button, input, select, summary, textarea, [tabindex]')].filter((e) =>
            e.tabIndex >= 0 && !e.disabled && e.type !== 'hidden' && e.checkVisibility() && !e.closest('dialog') && !e.matches('.skip'));
        const places = [[0.5, 0.5], [0.1, 0.5], [0.9, 0.5], [0.5, 0.1], [0.5, 0.9]];
        const covered = stops.filter((e) => {
            e.focus();
            const b = e.getBoundingClientRect();
            if (document.activeElement !== e || b.width === 0) return false;
            return places.every(([u, v]) => {
                const top = document.elementFromPoint(b.x + u * b.width, b.y + v * b.height);
                return !(top && (e.contains(top) || (top.contains(e) && top !== document.body)));
            });
        });
        return [stops.length, covered.map((e) => { e.focus(); const b = e.getBoundingClientRect(); const top = document.elementFromPoint(b.x + b.width / 2, b.y + b.height / 2); return `${e.outerHTML.slice(0, 90)} at ${Math.round(b.x)}, ${Math.round(b.y)} under ${top?.outerHTML.slice(0, 90)}`; })];";
    let told = browser.client.execute(hidden, vec![]).await.unwrap();
    assert!(told[0].as_u64().unwrap() > 30, "{step}: {told}");
    assert_eq!(told[1], json!([]), "{step}");
}

/// The graph of a logbook with data: the wheel comes closer where the pointer is, in one edit.
async fn graph(lab: &Lab) {
    let minna = lab.browser().await;
    minna.join(&lab.code(), "Minna Talhoff").await;
    minna.lab("2.1").await;
    minna.click(".spine a[data-step=graph]").await;
    loads_without_moving(&minna).await;
    // On a small screen too, whatever is tabbed to is seen.
    let frame = minna.client.execute("return window.outerHeight - window.innerHeight", vec![]).await.unwrap();
    minna.client.set_window_size(1024, 600 + frame.as_u64().unwrap() as u32).await.unwrap();
    for step in ["measure", "constant", "write-up", "graph"] {
        minna.click(&format!(".spine a[data-step={step}]")).await;
        nothing_hides_the_focus(&minna, step).await;
    }
    minna.client.set_window_size(1280, 800).await.unwrap();
    card(&minna).await;
    let across = "document.querySelector('#part-graph .drawing svg[data-frame]').dataset.across";
    let before = minna.until(across).await;
    let seq = minna.seq().await;
    let at = middle(&minna, "#part-graph .drawing svg[data-frame]").await;
    for _ in 0..3 {
        wheel(&minna, at, -150).await;
    }
    minna.until(&format!("{across} !== {before}")).await;
    minna.moved(seq).await;
    minna.click("[data-edit='\"undo\"']").await;
    minna.until(&format!("{across} === {before}")).await;
}

/// A film: marks fall where they are seen, two fingers leave none.
async fn film(lab: &Lab) {
    let ruth = open_lab(lab, "Veit Kettner", "Thrown ball").await;
    ruth.until("document.getElementById('stage').dataset.frame === '0'").await;
    ruth.fill("#add-trail [name=name]", "ball").await;
    ruth.click("#add-trail button").await;
    ruth.until("document.querySelectorAll('input[name=trail]').length === 1").await;
    let plate = middle(&ruth, "#plate").await;
    ruth.click("#marking").await;
    ruth.until("document.getElementById('marking').getAttribute('aria-pressed') === 'true'").await;
    pinch(&ruth, plate, [30.0, 110.0]).await;
    ruth.until("Number(document.getElementById('lens-power').textContent.slice(1)) > 3").await;
    assert_eq!(ruth.until("document.getElementById('stage').dataset.marks ?? '0'").await, json!("0"));
    // The canvas lies under the drawing, pixel for pixel.
    let off = "const c = document.getElementById('film'), b = c.getBoundingClientRect(), m = document.getElementById('stage').getScreenCTM(); const p = new DOMPoint(c.width, 0).matrixTransform(m); return [b.right - p.x, b.top - p.y]";
    let off = ruth.client.execute(off, vec![]).await.unwrap();
    assert!(off[0].as_f64().unwrap().abs() < 1.0 && off[1].as_f64().unwrap().abs() < 1.0, "{off}");
    let [x, y, width, height] = seen(&ruth).await;
    let place = [x + 0.4 * width, y + 0.4 * height];
    let seq = ruth.seq().await;
    click_at(&ruth, place).await;
    ruth.moved(seq).await;
    let mark = "return Object.values(JSON.parse(document.getElementById('part-stage').dataset.film).trails[0].marks)";
    let mark = ruth.client.execute(mark, vec![]).await.unwrap().to_string();
    let numbers: Vec<f64> =
        mark.split(|c: char| !c.is_ascii_digit() && c != '.').filter_map(|n| n.parse().ok()).collect();
    let near = |v: f64| numbers.iter().any(|n| (n - v).abs() < 0.4);
    assert!(near(place[0]) && near(place[1]), "{place:?}: {mark}");
}
