//! A lesson from its beginning: a teacher who does not know the notation puts a sheet together by mouse and keys, tries it, assigns it; four groups
//! work with a spring of their own; the sheet grows meanwhile; the marks are given out. And a set-up of the free bench becomes a sheet.

use fantoccini::Locator;
use serde_json::json;

use crate::common::{Browser, Lab, drag};
use crate::typing::brisk;

/// The field of a path.
fn field(path: &str) -> String {
    format!("[id='f-{path}']")
}

/// Types over what is in a field, a key every 40 ms, without waiting for anything.
async fn type_in(teacher: &Browser, path: &str, words: &str) {
    let element = teacher.find(&field(path)).await;
    element.click().await.unwrap_or_else(|e| panic!("{path}: {e}"));
    teacher.keys("\u{E009}a\u{E000}").await;
    brisk(teacher, words).await;
}

/// The same at once.
async fn fill_in(teacher: &Browser, path: &str, words: &str) {
    teacher.fill(&field(path), words).await;
}

/// Waits until all that was done is kept.
async fn kept(teacher: &Browser) {
    teacher.until("['kept as a draft', 'in force'].includes(document.getElementById('draft-kept').innerText)").await;
}

/// Signs the teacher in, begins a sheet for the spring stand, and fills it in.
async fn draft(teacher: &Browser) {
    teacher.open("/sheets").await;
    teacher.choose("[name=rig]", "spring stand").await;
    teacher.click("form[action='/sheets'] button").await;
    teacher.until("document.getElementById('draft-form')").await;
    // Typed under a slow network, field after field without waiting.
    teacher.network(false, 300).await;
    type_in(teacher, "title", "Whose spring?").await;
    type_in(teacher, "unit", "Springs").await;
    teacher.choose(&field("settings.spring.rule"), "fixed, for all to see").await;
    teacher.choose(&field("settings.spring.first"), "unknown specimen").await;
    teacher.choose(&field("settings.stiffness.rule"), "dealt from a range, hidden").await;
    type_in(teacher, "settings.stiffness.first", "20 N/m").await;
    // One end is out of range, and is told at its field while the next one is typed.
    type_in(teacher, "settings.stiffness.second", "600 N/m").await;
    type_in(teacher, "columns.1.name", "scale reading").await;
    type_in(teacher, "columns.1.symbol", "s").await;
    type_in(teacher, "columns.1.unit", "cm").await;
    teacher.until("document.getElementById('s-settings.stiffness').innerText.includes('is outside') && document.querySelector('#save-sheet[data-refused]')").await;
    teacher.click("[data-to='settings.stiffness']").await;
    teacher.until("document.activeElement.id === 'f-settings.stiffness.first'").await;
    type_in(teacher, "settings.stiffness.second", "60 N/m").await;
    teacher.click("[id='add-questions-choices']").await;
    teacher.find(&field("questions.0.ask")).await;
    teacher.choose(&field("questions.0.at"), "Graph").await;
    fill_in(teacher, "questions.0.ask", "What does the slope of $m$ against $s$ grow with?").await;
    fill_in(teacher, "questions.0.choices.0.text", "the stiffness").await;
    fill_in(teacher, "questions.0.choices.1.text", "the load").await;
    fill_in(teacher, "questions.0.choices.1.word", "The load stands on an axis.").await;
    teacher.click("[id='add-questions-words']").await;
    // A question at Measure comes before one at Graph.
    teacher
        .until(&format!("document.querySelector({})?.value === 'What is asked?'", json!(field("questions.0.ask"))))
        .await;
    fill_in(teacher, "questions.0.ask", "Which reading is the least certain, and why?").await;
    fill_in(teacher, "goal.name", "stiffness").await;
    fill_in(teacher, "goal.symbol", "k").await;
    for path in ["goal.accepted", "goal.source"] {
        teacher.find(&field(path)).await.clear().await.unwrap();
    }
    fill_in(teacher, "goal.key", "k").await;
    fill_in(teacher, "goal.unit", "N/m").await;
    fill_in(teacher, "sections.0.text", "**How stiff is your spring?** It obeys $F = k\\,s$.").await;
    kept(teacher).await;
    teacher.until("document.querySelector('#draft-beside h1').innerText.includes('Whose spring?') && document.querySelector('#draft-beside math')").await;
    teacher.network(false, 0).await;
    teacher.accessible("a sheet that was filled in").await;
}

