//! What a run costs on its way to the stage: bytes as sent, and the time from a changed setting to the new scene. Lines `name value`;
//! `benches/rigs` reads them.

use std::io::Write;

use serde_json::json;
use std::time::Instant;
use zeitmass_core::logbook::{Edit, RunEdit};

use axum::Router;
use axum::body::Body;
use axum::http::{Request, header};
use http_body_util::BodyExt;
use tower::ServiceExt;
use zeitmass_store::{Actor, Asked, Store};
use zeitmass_web::{App, router};

/// A sheet that frees some settings of a rig, with all its curves and nothing to forecast.
fn sheet(rig: &str, settings: &str) -> String {
    format!(
        "+++\nnumber = \"9.1\"\ntitle = \"Bench\"\nunit = \"Benches\"\nrig = \"{rig}\"\n[settings]\n{settings}\n\
         [[columns]]\nkind = \"read\"\nname = \"time\"\nsymbol = \"t\"\nunit = \"s\"\n\
         [goal]\nsymbol = \"g\"\nname = \"gravity\"\naccepted = \"9.81 m/s^2\"\n+++\n## Question\nHow long?\n"
    )
}

/// Runs of a minute, or as long as the rig goes, and a setting to change.
const CASES: [(&str, &str, (&str, &str)); 19] = [
    ("shuttle", "\"velocity 1\" = \"free 0.15 m/s\"", ("velocity 1", "0.14")),
    ("trolley", "load = \"free 0 kg\"\n\"thrust 1\" = \"fixed 0.01 N\"\nrail = \"fixed 17 m\"", ("load", "0.1")),
    (
        "slope",
        "angle = \"free 1 deg\"\nlength = \"fixed 18 m\"\nworld = \"fixed Pluto\"\nfriction = \"fixed 0\"",
        ("angle", "1.1"),
    ),
    (
        "shaft",
        "height = \"free 1900 m\"\ndrag = \"fixed air\"\ndiameter = \"fixed 100 mm\"\n\"velocity x\" = \"fixed 20 m/s\"",
        ("height", "1850"),
    ),
    (
        "thrower",
        "speed = \"free 60 m/s\"\nangle = \"fixed 88 deg\"\nair = \"fixed both\"\ngravity = \"fixed 2.2 m/s^2\"",
        ("speed", "59"),
    ),
    ("spring", "pull = \"free 5 cm\"\ndamping = \"fixed 0.005 kg/s\"", ("pull", "4")),
    ("whirl", "speed = \"free 2 m/s\"", ("speed", "2.1")),
    ("buffers", "\"velocity 1\" = \"free 0.2 m/s\"", ("velocity 1", "0.21")),
    ("pendulum", "length = \"free 0.2 m\"\nangle = \"fixed 80 deg\"\ndrag = \"fixed on\"", ("length", "0.21")),
    (
        "hills",
        "course = \"fixed own\"\nnodes = \"free 0 4; 2 3.1; 4 2.3; 6 1.7; 8 1.2; 10 0.9; 12 0.7; 14 0.7; 16 0.9; 18 1.2; 20 1.7; 22 2.3; 24 3.1; 26 4.2\"\nstart = \"free 0.5 m\"",
        ("start", "0.6"),
    ),
    ("orrery", "x = \"free 1 au\"\nv_y = \"fixed 20 km/s\"\nplanets = \"fixed two\"", ("x", "1.1")),
    ("torsion", "large = \"free 100 kg\"", ("large", "90")),
    ("cabins", "\"velocity 1\" = \"free 1 m/s\"", ("velocity 1", "1.1")),
    ("discs", "number = \"free 1000\"\nsides = \"fixed 6\"", ("number", "900")),
    ("wire", "frequency = \"free 150 Hz\"", ("frequency", "151")),
    ("moon", "pointing = \"free 76 deg\"\nmoon = \"fixed unknown\"", ("pointing", "77")),
    ("basin", "\"depth 1\" = \"free 9 m\"\n\"depth 2\" = \"fixed 3 m\"", ("depth 1", "8")),
    ("millrace", "place = \"free 3 m\"", ("place", "2")),
    ("scales", "number = \"free 200\"", ("number", "190")),
];

async fn ask(app: &Router, cookie: &str, request: axum::http::request::Builder, body: String) -> usize {
    let request = request
        .header(header::COOKIE, cookie)
        .header(header::ACCEPT_ENCODING, "gzip")
        .header(header::CONTENT_TYPE, "application/json")
        .body(Body::from(body))
        .expect("a request");
    let answer = app.clone().oneshot(request).await.expect("an answer");
    assert!(answer.status().is_success(), "{}", answer.status());
    answer.into_body().collect().await.expect("a body").to_bytes().len()
}

fn main() {
    let mut out = std::io::stdout().lock();
    let runtime = tokio::runtime::Runtime::new().expect("a runtime");
    for (rig, settings, (name, value)) in CASES {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(folder.path()).expect("a store");
        store.load_shipped("9.1-bench.md", &sheet(rig, settings)).expect("the sheet");
        let teacher = store.create_first_teacher("Ottilie Rast", "anchor and wheel").expect("a teacher");
        let class = store.create_class(teacher, "10b").expect("a class");
        store.assign(teacher, class, store.sheets(teacher).expect("sheets")[0].id).expect("a lab");
        let student = store.join(&store.class(teacher, class).expect("it").code, "Minna", "2718").expect("a student");
        let id = store.open_logbook(student, store.assignments(class).expect("labs")[0].id).expect("a logbook");
        let mut book = store.load_logbook(id).expect("the logbook").book;
        let asked = Asked { by: Actor::Student(student), token: None, edit: &Edit::Run(RunEdit::Run) };
        store.carry_out(id, &mut book, asked).expect("a run");
        let cookie = format!("zeitmass={}", store.begin_session(Actor::Student(student)).expect("a session"));
        let app = router(App::new(store).expect("the application"));
        let sent = runtime.block_on(ask(&app, &cookie, Request::get(format!("/logbooks/{id}/runs/1")), String::new()));
        writeln!(out, "sent_{rig} {sent}").expect("a line");
        let mut times: Vec<f64> = (0..15)
            .map(|i| {
                let more = if i % 2 == 0 {
                    ""
                } else if value.contains('.') {
                    "0"
                } else {
                    ".0"
                };
                let set = json!({ "run": { "set_setting": { "name": name, "typed": format!("{value}{more}") } } });
                let form = json!({ "edit": set, "token": format!("setting {i}") }).to_string();
                let begun = Instant::now();
                runtime.block_on(async {
                    ask(&app, &cookie, Request::post(format!("/logbooks/{id}/edits")), form).await;
                    ask(&app, &cookie, Request::get(format!("/logbooks/{id}/setup")), String::new()).await;
                });
                begun.elapsed().as_secs_f64()
            })
            .collect();
        times.sort_by(f64::total_cmp);
        writeln!(out, "scene_{rig} {:e}", times[times.len() / 2]).expect("a line");
    }
}
