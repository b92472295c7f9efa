//! Films over HTTP: who may use which route, films that arrive in parts, two at once, a server that stops meanwhile, files
//! that are no films, and an object followed.

use std::io::{Cursor, Write};

use axum::Router;
use axum::body::Body;
use axum::http::{HeaderMap, Request, StatusCode, header};
use base64::Engine;
use base64::prelude::BASE64_STANDARD;
use http_body_util::BodyExt;
use serde_json::{Value, json};
use tower::ServiceExt;
use zeitmass_film::{Rgb, catalogue, jpeg};
use zeitmass_store::{FilmOwner, Id, Store};
use zeitmass_web::{App, router};

const SHEET: &str = include_str!("../../../../labs/4.1-thrown-ball.md");

/// Two classmates, each with a logbook of the lab, a student of another class, and the teacher.
struct Town {
    folder: tempfile::TempDir,
    app: Router,
    logbook: Id,
    other: Id,
    teacher: String,
    member: String,
    classmate: String,
    stranger: String,
}

fn town() -> Town {
    let c = crate::common::class("4.1-thrown-ball.md", SHEET);
    let open = |student| c.store.open_logbook(student, c.lab).unwrap();
    let (logbook, other) = (open(c.member), open(c.classmate));
    let [teacher, member, classmate, stranger] = c.cookies;
    let app = router(App::new(c.store).unwrap());
    Town { folder: c.folder, app, logbook, other, teacher, member, classmate, stranger }
}

struct Answer {
    status: StatusCode,
    headers: HeaderMap,
    body: Vec<u8>,
}

impl Answer {
    fn json(&self) -> Value {
        serde_json::from_slice(&self.body).unwrap_or_else(|_| panic!("{}", self.text()))
    }

    fn text(&self) -> String {
        String::from_utf8_lossy(&self.body).into_owned()
    }
}

impl Town {
    async fn ask(&self, method: &str, path: &str, cookie: &str, kind: &str, body: Vec<u8>) -> Answer {
        let request = Request::builder()
            .method(method)
            .uri(path)
            .header(header::COOKIE, cookie)
            .header(header::CONTENT_TYPE, kind)
            .body(Body::from(body))
            .unwrap();
        let answer = self.app.clone().oneshot(request).await.unwrap();
        let (status, headers) = (answer.status(), answer.headers().clone());
        Answer { status, headers, body: answer.into_body().collect().await.unwrap().to_bytes().to_vec() }
    }

    async fn get(&self, path: &str) -> Answer {
        self.ask("GET", path, &self.member, "", Vec::new()).await
    }

    async fn form(&self, path: &str, form: &str) -> Answer {
        self.ask("POST", path, &self.member, crate::common::kind(form), form.as_bytes().to_vec()).await
    }

    async fn edit(&self, edit: Value) -> Answer {
        let sent = crate::common::sent(&edit.to_string(), &crate::common::token());
        let answer = self.form(&format!("/logbooks/{}/edits", self.logbook), &sent).await;
        assert_eq!(answer.status, StatusCode::OK, "{edit}: {}", answer.text());
        answer
    }

    async fn stage(&self, key: &str) -> Answer {
        let chosen = json!({ "key": key, "token": crate::common::token() });
        self.form(&format!("{}/stage", self.base()), &chosen.to_string()).await
    }

    fn base(&self) -> String {
        format!("/logbooks/{}", self.logbook)
    }

    async fn begin(&self, frames: usize) -> i64 {
        let times: Vec<f64> = (0..frames).map(|n| n as f64 * 0.1).collect();
        let coming = json!({ "title": "my film", "width": 16, "height": 12, "times": times });
        let path = format!("{}/films", self.base());
        let answer = self.ask("POST", &path, &self.member, "application/json", coming.to_string().into_bytes()).await;
        assert_eq!(answer.status, StatusCode::OK, "{}", answer.text());
        answer.json()["film"].as_i64().unwrap()
    }

    async fn put(&self, film: i64, body: Vec<u8>) -> Answer {
        self.ask("PUT", &format!("{}/films/{film}/frames", self.base()), &self.member, "", body).await
    }

    /// Everything stored of films.
    fn films(&self) -> usize {
        let store = Store::open(self.folder.path()).unwrap();
        let of = |id| store.films_of(&FilmOwner::Logbook(id)).unwrap().len();
        of(self.logbook) + of(self.other)
    }
}

