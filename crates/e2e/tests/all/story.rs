//! The whole lab in a real browser: a teacher prepares it, a student does it with the mouse, partners work together,
//! it is handed in and sent back.

use serde_json::json;

use crate::common::{Browser, Lab, drag, drag_steps, key};
use fantoccini::actions::{InputSource, TouchActions};
use fantoccini::key::Key;

/// Frames of ten swings from the release, by the law for amplitudes of a few degrees.
fn ten_swings(length: f64) -> u32 {
    let small = 2.0 * std::f64::consts::PI * (length / 9.81).sqrt();
    let angle = 2f64.to_radians();
    (1000.0 * small * (1.0 + angle * angle / 16.0)).round() as u32
}

async fn frame(browser: &Browser) -> i64 {
    let frame = browser.client.execute("return Number(document.getElementById('stage').dataset.frame)", vec![]).await;
    frame.unwrap().as_f64().unwrap() as i64
}

/// Brings a frame onto the stage: a drag along the beat rail, then single steps by button.
async fn go_to_frame(browser: &Browser, wanted: u32) {
    let (_, _, width, _) = browser.rectangle("#rail").await;
    let x = 16.0 + (width - 32.0) * f64::from(wanted) / 4000.0 - width / 2.0;
    drag(browser, "#rail", (0.0, 0.0), (x, 0.0)).await;
    for _ in 0..40 {
        let off = i64::from(wanted) - frame(browser).await;
        if off == 0 {
            return;
        }
        let step = if off.abs() >= 10 { 10 * off.signum() } else { off.signum() };
        browser.click(&format!("[data-frames='{step}']")).await;
    }
    panic!("frame {wanted} was not reached");
}

