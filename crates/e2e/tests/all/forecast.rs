//! Forecast first: curves sketched, hypothesis and prediction made before the run, by mouse and by keyboard, and held against
//! what came out.

use std::time::Duration;

use crate::common::{Browser, Lab, drag, drag_steps, key};
use fantoccini::actions::{InputSource, KeyAction, KeyActions, MouseActions, PointerAction, TouchActions};
use fantoccini::key::Key;
use serde_json::json;

/// Where a straight part of a sketch begins on its axes, from their middle, and how far it goes, in px.
async fn stroke(browser: &Browser, channel: &str, from: (f64, f64), to: (f64, f64)) -> (String, [(f64, f64); 2]) {
    let css = format!("[data-sketch={channel}] svg");
    browser.find(&css).await;
    let script = format!(
        "(s => {{ s.scrollIntoView({{ block: 'center' }}); const d = s.dataset; const [l, r, t, b] = d.plot.split(',').map(Number); \
         return [l, r, t, b, Number(d.low), Number(d.high), Number(d.duration)]; }})(document.querySelector('{css}'))"
    );
    let d: Vec<f64> = serde_json::from_value(browser.until(&script).await).unwrap();
    let (_, _, width, height) = browser.rectangle(&css).await;
    // The drawing's own 640 by 300 units, from its middle.
    let place = |(t, v): (f64, f64)| {
        let x = d[0] + t / d[6] * (d[1] - d[0]);
        let y = d[3] - (v - d[4]) / (d[5] - d[4]) * (d[3] - d[2]);
        ((x / 640.0 - 0.5) * width, (y / 300.0 - 0.5) * height)
    };
    let (a, b) = (place(from), place(to));
    (css, [a, (b.0 - a.0, b.1 - a.1)])
}

/// Draws a straight part of a sketch with the mouse, from one point (t, value) to another.
async fn sketch(browser: &Browser, channel: &str, from: (f64, f64), to: (f64, f64)) {
    let (css, [begin, by]) = stroke(browser, channel, from, to).await;
    let seq = browser.seq().await;
    drag(browser, &css, begin, by).await;
    browser.moved(seq).await;
}

/// The same with a finger.
async fn sketch_by_finger(browser: &Browser, channel: &str, from: (f64, f64), to: (f64, f64)) {
    let (css, [begin, by]) = stroke(browser, channel, from, to).await;
    let seq = browser.seq().await;
    let steps = drag_steps(browser, &css, begin, by).await;
    let finger = steps.into_iter().fold(TouchActions::new("finger".to_owned()), InputSource::then);
    browser.client.perform_actions(finger).await.unwrap();
    browser.moved(seq).await;
}

async fn points(browser: &Browser, channel: &str) -> String {
    let kept = format!("document.querySelector('[data-sketch={channel}]').dataset.points");
    let points = browser.until(&format!("{kept} !== '[]' && {kept}")).await;
    points.as_str().unwrap().to_owned()
}

/// A run is stopped, changed and gone on with; its past stays as it was.
async fn stopped_and_gone_on(ruth: &Browser) {
    // Stopped, changed, gone on: the same run, with its past unchanged.
    ruth.click(".spine a[data-step=measure]").await;
    for (field, value) in
        [("duration 2", ""), ("velocity 2", ""), ("duration 3", ""), ("velocity 3", ""), ("duration 1", "")]
    {
        let seq = ruth.seq().await;
        ruth.fill(&format!("[id='setting-{field}']"), &format!("{value}{}{}", key(Key::Backspace), key(Key::Enter)))
            .await;
        ruth.moved(seq).await;
    }
    ruth.click("#run").await;
    ruth.until("document.getElementById('stage').dataset.run === '2' && Number(document.getElementById('stage').dataset.frame) > 30").await;
    ruth.click("#stop-here").await;
    ruth.until("document.querySelector(\"[id='setting-duration 1']\").value !== ''").await;
    let seq = ruth.seq().await;
    ruth.fill("[id='setting-velocity 2']", "-1.2\n").await;
    ruth.moved(seq).await;
    ruth.click("#go-on").await;
    ruth.until("!document.getElementById('go-on') && document.querySelectorAll('.runs li').length === 2").await;
    ruth.until("Number(document.getElementById('stage').dataset.frame) > 60").await;
    ruth.click("#run").await;
    // Both runs beside each other.
    ruth.click(".compared summary").await;
    assert!(ruth.text(".compared table").await.contains("velocity 2"));
}