fn picture(level: u8, width: usize, height: usize) -> Vec<u8> {
    jpeg(&Rgb { width, height, data: vec![level; 3 * width * height] }, 90).unwrap()
}

/// Frames as they are sent: number, length, JPEG.
fn part(frames: &[(u32, Vec<u8>)]) -> Vec<u8> {
    let mut body = Vec::new();
    for (number, jpeg) in frames {
        body.extend(number.to_le_bytes());
        body.extend((jpeg.len() as u32).to_le_bytes());
        body.extend(jpeg);
    }
    body
}

fn level(n: u32) -> u8 {
    (40 + 20 * n) as u8
}

fn frames(numbers: impl IntoIterator<Item = u32>) -> Vec<u8> {
    part(&numbers.into_iter().map(|n| (n, picture(level(n), 16, 12))).collect::<Vec<_>>())
}

#[tokio::test]
async fn every_route_of_films_lets_in_only_those_it_is_for() {
    let t = town();
    let film = t.begin(2).await;
    assert_eq!(t.put(film, frames(0..2)).await.status, StatusCode::OK);
    let base = t.base();
    let key = format!("film%20{film}");
    t.ask("POST", &format!("{base}/films/{film}/finish"), &t.member, "", Vec::new()).await;
    t.stage(&format!("film {film}")).await;
    t.edit(json!({ "film": { "add_trail": { "film": format!("film {film}"), "name": "ball", "table": null } } })).await;
    // What nobody, the member, a classmate, a stranger and the teacher get.
    let readers = [303, 200, 404, 404, 200];
    let writers = |ok: u16| [303, ok, 404, 404, 403];
    let teacher = |ok: u16| [303, 403, 403, 403, ok];
    let routes = [
        ("GET", format!("{base}/films"), "", readers),
        ("POST", format!("{base}/films"), "json", writers(200)),
        // It is whole already.
        ("PUT", format!("{base}/films/{film}/frames"), "", writers(422)),
        ("GET", format!("{base}/films/{film}/frames"), "", writers(200)),
        ("POST", format!("{base}/films/{film}/finish"), "", writers(204)),
        // It is in use on the bench.
        ("DELETE", format!("{base}/films/{film}"), "", writers(422)),
        ("POST", format!("{base}/films-of-stills"), "", writers(422)),
        ("POST", format!("{base}/stage"), r#"{"key":"nothing","token":"choosing nothing"}"#, writers(404)),
        ("GET", format!("{base}/pictures/{key}/1"), "", readers),
        ("GET", format!("{base}/strobe/{key}?from=0&to=1&blend=darken"), "", readers),
        ("POST", format!("{base}/trails/1/follow"), "from=0&side=9", writers(404)),
        ("GET", format!("{base}/trails/1/follow"), "", [303, 204, 404, 404, 204]),
        ("DELETE", format!("{base}/trails/1/follow"), "", writers(204)),
        ("GET", format!("{base}/moment?frame=0&trail=1"), "", readers),
        ("GET", "/films".to_owned(), "", teacher(200)),
        ("POST", "/films".to_owned(), "json", teacher(200)),
        // Another's film does not exist.
        ("PUT", format!("/films/{film}/frames"), "", teacher(404)),
        ("GET", format!("/films/{film}/frames"), "", teacher(404)),
        ("GET", format!("/films/{film}/frames/0"), "", teacher(404)),
        ("POST", format!("/films/{film}/finish"), "", teacher(404)),
        ("DELETE", format!("/films/{film}"), "", teacher(404)),
        ("POST", "/films-of-stills".to_owned(), "", teacher(422)),
    ];
    let people = ["", &t.member, &t.classmate, &t.stranger, &t.teacher];
    for (method, path, body, expected) in routes {
        for (cookie, expected) in people.iter().zip(expected) {
            let before = t.films();
            let (kind, bytes) = match body {
                "json" => ("application/json", br#"{"title":"x","width":4,"height":4,"times":[0,1]}"#.to_vec()),
                form => (crate::common::kind(form), form.as_bytes().to_vec()),
            };
            let answer = t.ask(method, &path, cookie, kind, bytes).await;
            assert_eq!(answer.status.as_u16(), expected, "{method} {path} by {cookie:?}: {}", answer.text());
            if expected >= 303 {
                assert_eq!(t.films(), before, "{method} {path} left a trace");
            }
        }
    }
    // A demo film that the sheet does not name is none of this logbook's.
    assert_eq!(t.get(&format!("{base}/pictures/buffer/1")).await.status, StatusCode::NOT_FOUND);
    let theirs = format!("/logbooks/{}/pictures/{key}/1", t.other);
    let answer = t.ask("GET", &theirs, &t.classmate, "", Vec::new()).await;
    assert_eq!(answer.status, StatusCode::NOT_FOUND, "a film is seen from its own logbook only");
}

#[tokio::test]
async fn two_films_arrive_at_once_and_go_on_after_the_server_was_stopped() {
    let mut t = town();
    let (one, two) = (t.begin(6).await, t.begin(4).await);
    let (a, b) = tokio::join!(t.put(one, frames(0..3)), t.put(two, frames(0..2)));
    assert_eq!((a.json()["arrived"].as_u64(), b.json()["arrived"].as_u64()), (Some(3), Some(2)));
    let finish = |film| format!("/logbooks/{}/films/{film}/finish", t.logbook);
    let early = t.ask("POST", &finish(one), &t.member, "", Vec::new()).await;
    assert!(early.status == StatusCode::UNPROCESSABLE_ENTITY && early.text().contains("3 frames"), "{}", early.text());
    // The server stops and comes back; the browser asks what is missing, and sends that.
    t.app = router(App::new(Store::open(t.folder.path()).unwrap()).unwrap());
    let missing = t.get(&format!("{}/films/{one}/frames", t.base())).await.json();
    assert_eq!(missing["missing"], json!([3, 4, 5]));
    // A part that was sent already may come again.
    let (a, b) = tokio::join!(t.put(one, frames(2..6)), t.put(two, frames(2..4)));
    assert_eq!((a.json()["arrived"].as_u64(), b.json()["arrived"].as_u64()), (Some(6), Some(4)));
    for film in [one, two] {
        let path = format!("/logbooks/{}/films/{film}/finish", t.logbook);
        assert_eq!(t.ask("POST", &path, &t.member, "", Vec::new()).await.status, StatusCode::NO_CONTENT);
    }
    let frame = t.get(&format!("{}/pictures/film%20{one}/4", t.base())).await;
    assert_eq!(frame.body, picture(level(4), 16, 12));
    let caching = frame.headers[header::CACHE_CONTROL].to_str().unwrap();
    assert!(caching.contains("private") && caching.contains("immutable"), "{caching}");
    // A strobe picture of dark objects is as dark as the darkest frame.
    let strobe = t.get(&format!("{}/strobe/film%20{one}?from=1&to=5&blend=darken", t.base())).await;
    let seen = i16::from(Rgb::read(&strobe.body).unwrap().data[0]);
    assert!((seen - i16::from(level(1))).abs() <= 2, "{seen}");
    // The same picture stands in the write-up, on the page and in the document.
    let key = format!("film {one}");
    assert_eq!(t.stage(&key).await.status, StatusCode::OK);
    let of = json!({ "film": { "film": key, "from": 1, "to": 5, "step": 1, "bright": false } });
    assert_eq!(t.edit(json!({ "write_up": { "take_picture": { "of": of } } })).await.status, StatusCode::OK);
    let page = t.get(&format!("{}/write-up", t.base())).await.text();
    assert!(page.contains(&BASE64_STANDARD.encode(&strobe.body)), "{page}");
    let document = t.get(&format!("{}/write-up.docx", t.base())).await.body;
    assert!(zip::ZipArchive::new(Cursor::new(document)).unwrap().by_name("word/media/1.png").is_ok());
    let whole = t.put(one, frames(0..1)).await;
    assert!(whole.text().contains("whole already"), "{}", whole.text());
    // Once handed in, a logbook takes no more films.
    t.edit(json!({ "office": "hand_in" })).await;
    let late = t.ask("POST", &format!("{}/films", t.base()), &t.member, "application/json", b"{}".to_vec()).await;
    assert!(late.text().contains("handed in"), "{}", late.text());
}

#[tokio::test]
async fn what_is_no_film_is_refused_and_nothing_of_it_is_kept() {
    let t = town();
    let film = t.begin(3).await;
    let good = picture(9, 16, 12);
    let cases = [
        (part(&[(0, b"no picture".to_vec())]), "Frame 0 is not a picture of 16 × 12"),
        (part(&[(0, picture(9, 12, 16))]), "Frame 0"),
        (part(&[(3, good.clone())]), "no frame 3"),
        (part(&[(0, good.clone())])[..30].to_vec(), "cut off"),
        (part(&[(0, good[..good.len() / 3].to_vec())]), "Frame 0"),
    ];
    for (body, words) in cases {
        let answer = t.put(film, body).await;
        assert!(answer.status.is_client_error() && answer.text().contains(words), "{words}: {}", answer.text());
    }
    assert_eq!(t.get(&format!("{}/films/{film}/frames", t.base())).await.json()["missing"], json!([0, 1, 2]));
    for bad in [
        json!({ "title": "x", "width": 16, "height": 12, "times": [0.0] }),
        json!({ "title": "x", "width": 16, "height": 12, "times": [0.0, 0.0] }),
        json!({ "title": "x", "width": 10000, "height": 10000, "times": [0.0, 1.0] }),
        json!({ "title": "x", "width": 16, "height": 12, "times": vec![0.0; 3001] }),
    ] {
        let path = format!("{}/films", t.base());
        let answer = t.ask("POST", &path, &t.member, "application/json", bad.to_string().into_bytes()).await;
        assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY, "{}", answer.text());
    }
    let before = t.films();
    let zip = |entries: &[(&str, Vec<u8>)]| {
        let mut out = zip::ZipWriter::new(Cursor::new(Vec::new()));
        for (name, bytes) in entries {
            out.start_file(*name, zip::write::SimpleFileOptions::default()).unwrap();
            out.write_all(bytes).unwrap();
        }
        out.finish().unwrap().into_inner()
    };
    let path = format!("{}/films-of-stills?title=stills&rate=10", t.base());
    let bomb = zip(&[("1.jpg", vec![0; 60_000_000]), ("2.jpg", good.clone())]);
    let damaged = zip(&[("1.jpg", good.clone()), ("2.jpg", b"no".to_vec())]);
    for (file, words) in [(bomb, "more than 40 MB"), (damaged, "Picture 2"), (b"a letter".to_vec(), "neither a zip")] {
        let answer = t.ask("POST", &path, &t.member, "", file).await;
        assert!(
            answer.status == StatusCode::UNPROCESSABLE_ENTITY && answer.text().contains(words),
            "{}",
            answer.text()
        );
    }
    assert_eq!(t.films(), before, "nothing is kept of what was refused");
    let stills = zip(&[("1.jpg", good.clone()), ("2.jpg", good)]);
    let key = t.ask("POST", &path, &t.member, "", stills).await.json()["key"].as_str().unwrap().to_owned();
    t.stage(&key).await;
    let book = Store::open(t.folder.path()).unwrap().load_logbook(t.logbook).unwrap().book;
    assert_eq!(book.state().film.films[0].facts.times, [0.0, 0.1]);
}

#[tokio::test(flavor = "multi_thread")]
async fn an_object_is_followed_and_its_marks_are_edits() {
    let t = town();
    let base = t.base();
    assert_eq!(t.stage("tower-yard").await.status, StatusCode::OK);
    let ends = [[25, 155], [25, 355]];
    let ruler = json!({ "film": "tower-yard", "index": null, "ends": ends, "typed": "2.000 m", "circle": false });
    t.edit(json!({ "film": { "place_ruler": ruler } })).await;
    t.edit(json!({ "film": { "add_trail": { "film": "tower-yard", "name": "ball", "table": null } } })).await;
    let book = || Store::open(t.folder.path()).unwrap().load_logbook(t.logbook).unwrap().book;
    let trail = book().state().film.films[0].trails[0].id;
    let path = format!("{base}/trails/{trail}/follow");
    assert_eq!(t.get(&path).await.status, StatusCode::NO_CONTENT, "nothing is followed yet");
    let unmarked = t.form(&path, "from=2&side=28").await;
    assert!(unmarked.text().contains("Mark the object in one frame first"), "{}", unmarked.text());
    let shoot = catalogue::film("tower-yard").unwrap().shoot(1);
    let truth = |n: usize| shoot.truth(n)[0].1;
    let [x, y] = truth(2);
    t.edit(json!({ "film": { "place_mark": { "trail": trail, "frame": 2, "at": [x, y] } } })).await;
    // The film has gone on by itself meanwhile.
    assert_eq!(t.form(&path, "from=3&side=28").await.status, StatusCode::ACCEPTED);
    let standing = loop {
        let standing = t.get(&path).await.json();
        if standing["running"] == json!(false) {
            break standing;
        }
        tokio::task::yield_now().await;
    };
    assert!(standing["words"].as_str().unwrap().contains("Followed through 63 frames"), "{standing}");
    let marks = book().state().film.films[0].trails[0].marks.clone();
    assert_eq!(marks.len(), 64);
    for (frame, mark) in marks {
        let [x, y] = truth(frame as usize);
        assert!((mark.at[0] - x).hypot(mark.at[1] - y) < 0.3, "frame {frame}");
    }
    // They are frames of one motion, and not too many trials.
    let look = br#"{"since":0,"look":{}}"#.to_vec();
    let news = t.ask("POST", &format!("{base}/parts"), &t.member, "application/json", look).await.json();
    let parts: Vec<&str> = news["parts"].as_str().unwrap().split_whitespace().collect();
    assert!(parts.join(" ").contains("64 marks</span>"), "{news}");
    let moment = t.get(&format!("{base}/moment?trail={trail}&frame=30&mass=0.2 kg").replace(' ', "%20")).await;
    assert!(moment.text().contains("kinetic energy") && moment.text().contains("½ m v²"), "{}", moment.text());
    // The hundreds of marks came as a few edits, and each of them can be undone.
    let seq = book().seq();
    assert!(seq < 10, "{seq} edits");
    t.edit(json!("undo")).await;
    assert!(book().state().film.films[0].trails[0].marks.len() < 64);
}

/// A body that has begun and never goes on.
fn half() -> Body {
    use futures_util::StreamExt;
    let begun = futures_util::stream::iter([Ok::<_, std::io::Error>(b"PK".to_vec())]);
    Body::from_stream(begun.chain(futures_util::stream::pending()))
}

#[tokio::test]
async fn uploads_that_stop_half_way_hold_up_nobody_else() {
    let t = town();
    let path = format!("{}/films-of-stills?title=x", t.base());
    let ask = |cookie: &str, path: &str, body| {
        let request = Request::post(path).header(header::COOKIE, cookie).body(body).unwrap();
        tokio::spawn(t.app.clone().oneshot(request))
    };
    let stuck: Vec<_> = (0..3).map(|_| ask(&t.member, &path, half())).collect();
    // Three of one person are under way; a fourth is told to come again, as soon as the three have their places.
    let fourth = loop {
        let status = ask(&t.member, &path, Body::from("no film")).await.unwrap().unwrap().status();
        if status != StatusCode::UNPROCESSABLE_ENTITY {
            break status;
        }
        tokio::task::yield_now().await;
    };
    assert_eq!(fourth, StatusCode::SERVICE_UNAVAILABLE);
    // Somebody else brings a film meanwhile, and she goes on with everything else.
    let other = format!("/logbooks/{}/films-of-stills?title=x", t.other);
    let answer = ask(&t.classmate, &other, Body::from("no film")).await.unwrap().unwrap();
    assert_eq!(answer.status(), StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(t.get(&t.base()).await.status, StatusCode::OK);
    // Given up by the browser, a place is free again, and nothing is left in the folder.
    for upload in stuck {
        upload.abort();
        let _ = upload.await;
    }
    let answer = ask(&t.member, &path, Body::from("no film")).await.unwrap().unwrap();
    assert_eq!(answer.status(), StatusCode::UNPROCESSABLE_ENTITY);
    let names: Vec<_> = std::fs::read_dir(t.folder.path()).unwrap().map(|e| e.unwrap().file_name()).collect();
    assert!(names.iter().all(|n| n.to_string_lossy().contains("sqlite")), "{names:?}");
    assert_eq!(t.films(), 0);
}

#[tokio::test]
async fn a_lab_without_films_takes_none() {
    let t = crate::common::served("2.1-tower-pendulum.md", include_str!("../../../../labs/2.1-tower-pendulum.md"));
    let coming = json!({ "title": "mine", "width": 16, "height": 12, "times": [0.0, 0.1] }).to_string();
    let (status, page) = t.ask("POST", "/films", crate::common::MEMBER, &coming).await;
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && page.contains("needs no film"), "{status} {page}");
}
