//! The door: who guesses gets nowhere and disturbs nobody, and who is in can be out again.

use axum::body::Body;
use axum::extract::ConnectInfo;
use axum::http::{Request, StatusCode, header};
use axum::response::Response;
use http_body_util::BodyExt;
use std::net::SocketAddr;
use tower::ServiceExt;
use zeitmass_store::Store;
use zeitmass_web::{App, Network, router};

use crate::common::{CLASSMATE, MEMBER, STRANGER, Served, TEACHER, served};

fn town() -> Served {
    served("2.1-tower-pendulum.md", include_str!("../../../../labs/2.1-tower-pendulum.md"))
}

/// A browser: its cookies, and where it is.
#[derive(Clone)]
struct Device {
    cookies: String,
    address: [u8; 4],
}

impl Device {
    fn new(address: [u8; 4]) -> Self {
        Self { cookies: String::new(), address }
    }

    async fn post(&mut self, t: &Served, path: &str, form: &str) -> (StatusCode, String) {
        let answer = self.answer(t, path, form).await;
        for cookie in answer.headers().get_all(header::SET_COOKIE) {
            let pair = cookie.to_str().unwrap().split(';').next().unwrap().to_owned();
            let name = pair.split('=').next().unwrap().to_owned();
            let kept = self.cookies.split("; ").filter(|c| !c.is_empty() && !c.starts_with(&format!("{name}=")));
            self.cookies = kept.map(str::to_owned).chain([pair]).collect::<Vec<_>>().join("; ");
        }
        let status = answer.status();
        let bytes = answer.into_body().collect().await.unwrap().to_bytes();
        (status, String::from_utf8_lossy(&bytes).into_owned())
    }

    async fn answer(&self, t: &Served, path: &str, form: &str) -> Response {
        let mut request = Request::post(path)
            .header(header::COOKIE, &self.cookies)
            .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
            .body(Body::from(form.to_owned()))
            .unwrap();
        request.extensions_mut().insert(ConnectInfo(SocketAddr::from((self.address, 50_000))));
        t.router.clone().oneshot(request).await.unwrap()
    }
}

fn code(t: &Served) -> String {
    let store = Store::open(t.folder.path()).unwrap();
    let teacher = store.teacher_named("Ottilie Rast").unwrap().unwrap();
    store.class(teacher, t.class).unwrap().code
}

const WAITS: StatusCode = StatusCode::TOO_MANY_REQUESTS;
const WRONG: StatusCode = StatusCode::UNPROCESSABLE_ENTITY;
const IN: StatusCode = StatusCode::SEE_OTHER;

#[tokio::test]
async fn no_spelling_of_code_or_name_and_no_second_device_walks_around_the_pause() {
    let t = town();
    let code = code(&t);
    let (front, back) = code.split_at(2);
    let spellings = [
        format!("code={code}&name=Minna"),
        format!("code={front}-{back}&name=minna"),
        format!("code=%20{code}%20&name=%20%20MINNA"),
        format!("code={}&name=Minna%20", code.to_lowercase()),
        format!("code={front}%20{back}&name=MiNNa"),
    ];
    // The owner's own device, from which she came in once before.
    let mut own = Device::new([10, 0, 0, 1]);
    let right = format!("code={code}&name=Minna&pin=2718");
    assert_eq!(own.post(&t, "/join", &right).await.0, IN);
    for (k, spelling) in spellings.iter().enumerate() {
        let mut device = Device::new([10, 0, 1, k as u8]);
        assert_eq!(device.post(&t, "/join", &format!("{spelling}&pin=1000")).await.0, WRONG, "{spelling}");
    }
    for spelling in &spellings {
        let mut device = Device::new([10, 0, 2, 7]);
        let (status, page) = device.post(&t, "/join", &format!("{spelling}&pin=2718")).await;
        assert_eq!(status, WAITS, "even the right PIN is not looked at: {spelling}");
        assert!(page.contains("1 minute") || page.contains("seconds"), "{page}");
    }
    // Nobody else is held up, and she herself is not where she was before.
    let mut other = Device::new([10, 0, 2, 8]);
    assert_eq!(other.post(&t, "/join", &format!("code={code}&name=Jost&pin=2718")).await.0, IN);
    assert_eq!(own.post(&t, "/join", &right).await.0, IN);
}

