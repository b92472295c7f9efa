//! What a teacher keeps in order: PINs, names, students who leave, classes that are over, and colleagues.

use std::collections::BTreeSet;

use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt;
use serde_json::{Value, json};
use tower::ServiceExt;
use zeitmass_store::{Actor, Store};
use zeitmass_web::{App, router};

use crate::common::{MEMBER, Served, TEACHER, one_line, served};

fn town() -> Served {
    served("2.1-tower-pendulum.md", include_str!("../../../../labs/2.1-tower-pendulum.md"))
}

async fn join(t: &Served, name: &str, pin: &str) -> StatusCode {
    let store = Store::open(t.folder.path()).unwrap();
    let teacher = store.teacher_named("Ottilie Rast").unwrap().unwrap();
    let code = store.class(teacher, t.class).unwrap().code;
    let form = format!("code={code}&name={name}&pin={pin}");
    let request = Request::post("/join")
        .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
        .body(Body::from(form))
        .unwrap();
    t.router.clone().oneshot(request).await.unwrap().status()
}

const IN: StatusCode = StatusCode::SEE_OTHER;
const REFUSED: StatusCode = StatusCode::UNPROCESSABLE_ENTITY;

fn student(t: &Served, id: i64) -> String {
    format!("//classes/{}/students/{id}", t.class)
}

#[tokio::test]
async fn a_forgotten_pin_is_replaced_and_pauses_end_with_that() {
    let t = town();
    for k in 0..6 {
        join(&t, "Minna", &format!("{}", 6000 + k)).await;
    }
    assert_eq!(join(&t, "Minna", "2718").await, StatusCode::TOO_MANY_REQUESTS);
    let path = student(&t, t.member);
    for bad in ["1234", "7777", "9876", "12", "12a4"] {
        assert_eq!(t.ask("POST", &path, TEACHER, &format!("do=reset_pin&pin={bad}")).await.0, REFUSED, "{bad}");
    }
    let stream = tokio::spawn(t.answer("GET", "/events", MEMBER, "").await.into_body().collect());
    let (status, page) = t.ask("POST", &path, TEACHER, "do=reset_pin&pin=3141").await;
    assert!(status == StatusCode::OK && page.contains("The PIN is changed"), "{page}");
    assert_eq!(join(&t, "Minna", "2718").await, REFUSED);
    assert_eq!(join(&t, "Minna", "3141").await, IN);
    // Whoever was signed in as her has to come in anew, and sees nothing more meanwhile.
    stream.await.unwrap().unwrap();
    assert_eq!(t.ask("GET", "", MEMBER, "").await.0, IN);
}

#[tokio::test]
async fn no_two_names_of_a_class_look_alike() {
    let t = town();
    // Cyrillic letters, a composed accent, an invisible space between, and capitals.
    for double in ["%D0%9Cinna", "Minn%D0%B0", "MINNA", "Min%E2%80%8Bna", "Minna%C2%AD"] {
        // The same letters in capitals are the same person, and come in.
        assert!(double == "MINNA" || join(&t, double, "2718").await == REFUSED, "{double}");
        let renamed = t.ask("POST", &student(&t, t.classmate), TEACHER, &format!("do=rename&name={double}")).await;
        assert_eq!(renamed.0, REFUSED, "{double}");
    }
    assert_eq!(join(&t, "Zo%C3%AB", "2718").await, IN);
    assert_eq!(join(&t, "Zoe%CC%88", "2718").await, IN, "the same name in other bytes is the same person");
    assert_eq!(
        t.ask("POST", &student(&t, t.classmate), TEACHER, "do=rename&name=Jost+Brenner").await.0,
        StatusCode::OK
    );
}

