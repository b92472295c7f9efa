//! Films in a real browser: from a file to an acceleration, with marks by click, following, a mark corrected by keys and by
//! finger; and files that make no film.

use std::path::{Path, PathBuf};
use std::time::Duration;

use crate::common::{Browser, Lab, drag, key};
use fantoccini::actions::{InputSource, MouseActions, PointerAction, TouchActions};
use fantoccini::key::Key;
use serde_json::Value;
use zeitmass_film::camera::Shoot;
use zeitmass_film::catalogue::film;

fn yard() -> Shoot {
    film("tower-yard").unwrap().shoot(1)
}

/// Where a place of the picture is on the screen.
async fn on_screen(browser: &Browser, [x, y]: [f64; 2]) -> (f64, f64) {
    let script = format!(
        "const p = new DOMPoint({x}, {y}).matrixTransform(document.getElementById('stage').getScreenCTM()); return [p.x, p.y];"
    );
    let at = browser.client.execute(&script, vec![]).await.unwrap();
    (at[0].as_f64().unwrap(), at[1].as_f64().unwrap())
}

pub async fn click_at(browser: &Browser, place: [f64; 2]) {
    let (x, y) = on_screen(browser, place).await;
    let to = PointerAction::MoveTo { duration: Some(Duration::from_millis(5)), x: x.round(), y: y.round() };
    let mouse = MouseActions::new("mouse".to_owned())
        .then(to)
        .then(PointerAction::Down { button: 0 })
        .then(PointerAction::Up { button: 0 });
    browser.client.perform_actions(mouse).await.unwrap();
}

/// Drags a handle of the picture to a place of the picture.
pub async fn drag_handle(browser: &Browser, label: &str, to: [f64; 2]) {
    let css = format!("#over [aria-label='{label}']");
    let (x, y) = on_screen(browser, to).await;
    let (left, top, width, height) = browser.rectangle(&css).await;
    drag(browser, &css, (0.0, 0.0), (x - left - width / 2.0, y - top - height / 2.0)).await;
}

pub async fn go_to(browser: &Browser, frame: usize) {
    let now = browser.until("document.getElementById('stage').dataset.frame !== undefined").await;
    assert_eq!(now, Value::Bool(true));
    let script = "return Number(document.getElementById('stage').dataset.frame)";
    let at = browser.client.execute(script, vec![]).await.unwrap().as_f64().unwrap() as i64;
    let by = frame as i64 - at;
    let (ten, one) = (by / 10, by % 10);
    for (count, label) in [(ten, 10), (one, 1)] {
        let css = format!("[data-frames='{}']", label * count.signum());
        for _ in 0..count.abs() {
            browser.click(&css).await;
        }
    }
    browser.until(&format!("document.getElementById('stage').dataset.frame === '{frame}'")).await;
}

pub async fn open_lab(lab: &Lab, name: &str, title: &str) -> Browser {
    let browser = lab.browser().await;
    browser.join(&lab.code(), name).await;
    let script = format!(
        "[...document.querySelectorAll('.lab')].find(l => l.innerText.includes('{title}')).querySelector('button').id = 'wanted'"
    );
    browser.client.execute(&script, vec![]).await.unwrap();
    browser.click("#wanted").await;
    browser.bench().await;
    browser.click(".spine a[data-step=measure]").await;
    browser
}

#[tokio::test(flavor = "multi_thread")]
async fn a_student_takes_a_film_to_an_acceleration() {
    let lab = Lab::demo();
    let ruth = open_lab(&lab, "Ruth Anselm", "Thrown ball").await;
    ruth.until("document.getElementById('stage').dataset.frame === '0'").await;
    ruth.accessible("a filmed lab with its film").await;
    let shoot = yard();
    scale_and_axes(&ruth, &shoot).await;
    marks(&ruth, &shoot).await;
    follow(&ruth, &shoot).await;
    second_trail(&ruth, &shoot).await;
    acceleration(&ruth).await;
    moment(&ruth).await;
    // What was done is there after the page is loaded anew.
    ruth.client.refresh().await.unwrap();
    ruth.bench().await;
    ruth.until("document.getElementById('stage').dataset.marks > 40").await;
}

