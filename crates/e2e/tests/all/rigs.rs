//! Apparatus that is set by hand: a track drawn together by two, planets and their arrows, tiny forces, thrown discs, two cabins seen
//! from one of them, a wire that is tuned, the moon, liquids and cogs.

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
    jost.join_partner(&ruth, &lab.code(), "Jost Brenner").await;
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
    // Both drag at once, each another node: both stay.
    let typed = |node: u32| format!("document.querySelector(\"[data-node='{node}'] td:nth-of-type(2) input\").value");
    let (second, fourth) = (ruth.until(&typed(1)).await, ruth.until(&typed(3)).await);
    tokio::join!(
        drag(&ruth, ".grip[aria-label='Node 2'] .knob", (0.0, 0.0), (0.0, -9.0)),
        drag(&jost, ".grip[aria-label='Node 4'] .knob", (0.0, 0.0), (0.0, -9.0)),
    );
    for browser in [&ruth, &jost] {
        browser.until(&format!("{} !== {second} && {} !== {fourth}", typed(1), typed(3))).await;
        browser.until(&format!("{} === '2.30'", typed(2))).await;
    }

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
    // The table of nodes goes and the controls move up: whoever clicks sees that first.
    ruth.until("document.getElementById('stage-caption').textContent.includes('not yet run')").await;
    run(&ruth, 3).await;
    ruth.until("document.getElementById('rail').textContent.includes('leaves the track') && document.getElementById('rail').textContent.includes('lands')").await;
}