#[tokio::test]
async fn who_leaves_leaves_the_work_or_takes_it_along() {
    for (work, name) in [("kept", "Minna (left, no. "), ("erased", "Former student ")] {
        let t = town();
        let cell = json!({ "record": { "type_cell": { "row": "below", "column": 1, "typed": "0.4", "was": null } } });
        assert!(t.edit(MEMBER, &cell).await.0.is_success());
        // Everything that is stored about her can be taken along first.
        let all = t.ask("GET", &format!("{}/everything.json", student(&t, t.member)), TEACHER, "").await.1;
        let all: Value = serde_json::from_str(&all).unwrap();
        assert_eq!(all["name"], "Minna");
        assert_eq!(all["logbooks"][0]["edits"][0]["wish"], cell);

        let form = format!("do=remove&work={work}");
        assert_eq!(t.ask("POST", &student(&t, t.member), TEACHER, &form).await.0, IN);
        assert_eq!(t.ask("GET", "", MEMBER, "").await.0, IN, "nobody is signed in as her");
        let (status, page) = t.ask("GET", "", TEACHER, "").await;
        let stored: String =
            t.database().query_row("SELECT name FROM students WHERE id = ?", [t.member], |r| r.get(0)).unwrap();
        assert!(stored.starts_with(name), "{stored}");
        if work == "kept" {
            assert!(status == StatusCode::OK && page.contains(name), "{page}");
        } else {
            assert_eq!(status, StatusCode::NOT_FOUND);
            let left: i64 = t.database().query_row("SELECT count(*) FROM edits", [], |r| r.get(0)).unwrap();
            assert_eq!(left, 0);
        }
        // The name is free for somebody else, who does not get her work.
        assert_eq!(join(&t, "Minna", "3141").await, IN);
        let store = Store::open(t.folder.path()).unwrap();
        let newest = store.students(t.class).unwrap().into_iter().find(|s| s.name == "Minna").unwrap();
        assert!(newest.id != t.member && store.logbook_of(newest.id, t.lab).unwrap().is_none());
    }
}

#[tokio::test]
async fn a_closed_class_lets_nobody_in_and_keeps_its_work() {
    let t = town();
    let office = format!("//classes/{}/office", t.class);
    assert_eq!(t.ask("POST", &office, TEACHER, "do=close").await.0, IN);
    assert_eq!([join(&t, "Minna", "2718").await, join(&t, "Alma", "2718").await], [REFUSED; 2]);
    assert_eq!(t.ask("GET", "", MEMBER, "").await.0, IN);
    assert_eq!(t.ask("GET", "", TEACHER, "").await.0, StatusCode::OK);
    assert_eq!(t.ask("POST", &office, TEACHER, "do=open").await.0, IN);
    assert_eq!(join(&t, "Minna", "2718").await, IN);
    let store = Store::open(t.folder.path()).unwrap();
    let teacher = store.teacher_named("Ottilie Rast").unwrap().unwrap();
    let before = store.class(teacher, t.class).unwrap().code;
    assert_eq!(t.ask("POST", &office, TEACHER, "do=new_code").await.0, IN);
    assert_ne!(store.class(teacher, t.class).unwrap().code, before);
    assert!(store.applicant(&before, "Minna", "2718").is_err());
}

