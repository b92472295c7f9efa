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

/// A server that encrypts with a certificate of its own: the same one after a restart, spoken to by whoever trusts it and by nobody else.
#[test]
fn a_server_with_a_certificate_of_its_own_keeps_it() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("data");
    let start = |more: &[&str]| {
        let mut arguments = vec!["serve", "--bind", "127.0.0.1:0", "--data", data.to_str().unwrap()];
        arguments.extend(more);
        let child =
            Command::new(env!("CARGO_BIN_EXE_zeitmass")).args(arguments).stdout(Stdio::piped()).spawn().unwrap();
        let mut running = Running(child);
        let mut lines = BufReader::new(running.0.stdout.take().unwrap()).lines();
        let at = lines.next().unwrap().unwrap().rsplit_once(" at ").unwrap().1.to_owned();
        let fingerprint = lines.by_ref().nth(1).unwrap().unwrap();
        (running, at, fingerprint)
    };
    let (first, at, fingerprint) = start(&["--tls-self", "--tls-name", "yard.invalid"]);
    assert!(at.starts_with("https://127.0.0.1:"), "{at}");
    assert!(fingerprint.contains("SHA-256 fingerprint is ") && fingerprint.matches(':').count() >= 31, "{fingerprint}");
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        let mode = std::fs::metadata(data.join("own-key.pem")).unwrap().permissions().mode();
        assert_eq!(mode & 0o777, 0o600);
    }
    // Whoever trusts this certificate is answered, with cookies for encrypted connections alone.
    let pem = data.join("own-certificate.pem");
    let answer = spoken_to(&at, Some(&pem)).unwrap();
    assert!(answer.contains("200 OK") && answer.contains("strict-transport-security"), "{answer}");
    assert!(answer.contains("; Secure"), "{answer}");
    assert!(spoken_to(&at, None).is_err(), "nobody vouches for it");
    drop(first);
    let (second, at, again) = start(&["--tls-self", "--tls-name", "yard.invalid"]);
    assert_eq!(again, fingerprint);
    assert!(spoken_to(&at, Some(&pem)).is_ok());
    drop(second);
    let (other, _, changed) = start(&["--tls-self", "--tls-name", "tower.invalid"]);
    assert_ne!(changed, fingerprint, "it is for another name");
    drop(other);
    // The same from files, and files that do not fit.
    let (key, pem) = (data.join("own-key.pem"), data.join("own-certificate.pem"));
    let refused = zeitmass(&[
        "serve",
        "--bind",
        "127.0.0.1:0",
        "--data",
        data.to_str().unwrap(),
        "--tls-cert",
        key.to_str().unwrap(),
        "--tls-key",
        key.to_str().unwrap(),
    ]);
    assert!(!refused.status.success() && said(&refused).contains("holds no certificate"), "{}", said(&refused));
    let from_files = Command::new(env!("CARGO_BIN_EXE_zeitmass"))
        .args(["serve", "--bind", "127.0.0.1:0", "--data", data.to_str().unwrap()])
        .args(["--tls-cert", pem.to_str().unwrap(), "--tls-key", key.to_str().unwrap()])
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let mut from_files = Running(from_files);
    let mut line = String::new();
    BufReader::new(from_files.0.stdout.take().unwrap()).read_line(&mut line).unwrap();
    assert!(spoken_to(line.trim().rsplit_once(" at ").unwrap().1, Some(&pem)).is_ok());
}

/// Asks for the first page over TLS, trusting one certificate or none.
fn spoken_to(at: &str, trusted: Option<&Path>) -> Result<String, Box<dyn std::error::Error>> {
    use rustls::pki_types::pem::PemObject;
    use std::io::{Read, Write};
    let mut roots = rustls::RootCertStore::empty();
    if let Some(path) = trusted {
        roots.add(rustls::pki_types::CertificateDer::from_pem_file(path)?)?;
    }
    let provider = std::sync::Arc::new(rustls::crypto::ring::default_provider());
    let config = rustls::ClientConfig::builder_with_provider(provider)
        .with_safe_default_protocol_versions()?
        .with_root_certificates(roots)
        .with_no_client_auth();
    let address = at.trim_start_matches("https://").trim_end_matches('/');
    let name = rustls::pki_types::ServerName::try_from("127.0.0.1")?;
    let mut session = rustls::ClientConnection::new(std::sync::Arc::new(config), name)?;
    let mut socket = std::net::TcpStream::connect(address)?;
    let mut stream = rustls::Stream::new(&mut session, &mut socket);
    stream.write_all(format!("GET / HTTP/1.1\r\nHost: {address}\r\nConnection: close\r\n\r\n").as_bytes())?;
    let mut answer = Vec::new();
    // A server that just hangs up at the end has answered all the same.
    let _ = stream.read_to_end(&mut answer);
    if answer.is_empty() { Err("no answer".into()) } else { Ok(String::from_utf8_lossy(&answer).into_owned()) }
}

