//! The step model at the bench: a paper dial from its film to its drag coefficient.

use zeitmass_film::catalogue::{Falling, film};

use crate::common::{Browser, Lab};
use crate::films::{click_at, drag_handle, go_to, open_lab};

/// Takes the dial from the film: a ruler on the pole, one mark, and the program goes on.
async fn follow_the_dial(ruth: &Browser) {
    ruth.choose("#film-choice", "0").await;
    ruth.until("document.getElementById('stage').dataset.frame === '0'").await;
    let shoot = film("weight-and-dial").unwrap().shoot(1);
    ruth.fill("#add-ruler [name=length]", "2.000 m").await;
    ruth.click("#add-ruler button").await;
    for (label, point) in [("One end of ruler 1", [2.4, 2.0]), ("Other end of ruler 1", [2.4, 0.0])] {
        let seq = ruth.seq().await;
        drag_handle(ruth, label, shoot.camera.pixel(point)).await;
        ruth.moved(seq).await;
    }
    let seq = ruth.seq().await;
    ruth.fill("#add-trail [name=name]", "dial").await;
    ruth.click("#add-trail button").await;
    ruth.moved(seq).await;
    go_to(ruth, 7).await;
    ruth.click("#marking").await;
    let seq = ruth.seq().await;
    click_at(ruth, shoot.truth(7)[0].1).await;
    ruth.moved(seq).await;
    ruth.click("#marking").await;
    ruth.click("#follow").await;
    let done = "document.getElementById('follow-stop').hidden && /Followed|Stopped/.test(document.getElementById('follow-said').textContent)";
    ruth.until(&format!("document.getElementById('stage').dataset.marks > 140 && {done}")).await;
}

/// What the list of models says of the newest one: distance and distance in uncertainties.
const NEWEST: &str = "[...document.querySelectorAll('.models tbody tr:last-child td.num')].map(d => d.textContent)";

#[tokio::test(flavor = "multi_thread")]
async fn a_paper_dial_is_modelled_to_its_drag() {
    let lab = Lab::demo();
    let ruth = open_lab(&lab, "Ruth Anselm", "Weight and dial").await;
    ruth.click(".spine a[data-step=model]").await;
    ruth.until("document.querySelector('.model-set')?.innerText.includes('Measure first')").await;
    ruth.click(".spine a[data-step=measure]").await;
    follow_the_dial(&ruth).await;
    ruth.click(".spine a[data-step=model]").await;
    // What is typed goes off while the next is typed; only the last frames lie on the ground.
    ruth.network(false, 300).await;
    ruth.choose("[aria-label='Column of positions along x']", "none").await;
    ruth.fill("#model-mass", "4.3 g\t").await;
    ruth.fill("#model-until", "2.60 s\t").await;
    ruth.click("#model-start").await;
    ruth.until("document.querySelector('.model-set').innerText.includes('from the readings')").await;
    ruth.network(false, 0).await;
    ruth.click("#run-model").await;
    let first = ruth.until(&format!("({NEWEST}).length === 2 && {NEWEST}")).await;
    assert!(first[1].as_str().unwrap().replace(',', "").parse::<f64>().unwrap() > 50.0, "without drag: {first}");
    ruth.accessible("a step model").await;
    ruth.choose("#force-kind", "drag with v²").await;
    ruth.click_beside(".model-set form", "Add force", "button").await;
    ruth.click("#fit-1").await;
    ruth.until("document.querySelectorAll('.models tbody tr').length === 2").await;
    let close = ruth.until(NEWEST).await;
    assert!(close[1].as_str().unwrap().parse::<f64>().unwrap() < 10.0, "with drag: {close}");
    ruth.until("document.querySelectorAll('.model-shows svg path.model').length === 2").await;
    ruth.until("document.querySelector('.model-shows').innerText.includes('terminal speed')").await;
    // The path lies over the film, with the forces of the moment; in other steps nothing covers it.
    ruth.click(".spine a[data-step=measure]").await;
    go_to(&ruth, 60).await;
    ruth.click(".spine a[data-step=model]").await;
    ruth.until("document.querySelectorAll('#stage .model-layer [data-force]').length === 2").await;
    // A step of the ledger in numbers.
    ruth.click(".ledger [data-ledger-from='3']").await;
    ruth.until("document.querySelector('.working caption').textContent.includes('Step 3')").await;
    ruth.until("document.querySelector('.working').innerText.includes('−k · |v|')").await;
    ruth.click(".spine a[data-step=measure]").await;
    ruth.until("!document.querySelector('#stage .model-layer').hasChildNodes()").await;
    // Constant: the parameter as it was fitted.
    ruth.click(".spine a[data-step=constant]").await;
    let source = "[...document.querySelectorAll('#result-1 select option')].find(o => o.textContent === 'k fitted in model 2')?.value";
    let source = ruth.until(source).await;
    ruth.find("#result-1 select").await.select_by_value(source.as_str().unwrap()).await.unwrap();
    let value = ruth.until("document.querySelector('#part-constant .value')?.textContent").await;
    let k: String = value
        .as_str()
        .unwrap()
        .chars()
        .skip_while(|c| !c.is_ascii_digit())
        .take_while(|c| c.is_ascii_digit() || *c == '.')
        .collect();
    let k: f64 = k.parse().unwrap();
    assert!((k / Falling::DIAL.drag - 1.0).abs() < 0.05, "{value}");
    // Undo takes the choice back, then the fitted model.
    ruth.click("[data-edit*=undo]").await;
    ruth.click("[data-edit*=undo]").await;
    ruth.until("document.querySelectorAll('.models tbody tr').length === 1").await;
}