#[tokio::test]
async fn a_colleague_comes_by_invitation_once_and_sees_nothing_of_others() {
    let t = town();
    let (_, page) = t.ask("POST", "//account/invitations", TEACHER, "").await;
    let link = page.split("href=\"").find_map(|rest| rest.strip_prefix("/invitations/")).unwrap();
    let path = format!("/invitations/{}", link.split('"').next().unwrap());
    let accept = async |form: &str| {
        let request = Request::post(&path).header(header::CONTENT_TYPE, "application/x-www-form-urlencoded");
        let answer = t.router.clone().oneshot(request.body(Body::from(form.to_owned())).unwrap()).await.unwrap();
        let cookies = answer
            .headers()
            .get_all(header::SET_COOKIE)
            .iter()
            .map(|c| c.to_str().unwrap().split(';').next().unwrap().to_owned());
        (answer.status(), cookies.collect::<Vec<_>>().join("; "))
    };
    assert_eq!(accept("name=Ludwig+Horn&password=short").await.0, REFUSED);
    assert_eq!(accept("name=ottilie+rast&password=long+enough+now").await.0, REFUSED);
    let (status, cookies) = accept("name=Ludwig+Horn&password=long+enough+now").await;
    assert_eq!(status, IN);
    assert_eq!(accept("name=Once+More&password=long+enough+now").await.0, REFUSED);
    let ask = async |path: String| {
        let request = Request::get(path).header(header::COOKIE, &cookies).body(Body::empty()).unwrap();
        let answer = t.router.clone().oneshot(request).await.unwrap();
        (answer.status(), answer.into_body().collect().await.unwrap().to_bytes())
    };
    let (status, page) = ask("/classes".to_owned()).await;
    assert!(status == StatusCode::OK && String::from_utf8_lossy(&page).contains("No class yet"));
    for path in
        [format!("/classes/{}", t.class), format!("/logbooks/{}", t.logbook), student(&t, t.member)[1..].to_owned()]
    {
        assert_eq!(ask(path.clone()).await.0, StatusCode::NOT_FOUND, "{path}");
    }
}

#[tokio::test]
async fn a_changed_password_signs_out_everywhere_else() {
    let t = town();
    let change = "old=anchor+and+wheel&new=pallet+and+fork";
    let wrong = t.ask("POST", "//account/password", TEACHER, "old=wrong&new=pallet+and+fork").await;
    assert!(wrong.0 == REFUSED && wrong.1.contains("Wrong name or password"), "{}", wrong.1);
    let answer = t.answer("POST", "//account/password", TEACHER, change).await;
    assert_eq!(answer.status(), StatusCode::OK);
    let here = answer.headers()[header::SET_COOKIE].to_str().unwrap().split(';').next().unwrap().to_owned();
    assert_eq!(t.ask("GET", "//classes", TEACHER, "").await.0, IN, "the session of before is over");
    let request = Request::get("/classes").header(header::COOKIE, here).body(Body::empty()).unwrap();
    assert_eq!(t.router.clone().oneshot(request).await.unwrap().status(), StatusCode::OK);
}

/// Signs somebody in by the form; gives the cookies.
async fn cookies_of(t: &Served, name: &str, browser: &str) -> String {
    let store = Store::open(t.folder.path()).unwrap();
    let teacher = store.teacher_named("Ottilie Rast").unwrap().unwrap();
    let code = store.class(teacher, t.class).unwrap().code;
    let request = Request::post("/join")
        .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
        .header(header::USER_AGENT, browser)
        .body(Body::from(format!("code={code}&name={name}&pin=2718")))
        .unwrap();
    let answer = t.router.clone().oneshot(request).await.unwrap();
    assert_eq!(answer.status(), IN);
    let set = answer.headers().get_all(header::SET_COOKIE).iter();
    set.map(|c| c.to_str().unwrap().split(';').next().unwrap()).collect::<Vec<_>>().join("; ")
}

async fn seen_by(t: &Served, cookies: &str, method: &str, path: &str) -> (StatusCode, String) {
    let request = Request::builder().method(method).uri(path).header(header::COOKIE, cookies);
    let answer = t.router.clone().oneshot(request.body(Body::empty()).unwrap()).await.unwrap();
    let status = answer.status();
    (status, String::from_utf8_lossy(&answer.into_body().collect().await.unwrap().to_bytes()).into_owned())
}

