//! Who may use which route: every route is asked by everybody, and what was refused left no trace.

mod common;

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt;
use tower::ServiceExt;
use zeitmass_core::logbook::Edit;
use zeitmass_store::Store;
use zeitmass_web::{App, router};

const SHEET: &str = include_str!("../../../labs/2.1-tower-pendulum.md");

/// A class with two students, one of whom has a logbook with a run, and a student of another class.
struct Town {
    folder: tempfile::TempDir,
    app: Router,
    owner: i64,
    class: i64,
    sheet: i64,
    assignment: i64,
    logbook: i64,
    teacher: String,
    member: String,
    classmate: String,
    stranger: String,
}

fn town() -> Town {
    let c = common::class("2.1-tower-pendulum.md", SHEET);
    let logbook = c.store.open_logbook(c.member, c.lab).unwrap();
    c.store.append_edit(logbook, 1, "Minna", &Edit::Run).unwrap();
    let [teacher, member, classmate, stranger] = c.cookies;
    Town {
        folder: c.folder,
        app: router(App::new(c.store).unwrap()),
        owner: c.owner,
        class: c.class,
        sheet: c.sheet,
        assignment: c.lab,
        logbook,
        teacher,
        member,
        classmate,
        stranger,
    }
}

impl Town {
    async fn ask(&self, method: &str, path: &str, cookie: &str, form: &str) -> (StatusCode, String) {
        let request = Request::builder()
            .method(method)
            .uri(path)
            .header(header::COOKIE, cookie)
            .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
            .body(Body::from(form.to_owned()))
            .unwrap();
        let answer = self.app.clone().oneshot(request).await.unwrap();
        let status = answer.status();
        // The stream of live numbers never ends; its status says enough.
        if path.ends_with("/events") && status.is_success() {
            return (status, String::new());
        }
        let body = answer.into_body().collect().await.unwrap().to_bytes();
        (status, String::from_utf8_lossy(&body).into_owned())
    }

    /// Everything stored, as numbers of rows.
    fn traces(&self) -> Vec<u64> {
        let store = Store::open(self.folder.path()).unwrap();
        let (book, _) = store.load_logbook(self.logbook).unwrap();
        let info = store.logbook_info(self.logbook).unwrap();
        vec![
            book.seq(),
            info.members.len() as u64,
            store.classes(self.owner).unwrap().len() as u64,
            store.sheets(self.owner).unwrap().len() as u64,
            store.assignments(self.class).unwrap().len() as u64,
        ]
    }
}

/// What somebody may get from a route.
#[derive(Clone, Copy, PartialEq, Debug)]
enum Gets {
    /// The page, or the next one after a form.
    In,
    /// Told that it is not theirs.
    Refused,
    /// Told that there is no such thing.
    Nothing,
    /// Sent to sign in.
    SignIn,
}

fn gets(status: StatusCode, method: &str) -> Gets {
    match status.as_u16() {
        403 => Gets::Refused,
        404 => Gets::Nothing,
        303 if method == "GET" => Gets::SignIn,
        200 | 303 => Gets::In,
        other => panic!("unexpected status {other}"),
    }
}