/// The log has a line for whatever matters later, and in none of them a name, a password, a PIN, a code or a token.
#[test]
fn the_log_tells_what_happened_and_no_secret() {
    let folder = tempfile::tempdir().unwrap();
    let data = folder.path().join("data");
    let logbook = filled(&data);
    let store = Store::open(&data).unwrap();
    let teacher = store.teacher_named("Ottilie Rast").unwrap().unwrap();
    let class = store.classes(teacher).unwrap()[0].clone();
    let mut child = Command::new(env!("CARGO_BIN_EXE_zeitmass"))
        .args(["serve", "--bind", "127.0.0.1:0", "--data", data.to_str().unwrap()])
        .env("RUST_LOG", "debug")
        .stdout(Stdio::piped())
        .stderr(std::fs::File::create(folder.path().join("log")).unwrap())
        .spawn()
        .unwrap();
    let mut line = String::new();
    BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
    let server = Running(child);
    let at = line.trim().rsplit_once(" at ").unwrap().1.trim_end_matches('/').to_owned();
    let agent = || ureq::Agent::new_with_config(ureq::Agent::config_builder().http_status_as_error(false).build());
    let (minna, desk) = (agent(), agent());
    let post = |who: &ureq::Agent, path: &str, form: &[(&str, &str)]| {
        who.post(format!("{at}{path}")).send_form(form.iter().copied()).unwrap().status().as_u16()
    };
    assert_eq!(post(&minna, "/join", &[("code", &class.code), ("name", "Minna"), ("pin", "9183")]), 422);
    post(&minna, "/join", &[("code", &class.code), ("name", "Minna"), ("pin", "2718")]);
    post(&agent(), "/join", &[("code", &class.code), ("name", "Alma Uhrich"), ("pin", "6021")]);
    assert_eq!(post(&desk, "/sign-in", &[("name", "Ottilie Rast"), ("password", "pallet and wheel")]), 422);
    post(&desk, "/sign-in", &[("name", "Ottilie Rast"), ("password", "anchor and wheel")]);
    let zip =
        minna.get(format!("{at}/logbooks/{logbook}/logbook.zip")).call().unwrap().body_mut().read_to_vec().unwrap();
    let import = minna.post(format!("{at}/logbooks/{logbook}/import?name=logbook.zip"));
    assert_eq!(import.send(&zip[..]).unwrap().status().as_u16(), 200);
    let edit = serde_json::json!({ "edit": { "office": "hand_in" }, "token": "handing in now" });
    assert_eq!(minna.post(format!("{at}/logbooks/{logbook}/edits")).send_json(&edit).unwrap().status().as_u16(), 200);
    post(&desk, &format!("/logbooks/{logbook}/send-back"), &[("note", "look again")]);
    assert_eq!(minna.get(format!("{at}/logbooks/4711")).call().unwrap().status().as_u16(), 404);
    drop(server);
    let log = std::fs::read_to_string(folder.path().join("log")).unwrap();
    for told in
        ["signed in", "refused at the door", "joined", "taken along", "a file was brought", "handed in", "sent back"]
    {
        assert!(log.contains(told), "{told}:\n{log}");
    }
    assert!(log.contains(&format!("/logbooks/{logbook}/import")), "{log}");
    assert!(log.contains("student ") && log.contains("teacher "), "{log}");
    let secrets =
        ["2718", "9183", "6021", "anchor and wheel", "pallet", "Minna", "Alma", "Ottilie", &class.code, "zeitmass="];
    // Digits in the midst of a moment's microseconds are none.
    let digit = |c: Option<char>| c.is_some_and(|c| c.is_ascii_digit());
    for secret in secrets {
        let apart = |i: usize| !digit(log[..i].chars().next_back()) && !digit(log[i + secret.len()..].chars().next());
        let told = log.match_indices(secret).any(|(i, _)| !digit(secret.chars().next()) || apart(i));
        assert!(!told, "{secret}:\n{log}");
    }
}
