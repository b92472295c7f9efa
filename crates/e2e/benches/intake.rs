//! Bringing a film of 10 s at 120 frames/s and 640x360, and stepping through it. Needs ffmpeg (Debian's package).
//!
//! `cargo build && cargo bench -p e2e --bench intake --profile dev`, both with the same profile.

#![allow(clippy::print_stdout, reason = "a benchmark reports on standard output")]

#[path = "../tests/all/common/mod.rs"]
mod common;

use std::path::Path;
use std::process::Command;
use std::time::Instant;

use common::{Browser, Lab};
use zeitmass_film::catalogue::film;

const FRAMES: &str = "1200";

/// The demo film over and over.
fn clip(folder: &Path) -> std::path::PathBuf {
    let shoot = film("tower-yard").expect("a film").shoot(1);
    let roll = shoot.roll(1).expect("a roll");
    for n in 0..shoot.frames {
        let picture = shoot.jpeg(&roll, n).expect("a picture");
        std::fs::write(folder.join(format!("{n:04}.jpg")), picture).expect("a file");
    }
    let out = folder.join("long.mp4");
    let done = Command::new("ffmpeg")
        .args(["-hide_banner", "-loglevel", "error", "-y", "-stream_loop", "19", "-framerate", "120", "-i"])
        .arg(folder.join("%04d.jpg"))
        .args(["-frames:v", FRAMES, "-r", "120", "-c:v", "libx264", "-pix_fmt", "yuv420p", "-crf", "24"])
        .arg(&out)
        .status();
    assert!(done.expect("ffmpeg").success(), "ffmpeg makes the film");
    out
}

/// Time from a step to its picture on the canvas in ms: median and the slowest of sixty.
async fn steps(browser: &Browser) -> (f64, f64) {
    let script = "const done = arguments[0]; const stage = document.getElementById('stage'); const times = [];
        (async () => {
            for (let i = 0; i < 60; i++) {
                const wanted = String(Number(stage.dataset.frame) + 1);
                const begun = performance.now();
                document.querySelector(\"[data-frames='1']\").click();
                while (stage.dataset.frame !== wanted) await new Promise(r => setTimeout(r, 0));
                times.push(performance.now() - begun);
                await new Promise(r => setTimeout(r, 80));
            }
            times.sort((a, b) => a - b);
            done([times[30], times[59]]);
        })();";
    let times = browser.client.execute_async(script, vec![]).await.expect("times");
    (times[0].as_f64().expect("a number"), times[1].as_f64().expect("a number"))
}

fn main() {
    let runtime = tokio::runtime::Runtime::new().expect("a runtime");
    runtime.block_on(async {
        let folder = tempfile::tempdir().expect("a folder");
        let long = clip(folder.path());
        let lab = Lab::demo();
        let browser = lab.browser().await;
        browser.join(&lab.code(), "Ruth Anselm").await;
        let find = "[...document.querySelectorAll('.lab')].find(l => l.innerText.includes('Thrown ball')).querySelector('button').id = 'wanted'";
        browser.client.execute(find, vec![]).await.expect("the lab");
        browser.click("#wanted").await;
        browser.bench().await;
        browser.click(".spine a[data-step=measure]").await;
        browser.click("#bring-film").await;
        browser.find("#intake-file").await.send_keys(long.to_str().expect("a path")).await.expect("a file");
        browser.until(&format!("document.getElementById('intake-count').textContent.startsWith('{FRAMES}')")).await;
        let begun = Instant::now();
        browser.click("#intake-start").await;
        let arrived = "document.getElementById('part-stage').dataset.film.includes('long')";
        // Longer than a test would wait.
        while begun.elapsed().as_secs() < 120 {
            let there = browser.client.execute(&format!("return {arrived}"), vec![]).await.expect("an answer");
            if there == serde_json::Value::Bool(true) {
                break;
            }
            tokio::time::sleep(std::time::Duration::from_millis(100)).await;
        }
        let seconds = begun.elapsed().as_secs_f64();
        browser.until("document.getElementById('stage').dataset.frame === '0'").await;
        let (median, slowest) = steps(&browser).await;
        println!("intake of {FRAMES} frames of 640x360: {seconds:.1} s, wanted 25");
        println!("a step until its picture is there: median {median:.1} ms, slowest of 60 {slowest:.1} ms, wanted 50");
    });
}
