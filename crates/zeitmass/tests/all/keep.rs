//! Looking after a data folder from the command line, beside a server that is at work in it.

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Output, Stdio};

use zeitmass_core::logbook::{Edit, RecordEdit, RowAt};
use zeitmass_store::{Actor, Asked, Store};

fn zeitmass(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_zeitmass")).args(arguments).output().unwrap()
}

fn said(output: &Output) -> String {
    format!("{}{}", String::from_utf8_lossy(&output.stdout), String::from_utf8_lossy(&output.stderr))
}

struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn serve(folder: &Path) -> (Running, String) {
    let mut child = Command::new(env!("CARGO_BIN_EXE_zeitmass"))
        .args(["serve", "--bind", "127.0.0.1:0", "--data", folder.to_str().unwrap()])
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let mut line = String::new();
    BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
    (Running(child), line.trim().rsplit_once(" at ").unwrap().1.trim_end_matches('/').to_owned())
}

/// A folder with a logbook of three rows.
fn filled(folder: &Path) -> i64 {
    let store = Store::open(folder).unwrap();
    let teacher = store.create_first_teacher("Ottilie Rast", "anchor and wheel").unwrap();
    store.load_shipped("2.1-tower-pendulum.md", include_str!("../../../../labs/2.1-tower-pendulum.md")).unwrap();
    let class = store.create_class(teacher, "10b").unwrap();
    store.assign(teacher, class, store.sheets(teacher).unwrap()[0].id).unwrap();
    let student = store.join(&store.class(teacher, class).unwrap().code, "Minna", "2718").unwrap();
    let id = store.open_logbook(student, store.assignments(class).unwrap()[0].id).unwrap();
    let mut book = store.load_logbook(id).unwrap().book;
    for typed in ["0.4", "0.5", "0.6"] {
        let edit = Edit::Record(RecordEdit::TypeCell { row: RowAt::Below, column: 1, typed: typed.into(), was: None });
        store.carry_out(id, &mut book, Asked { by: Actor::Student(student), token: None, edit: &edit }).unwrap();
    }
    id
}

#[test]
fn a_copy_made_beside_the_server_is_brought_back_whole() {
    let folder = tempfile::tempdir().unwrap();
    let (data, copy, back) = (folder.path().join("data"), folder.path().join("copy.zip"), folder.path().join("back"));
    let id = filled(&data);
    let (server, _) = serve(&data);
    let (data, copy, back) = (data.to_str().unwrap(), copy.to_str().unwrap(), back.to_str().unwrap());

    let second = zeitmass(&["serve", "--bind", "127.0.0.1:0", "--data", data]);
    assert!(!second.status.success() && said(&second).contains("another Zeitmass works in"), "{}", said(&second));
    let made = zeitmass(&["backup", "--data", data, "--to", copy]);
    assert!(made.status.success(), "{}", said(&made));
    let again = zeitmass(&["backup", "--data", data, "--to", copy]);
    assert!(!again.status.success() && said(&again).contains("is there already"));
    let checked = zeitmass(&["check", "--data", data]);
    assert_eq!(checked.status.code(), Some(0), "{}", said(&checked));
    assert!(said(&checked).trim_end().ends_with("is sound."), "{}", said(&checked));
    drop(server);

    let restored = zeitmass(&["restore", "--from", copy, "--data", back]);
    assert!(restored.status.success(), "{}", said(&restored));
    let book = |folder: &str| Store::open(Path::new(folder)).unwrap().load_logbook(id).unwrap().book;
    assert!(book(data) == book(back));
    let twice = zeitmass(&["restore", "--from", copy, "--data", back]);
    assert!(!twice.status.success() && said(&twice).contains("is not empty"), "{}", said(&twice));

    // A damaged copy brings nothing back, wherever the damage is.
    let bytes = std::fs::read(copy).unwrap();
    for at in [bytes.len() / 3, bytes.len() / 2, bytes.len() - 30] {
        let mut damaged = bytes.clone();
        damaged[at] ^= 0x55;
        let (file, empty) = (folder.path().join("damaged.zip"), folder.path().join(format!("empty-{at}")));
        std::fs::write(&file, damaged).unwrap();
        let refused = zeitmass(&["restore", "--from", file.to_str().unwrap(), "--data", empty.to_str().unwrap()]);
        assert!(!refused.status.success(), "damage at {at}");
        assert!(!empty.join("zeitmass.sqlite").exists() && !empty.join("films.sqlite").exists());
    }
}

#[test]
fn a_folder_that_is_not_sound_is_told_with_exit_code_one() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().to_str().unwrap();
    let id = filled(folder.path());
    let base = rusqlite::Connection::open(folder.path().join("zeitmass.sqlite")).unwrap();
    base.execute("UPDATE edits SET deed = '{\"turn\":\"later\"}' WHERE seq = 2", []).unwrap();
    base.execute("DELETE FROM snapshots", []).unwrap();
    let checked = zeitmass(&["check", "--data", data]);
    assert_eq!(checked.status.code(), Some(1), "{}", said(&checked));
    assert!(said(&checked).contains(&format!("Logbook {id} can be read up to edit 1 only.")), "{}", said(&checked));
    assert!(said(&checked).trim_end().ends_with("is not sound."));
    let nothing = zeitmass(&["check", "--data", folder.path().join("nowhere").to_str().unwrap()]);
    assert_eq!(nothing.status.code(), Some(2));
}

#[test]
fn a_forgotten_password_is_replaced_on_the_server() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().to_str().unwrap();
    filled(folder.path());
    let made = zeitmass(&["password", "--data", data, "--name", "ottilie rast"]);
    let text = said(&made);
    let password = text.lines().next().unwrap().rsplit(' ').next().unwrap();
    let store = Store::open(folder.path()).unwrap();
    let teacher = store.teacher_named("Ottilie Rast").unwrap();
    assert!(store.is_password(teacher, password).unwrap() && !store.is_password(teacher, "anchor and wheel").unwrap());
    assert!(!zeitmass(&["password", "--data", data, "--name", "Nobody"]).status.success());
}

#[cfg(unix)]
#[test]
fn the_server_stops_when_it_is_told_to_and_its_folder_is_its_owners() {
    use std::os::unix::fs::PermissionsExt;
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("data");
    let (mut server, address) = serve(&data);
    assert_eq!(data.metadata().unwrap().permissions().mode() & 0o777, 0o700);
    assert_eq!(ureq::get(format!("{address}/health")).call().unwrap().body_mut().read_to_string().unwrap(), "ok\n");
    let told = Command::new("kill").args(["-TERM", &server.0.id().to_string()]).status().unwrap();
    assert!(told.success());
    assert_eq!(server.0.wait().unwrap().code(), Some(0));
}
