//! What is typed stays, where it was typed: at any speed of the network, and without one.

use std::path::Path;
use std::time::Duration;

use crate::common::{Browser, Lab, key};
use fantoccini::actions::{Actions, InputSource, KeyAction, KeyActions};
use fantoccini::key::Key;
use serde_json::json;
use zeitmass_store::Store;

/// Pause between two keys: somebody who types briskly.
const BRISK: Duration = Duration::from_millis(40);
/// Rows of two cells that each of four people types: 208 cells in all.
const ROWS: usize = 26;
const TAB: char = '\u{E004}';
const ENTER: char = '\u{E007}';

/// Types keys one by one at the same pace, without waiting for anything.
pub async fn brisk(browser: &Browser, keys: &str) {
    let mut typing = KeyActions::new("hands".to_owned());
    for value in keys.chars() {
        typing = typing.then(KeyAction::Down { value }).then(KeyAction::Up { value });
        typing = typing.then(KeyAction::Pause { duration: BRISK });
    }
    browser.client.perform_actions(Actions::from(typing)).await.expect("typing");
}

/// What row `k` gets: numbers whose digits would be commands if they were lost.
fn row(k: usize) -> (String, String) {
    (format!("{}.{}", (k + 1) / 10, (k + 1) % 10), format!("{}", 10 + 37 * k % 90))
}

/// The first table of a logbook as stored: texts of its two columns.
fn stored(data: &Path, logbook: i64) -> Vec<(String, String)> {
    let book = Store::open(data).unwrap().load_logbook(logbook).unwrap().book;
    let analysis = book.analyse();
    let table = &analysis.tables[0];
    (0..table.rows.len()).map(|r| (table.text(0, r), table.text(1, r))).collect()
}

fn logbook_in(path: &str) -> i64 {
    path.rsplit('/').next().and_then(|id| id.parse().ok()).expect("the number of a logbook")
}

const BELOW: &str = "#part-record tr[data-begun] input[data-column='1']";
const ALL_ANSWERED: &str = "!document.getElementById('saved').classList.contains('waiting') \
    && document.querySelectorAll('#part-record tr[data-begun]').length === 1";

/// Two hundred cells at 0, 150 and 600 ms of latency, and with the network cut off for a while in between, four people at once.
#[tokio::test(flavor = "multi_thread")]
async fn two_hundred_cells_arrive_as_typed() {
    let lab = Lab::demo();
    let code = lab.code();
    let (lab, code) = (&lab, code.as_str());
    let typist = async |name: &str, latency: u32, offline: bool| {
        let hand = lab.browser().await;
        hand.join(code, name).await;
        hand.lab("Tower pendulum").await;
        hand.click(".spine a[data-step=measure]").await;
        hand.network(false, latency).await;
        hand.click(BELOW).await;
        for part in 0..3 {
            let rows = part * ROWS / 3..(part + 1) * ROWS / 3;
            let keys: String = rows.map(|k| format!("{}{TAB}{}{ENTER}", row(k).0, row(k).1)).collect();
            // The middle third is written without a network.
            let cut = offline && part == 1;
            if cut {
                hand.network(true, latency).await;
            }
            brisk(&hand, &keys).await;
            if cut {
                hand.until("document.getElementById('saved').innerText.includes('here')").await;
                hand.network(false, latency).await;
            }
        }
        hand.network(false, 0).await;
        hand.until(ALL_ANSWERED).await;
        let id = logbook_in(&hand.path().await);
        let wanted: Vec<_> = (0..ROWS).map(row).collect();
        hand.settle(|| stored(lab.data.path(), id) == wanted).await;
        assert_eq!(stored(lab.data.path(), id), wanted, "latency {latency} ms, offline: {offline}");
        let focus =
            "document.activeElement.closest('tr').hasAttribute('data-begun') && document.activeElement.dataset.column";
        assert_eq!(hand.until(focus).await, json!("1"), "the next row waits for its first value");
        let step = "document.querySelector('.desk').dataset.step";
        assert_eq!(hand.until(step).await, json!("measure"), "no digit became a command");
    };
    tokio::join!(
        typist("Lene Storch", 0, false),
        typist("Oda Pfeil", 150, false),
        typist("Kuno Wirth", 600, false),
        typist("Thea Lang", 150, true),
    );
}

