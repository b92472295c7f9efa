//! A lesson in real browsers: a stamp asked for and given, a word said and ticked off, questions answered at the speed of fingers and under a slow
//! network, handing in, marking by key, marks given out; and the room while all this goes on.

use std::time::Duration;

use fantoccini::key::Key;
use serde_json::json;

use crate::common::{Browser, Lab, key};

const SHEET: &str = "Tower pendulum, step by step";

/// Types as fingers do, a key every 40 ms.
async fn type_slowly(browser: &Browser, text: &str) {
    for letter in text.chars() {
        browser.keys(&letter.to_string()).await;
        tokio::time::sleep(Duration::from_millis(40)).await;
    }
}

/// Presses the button of a question whose words begin so.
async fn press(browser: &Browser, question: u32, words: &str) {
    let find = format!(
        "(b => b && (b.id = 'pressed-{question}'))([...document.querySelectorAll('#question-{question} button')].find(b => b.innerText.startsWith({})))",
        json!(words)
    );
    browser.until(&find).await;
    browser.click(&format!("#pressed-{question}")).await;
}

/// A group comes to the stamp, and answers while the network is slow.
async fn answers_on_a_slow_network(other: &Browser) {
    // What comes after the stamp waits for it, and says so.
    other.network(false, 300).await;
    other.click(".spine a[data-step=graph]").await;
    other.until("document.querySelector('.desk[data-step=graph]')").await;
    other.choose("#axis-x", "L (length)").await;
    other.until("document.getElementById('notice').innerText.includes('First ask your teacher for the stamp')").await;
    // Typed and checked at once, on a slow network: the check comes after what was typed.
    other.click(".spine a[data-step=measure]").await;
    other.click("#answer-2").await;
    type_slowly(other, "0.01 s").await;
    press(other, 2, "Check").await;
    other.until("document.querySelector('#question-2 .verdict.right')").await;
    other.network(false, 0).await;
    // Which row has the longest time? There is one row, typed now and pointed at by key.
    let cell = "#part-record tr[data-begun] input";
    other.click(cell).await;
    type_slowly(other, "0.80").await;
    other.keys(&key(Key::Tab)).await;
    type_slowly(other, "17.9\n").await;
    other.until("document.querySelectorAll('#part-record tbody tr:not([data-begun])').length === 1").await;
    press(other, 4, "Point").await;
    other.until("document.body.dataset.pointing === 'row'").await;
    other.click("#part-record tbody tr:not([data-begun]) input").await;
    other.until("document.querySelector('#question-4 .pointed')?.innerText.includes('row 1')").await;
    other.until("!document.body.dataset.pointing && document.activeElement.matches('[data-point]')").await;
    press(other, 4, "Check").await;
    other.until("document.querySelector('#question-4 .verdict.right')").await;
    other.until("document.querySelector('.spine a[data-step=measure] .rings').innerText.includes('of 3')").await;
}