/// Orbits of growing size, each entered with its period by one key; equal areas; a fall that is explained.
async fn planets_are_measured(ruth: &Browser) {
    ruth.lab("Years of the planets").await;
    ruth.click(".spine a[data-step=measure]").await;
    pull(ruth, "Planet", (20.0, 0.0)).await;
    ruth.until("parseFloat(document.getElementById('setting-x').value) > 1.1").await;
    pull(ruth, "Velocity, planet", (0.0, 8.0)).await;
    ruth.until("parseFloat(document.getElementById('setting-v_y').value) < 22").await;
    for (number, x, v) in [(1, "1", "18"), (2, "1.5", "15"), (3, "2", "13")] {
        for (name, value) in [("x", x), ("v_y", v)] {
            let seq = ruth.seq().await;
            ruth.fill(&format!("#setting-{name}"), &format!("{value}\n")).await;
            ruth.moved(seq).await;
        }
        run(ruth, number).await;
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
        drag(ruth, "#rail", (0.0, 0.0), (from - 300.0, 0.0)).await;
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
}

/// Forces of some nanonewtons, to four figures.
async fn forces_keep_four_figures(ruth: &Browser) {
    ruth.lab("The pull of lead").await;
    ruth.click(".spine a[data-step=forecast]").await;
    ruth.click(".spine a[data-step=measure]").await;
    for (number, apart) in [(1, "300"), (2, "600")] {
        let seq = ruth.seq().await;
        ruth.fill("#setting-distance", &format!("{apart}\n")).await;
        if number > 1 {
            ruth.moved(seq).await;
        }
        run(ruth, number).await;
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
}

/// Each run of the discs is one more repeat of the same columns.
async fn throws_are_repeats(ruth: &Browser) {
    ruth.lab("Half of them each time").await;
    foretell(ruth).await;
    for number in 1..=2 {
        if number == 1 {
            run(ruth, 1).await;
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
}

/// The first frame at the mast, the view of a rider, and another deal of numbers.
async fn cabins_have_two_deals(ruth: &Browser) {
    ruth.lab("Two cabins at the mast").await;
    ruth.click(".spine a[data-step=measure]").await;
    run(ruth, 1).await;
    pause(ruth).await;
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
    ruth.click("#run").await;
    let wide = "document.querySelector('#scene rect')?.getAttribute('width')";
    let cabin = ruth.until(wide).await;
    ruth.choose("#deal", "2 of 3, new").await;
    ruth.until(&format!("{lengths} !== '{}' && {} === ''", first.as_str().unwrap(), cell(1, 1))).await;
    ruth.until("document.getElementById('stage').dataset.run === '0' && document.getElementById('part-record').textContent.includes('Passings, deal 2')").await;
    // It was playing when the numbers changed.
    ruth.until("document.querySelector('#run [data-play]').textContent === 'Run'").await;
    ruth.until(&format!("{wide} !== '{}'", cabin.as_str().unwrap())).await;
    run(ruth, 2).await;
    ruth.choose("#deal", "1 of 3").await;
    ruth.until(&format!("{lengths} === '{}' && {} !== ''", first.as_str().unwrap(), cell(1, 1))).await;
    ruth.until("document.getElementById('stage').dataset.run === '1'").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn planets_forces_discs_and_cabins_are_measured() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    ruth.join(&lab.code(), "Ruth Anselm").await;
    planets_are_measured(&ruth).await;
    forces_keep_four_figures(&ruth).await;
    throws_are_repeats(&ruth).await;
    cabins_have_two_deals(&ruth).await;
}

/// Types a value of a setting and waits until it is stored.
async fn set(browser: &Browser, name: &str, value: &str) {
    let seq = browser.seq().await;
    browser.fill(&format!("[id='setting-{name}']"), &format!("{value}\n")).await;
    browser.moved(seq).await;
}

/// Runs anew to the end, and gives what an instrument shows then.
async fn shown(browser: &Browser, meter: &str) -> f64 {
    let seq = browser.seq().await;
    browser.click("#run").await;
    browser.moved(seq).await;
    let value = browser
        .until(&format!(
            "document.getElementById('stage').dataset.playing === 'false' && parseFloat(document.querySelector('[data-meter=\"{meter}\"]').textContent)"
        ))
        .await;
    value.as_f64().unwrap()
}

async fn enter_trial(browser: &Browser) {
    let seq = browser.seq().await;
    browser.keys("t").await;
    browser.moved(seq).await;
}

/// Off the plate it says what to do, and the dish turns by hand.
async fn the_moon_is_found(ruth: &Browser) {
    ruth.lab("Nights with the moon").await;
    ruth.click(".spine a[data-step=measure]").await;
    pull(ruth, "Dish", (-20.0, -20.0)).await;
    // The strength falls with the square of the angle: what it shows tells how far off the dish is, to either side.
    let mut best = (180.0, 0.0);
    for _ in 0..3 {
        let off = if best.1 == 0.0 { 0.0 } else { 3.0 * f64::sqrt(1.0 / best.1 - 1.0) };
        for pointing in [best.0 - off, best.0 + off] {
            let pointing = (pointing * 20.0).round().rem_euclid(7200.0) / 20.0;
            if best.1 < 0.5 {
                set(ruth, "pointing", &format!("{pointing:.2}")).await;
                let strength = shown(ruth, "strength").await;
                best = if strength > best.1 { (pointing, strength) } else { best };
            }
            if off == 0.0 {
                break;
            }
        }
    }
    assert!(best.1 > 0.5, "{best:?}");
}

/// Rows fall into groups, each with a line and a density of its own beside the accepted one.
async fn two_liquids_make_one_table(ruth: &Browser) {
    ruth.lab("The deep basin").await;
    ruth.click(".spine a[data-step=measure]").await;
    pull(ruth, "Gauge 1", (0.0, 60.0)).await;
    ruth.until("parseFloat(document.getElementById('setting-depth 1').value) > 2.5").await;
    for liquid in ["1: water", "4: honey"] {
        if liquid != "1: water" {
            let seq = ruth.seq().await;
            ruth.choose("#setting-liquid", liquid).await;
            ruth.moved(seq).await;
        }
        for depth in ["1", "5", "9"] {
            set(ruth, "depth 1", depth).await;
            assert!(shown(ruth, "pressure 1").await > 101.0);
            enter_trial(ruth).await;
        }
    }
    ruth.click(".spine a[data-step=linearize]").await;
    for (list, choice) in
        [("#axis-y", "p (pressure)"), ("#axis-x", "d (depth of gauge 1)"), ("#model", "straight line")]
    {
        let seq = ruth.seq().await;
        ruth.choose(list, choice).await;
        ruth.moved(seq).await;
    }
    ruth.click(".spine a[data-step=constant]").await;
    ruth.fill("#law-1-slope", "9.81 [m/s^2]*ρ\n").await;
    ruth.until("[...document.querySelectorAll('.groups tbody tr')].map(r => r.cells[0].textContent + parseFloat(r.cells[3].textContent)).every((t, i) => t.startsWith(['1: water', '4: honey'][i]) && parseFloat(t.slice(8)) < 1.5) && document.querySelectorAll('.groups tbody tr').length === 2").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn waves_liquids_cogs_and_the_moon_are_measured() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    ruth.join(&lab.code(), "Ruth Anselm").await;

    // The wire: the meter tells which of two frequencies is nearer to a resonance; it can be put elsewhere.
    ruth.lab("The bell wire").await;
    ruth.click(".spine a[data-step=measure]").await;
    let before = shown(&ruth, "amplitude").await;
    pull(&ruth, "Amplitude meter", (90.0, 0.0)).await;
    ruth.until("parseFloat(document.getElementById('setting-probe').value) > 0.4").await;
    let elsewhere = shown(&ruth, "amplitude").await;
    assert!((before - elsewhere).abs() > 0.01, "{before} {elsewhere}");
    enter_trial(&ruth).await;
    ruth.until(&format!("{} === '12.0' && {} === ''", cell(1, 1), cell(1, 2))).await;
    // The tape goes where a length goes, also in a row of which nobody has pointed at a cell yet.
    ruth.click("#tape-lay").await;
    for row in [1, 2] {
        ruth.enter("tape").await;
        ruth.until(&format!("Number({}) > 0.1", cell(row, 2))).await;
    }
    ruth.until(&format!("{} === ''", cell(2, 1))).await;
    // Without a tuned wire or with one, no lamp says so.
    ruth.until("!document.getElementById('outcome')").await;

    the_moon_is_found(&ruth).await;
    two_liquids_make_one_table(&ruth).await;

    // A pipe too narrow for its flow: what to change is said, and nothing is lost.
    ruth.lab("Narrow and wide").await;
    ruth.click(".spine a[data-step=measure]").await;
    set(&ruth, "diameter 2", "20").await;
    ruth.click("#run").await;
    ruth.until("document.getElementById('outcome')?.textContent.includes('would boil')").await;
    set(&ruth, "diameter 2", "90").await;
    assert!(shown(&ruth, "speed").await > 0.5);
    enter_trial(&ruth).await;
    ruth.until(&format!("{} === '90' && Number({}) > 0.5", cell(1, 1), cell(1, 2))).await;

    // Cogs: the balance waits for the guess.
    ruth.lab("A hundred cogs").await;
    ruth.click(".spine a[data-step=measure]").await;
    ruth.until("document.getElementById('run').disabled").await;
    ruth.click(".spine a[data-step=forecast]").await;
    let seq = ruth.seq().await;
    ruth.fill("#part-forecast input[data-field=typed]", "400 g\n").await;
    ruth.moved(seq).await;
    ruth.click(".spine a[data-step=measure]").await;
    set(&ruth, "number", "30").await;
    assert!(shown(&ruth, "mass").await > 80.0);
    enter_trial(&ruth).await;
    ruth.until(&format!("{} === '30' && Number({}) > 80", cell(1, 1), cell(1, 2))).await;
}