#[tokio::test]
async fn every_route_lets_in_only_those_it_is_for() {
    use Gets::{In, Nothing, Refused, SignIn};
    let t = town();
    let (class, sheet, lab, book) = (t.class, t.sheet, t.assignment, t.logbook);
    // The copy made on the way comes after the sheets that are shipped.
    let copy = zeitmass_web::SHIPPED_SHEETS.len() + 1;
    // Method, path, form, then what nobody, the member, a classmate, a stranger and the teacher get.
    let teacher_only = [SignIn, Refused, Refused, Refused, In];
    let student_only = [SignIn, In, In, In, Refused];
    let readers = [SignIn, In, Nothing, Nothing, In];
    let routes = [
        ("GET", "/classes".to_owned(), "", teacher_only),
        ("POST", "/classes".to_owned(), "name=New", teacher_only),
        ("GET", format!("/classes/{class}"), "", teacher_only),
        ("POST", format!("/classes/{class}/labs"), &format!("sheet={sheet}"), teacher_only),
        ("GET", "/sheets".to_owned(), "", teacher_only),
        ("POST", "/sheets".to_owned(), "rig=slope", teacher_only),
        ("GET", "/sheets/guide".to_owned(), "", teacher_only),
        ("GET", format!("/sheets/{sheet}"), "", teacher_only),
        ("POST", format!("/sheets/{sheet}/copy"), "", teacher_only),
        ("GET", format!("/sheets/{copy}/edit"), "", [SignIn, Refused, Refused, Refused, In]),
        ("POST", format!("/sheets/{sheet}/edit"), "source=x", [SignIn, Refused, Refused, Refused, In]),
        ("POST", "/sheets/preview".to_owned(), "source=x", teacher_only),
        ("GET", "/labs".to_owned(), "", student_only),
        ("POST", format!("/labs/{lab}/open"), "", [SignIn, In, In, Nothing, Refused]),
        ("POST", format!("/labs/{lab}/partner"), "code=ZZZZ", [SignIn, In, In, Nothing, Refused]),
        ("GET", format!("/logbooks/{book}"), "", readers),
        ("POST", format!("/logbooks/{book}/edits"), "edit=run", [SignIn, In, Nothing, Nothing, Refused]),
        ("GET", format!("/logbooks/{book}/parts?since=0"), "", readers),
        ("GET", format!("/logbooks/{book}/events"), "", readers),
        ("POST", format!("/logbooks/{book}/send-back"), "note=x", [SignIn, Refused, Nothing, Nothing, In]),
        ("GET", format!("/logbooks/{book}/runs/1"), "", readers),
        ("GET", format!("/logbooks/{book}/runs/1?curves=x"), "", readers),
        ("GET", format!("/logbooks/{book}/setup"), "", readers),
        ("GET", format!("/logbooks/{book}/runs/1/arrows/velocity"), "", readers),
        ("GET", format!("/logbooks/{book}/runs/1/meters/7"), "", readers),
        ("GET", format!("/logbooks/{book}/moment?run=1&frame=7&mass="), "", readers),
        ("GET", format!("/logbooks/{book}/write-up"), "", readers),
        ("GET", format!("/logbooks/{book}/tables/1.csv"), "", readers),
        ("GET", format!("/logbooks/{book}/tables/1.ods"), "", readers),
        ("GET", format!("/logbooks/{book}/tables/1.xlsx"), "", readers),
        ("GET", format!("/logbooks/{book}/graphs/1.svg"), "", readers),
        ("GET", format!("/logbooks/{book}/graphs/1.png"), "", readers),
        ("GET", format!("/logbooks/{book}/logbook.zip"), "", readers),
        ("GET", format!("/logbooks/{book}/columns/1/simulation"), "", readers),
        ("POST", format!("/logbooks/{book}/import?name=swings.csv"), "L\n1", [SignIn, In, Nothing, Nothing, Refused]),
    ];
    let people = ["", &t.member, &t.classmate, &t.stranger, &t.teacher];
    for (method, path, form, expected) in routes {
        for (cookie, expected) in people.iter().zip(expected) {
            let before = t.traces();
            let (status, body) = t.ask(method, &path, cookie, form).await;
            let got = match (status.as_u16(), expected) {
                // Let in, but the form's content or the empty graph is refused with a reason.
                (422, In) => In,
                // A form without session is answered like a page: go and sign in.
                (303, SignIn) => SignIn,
                _ => gets(status, method),
            };
            assert_eq!(got, expected, "{method} {path} by {cookie:?}: {status} {body}");
            if expected != In {
                assert_eq!(t.traces(), before, "{method} {path} left a trace");
            }
        }
    }
}

