//! All routes. Each family of pages has a module; who may use a route is said by the extractors it asks for.

mod asks;
mod bench;
mod classes;
mod entry;
mod exports;
mod films;
mod history;
mod labs;
mod logbook;
mod marking;
mod moment;
mod pool;
mod registry;
mod rounds;
mod runs;
mod sheets;

use std::sync::atomic::{AtomicU64, Ordering};

use askama::Template;
use axum::Router;
use axum::extract::{DefaultBodyLimit, MatchedPath, Request, State};
use axum::http::{HeaderName, HeaderValue, StatusCode, header};
use axum::middleware::{Next, from_fn, from_fn_with_state};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{MethodRouter, delete, get, post, put};
use tower_http::compression::CompressionLayer;
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::timeout::{RequestBodyTimeoutLayer, TimeoutLayer};
use tower_http::trace::TraceLayer;

use crate::app::App;
use crate::error::{WebError, errors_as_data};
use crate::gate::Caller;
use crate::session::same_site;
use crate::uploads::{BODY_RESTS, BODY_TAKES, in_turn};

/// Largest request, in bytes: a pasted block or a lab sheet at its limit, encoded as a form.
const LARGEST_REQUEST: usize = 4_000_000;

/// Largest form of somebody who is not signed in, in bytes.
const LARGEST_AT_DOOR: usize = 4096;

/// Nothing is loaded from elsewhere, and no inline script or style runs.
const POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data:; \
    connect-src 'self'; media-src 'self' blob:; font-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";

/// The application's routes.
pub fn router(app: App) -> Router {
    let pages = Router::new()
        .route("/", get(entry::start))
        .route("/first-teacher", at_door(post(entry::first_teacher)))
        .route("/sign-in", at_door(post(entry::sign_in)))
        .route("/join", at_door(post(entry::join)))
        .route("/sign-out", post(entry::sign_out))
        .route("/classes", get(classes::list).post(classes::create))
        .route("/classes/{class}", get(classes::show))
        .route("/classes/{class}/labs", post(classes::assign))
        .route("/classes/{class}/labs/{lab}", post(classes::change_lab))
        .route("/classes/{class}/labs/{lab}/pool", get(pool::show).post(pool::open))
        .route("/labs/{assignment}/pool", get(pool::shown))
        .route("/classes/{class}/rounds", get(rounds::newest))
        .route("/classes/{class}/labs/{lab}/rounds", get(rounds::show))
        .route("/classes/{class}/labs/{lab}/rounds/part", get(rounds::part))
        .route("/classes/{class}/labs/{lab}/rounds/word", post(rounds::say))
        .route("/classes/{class}/labs/{lab}/marks", get(marking::list).post(marking::change))
        .route("/classes/{class}/labs/{lab}/files/{name}", get(marking::take_along))
        .route("/logbooks/{logbook}/marks", get(marking::show).post(marking::decide))
        .route("/logbooks/{logbook}/marked", get(marking::marked))
        .route("/classes/{class}/standings", get(classes::standings))
        .route("/classes/{class}/events", get(classes::events))
        .route("/classes/{class}/office", post(registry::change_class))
        .route("/classes/{class}/students/{student}", get(registry::student).post(registry::change_student))
        .route("/classes/{class}/students/{student}/everything.json", get(registry::everything))
        .route("/account", get(registry::account))
        .route("/account/password", at_door(post(registry::change_password)))
        .route("/account/sessions", post(registry::end_session))
        .route("/account/invitations", post(registry::invite))
        .route("/invitations/{token}", get(registry::invited).merge(at_door(post(registry::accept))))
        .route("/health", get(health))
        .merge(sheet_routes())
        .route("/labs", get(labs::list))
        .route("/labs/{assignment}/open", post(labs::open))
        .route("/labs/partner", post(labs::partner))
        .merge(logbook_routes(&app))
        .merge(film_routes(&app))
        .fallback(async || WebError::NoPage)
        .layer(from_fn(same_site))
        .layer(from_fn(errors_as_data))
        .layer(from_fn_with_state(app.clone(), only_encrypted))
        // Pages show what may change at any moment and belong to one person.
        .layer(SetResponseHeaderLayer::if_not_present(header::CACHE_CONTROL, HeaderValue::from_static("no-store")))
        .with_state(app);
    let headers = [
        (header::CONTENT_SECURITY_POLICY, POLICY),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::REFERRER_POLICY, "same-origin"),
        (HeaderName::from_static("cross-origin-opener-policy"), "same-origin"),
    ];
    let router = Router::new().merge(pages).route("/assets/{*path}", get(crate::assets::file));
    headers
        .into_iter()
        .fold(router, |r, (name, value)| {
            r.layer(SetResponseHeaderLayer::overriding(name, HeaderValue::from_static(value)))
        })
        .layer(DefaultBodyLimit::max(LARGEST_REQUEST))
        // Whoever stops in the middle of a request is not waited for. Streams are not concerned: theirs is the answer.
        .layer(RequestBodyTimeoutLayer::new(BODY_RESTS))
        .layer(TimeoutLayer::with_status_code(StatusCode::REQUEST_TIMEOUT, BODY_TAKES))
        .layer(CompressionLayer::new())
        .layer(TraceLayer::new_for_http().make_span_with(span_of).on_request(()).on_failure(()))
}

