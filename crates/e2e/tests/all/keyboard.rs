//! The same lab without a mouse: Tab, arrows, letters.

use crate::common::{Browser, Lab, key};
use fantoccini::key::Key;

/// Leaves whatever has the focus, so that single letters are commands again.
async fn leave(browser: &Browser) {
    browser.tab_to("#rail").await;
}

/// A calculated column, the graph, the line.
async fn line_by_keys(ruth: &Browser) {
    // A worked column, the graph, the line.
    ruth.tab_to("[data-column=new]").await;
    ruth.keys(&key(Key::Enter)).await;
    ruth.tab_to("#column-dialog [name=name]").await;
    ruth.keys("period squared").await;
    ruth.tab_to("#column-dialog [name=symbol]").await;
    ruth.keys("Tsq").await;
    ruth.tab_to("#column-dialog [name=formula]").await;
    ruth.keys(&format!("(t10/10)^2{}", key(Key::Enter))).await;
    ruth.until("!document.getElementById('column-dialog').open").await;
    leave(ruth).await;
    ruth.keys("4").await;
    ruth.tab_to("#axis-y").await;
    ruth.keys("Ts").await;
    ruth.tab_to("#axis-x").await;
    ruth.keys("L").await;
    ruth.until("document.querySelectorAll('#part-graph .point').length === 3").await;
    ruth.tab_to("#model").await;
    ruth.keys("s").await;
    ruth.until("document.querySelector('.read-out').innerText.includes('rises by')").await;
    ruth.tab_to("#part-graph .point").await;
    ruth.keys(&format!("{}{}", key(Key::Right), key(Key::Enter))).await;
    ruth.until("document.querySelector('.read-out').innerText.includes('1 of 3 points set aside')").await;
    ruth.tab_to("#part-graph .point").await;
    ruth.keys(&key(Key::Enter)).await;
    ruth.until("!document.querySelector('.read-out').innerText.includes('set aside.')").await;
}