#[tokio::test]
async fn hidden_values_never_leave_the_server() {
    let t = town();
    let book = t.logbook;
    for path in ["", "/parts?since=0", "/runs/1", "/write-up", "/tables/1.csv", "/columns/1/simulation"] {
        let (status, body) = t.ask("GET", &format!("/logbooks/{book}{path}"), &t.member, "").await;
        assert_eq!(status, StatusCode::OK, "{path}");
        // The accepted value 9.81 is public; the rig's own, with its three places, is not.
        assert!(!body.contains("9.810"), "{path} shows the hidden setting");
        assert!(!body.contains("tension") && !body.contains("angular"), "{path} gives raw channels away");
    }
    // A member is not offered the teacher's controls.
    let (_, page) = t.ask("GET", &format!("/logbooks/{book}"), &t.member, "").await;
    assert!(!page.contains("send-back"));
    let (_, page) = t.ask("GET", &format!("/logbooks/{book}"), &t.teacher, "").await;
    assert!(!page.contains("data-edit=\"type_cell\"") && !page.contains("data-log="), "the teacher only looks");
}

#[tokio::test]
async fn other_sites_oversized_requests_and_nonsense_change_nothing() {
    let t = town();
    let path = format!("/logbooks/{}/edits", t.logbook);
    let before = t.traces();
    for (name, value) in [("sec-fetch-site", "cross-site"), ("origin", "http://elsewhere.invalid")] {
        let request = Request::post(&path)
            .header(header::COOKIE, &t.member)
            .header(header::HOST, "127.0.0.1:7341")
            .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
            .header(name, value)
            .body(Body::from("edit=run"))
            .unwrap();
        assert_eq!(t.app.clone().oneshot(request).await.unwrap().status(), StatusCode::FORBIDDEN);
    }
    let huge = format!("edit=write&field=claim&typed={}", "x".repeat(5_000_000));
    assert_eq!(t.ask("POST", &path, &t.member, &huge).await.0, StatusCode::PAYLOAD_TOO_LARGE);
    for nonsense in [
        "",
        "edit=melt",
        "edit=type_cell",
        "edit=zoom&graph=1&range=1,x",
        "edit=choose_fit&graph=1&weighting=heavy",
        "edit=type_cell&row=x&column=1&typed=1",
        "edit=place_tools&zero=-1",
    ] {
        let (status, body) = t.ask("POST", &path, &t.member, nonsense).await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{nonsense}");
        assert!(body.contains("Nothing was changed"), "{nonsense}: {body}");
    }
    let refused = t.ask("POST", &path, &t.member, "edit=type_cell&row=77&column=1&typed=1&was=").await;
    assert_eq!(refused.0, StatusCode::CONFLICT);
    assert!(refused.1.contains("deleted meanwhile"), "{}", refused.1);
    assert_eq!(t.traces(), before);
}

#[tokio::test]
async fn an_edit_sent_twice_is_done_once() {
    let t = town();
    let path = format!("/logbooks/{}/edits", t.logbook);
    for _ in 0..2 {
        let (status, _) = t.ask("POST", &path, &t.member, "edit=add_row&table=1&token=0123456789").await;
        assert_eq!(status, StatusCode::OK);
    }
    assert_eq!(t.traces()[0], 2);
}

#[tokio::test]
async fn wrong_pins_are_slowed_down() {
    let t = town();
    let store = Store::open(t.folder.path()).unwrap();
    let code = store.class(t.owner, t.class).unwrap().code;
    let form = |pin: &str| format!("code={code}&name=Minna&pin={pin}");
    for _ in 0..8 {
        let (status, body) = t.ask("POST", "/join", "", &form("0000")).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(body.contains("another PIN"), "{body}");
    }
    let (_, body) = t.ask("POST", "/join", "", &form("2718")).await;
    assert!(body.contains("Wait a minute"), "even the right PIN waits now");
}

#[tokio::test]
async fn every_answer_forbids_foreign_and_inline_code() {
    let t = town();
    for path in ["/", "/labs", "/assets/app.css", "/nowhere"] {
        let request = Request::get(path).header(header::COOKIE, &t.member).body(Body::empty()).unwrap();
        let answer = t.app.clone().oneshot(request).await.unwrap();
        let policy = answer.headers()[header::CONTENT_SECURITY_POLICY].to_str().unwrap();
        assert!(policy.contains("default-src 'self'") && !policy.contains("unsafe"), "{path}: {policy}");
    }
}
