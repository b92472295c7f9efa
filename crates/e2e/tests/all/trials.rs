//! Ten planned trials with the record filled, from the plan to the teacher's key; and a trial in which two quantities changed.

use crate::common::{Browser, Lab, key};
use fantoccini::key::Key;

/// From the record to the force of the thrust unit.
async fn from_record_to_force(ruth: &Browser) {
    // From the record to the force of the thrust unit.
    ruth.click(".spine a[data-step=graph]").await;
    for (name, symbol, formula) in
        [("acceleration", "a", "2*3.00 [m]/t^2"), ("one over the mass", "w", "1/(m_t + m_l)")]
    {
        ruth.click("[data-column=new]").await;
        ruth.fill("#column-dialog [name=name]", name).await;
        ruth.fill("#column-dialog [name=symbol]", symbol).await;
        ruth.fill("#column-dialog [name=formula]", &format!("{formula}\n")).await;
        ruth.until("!document.getElementById('column-dialog').open").await;
    }
    ruth.choose("#axis-y", "a (acceleration)").await;
    ruth.choose("#axis-x", "w (one over the mass)").await;
    ruth.until("document.querySelectorAll('#part-graph .point').length === 10").await;
    ruth.click(".spine a[data-step=linearize]").await;
    ruth.choose("#model", "straight line").await;
    ruth.until("document.querySelector('.read-out').innerText.includes('rises by')").await;
    ruth.click(".spine a[data-step=constant]").await;
    ruth.fill("#law-1-slope", "F\n").await;
    ruth.until("document.querySelector('#part-constant .value')?.textContent.startsWith('F = ')").await;
    ruth.until("!document.querySelector('.key')").await;
}

/// Another lab: the third trial changes angle and mass at once.
async fn four_throws(ruth: &Browser) {
    // Another lab: the third trial changes angle and mass at once.
    ruth.lab("Range of the yard thrower").await;
    ruth.click(".spine a[data-step=forecast]").await;
    ruth.click("#hypothesis-form input[value=rises_straight]").await;
    ruth.fill("#hypothesis-form textarea", "it stays up longer").await;
    ruth.click("#hypothesis-form button").await;
    ruth.until("document.querySelector('#part-forecast .stated')?.textContent.includes('because it stays up longer.')")
        .await;
    ruth.click(".spine a[data-step=measure]").await;
    for (run, angle, mass) in [(1, "10", "150"), (2, "20", "150"), (3, "25", "400"), (4, "40", "150")] {
        for (field, value) in [("angle", angle), ("mass", mass)] {
            let seq = ruth.seq().await;
            ruth.fill(&format!("#setting-{field}"), &format!("{value}\n")).await;
            ruth.moved(seq).await;
        }
        ruth.click("#run").await;
        ruth.until(&format!("document.getElementById('stage').dataset.run === '{run}' && Number(document.getElementById('stage').dataset.frame) > 3")).await;
        ruth.click("#run").await;
        ruth.until("document.getElementById('stage').dataset.playing === 'false' && document.querySelector('[data-meter=range]').textContent !== '–'").await;
        let seq = ruth.seq().await;
        ruth.click("[data-log=setting][data-name=angle]").await;
        ruth.moved(seq).await;
        ruth.enter("meter][data-name=range").await;
    }
}

/// A plan that reaches too far is refused with the range; another is taken.
async fn plan_ten(ruth: &Browser) {
    ruth.click("[data-open=plan-dialog]").await;
    ruth.accessible("a plan of trials").await;
    ruth.fill("#plan-dialog [name=from]", "0 kg").await;
    ruth.fill("#plan-dialog [name=to]", "9 kg").await;
    ruth.fill("#plan-dialog [name=count]", "10").await;
    ruth.click("#plan-dialog button.primary").await;
    ruth.until("document.querySelector('#plan-dialog .said').textContent.includes('5.00\u{A0}kg')").await;
    ruth.fill("#plan-dialog [name=to]", "2.25 kg").await;
    ruth.click("#plan-dialog button.primary").await;
    ruth.until("!document.getElementById('plan-dialog').open").await;
}

/// The timer fills the table's column: it is the one that L enters, once it reads something. By arrows the split is chosen.
async fn the_timer_is_chosen(ruth: &Browser) {
    ruth.until("document.querySelector('[data-reading]:checked').dataset.name === 'time'").await;
    ruth.keys("l").await;
    ruth.until("document.getElementById('notice').innerText.includes('nothing was entered')").await;
    ruth.tab_to("[data-reading]:checked").await;
    ruth.keys(&key(Key::Down).repeat(2)).await;
    ruth.until("document.querySelector('[data-reading]:checked').dataset.reading === 'split'").await;
    ruth.keys(&key(Key::Up).repeat(2)).await;
    ruth.until("document.getElementById('reading-value').textContent === '–'").await;
}

