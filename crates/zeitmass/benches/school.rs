//! A school at work on the server as it is shipped, over real connections: memory, and how long edits and sign-ins take. Lines `name value`;
//! `benches/school` reads them. ZEITMASS_SCHOOL_SECONDS says how long the school works; ten minutes without.

use std::io::{BufRead, BufReader, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail};
use serde_json::{Value, json};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::task::JoinSet;
use zeitmass_film::{Rgb, catalogue};
use zeitmass_store::{Actor, Id, Store};
use zeitmass_web::SHIPPED_SHEETS;

/// Classes, and students of each; those of the last one bring films of their own.
const CLASSES: usize = 10;
const STUDENTS: usize = 30;
/// Frames of such a film.
const FRAMES: usize = 60;
/// Edits such a student makes before the others begin to be counted: choosing the film, and an object in it.
const FILM_EDITS: usize = 2;
/// Students of a class who come in at once.
const AT_THE_BELL: usize = 36;

struct Server {
    child: Child,
    at: String,
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Server {
    fn start(folder: &Path) -> Result<Self> {
        let mut child = Command::new(env!("CARGO_BIN_EXE_zeitmass"))
            .args(["serve", "--bind", "127.0.0.1:0", "--data"])
            .arg(folder)
            .stdout(Stdio::piped())
            .spawn()?;
        let mut line = String::new();
        BufReader::new(child.stdout.take().context("no output")?).read_line(&mut line)?;
        let at = line.trim().rsplit_once("http://").context("no address")?.1.trim_end_matches('/').to_owned();
        Ok(Self { child, at })
    }

    /// Memory in MB: now, and the most it ever was.
    fn memory(&self) -> Result<(f64, f64)> {
        let status = std::fs::read_to_string(format!("/proc/{}/status", self.child.id()))?;
        let of = |name: &str| -> Result<f64> {
            let line = status.lines().find(|l| l.starts_with(name)).context("no such line")?;
            Ok(line.split_whitespace().nth(1).context("no number")?.parse::<f64>()? / 1024.0)
        };
        Ok((of("VmRSS")?, of("VmHWM")?))
    }
}

impl Server {
    /// Seconds of processor time it has taken.
    fn processor(&self) -> Result<f64> {
        let stat = std::fs::read_to_string(format!("/proc/{}/stat", self.child.id()))?;
        // Fields 14 and 15, in hundredths; the name before them may hold spaces.
        let after: Vec<&str> = stat.rsplit_once(')').context("no name")?.1.split_whitespace().collect();
        Ok((after[11].parse::<f64>()? + after[12].parse::<f64>()?) / 100.0)
    }
}

const FORM: &str = "application/x-www-form-urlencoded";
const JSON: &str = "application/json";

/// One person's connection, kept open.
struct Line {
    at: String,
    cookie: String,
    stream: Option<tokio::net::TcpStream>,
}

impl Line {
    fn new(at: &str, cookie: &str) -> Self {
        Self { at: at.to_owned(), cookie: cookie.to_owned(), stream: None }
    }

    /// Status and body of an answer.
    async fn ask(&mut self, method: &str, path: &str, kind: &str, body: &[u8]) -> Result<(u16, Vec<u8>)> {
        let mut stream = match self.stream.take() {
            Some(stream) => stream,
            None => tokio::net::TcpStream::connect(&self.at).await?,
        };
        stream.set_nodelay(true)?;
        let (at, cookie, length) = (&self.at, &self.cookie, body.len());
        let head = format!(
            "{method} {path} HTTP/1.1\r\nHost: {at}\r\nCookie: {cookie}\r\nContent-Type: {kind}\r\nContent-Length: {length}\r\n\r\n"
        );
        stream.write_all(&[head.as_bytes(), body].concat()).await?;
        let mut got = Vec::new();
        let end = loop {
            if let Some(end) = got.windows(4).position(|w| w == b"\r\n\r\n") {
                break end + 4;
            }
            if stream.read_buf(&mut got).await? == 0 {
                bail!("the connection was closed");
            }
        };
        let head = String::from_utf8_lossy(&got[..end]).to_ascii_lowercase();
        let status: u16 = head.split(' ').nth(1).context("no status")?.parse()?;
        let length =
            head.lines().find_map(|l| l.strip_prefix("content-length: ")).and_then(|l| l.parse::<usize>().ok());
        let length = if status == 204 { Some(0) } else { length };
        let mut content = got.split_off(end);
        // Without a length it comes in chunks, of which the last is empty.
        while length.map_or_else(|| !content.ends_with(b"0\r\n\r\n"), |length| content.len() < length) {
            if stream.read_buf(&mut content).await? == 0 {
                bail!("the answer broke off");
            }
        }
        self.stream = Some(stream);
        Ok((status, content))
    }

