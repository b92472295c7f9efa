//! A killed server loses no acknowledged edit.

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::atomic::{AtomicUsize, Ordering};

use ureq::Agent;
use zeitmass_store::Store;

struct Server {
    child: Child,
    address: String,
}

impl Server {
    fn start(folder: &Path) -> Self {
        let mut child = Command::new(env!("CARGO_BIN_EXE_zeitmass"))
            .args(["serve", "--bind", "127.0.0.1:0", "--data"])
            .arg(folder)
            .stdout(Stdio::piped())
            .spawn()
            .unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let address = line.trim().rsplit_once(" at ").expect("the address").1.trim_end_matches('/').to_owned();
        Self { child, address }
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        // On Unix this is SIGKILL.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

#[test]
fn a_killed_server_loses_no_acknowledged_edit() {
    let folder = tempfile::tempdir().unwrap();
    let (logbook, code) = {
        let _ready = Server::start(folder.path());
        let store = Store::open(folder.path()).unwrap();
        let teacher = store.create_first_teacher("Ottilie Rast", "anchor and wheel").unwrap();
        let class = store.create_class(teacher, "10b").unwrap();
        store.assign(teacher, class, store.sheets(teacher).unwrap()[0].id).unwrap();
        let code = store.class(teacher, class).unwrap().code;
        let minna = store.join(&code, "Minna", "2718").unwrap();
        (store.open_logbook(minna, store.assignments(class).unwrap()[0].id).unwrap(), code)
    };
    let mut acknowledged = 0;
    for round in 0..3 {
        let mut server = Server::start(folder.path());
        let agent: Agent = Agent::config_builder().http_status_as_error(false).build().into();
        let post = |path: &str, form: &[(&str, &str)]| {
            agent.post(format!("{}{path}", server.address)).send_form(form.iter().copied()).map(|a| a.status().as_u16())
        };
        assert_eq!(post("/join", &[("code", &code), ("name", "Minna"), ("pin", "2718")]).unwrap(), 200);
        let done = AtomicUsize::new(0);
        std::thread::scope(|scope| {
            let edits = scope.spawn(|| {
                let path = format!("/logbooks/{logbook}/edits");
                // Until the server is gone.
                while let Ok(status) = post(&path, &[("edit", "add_row"), ("table", "1")]) {
                    assert_eq!(status, 200);
                    done.fetch_add(1, Ordering::SeqCst);
                }
            });
            // An edit that is refused ends the thread, and its panic is heard below.
            while done.load(Ordering::SeqCst) < 20 + 10 * round && !edits.is_finished() {
                std::thread::yield_now();
            }
            server.child.kill().unwrap();
            edits.join().unwrap();
        });
        acknowledged += done.into_inner();
        let (book, _) = Store::open(folder.path()).unwrap().load_logbook(logbook).unwrap();
        let kept = book.state().tables[0].rows.len();
        // One more may be stored than the browser heard of, never one less.
        assert!((acknowledged..=acknowledged + 1).contains(&kept), "{acknowledged} acknowledged, {kept} kept");
        assert_eq!(book.seq() as usize, kept);
        acknowledged = kept;
    }
}