/// Lab sheets, the free bench, and what a class is asked.
fn sheet_routes() -> Router<App> {
    Router::new()
        .route("/sheets", get(sheets::list).post(sheets::begin))
        .route("/sheets/guide", get(sheets::guide))
        .route("/sheets/bring", post(sheets::bring))
        .route("/sheets/{sheet}/sheet.md", get(sheets::take_along))
        .route("/sheets/{sheet}/delete", post(sheets::delete))
        .route("/sheets/{sheet}", get(sheets::show))
        .route("/sheets/{sheet}/copy", post(sheets::copy))
        .route("/sheets/{sheet}/edit", get(sheets::edit).post(sheets::save))
        .route("/sheets/{sheet}/draft", post(sheets::draft))
        .route("/sheets/{sheet}/try", post(sheets::attempt))
        .route("/bench", get(bench::list))
        .route("/bench/{name}", post(bench::open))
        .route("/logbooks/{logbook}/sheet", post(bench::to_sheet))
        .route("/logbooks/{logbook}/asks", get(asks::begin).post(asks::ask))
        .route("/asks/{ask}", get(asks::show).post(asks::change))
        .route("/asks/{ask}/part", get(asks::part))
        .route("/ask", get(asks::answer_page))
        .route("/ask/now", get(asks::asked_now))
        .route("/ask/{ask}", post(asks::answer))
}

/// The bench of a logbook, and what leaves it.
fn logbook_routes(app: &App) -> Router<App> {
    Router::new()
        .route("/logbooks/{logbook}", get(logbook::bench))
        .route("/logbooks/{logbook}/edits", post(logbook::edit))
        .route("/logbooks/{logbook}/parts", post(logbook::parts))
        .route("/logbooks/{logbook}/events", get(logbook::events))
        .route("/logbooks/{logbook}/history", get(history::show).post(history::go_back))
        .route("/logbooks/{logbook}/partner-code", post(logbook::partner_code))
        .route("/logbooks/{logbook}/send-back", post(logbook::send_back))
        .route("/logbooks/{logbook}/words", post(logbook::say))
        .route("/logbooks/{logbook}/stamp", post(logbook::stamp))
        .route("/logbooks/{logbook}/setup", get(runs::setup))
        .route("/logbooks/{logbook}/runs/{run}", get(runs::footage))
        .route("/logbooks/{logbook}/runs/{run}/pictures/{file}", get(exports::picture))
        .route("/logbooks/{logbook}/runs/{run}/arrows/{name}", get(runs::arrow))
        .route("/logbooks/{logbook}/runs/{run}/meters/{frame}", get(runs::meters))
        .route("/logbooks/{logbook}/write-up", get(exports::write_up))
        .route("/logbooks/{logbook}/write-up.docx", get(exports::document))
        .route("/logbooks/{logbook}/columns/{column}/simulation", get(logbook::simulate))
        .route("/logbooks/{logbook}/tables/{file}", get(exports::table))
        .route("/logbooks/{logbook}/graphs/{file}", get(exports::graph))
        .route("/logbooks/{logbook}/logbook.zip", get(exports::zip))
        .route(
            "/logbooks/{logbook}/import",
            post(exports::import)
                .layer(DefaultBodyLimit::max(exports::LARGEST_UPLOAD))
                .layer(from_fn_with_state(app.clone(), in_turn)),
        )
}