#[tokio::test]
async fn new_names_wait_for_the_teachers_nod_where_the_class_asks_for_it() {
    let t = town();
    let office = format!("//classes/{}/office", t.class);
    assert_eq!(t.ask("POST", &office, TEACHER, "do=ask").await.0, IN);
    let alma = cookies_of(&t, "Alma", "").await;
    let open = format!("/labs/{}/open", t.lab);
    let (status, page) = seen_by(&t, &alma, "GET", "/labs").await;
    assert!(
        status == StatusCode::OK && page.contains("has to let you in") && !page.contains("Begin logbook"),
        "{page}"
    );
    assert_eq!(seen_by(&t, &alma, "POST", &open).await.0, StatusCode::FORBIDDEN);
    assert_eq!(seen_by(&t, &alma, "GET", &format!("/logbooks/{}", t.logbook)).await.0, StatusCode::FORBIDDEN);
    // Those who are in are not asked about.
    assert_eq!(join(&t, "Minna", "2718").await, IN);
    assert_eq!(t.ask("GET", "", MEMBER, "").await.0, StatusCode::OK);
    let page = t.ask("GET", &format!("//classes/{}", t.class), TEACHER, "").await.1;
    assert!(page.contains("New names") && page.contains("Let all in"), "{page}");
    assert_eq!(t.ask("POST", &office, TEACHER, "do=let_in").await.0, IN);
    assert_eq!(seen_by(&t, &alma, "POST", &open).await.0, IN);
    let page = t.ask("GET", &format!("//classes/{}", t.class), TEACHER, "").await.1;
    assert!(!page.contains("Let all in"), "{page}");
}

#[tokio::test]
async fn a_student_moves_with_the_work_that_fits_and_keeps_the_rest() {
    let t = town();
    let store = Store::open(t.folder.path()).unwrap();
    let owner = store.teacher_named("Ottilie Rast").unwrap().unwrap();
    let other = store.classes(owner).unwrap().into_iter().find(|c| c.id != t.class).unwrap().id;
    let cell = json!({ "record": { "type_cell": { "row": "below", "column": 1, "typed": "0.4", "was": null } } });
    assert!(t.edit(MEMBER, &cell).await.0.is_success());
    let form = format!("do=move&work=kept&class={other}");
    // The other class does not have this lab: the logbook stays, and stays hers.
    assert_eq!(t.ask("POST", &student(&t, t.member), TEACHER, &form).await.0, IN);
    let labs = t.ask("GET", "//labs", MEMBER, "").await.1;
    assert!(labs.contains("From an earlier class") && labs.contains(&format!("/logbooks/{}", t.logbook)), "{labs}");
    assert!(t.edit(MEMBER, &cell).await.0.is_success());
    // Back, and over again now that the lab is there.
    let back = format!("//classes/{other}/students/{}", t.member);
    assert_eq!(t.ask("POST", &back, TEACHER, &format!("do=move&work=kept&class={}", t.class)).await.0, IN);
    let sheet = store.assignments(t.class).unwrap()[0].sheet;
    store.assign(owner, other, sheet).unwrap();
    assert_eq!(t.ask("POST", &student(&t, t.member), TEACHER, &form).await.0, IN);
    let labs = t.ask("GET", "//labs", MEMBER, "").await.1;
    assert!(!labs.contains("From an earlier class") && labs.contains("Go on"), "{labs}");
    assert_eq!(store.logbook_info(t.logbook).unwrap().class, other);
    assert_eq!(t.stored().seq(), 2);
    // Nobody else's student or class.
    assert_eq!(
        t.ask("POST", &student(&t, t.classmate), TEACHER, "do=move&work=kept&class=4711").await.0,
        StatusCode::NOT_FOUND
    );
    // A name that is there already.
    store.join(&store.class(owner, other).unwrap().code, "Jost", "3141").unwrap();
    assert_eq!(t.ask("POST", &student(&t, t.classmate), TEACHER, &form).await.0, REFUSED);
    // With nothing taken along: her own logbook is gone, for her and for the teacher.
    let form = format!("do=move&work=erased&class={}", t.class);
    assert_eq!(t.ask("POST", &back, TEACHER, &form).await.0, IN);
    for who in [MEMBER, TEACHER] {
        assert_eq!(t.ask("GET", "", who, "").await.0, StatusCode::NOT_FOUND);
    }
    assert!(store.load_logbook(t.logbook).is_err());
}

