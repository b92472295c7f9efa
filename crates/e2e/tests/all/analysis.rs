//! The analysis in a real browser: a block pasted, a worked column with a mistake corrected, points set aside singly and by
//! a box, two stretches, the shape strip, several results, a logbook taken along and brought back, and thousands of rows.

use crate::common::{Browser, Lab, drag, key};
use fantoccini::key::Key;
use serde_json::{Value, json};

/// Lengths and ten swings; the sixth was counted to nine.
const SWINGS: &str = "L (m);t10 (s)\n0,300;10,99\n0,500;14,19\n0,700;16,78\n0,900;19,03\n1,100;21,04\n1,300;20,59\n1,500;24,57\n1,700;26,16";

fn with_control(k: char) -> String {
    format!("{}{k}{}", key(Key::Control), key(Key::Null))
}

#[tokio::test(flavor = "multi_thread")]
async fn a_student_does_the_whole_analysis() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    ruth.join(&lab.code(), "Ruth Anselm").await;
    ruth.lab("2.1").await;
    paste(&ruth).await;
    mistake(&ruth).await;
    graph(&ruth).await;
    shapes(&ruth).await;
    curves(&ruth).await;
    results(&ruth).await;
    files(&lab, &ruth).await;
    many_rows(&ruth).await;
}

/// A block is copied from a field and pasted into the record by keys.
async fn paste(ruth: &Browser) {
    ruth.click(".spine a[data-step=measure]").await;
    ruth.click("[data-open=table-dialog]").await;
    ruth.accessible("the table's dialog").await;
    let block = "#table-dialog textarea[name=text]";
    ruth.fill(block, SWINGS).await;
    let field = ruth.find(block).await;
    field.send_keys(&format!("{}{}", with_control('a'), with_control('x'))).await.unwrap();
    ruth.until("document.querySelector('#table-dialog textarea[name=text]').value === ''").await;
    ruth.click("#table-dialog [data-close]").await;
    let cell = "#part-record tr[data-begun] input[data-column='1']";
    ruth.click(cell).await;
    let seq = ruth.seq().await;
    ruth.find(cell).await.send_keys(&with_control('v')).await.unwrap();
    ruth.moved(seq).await;
    ruth.until("document.querySelectorAll('#part-record tbody tr').length === 9").await;
    ruth.until("document.getElementById('notice').innerText.includes('8 rows and 2 columns were pasted')").await;
    ruth.until("document.querySelector('#part-record tbody tr:nth-child(2) input').value === '0.500'").await;
    ruth.click("[data-dismiss]").await;

    // Row actions: one row too many goes in above and out again.
    ruth.click("#part-record tbody tr:nth-child(2) [data-row-menu]").await;
    ruth.click("[data-row-act=above]").await;
    ruth.until("document.querySelectorAll('#part-record tbody tr').length === 10").await;
    ruth.click("[data-edit*=undo]").await;
    ruth.until("document.querySelectorAll('#part-record tbody tr').length === 9").await;
}

