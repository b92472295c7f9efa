//! All routes. Each family of pages has a module; who may use a route is said by the extractors it asks for.

mod classes;
mod entry;
mod exports;
mod films;
mod labs;
mod logbook;
mod runs;
mod sheets;

use askama::Template;
use axum::Router;
use axum::extract::DefaultBodyLimit;
use axum::http::{HeaderName, HeaderValue, header};
use axum::middleware::from_fn;
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{delete, get, post, put};
use tower_http::compression::CompressionLayer;
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::trace::TraceLayer;

use crate::app::App;
use crate::error::{WebError, errors_as_data};
use crate::session::same_site;

/// Largest request, in bytes: a pasted block or a lab sheet at its limit, encoded as a form.
const LARGEST_REQUEST: usize = 4_000_000;

/// Nothing is loaded from elsewhere, and no inline script or style runs.
const POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data:; \
    connect-src 'self'; media-src 'self' blob:; font-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";

/// The application's routes.
pub fn router(app: App) -> Router {
    let pages = Router::new()
        .route("/", get(entry::start))
        .route("/first-teacher", post(entry::first_teacher))
        .route("/sign-in", post(entry::sign_in))
        .route("/join", post(entry::join))
        .route("/sign-out", post(entry::sign_out))
        .route("/classes", get(classes::list).post(classes::create))
        .route("/classes/{class}", get(classes::show))
        .route("/classes/{class}/labs", post(classes::assign))
        .route("/classes/{class}/standings", get(classes::standings))
        .route("/classes/{class}/events", get(classes::events))
        .route("/sheets", get(sheets::list).post(sheets::begin))
        .route("/sheets/guide", get(sheets::guide))
        .route("/sheets/{sheet}", get(sheets::show))
        .route("/sheets/{sheet}/copy", post(sheets::copy))
        .route("/sheets/{sheet}/edit", get(sheets::edit).post(sheets::save))
        .route("/sheets/preview", post(sheets::preview))
        .route("/labs", get(labs::list))
        .route("/labs/{assignment}/open", post(labs::open))
        .route("/labs/{assignment}/partner", post(labs::partner))
        .route("/logbooks/{logbook}", get(logbook::bench))
        .route("/logbooks/{logbook}/edits", post(logbook::edit))
        .route("/logbooks/{logbook}/parts", post(logbook::parts))
        .route("/logbooks/{logbook}/events", get(logbook::events))
        .route("/logbooks/{logbook}/send-back", post(logbook::send_back))
        .route("/logbooks/{logbook}/setup", get(runs::setup))
        .route("/logbooks/{logbook}/runs/{run}", get(runs::footage))
        .route("/logbooks/{logbook}/runs/{run}/arrows/{name}", get(runs::arrow))
        .route("/logbooks/{logbook}/runs/{run}/meters/{frame}", get(runs::meters))
        .route("/logbooks/{logbook}/write-up", get(exports::write_up))
        .route("/logbooks/{logbook}/columns/{column}/simulation", get(logbook::simulate))
        .route("/logbooks/{logbook}/tables/{file}", get(exports::table))
        .route("/logbooks/{logbook}/graphs/{file}", get(exports::graph))
        .route("/logbooks/{logbook}/logbook.zip", get(exports::zip))
        .route(
            "/logbooks/{logbook}/import",
            post(exports::import).layer(DefaultBodyLimit::max(exports::LARGEST_UPLOAD)),
        )
        .merge(film_routes())
        .fallback(async || WebError::NoPage)
        .layer(from_fn(same_site))
        .layer(from_fn(errors_as_data))
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
        .layer(CompressionLayer::new())
        .layer(TraceLayer::new_for_http())
}

/// Films of logbooks and of teachers. Whose a film is to be is said by the path.
fn film_routes() -> Router<App> {
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
        .route("/logbooks/{logbook}/moment", get(films::moment));
    for base in ["/films", "/logbooks/{logbook}/films"] {
        router = router
            .route(&format!("{base}/{{film}}"), delete(films::delete))
            .route(
                &format!("{base}/{{film}}/frames"),
                put(films::put).get(films::missing).layer(DefaultBodyLimit::max(films::LARGEST_PART)),
            )
            .route(&format!("{base}/{{film}}/finish"), post(films::finish));
    }
    for base in ["/films-of-stills", "/logbooks/{logbook}/films-of-stills"] {
        router = router.route(base, post(films::stills).layer(DefaultBodyLimit::max(films::LARGEST_STILLS)));
    }
    router
}

/// A template as a response.
fn page(template: &impl Template) -> Result<Response, WebError> {
    Ok(Html(template.render()?).into_response())
}

/// After a form: the page to look at next.
fn go(to: impl AsRef<str>) -> Response {
    Redirect::to(to.as_ref()).into_response()
}