async fn scale_and_axes(ruth: &Browser, shoot: &Shoot) {
    ruth.fill("#add-ruler [name=length]", "2.000 m").await;
    ruth.click("#add-ruler button").await;
    let (foot, top) = (shoot.camera.pixel([-2.95, 0.0]), shoot.camera.pixel([-2.95, 2.0]));
    drag_handle(ruth, "One end of ruler 1", top).await;
    ruth.until("document.getElementById('part-stage').dataset.film.includes('\"text\":\"2.000')").await;
    drag_handle(ruth, "Other end of ruler 1", foot).await;
    // 2.000 m over 200 px, to a pixel or two of the hand.
    ruth.until("/^0\\.0(099|100|101)/.test(document.getElementById('scale-value').textContent)").await;
    // An axis tilted by mistake is set right again by typing.
    ruth.click("details.axes summary").await;
    drag_handle(ruth, "Direction of the x axis", [200.0, 200.0]).await;
    ruth.until("!document.querySelector('details.axes summary').innerText.includes('x at 0')").await;
    ruth.fill("#axes-angle", &format!("0°{}", key(Key::Enter))).await;
    ruth.until("document.querySelector('details.axes summary').innerText.includes('x at 0')").await;
    // With one finger the origin goes to the foot of the pole.
    let (x, y) = on_screen(ruth, foot).await;
    let origin = ruth.find("#over [aria-label='Origin of the axes']").await;
    let (left, upper, width, height) = origin.rectangle().await.unwrap();
    let to =
        |x: f64, y: f64| PointerAction::MoveTo { duration: Some(Duration::from_millis(5)), x: x.round(), y: y.round() };
    let finger = TouchActions::new("finger".to_owned())
        .then(to(left + width / 2.0, upper + height / 2.0))
        .then(PointerAction::Down { button: 0 })
        .then(to(x, y - 10.0))
        .then(to(x, y))
        .then(PointerAction::Up { button: 0 });
    let seq = ruth.seq().await;
    ruth.client.perform_actions(finger).await.unwrap();
    ruth.moved(seq).await;
    let script = "return JSON.parse(document.getElementById('part-stage').dataset.film).axes.origin";
    let at = ruth.client.execute(script, vec![]).await.unwrap();
    let off = (at[0].as_f64().unwrap() - foot[0]).hypot(at[1].as_f64().unwrap() - foot[1]);
    assert!(off < 4.0, "the origin is {off} px off: {at}");
}

async fn marks(ruth: &Browser, shoot: &Shoot) {
    ruth.fill("#add-trail [name=name]", "ball").await;
    ruth.click("#add-trail button").await;
    ruth.until("document.querySelectorAll('.trail-row').length === 1").await;
    ruth.click("#marking").await;
    for frame in 2..6 {
        go_to(ruth, frame).await;
        let seq = ruth.seq().await;
        click_at(ruth, shoot.truth(frame)[0].1).await;
        // The film goes on by itself.
        ruth.until(&format!("document.getElementById('stage').dataset.frame === '{}'", frame + 1)).await;
        ruth.moved(seq).await;
    }
    ruth.until("document.querySelectorAll('#part-record tbody tr[id^=row-]').length >= 4").await;
    ruth.click("#marking").await;
    // One of them is moved by a tenth of a pixel, three times, with keys alone.
    go_to(ruth, 3).await;
    let before = mark_of(ruth, 3).await;
    let mark = ruth.find("#over [aria-label='Mark of ball']").await;
    let seq = ruth.seq().await;
    ruth.client.execute("arguments[0].focus()", vec![serde_json::to_value(&mark).unwrap()]).await.unwrap();
    ruth.keys(&key(Key::Right).repeat(3)).await;
    ruth.moved(seq).await;
    let after = mark_of(ruth, 3).await;
    assert!((after[0] - before[0] - 0.3).abs() < 1e-6 && after[1] == before[1], "{before:?} {after:?}");
    // A mark too many goes, and comes back by undo.
    let marks = "document.getElementById('stage').dataset.marks";
    ruth.click("#unmark").await;
    ruth.until(&format!("{marks} === '3'")).await;
    ruth.click("[data-edit*=undo]").await;
    ruth.until(&format!("{marks} === '4'")).await;
}

