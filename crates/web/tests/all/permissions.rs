//! Who may use which route: every route is asked by everybody, and what was refused left no trace.

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt;
use tower::ServiceExt;
use zeitmass_core::logbook::{Edit, RunEdit};
use zeitmass_store::Store;
use zeitmass_web::{App, router};

use crate::common::sent;

const SHEET: &str = include_str!("../../../../labs/2.1-tower-pendulum.md");

/// A class with two students, one of whom has a logbook with a run, and a student of another class.
struct Town {
    folder: tempfile::TempDir,
    app: Router,
    owner: i64,
    class: i64,
    sheet: i64,
    assignment: i64,
    logbook: i64,
    /// The member, and somebody of another class.
    people: [i64; 2],
    teacher: String,
    member: String,
    classmate: String,
    stranger: String,
}

fn town() -> Town {
    let c = crate::common::class("2.1-tower-pendulum.md", SHEET);
    let logbook = c.store.open_logbook(c.member, c.lab).unwrap();
    crate::common::work(&c.store, logbook, c.member, &[Edit::Run(RunEdit::Run)]);
    let [teacher, member, classmate, stranger] = c.cookies;
    Town {
        folder: c.folder,
        app: router(App::new(c.store).unwrap()),
        owner: c.owner,
        class: c.class,
        sheet: c.sheet,
        assignment: c.lab,
        logbook,
        people: [c.member, c.stranger],
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
            .header(header::CONTENT_TYPE, crate::common::kind(form))
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
        let book = store.load_logbook(self.logbook).unwrap().book;
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

/// Every route: method, path, form, then what nobody, the member, a classmate, a stranger and the teacher get.
#[expect(clippy::too_many_lines, reason = "a list, one route after the other")]
fn routes<'a>(t: &Town, run: &'a str, assign: &'a str) -> Vec<(&'static str, String, &'a str, [Gets; 5])> {
    use Gets::{In, Nothing, Refused, SignIn};
    let (class, sheet, lab, book) = (t.class, t.sheet, t.assignment, t.logbook);
    let (member, stranger) = (t.people[0], t.people[1]);
    // The copy made on the way comes after the sheets that are shipped and those of the free bench.
    let copy = zeitmass_web::SHIPPED_SHEETS.len() + zeitmass_core::rigs::CATALOGUE.len() + 2;
    let teacher_only = [SignIn, Refused, Refused, Refused, In];
    let student_only = [SignIn, In, In, In, Refused];
    let readers = [SignIn, In, Nothing, Nothing, In];
    vec![
        ("GET", "/classes".to_owned(), "", teacher_only),
        ("POST", "/classes".to_owned(), "name=New", teacher_only),
        ("GET", format!("/classes/{class}"), "", teacher_only),
        ("GET", format!("/classes/{class}/standings"), "", teacher_only),
        ("GET", format!("/classes/{class}/events"), "", teacher_only),
        ("GET", format!("/classes/{class}/labs/{lab}/rounds"), "", teacher_only),
        ("GET", format!("/classes/{class}/labs/{lab}/rounds/part?nameless=true"), "", teacher_only),
        ("GET", format!("/classes/{}/labs/{lab}/rounds", class + 1), "", [SignIn, Refused, Refused, Refused, Nothing]),
        ("POST", format!("/classes/{class}/labs/{lab}/rounds/word"), "to=&part=record&text=Go+on", teacher_only),
        (
            "POST",
            format!("/classes/{class}/labs/{lab}/rounds/word"),
            "to=999&part=record&text=x",
            [SignIn, Refused, Refused, Refused, Nothing],
        ),
        ("GET", format!("/classes/{class}/labs/{lab}/marks"), "", teacher_only),
        ("GET", format!("/classes/{class}/labs/{}/marks", lab + 100), "", [SignIn, Refused, Refused, Refused, Nothing]),
        ("POST", format!("/classes/{class}/labs/{lab}/marks"), "do=take_in", teacher_only),
        (
            "POST",
            format!("/classes/{class}/labs/{lab}/marks"),
            "do=register",
            [SignIn, Refused, Refused, Refused, Nothing],
        ),
        ("GET", format!("/classes/{class}/labs/{lab}/files/marks.csv"), "", teacher_only),
        ("GET", format!("/classes/{class}/labs/{lab}/files/marks.ods"), "", teacher_only),
        ("GET", format!("/classes/{class}/labs/{lab}/files/write-ups.zip"), "", teacher_only),
        ("GET", format!("/classes/{class}/labs/{lab}/pool"), "", teacher_only),
        ("GET", format!("/labs/{lab}/pool"), "", [SignIn, Nothing, Nothing, Nothing, Refused]),
        ("POST", format!("/classes/{class}/labs/{lab}/pool"), "open=nameless", teacher_only),
        ("GET", format!("/labs/{lab}/pool"), "", [SignIn, In, In, Nothing, Refused]),
        ("POST", format!("/classes/{class}/labs/{lab}"), "do=due&due=2026-12-01", teacher_only),
        ("POST", format!("/classes/{class}/labs/{lab}"), "do=due&due=soon", teacher_only),
        ("POST", format!("/classes/{class}/labs/{lab}"), "do=take_back", teacher_only),
        ("POST", format!("/classes/{class}/labs/{lab}"), "do=assign_again", teacher_only),
        ("GET", format!("/logbooks/{book}/marks"), "", [SignIn, Refused, Nothing, Nothing, In]),
        (
            "POST",
            format!("/logbooks/{book}/marks"),
            "criterion=Trials&level=0",
            [SignIn, Refused, Nothing, Nothing, In],
        ),
        ("GET", format!("/logbooks/{book}/marked"), "", readers),
        ("POST", format!("/logbooks/{book}/words"), "part=record&text=Go+on", [SignIn, Refused, Nothing, Nothing, In]),
        ("POST", format!("/logbooks/{book}/stamp"), "step=measure&given=true", [SignIn, Refused, Nothing, Nothing, In]),
        ("POST", format!("/classes/{class}/labs"), assign, teacher_only),
        ("GET", format!("/classes/{class}/students/{member}"), "", teacher_only),
        ("POST", format!("/classes/{class}/students/{member}"), "do=rename&name=x", teacher_only),
        ("POST", format!("/classes/{class}/students/{member}"), "do=rename&name=Minna", teacher_only),
        ("POST", format!("/classes/{class}/students/{member}"), "do=reset_pin&pin=1111", teacher_only),
        ("POST", format!("/classes/{class}/students/{stranger}"), "do=remove&work=nothing", teacher_only),
        ("GET", format!("/classes/{class}/students/{member}/everything.json"), "", teacher_only),
        (
            "GET",
            format!("/classes/{class}/students/{stranger}/everything.json"),
            "",
            [SignIn, Refused, Refused, Refused, Nothing],
        ),
        ("POST", format!("/classes/{class}/office"), "do=open", teacher_only),
        ("POST", format!("/classes/{}/office", class + 100), "do=close", [SignIn, Refused, Refused, Refused, Nothing]),
        ("GET", "/account".to_owned(), "", teacher_only),
        ("POST", "/account/password".to_owned(), "old=wrong&new=long+enough+now", teacher_only),
        ("POST", "/account/sessions".to_owned(), "session=1000", [SignIn, Refused, Refused, Refused, Nothing]),
        (
            "POST",
            format!("/classes/{class}/students/{member}"),
            "do=end_session&session=1000",
            [SignIn, Refused, Refused, Refused, Nothing],
        ),
        (
            "POST",
            format!("/classes/{class}/students/{member}"),
            "do=move&work=kept&class=1000",
            [SignIn, Refused, Refused, Refused, Nothing],
        ),
        ("POST", format!("/classes/{class}/students/{member}"), "do=let_in", teacher_only),
        ("POST", format!("/classes/{class}/office"), "do=let_in", teacher_only),
        ("GET", format!("/logbooks/{book}/history"), "", [SignIn, In, Nothing, Nothing, In]),
        ("POST", "/account/invitations".to_owned(), "", teacher_only),
        ("GET", "/invitations/00".to_owned(), "", [In; 5]),
        ("POST", "/invitations/00".to_owned(), "name=x&password=long+enough+now", [In; 5]),
        ("GET", "/health".to_owned(), "", [In; 5]),
        ("GET", "/sheets".to_owned(), "", teacher_only),
        ("POST", "/sheets".to_owned(), "rig=slope", teacher_only),
        ("GET", "/sheets/guide".to_owned(), "", teacher_only),
        ("GET", format!("/sheets/{sheet}"), "", teacher_only),
        ("POST", format!("/sheets/{sheet}/copy"), "", teacher_only),
        ("GET", format!("/sheets/{copy}/edit"), "", [SignIn, Refused, Refused, Refused, In]),
        ("POST", format!("/sheets/{copy}/draft"), r#"{"deeds":[],"after":0,"as_text":false}"#, teacher_only),
        ("POST", format!("/sheets/{copy}/edit"), "logbooks=new", teacher_only),
        ("POST", format!("/sheets/{sheet}/edit"), "", [SignIn, Refused, Refused, Refused, Nothing]),
        ("POST", format!("/sheets/{sheet}/try"), "", teacher_only),
        ("GET", "/bench".to_owned(), "", [SignIn, Nothing, Nothing, Nothing, In]),
        ("POST", "/bench/slope".to_owned(), "", [SignIn, Nothing, Nothing, Nothing, In]),
        ("POST", "/bench/carousel".to_owned(), "", [SignIn, Nothing, Nothing, Nothing, Nothing]),
        ("POST", format!("/logbooks/{book}/sheet"), "", [SignIn, Refused, Refused, Refused, Refused]),
        ("GET", format!("/logbooks/{book}/asks"), "", [SignIn, Refused, Refused, Refused, Refused]),
        (
            "POST",
            format!("/logbooks/{book}/asks"),
            "class=1&channel=x&pick=true&low=0&high=1&duration=1",
            [SignIn, Refused, Refused, Refused, Refused],
        ),
        ("GET", "/asks/77".to_owned(), "", [SignIn, Refused, Refused, Refused, Nothing]),
        ("GET", "/asks/77/part".to_owned(), "", [SignIn, Refused, Refused, Refused, Nothing]),
        ("POST", "/asks/77".to_owned(), "do=close", [SignIn, Refused, Refused, Refused, Nothing]),
        ("GET", "/ask".to_owned(), "", student_only),
        ("GET", "/ask/now".to_owned(), "", student_only),
        ("GET", format!("/sheets/{sheet}/sheet.md"), "", teacher_only),
        ("POST", "/sheets/bring".to_owned(), "source=no+sheet+yet", teacher_only),
        ("POST", format!("/sheets/{sheet}/delete"), "", [SignIn, Refused, Refused, Refused, Nothing]),
        ("POST", format!("/sheets/{copy}/delete"), "", teacher_only),
        ("GET", "/labs".to_owned(), "", student_only),
        ("POST", format!("/labs/{lab}/open"), "", [SignIn, In, In, Nothing, Refused]),
        ("POST", "/labs/partner".to_owned(), "code=ZZZZ", [SignIn, In, In, In, Refused]),
        ("GET", format!("/logbooks/{book}"), "", readers),
        ("POST", format!("/logbooks/{book}/edits"), run, [SignIn, In, Nothing, Nothing, Refused]),
        ("POST", format!("/logbooks/{book}/parts"), r#"{"since":0,"look":{}}"#, readers),
        ("GET", format!("/logbooks/{book}/events"), "", readers),
        ("POST", format!("/logbooks/{book}/partner-code"), "{}", [SignIn, In, Nothing, Nothing, Refused]),
        ("POST", format!("/logbooks/{book}/send-back"), "note=x", [SignIn, Refused, Nothing, Nothing, In]),
        ("GET", format!("/logbooks/{book}/runs/1"), "", readers),
        ("GET", format!("/logbooks/{book}/runs/1?curves=x"), "", readers),
        ("GET", format!("/logbooks/{book}/setup"), "", readers),
        ("GET", format!("/logbooks/{book}/runs/1/arrows/velocity"), "", readers),
        ("GET", format!("/logbooks/{book}/runs/1/meters/7"), "", readers),
        ("GET", format!("/logbooks/{book}/runs/1/pictures/7.svg"), "", readers),
        ("GET", format!("/logbooks/{book}/runs/1/pictures/7.png"), "", readers),
        ("GET", format!("/logbooks/{book}/moment?run=1&frame=7&mass="), "", readers),
        ("GET", format!("/logbooks/{book}/write-up"), "", readers),
        ("GET", format!("/logbooks/{book}/write-up.docx"), "", readers),
        ("GET", format!("/logbooks/{book}/tables/1.csv"), "", readers),
        ("GET", format!("/logbooks/{book}/tables/1.ods"), "", readers),
        ("GET", format!("/logbooks/{book}/tables/1.xlsx"), "", readers),
        ("GET", format!("/logbooks/{book}/graphs/1.svg"), "", readers),
        ("GET", format!("/logbooks/{book}/graphs/1.png"), "", readers),
        ("GET", format!("/logbooks/{book}/logbook.zip"), "", readers),
        ("GET", format!("/logbooks/{book}/columns/1/simulation"), "", readers),
        ("POST", format!("/logbooks/{book}/import?name=swings.csv"), "L\n1", [SignIn, In, Nothing, Nothing, Refused]),
        ("POST", format!("/logbooks/{book}/history"), "to=0", [SignIn, In, Nothing, Nothing, Refused]),
    ]
}

#[tokio::test]
async fn every_route_lets_in_only_those_it_is_for() {
    use Gets::{In, SignIn};
    let t = town();
    let run = sent(r#"{"run":"run"}"#, "from the table");
    let assign = format!("sheet={}", t.sheet);
    let people = ["", &t.member, &t.classmate, &t.stranger, &t.teacher];
    for (method, path, form, expected) in routes(&t, &run, &assign) {
        for (cookie, expected) in people.iter().zip(expected) {
            let before = t.traces();
            let (status, body) = t.ask(method, &path, cookie, form).await;
            let got = match (status.as_u16(), expected) {
                // Let in, but the form's content or the empty graph is refused with a reason.
                (409 | 422, In) => In,
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
    let (status, body) = t.ask("POST", &format!("/logbooks/{book}/parts"), &t.member, r#"{"since":0,"look":{}}"#).await;
    assert!(status.is_success() && body.contains("part-stage") && !body.contains("9.810"), "{body}");
    for path in ["", "/runs/1", "/write-up", "/tables/1.csv", "/columns/1/simulation"] {
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
    assert!(!page.contains("type_cell") && !page.contains("data-log="), "the teacher only looks");
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
            .header(header::CONTENT_TYPE, "application/json")
            .header(name, value)
            .body(Body::from(sent(r#"{"run":"run"}"#, "from elsewhere")))
            .unwrap();
        assert_eq!(t.app.clone().oneshot(request).await.unwrap().status(), StatusCode::FORBIDDEN);
    }
    let words = "x".repeat(5_000_000);
    let huge =
        sent(&format!(r#"{{"writing":{{"write":{{"field":"claim","text":"{words}","was":""}}}}}}"#), "far too long");
    assert_eq!(t.ask("POST", &path, &t.member, &huge).await.0, StatusCode::PAYLOAD_TOO_LARGE);
    for nonsense in [
        r#""melt""#,
        r#"{"run":"melt"}"#,
        r#"{"record":{"type_cell":{}}}"#,
        r#"{"graph":{"zoom":{"graph":1,"range":[[1,"x"],[0,1]]}}}"#,
        r#"{"graph":{"choose_fit":{"graph":1,"stretch":null,"curve":"none","weighting":"heavy"}}}"#,
        r#"{"record":{"type_cell":{"row":{"there":"x"},"column":1,"typed":"1","was":null}}}"#,
        r#"{"footage":{"place_tools":{"on":{"run":1},"tools":{"zero":-1}}}}"#,
        r#"{"record":{"add_row":{"table":1,"above":null,"below":3}}}"#,
        // What only the server, or the teacher, may ask for.
        r#"{"office":{"send_back":{"note":"x"}}}"#,
        r#"{"office":{"restore":{"content":{}}}}"#,
        r#"{"film":{"place_marks":{"trail":1,"marks":[[0,[1,1]]]}}}"#,
        r#"{"film":{"choose_film":{"facts":{"key":"x","title":"x","width":4,"height":4,"times":[0,1],"length":""}}}}"#,
    ] {
        let (status, body) = t.ask("POST", &path, &t.member, &sent(nonsense, "a token of nonsense")).await;
        assert_eq!(status, StatusCode::BAD_REQUEST, "{nonsense}");
        assert!(body.contains("Nothing was changed"), "{nonsense}: {body}");
    }
    for broken in ["", "{", r#"{"edit":{"run":"run"}}"#, &sent(r#"{"run":"run"}"#, "short")] {
        let (status, body) = t.ask("POST", &path, &t.member, broken).await;
        assert!(status.is_client_error(), "{broken}: {status} {body}");
    }
    let typed = r#"{"record":{"type_cell":{"row":{"there":77},"column":1,"typed":"1","was":null}}}"#;
    let refused = t.ask("POST", &path, &t.member, &sent(typed, "nobody is there")).await;
    assert_eq!(refused.0, StatusCode::CONFLICT);
    assert!(refused.1.contains("deleted meanwhile"), "{}", refused.1);
    assert_eq!(t.traces(), before);
}

#[tokio::test]
async fn an_edit_sent_twice_is_done_once() {
    let t = town();
    let path = format!("/logbooks/{}/edits", t.logbook);
    for _ in 0..2 {
        let add = r#"{"record":{"add_table":{"name":"second"}}}"#;
        let (status, answer) = t.ask("POST", &path, &t.member, &sent(add, "0123456789")).await;
        assert!(status == StatusCode::OK && answer.contains(r#""table":1000"#), "{status} {answer}");
    }
    assert_eq!(t.traces()[0], 2);
    // The token is in the store: another server over the same folder knows it too.
    let other = router(App::new(Store::open(t.folder.path()).unwrap()).unwrap());
    let again = Town { app: other, ..t };
    let add = r#"{"record":{"add_table":{"name":"second"}}}"#;
    assert_eq!(again.ask("POST", &path, &again.member, &sent(add, "0123456789")).await.0, StatusCode::OK);
    assert_eq!(again.traces()[0], 2);
}

#[tokio::test]
async fn every_answer_forbids_foreign_and_inline_code() {
    let t = town();
    for path in ["/", "/labs", "/assets/any/app.css", "/nowhere"] {
        let request = Request::get(path).header(header::COOKIE, &t.member).body(Body::empty()).unwrap();
        let answer = t.app.clone().oneshot(request).await.unwrap();
        let policy = answer.headers()[header::CONTENT_SECURITY_POLICY].to_str().unwrap();
        assert!(policy.contains("default-src 'self'") && !policy.contains("unsafe"), "{path}: {policy}");
    }
}