/// A refused value stays, marked, with the reason beside it; Esc brings back what the cell holds. Meanwhile nothing is lost.
#[tokio::test(flavor = "multi_thread")]
async fn a_refused_value_stands_marked_until_it_is_mended() {
    let lab = Lab::demo();
    let hand = lab.browser().await;
    hand.join(&lab.code(), "Lene Storch").await;
    hand.lab("Tower pendulum").await;
    hand.click(".spine a[data-step=measure]").await;
    hand.network(false, 150).await;
    hand.click(BELOW).await;
    // The second row is typed before the first is answered.
    brisk(&hand, &format!("0.4 kg{TAB}12.60{ENTER}0.66{TAB}16.30{ENTER}")).await;
    let refused = "#part-record input[aria-invalid=true]";
    assert!(hand.text(&format!("{refused} + .refused")).await.contains("in m, not in kg"));
    let value = format!("document.querySelector('{refused}').value");
    assert_eq!(hand.until(&value).await, json!("0.4 kg"));
    let id = logbook_in(&hand.path().await);
    let data = lab.data.path();
    let rows = |wanted: &[(&str, &str)]| {
        let wanted: Vec<_> = wanted.iter().map(|(a, b)| ((*a).to_owned(), (*b).to_owned())).collect();
        move || stored(data, id) == wanted
    };
    hand.settle(rows(&[("", "12.60"), ("0.66", "16.30")])).await;
    // An answer to something else leaves it alone.
    hand.click(BELOW).await;
    brisk(&hand, &format!("0.9{ENTER}")).await;
    hand.settle(rows(&[("", "12.60"), ("0.66", "16.30"), ("0.9", "")])).await;
    assert_eq!(hand.until(&value).await, json!("0.4 kg"));
    let shown = "[...document.querySelectorAll('#part-record tr:not([data-begun]) input')].some(i => i.value.startsWith('0.9'))";
    hand.until(shown).await;
    hand.accessible("a refused value").await;
    // Esc brings back what holds: nothing. Then the right value.
    let scrolled = format!("document.querySelector('{refused}').scrollIntoView({{ block: 'center' }})");
    hand.client.execute(&scrolled, vec![]).await.unwrap();
    hand.click(refused).await;
    brisk(&hand, "\u{E00C}").await;
    hand.until("document.querySelector('#part-record input[aria-invalid]') === null").await;
    brisk(&hand, &format!("0.40{ENTER}")).await;
    hand.settle(rows(&[("0.40", "12.60"), ("0.66", "16.30"), ("0.9", "")])).await;
}

/// Run right after a setting was typed makes the run with it and plays it, at any latency.
#[tokio::test(flavor = "multi_thread")]
async fn a_run_right_after_typing_a_setting_is_played() {
    let lab = Lab::demo();
    let hand = lab.browser().await;
    hand.join(&lab.code(), "Lene Storch").await;
    hand.lab("Tower pendulum").await;
    hand.click(".spine a[data-step=measure]").await;
    for (run, latency) in [(1, 0), (2, 0), (3, 150), (4, 300)] {
        hand.network(false, latency).await;
        hand.click("#setting-length").await;
        let all = format!("{}a{}", key(Key::Control), key(Key::Control));
        hand.keys(&format!("{all}{}", key(Key::Null))).await;
        brisk(&hand, &format!("0.{}5", run + 3)).await;
        hand.click("#run").await;
        hand.until(&format!("document.getElementById('stage').dataset.run === '{run}'")).await;
        hand.until("document.getElementById('stage').dataset.playing === 'true'").await;
        let length = "document.getElementById('setting-length').value.startsWith";
        hand.until(&format!("{length}('0.{}5')", run + 3)).await;
        hand.click("#run").await;
        hand.until("document.getElementById('stage').dataset.playing === 'false'").await;
    }
    // S, E and L at the speed of the keys: the split is there although no answer is.
    hand.click("#part-record tr[data-begun] input[data-column='2']").await;
    let blur = "document.activeElement.blur(); return true";
    hand.client.execute(blur, vec![]).await.unwrap();
    brisk(&hand, &format!("{}s\u{E008}{}\u{E008}el", '\u{E011}', "\u{E014}".repeat(3))).await;
    hand.until("document.querySelector('#part-record tbody input[value]:not([value=\"\"])')?.value").await;
}