#[tokio::test(flavor = "multi_thread")]
async fn ten_trials_are_planned_run_and_logged_and_a_second_change_is_caught() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    ruth.join(&lab.code(), "Ruth Anselm").await;
    ruth.lab("The loaded trolley").await;
    ruth.click(".spine a[data-step=measure]").await;

    the_timer_is_chosen(&ruth).await;
    plan_ten(&ruth).await;

    for trial in 1..=10 {
        ruth.until(&format!("document.querySelector('[data-run-trial]')?.textContent.includes('trial {trial}:')"))
            .await;
        ruth.click("[data-run-trial]").await;
        ruth.until(&format!("document.getElementById('stage').dataset.run === '{trial}'")).await;
        ruth.until("document.getElementById('target').textContent.includes('t, row')").await;
        // The meter shows this run's time once its moment stands.
        ruth.click("#run").await;
        ruth.until("document.getElementById('stage').dataset.playing === 'false' && document.querySelector('[data-meter=time]').textContent !== '–'").await;
        ruth.until("document.getElementById('reading-value').textContent !== '–'").await;
        let seq = ruth.seq().await;
        ruth.keys("l").await;
        ruth.moved(seq).await;
    }
    ruth.until("document.querySelectorAll('#part-record tbody tr').length === 11 && !document.querySelector('[data-run-trial]')").await;
    let cells = "[...document.querySelectorAll('#part-record tbody tr')].slice(0, 10).map(r => [...r.querySelectorAll('td input')].map(i => i.value).join(' ')).join('; ')";
    let filled = ruth.until(cells).await;
    let rows: Vec<Vec<f64>> = filled
        .as_str()
        .unwrap()
        .split("; ")
        .map(|r| r.split(' ').map(|v| v.parse().unwrap_or_else(|_| panic!("{filled}"))).collect())
        .collect();
    assert!(rows.iter().enumerate().all(|(i, r)| (r[0] - 0.25 * i as f64).abs() < 1e-9), "{filled}");
    assert!(rows.windows(2).all(|w| w[1][1] > w[0][1]), "a heavier trolley takes longer: {filled}");
    ruth.until("document.querySelectorAll('#part-record .incomparable').length === 0").await;
    let about = ruth
        .until("document.querySelector('#part-record tbody tr:nth-child(7) td:nth-of-type(2) input').dataset.about")
        .await;
    assert!(about.as_str().unwrap().contains("run 7"), "{about}");
    ruth.accessible("a planned series").await;

    from_record_to_force(&ruth).await;

    // The teacher alone sees the key, and that the result is in order.
    let teacher = lab.browser().await;
    teacher.teach().await;
    teacher.open(&ruth.path().await).await;
    teacher.bench().await;
    teacher.click(".spine a[data-step=constant]").await;
    let key = teacher.text(".key").await;
    assert!(key.contains("Key: F = ") && key.contains("agrees with the key"), "{key}");

    four_throws(&ruth).await;

    ruth.until("document.querySelectorAll('#part-record .incomparable').length === 1").await;
    ruth.until("document.querySelector('#part-record tbody tr:nth-child(3) .incomparable').title.includes('mass')")
        .await;
    assert!(ruth.text(".incomparable-said").await.contains("mass"));
    ruth.until("document.querySelectorAll('.runs .changed b').length === 2").await;
    ruth.accessible("a record with a trial that cannot be compared").await;
    // On the graph it wears a ring.
    ruth.click(".spine a[data-step=graph]").await;
    ruth.choose("#axis-x", "α (angle)").await;
    ruth.choose("#axis-y", "R (range)").await;
    ruth.until("document.querySelectorAll('#part-graph .point').length === 4 && document.querySelectorAll('#part-graph .point .odd').length === 1").await;
    let ringed = ruth.until("document.querySelector('#part-graph .point:has(.odd)').getAttribute('aria-label')").await;
    assert!(
        ringed.as_str().unwrap().contains("Row 3") && ringed.as_str().unwrap().contains("mass changed too"),
        "{ringed}"
    );
    // The hypothesis beside the record: at these angles the range still rises, ever less steeply, and it was stated as a straight line.
    ruth.click(".spine a[data-step=forecast]").await;
    ruth.until("document.querySelector('.hypothesis .remarks')?.innerText.includes('the range rises ever less steeply as the angle is raised, not as stated')").await;
    claim(&ruth).await;
    ruth.click(".spine a[data-step=measure]").await;
    // Earlier paths stay faintly behind; the run can be hidden, deleted, and brought back.
    ruth.until("document.querySelectorAll('#scene polyline').length === 3").await;
    ruth.click("#run-row-2 input[type=checkbox]").await;
    ruth.until("document.querySelectorAll('#scene polyline').length === 2").await;
    ruth.click("[data-edit*='delete_run'][data-edit*=':3}']").await;
    ruth.until("document.querySelectorAll('.runs li').length === 3").await;
    ruth.click("[data-edit*=undo]").await;
    ruth.until("document.querySelectorAll('.runs li').length === 4").await;
    // What overturned the hypothesis earns the best level there is.
    ruth.click("[data-open=hand-in-dialog]").await;
    ruth.click("[data-hand-in]").await;
    ruth.until("document.querySelector('#part-header').innerText.includes('anded in')").await;
    teacher.open(&format!("{}/marks", ruth.path().await.split('#').next().unwrap())).await;
    teacher.until("[...document.querySelectorAll('#criteria .level.proposed')].some(l => l.innerText.includes('the claim says what the data show'))").await;
    assert!(teacher.text("#criteria").await.contains("The data contradict it"), "{}", teacher.text("#criteria").await);
}

