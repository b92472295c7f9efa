//! One server, one ChromeDriver and any number of browsers, which close themselves even when a test panics.

#![allow(dead_code, reason = "each test file uses its own part")]

use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use fantoccini::actions::{InputSource, MouseActions, PointerAction};
use fantoccini::elements::Element;
use fantoccini::key::Key;
use fantoccini::wd::WebDriverCompatibleCommand;
use fantoccini::{Client, ClientBuilder, Locator};
use hyper_util::client::legacy::connect::HttpConnector;
use serde_json::{Value, json};
use tempfile::TempDir;

/// How long a condition may take to come true before a test gives up.
const PATIENCE: Duration = Duration::from_secs(20);

/// A process that is killed when it is dropped.
struct Owned(Child);

impl Drop for Owned {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// A running Zeitmass and the means to look at it.
pub struct Lab {
    server: Owned,
    driver: Owned,
    driver_port: u16,
    pub address: String,
    /// What the console says to whoever may make the first account.
    pub key: String,
    pub data: TempDir,
    profiles: TempDir,
}

/// The binary that was built beside this test.
fn binary() -> PathBuf {
    let here = std::env::current_exe().expect("the test's own path");
    let path = here.ancestors().nth(2).expect("target folder").join("zeitmass");
    assert!(path.exists(), "{} is missing: run `cargo build` first, as ./test does", path.display());
    path
}

/// Starts a process and gives the first line that contains `word`.
fn start(command: &mut Command, word: &str) -> (Owned, String) {
    let mut child = Owned(command.stdout(Stdio::piped()).stderr(Stdio::null()).spawn().expect("a process"));
    let mut lines = BufReader::new(child.0.stdout.take().expect("its output")).lines();
    let line = lines.by_ref().map_while(Result::ok).find(|l| l.contains(word)).expect("the line that says it is ready");
    // Keeps reading, so that the process never waits for a full pipe.
    std::thread::spawn(move || lines.for_each(drop));
    (child, line)
}

impl Lab {
    /// A server over an empty data folder.
    pub fn empty() -> Self {
        Self::open("serve")
    }

    /// A server with the demo's data.
    pub fn demo() -> Self {
        Self::open("demo")
    }

    fn open(command: &str) -> Self {
        let data = tempfile::tempdir().expect("a folder");
        let arguments = [command, "--bind", "127.0.0.1:0", "--data"];
        let word = if command == "serve" { "?key=" } else { "http://" };
        let (server, line) = start(Command::new(binary()).args(arguments).arg(data.path()), word);
        let address = line.rsplit_once(" at ").expect("the address").1;
        let (address, key) = address.split_once("/?key=").unwrap_or((address.trim_end_matches('/'), ""));
        let (address, key) = (address.to_owned(), key.to_owned());
        let (driver, line) = start(Command::new("chromedriver").arg("--port=0"), "successfully on port");
        let driver_port = line.trim_end_matches('.').rsplit(' ').next().and_then(|p| p.parse().ok()).expect("its port");
        Self { server, driver, driver_port, address, key, data, profiles: tempfile::tempdir().expect("a folder") }
    }

    /// A browser with a fresh profile and a window of 1280 by 800.
    pub async fn browser(&self) -> Browser {
        let profile = tempfile::tempdir_in(self.profiles.path()).expect("a profile").keep();
        let arguments = [
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--no-first-run",
            "--disable-background-networking",
            "--window-size=1280,800",
            &format!("--user-data-dir={}", profile.display()),
        ];
        let options = json!({ "goog:chromeOptions": { "binary": "/usr/bin/chromium", "args": arguments } });
        let Value::Object(capabilities) = options else { unreachable!("an object was written above") };
        let client = ClientBuilder::new(HttpConnector::new())
            .capabilities(capabilities)
            .connect(&format!("http://127.0.0.1:{}", self.driver_port))
            .await
            .expect("a browser");
        Browser { client, address: self.address.clone() }
    }

    /// A folder that is gone after the test.
    pub fn folder(&self) -> &Path {
        self.profiles.path()
    }

    /// The join code of the newest class.
    pub fn code(&self) -> String {
        let store = zeitmass_store::Store::open(Path::new(self.data.path())).expect("the store");
        store.classes(1).expect("classes")[0].code.clone()
    }
}

/// A browser and what a person does in it.
pub struct Browser {
    pub client: Client,
    address: String,
}

/// A key as it is typed.
pub fn key(key: Key) -> String {
    char::from(key).to_string()
}

impl Browser {
    #[track_caller]
    pub fn open(&self, path: &str) -> impl Future<Output = ()> {
        let url = format!("{}{path}", self.address);
        async move { self.client.goto(&url).await.expect("the page") }
    }

