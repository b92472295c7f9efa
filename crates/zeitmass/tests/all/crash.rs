//! A killed server loses no acknowledged edit and doubles none.

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use serde_json::{Value, json};
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

/// Kills in `./test`; `ZEITMASS_KILLS=1000` for a long night.
const KILLS: u32 = 25;
const WRITERS: u32 = 4;

/// Somebody who adds rows, one after the other, and sends again what was not answered.
struct Writer {
    agent: Agent,
    path: String,
    name: u32,
    /// Edits that were answered; the next one has this number.
    answered: u32,
}

impl Writer {
    fn post(&self, address: &str, path: &str, content: &Value) -> Option<(u16, Value)> {
        let mut answer = self.agent.post(format!("{address}{path}")).send_json(content).ok()?;
        Some((answer.status().as_u16(), answer.body_mut().read_json().ok()?))
    }

    /// Writes until the server is gone.
    fn write(&mut self, address: &str) {
        loop {
            let token = format!("writer {} edit {}", self.name, self.answered);
            let edit = json!({ "record": { "add_row": { "table": 1, "above": null } } });
            let Some((status, outcome)) = self.post(address, &self.path, &json!({ "edit": edit, "token": token }))
            else {
                return;
            };
            assert_eq!((status, &outcome["done"]), (200, &json!(true)), "{outcome}");
            self.answered += 1;
        }
    }
}

/// Every edit carries a token and is sent again after a restart until it is answered: whatever died in between, it is done once.
#[test]
fn a_killed_server_loses_nothing_and_doubles_nothing() {
    let folder = tempfile::tempdir().unwrap();
    let first = Server::start(folder.path());
    let store = Store::open(folder.path()).unwrap();
    let teacher = store.create_first_teacher("Ottilie Rast", "anchor and wheel").unwrap();
    let class = store.create_class(teacher, "10b").unwrap();
    store.assign(teacher, class, store.sheets(teacher).unwrap()[0].id).unwrap();
    let code = store.class(teacher, class).unwrap().code;
    let minna = store.join(&code, "Minna", "2718").unwrap();
    let logbook = store.open_logbook(minna, store.assignments(class).unwrap()[0].id).unwrap();
    let mut writers: Vec<Writer> = (0..WRITERS)
        .map(|name| {
            let agent: Agent = Agent::config_builder().http_status_as_error(false).build().into();
            let form = [("code", code.as_str()), ("name", "Minna"), ("pin", "2718")];
            let joined = agent.post(format!("{}/join", first.address)).send_form(form).unwrap();
            assert_eq!(joined.status().as_u16(), 200);
            Writer { agent, path: format!("/logbooks/{logbook}/edits"), name, answered: 0 }
        })
        .collect();
    drop(first);
    let kills = std::env::var("ZEITMASS_KILLS").ok().and_then(|k| k.parse().ok()).unwrap_or(KILLS);
    let mut chance = 0x2545_F491_4F6C_DD1D_u64;
    for _ in 0..kills {
        let mut server = Server::start(folder.path());
        chance = chance.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        let pause = Duration::from_micros(500 + (chance >> 33) % 60_000);
        std::thread::scope(|scope| {
            for writer in &mut writers {
                let address = server.address.clone();
                scope.spawn(move || writer.write(&address));
            }
            std::thread::sleep(pause);
            server.child.kill().unwrap();
        });
        let book = store.load_logbook(logbook).unwrap().book;
        let answered: u32 = writers.iter().map(|w| w.answered).sum();
        let kept = book.state().record.tables[0].rows.len() as u32;
        // Each writer may have one more stored than it heard of, never one less.
        assert!((answered..=answered + WRITERS).contains(&kept), "{answered} answered, {kept} kept");
        assert!(book.unread().is_none() && book.seq() == u64::from(kept), "one edit a row");
    }
    assert!(writers.iter().all(|w| w.answered > 0), "every writer was heard");
}