/// Pulled by mouse, finger and keys, and recorded as it was.
async fn pulled_by_hand(ruth: &Browser) {
    // Pulled by hand: shaky, and recorded as it was.
    ruth.click("#pull").await;
    let mut hand = MouseActions::new("hand".to_owned());
    for step in drag_steps(ruth, "#plate", (-60.0, 10.0), (160.0, 0.0)).await {
        // A pull that is seen: a quarter of a second for each part of the way.
        hand = hand.then(match step {
            PointerAction::MoveTo { x, y, .. } => {
                PointerAction::MoveTo { duration: Some(Duration::from_millis(250)), x, y }
            }
            other => other,
        });
    }
    ruth.client.perform_actions(hand).await.unwrap();
    ruth.until("document.querySelector('.runs li')?.innerText.includes('pulled by hand')").await;
    ruth.until("document.getElementById('stage').dataset.run === '3'").await;
    // With one finger, and with held arrow keys: there, and half the way back.
    ruth.click("#pull").await;
    let mut finger = TouchActions::new("finger".to_owned());
    for step in drag_steps(ruth, "#plate", (40.0, 10.0), (-120.0, 0.0)).await {
        finger = finger.then(match step {
            PointerAction::MoveTo { x, y, .. } => {
                PointerAction::MoveTo { duration: Some(Duration::from_millis(120)), x, y }
            }
            other => other,
        });
    }
    ruth.client.perform_actions(finger).await.unwrap();
    ruth.until("document.getElementById('stage').dataset.run === '4'").await;
    ruth.click("#pull").await;
    let held = |millis| KeyAction::Pause { duration: Duration::from_millis(millis) };
    let (right, left) = (Key::Right.into(), Key::Left.into());
    let keys = KeyActions::new("keys".to_owned())
        .then(KeyAction::Down { value: right })
        .then(held(600))
        .then(KeyAction::Up { value: right })
        .then(held(200))
        .then(KeyAction::Down { value: left })
        .then(held(300))
        .then(KeyAction::Up { value: left })
        .then(KeyAction::Down { value: Key::Enter.into() })
        .then(KeyAction::Up { value: Key::Enter.into() });
    ruth.client.perform_actions(keys).await.unwrap();
    ruth.until("document.getElementById('stage').dataset.run === '5'").await;
    let path = "import('/assets/any/js/scene.js').then(m => m.fetchFootage(location.pathname + '/runs/5')).then(r => { const x = [...r.channels.x]; \
                window.pulled = [x[0], Math.max(...x), x.at(-1)].join(' '); })";
    ruth.client.execute(path, vec![]).await.unwrap();
    let pulled = ruth.until("window.pulled").await;
    let [start, top, end] =
        pulled.as_str().unwrap().split(' ').map(|v| v.parse::<f64>().unwrap()).collect::<Vec<_>>()[..]
    else {
        panic!("{pulled}")
    };
    assert!(start < end && end < top && top - start > 0.3, "right, then half the way back: {pulled}");
}

