//! What is typed stays, where it was typed: at any speed of the network, and without one.

mod common;

use std::path::Path;
use std::time::Duration;

use common::{Browser, Lab};
use fantoccini::actions::{Actions, InputSource, KeyAction, KeyActions};
use fantoccini::key::Key;
use serde_json::json;
use zeitmass_store::Store;

/// Pause between two keys: somebody who types briskly.
const BRISK: Duration = Duration::from_millis(40);
/// Rows of two cells that are typed; more than a page holds.
const ROWS: usize = 102;
const TAB: char = '\u{E004}';
const ENTER: char = '\u{E007}';

/// Types keys one by one at the same pace, without waiting for anything.
async fn brisk(browser: &Browser, keys: &str) {
    let mut typing = KeyActions::new("hands".to_owned());
    for value in keys.chars() {
        typing = typing.then(KeyAction::Down { value }).then(KeyAction::Up { value });
        typing = typing.then(KeyAction::Pause { duration: BRISK });
    }
    browser.client.perform_actions(Actions::from(typing)).await.expect("typing");
}

/// What row `k` gets: numbers whose digits would be commands if they were lost.
fn row(k: usize) -> (String, String) {
    (format!("0.{:03}", 100 + k), format!("{}.{:02}", 10 + k % 15, (37 * k) % 100))
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
                hand.until("document.getElementById('saved').innerText.includes('wait here')").await;
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
    hand.accessible("a refused value").await;
    // Esc brings back what holds: nothing. Then the right value.
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
        let all = format!("{}a{}", char::from(Key::Control), char::from(Key::Control));
        hand.keys(&format!("{all}{}", char::from(Key::Null))).await;
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
    let blur = "document.activeElement.blur(); return true";
    hand.client.execute(blur, vec![]).await.unwrap();
    brisk(&hand, &format!("{}s\u{E008}{}\u{E008}el", '\u{E011}', "\u{E014}".repeat(3))).await;
    hand.until("document.querySelector('#part-record tbody input[value]:not([value=\"\"])')?.value").await;
}