/// Three lengths, each with its run, its split, and two readings.
async fn three_trials_by_keys(ruth: &Browser) {
    for (row, (length, tens)) in [("0.4", 126), ("0.9", 190), ("1.6", 253)].into_iter().enumerate() {
        let seq = ruth.seq().await;
        ruth.tab_to("#setting-length").await;
        ruth.keys(&format!("{}a{}{length}{}", key(Key::Control), key(Key::Null), key(Key::Enter))).await;
        ruth.moved(seq).await;
        leave(ruth).await;
        ruth.keys(" ").await;
        ruth.until(&format!("document.getElementById('stage').dataset.run === '{}'", row + 1)).await;
        ruth.until("document.getElementById('stage').dataset.playing === 'true'").await;
        ruth.keys(" ").await;
        ruth.until("document.getElementById('stage').dataset.playing === 'false'").await;
        ruth.keys(&format!("{}s", key(Key::Home))).await;
        ruth.until("JSON.parse(document.getElementById('part-stage').dataset.tools).start === 0").await;
        // Ten frames a press, then one back and forth.
        ruth.keys(&format!("{}{}{}", key(Key::Shift), key(Key::Right).repeat(tens), key(Key::Null))).await;
        ruth.keys(&format!("{}{}", key(Key::Right), key(Key::Left))).await;
        ruth.keys("e").await;
        ruth.until(&format!("JSON.parse(document.getElementById('part-stage').dataset.tools).end === {}", 10 * tens))
            .await;
        let seq = ruth.seq().await;
        ruth.tab_to("[data-log=setting][data-name=length]").await;
        ruth.keys(&key(Key::Enter)).await;
        ruth.moved(seq).await;
        let seq = ruth.seq().await;
        leave(ruth).await;
        ruth.keys("l").await;
        ruth.moved(seq).await;
    }
    ruth.until("document.querySelectorAll('#part-record tbody tr').length === 4").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_student_measures_graphs_and_concludes_by_keyboard_alone() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    ruth.open("/").await;
    ruth.accessible("the first page").await;
    ruth.tab_to(".by-name > summary").await;
    ruth.keys(&key(Key::Enter)).await;
    ruth.tab_to("#join [name=code]").await;
    ruth.keys(&lab.code()).await;
    ruth.tab_to("#join [name=name]").await;
    ruth.keys("Ruth Anselm").await;
    ruth.tab_to("#join [name=pin]").await;
    ruth.keys(&format!("2718{}", key(Key::Enter))).await;
    ruth.until("location.pathname === '/labs'").await;
    ruth.tab_to(".lab button[aria-label='Start: 2.1 Tower pendulum']").await;
    ruth.keys(&key(Key::Enter)).await;
    ruth.bench().await;

    ruth.keys("2").await;
    ruth.until("document.querySelector('.desk').dataset.step === 'measure'").await;
    ruth.ringed("the bench while measuring").await;
    three_trials_by_keys(&ruth).await;

    // Undo and redo by key.
    ruth.keys("z").await;
    ruth.until("document.querySelector('#part-record tbody tr:nth-child(3) td:nth-of-type(2) input').value === ''")
        .await;
    ruth.keys(&format!("{}z{}", key(Key::Shift), key(Key::Null))).await;
    ruth.until(
        "document.querySelector('#part-record tbody tr:nth-child(3) td:nth-of-type(2) input').value === '25.30'",
    )
    .await;

    // t = 0 elsewhere, and the tape's end by arrow keys.
    ruth.keys("0").await;
    ruth.until("JSON.parse(document.getElementById('part-stage').dataset.tools).zero !== 0").await;
    ruth.tab_to("#tape-lay").await;
    ruth.keys(&key(Key::Enter)).await;
    ruth.until("JSON.parse(document.getElementById('part-stage').dataset.tools).tape !== null").await;
    let before = ruth.text("#tape-value").await;
    ruth.tab_to(".handle[data-end='1']").await;
    ruth.keys(&key(Key::Down).repeat(3)).await;
    ruth.until(&format!("document.getElementById('tape-value').textContent !== '{before}'")).await;

    ruth.ringed("the bench with a tape").await;
    line_by_keys(&ruth).await;
    ruth.ringed("the bench with a line").await;

    // The constant and the claim.
    ruth.keys("5").await;
    ruth.tab_to("#law-1-slope").await;
    ruth.keys(&format!("4*pi^2/g{}", key(Key::Enter))).await;
    ruth.until("document.querySelector('#part-constant .value')?.textContent.startsWith('g = (9.')").await;
    ruth.tab_to(".spine a[data-step='write-up']").await;
    ruth.keys(&key(Key::Enter)).await;
    ruth.tab_to("#text-claim").await;
    ruth.keys("It is a straight line.").await;
    let seq = ruth.seq().await;
    ruth.keys(&key(Key::Tab)).await;
    ruth.moved(seq).await;
    ruth.tab_to("[data-open=hand-in-dialog]").await;
    ruth.keys(&key(Key::Enter)).await;
    ruth.tab_to("[data-hand-in]").await;
    ruth.keys(&key(Key::Enter)).await;
    ruth.until("document.querySelector('.badge')?.textContent === 'handed in'").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_teacher_drafts_assigns_makes_rounds_and_looks_at_the_pool_by_keyboard_alone() {
    let lab = Lab::demo();
    let teacher = lab.browser().await;
    let enter = key(Key::Enter);
    teacher.open("/").await;
    teacher.tab_to(".guests button.primary").await;
    teacher.keys(&enter).await;
    teacher.until("location.pathname === '/classes'").await;
    // A sheet: begun, named, with a question, saved.
    teacher.tab_to("nav a[href='/sheets']").await;
    teacher.keys(&enter).await;
    teacher.until("location.pathname === '/sheets'").await;
    teacher.tab_to("[name=rig]").await;
    teacher.keys("slo").await;
    teacher.tab_to("form[action='/sheets'] button").await;
    teacher.keys(&enter).await;
    teacher.until("document.getElementById('f-rig')?.value === 'slope'").await;
    teacher.tab_to("[id='f-title']").await;
    teacher.keys(&format!("{}a{}Down the slope", key(Key::Control), key(Key::Null))).await;
    teacher.tab_to("[id='add-questions-words']").await;
    teacher.keys(&enter).await;
    teacher.until("document.getElementById('f-questions.0.ask')").await;
    teacher.until("document.activeElement.id === 'add-questions-words'").await;
    teacher.tab_to("#save-sheet").await;
    teacher.keys(&enter).await;
    teacher.until("document.querySelector('#draft-said.saved')").await;
    teacher.until("document.querySelector('#draft-beside h1').innerText.includes('Down the slope')").await;
    // The class: the sheet is assigned, the room is open, a word is said, the pool is looked at.
    teacher.open("/classes/1").await;
    teacher.tab_to("select[name=sheet]").await;
    teacher.keys("20.1").await;
    teacher.until("document.activeElement.selectedOptions[0].text.includes('Down the slope')").await;
    teacher.tab_to("form[action$='/labs'] button").await;
    teacher.keys(&enter).await;
    teacher
        .until("[...document.querySelectorAll('.labs-of-class th')].some(h => h.innerText.includes('Down the slope'))")
        .await;
    teacher.tab_to("a[href='/classes/1/rounds']").await;
    teacher.keys(&enter).await;
    teacher.until("document.querySelector('.room')").await;
    teacher.tab_to("#say summary").await;
    teacher.keys(&enter).await;
    teacher.tab_to("#say [name=text]").await;
    teacher.keys(&format!("Well begun.{enter}")).await;
    teacher.until("document.getElementById('word-said').innerText !== ''").await;
    teacher.open("/classes/1").await;
    teacher.tab_to(".labs-of-class a[href$='/pool']").await;
    teacher.keys(&enter).await;
    teacher.until("location.pathname.endsWith('/pool')").await;
}

/// What is done is told by one polite voice; scrolled text keeps its keys; letters can be switched off; focus is never lost to the page.
#[tokio::test(flavor = "multi_thread")]
async fn what_is_done_is_told_and_letters_can_be_switched_off() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    let jost = lab.browser().await;
    ruth.join(&lab.code(), "Lene Uhl").await;
    ruth.lab("Tower pendulum").await;
    ruth.keys("2").await;
    ruth.until("document.querySelector('.desk').dataset.step === 'measure'").await;
    let heard = |what: &str| format!("document.getElementById('voice').textContent.includes('{what}')");
    ruth.fill("#setting-length", &format!("0.6 m{}", key(Key::Enter))).await;
    ruth.until(&heard("Saved: setting length")).await;
    leave(&ruth).await;
    ruth.keys(" ").await;
    ruth.until(&heard("Saved: run 1")).await;
    ruth.until("document.getElementById('stage').dataset.playing === 'true'").await;
    ruth.keys(" ").await;
    ruth.until("document.getElementById('stage').dataset.playing === 'false'").await;
    jost.join_partner(&ruth, &lab.code(), "Kuno Wirth").await;
    jost.keys("2").await;
    jost.fill("#part-record tr[data-begun] input[data-column='1']", &format!("0.600{}", key(Key::Enter))).await;
    ruth.until(&heard("Somebody else changed this logbook")).await;
    leave(&ruth).await;
    ruth.keys("z").await;
    ruth.until("document.getElementById('notice').innerText.includes('Undone: row 1')").await;
    // On the rail pages and ends are reached by key.
    for (pressed, frame) in [(Key::Home, 0), (Key::PageDown, 0), (Key::PageUp, 50), (Key::Right, 51)] {
        ruth.keys(&key(pressed)).await;
        ruth.until(&format!("document.getElementById('rail').getAttribute('aria-valuenow') === '{frame}'")).await;
    }
    // Whoever reads the sheet scrolls it; the rig does not run unseen, and no frame is stepped.
    ruth.keys("q").await;
    if ruth
        .client
        .execute("return document.getElementById('hand-tab').getAttribute('aria-expanded') === 'false'", vec![])
        .await
        .unwrap()
        == serde_json::json!(true)
    {
        ruth.keys("q").await;
    }
    ruth.tab_to("#hand-body").await;
    ruth.keys(&format!(" {}", key(Key::Right))).await;
    ruth.keys("4").await;
    ruth.until("document.querySelector('.desk').dataset.step === 'linearize'").await;
    // Back leads to the step before, not out of the bench.
    ruth.client.back().await.unwrap();
    ruth.until("document.querySelector('.desk').dataset.step === 'measure'").await;
    ruth.client.forward().await.unwrap();
    ruth.until("document.querySelector('.desk').dataset.step === 'linearize'").await;
    let state = ruth.client.execute("return [document.getElementById('stage').dataset.playing, document.getElementById('rail').getAttribute('aria-valuenow')]", vec![]);
    assert_eq!(state.await.unwrap(), serde_json::json!(["false", "51"]));
    // The focus goes along when what had it is not there any more.
    ruth.keys("2").await;
    leave(&ruth).await;
    ruth.keys("6").await;
    ruth.until("document.activeElement.closest('.spine') !== null").await;
    ruth.keys("?").await;
    ruth.click("#single-keys").await;
    ruth.click("#help-dialog button.primary").await;
    // The skip link leads to what the step is about; there the next stop is in it. A row's buttons are one stop, with arrows between them.
    ruth.tab_to(".skip").await;
    ruth.keys(&key(Key::Enter)).await;
    ruth.until("document.activeElement.id === 'part-texts'").await;
    ruth.keys("2").await;
    ruth.tab_to(".skip").await;
    assert_eq!(
        ruth.client.execute("return document.querySelector('.desk').dataset.step", vec![]).await.unwrap(),
        serde_json::json!("write-up")
    );
}
