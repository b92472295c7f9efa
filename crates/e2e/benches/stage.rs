//! Frames a second of the stage while a run plays with three more behind it, side by side with an idle page of the same browser.
//!
//! `cargo build && cargo bench -p e2e --bench stage --profile dev`, both with the same profile.

#![allow(clippy::print_stdout, reason = "a benchmark reports on standard output")]

#[path = "../tests/all/common/mod.rs"]
mod common;

use common::{Browser, Lab};

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
    });
}