#[tokio::test]
async fn many_tries_at_once_count_as_many() {
    let t = town();
    let code = code(&t);
    let tries = (0..40).map(|k: u16| {
        let (router, code) = (t.router.clone(), code.clone());
        tokio::spawn(async move {
            let form = format!("code={code}&name=Minna&pin={}", 5000 + k);
            let request = Request::post("/join")
                .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
                .body(Body::from(form))
                .unwrap();
            router.oneshot(request).await.unwrap().status()
        })
    });
    let mut looked_at = 0;
    for outcome in tries.collect::<Vec<_>>() {
        let status = outcome.await.unwrap();
        assert!([WRONG, WAITS].contains(&status), "{status}");
        looked_at += u32::from(status == WRONG);
    }
    assert_eq!(looked_at, 5);
}

#[tokio::test]
async fn a_teacher_who_does_not_exist_is_answered_like_one_who_does() {
    let t = town();
    let mut seen = Vec::new();
    for name in ["Ottilie Rast", "Nobody Atall"] {
        let mut answers = Vec::new();
        for _ in 0..7 {
            let mut device = Device::new([10, 0, 3, 3]);
            let (status, page) = device.post(&t, "/sign-in", &format!("name={name}&password=not+the+right+one")).await;
            let said = page.split("role=\"alert\">").nth(1).and_then(|rest| rest.split('<').next()).unwrap().to_owned();
            answers.push((status, said.split(" in ").next().unwrap().to_owned()));
        }
        seen.push(answers);
    }
    assert_eq!(seen[0], seen[1]);
    assert_eq!(seen[0].iter().filter(|(status, _)| *status == WRONG).count(), 5);
}

#[tokio::test]
async fn an_address_that_tries_name_after_name_has_to_wait_and_others_do_not() {
    let t = town();
    let code = code(&t);
    let mut names = Vec::new();
    let store = Store::open(t.folder.path()).unwrap();
    for k in 0..12 {
        let name = format!("Pupil {}", char::from(b'a' + k));
        store.join(&code, &name, "2718").unwrap();
        names.push(name);
    }
    let mut statuses = Vec::new();
    for k in 0..60 {
        let mut device = Device::new([10, 0, 4, 4]);
        let form = format!("code={code}&name={}&pin={}", names[k % 12], 3000 + k);
        statuses.push(device.post(&t, "/join", &form).await.0);
    }
    assert_eq!(statuses.iter().filter(|s| **s == WRONG).count(), 40, "{statuses:?}");
    // New names still join from there, and other addresses come in.
    let mut new = Device::new([10, 0, 4, 4]);
    assert_eq!(new.post(&t, "/join", &format!("code={code}&name=Alma&pin=2718")).await.0, IN);
    let mut elsewhere = Device::new([10, 0, 5, 5]);
    assert_eq!(elsewhere.post(&t, "/join", &format!("code={code}&name=Jost&pin=2718")).await.0, IN);
}

#[tokio::test]
async fn a_forwarded_address_is_believed_of_the_proxy_alone() {
    let t = town();
    let proxy = Network { proxy: Some([127, 0, 0, 1].into()), encrypted: false };
    let behind = router(App::new(Store::open(t.folder.path()).unwrap()).unwrap().reached_by(proxy));
    let ask = async |peer: [u8; 4], scheme: &str| {
        let mut request = Request::get("/")
            .header("x-forwarded-for", "203.0.113.9, 10.1.1.1")
            .header("x-forwarded-proto", scheme)
            .body(Body::empty())
            .unwrap();
        request.extensions_mut().insert(ConnectInfo(SocketAddr::from((peer, 50_000))));
        let answer = behind.clone().oneshot(request).await.unwrap();
        let cookie = answer.headers()[header::SET_COOKIE].to_str().unwrap().to_owned();
        assert_eq!(answer.headers().contains_key(header::STRICT_TRANSPORT_SECURITY), cookie.contains("Secure"));
        cookie.contains("Secure")
    };
    assert!(ask([127, 0, 0, 1], "https").await);
    assert!(!ask([127, 0, 0, 1], "http").await);
    assert!(!ask([10, 0, 0, 9], "https").await);
}