    /// Asks for what has to be given.
    async fn get(&mut self, method: &str, path: &str, kind: &str, body: &[u8]) -> Result<Vec<u8>> {
        let (status, content) = self.ask(method, path, kind, body).await?;
        if status >= 400 {
            bail!("{method} {path}: {status} {}", String::from_utf8_lossy(&content));
        }
        Ok(content)
    }

    /// Sends an edit; gives its number.
    async fn edit(&mut self, logbook: Id, token: &str, edit: &Value) -> Result<u64> {
        let body = json!({ "edit": edit, "token": token }).to_string();
        let answer = self.get("POST", &format!("/logbooks/{logbook}/edits"), JSON, body.as_bytes()).await?;
        serde_json::from_slice::<Value>(&answer)?["seq"].as_u64().context("no number")
    }

    /// What changed since an edit, as the page fetches it.
    async fn news(&mut self, logbook: Id, since: u64) -> Result<()> {
        let body = json!({ "since": since, "look": {} }).to_string();
        self.get("POST", &format!("/logbooks/{logbook}/parts"), JSON, body.as_bytes()).await?;
        Ok(())
    }
}

struct School {
    folder: tempfile::TempDir,
    /// Code of a class that nobody has joined.
    code: String,
    /// Session and logbook of everybody.
    people: Vec<(String, Id)>,
}

fn school() -> Result<School> {
    let folder = tempfile::tempdir()?;
    let store = Store::open(folder.path())?;
    for (key, source) in SHIPPED_SHEETS {
        store.load_shipped(key, source)?;
    }
    let teacher = store.create_first_teacher("Ottilie Rast", "anchor and wheel")?;
    let sheets = store.sheets(teacher)?;
    let sheet = |title: &str| sheets.iter().find(|s| s.source.contains(title)).map(|s| s.id).context("no sheet");
    let (swings, thrown) = (sheet("\"Tower pendulum\"")?, sheet("\"Thrown ball\"")?);
    let mut people = Vec::new();
    for k in 0..CLASSES {
        let class = store.create_class(teacher, &format!("class {k}"))?;
        store.assign(teacher, class, if k + 1 == CLASSES { thrown } else { swings })?;
        let (code, lab) = (store.class(teacher, class)?.code, store.assignments(class)?[0].id);
        for n in 0..STUDENTS {
            let student = store.join(&code, &format!("Student {k} {n}"), "2718")?;
            let cookie = format!("zeitmass={}", store.begin_session(Actor::Student(student))?);
            people.push((cookie, store.open_logbook(student, lab)?));
        }
    }
    let class = store.create_class(teacher, "at the bell")?;
    let code = store.class(teacher, class)?.code;
    Ok(School { folder, code, people })
}

/// A film as a browser sends it: what it is, and its frames in one part.
fn film() -> Result<(String, Vec<u8>)> {
    let shoot = catalogue::film("tower-yard").context("no film")?.shoot(1);
    let roll = shoot.roll(1)?;
    let (mut part, mut size) = (Vec::new(), (0, 0));
    for n in 0..FRAMES {
        let jpeg = shoot.jpeg(&roll, n)?;
        let picture = Rgb::read(&jpeg)?;
        size = (picture.width, picture.height);
        part.extend((n as u32).to_le_bytes());
        part.extend((jpeg.len() as u32).to_le_bytes());
        part.extend(jpeg);
    }
    let times: Vec<f64> = (0..FRAMES).map(|n| n as f64 / 60.0).collect();
    Ok((json!({ "title": "yard", "width": size.0, "height": size.1, "times": times }).to_string(), part))
}

/// Brings a film and puts it on the stage; gives its key and the number of the last edit.
async fn bring(line: &mut Line, logbook: Id, (facts, part): (String, Vec<u8>)) -> Result<(String, u32)> {
    let base = format!("/logbooks/{logbook}");
    let begun: Value =
        serde_json::from_slice(&line.get("POST", &format!("{base}/films"), JSON, facts.as_bytes()).await?)?;
    let key = begun["key"].as_str().context("no film")?.to_owned();
    let path = format!("{base}/films/{}", begun["film"]);
    // While others bring theirs, one is asked to come again.
    while line.ask("PUT", &format!("{path}/frames"), "application/octet-stream", &part).await?.0 == 503 {
        tokio::time::sleep(Duration::from_secs(1)).await;
    }
    line.get("POST", &format!("{path}/finish"), JSON, b"").await?;
    let choose = json!({ "key": key, "token": format!("film of {logbook}") }).to_string();
    line.get("POST", &format!("{base}/stage"), JSON, choose.as_bytes()).await?;
    let add = json!({ "film": { "add_trail": { "film": key, "name": "ball", "table": null } } });
    line.edit(logbook, &format!("trail of {logbook}"), &add).await?;
    let page = String::from_utf8(line.get("GET", &base, FORM, b"").await?)?;
    let trail =
        page.split("name=\"trail\" value=\"").nth(1).and_then(|t| t.split('"').next()).context("no trail")?.parse()?;
    Ok((key.replace(' ', "%20"), trail))
}

/// One student at work until the end; gives how long each edit took until it was stored and until the page
/// could show it, in ms.
async fn work(
    at: String,
    (cookie, logbook): (String, Id),
    film: Option<(String, Vec<u8>)>,
    until: Instant,
) -> Result<Vec<(f64, f64)>> {
    let mut line = Line::new(&at, &cookie);
    // The stream of what moves, held open as pages do.
    let mut stream = tokio::net::TcpStream::connect(&at).await?;
    let head = format!("GET /logbooks/{logbook}/events HTTP/1.1\r\nHost: {at}\r\nCookie: {cookie}\r\n\r\n");
    stream.write_all(head.as_bytes()).await?;
    line.get("GET", &format!("/logbooks/{logbook}"), FORM, b"").await?;
    let mut key = None;
    if let Some(film) = film {
        key = Some(bring(&mut line, logbook, film).await?);
    }
    let (mut took, mut next) = (Vec::new(), Instant::now());
    for k in 0u32.. {
        if next >= until {
            break;
        }
        tokio::time::sleep_until(next.into()).await;
        let typed = format!("{}.{:02}", 1 + k % 7, k % 100);
        // Some thirty rows, as labs have; from then on the last one is set right again and again.
        let type_cell =
            json!({ "record": { "type_cell": { "row": "below", "column": 1 + k % 2, "typed": typed, "was": null } } });
        let edit = match &key {
            Some((_, trail)) => {
                json!({ "film": { "place_mark": { "trail": trail, "frame": k as usize % FRAMES, "at": [k % 600, k % 300] } } })
            }
            None if k < 60 || k % 2 == 0 => type_cell,
            None => json!("undo"),
        };
        let asked = Instant::now();
        let since = line.edit(logbook, &format!("{logbook} edit {k:06}"), &edit).await?;
        let stored = asked.elapsed().as_secs_f64() * 1e3;
        line.news(logbook, since - 1).await?;
        took.push((stored, asked.elapsed().as_secs_f64() * 1e3));
        if let Some((key, _)) = &key {
            let path = format!("/logbooks/{logbook}/pictures/{key}/{}", k as usize % FRAMES);
            line.get("GET", &path, FORM, b"").await?;
        }
        next += Duration::from_secs(1);
    }
    stream.shutdown().await?;
    Ok(took)
}

/// New names all at once; gives the seconds until the last is in, and how many were told to come again.
async fn bell(at: &str, code: &str, names: &str, count: usize) -> Result<(f64, usize)> {
    let began = Instant::now();
    let mut all = JoinSet::new();
    for k in 0..count {
        let (mut line, form) = (Line::new(at, ""), format!("code={code}&name={names}+{k}&pin=2718"));
        all.spawn(async move { line.ask("POST", "/join", FORM, form.as_bytes()).await });
    }
    let mut refused = 0;
    while let Some(answer) = all.join_next().await {
        refused += usize::from(answer??.0 != 303);
    }
    Ok((began.elapsed().as_secs_f64(), refused))
}

/// The worst that was tried: 300 names at once, names of megabytes, and large uploads that stop half-way.
async fn worst(server: &Server, school: &School) -> Result<usize> {
    let (_, refused) = bell(&server.at, &school.code, "Crowd", 300).await?;
    for k in 0..50 {
        let name = format!("name={k}{}&password=wrong+password", "x".repeat(3_900_000));
        // Refused before it was read: the connection may end in the middle of it.
        let _ = Line::new(&server.at, "").ask("POST", "/sign-in", FORM, name.as_bytes()).await;
    }
    let mut halves = Vec::new();
    for (cookie, logbook) in &school.people[school.people.len() - STUDENTS..] {
        let mut half = TcpStream::connect(&server.at)?;
        let path = format!("/logbooks/{logbook}/films-of-stills?title=x");
        let head = format!(
            "POST {path} HTTP/1.1\r\nHost: {}\r\nCookie: {cookie}\r\nContent-Length: 399000000\r\n\r\n",
            server.at
        );
        half.set_write_timeout(Some(Duration::from_millis(300)))?;
        half.write_all(head.as_bytes())?;
        let piece = vec![b'P'; 1 << 20];
        // Those that have to wait for their turn take nothing yet.
        (0..60).all(|_| half.write_all(&piece).is_ok());
        halves.push(half);
    }
    Ok(refused)
}

fn main() -> Result<()> {
    let seconds = std::env::var("ZEITMASS_SCHOOL_SECONDS").ok().and_then(|s| s.parse().ok()).unwrap_or(600);
    let school = school()?;
    let film = film()?;
    let server = Server::start(school.folder.path())?;
    let mut out = std::io::stdout();
    writeln!(out, "memory_idle_mb {:.0}", server.memory()?.0)?;
    let runtime = tokio::runtime::Builder::new_current_thread().enable_all().build()?;
    runtime.block_on(async {
        let (last, _) = bell(&server.at, &school.code, "Bell", AT_THE_BELL).await?;
        writeln!(out, "last_in_s {last:.2}\nmemory_after_bell_mb {:.0}", server.memory()?.0)?;
        let (began, before) = (Instant::now(), server.processor()?);
        let until = began + Duration::from_secs(seconds);
        let (mut all, people) = (JoinSet::new(), school.people.len());
        for (n, who) in school.people.iter().cloned().enumerate() {
            let film = (n >= people - STUDENTS).then(|| film.clone());
            let at = server.at.clone();
            // Not all in the same tick: people are not.
            let begins = Duration::from_millis((n * 1000 / people) as u64);
            all.spawn(async move {
                tokio::time::sleep(begins).await;
                work(at, who, film, until).await
            });
        }
        let mut times = Vec::new();
        while let Some(done) = all.join_next().await {
            times.extend(done??);
        }
        writeln!(out, "edits {}", times.len())?;
        let (mut stored, mut shown): (Vec<f64>, Vec<f64>) = times.iter().copied().unzip();
        for (what, times) in [("edit", &mut stored), ("shown", &mut shown)] {
            times.sort_by(f64::total_cmp);
            for (name, share) in [("p50", 0.5), ("p99", 0.99), ("max", 1.0)] {
                writeln!(out, "{what}_{name}_ms {:.1}", times[((times.len() - 1) as f64 * share) as usize])?;
            }
        }
        let busy = (server.processor()? - before) / began.elapsed().as_secs_f64();
        let bytes: u64 =
            std::fs::read_dir(school.folder.path())?.filter_map(|e| Some(e.ok()?.metadata().ok()?.len())).sum();
        writeln!(out, "processor_share {busy:.3}\nfolder_mb {:.0}", bytes as f64 / 1e6)?;
        let (now, most) = server.memory()?;
        writeln!(out, "memory_at_work_mb {now:.0}\nmemory_at_work_most_mb {most:.0}")?;
        let store = Store::open(school.folder.path())?;
        let stored = school.people.iter().map(|(_, id)| Ok(store.history(*id, None, 1_000_000)?.len()));
        let stored: usize = stored.collect::<Result<Vec<_>>>()?.into_iter().sum();
        writeln!(out, "edits_lost {}", times.len() + FILM_EDITS * STUDENTS - stored)?;
        writeln!(out, "refused_of_300 {}", worst(&server, &school).await?)?;
        writeln!(out, "memory_worst_mb {:.0}", server.memory()?.1)?;
        tokio::time::sleep(Duration::from_secs(3)).await;
        writeln!(out, "memory_afterwards_mb {:.0}", server.memory()?.0)?;
        Ok(())
    })
}