#[tokio::test]
async fn where_one_is_signed_in_is_seen_and_ended_one_by_one() {
    let t = town();
    let tablet = "Mozilla/5.0 (iPad; CPU OS 18_0 like Mac OS X) AppleWebKit/605.1.15 Version/18.0 Safari/604.1";
    let here = cookies_of(&t, "Minna", tablet).await;
    let page = one_line(&t.ask("GET", &student(&t, t.member), TEACHER, "").await.1);
    assert!(page.contains("Safari on iPad"), "{page}");
    let session = page.split("name=\"session\" value=\"").nth(1).unwrap().split('"').next().unwrap().to_owned();
    assert_eq!(seen_by(&t, &here, "GET", "/labs").await.0, StatusCode::OK);
    let form = format!("do=end_session&session={session}");
    // Not by way of somebody else.
    assert_eq!(t.ask("POST", &student(&t, t.classmate), TEACHER, &form).await.0, StatusCode::NOT_FOUND);
    assert_eq!(t.ask("POST", &student(&t, t.member), TEACHER, &form).await.0, StatusCode::OK);
    assert_eq!(seen_by(&t, &here, "GET", "/labs").await.0, IN);
    assert_eq!(t.ask("GET", "", MEMBER, "").await.0, StatusCode::OK, "the other one goes on");
    let own = t.ask("GET", "//account", TEACHER, "").await.1;
    assert!(own.contains("<b>here</b>"), "{own}");
}

#[tokio::test]
async fn the_teacher_sees_who_did_what() {
    let t = town();
    let cell = |typed: &str| json!({ "record": { "type_cell": { "row": "below", "column": 1, "typed": typed, "was": null } } });
    for typed in ["0.41", "0.52"] {
        assert!(t.edit(MEMBER, &cell(typed)).await.0.is_success());
    }
    assert!(t.edit(MEMBER, &json!("undo")).await.0.is_success());
    let page = t.ask("GET", "/history", TEACHER, "").await.1;
    for word in ["Minna", "<td>3</td>", "Typed 0.41 in column ", "Typed 0.52 in column ", "Undid: row 2"] {
        assert!(page.contains(word), "{word}: {page}");
    }
    let page = t.ask("GET", "/history?before=2", TEACHER, "").await.1;
    assert!(page.contains("0.41") && !page.contains("0.52"), "{page}");
}

/// The kept store holds every kind of edit there is.
#[tokio::test]
async fn every_kind_of_edit_is_told_in_a_sentence() {
    let kept = concat!(env!("CARGO_MANIFEST_DIR"), "/../store/tests/fixtures/store-10");
    let folder = tempfile::tempdir().unwrap();
    for file in std::fs::read_dir(kept).unwrap().map(Result::unwrap) {
        std::fs::copy(file.path(), folder.path().join(file.file_name())).unwrap();
    }
    let store = Store::open(folder.path()).unwrap();
    let teacher = format!("zeitmass={}", store.begin_session(Actor::Teacher(1)).unwrap());
    let router = router(App::new(Store::open(folder.path()).unwrap()).unwrap());
    let mut told = BTreeSet::new();
    for logbook in (1..).take_while(|id| store.load_logbook(*id).is_ok()) {
        let request = Request::get(format!("/logbooks/{logbook}/history")).header(header::COOKIE, &teacher);
        let answer = router.clone().oneshot(request.body(Body::empty()).unwrap()).await.unwrap();
        if answer.status() != StatusCode::OK {
            continue;
        }
        let page = answer.into_body().collect().await.unwrap().to_bytes();
        let page = String::from_utf8(page.to_vec()).unwrap();
        assert!(!page.contains("newer version"), "logbook {logbook}: {page}");
        let cells = page.split("<td>").filter_map(|c| Some(c.split_once("</td>")?.0.trim().to_owned()));
        told.extend(cells.filter(|c| c.starts_with(|first: char| first.is_uppercase())));
    }
    assert!(told.len() > 100, "{told:#?}");
    for sentence in &told {
        assert!(!sentence.contains('_') && !sentence.contains("  "), "{sentence}");
    }
}
