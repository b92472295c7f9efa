//! Frames a second of the stage while a run plays with three more behind it, side by side with an idle page of the same browser; and how long it takes
//! until a partner sees a node that was dragged, and the whole way there and back of an empty answer beside it.
//!
//! `cargo build && cargo bench -p e2e --bench stage --profile dev`, both with the same profile.

#![allow(clippy::print_stdout, reason = "a benchmark reports on standard output")]

#[path = "../tests/all/common/mod.rs"]
mod common;

use common::{Browser, Lab, drag};

const SECONDS: f64 = 5.0;

/// Animation frames the browser draws in five seconds.
async fn frames(browser: &Browser) -> f64 {
    let count = format!(
        "const done = arguments[0]; let n = 0; const begun = performance.now();
         const tick = now => {{ n++; if (now - begun < {SECONDS} * 1000) requestAnimationFrame(tick);
            else done(n / (now - begun) * 1000); }}; requestAnimationFrame(tick);"
    );
    browser.client.execute_async(&count, vec![]).await.expect("a count").as_f64().expect("a number")
}

fn main() {
    let runtime = tokio::runtime::Runtime::new().expect("a runtime");
    runtime.block_on(async {
        let lab = Lab::demo();
        let browser = lab.browser().await;
        browser.join(&lab.code(), "Minna Talhoff").await;
        let idle = frames(&browser).await;
        browser.lab("The loaded trolley").await;
        browser.click(".spine a[data-step=measure]").await;
        // Three earlier runs stay in the picture, as paths and as curves.
        for (run, load) in [(1, "2 kg"), (2, "3 kg"), (3, "4 kg"), (4, "5 kg")] {
            let seq = browser.seq().await;
            browser.fill("#setting-load", &format!("{load}\n")).await;
            browser.moved(seq).await;
            browser.click("#run").await;
            browser.until(&format!("document.getElementById('stage').dataset.run === '{run}'")).await;
        }
        browser.choose("#speed", "speed 1/2").await;
        browser.until("document.querySelectorAll('#scene polyline').length === 3").await;
        browser.until("document.getElementById('stage').dataset.playing === 'true'").await;
        let playing = frames(&browser).await;
        println!("idle page {idle:.1} frames/s, stage playing {playing:.1} frames/s, ratio {:.3}", playing / idle);
        drop(browser);
        partner(&lab).await;
    });
}

/// A node of a track is dragged ten times; a partner watches. Both pages are on this machine, so that their clocks are one.
async fn partner(lab: &Lab) {
    let (ruth, jost) = (lab.browser().await, lab.browser().await);
    ruth.join(&lab.code(), "Ruth Anselm").await;
    ruth.lab("Up and down the hill railway").await;
    jost.join_partner(&ruth, &lab.code(), "Jost Brenner").await;
    for hand in [&ruth, &jost] {
        hand.click(".spine a[data-step=measure]").await;
    }
    // The first drag makes the track one of one's own, which has a table of its nodes.
    let grip = ".grip[aria-label='Node 3'] .knob";
    let seq = ruth.seq().await;
    drag(&ruth, grip, (0.0, 0.0), (0.0, 12.0)).await;
    ruth.moved(seq).await;
    let cell = "document.querySelector(\"[data-node='2'] td:nth-of-type(2) input\")";
    jost.until(&format!("{cell} !== null")).await;
    let watch = format!(
        "window.seenAt = null; const was = {cell}.value;
         new MutationObserver(() => {{ const now = {cell}; if (now && now.value !== was) window.seenAt ??= Date.now(); }})
            .observe(document.body, {{ childList: true, subtree: true, attributes: true }});"
    );
    let let_go = "window.letGo = null; addEventListener('pointerup', () => { window.letGo = Date.now(); }, { capture: true, once: true });";
    let mut times = Vec::new();
    for k in 0..10 {
        jost.client.execute(&watch, vec![]).await.expect("a watcher");
        ruth.client.execute(let_go, vec![]).await.expect("a watcher");
        let seq = ruth.seq().await;
        drag(&ruth, grip, (0.0, 0.0), (0.0, if k % 2 == 0 { -8.0 } else { 8.0 })).await;
        ruth.moved(seq).await;
        jost.until("window.seenAt !== null").await;
        let at = async |hand: &Browser, what: &str| {
            let value = hand.client.execute(&format!("return window.{what}"), vec![]).await.expect("a time");
            value.as_f64().expect("a number")
        };
        times.push(at(&jost, "seenAt").await - at(&ruth, "letGo").await);
    }
    times.sort_by(f64::total_cmp);
    let echo = "const done = arguments[0]; const begun = performance.now(); fetch('/health').then(() => done(performance.now() - begun), () => done(-1));";
    let answer = ruth.client.execute_async(echo, vec![]).await.expect("an answer").as_f64().unwrap_or_default();
    println!(
        "a partner sees a dragged node after {:.0} ms ({:.0} to {:.0}, ten drags), an empty answer takes {answer:.0} ms",
        times[5], times[0], times[9]
    );
}