async fn mistake(ruth: &Browser) {
    ruth.click("[data-column=new]").await;
    ruth.fill("#column-dialog [name=name]", "period").await;
    ruth.fill("#column-dialog [name=symbol]", "T").await;
    ruth.fill("#column-dialog [name=formula]", "t10/10 + L").await;
    ruth.click("#column-dialog [data-save]").await;
    ruth.until("document.getElementById('column-error').innerText.includes('s and m cannot be added')").await;
    let chosen = ruth.until("getSelection().toString() || document.activeElement.value.slice(document.activeElement.selectionStart, document.activeElement.selectionEnd)").await;
    assert_eq!(chosen, "t10/10 + L", "the place of the mistake is selected");
    ruth.fill("#column-dialog [name=formula]", &format!("t10/10{}", key(Key::Enter))).await;
    ruth.until("!document.getElementById('column-dialog').open").await;
    ruth.until("document.querySelector('#part-record tbody tr:nth-child(1) td.worked').innerText === '1.099'").await;

    // The column's uncertainty: a scale read by eye; and the check by draws.
    ruth.click("#part-record thead th:nth-child(3) .column").await;
    ruth.choose("#column-dialog [name=precision_by]", "the same amount for all").await;
    ruth.fill("#column-dialog [name=precision_value]", "0,2 s").await;
    let seq = ruth.seq().await;
    ruth.click("#column-dialog [data-save]").await;
    ruth.moved(seq).await;
    ruth.until("document.querySelector('#part-record tbody tr:nth-child(1) td.worked').innerText === '1.10'").await;
    ruth.click("#part-record thead th:nth-child(4) .column").await;
    ruth.click("[data-column-act=simulate]").await;
    ruth.until("document.getElementById('simulation').innerText.includes('Both ways agree within 5')").await;
    ruth.accessible("a column's dialog with its check").await;
    ruth.click("#column-dialog [data-close]").await;
    ruth.click("[data-edit*=undo]").await;
    ruth.until("document.querySelector('#part-record tbody tr:nth-child(1) td.worked').innerText === '1.099'").await;
}

async fn graph(ruth: &Browser) {
    ruth.click(".spine a[data-step=graph]").await;
    assert!(ruth.text("#part-graph .ask").await.contains("Choose y and x"));
    ruth.choose("#axis-y", "T (period)").await;
    ruth.choose("#axis-x", "L (length)").await;
    ruth.until("document.querySelectorAll('#part-graph .point').length === 8").await;
    // One point by a click, two by a box around them, and those back by the same box.
    ruth.click("#part-graph .point:nth-of-type(6)").await;
    let pressed =
        |n: usize| format!("document.querySelectorAll('#part-graph .point[aria-pressed=true]').length === {n}");
    ruth.until(&pressed(1)).await;
    ruth.click("[data-tool=box]").await;
    let svg = "#part-graph .drawing svg";
    let (_, _, width, height) = ruth.rectangle(svg).await;
    let place = |x: f64, y: f64| ((x - 0.5) * width, (y - 0.5) * height);
    let (from, to) = (place(0.12, 0.10), place(0.45, 0.82));
    drag(ruth, svg, from, (to.0 - from.0, to.1 - from.1)).await;
    ruth.until(&pressed(4)).await;
    drag(ruth, svg, from, (to.0 - from.0, to.1 - from.1)).await;
    ruth.until(&pressed(1)).await;

    // Closer, and all of it again; then titles and ends of an axis.
    ruth.click("[data-tool=zoom]").await;
    drag(ruth, svg, from, (to.0 - from.0, to.1 - from.1)).await;
    ruth.until("document.querySelectorAll('#part-graph .point').length < 8").await;
    ruth.click("button[data-edit*=zoom]").await;
    ruth.until("document.querySelectorAll('#part-graph .point').length === 8").await;
    ruth.click("[data-open=graph-dialog]").await;
    ruth.accessible("the graph's dialog").await;
    ruth.fill("#graph-dialog [name=title]", "Tower pendulum, Tuesday").await;
    ruth.click("#graph-dialog form[data-edit*=name_graph] button").await;
    ruth.until("document.querySelector('#part-graph svg').textContent.includes('Tower pendulum, Tuesday')").await;
    let axis = "#graph-dialog form[data-edit*='\"up\":false']";
    ruth.fill(&format!("{axis} [name=from]"), "50 cm").await;
    ruth.fill(&format!("{axis} [name=to]"), "20 cm").await;
    ruth.click(&format!("{axis} button")).await;
    ruth.until("document.querySelector('#graph-dialog > .said').innerText.includes('below the upper end')").await;
    ruth.fill(&format!("{axis} [name=from]"), "0").await;
    ruth.fill(&format!("{axis} [name=to]"), "2").await;
    ruth.click(&format!("{axis} button")).await;
    ruth.until("document.querySelector('#part-graph svg[data-frame]').dataset.across === '0 2 linear'").await;
    ruth.click("#show-residuals").await;
    ruth.click("#graph-dialog > .line.end [data-close]").await;
    ruth.click("[data-tool=points]").await;
}