#[tokio::test(flavor = "multi_thread")]
async fn three_stories_are_sketched_run_and_compared_with_the_mouse() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    ruth.join(&lab.code(), "Ruth Anselm").await;
    ruth.lab("Three stories").await;

    // The run waits, and says for what.
    ruth.click(".spine a[data-step=measure]").await;
    ruth.until("document.getElementById('run').disabled").await;
    assert!(ruth.text("#part-stage").await.contains("the sketch of the position and the sketch of the velocity"));
    ruth.click("#part-stage a[data-step=forecast]").await;
    ruth.until("document.querySelector('.desk').dataset.step === 'forecast'").await;
    ruth.accessible("empty axes for a forecast").await;
    sketch(&ruth, "x", (0.0, 0.1), (4.1, 2.3)).await;
    sketch(&ruth, "x", (4.1, 2.3), (7.0, 2.3)).await;
    sketch(&ruth, "x", (7.0, 2.3), (9.2, -1.5)).await;
    ruth.until("document.getElementById('told-x')?.innerText.includes('rising, then level, then falling')").await;
    // The velocity is drawn without the rest in the middle.
    sketch(&ruth, "v", (0.0, 0.6), (6.9, 0.6)).await;
    sketch_by_finger(&ruth, "v", (7.1, -1.4), (9.2, -1.4)).await;
    let drawn = [points(&ruth, "x").await, points(&ruth, "v").await];

    ruth.click(".spine a[data-step=measure]").await;
    ruth.until("!document.getElementById('run').disabled").await;
    ruth.click("#run").await;
    ruth.until("document.getElementById('stage').dataset.playing === 'true'").await;
    ruth.until("Number(document.getElementById('stage').dataset.frame) > 40").await;
    // The curves grow with the run.
    ruth.until("document.querySelectorAll('#tracks .track').length === 2 && Number(document.querySelector('#tracks rect').getAttribute('width')) > 60").await;
    ruth.click("#run").await;
    ruth.accessible("a run with its curves").await;

    ruth.click(".spine a[data-step=forecast]").await;
    ruth.until("document.querySelectorAll('.remarks li').length > 5").await;
    let told = ruth.text("#part-forecast").await;
    assert!(told.contains("From 0.0 s to 4.0 s, both rise steadily."), "{told}");
    assert!(told.contains("From 7.0 s to 9.0 s, both fall steadily."), "{told}");
    ruth.until("document.querySelectorAll('.sketch-box:first-of-type .remarks .differs').length === 0").await;
    assert!(told.contains("the measured curve is at zero, the sketch above zero"), "{told}");
    ruth.accessible("sketches beside what was measured").await;

    // Drawn on now, nothing changes; and a request of one's own is refused.
    ruth.until("(s => (s.scrollIntoView({ block: 'center' }), true))(document.querySelector('[data-sketch=x] svg'))")
        .await;
    drag(&ruth, "[data-sketch=x] svg", (-100.0, -40.0), (150.0, 60.0)).await;
    let answer = ruth
        .client
        .execute_async(
            "const done = arguments[0]; fetch(location.pathname + '/edits', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ edit: { forecast: { sketch: { channel: 'x', points: [[0, 0], [1, 1]] } } }, token: 'after the run' }) }).then(async r => done([r.status, await r.text()]))",
            vec![],
        )
        .await
        .unwrap();
    assert!(answer[0] != 200 && answer[1].as_str().unwrap().contains("before the first run"), "{answer}");
    ruth.client.refresh().await.unwrap();
    ruth.bench().await;
    assert_eq!([points(&ruth, "x").await, points(&ruth, "v").await], drawn);

    stopped_and_gone_on(&ruth).await;

    pulled_by_hand(&ruth).await;

    // The write-up shows sketch and outcome beside each other.
    ruth.open(&format!("{}/write-up", ruth.path().await)).await;
    let page = ruth.text(".write-up").await;
    assert!(page.contains("run 1") && page.contains("both rise steadily"), "{page}");
    ruth.until("document.querySelectorAll('.write-up svg.forecast .sketch').length === 2").await;
}

