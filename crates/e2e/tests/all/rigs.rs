//! Apparatus that is set by hand: a track drawn together by two, planets and their arrows, tiny forces, thrown discs, and two cabins seen
//! from one of them.

use crate::common::{Browser, Lab, drag};

/// The text of a cell of the record, by row and column from 1.
fn cell(row: u32, column: u32) -> String {
    format!(
        "(document.querySelector('#part-record tbody tr:nth-child({row}) td:nth-of-type({column}) input')?.value ?? '')"
    )
}

/// Draws a line across every sketch that is asked for.
async fn foretell(browser: &Browser) {
    browser.click(".spine a[data-step=forecast]").await;
    let count = browser.until("document.querySelectorAll('[data-sketch] svg').length").await.as_u64().unwrap();
    for k in 0..count {
        let mark = format!(
            "(s => {{ s.id = 'sketch-{k}'; s.scrollIntoView({{ block: 'center' }}); return true; }})(document.querySelectorAll('[data-sketch] svg')[{k}])"
        );
        browser.until(&mark).await;
        let seq = browser.seq().await;
        drag(browser, &format!("#sketch-{k}"), (-120.0, 20.0), (240.0, -10.0)).await;
        browser.moved(seq).await;
    }
    browser.click(".spine a[data-step=measure]").await;
}

/// Runs, and waits until this run plays.
async fn run(browser: &Browser, number: u32) {
    browser.click("#run").await;
    browser.until(&format!("document.getElementById('stage').dataset.run === '{number}' && Number(document.getElementById('stage').dataset.frame) > 2")).await;
}

async fn pause(browser: &Browser) {
    browser.click("#run").await;
    browser.until("document.getElementById('stage').dataset.playing === 'false'").await;
}