async fn shapes(ruth: &Browser) {
    ruth.click(".spine a[data-step=linearize]").await;
    ruth.until("document.querySelectorAll('.shape').length === 8").await;
    assert!(ruth.text("#shape-straight").await.contains("bends downward: residuals − "));
    assert!(ruth.text("#shape-square-up").await.contains("no bend"));
    ruth.accessible("the shape strip").await;
    ruth.click("#shape-square-up").await;
    ruth.until("document.querySelector('#shape-square-up').getAttribute('aria-pressed') === 'true'").await;
    ruth.until("document.querySelector('.read-out').innerText.includes('T_sq') || document.querySelector('.read-out').innerText.includes('For every')").await;
    let said = ruth.text(".read-out").await;
    assert!(said.contains("consistent with zero"), "{said}");
    ruth.click("#shape-power").await;
    ruth.until("document.querySelector('.read-out').innerText.includes('which agrees with 1/2')").await;
    ruth.click("#shape-square-up").await;
    ruth.until("document.querySelector('#shape-square-up').getAttribute('aria-pressed') === 'true'").await;
    ruth.fill("#look-forward", &format!("250 cm{}", key(Key::Enter))).await;
    ruth.until("document.querySelector('.read-out').innerText.includes('outside the data by')").await;
    ruth.fill("#look-forward", &format!("{}{}", key(Key::Delete), key(Key::Enter))).await;
    ruth.until("!document.querySelector('.read-out').innerText.includes('outside the data')").await;
}

/// A formula of one's own; then two stretches drawn over the graph.
async fn curves(ruth: &Browser) {
    ruth.click("[data-open=curve-dialog]").await;
    ruth.accessible("the curve's dialog").await;
    ruth.choose("#curve-dialog [data-model]", "a formula of your own").await;
    ruth.fill("#curve-dialog [data-formula]", "k*L + c*L^2").await;
    ruth.click("#curve-dialog button.primary").await;
    ruth.until("!document.getElementById('curve-dialog').open").await;
    ruth.click(".figures summary").await;
    ruth.until("document.querySelector('.figures').innerText.includes('k = (')").await;
    assert!(ruth.text(".figures").await.contains("s²/m²"), "the unit follows from the formula");
    ruth.choose("#model", "straight line").await;
    ruth.until("document.querySelector('.read-out').innerText.includes('For every')").await;
    ruth.click("[data-tool=stretch]").await;
    let svg = "#part-graph .drawing svg";
    let (_, _, width, _) = ruth.rectangle(svg).await;
    for (from, to) in [(0.15, 0.5), (0.52, 0.95)] {
        let seq = ruth.seq().await;
        drag(ruth, svg, ((from - 0.5) * width, 0.0), ((to - from) * width, 0.0)).await;
        ruth.moved(seq).await;
    }
    ruth.until("document.querySelectorAll('form.stretch').length === 2").await;
    ruth.until("document.querySelector('.read-out').innerText.includes('Interval A minus interval B')").await;
    assert!(ruth.text(".read-out").await.contains("the slopes agree"));
    ruth.accessible("a graph with stretches").await;
    for _ in 0..2 {
        let seq = ruth.seq().await;
        ruth.click("[data-edit*=delete_stretch]").await;
        ruth.moved(seq).await;
    }
    ruth.click("[data-tool=points]").await;
}