/// A partner who was faster is not overwritten: what was typed stands marked beside the reason, and what the partner wrote comes back
/// with Esc.
#[tokio::test(flavor = "multi_thread")]
async fn a_faster_partner_is_seen_before_anything_is_written_over() {
    let lab = Lab::demo();
    let hand = lab.browser().await;
    hand.join(&lab.code(), "Lene Storch").await;
    hand.lab("Tower pendulum").await;
    hand.click(".spine a[data-step=measure]").await;
    hand.click(BELOW).await;
    brisk(&hand, &format!("0.4{ENTER}")).await;
    let id = logbook_in(&hand.path().await);
    let data = lab.data.path();
    hand.settle(|| stored(data, id).len() == 1).await;
    let other = lab.browser().await;
    other.join_partner(&hand, &lab.code(), "Kuno Wirth").await;
    other.click(".spine a[data-step=measure]").await;

    let first = "#part-record tbody tr:first-child input[data-column='1']";
    // One types without a network what the other changes meanwhile.
    hand.network(true, 0).await;
    hand.fill(first, &format!("0.55{ENTER}")).await;
    hand.until("document.getElementById('saved').innerText.includes('here')").await;
    hand.until(
        "(e => { dispatchEvent(e); return e.defaultPrevented })(new Event('beforeunload', { cancelable: true }))",
    )
    .await;
    other.fill(first, &format!("0.66{ENTER}")).await;
    let one = |text: &'static str| move || stored(data, id).first().is_some_and(|r| r.0 == text);
    other.settle(one("0.66")).await;
    hand.network(false, 0).await;
    let refused = "#part-record input[aria-invalid=true]";
    assert!(hand.text(&format!("{refused} + .refused")).await.contains("0.66"), "what it holds now is told");
    assert_eq!(hand.until(&format!("document.querySelector('{refused}').value")).await, json!("0.55"));
    hand.click(refused).await;
    brisk(&hand, "\u{E00C}").await;
    hand.until(&format!("document.querySelector(\"{first}\").value === '0.66'")).await;
    // Whoever has seen it may change it.
    hand.fill(first, &format!("0.55{ENTER}")).await;
    hand.settle(one("0.55")).await;
    // What a partner writes comes while one types elsewhere, and takes neither words nor focus away.
    hand.click(BELOW).await;
    brisk(&hand, "0.9").await;
    other.fill(first, &format!("0.50{ENTER}")).await;
    hand.until(&format!("document.querySelector(\"{first}\").value === '0.50'")).await;
    let typing = "document.activeElement.value === '0.9' && document.activeElement.dataset.column === '1'";
    hand.until(typing).await;
    brisk(&hand, &format!("5{TAB}19.03{ENTER}")).await;
    hand.settle(|| stored(data, id) == [("0.50".to_owned(), String::new()), ("0.95".to_owned(), "19.03".to_owned())])
        .await;
}

/// Signed out in another tab: what is typed waits with a word that says so, and arrives after signing in again.
#[tokio::test(flavor = "multi_thread")]
async fn words_outlive_a_sign_out_in_another_tab() {
    let lab = Lab::demo();
    let hand = lab.browser().await;
    hand.join(&lab.code(), "Lene Storch").await;
    hand.lab("Tower pendulum").await;
    hand.click(".spine a[data-step=measure]").await;
    let id = logbook_in(&hand.path().await);
    let cookies = hand.client.get_all_cookies().await.unwrap();
    hand.client.delete_all_cookies().await.unwrap();
    hand.click(BELOW).await;
    brisk(&hand, &format!("0.4{TAB}12.71{ENTER}0.7{TAB}")).await;
    hand.until("document.getElementById('saved').innerText.includes('signed out')").await;
    for cookie in cookies {
        hand.client.add_cookie(cookie).await.unwrap();
    }
    brisk(&hand, &format!("16.76{ENTER}")).await;
    let rows = [("0.4", "12.71"), ("0.7", "16.76")].map(|(a, b)| (a.to_owned(), b.to_owned()));
    hand.settle(|| stored(lab.data.path(), id) == rows).await;
    hand.until(ALL_ANSWERED).await;

    // Rows that are taken away hand their focus on: by keys alone one goes on deleting.
    let delete = "#part-record tbody tr:first-child button[data-edit*=delete_row]";
    for left in [1, 0] {
        hand.find(delete).await;
        hand.client.execute(&format!("document.querySelector('{delete}').focus()"), vec![]).await.unwrap();
        hand.keys(&ENTER.to_string()).await;
        hand.settle(|| stored(lab.data.path(), id).len() == left).await;
        hand.until("document.activeElement !== document.body && document.activeElement.closest('#part-record')").await;
    }
}