/// A line of two points, and a prediction.
async fn sketch_and_predict_by_keys(ruth: &Browser) {
    // Two points are a line: the pen is moved with arrows, Enter places.
    ruth.tab_to("[data-sketch=x]").await;
    ruth.keys(&format!("{}{}", key(Key::Down).repeat(6), key(Key::Enter))).await;
    let seq = ruth.seq().await;
    ruth.keys(&format!("{}{}{}", key(Key::Right).repeat(40), key(Key::Up).repeat(14), key(Key::Enter))).await;
    ruth.moved(seq).await;
    assert_eq!(points(ruth, "x").await.matches("],[").count() + 1, 2);
    // A third one, and away with it again.
    let seq = ruth.seq().await;
    ruth.keys(&format!("{}{}", key(Key::Left).repeat(10), key(Key::Enter))).await;
    ruth.moved(seq).await;
    assert_eq!(points(ruth, "x").await.matches("],[").count() + 1, 3);
    let seq = ruth.seq().await;
    ruth.keys(&key(Key::Delete)).await;
    ruth.moved(seq).await;
    assert_eq!(points(ruth, "x").await.matches("],[").count() + 1, 2);
    ruth.tab_to("#prediction").await;
    let seq = ruth.seq().await;
    ruth.keys(&format!("36 m{}", key(Key::Tab))).await;
    ruth.moved(seq).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_mail_shuttle_is_forecast_measured_and_concluded_by_keyboard_alone() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    ruth.join(&lab.code(), "Ruth Anselm").await;
    ruth.lab("Mail shuttle").await;
    let leave = async || ruth.tab_to(".spine a[data-step=question]").await;

    ruth.keys("2").await;
    ruth.until("document.querySelector('.desk').dataset.step === 'forecast'").await;
    sketch_and_predict_by_keys(&ruth).await;

    leave().await;
    ruth.keys("3").await;
    ruth.tab_to("#rail").await;
    ruth.keys(" ").await;
    ruth.until("document.getElementById('stage').dataset.run === '1' && document.getElementById('stage').dataset.playing === 'true'").await;
    ruth.keys(" ").await;
    ruth.until("document.getElementById('stage').dataset.playing === 'false'").await;
    ruth.until("document.getElementById('prediction') === null").await;

    // A recording of the whole run becomes a table of its own.
    ruth.tab_to(".recording summary").await;
    ruth.keys(" ").await;
    ruth.tab_to(".recording select[name=every]").await;
    ruth.keys("5").await;
    let seq = ruth.seq().await;
    ruth.tab_to(".recording form button:not([type=button])").await;
    ruth.keys(&key(Key::Enter)).await;
    ruth.moved(seq).await;
    ruth.until("document.querySelectorAll('#part-record tbody tr').length >= 9").await;
    leave().await;
    ruth.keys("4").await;
    // The recording's columns stand last in the lists, below those of the first table.
    ruth.tab_to("#axis-y").await;
    ruth.keys(&key(Key::End)).await;
    ruth.until("document.getElementById('axis-y').selectedOptions[0].textContent.startsWith('x (position x)')").await;
    ruth.tab_to("#axis-x").await;
    ruth.keys(&format!("{}{}", key(Key::End), key(Key::Up))).await;
    ruth.until("document.querySelectorAll('#part-graph .point').length >= 8").await;
    ruth.tab_to(".spine a[data-step=question]").await;
    ruth.keys("5").await;
    ruth.tab_to("#model").await;
    ruth.keys("s").await;
    ruth.until("document.querySelector('.read-out').innerText.includes('rises by')").await;
    leave().await;
    ruth.keys("6").await;
    ruth.tab_to("#law-1-slope").await;
    ruth.keys(&format!("v{}", key(Key::Enter))).await;
    let value = ruth.until("document.querySelector('#part-constant .value')?.textContent").await;
    assert!(value.as_str().unwrap().starts_with("v = "), "{value}");

    // The answer worked out now, beside the prediction as first written.
    leave().await;
    ruth.keys("2").await;
    ruth.tab_to("#outcome-value").await;
    let seq = ruth.seq().await;
    ruth.keys(&format!("40.0 m{}", key(Key::Tab))).await;
    ruth.moved(seq).await;
    assert!(ruth.text(".prediction").await.contains("the prediction is off by −10 %"));
    ruth.tab_to("#text-difference").await;
    ruth.keys("We forgot where it started.").await;
    let seq = ruth.seq().await;
    ruth.keys(&key(Key::Tab)).await;
    ruth.moved(seq).await;
    ruth.open(&format!("{}/write-up", ruth.path().await)).await;
    let page = ruth.text(".write-up").await;
    for part in ["36 m", "40.0 m", "We forgot where it started."] {
        assert!(page.contains(part), "{part} is missing in {page}");
    }

    // Nothing this browser was sent tells the hidden velocity: everything it loaded is asked for once more and searched.
    let store = zeitmass_store::Store::open(lab.data.path()).unwrap();
    let id: i64 = ruth.path().await.rsplit('/').nth(1).unwrap().parse().unwrap();
    let book = store.load_logbook(id).unwrap().book;
    let rule = book.rules().iter().find(|r| r.name == "velocity 1").unwrap();
    let hidden = rule.value.pretty().split('\u{A0}').next().unwrap().to_owned();
    let search = format!(
        "const done = arguments[0]; const base = location.pathname.replace('/write-up', ''); \
         const paths = ['', '/setup', '/runs/1', '/runs/1?curves=x,v,a', '/runs/1/meters/50', '/runs/1/arrows/velocity', '/write-up', '/tables/1.csv', '/moment?run=1&frame=90']; \
         const own = performance.getEntriesByType('resource').map(e => e.name); \
         Promise.all([...paths.map(p => base + p), ...own].map(async u => {{ const text = await (await fetch(u)).text(); \
           return new RegExp('(^|[^0-9.])' + {} + '([^0-9.]|$)').test(text) ? u : null; }})).then(all => done([all.length, all.filter(Boolean)]))",
        json!(hidden.replace('.', "[.]"))
    );
    let found = ruth.client.execute_async(&search, vec![]).await.unwrap();
    assert!(found[0].as_u64().unwrap() > 15, "{found}");
    assert_eq!(found[1], json!([]), "the hidden velocity {hidden} was sent");
}