    /// Waits until a JavaScript condition holds; then gives its value.
    pub async fn until(&self, condition: &str) -> Value {
        let begun = Instant::now();
        // The page looks by itself for a while: asking it again and again would cost more than what is waited for.
        let script = format!(
            "const [done] = arguments, begun = performance.now();
            (function look() {{
                let value = null;
                try {{ value = ({condition}) ?? null; }} catch {{ /* not there yet */ }}
                const there = ![null, false, ''].includes(value);
                if (there || performance.now() - begun > 500) done(value); else setTimeout(look, 40);
            }})()"
        );
        loop {
            let value = self.client.execute_async(&script, vec![]).await;
            match &value {
                Ok(v) if *v != Value::Null && *v != json!(false) && *v != json!("") => return v.clone(),
                // A page that is just being replaced has no answer yet.
                _ if begun.elapsed() < PATIENCE => tokio::time::sleep(Duration::from_millis(20)).await,
                other => {
                    let text = self.client.execute("return document.body.innerText", vec![]).await;
                    panic!("never came true: {condition}\nlast: {other:?}\npage: {text:?}");
                }
            }
        }
    }

    /// Waits until something outside the page has come true; gives up in time, and the caller's assertion tells what is wrong.
    pub async fn settle(&self, done: impl Fn() -> bool) {
        let begun = Instant::now();
        while !done() && begun.elapsed() < PATIENCE {
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        assert!(done(), "it never came true");
    }

    /// Makes the browser's network slow, or cuts it off.
    pub async fn network(&self, offline: bool, latency: u32) {
        self.client.issue_cmd(Network { offline, latency }).await.expect("another network");
    }

    /// Waits until an element is there and visible.
    pub async fn find(&self, css: &str) -> Element {
        let quoted = json!(css);
        self.until(&format!("(e => e && e.getClientRects().length > 0)(document.querySelector({quoted}))")).await;
        self.client.find(Locator::Css(css)).await.unwrap_or_else(|e| panic!("{css}: {e}"))
    }

    pub async fn click(&self, css: &str) {
        let begun = Instant::now();
        while let Err(e) = self.find(css).await.click().await {
            // What was found may be replaced by what somebody else just did.
            assert!(e.is_stale_element_reference() && begun.elapsed() < PATIENCE, "{css}: {e}");
        }
    }

    /// Chooses a reading by the name of its instrument, and enters it.
    pub async fn enter(&self, reading: &str) {
        self.click(&format!("[data-reading={reading}]")).await;
        let seq = self.seq().await;
        self.click("#enter-reading").await;
        self.moved(seq).await;
    }

    /// Clicks an element inside the first container that shows a text.
    pub async fn click_beside(&self, container: &str, text: &str, css: &str) {
        let find = format!(
            "[...document.querySelectorAll({})].findIndex(e => e.innerText.includes({})) + 1",
            json!(container),
            json!(text)
        );
        let place = self.until(&format!("{find} > 0 && {find}")).await.as_u64().expect("a place") as usize;
        let all = self.client.find_all(Locator::Css(container)).await.expect("containers");
        let inside = all[place - 1].find(Locator::Css(css)).await.unwrap_or_else(|e| panic!("{css} by {text}: {e}"));
        inside.click().await.unwrap_or_else(|e| panic!("{css} by {text}: {e}"));
    }

    /// Opens the first page where one comes in by name; the demo's offers its people first.
    pub async fn gate(&self) {
        self.open("/").await;
        let offers = self.client.execute("return document.querySelector('.by-name') !== null", vec![]).await;
        if offers.expect("a page").as_bool() == Some(true) {
            self.click(".by-name > summary").await;
        }
    }

    /// The path of the page.
    pub async fn path(&self) -> String {
        self.client.current_url().await.expect("an address").path().to_owned()
    }

    /// Opens the student's logbook of a lab.
    pub async fn lab(&self, title: &str) {
        self.open("/labs").await;
        self.click_beside(".lab", title, "button").await;
        self.bench().await;
    }

    /// Clicks a field, selects what is in it and types over it.
    pub async fn fill(&self, css: &str, text: &str) {
        let field = self.find(css).await;
        field.click().await.unwrap_or_else(|e| panic!("{css}: {e}"));
        field.send_keys(&format!("{}a{}{text}", key(Key::Control), key(Key::Null))).await.expect("typing");
    }

    /// Chooses an option of a list by its text.
    pub async fn choose(&self, css: &str, label: &str) {
        let option = format!(".//option[normalize-space(.)=\"{label}\"]");
        let option = self.find(css).await.find(Locator::XPath(&option)).await;
        option
            .unwrap_or_else(|e| panic!("{css} {label}: {e}"))
            .click()
            .await
            .unwrap_or_else(|e| panic!("{label}: {e}"));
    }

    pub async fn text(&self, css: &str) -> String {
        self.find(css).await.text().await.expect("a text")
    }

    /// Sends keys to whatever has the focus, as a person without a mouse does.
    pub async fn keys(&self, keys: &str) {
        let begun = Instant::now();
        while let Err(e) = self.client.active_element().await.expect("a focus").send_keys(keys).await {
            // What has the focus may be replaced, and the focus handed on, before the keys arrive.
            assert!(e.is_stale_element_reference() && begun.elapsed() < PATIENCE, "{keys:?}: {e}");
        }
    }

    /// Where an element is: left, top, width and height.
    pub async fn rectangle(&self, css: &str) -> (f64, f64, f64, f64) {
        let begun = Instant::now();
        loop {
            match self.find(css).await.rectangle().await {
                Ok(found) => return found,
                Err(e) => assert!(e.is_stale_element_reference() && begun.elapsed() < PATIENCE, "{css}: {e}"),
            }
        }
    }

    /// Presses Tab until an element has the focus.
    pub async fn tab_to(&self, css: &str) {
        self.find(css).await;
        let here = format!("document.activeElement.matches({})", json!(css));
        // Half of the stops that lie in between are gone through in one go, the last ones one by one.
        let stops = "[...document.querySelectorAll('a[href], button, input:not([type=radio]), select, textarea, summary, [tabindex]')].filter(e => e.tabIndex >= 0 && !e.disabled && e.getClientRects().length > 0)";
        let away = format!(
            "const stops = {stops}; const at = stops.indexOf(document.activeElement); const to = stops.findIndex(e => e.matches({})); return {here} ? -1 : Math.max(1, at < 0 ? 1 : Math.floor((to - at) / 2))",
            json!(css)
        );
        for _ in 0..150 {
            let by = self.client.execute(&away, vec![]).await.expect("a focus").as_i64().expect("a number");
            if by < 0 {
                return;
            }
            self.keys(&key(Key::Tab).repeat(by as usize)).await;
        }
        panic!("Tab never reaches {css}");
    }

    /// Number of the last edit the page shows.
    pub async fn seq(&self) -> u64 {
        let seq =
            self.client.execute("return Number(document.getElementById('part-header').dataset.seq)", vec![]).await;
        seq.expect("a number").as_f64().expect("a number") as u64
    }

    /// Waits until the page shows a later edit than `seq`.
    pub async fn moved(&self, seq: u64) {
        self.until(&format!("Number(document.getElementById('part-header').dataset.seq) > {seq}")).await;
    }

    /// Waits for the bench to be ready.
    pub async fn bench(&self) {
        self.until("document.body.dataset.ready === 'true'").await;
    }

    /// Joins a class by the form on the first page.
    pub async fn join(&self, code: &str, name: &str) {
        self.gate().await;
        self.fill("#join [name=code]", code).await;
        self.fill("#join [name=name]", name).await;
        self.fill("#join [name=pin]", "2718").await;
        self.click("#join button").await;
        self.until("location.pathname === '/labs'").await;
    }

    /// Joins a class, and there the logbook that somebody has open in a lab.
    pub async fn join_partner(&self, host: &Self, code: &str, name: &str) {
        host.click("[data-partner]").await;
        let partner = host.text(".partner .code").await;
        self.join(code, name).await;
        self.fill(".join-partner [name=code]", &format!("{partner}\u{E007}")).await;
        self.bench().await;
    }

    /// Signs the demo's teacher in.
    pub async fn teach(&self) {
        self.gate().await;
        self.fill("#sign-in [name=name]", "Ottilie Rast").await;
        self.fill("#sign-in [name=password]", "anchor and wheel").await;
        self.click("#sign-in button").await;
        self.until("location.pathname === '/classes'").await;
    }

    /// Checks the page with axe-core: no serious or critical violation, and no target under 24 px, which axe-core leaves out unless it is
    /// asked for. Nothing is cut off when text is spaced widely; a page fits into 320 px, the bench into half its width (200 % zoom).
    pub async fn accessible(&self, what: &str) {
        let axe = include_str!("../../../vendor/axe.min.js");
        self.client.execute(axe, vec![]).await.expect("axe-core");
        let run = "const done = arguments[0];
            axe.run(document, { resultTypes: ['violations'], rules: { 'target-size': { enabled: true } } }).then(r => done(r.violations
                .filter(v => ['serious', 'critical'].includes(v.impact))
                .map(v => v.id + ': ' + v.nodes.map(n => n.target.join(' ') + ' ' + n.failureSummary).join(' | '))));";
        let found = self.client.execute_async(run, vec![]).await.expect("axe-core's report");
        assert_eq!(found, json!([]), "{what}");
        let cut = self.client.execute_async(include_str!("spacing.js"), vec![]).await.expect("what is cut");
        assert_eq!(cut, json!([]), "{what}");
        let bench = self.client.find(Locator::Css("body.bench")).await.is_ok();
        let width = if bench { 640 } else { 320 };
        let screen = json!({ "width": width, "height": 512, "deviceScaleFactor": 1, "mobile": true });
        self.devtools("Emulation.setDeviceMetricsOverride", screen).await;
        // What sticks out, and the page with it; what of the bar cannot be pressed, for it is cut off or lies under something else.
        let out = "const [width] = arguments;
            const covered = [...document.querySelectorAll('header.bar :is(a, button)')].filter(e => {
                const { left, top, width, height } = e.getBoundingClientRect();
                const there = document.elementFromPoint(left + width / 2, top + height / 2);
                return there && width > 0 && !e.contains(there);
            });
            const over = document.querySelector('dialog[open], .notice:not([hidden])');
            if (covered.length > 0 && !over) return covered.map(e => 'covered: ' + e.textContent);
            if (document.documentElement.scrollWidth <= width) return [];
            const out = [...document.body.querySelectorAll('*')].filter(e => e.getBoundingClientRect().right > width);
            return out.map(e => e.tagName + ' ' + e.id + ' ' + (e.getAttribute('class') ?? ''));";
        let out = self.client.execute(out, vec![json!(width)]).await.expect("what sticks out");
        self.devtools("Emulation.clearDeviceMetricsOverride", json!({})).await;
        assert_eq!(out, json!([]), "{what}: wider than {width} px");
    }

    /// Checks that whatever has the focus shows it. To be asked after a key was pressed: then the browser shows rings.
    pub async fn ringed(&self, what: &str) {
        let unseen = self.client.execute(include_str!("ring.js"), vec![]).await.expect("what has no ring");
        assert_eq!(unseen, json!([]), "{what}");
    }

    /// Does something that only the browser's developer tools can.
    async fn devtools(&self, command: &'static str, parameters: Value) {
        self.client.issue_cmd(DevTools { command, parameters }).await.expect(command);
    }
}

/// ChromeDriver's way to the developer tools.
#[derive(Debug)]
struct DevTools {
    command: &'static str,
    parameters: Value,
}

impl WebDriverCompatibleCommand for DevTools {
    fn endpoint(&self, base: &url::Url, session: Option<&str>) -> Result<url::Url, url::ParseError> {
        base.join(&format!("session/{}/goog/cdp/execute", session.unwrap_or_default()))
    }