/// The text of a sheet is not thrown away without a question, and stays when it cannot be saved.
#[tokio::test(flavor = "multi_thread")]
async fn a_sheet_that_is_being_written_is_not_lost() {
    let lab = Lab::demo();
    let teacher = lab.browser().await;
    teacher.teach().await;
    let copied = "fetch('/sheets/1/copy', { method: 'POST' }).then((answer) => arguments[0](answer.url))";
    let copy = teacher.client.execute_async(copied, vec![]).await.unwrap();
    let path = copy.as_str().and_then(|url| url.split_once("/sheets/")).map(|(_, rest)| format!("/sheets/{rest}"));
    let path = path.expect("the copy's address");
    teacher.open(&format!("{path}?as=text")).await;
    let leaves =
        "(e => { dispatchEvent(e); return !e.defaultPrevented })(new Event('beforeunload', { cancelable: true }))";
    teacher.until(leaves).await;
    let text = teacher.find("#source").await;
    text.click().await.unwrap();
    teacher.keys("\u{E009}\u{E011}\u{E000}").await;
    // Without the server, what was typed is still there, and the page is not left without a question.
    teacher.network(true, 0).await;
    brisk(&teacher, "x = ").await;
    teacher.until("document.getElementById('draft-said').innerText.includes('not reached')").await;
    teacher.until(&format!("!{leaves}")).await;
    teacher.network(false, 300).await;
    teacher.until("document.getElementById('draft-kept').innerText === 'kept as a draft'").await;
    teacher.until("document.getElementById('draft-beside').innerText.includes('Line 1')").await;
    teacher.until(leaves).await;
    teacher.open(&format!("{path}?as=text")).await;
    teacher.until("document.getElementById('source').value.startsWith('x = +++') && document.querySelector('#save-sheet[data-refused]')").await;
    // Taken back it is in force again; with another word it is saved.
    teacher.until("document.getElementById('draft-back') && !document.getElementById('draft-back').disabled").await;
    teacher.click("#draft-back").await;
    teacher.until("document.getElementById('source').value.startsWith('+++') && document.getElementById('draft-kept').innerText === 'in force'").await;
    // At the form every field is typed into while the one before is still under way.
    teacher.open(&path).await;
    for (field, words) in [("title", "Pendulum in the yard"), ("unit", "Yard"), ("number", "2.8")] {
        let field = teacher.find(&format!("[id='f-{field}']")).await;
        field.click().await.unwrap();
        teacher.keys("\u{E009}a\u{E000}").await;
        brisk(&teacher, words).await;
    }
    teacher.click("#save-sheet").await;
    teacher.until("document.querySelector('#draft-said.saved')?.innerText.startsWith('Saved.')").await;
    teacher.until("document.querySelector('#draft-beside h1').innerText === '2.8 Pendulum in the yard'").await;
    teacher.until("document.getElementById('f-unit').value === 'Yard'").await;
    // Save is pressed while the first change is still being typed; what is wrong is said, and put right it is saved.
    let rewrite = |words: &'static str| {
        let teacher = &teacher;
        async move {
            teacher.click("[id='f-number']").await;
            teacher.keys("\u{E009}a\u{E000}").await;
            brisk(teacher, words).await;
            teacher.click("#save-sheet").await;
        }
    };
    rewrite("yard").await;
    teacher.until("document.querySelector('#draft-said.said')?.innerText.includes('kept as a draft')").await;
    rewrite("2.9").await;
    teacher.until("document.querySelector('#draft-said.saved')?.innerText.startsWith('Saved.')").await;
    teacher.until("document.querySelector('#draft-beside h1').innerText === '2.9 Pendulum in the yard'").await;
}