/// Marked by key alone, from logbook to logbook.
async fn mark_four_by_keys(teacher: &Browser) {
    // Marked by key alone, from logbook to logbook.
    teacher.open("/classes/1").await;
    teacher.click_beside(".labs-of-class tr", "Whose spring?", "a[href$='/marks']").await;
    teacher.click("tbody tr:first-child a").await;
    for k in 0..4 {
        teacher.until(&format!("document.querySelector('nav').innerText.includes('{} of 4')", k + 1)).await;
        teacher.until("document.querySelector('.criterion.at-hand')").await;
        for open in (0..5).rev() {
            teacher.client.find(Locator::Css("body")).await.unwrap().send_keys("2").await.unwrap();
            let want = if open == 0 { "!t.includes('open')".to_owned() } else { format!("t.includes('{open} open')") };
            teacher.until(&format!("(t => {want})(document.querySelector('.criteria .sum').innerText)")).await;
        }
        if k < 3 {
            teacher.client.find(Locator::Css("body")).await.unwrap().send_keys("j").await.unwrap();
        }
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_lesson_from_the_drafting_table_to_the_marks_of_four_groups() {
    let lab = Lab::demo();
    let code = lab.code();
    let teacher = lab.browser().await;
    teacher.teach().await;
    draft(&teacher).await;
    // Done as a student does it, with the key in sight; then saved and assigned.
    let sheet = teacher.path().await;
    teacher.click("#try").await;
    let windows = teacher.client.windows().await.unwrap();
    assert_eq!(windows.len(), 2, "the sheet is tried beside the drafting table");
    teacher.client.switch_to_window(windows[1].clone()).await.unwrap();
    teacher.bench().await;
    teacher.accessible("a sheet that is tried").await;
    teacher.click(".spine a[data-step=constant]").await;
    teacher.until("document.querySelector('.key')?.innerText.includes('Key: k = ')").await;
    teacher.client.close_window().await.unwrap();
    teacher.client.switch_to_window(windows[0].clone()).await.unwrap();
    teacher.click("#save-sheet").await;
    teacher.until("document.querySelector('#draft-said.saved')").await;
    teacher.open("/classes/1").await;
    let number = teacher.until("[...document.querySelectorAll('select[name=sheet] option')].find(o => o.text.includes('Whose spring?'))?.text").await;
    teacher.choose("select[name=sheet]", number.as_str().unwrap()).await;
    teacher.click("form[action$='/labs'] button").await;

    let names = ["Ruth Anselm", "Veit Kettner", "Lioba Federkern", "Kilian Pohl"];
    let begin = async |name| {
        let group = lab.browser().await;
        group.join(&code, name).await;
        group.lab("Whose spring?").await;
        group.click(".spine a[data-step=measure]").await;
        group.click("#answer-1").await;
        brisk(&group, "The scale.").await;
        let first = "#part-record tr[data-begun] input";
        group.click(first).await;
        brisk(&group, "100\u{E004}4.9\n").await;
        group.until("document.querySelectorAll('#part-record tbody tr:not([data-begun])').length === 1").await;
        group
    };
    let (a, b, c, d) = tokio::join!(begin(names[0]), begin(names[1]), begin(names[2]), begin(names[3]));
    let groups = [a, b, c, d];
    // The second part of the lesson is added; who has begun gets it, with a word, while typing.
    let busy = &groups[0];
    busy.click("#part-record tr[data-begun] input").await;
    brisk(busy, "20").await;
    teacher.open(&sheet).await;
    teacher.click("[id='add-questions-words']").await;
    teacher.until("document.getElementById('growth')?.innerText.includes('4 logbooks were started')").await;
    teacher.click("#growth summary").await;
    teacher.click("#grow-begun").await;
    teacher.accessible("a sheet that grows").await;
    teacher.click("#save-sheet").await;
    teacher
        .until("document.querySelector('#draft-said')?.innerText.includes('4 logbooks already started have it too')")
        .await;
    busy.until("document.querySelector('#part-header .words-badge')").await;
    busy.until("document.querySelector('#part-questions').innerText.includes('one new question')").await;
    assert_eq!(busy.until("document.activeElement.value").await, json!("20"), "nobody is disturbed while typing");
    let hand_in = async |group: &Browser| {
        group.until("document.querySelector('#part-questions').textContent.includes('What is asked?')").await;
        group.click("[data-open=hand-in-dialog]").await;
        group.click("[data-hand-in]").await;
        group.until("document.querySelector('#part-header .badge')?.innerText === 'handed in'").await;
    };
    tokio::join!(hand_in(&groups[0]), hand_in(&groups[1]), hand_in(&groups[2]), hand_in(&groups[3]));

    mark_four_by_keys(&teacher).await;

    teacher.click_beside("nav[aria-label=Logbooks]", "All marks", "a[href$='/marks']:not([id])").await;
    teacher.click("button[value=give_out]").await;
    teacher.until("document.querySelector('button[value=take_in]')").await;
    for group in &groups {
        group.open("/labs").await;
        group.click_beside(".lab", "Whose spring?", "a[href$='/marked']").await;
        group.until("document.querySelector('tr:last-child td.num b').innerText === '10'").await;
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_set_up_at_the_free_bench_becomes_a_sheet() {
    let lab = Lab::demo();
    let teacher = lab.browser().await;
    teacher.teach().await;
    teacher.open("/bench").await;
    teacher.accessible("the free bench").await;
    teacher.click("form[action='/bench/pendulum'] button").await;
    teacher.bench().await;
    teacher.click(".spine a[data-step=measure]").await;
    let seq = teacher.seq().await;
    teacher.fill("#setting-length", "1.35 m\n").await;
    teacher.moved(seq).await;
    teacher.click("#run").await;
    teacher.until("document.getElementById('stage').dataset.playing === 'true'").await;
    // On the projector the bench is all there is.
    teacher.click("#full-screen").await;
    teacher.until("document.fullscreenElement !== null").await;
    teacher.click("#full-screen").await;
    teacher.until("document.fullscreenElement === null").await;
    teacher.click("#to-sheet").await;
    teacher.until("document.querySelector('#draft-beside .stage-picture svg circle')").await;
    teacher
        .until(&format!("document.querySelector({})?.value === '1.350 m'", json!(field("settings.length.first"))))
        .await;
    // A class forecasts before it is run: on a device of their own, by finger; nobody reloads anything.
    teacher.open("/bench").await;
    teacher.click("form[action='/bench/pendulum'] button").await;
    teacher.bench().await;
    let student = lab.browser().await;
    student.join(&lab.code(), "Ruth Anselm").await;
    student.until("document.getElementById('asked') !== null").await;
    student.lab("Tower pendulum").await;
    student.until("!document.querySelector('#asked a').checkVisibility()").await;
    teacher.click("#ask-class").await;
    teacher.accessible("asking a class").await;
    teacher.choose("[name=channel]", "position x, in m").await;
    teacher.click("form.ask-form button").await;
    teacher.until("document.querySelector('.ready b').innerText === '0'").await;
    student.until("document.querySelector('#asked a').checkVisibility()").await;
    student.accessible("a class is asked while somebody works").await;
    student.click("#asked a").await;
    student.until("document.querySelector('[data-sketch]')").await;
    student.accessible("a forecast before the class").await;
    drag(&student, "[data-sketch]", (-200.0, 40.0), (300.0, -80.0)).await;
    student.until("document.getElementById('ask-said').innerText.startsWith('Sent')").await;
    teacher.until("document.querySelector('.ready b').innerText === '1'").await;
    teacher.until("document.querySelector('main').innerText.includes('Ruth Anselm')").await;
    teacher.click("button[value=close]").await;
    teacher.until("document.querySelector('.told-shapes')?.innerText.includes('rising from the start')").await;
    teacher.until("document.querySelectorAll('.one-of-many').length === 1 && document.querySelector('main').innerText.includes('Solid: run')").await;
    teacher.accessible("what a class forecast").await;
    student.until("document.querySelector('h1').innerText === 'Nothing is asked at the moment'").await;
    // Back to the lab, where nothing calls any more.
    student.click("main a[href^='/logbooks/']").await;
    student.bench().await;
    student.until("!document.querySelector('#asked a').checkVisibility()").await;
    // What was there is there again, until it is begun anew.
    teacher.open("/bench").await;
    teacher.click("form[action='/bench/pendulum'] button").await;
    teacher.bench().await;
    teacher.until("document.getElementById('setting-length').value.startsWith('1.35')").await;
    teacher.click("button[name=anew]").await;
    teacher.bench().await;
    teacher.until("!document.getElementById('setting-length').value.startsWith('1.35')").await;
}