async fn mark_of(ruth: &Browser, frame: usize) -> [f64; 2] {
    let script = format!(
        "return JSON.parse(document.getElementById('part-stage').dataset.film).trails[0].marks.find(m => m[0] === {frame})"
    );
    let mark = ruth.client.execute(&script, vec![]).await.unwrap();
    [mark[1].as_f64().unwrap(), mark[2].as_f64().unwrap()]
}

async fn follow(ruth: &Browser, shoot: &Shoot) {
    // Two frames on from the last mark, as one who has not gone back.
    go_to(ruth, 7).await;
    ruth.fill("#follow-box", "28").await;
    ruth.click("#follow").await;
    ruth.until("/Followed|Stopped/.test(document.getElementById('follow-said').textContent)").await;
    ruth.until("document.getElementById('stage').dataset.marks > 40").await;
    for frame in [12, 30, 50] {
        let ([x, y], [tx, ty]) = (mark_of(ruth, frame).await, shoot.truth(frame)[0].1);
        // The first mark was clicked to a pixel of the screen; the rest keeps its offset.
        assert!((x - tx).hypot(y - ty) < 2.0, "frame {frame}: {x} {y} instead of {tx} {ty}");
    }
}

/// A trail that is added is the one marked next, also where the origin of the axes and an end of the ruler lie.
async fn second_trail(ruth: &Browser, shoot: &Shoot) {
    ruth.fill("#add-trail [name=name]", "foot of the pole").await;
    ruth.click("#add-trail button").await;
    ruth.until("document.querySelector('input[name=trail]:checked').closest('.trail-row').innerText.includes('foot')")
        .await;
    ruth.click("#marking").await;
    let seq = ruth.seq().await;
    click_at(ruth, shoot.camera.pixel([-2.95, 0.0])).await;
    ruth.moved(seq).await;
    ruth.until("/foot[^]*1 mark$/m.test(document.querySelectorAll('.trail-row')[1].innerText)").await;
    ruth.click("[data-edit*=undo]").await;
    ruth.click("[data-edit*=undo]").await;
    ruth.until("document.querySelectorAll('.trail-row').length === 1").await;
    ruth.click("#marking").await;
}

async fn acceleration(ruth: &Browser) {
    ruth.click("details.from-trail summary").await;
    ruth.choose("#trail-rows", "by parabolas through 11 marks").await;
    ruth.click("#trail-column").await;
    ruth.until("document.getElementById('part-record').innerText.includes('parabola of 11')").await;
    ruth.choose("#axis-y", "vy (velocity y, parabola of 11)").await;
    ruth.choose("#axis-x", "t (time)").await;
    ruth.click(".spine a[data-step=linearize]").await;
    ruth.choose("#model", "straight line").await;
    ruth.until("document.querySelector('.read-out')?.innerText.includes('falls by')").await;
    ruth.click(".spine a[data-step=constant]").await;
    let law = ruth.find("[id^=law-][id$=-slope]").await;
    law.send_keys(&format!("-g{}", key(Key::Enter))).await.unwrap();
    ruth.until("/g = 9\\.[789]|g = \\(9\\.[789]/.test(document.getElementById('part-constant').innerText)").await;
    ruth.until("document.getElementById('part-constant').innerText.includes('agree within uncertainty')").await;
}

async fn moment(ruth: &Browser) {
    ruth.click(".spine a[data-step=measure]").await;
    go_to(ruth, 20).await;
    ruth.click("details.moment-box summary").await;
    ruth.until("document.getElementById('moment').innerText.includes('velocity along x')").await;
    ruth.fill("#moment-mass", &format!("0,150 kg{}", key(Key::Tab))).await;
    ruth.until("document.getElementById('moment').innerText.includes('½ m v²')").await;
    ruth.until("document.getElementById('moment').innerText.includes('0.15 kg')").await;
}

fn clip(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/clips").join(name)
}