/// Takes hold of a handle by its name.
async fn pull(browser: &Browser, name: &str, by: (f64, f64)) {
    let seq = browser.seq().await;
    drag(browser, &format!(".grip[aria-label='{name}'] .knob"), (0.0, 0.0), by).await;
    browser.moved(seq).await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_track_is_drawn_by_two_and_its_energies_are_asked() {
    let lab = Lab::demo();
    let (ruth, jost) = (lab.browser().await, lab.browser().await);
    ruth.join(&lab.code(), "Ruth Anselm").await;
    ruth.lab("Up and down the hill railway").await;
    ruth.click("[data-partner]").await;
    let code = ruth.text(".partner .code").await;
    jost.join(&lab.code(), "Jost Brenner").await;
    let own = "(l => { l.querySelector('[name=code]').id = 'with-ruth'; l.querySelector('form.line button').id = 'join-ruth'; return true; })\
        ([...document.querySelectorAll('.lab')].find(l => l.textContent.includes('Up and down the hill railway')))";
    jost.until(own).await;
    jost.fill("#with-ruth", &code).await;
    jost.click("#join-ruth").await;
    jost.bench().await;
    jost.click(".spine a[data-step=measure]").await;
    foretell(&ruth).await;

    // A node of a ready-made track that is moved makes it a track of one's own; the partner sees it.
    ruth.until("document.getElementById('setting-course').value === 'hills'").await;
    pull(&ruth, "Node 3", (0.0, 12.0)).await;
    ruth.until("document.getElementById('setting-course').value === 'own'").await;
    let moved = "document.getElementById('setting-nodes').value.split(';')[2].trim() !== '6 2.3'";
    ruth.until(moved).await;
    jost.until(moved).await;
    jost.until("document.querySelector(\".grip[aria-label='Node 3']\") !== null").await;
    // Arrow keys move it by a centimetre; a typed value stays exact; a loop is put in and taken out in the table.
    let y = |b: &'static str| {
        format!("Number(document.querySelector(\"[data-node='2'] td:nth-of-type(2) input\").value) {b}")
    };
    let before = ruth.until("document.querySelector(\"[data-node='2'] td:nth-of-type(2) input\").value").await;
    ruth.until("(document.querySelector(\".grip[aria-label='Node 3']\").focus(), true)").await;
    ruth.keys("\u{E015}").await;
    let lower = format!(
        "document.querySelector(\"[data-node='2'] td:nth-of-type(2) input\").value === '{:.2}'",
        before.as_str().unwrap().parse::<f64>().unwrap() - 0.01
    );
    ruth.until(&lower).await;
    jost.until(&lower).await;
    ruth.fill("[data-node='2'] td:nth-of-type(2) input", "2.30\n").await;
    jost.until(&y("=== 2.3")).await;
    ruth.accessible("a track with its nodes").await;

    run(&ruth, 1).await;
    pause(&ruth).await;
    ruth.click(".moment-box summary").await;
    ruth.fill("#moment-mass", "0.50 kg\n").await;
    ruth.until("document.getElementById('moment').innerText.includes('E_p = m g y = 0.5 kg × 9.81 m/s²')").await;

    // The line of zero height at the start: potential energy below zero, and formula and sum with it.
    let seq = ruth.seq().await;
    ruth.fill("#setting-zero", "3.00\n").await;
    ruth.moved(seq).await;
    run(&ruth, 2).await;
    pause(&ruth).await;
    ruth.until("document.getElementById('moment').innerText.includes('(y − y₀)')").await;
    // One action writes the whole trial.
    let seq = ruth.seq().await;
    ruth.keys("t").await;
    ruth.moved(seq).await;
    ruth.until(&format!("{} === '1.00' && Number({}) > 0.1 && Number({}) > 1", cell(1, 1), cell(1, 2), cell(1, 3)))
        .await;
    // The ski jump: where it left and came down stands on the beat rail.
    ruth.choose("#setting-course", "a ski jump").await;
    run(&ruth, 3).await;
    ruth.until("document.getElementById('rail').textContent.includes('leaves the track') && document.getElementById('rail').textContent.includes('lands')").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn planets_forces_discs_and_cabins_are_measured() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    ruth.join(&lab.code(), "Ruth Anselm").await;

    // Orbits of growing size, each logged with its period by one key.
    ruth.lab("Years of the planets").await;
    ruth.click(".spine a[data-step=measure]").await;
    pull(&ruth, "Planet", (20.0, 0.0)).await;
    ruth.until("parseFloat(document.getElementById('setting-x').value) > 1.1").await;
    pull(&ruth, "Velocity, planet", (0.0, 8.0)).await;
    ruth.until("parseFloat(document.getElementById('setting-v_y').value) < 22").await;
    for (number, x, v) in [(1, "1", "18"), (2, "1.5", "15"), (3, "2", "13")] {
        for (name, value) in [("x", x), ("v_y", v)] {
            let seq = ruth.seq().await;
            ruth.fill(&format!("#setting-{name}"), &format!("{value}\n")).await;
            ruth.moved(seq).await;
        }
        run(&ruth, number).await;
        let seq = ruth.seq().await;
        ruth.keys("t").await;
        ruth.moved(seq).await;
    }
    ruth.until(&format!(
        "Number({}) > Number({}) && Number({}) > Number({})",
        cell(3, 4),
        cell(2, 4),
        cell(2, 4),
        cell(1, 4)
    ))
    .await;
    // Equal areas: two splits of the same length.
    ruth.until("document.getElementById('clock').textContent.endsWith('d')").await;
    let mut areas = Vec::new();
    for from in [40.0, 160.0] {
        drag(&ruth, "#rail", (0.0, 0.0), (from - 300.0, 0.0)).await;
        ruth.keys("s").await;
        for _ in 0..4 {
            ruth.click("[data-frames='10']").await;
        }
        ruth.keys("e").await;
        let area = ruth.until("document.getElementById('area-value').textContent !== '–' && document.getElementById('area-value').textContent").await;
        areas.push(area.as_str().unwrap().split('\u{A0}').next().unwrap().parse::<f64>().unwrap());
    }
    assert!((areas[0] / areas[1] - 1.0).abs() < 0.01, "{areas:?}");
    // Too slow: it falls, and the page says which speed would do.
    let seq = ruth.seq().await;
    ruth.fill("#setting-v_y", "0.5\n").await;
    ruth.moved(seq).await;
    ruth.click("#run").await;
    ruth.until("document.getElementById('outcome')?.textContent.includes('keeps it on a circle')").await;

    // Forces of some nanonewtons, to four figures.
    ruth.lab("The pull of lead").await;
    ruth.click(".spine a[data-step=forecast]").await;
    ruth.click(".spine a[data-step=measure]").await;
    for (number, apart) in [(1, "300"), (2, "600")] {
        let seq = ruth.seq().await;
        ruth.fill("#setting-distance", &format!("{apart}\n")).await;
        if number > 1 {
            ruth.moved(seq).await;
        }
        run(&ruth, number).await;
        let seq = ruth.seq().await;
        ruth.keys("t").await;
        ruth.moved(seq).await;
    }
    ruth.until(&format!(
        "/^\\d\\.\\d{{3}} × 10⁻⁸$/.test({}) && /^\\d\\.\\d{{3}} × 10⁻⁹$/.test({})",
        cell(1, 4),
        cell(2, 4)
    ))
    .await;

    // Discs: each run is one more repeat of the same columns.
    ruth.lab("Half of them each time").await;
    foretell(&ruth).await;
    for number in 1..=2 {
        if number == 1 {
            run(&ruth, 1).await;
        } else {
            // The same settings make another run only when somebody asks for one.
            ruth.click("[data-anew]").await;
            ruth.until("document.getElementById('stage').dataset.run === '2'").await;
        }
        ruth.until("(document.querySelector('.recording').open = true)").await;
        for name in ["left", "taken out"] {
            let tick = format!(
                "(b => {{ if (!b.checked) b.click(); return b.checked; }})(document.querySelector(\"[name=channels][value='{name}']\"))"
            );
            ruth.until(&tick).await;
        }
        ruth.fill("#record-from", "1").await;
        let seq = ruth.seq().await;
        ruth.click(".recording form button:not([type])").await;
        ruth.moved(seq).await;
    }
    ruth.until("[...document.querySelectorAll('#part-record thead small')].some(s => s.textContent.includes('N2'))")
        .await;

    // Cabins: the first frame at the mast, and the view of a rider.
    ruth.lab("Two cabins at the mast").await;
    ruth.click(".spine a[data-step=measure]").await;
    run(&ruth, 1).await;
    pause(&ruth).await;
    ruth.choose("#seen-from", "seen from the second cabin").await;
    ruth.until("document.getElementById('scene').getAttribute('transform') !== 'translate(0 0)'").await;
    // Another deal: other numbers and an empty table; the first deal's readings wait for it.
    ruth.click("[data-frames='10']").await;
    ruth.keys("s").await;
    ruth.click("[data-frames='10']").await;
    ruth.keys("e").await;
    let seq = ruth.seq().await;
    ruth.keys("l").await;
    ruth.moved(seq).await;
    let lengths = "[...document.querySelectorAll('.fixed-settings output')].map(o => o.textContent).join()";
    let first = ruth.until(lengths).await;
    ruth.choose("#deal", "2 of 3, new").await;
    ruth.until(&format!("{lengths} !== '{}' && {} === ''", first.as_str().unwrap(), cell(1, 1))).await;
    ruth.until("document.getElementById('stage').dataset.run === '0' && document.getElementById('part-record').textContent.includes('Passings, deal 2')").await;
    run(&ruth, 2).await;
    ruth.choose("#deal", "1 of 3").await;
    ruth.until(&format!("{lengths} === '{}' && {} !== ''", first.as_str().unwrap(), cell(1, 1))).await;
    ruth.until("document.getElementById('stage').dataset.run === '1'").await;
}