async fn results(ruth: &Browser) {
    ruth.click(".spine a[data-step=constant]").await;
    ruth.fill("#law-1-up", &format!("T{}", key(Key::Enter))).await;
    ruth.until("document.querySelector('.terms .wrong')?.innerText.includes('something else')").await;
    ruth.fill("#law-1-up", &format!("T^2{}", key(Key::Enter))).await;
    ruth.until("document.querySelector('.terms .right')?.innerText.includes('this is what')").await;
    ruth.fill("#law-1-slope", &format!("4*pi^2/g{}", key(Key::Enter))).await;
    let value = ruth.until("document.querySelector('#result-1 .value')?.innerText").await;
    assert!(value.as_str().unwrap().starts_with("g = (9."), "{value}");
    ruth.until("document.querySelector('#result-1').innerText.includes('they agree within uncertainty')").await;
    // A second result: a column that should stay the same.
    ruth.fill("form[data-edit*=add_result] [name=name]", "period").await;
    ruth.click("form[data-edit*=add_result] button").await;
    ruth.until("document.querySelectorAll('.result').length === 2").await;
    ruth.choose(".result:nth-of-type(2) select", "column T that should stay the same").await;
    ruth.until("document.querySelector('.result:nth-of-type(2)').innerText.includes('They rise from row to row')")
        .await;
    ruth.accessible("two results").await;
}

/// The zip is fetched, work is thrown away, and the zip brings it back through the page's own file field.
async fn files(lab: &Lab, ruth: &Browser) {
    let fetched = "const done = arguments[0];
        fetch(location.pathname + '/logbook.zip').then(r => r.arrayBuffer()).then(b => done([...new Uint8Array(b)]))";
    let bytes = ruth.client.execute_async(fetched, vec![]).await.unwrap();
    let bytes: Vec<u8> = bytes.as_array().unwrap().iter().map(|b| b.as_u64().unwrap() as u8).collect();
    let path = lab.folder().join("pendulum.zip");
    std::fs::write(&path, bytes).unwrap();
    let shown = "[...document.querySelectorAll('#part-record td')].map(c => c.querySelector('input')?.value ?? c.innerText).join('|') + document.querySelector('#result-1 .value').innerText";
    let before: Value = ruth.until(shown).await;
    ruth.click("#part-record tbody tr:nth-child(3) [data-edit*=delete_row]").await;
    ruth.until(&format!("({shown}) !== {before}")).await;
    ruth.click("[data-open=table-dialog]").await;
    ruth.find("[data-import]").await.send_keys(path.to_str().unwrap()).await.unwrap();
    ruth.until("document.getElementById('notice').innerText.includes('now holds what the file held')").await;
    ruth.until(&format!("({shown}) === {before}")).await;
}

/// Ten thousand rows from a file: shown a page at a time, written into and undone like few.
async fn many_rows(ruth: &Browser) {
    ruth.click(".spine a[data-step=measure]").await;
    let rows: String = (1..=9_999).map(|i| format!("{i};{}\n", f64::from(i) * 0.5)).collect();
    let set = "const f = document.querySelector('[data-import]'); const d = new DataTransfer();
        d.items.add(new File([arguments[0]], 'tower clock.csv')); f.files = d.files; f.dispatchEvent(new Event('change', { bubbles: true }));";
    ruth.click("[data-open=table-dialog]").await;
    ruth.click("#table-dialog [name=table][value=null]").await;
    ruth.client.execute(set, vec![json!(format!("n;x (mm)\n{rows}"))]).await.unwrap();
    ruth.until("document.querySelector('.pager')?.innerText.includes('Rows 1 to 100 of 9999')").await;
    assert!(
        ruth.client.execute("return document.querySelectorAll('#part-record tbody tr').length", vec![]).await.unwrap()
            == json!(100)
    );
    ruth.fill("[data-look-row]", &format!("9990{}", key(Key::Enter))).await;
    ruth.until("document.querySelector('.pager')?.innerText.includes('Rows 9901 to 9999')").await;
    let last = "#part-record tbody tr:nth-child(99) input";
    ruth.until(&format!("document.querySelector('{last}').value === '9999'")).await;
    let seq = ruth.seq().await;
    ruth.fill(last, &format!("12345{}", key(Key::Enter))).await;
    ruth.moved(seq).await;
    ruth.click("[data-edit*=undo]").await;
    ruth.until(&format!("document.querySelector('{last}').value === '9999'")).await;
    ruth.accessible("a long table").await;
}