/// One trial: length, run, split, two readings into one row.
async fn trial(browser: &Browser, row: usize, length: &str) {
    let seq = browser.seq().await;
    browser.fill("#setting-length", &format!("{length}\n")).await;
    browser.moved(seq).await;
    browser.click("#run").await;
    browser.until(&format!("document.getElementById('stage').dataset.run === '{row}' && document.getElementById('stage').dataset.playing === 'true'")).await;
    browser.until("Number(document.getElementById('stage').dataset.frame) > 5").await;
    browser.click("#run").await;
    browser.until("document.getElementById('stage').dataset.playing === 'false'").await;
    go_to_frame(browser, 0).await;
    let seq = browser.seq().await;
    browser.click("#split-start").await;
    browser.moved(seq).await;
    go_to_frame(browser, ten_swings(length.replace(',', ".").parse().unwrap())).await;
    let seq = browser.seq().await;
    browser.click("#split-end").await;
    browser.moved(seq).await;
    // Readings go into the chosen cell, which then moves on by itself.
    browser.click(&format!("#part-record tbody tr:nth-child({row}) td:nth-of-type(1) input")).await;
    let seq = browser.seq().await;
    browser.click("[data-log=setting][data-name=length]").await;
    browser.moved(seq).await;
    browser.until("document.getElementById('target').textContent.includes('t10')").await;
    browser.enter("split").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_class_runs_the_tower_pendulum_from_sheet_to_sent_back() {
    let lab = Lab::empty();
    let teacher = lab.browser().await;
    prepare(&teacher, &lab.key).await;
    let code = lab.code();

    let minna = lab.browser().await;
    minna.join(&code, "Minna Talhoff").await;
    minna.accessible("a student's labs").await;
    minna.click(".lab button.primary").await;
    minna.bench().await;
    assert!(minna.text(".sheet").await.contains("How does the period"));
    minna.until("document.querySelectorAll('.sheet math mfrac').length > 0").await;
    minna.accessible("the question").await;
    minna.click(".spine a[data-step=measure]").await;
    minna.find("#stage-empty").await;
    minna.accessible("an empty bench").await;

    measure(&minna).await;
    linearize(&minna).await;
    conclude(&minna).await;
    together(&lab, &minna, &code).await;

    // Handed in: the teacher sees it, looks, and sends it back with a note.
    minna.click("[data-open=hand-in-dialog]").await;
    assert!(minna.text("#hand-in-missing").await.contains("trials are recorded"));
    minna.click("[data-hand-in]").await;
    minna.until("document.querySelector('.badge')?.textContent === 'handed in'").await;
    minna.until("document.querySelectorAll('#part-record input').length === 0").await;

    teacher.open("/classes/1").await;
    teacher.accessible("a class").await;
    teacher.click("td a").await;
    teacher.bench().await;
    teacher.click(".spine a[data-step=constant]").await;
    assert!(teacher.text("#part-constant").await.contains("they agree within uncertainty"));
    teacher.until("document.querySelectorAll('[data-edit]').length === 0").await;
    teacher.accessible("a logbook as the teacher sees it").await;
    teacher.click("[data-open=send-back-dialog]").await;
    teacher.fill("#send-back-dialog textarea", "Two more lengths, please.").await;
    teacher.click("#send-back-dialog [value=write-up]").await;
    teacher.accessible("sending a logbook back").await;
    teacher.click("#send-back-dialog button.primary").await;
    teacher.until("location.pathname === '/classes/1'").await;
    minna.until("document.querySelector('.badge.note')?.textContent.includes('Two more lengths')").await;
    minna.until("document.querySelectorAll('#part-record input').length > 0").await;
    // What the teacher did not open again stays as it was handed in.
    minna.until("document.querySelector('#part-texts .closed')?.textContent.includes('opened only')").await;
    minna.until("document.querySelectorAll('#part-texts textarea:not([disabled], [readonly])').length === 0").await;
}

/// First account, class, a sheet copied and edited with a mistake, and the lab assigned.
async fn prepare(teacher: &Browser, setup: &str) {
    teacher.open(&format!("/?key={setup}")).await;
    teacher.accessible("the first visit").await;
    teacher.fill("[name=name]", "Ottilie Rast").await;
    teacher.fill("[name=password]", "anchor and wheel").await;
    teacher.click("button.primary").await;
    teacher.until("location.pathname === '/classes'").await;
    assert!(teacher.text("main").await.contains("No class yet"));
    teacher.accessible("the classes").await;
    teacher.open("/nowhere").await;
    teacher.accessible("a page that is not there").await;
    teacher.open("/classes").await;
    teacher.fill("[name=name]", "10b, Tuesday").await;
    teacher.click("button.primary").await;
    teacher.until("location.pathname === '/classes/1'").await;
    assert!(teacher.text("main").await.contains("Nobody has joined yet"));

    teacher.open("/sheets").await;
    teacher.accessible("the lab sheets").await;
    teacher.click_beside("table tr", "Tower pendulum", "a").await;
    teacher.accessible("a lab sheet").await;
    teacher.click("button.primary").await;
    teacher.until(r"/^\/sheets\/\d+\/edit$/.test(location.pathname)").await;
    // Typed at the very beginning, above the front matter: it is told, kept, and not in force.
    teacher.click("#draft-head .tabs a[href$=text]").await;
    let top = format!("{}{}{}", key(Key::Control), key(Key::Home), key(Key::Null));
    teacher.find("#source").await.send_keys(&format!("{top}x")).await.unwrap();
    teacher.until("document.querySelector('#draft-beside .wrong')?.textContent.includes('Line 1')").await;
    teacher.accessible("a lab sheet being edited").await;
    teacher.until("document.querySelector('#save-sheet[data-refused]') && document.getElementById('source').value.startsWith('x+++')").await;
    teacher.find("#source").await.send_keys(&format!("{top}{}", key(Key::Delete))).await.unwrap();
    teacher.until("document.querySelector('#draft-beside h1')?.textContent.includes('Tower pendulum')").await;
    teacher.until("document.getElementById('draft-kept').innerText === 'in force'").await;

    teacher.open("/classes/1").await;
    teacher.choose("select", "2.1 Tower pendulum").await;
    teacher.click("button.primary").await;
    teacher.until("document.querySelector('.labs-of-class')?.innerText.includes('2.1 Tower pendulum')").await;
}

async fn measure(minna: &Browser) {
    // Out of range: the message names the range, the setting stays.
    minna.fill("#setting-length", "2,5\n").await;
    minna.until("document.querySelector('.refused')?.innerText.includes('0.200\u{A0}m to 2.000\u{A0}m')").await;
    minna.find("#setting-length").await.send_keys(&key(Key::Escape)).await.unwrap();
    minna.until("document.getElementById('setting-length').value === '0.800\u{A0}m'").await;
    minna.until("!document.querySelector('.refused, [aria-invalid]')").await;
    // At five degrees the period is long by half a thousandth, more than this split misses.
    let seq = minna.seq().await;
    minna.fill("#setting-angle", "2\n").await;
    minna.moved(seq).await;
    for (row, length) in ["0,4", "0.8", "1.2", "1.6"].iter().enumerate() {
        trial(minna, row + 1, length).await;
    }
    minna.until("document.querySelectorAll('#part-record tbody tr').length === 5").await;
    let provenance =
        "document.querySelector('#part-record tbody tr:nth-child(2) td:nth-of-type(2) input').dataset.about";
    let about = minna.until(provenance).await;
    assert!(about.as_str().unwrap().contains("split, run 2, frames 0 to"), "{about}");
    let time =
        minna.until("document.querySelector('#part-record tbody tr:nth-child(1) td:nth-of-type(2) input').value").await;
    assert_eq!(time, format!("{:.2}", f64::from(ten_swings(0.4)) / 100.0));

    // Typing by hand: a mistake is refused and the cell keeps its value; Escape is not needed.
    minna.fill("#part-record tbody tr:nth-child(1) td:nth-of-type(1) input", "0,4x\n").await;
    minna.until("document.querySelector('.refused')?.innerText.includes('The cell still holds 0.400\u{A0}m')").await;
    let seq = minna.seq().await;
    minna.fill("#part-record tbody tr:nth-child(1) td:nth-of-type(1) input", "0,400\n").await;
    minna.moved(seq).await;

    // The tape: laid, its reading end drawn along, read in the loupe.
    let seq = minna.seq().await;
    minna.click("#tape-lay").await;
    minna.moved(seq).await;
    let before = minna.text("#tape-value").await;
    let seq = minna.seq().await;
    drag(minna, ".handle[data-end='1']", (0.0, 0.0), (0.0, 40.0)).await;
    minna.moved(seq).await;
    let drawn = minna.text("#tape-value").await;
    assert_ne!(drawn, before);
    // The same with one finger.
    let seq = minna.seq().await;
    let mut finger = TouchActions::new("finger".to_owned());
    for action in drag_steps(minna, ".handle[data-end='1']", (0.0, 0.0), (0.0, -30.0)).await {
        finger = finger.then(action);
    }
    minna.client.perform_actions(finger).await.unwrap();
    minna.moved(seq).await;
    assert_ne!(minna.text("#tape-value").await, drawn);
    minna.find("#loupe").await;
    minna.choose("#tape-tenths", "4").await;
    minna.until("/4\\u00A0m$/.test(document.getElementById('tape-value').textContent)").await;
    minna.accessible("a bench with a record").await;
}

async fn linearize(minna: &Browser) {
    minna.click(".spine a[data-step=graph]").await;
    assert!(minna.text("#part-graph").await.contains("Choose y and x"));
    // A worked column with a mistake, pointed at and mended.
    minna.click("[data-column=new]").await;
    minna.fill("#column-dialog [name=name]", "period").await;
    minna.fill("#column-dialog [name=symbol]", "T").await;
    minna.fill("#column-dialog [name=formula]", "T = t10/(10 + x)").await;
    minna.accessible("the column's form").await;
    minna.click("#column-dialog [data-save]").await;
    minna.until("document.getElementById('column-error').textContent.includes('symbol x')").await;
    minna.until("(f => f.value.slice(f.selectionStart, f.selectionEnd) === 'x')(document.querySelector('#column-dialog [name=formula]'))").await;
    minna.fill("#column-dialog [name=formula]", "T = t10/10").await;
    minna.click("#column-dialog [data-save]").await;
    minna.until("!document.getElementById('column-dialog').open").await;
    minna.click("[data-column=new]").await;
    minna.fill("#column-dialog [name=name]", "period squared").await;
    minna.fill("#column-dialog [name=symbol]", "Tsq").await;
    minna.fill("#column-dialog [name=formula]", "T^2\n").await;
    minna.until("!document.getElementById('column-dialog').open").await;
    minna.until("document.querySelector('#part-record thead th:nth-child(5)').innerText.includes('s²')").await;

    minna.choose("#axis-y", "Tsq (period squared)").await;
    minna.choose("#axis-x", "L (length)").await;
    minna.until("document.querySelectorAll('#part-graph .point').length === 4").await;
    minna.click(".spine a[data-step=linearize]").await;
    minna.choose("#model", "straight line").await;
    minna.until("document.querySelector('.read-out').innerText.includes('rises by')").await;
    minna.accessible("a graph with a line").await;
    let slope = minna.text(".read-out").await;
    minna.click("#part-graph .point").await;
    minna.until("document.querySelector('.read-out').innerText.includes('1 of 4 points set aside')").await;
    assert_ne!(minna.text(".read-out").await, slope);
    minna.click("#part-graph .point").await;
    minna.until("!document.querySelector('.read-out').innerText.includes('set aside.')").await;
    assert_eq!(minna.text(".read-out").await, slope);
}

async fn conclude(minna: &Browser) {
    minna.click(".spine a[data-step=constant]").await;
    minna.fill("#law-1-slope", "4*pi^2/(g*h)\n").await;
    minna.until("document.querySelector('#part-constant .said')?.textContent.includes('More than one symbol')").await;
    minna.fill("#law-1-slope", "4*pi^2/g\n").await;
    let value = minna.until("document.querySelector('#part-constant .value')?.textContent").await;
    let value = value.as_str().unwrap();
    assert!(value.starts_with("g = (9.8") && value.ends_with("m/s²"), "{value}");
    minna.until("document.querySelector('#part-constant').innerText.includes('they agree within uncertainty')").await;
    minna.accessible("the constant").await;

    minna.click(".spine a[data-step=write-up]").await;
    let seq = minna.seq().await;
    minna.fill("#text-claim", "The square of the period grows in proportion to the length.").await;
    minna.click("#text-evidence").await;
    minna.moved(seq).await;
    minna.accessible("the write-up's texts").await;

    // Everything is there after a reload, and can still be taken back.
    minna.client.refresh().await.unwrap();
    minna.bench().await;
    minna.until("document.getElementById('text-claim').value.startsWith('The square')").await;
    minna.click("[data-edit*=undo]").await;
    minna.until("document.getElementById('text-claim').value === ''").await;
    minna.click("[data-edit*=redo]").await;
    minna.until("document.getElementById('text-claim').value.startsWith('The square')").await;

    minna.click(".part-texts .head a").await;
    minna.until("location.pathname.endsWith('/write-up')").await;
    let page = minna.text(".write-up").await;
    for part in ["QUESTION", "Held in all trials: release angle 2.0°", "Figure 1", "This gives", "grows in proportion"]
    {
        assert!(page.contains(part), "{part} is missing in {page}");
    }
    minna.accessible("the page to print").await;
    let fetched = "const done = arguments[0]; const base = location.pathname.replace('/write-up', '');
        Promise.all(['tables/1.csv', 'graphs/1.svg', 'graphs/1.png', 'tables/1.xlsx', 'tables/1.ods', 'logbook.zip'].map(f => fetch(base + '/' + f).then(async r =>
            [r.headers.get('content-type'), (await r.clone().text()).split('\\n')[0].slice(0, 40)]))).then(done)";
    let files = minna.client.execute_async(fetched, vec![]).await.unwrap();
    assert_eq!(files[0][1], "L (m),t10 (s),T (s),Tsq (s^2),set aside");
    assert!(files[1][1].as_str().unwrap().starts_with("<svg xmlns="));
    assert_eq!(files[2][0], "image/png");
    minna.client.back().await.unwrap();
    minna.bench().await;
}

/// A partner joins by code; each sees the other's change, and a stale page gets a message instead of a wrong write.
async fn together(lab: &Lab, minna: &Browser, code: &str) {
    minna.click("[data-partner]").await;
    let partner_code = minna.text(".partner .code").await;
    let jost = lab.browser().await;
    jost.join(code, "Jost Brenner").await;
    jost.fill(".join-partner [name=code]", &partner_code).await;
    jost.click(".join-partner button").await;
    jost.bench().await;
    jost.click(".spine a[data-step=measure]").await;
    minna.click(".spine a[data-step=measure]").await;

    jost.fill("#part-record tr[data-begun] input[data-column='1']", "2.00\n").await;
    minna.until("document.querySelectorAll('#part-record tbody tr').length === 6").await;

    // Jost types into a row that Minna deletes meanwhile.
    let cell = "#part-record tbody tr:nth-child(5) td:nth-of-type(2) input";
    jost.find(cell).await.click().await.unwrap();
    jost.keys("28.4").await;
    // He hears nothing of it: his page is cut off from live news.
    let stale = "return document.querySelector('#part-record tbody tr:nth-child(5) input').dataset.row";
    let row = jost.client.execute(stale, vec![]).await.unwrap();
    let seq = jost.seq().await;
    minna.click(&format!("[data-edit*='\"delete_row\":{{\"row\":{}}}']", row.as_str().unwrap())).await;
    minna.until("document.querySelectorAll('#part-record tbody tr').length === 5").await;
    jost.moved(seq).await;
    let cell = json!({ "row": { "there": row.as_str().unwrap().parse::<u32>().unwrap() }, "column": 2, "typed": "28.4", "was": null });
    let sent = json!({ "edit": { "record": { "type_cell": cell } }, "token": "from a stale page" });
    let gone = format!(
        "const done = arguments[0]; fetch('/logbooks/1/edits', {{ method: 'POST', headers: {{ 'content-type': 'application/json' }}, body: JSON.stringify({sent}) }}).then(async r => done([r.status, await r.text()]))"
    );
    let answer = jost.client.execute_async(&gone, vec![]).await.unwrap();
    assert_eq!(answer[0], 409);
    assert!(answer[1].as_str().unwrap().contains("it was deleted meanwhile. Nothing was changed."));
    minna.until("document.querySelectorAll('#part-record tbody tr').length === 5").await;
}