    fn method_and_body(&self, _: &url::Url) -> (http::Method, Option<String>) {
        let body = json!({ "cmd": self.command, "params": self.parameters });
        (http::Method::POST, Some(body.to_string()))
    }
}

/// Presses at a place of an element, moves, and releases; places are in pixels from its centre.
pub async fn drag_steps(browser: &Browser, css: &str, from: (f64, f64), by: (f64, f64)) -> [PointerAction; 5] {
    let element = browser.find(css).await;
    let (x, y, width, height) = element.rectangle().await.unwrap();
    let (x, y) = (x + width / 2.0 + from.0, y + height / 2.0 + from.1);
    let to =
        |x: f64, y: f64| PointerAction::MoveTo { duration: Some(Duration::from_millis(5)), x: x.round(), y: y.round() };
    [
        to(x, y),
        PointerAction::Down { button: 0 },
        to(x + by.0 / 2.0, y + by.1 / 2.0),
        to(x + by.0, y + by.1),
        PointerAction::Up { button: 0 },
    ]
}

/// Drags with the mouse from a place of an element; places are in pixels from its centre.
pub async fn drag(browser: &Browser, css: &str, from: (f64, f64), by: (f64, f64)) {
    let mut mouse = MouseActions::new("mouse".to_owned());
    for action in drag_steps(browser, css, from, by).await {
        mouse = mouse.then(action);
    }
    browser.client.perform_actions(mouse).await.unwrap();
}

/// ChromeDriver's command for another network.
#[derive(Debug)]
struct Network {
    offline: bool,
    latency: u32,
}

impl WebDriverCompatibleCommand for Network {
    fn endpoint(&self, base: &url::Url, session: Option<&str>) -> Result<url::Url, url::ParseError> {
        base.join(&format!("session/{}/chromium/network_conditions", session.unwrap_or_default()))
    }

    fn method_and_body(&self, _: &url::Url) -> (http::Method, Option<String>) {
        let conditions = json!({
            "offline": self.offline,
            "latency": self.latency,
            "download_throughput": 10_000_000,
            "upload_throughput": 10_000_000,
        });
        (http::Method::POST, Some(json!({ "network_conditions": conditions }).to_string()))
    }
}