async fn offer(browser: &Browser, file: &Path) {
    let input = browser.find("#intake-file").await;
    input.send_keys(file.to_str().unwrap()).await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn films_of_several_kinds_are_brought_and_others_are_refused() {
    let lab = Lab::demo();
    let ruth = open_lab(&lab, "Ruth Anselm", "Thrown ball").await;
    let film = |what: &str| {
        format!(
            "(() => {{ const f = document.getElementById('part-stage').dataset.film; return f !== '' && ({what})(JSON.parse(f)); }})()"
        )
    };
    // A WebM as it is.
    ruth.click("#bring-film").await;
    offer(&ruth, &clip("yard-vp9.webm")).await;
    ruth.until("document.getElementById('intake-count').textContent.startsWith('66 frames')").await;
    ruth.accessible("the intake").await;
    ruth.click("#intake-start").await;
    ruth.until(&film("f => f.times.length === 66 && f.width === 320 && f.title === 'yard-vp9'")).await;
    // An MP4, trimmed, every second frame, filmed at 240 frames a second.
    ruth.click("#bring-film").await;
    offer(&ruth, &clip("yard-h264.mp4")).await;
    ruth.until("document.getElementById('intake-count').textContent.startsWith('66 frames')").await;
    ruth.fill("#intake [name=from]", "0.5").await;
    ruth.fill("#intake [name=every]", "2").await;
    ruth.fill("#intake [name=filmed]", "240").await;
    ruth.until("document.getElementById('intake-count').textContent.startsWith('18 frames')").await;
    ruth.click("#intake-start").await;
    ruth.until(&film("f => f.times.length === 18 && Math.abs(f.times[1] - 2 / 240) < 1e-6")).await;
    // A variable frame rate keeps its times; a rotation flag is heeded.
    ruth.click("#bring-film").await;
    offer(&ruth, &clip("yard-variable.mp4")).await;
    ruth.until("document.getElementById('intake-count').textContent.startsWith('66 frames')").await;
    ruth.click("#intake-start").await;
    let times = "f => f.times.length === 66 && Math.abs(f.times[2] - f.times[1] - 1 / 60) < 1e-3 && Math.abs(f.times[60] - f.times[59] - 1 / 30) < 1e-3";
    ruth.until(&film(times)).await;
    ruth.click("#bring-film").await;
    offer(&ruth, &clip("yard-rotated.mp4")).await;
    ruth.until("document.getElementById('intake-facts').textContent.startsWith('180 × 320')").await;
    ruth.click("#intake-start").await;
    ruth.until(&film("f => f.width === 180 && f.height === 320")).await;

    let folder = tempfile::tempdir().unwrap();
    let whole = std::fs::read(clip("yard-h264.mp4")).unwrap();
    let webm = std::fs::read(clip("yard-vp9.webm")).unwrap();
    let file = |name: &str, bytes: &[u8]| {
        let path = folder.path().join(name);
        std::fs::write(&path, bytes).unwrap();
        path
    };
    let refusals = [
        (file("empty.mp4", b""), "This file is empty."),
        (file("letter.mp4", b"Dear Ottilie, the film is on the way."), "not a film that can be read"),
        (file("half.mp4", &whole[..whole.len() / 2]), "cut off"),
        (file("broken.zip", b"PK\x03\x04 no zip at all"), ""),
    ];
    ruth.click("#bring-film").await;
    for (path, words) in refusals {
        offer(&ruth, &path).await;
        if words.is_empty() {
            // The server unpacks zips, and says what is wrong with this one.
            ruth.until("!document.getElementById('intake-start').disabled").await;
            ruth.click("#intake-start").await;
            ruth.until("document.getElementById('intake-said').textContent.includes('damaged')").await;
        } else {
            ruth.until(&format!("document.getElementById('intake-said').textContent.includes('{words}')")).await;
        }
    }
    // A wrong name does not matter: what is in the file decides.
    offer(&ruth, &file("renamed.mp4", &webm)).await;
    ruth.until("document.getElementById('intake-count').textContent.startsWith('66 frames')").await;
    ruth.click("#intake-cancel").await;
    ruth.until("!document.getElementById('film-dialog').open").await;
    ruth.until(&film("f => f.width === 180")).await;
}

/// From the speeds to the drag of a sunshade; no number is typed but that of g.
async fn drag_of_a_sunshade(ruth: &Browser) {
    // From the speeds to the drag of a sunshade; no number is typed but that of g.
    ruth.click("[data-column=new]").await;
    for (field, value) in [("name", "speed squared"), ("symbol", "q"), ("formula", "v^2\n")] {
        ruth.fill(&format!("#column-dialog [name={field}]"), value).await;
    }
    ruth.until("!document.getElementById('column-dialog').open").await;
    ruth.click("[data-open=graph-dialog]").await;
    ruth.click("#graph-dialog [data-edit*=add_graph]").await;
    ruth.until("document.querySelector('#part-graph .tabs [aria-pressed=true]')?.textContent.includes('2')").await;
    ruth.click("#graph-dialog > .line > [data-close]").await;
    ruth.choose("#axis-y", "q (speed squared)").await;
    ruth.choose("#axis-x", "m (mass of the loaded sunshade)").await;
    ruth.choose("#model", "straight line").await;
    ruth.until("document.querySelector('.read-out')?.innerText.includes('rises by')").await;
    ruth.click(".spine a[data-step=constant]").await;
    let source = "[...document.querySelectorAll('#result-1 select option')].find(o => o.textContent === 'slope of graph 2')?.value";
    let source = ruth.until(source).await;
    ruth.find("#result-1 select").await.select_by_value(source.as_str().unwrap()).await.unwrap();
    ruth.fill("#law-1-slope", "9.81 [m/s^2]/k\n").await;
    let value = ruth.until("document.querySelector('#part-constant .value')?.textContent").await;
    let k: String = value
        .as_str()
        .unwrap()
        .chars()
        .skip_while(|c| !c.is_ascii_digit())
        .take_while(|c| c.is_ascii_digit() || *c == '.')
        .collect();
    let (k, wanted) = (k.parse::<f64>().unwrap(), zeitmass_film::catalogue::SUNSHADE_DRAG);
    assert!((k / wanted - 1.0).abs() < 0.05, "{value} instead of {wanted} kg/m");
}

/// Five sunshades falling side by side are followed; the steady part of each fall gets a line, and its slope goes beside its mass by one action.
#[tokio::test(flavor = "multi_thread")]
async fn steady_speeds_go_beside_their_masses_without_being_typed() {
    let lab = Lab::demo();
    let ruth = open_lab(&lab, "Ruth Anselm", "Steady fall").await;
    ruth.until("document.getElementById('stage').dataset.frame === '0'").await;
    let shoot = film("sunshades").unwrap().shoot(1);
    ruth.fill("#add-ruler [name=length]", "2.000 m").await;
    ruth.click("#add-ruler button").await;
    for (label, point) in [("One end of ruler 1", [3.3, 2.0]), ("Other end of ruler 1", [3.3, 0.0])] {
        let seq = ruth.seq().await;
        drag_handle(&ruth, label, shoot.camera.pixel(point)).await;
        ruth.moved(seq).await;
    }
    let names = ["one", "two", "three", "four", "five"];
    for (k, name) in names.iter().enumerate() {
        let seq = ruth.seq().await;
        ruth.fill("#add-trail [name=name]", name).await;
        ruth.click("#add-trail button").await;
        ruth.moved(seq).await;
        go_to(&ruth, 8).await;
        ruth.click("#marking").await;
        let seq = ruth.seq().await;
        click_at(&ruth, shoot.truth(8)[k].1).await;
        ruth.moved(seq).await;
        ruth.click("#marking").await;
        go_to(&ruth, 8).await;
        let before = ruth.until("document.getElementById('stage').dataset.marks").await;
        ruth.click("#follow").await;
        let marks = format!("document.getElementById('stage').dataset.marks - {} > 80", before.as_str().unwrap());
        let done = "document.getElementById('follow-stop').hidden && /Followed|Stopped/.test(document.getElementById('follow-said').textContent)";
        ruth.until(&format!("{marks} && {done}")).await;
    }
    ruth.click(".spine a[data-step=linearize]").await;
    // A series for each of them.
    for (select, place) in [("#axis-y", 3), ("#axis-x", 1)] {
        let seq = ruth.seq().await;
        column(&ruth, select, "one", place).await;
        ruth.moved(seq).await;
    }
    ruth.click("[data-open=graph-dialog]").await;
    for name in &names[1..] {
        let seq = ruth.seq().await;
        column(&ruth, "#graph-dialog select[name=y]", name, 3).await;
        column(&ruth, "#graph-dialog select[name=x]", name, 1).await;
        ruth.click_beside("#graph-dialog form", "Add series", "button").await;
        ruth.moved(seq).await;
    }
    // Neither the start nor a landing is in it. Each of them gets a line of its own.
    ruth.fill("#graph-dialog form[data-edit*=add_stretch] [name=from]", "0.95 s").await;
    ruth.fill("#graph-dialog form[data-edit*=add_stretch] [name=to]", "1.35 s").await;
    ruth.click("#graph-dialog form[data-edit*=add_stretch] button").await;
    ruth.until("document.querySelectorAll('form.stretch').length === 5").await;
    ruth.click("#graph-dialog > .line > [data-close]").await;
    ruth.accessible("five intervals on a graph").await;
    // One action fills the column, each speed beside its mass.
    ruth.until("document.querySelector('form.drawn select[name=column]')?.innerText.includes('v in Terminal speeds')")
        .await;
    ruth.click("form.drawn button").await;
    let speeds = "[...document.querySelectorAll('#part-record tbody tr td.drawn input')].map(i => i.value)";
    ruth.click("#part-record [data-look-table]").await;
    ruth.until(&format!("{speeds}.length === 5")).await;
    let found = ruth.until(speeds).await;
    for (k, value) in found.as_array().unwrap().iter().enumerate() {
        let value: f64 = value.as_str().unwrap().replace('\u{2212}', "-").parse().unwrap();
        let steady = zeitmass_film::catalogue::steady_speed(k + 1);
        assert!((value.abs() - steady).abs() < 0.03 * steady, "{found} instead of {steady} m/s");
    }
    // The length on the ruler is another, and every speed follows.
    let before = ruth.until(speeds).await;
    ruth.click(".spine a[data-step=measure]").await;
    ruth.fill(".ruler-row input", "1.000 m\n").await;
    ruth.until(&format!("JSON.stringify({speeds}) !== JSON.stringify({before})")).await;
    ruth.click("[data-edit*=undo]").await;
    ruth.until(&format!("JSON.stringify({speeds}) === JSON.stringify({before})")).await;
    ruth.click(".spine a[data-step=linearize]").await;
    drag_of_a_sunshade(&ruth).await;

    document(&ruth).await;
}

/// Chooses a column of one of several tables, which have columns of the same names.
async fn column(browser: &Browser, select: &str, table: &str, place: u32) {
    let option = format!("{select} optgroup[label='{table}'] option:nth-child({place})");
    let value = browser.until(&format!("document.querySelector(\"{option}\")?.value")).await;
    browser.find(select).await.select_by_value(value.as_str().unwrap()).await.unwrap();
}

/// Six tables and two graphs go into a document: introduced, put in order by keys and by hand, and taken along.
async fn document(ruth: &Browser) {
    ruth.click(".spine a[data-step=write-up]").await;
    let names = "[...document.querySelectorAll('#part-texts .write-outline li b')].map(b => b.textContent)";
    ruth.until(&format!("{names}.filter(n => n.startsWith('Table')).length === 6")).await;
    ruth.until(&format!("{names}.filter(n => n.startsWith('Figure')).length === 2")).await;
    ruth.until("document.querySelectorAll('#part-texts .write-outline .said').length === 8").await;
    // The marks of a single sunshade are not needed in it, the speeds are introduced.
    ruth.click_beside("#part-texts .write-outline li", "Table 2: one", "button.small").await;
    ruth.until(&format!("{names}.filter(n => /^Table \\d/.test(n)).length === 5")).await;
    let intro = "li[data-block*=table] textarea[aria-label$='Terminal speeds']";
    ruth.fill(intro, "Table 1 has the speeds of the steady parts.").await;
    ruth.click("#part-texts .write-outline h3").await;
    ruth.until("document.querySelectorAll('#part-texts .write-outline .said').length === 6").await;
    ruth.accessible("the outline of a write-up").await;
    // Up by its arrow, then to another place by its handle.
    let seq = ruth.seq().await;
    ruth.click_beside("#part-texts .write-outline li", "Figure 2", "button[title=Up]").await;
    ruth.moved(seq).await;
    ruth.until(&format!("{names}.find(n => n.startsWith('Figure')).includes('q against m')")).await;
    let seq = ruth.seq().await;
    let height = "document.querySelector('#part-texts .write-outline li').offsetHeight";
    let by = ruth.until(height).await.as_f64().unwrap();
    // A person scrolls to it first.
    let scroll = "document.querySelector('#part-texts .write-outline h3').scrollIntoView()";
    ruth.client.execute(scroll, vec![]).await.unwrap();
    drag(ruth, "#part-texts .write-outline li:first-child [data-grip]", (0.0, 0.0), (0.0, 2.2 * by)).await;
    ruth.moved(seq).await;
    ruth.until(&format!("{names}[0] !== 'Question'")).await;
    // It is the same in the page to print and in the document.
    let script = "const done = arguments[0]; fetch(location.pathname + '/write-up.docx').then(r => r.arrayBuffer().then(b => done([r.status, b.byteLength])));";
    let got = ruth.client.execute_async(script, vec![]).await.unwrap();
    assert!(got[0] == 200 && got[1].as_f64().unwrap() > 40_000.0, "{got}");
    ruth.open(&format!("{}/write-up", ruth.path().await.split('#').next().unwrap())).await;
    let text = ruth.text(".write-up").await;
    assert!(text.contains("Table 1 has the speeds of the steady parts."), "{text}");
    assert!(text.contains("v from curves; q calculated"), "{text}");
}

/// A film taken at a slant is set right by the corners of its frame, at the speed of somebody who types and drags without waiting.
#[tokio::test(flavor = "multi_thread")]
async fn four_corners_set_a_film_right() {
    let lab = Lab::demo();
    let ruth = open_lab(&lab, "Ruth Anselm", "From the gate").await;
    ruth.until("document.getElementById('stage').dataset.frame === '0'").await;
    let shoot = film("yard-aslant").unwrap().shoot(1);
    ruth.fill("#add-ruler [name=length]", "2.000 m").await;
    ruth.click("#add-ruler button").await;
    for (label, point) in [("One end of ruler 1", [-2.95, 2.0]), ("Other end of ruler 1", [-2.95, 0.0])] {
        let seq = ruth.seq().await;
        drag_handle(&ruth, label, shoot.camera.pixel(point)).await;
        ruth.moved(seq).await;
    }
    ruth.click("details.aslant summary").await;
    ruth.fill("#add-plane [name=width]", &format!("4.800 m{}", key(Key::Tab))).await;
    // What is no length is said, and what was typed stands there still.
    ruth.keys(&format!("wide{}", key(Key::Enter))).await;
    ruth.until("document.getElementById('said')?.innerText.length > 0 || document.body.innerText.includes('wide')")
        .await;
    let width = ruth.find("#add-plane [name=width]").await.prop("value").await.unwrap();
    assert_eq!(width.as_deref(), Some("4.800 m"));
    ruth.fill("#add-plane [name=height]", &format!("2.200 m{}", key(Key::Enter))).await;
    ruth.until("document.querySelectorAll('#over .plane .handle').length === 4").await;
    let corners = ["Lower left corner", "Lower right corner", "Upper right corner", "Upper left corner"];
    for (label, point) in corners.iter().zip(zeitmass_film::catalogue::FRAME) {
        let seq = ruth.seq().await;
        drag_handle(&ruth, label, shoot.camera.pixel(point)).await;
        ruth.moved(seq).await;
    }
    ruth.accessible("a film with a rectangle over it").await;
    // The ruler stands in the plane of the frame: it reads its length, to a pixel or two of the hand.
    ruth.until("/reads (1\\.9[6-9]|2\\.0[0-4])\\d* ?.?m/.test(document.querySelector('.ruler-row').innerText)").await;
    // A corner on the wrong side is refused, and goes back to where it was.
    let before = ruth.text("#scale-value").await;
    drag_handle(&ruth, "Lower left corner", shoot.camera.pixel([2.6, 2.5])).await;
    ruth.until("document.body.innerText.includes('do not go round a rectangle')").await;
    let at = "document.querySelector('#over [aria-label=\"Lower left corner\"]').getAttribute('transform')";
    let there = shoot.camera.pixel(zeitmass_film::catalogue::FRAME[0]);
    ruth.until(&format!("Math.abs(Number({at}.match(/[\\d.]+/)[0]) - {}) < 4", there[0])).await;
    assert_eq!(ruth.text("#scale-value").await, before);
    // Taken away it is as before, and undo brings it back.
    ruth.click("#plane-delete").await;
    ruth.until("document.querySelectorAll('#over .plane').length === 0").await;
    ruth.click("[data-edit*=undo]").await;
    ruth.until("document.querySelectorAll('#over .plane .handle').length === 4").await;
}