#[tokio::test]
async fn partner_codes_are_shown_on_request_and_cannot_be_tried_out() {
    let t = town();
    let (_, page) = t.ask("GET", "", MEMBER, "").await;
    assert!(page.contains("Let a partner in") && !page.contains("class=\"code\""), "no code stands on the page");
    for who in [TEACHER, CLASSMATE, STRANGER] {
        assert!(!t.ask("POST", "/partner-code", who, "{}").await.0.is_success());
    }
    let path = "//labs/partner";
    for k in 0..5 {
        assert_eq!(t.ask("POST", path, CLASSMATE, &format!("code=ABCD-EFG{}", k + 2)).await.0, WRONG);
    }
    let (_, shown) = t.ask("POST", "/partner-code", MEMBER, "{}").await;
    let shown: serde_json::Value = serde_json::from_str(&shown).unwrap();
    let code = shown["code"].as_str().unwrap();
    assert_eq!(code.len(), 9);
    assert_eq!(t.ask("POST", path, CLASSMATE, &format!("code={code}")).await.0, WAITS);
}

#[tokio::test]
async fn a_new_sign_in_ends_the_old_session_and_signing_out_ends_its_streams() {
    let t = town();
    let code = code(&t);
    let mut device = Device::new([10, 0, 6, 6]);
    let form = format!("code={code}&name=Minna&pin=2718");
    assert_eq!(device.post(&t, "/join", &form).await.0, IN);
    let before = device.clone();
    let stream = |device: &Device| {
        let request = Request::get(format!("/logbooks/{}/events", t.logbook)).header(header::COOKIE, &device.cookies);
        t.router.clone().oneshot(request.body(Body::empty()).unwrap())
    };
    let open = stream(&before).await.unwrap();
    assert_eq!(open.status(), StatusCode::OK);
    let ended = tokio::spawn(open.into_body().collect());
    assert_eq!(device.post(&t, "/join", &form).await.0, IN);
    // The stream comes to its end, and the old cookie opens nothing.
    ended.await.unwrap().unwrap();
    assert_eq!(stream(&before).await.unwrap().status(), IN);

    let open = stream(&device).await.unwrap();
    let ended = tokio::spawn(open.into_body().collect());
    let answer = device.answer(&t, "/sign-out", "").await;
    let gone = answer.headers()[header::SET_COOKIE].to_str().unwrap();
    assert!(gone.starts_with("zeitmass=;") && gone.contains("Max-Age=0"), "{gone}");
    ended.await.unwrap().unwrap();
    // One session has so many streams and no more.
    let mut many = Vec::new();
    assert_eq!(device.post(&t, "/join", &form).await.0, IN);
    for _ in 0..24 {
        many.push(stream(&device).await.unwrap());
    }
    assert_eq!(stream(&device).await.unwrap().status(), StatusCode::SERVICE_UNAVAILABLE);
    drop(many);
    assert_eq!(stream(&device).await.unwrap().status(), StatusCode::OK);
}

#[tokio::test]
async fn the_first_account_needs_the_key_from_the_console() {
    let folder = tempfile::tempdir().unwrap();
    let app = App::new(Store::open(folder.path()).unwrap()).unwrap();
    let key = app.first_key().unwrap().to_owned();
    let served = router(app);
    let ask = async |key: &str| {
        let form = format!("key={key}&name=Ottilie+Rast&password=anchor+and+wheel");
        let request = Request::post("/first-teacher")
            .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
            .body(Body::from(form))
            .unwrap();
        served.clone().oneshot(request).await.unwrap().status()
    };
    assert_eq!([ask("").await, ask("ABCDEFGHABCDEFGH").await], [WRONG, WRONG]);
    assert!(!Store::open(folder.path()).unwrap().has_teacher().unwrap());
    assert_eq!(ask(&key).await, IN);
    assert_eq!(ask(&key).await, WRONG, "there is an account now");
}

#[tokio::test]
async fn what_anybody_can_send_is_short() {
    let t = town();
    for path in ["/join", "/sign-in", "/first-teacher"] {
        let mut device = Device::new([10, 0, 7, 7]);
        let form = format!("code=x&pin=2718&password=y&name={}", "n".repeat(5000));
        assert_eq!(device.post(&t, path, &form).await.0, StatusCode::PAYLOAD_TOO_LARGE, "{path}");
    }
}