/// First what was expected, then what the data show, with the rows pointed at.
async fn claim(ruth: &Browser) {
    ruth.click(".spine a[data-step=write-up]").await;
    ruth.until(
        "document.querySelector('#claim-form select[name=cause] option:checked').textContent.startsWith('angle')",
    )
    .await;
    ruth.click("#claim-form input[value=rises_straight]").await;
    ruth.click("#claim-form form button:not([type])").await;
    ruth.until("document.querySelector('#claim .stated')?.textContent === 'As the angle rises, the range rises along a straight line.'").await;
    // A row by pointing, among them the one in which two quantities changed.
    ruth.click("#claim [data-point]").await;
    ruth.until("document.body.dataset.pointing === 'row'").await;
    ruth.click("#part-record tbody tr:nth-child(3) th").await;
    ruth.until("document.querySelectorAll('#claim .pointed li').length === 1").await;
    ruth.click("#claim [data-edit*=add_evidence]").await;
    ruth.until("document.querySelectorAll('#claim .pointed li').length === 4").await;
    ruth.until(
        "document.querySelector('#claim .remarks').innerText.includes('changed, so the rows cannot show which')",
    )
    .await;
    ruth.click("#claim .pointed li:nth-child(3) button").await;
    ruth.until("document.querySelector('#claim .remarks').innerText.includes('The claim repeats the hypothesis')")
        .await;
    ruth.accessible("a claim with its evidence").await;
    ruth.click("#claim-form input[value=rises_flatter]").await;
    ruth.click("#claim-form form button:not([type])").await;
    ruth.until("document.querySelectorAll('#claim .remarks .agrees').length === 4").await;
    assert!(ruth.text("#claim .remarks").await.contains("The data contradict it"));
}

/// A plan goes through by itself: each trial is run and entered, and what stands on the stage at the end is the last frame of the last.
#[tokio::test(flavor = "multi_thread")]
async fn a_whole_plan_is_run_and_entered_by_one_button() {
    let lab = Lab::demo();
    let ruth = lab.browser().await;
    ruth.join(&lab.code(), "Ruth Anselm").await;
    ruth.lab("Years of the planets").await;
    ruth.click(".spine a[data-step=measure]").await;
    ruth.click("[data-open=plan-dialog]").await;
    let varied = ruth.find("#plan-dialog [name=name]").await;
    varied.select_by_value("v_y").await.unwrap();
    ruth.until("document.querySelector('#plan-dialog [name=column]').value === 'null'").await;
    varied.select_by_value("x").await.unwrap();
    ruth.until("document.querySelector('#plan-dialog [name=column]').selectedOptions[0].textContent.includes('start')")
        .await;
    for (field, typed) in [("from", "0.5"), ("to", "1.4"), ("count", "10")] {
        ruth.fill(&format!("#plan-dialog [name={field}]"), typed).await;
    }
    ruth.click("#plan-dialog button.primary").await;
    // Stopped on the way, it goes on where it was.
    ruth.click("[data-all-trials]").await;
    ruth.until("document.querySelectorAll('#part-record tbody tr').length >= 3").await;
    ruth.until("document.querySelector('[data-all-trials]').innerText.includes('Stop')").await;
    ruth.click("[data-all-trials]").await;
    ruth.until("document.querySelector('[data-all-trials]').innerText.includes('Run the rest')").await;
    let rows = "[...document.querySelectorAll('#part-record tbody tr:not([data-begun])')].map(r => [...r.querySelectorAll('td input')].map(i => i.value))";
    let some = ruth.client.execute(&format!("return {rows}"), vec![]).await.unwrap();
    assert!((2..10).contains(&some.as_array().unwrap().len()), "{some}");
    ruth.click("[data-all-trials]").await;
    ruth.until("!document.querySelector('[data-all-trials]') && document.getElementById('stage').dataset.run === '10'")
        .await;
    ruth.until(&format!("(all => all.length === 10 && all[9].every(cell => cell !== ''))({rows})")).await;
    let all: Vec<Vec<String>> =
        serde_json::from_value(ruth.client.execute(&format!("return {rows}"), vec![]).await.unwrap()).unwrap();
    assert!(all.len() == 10 && all.iter().flatten().all(|cell| !cell.is_empty()), "{all:?}");
    let years: Vec<f64> = all.iter().map(|row| row[3].parse().unwrap()).collect();
    assert!(years.windows(2).all(|w| w[1] > w[0]), "a wider orbit takes longer: {years:?}");
    let rail = "return ['aria-valuenow', 'aria-valuemax'].map(n => document.getElementById('rail').getAttribute(n))";
    let [now, last]: [String; 2] = serde_json::from_value(ruth.client.execute(rail, vec![]).await.unwrap()).unwrap();
    assert_eq!(now, last, "the last frame stands on the stage");
}