/// Films of logbooks and of teachers. Whose a film is to be is said by the path.
fn film_routes(app: &App) -> Router<App> {
    let mut router = Router::new()
        .route("/films", get(films::library).post(films::begin))
        .route("/films/{film}/frames/{frame}", get(films::own_frame))
        .route("/logbooks/{logbook}/films", get(films::list).post(films::begin))
        .route("/logbooks/{logbook}/stage", post(films::choose))
        .route("/logbooks/{logbook}/pictures/{key}/{frame}", get(films::frame))
        .route("/logbooks/{logbook}/strobe/{key}", get(films::strobe))
        .route(
            "/logbooks/{logbook}/trails/{trail}/follow",
            get(films::standing).post(films::follow).delete(films::cancel),
        )
        .route("/logbooks/{logbook}/moment", get(moment::moment));
    for base in ["/films", "/logbooks/{logbook}/films"] {
        router = router
            .route(&format!("{base}/{{film}}"), delete(films::delete))
            .route(
                &format!("{base}/{{film}}/frames"),
                put(films::put)
                    .layer(DefaultBodyLimit::max(films::LARGEST_PART))
                    .layer(from_fn_with_state(app.clone(), in_turn))
                    .get(films::missing),
            )
            .route(&format!("{base}/{{film}}/finish"), post(films::finish));
    }
    for base in ["/films-of-stills", "/logbooks/{logbook}/films-of-stills"] {
        router = router.route(base, post(films::stills).layer(from_fn_with_state(app.clone(), in_turn)));
    }
    router
}

/// What every line of the log says of its request: a number, the method, the path (of an invitation, whose path is a secret, the route; nothing of
/// what is asked after a question mark), and, once it is known, who asks.
fn span_of(request: &Request) -> tracing::Span {
    static NUMBER: AtomicU64 = AtomicU64::new(1);
    let number = NUMBER.fetch_add(1, Ordering::Relaxed);
    let route = request.extensions().get::<MatchedPath>().map_or("none", MatchedPath::as_str);
    let path = if route.contains("{token}") { route } else { request.uri().path() };
    tracing::info_span!("request", number, method = %request.method(), path, who = tracing::field::Empty)
}

/// Tells browsers that come over HTTPS to come so from now on.
async fn only_encrypted(caller: Caller, request: Request, next: Next) -> Response {
    let mut answer = next.run(request).await;
    if caller.encrypted {
        let year = HeaderValue::from_static("max-age=31536000");
        answer.headers_mut().insert(header::STRICT_TRANSPORT_SECURITY, year);
    }
    answer
}

/// A form that anybody can send, signed in or not: a name and a secret are short.
fn at_door(route: MethodRouter<App>) -> MethodRouter<App> {
    route.layer(DefaultBodyLimit::max(LARGEST_AT_DOOR))
}

/// Whether the server answers and its store can be read, for whoever watches services.
async fn health(State(app): State<App>) -> Result<Response, WebError> {
    app.store(zeitmass_store::Store::has_teacher).await?;
    Ok("ok\n".into_response())
}

/// A template as a response.
fn page(template: &impl Template) -> Result<Response, WebError> {
    Ok(Html(template.render()?).into_response())
}

/// After a form: the page to look at next.
fn go(to: impl AsRef<str>) -> Response {
    Redirect::to(to.as_ref()).into_response()
}