/// The teacher opens the logbook from the room and stamps it; Ruth sees it at once.
async fn stamp_and_word(teacher: &Browser, ruth: &Browser) {
    // The teacher opens the logbook from the room and stamps it; Ruth sees it at once.
    teacher.click(".room tbody tr.stamp a").await;
    teacher.bench().await;
    teacher.click("form.stamp button[value=true]").await;
    ruth.until("document.querySelector('.stamp-box .stamped')").await;
    teacher.until("!document.querySelector('form.stamp')").await;
    teacher.click(".spine a[data-step=graph]").await;
    teacher.click("#say-graph summary").await;
    teacher.fill("#say-graph textarea", "Which column goes across?").await;
    teacher.click("#say-graph button").await;
    ruth.until("document.querySelector('#part-graph .words-beside')?.innerText.includes('Which column')").await;
    ruth.click(".spine a[data-step=graph]").await;
    ruth.choose("#axis-x", "L (length)").await;
    ruth.until("document.querySelector('#axis-x').selectedOptions[0].text.startsWith('L')").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_lesson_from_the_stamp_to_the_marks() {
    let lab = Lab::demo();
    let code = lab.code();
    let (teacher, ruth, other) = (lab.browser().await, lab.browser().await, lab.browser().await);
    teacher.teach().await;
    teacher.open("/classes/1").await;
    teacher.accessible("a class").await;
    teacher.click("a[href='/classes/1/rounds']").await;
    teacher.until("document.querySelector('.room')").await;
    teacher.accessible("rounds").await;
    teacher.click_beside("nav[aria-label=Labs]", "step by step", "a:nth-of-type(3)").await;
    // Who waits for a stamp is at the top.
    teacher
        .until("document.querySelector('.room tbody tr.stamp:first-child')?.innerText.includes('Ruth Anselm')")
        .await;

    ruth.join(&code, "Ruth Anselm").await;
    ruth.lab(SHEET).await;
    ruth.click(".spine a[data-step=measure]").await;
    ruth.until("document.querySelector('.stamp-box')?.innerText.includes('asked for the stamp')").await;
    ruth.accessible("the sheet at hand").await;

    // Another group begins; its first beat is in the room within a second, without anybody loading anything.
    other.join(&code, "Bartholomäus Zeigerschmied-Federkern").await;
    other.lab(SHEET).await;
    let rail = "[...document.querySelectorAll('.room tbody tr')].find(r => r.innerText.includes('Bartholom'))?.querySelector('svg').getAttribute('aria-label')";
    let before = teacher.until(rail).await;
    other.click(".words-badge").await;
    other.until("document.activeElement.matches('.words-beside input')").await;
    other.keys(" ").await;
    other.until("document.querySelector('.words-beside li.done')").await;
    teacher.until(&format!("{rail} !== {before}")).await;
    answers_on_a_slow_network(&other).await;

    // A word to all groups, said from the room.
    teacher.click("#say summary").await;
    teacher.fill("#say [name=text]", "Ten swings each, please.").await;
    teacher.click("#say button").await;
    teacher.until("document.getElementById('word-said').innerText.includes('logbooks now')").await;
    other.until("document.querySelector('.words-beside')?.closest('body').innerText.includes('Ten swings each')").await;

    stamp_and_word(&teacher, &ruth).await;

    // Handing in says what is missing and can be done all the same.
    ruth.click("[data-open=hand-in-dialog]").await;
    ruth.until("document.getElementById('hand-in-missing').innerText.includes('questions are open')").await;
    ruth.click("[data-hand-in]").await;
    ruth.until("document.querySelector('#part-header .badge')?.innerText === 'handed in'").await;
    ruth.open("/labs").await;
    ruth.until("!document.body.innerText.includes('your marks')").await;

    // Marking by key: a level for each criterion, and on to the next logbook.
    teacher.open("/classes/1").await;
    teacher.click_beside(".labs-of-class tr", "step by step", "a[href$='/marks']").await;
    teacher.accessible("the marks of a lab").await;
    teacher.click_beside("tr", "Ruth Anselm", "a").await;
    teacher.until("document.querySelector('.criterion.at-hand')").await;
    teacher.accessible("the marking page").await;
    for (key, open) in [("2", 4), ("1", 3), ("a", 2), ("3", 1), ("4", 0)] {
        teacher.client.find(fantoccini::Locator::Css("body")).await.unwrap().send_keys(key).await.unwrap();
        let want = if open == 0 { "!t.includes('open')".to_owned() } else { format!("t.includes('{open} open')") };
        teacher.until(&format!("(t => {want})(document.querySelector('.criteria .sum').innerText)")).await;
    }
    let sum = teacher.text(".criteria .sum b").await;
    teacher.click_beside("nav", "All marks", "a[href$='/marks']:last-of-type, a:nth-last-of-type(2)").await;
    teacher.until("document.querySelector('button[value=give_out]')").await;
    teacher.click("button[value=give_out]").await;
    teacher.until("document.querySelector('button[value=take_in]')").await;
    ruth.open("/labs").await;
    ruth.click_beside(".lab", "step by step", "a[href$='/marked']").await;
    ruth.until(&format!("document.querySelector('tr:last-child td.num b').innerText === '{sum}'")).await;
    ruth.accessible("a student's marks").await;

    // The class pool, for the teacher and then for all.
    teacher.open("/classes/1").await;
    teacher.click_beside(".labs-of-class tr", "2.1", "a[href$='/pool']").await;
    teacher.until("document.querySelectorAll('.pool circle').length >= 1").await;
    teacher.accessible("the class pool").await;
    teacher.click("button[value=nameless]").await;
    teacher.until("document.querySelector('button[value=closed]')").await;
    ruth.open("/labs").await;
    ruth.click_beside(".lab", "2.1", "a[href$='/pool']").await;
    ruth.until("document.querySelector('.pool') && !document.querySelector('main').innerText.includes('Alma')").await;
}
