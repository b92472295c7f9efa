//! Forecasts in front of the class: the teacher asks at the free bench, everybody answers on a device of their own, and all answers lie over what
//! was measured.

use std::sync::Arc;

use axum::extract::{Path, Query, State};
use axum::response::{IntoResponse, Response};
use axum::{Form, Json};
use serde::{Deserialize, Serialize};
use zeitmass_core::inquiry::{CurvePick, MOST_SKETCHED};
use zeitmass_core::lab::CurveAsked;
use zeitmass_core::logbook::Logbook;
use zeitmass_core::quantity::{Unit, parse_quantity};
use zeitmass_core::rigs::ChannelSpec;
use zeitmass_store::{Ask, Id, StoreError};

use super::{go, page};
use crate::app::App;
use crate::error::{Notice, WebError};
use crate::gate::now;
use crate::session::{Access, AsStudent, AsTeacher};
use crate::viewer::Viewer;
use crate::views::asks::{AnswerPage, AskPage, AskPart, BeginPage, Quantity};
use zeitmass_words::Words;

/// Longest time axis, in the unit of the clock.
const LONGEST: f64 = 600.0;

/// The axes of a channel: what it is called, in coherent units.
fn curve(spec: &ChannelSpec, ends: [f64; 2]) -> CurveAsked {
    let unit = Unit::coherent(&spec.unit.dimension());
    CurveAsked { channel: spec.name, name: spec.label.to_owned(), symbol: spec.symbol, unit, ends }
}

/// The unit of times at a bench: s, or what the apparatus counts.
fn time_of(book: &Logbook) -> Unit {
    let (_, _, clock) = book.sheet().card.clock.written();
    if clock.dimension() == Unit::one().dimension() { clock } else { Unit::coherent(&clock.dimension()) }
}

/// The bench somebody may ask from: a teacher's own, of a rig.
async fn bench(app: &App, access: &Access) -> Result<Arc<Logbook>, WebError> {
    let book = app.desks.book(access.info.id).await?;
    if access.viewer != Viewer::Own || book.sheet().is_filmed() { Err(WebError::Forbidden) } else { Ok(book) }
}

/// The page on which something is asked.
pub(super) async fn begin(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    access: Access,
) -> Result<Response, WebError> {
    let book = bench(&app, &access).await?;
    let classes = open_classes(&app, teacher.id).await?;
    page(&begin_page(teacher.name, access.info.id, &book, classes, String::new()))
}

/// The classes a teacher can ask.
async fn open_classes(app: &App, owner: Id) -> Result<Vec<(Id, String)>, WebError> {
    let classes = app.store(move |s| s.classes(owner)).await?;
    Ok(classes.into_iter().filter(|c| !c.closed).map(|c| (c.id, c.name)).collect())
}

fn begin_page(who: String, logbook: Id, book: &Logbook, classes: Vec<(Id, String)>, message: String) -> BeginPage {
    let channels = book.sheet().card.channels.iter().filter(|c| c.name != "t");
    let quantities =
        channels.map(|c| Quantity { name: c.name, label: c.label, unit: Unit::coherent(&c.unit.dimension()).pretty() });
    BeginPage {
        who,
        logbook,
        title: book.sheet().title.clone(),
        classes,
        quantities: quantities.collect(),
        time: time_of(book).pretty(),
        message,
    }
}

#[derive(Deserialize)]
pub(super) struct Asking {
    class: Id,
    channel: String,
    pick: bool,
    low: String,
    high: String,
    duration: String,
}

pub(super) async fn ask(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    access: Access,
    Form(form): Form<Asking>,
) -> Result<Response, WebError> {
    let book = bench(&app, &access).await?;
    let (owner, logbook) = (teacher.id, access.info.id);
    match read(&book, &form) {
        Ok((ends, duration)) => {
            let ask = Ask {
                id: 0,
                class: form.class,
                logbook,
                channel: form.channel,
                ends,
                duration,
                pick: form.pick,
                asked: now(),
                closed: None,
            };
            let class = ask.class;
            let id = app.store(move |s| s.ask(owner, &ask)).await?;
            // Nobody at a bench is no error.
            let _ = app.asked.send((class, true));
            Ok(go(format!("/asks/{id}")))
        }
        Err(message) => {
            let classes = open_classes(&app, owner).await?;
            let again = page(&begin_page(teacher.name, logbook, &book, classes, message))?;
            Ok((axum::http::StatusCode::UNPROCESSABLE_ENTITY, again).into_response())
        }
    }
}

/// Ends of the axis and of the time axis, in coherent units.
fn read(book: &Logbook, form: &Asking) -> Result<([f64; 2], f64), String> {
    let spec = book.sheet().card.channel(&form.channel);
    let spec = spec.ok_or("This apparatus records no such quantity. Nothing was asked.")?;
    let unit = Unit::coherent(&spec.unit.dimension());
    let quantity = |typed: &str, unit: &Unit| {
        let (number, given) = parse_quantity(typed, unit).map_err(|e| e.words())?;
        let value = number.value() * given.size();
        if given.same_dimension(unit) && value.is_finite() && value.abs() < 1e12 {
            Ok(value)
        } else {
            Err(format!("“{typed}” is not in a unit of this axis. Nothing was asked."))
        }
    };
    let duration = quantity(&form.duration, &time_of(book))?;
    if !(0.01..=LONGEST).contains(&duration) {
        return Err(format!(
            "The time axis can run to {LONGEST} {} at most. Nothing was asked.",
            time_of(book).pretty()
        ));
    }
    let ends = [quantity(&form.low, &unit)?, quantity(&form.high, &unit)?];
    if ends[0] < ends[1] {
        Ok((ends, duration))
    } else {
        Err("The axis runs from a smaller value to a larger one. Nothing was asked.".to_owned())
    }
}

/// What a teacher asked, with the bench it was asked at.
async fn asked(app: &App, owner: Id, id: Id) -> Result<(Ask, Arc<Logbook>), WebError> {
    let ask = app.store(move |s| s.asked(owner, id)).await?;
    let book = app.desks.book(ask.logbook).await?;
    Ok((ask, book))
}

/// What came of it, as it stands now.
pub(super) async fn show(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let (ask, book) = asked(&app, teacher.id, id).await?;
    let class = ask.class;
    let class = app.store(move |s| s.class_name(class)).await?;
    let title = book.sheet().title.clone();
    let part = standing(&app, &ask, &book).await?;
    page(&AskPage { who: teacher.name, class, title, logbook: ask.logbook, part })
}

pub(super) async fn part(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
) -> Result<Response, WebError> {
    let (ask, book) = asked(&app, teacher.id, id).await?;
    page(&standing(&app, &ask, &book).await?)
}

async fn standing(app: &App, ask: &Ask, book: &Logbook) -> Result<AskPart, WebError> {
    let (id, class) = (ask.id, ask.class);
    let (answers, people) = app.store(move |s| Ok((s.forecasts(id)?, s.students(class)?))).await?;
    let people = people.into_iter().filter(|p| !p.waits).count();
    let spec = book.sheet().card.channel(&ask.channel).ok_or(StoreError::NotFound("question"))?;
    let plan = curve(spec, ask.ends);
    Ok(AskPart::of(ask, book, &plan, &time_of(book), (&answers, people)))
}

#[derive(Deserialize)]
#[serde(rename_all = "snake_case", tag = "do")]
pub(super) enum ForAsk {
    Close,
    Open,
}

pub(super) async fn change(
    State(app): State<App>,
    AsTeacher(teacher): AsTeacher,
    Path(id): Path<Id>,
    Form(form): Form<ForAsk>,
) -> Result<Response, WebError> {
    let owner = teacher.id;
    let closed = match form {
        ForAsk::Close => Some(now()),
        ForAsk::Open => None,
    };
    let class = app.store(move |s| s.close_ask(owner, id, closed).and_then(|()| s.asked(owner, id))).await?.class;
    let _ = app.asked.send((class, closed.is_none()));
    Ok(go(format!("/asks/{id}")))
}

/// What one's class is asked now.
#[derive(Serialize)]
struct Now {
    ask: Option<Id>,
}

pub(super) async fn asked_now(State(app): State<App>, AsStudent(student): AsStudent) -> Result<Response, WebError> {
    let class = student.class;
    let ask = app.store(move |s| s.open_ask(class)).await?.map(|a| a.id);
    Ok(Json(Now { ask }).into_response())
}

/// Where somebody came from.
#[derive(Deserialize)]
pub(super) struct From {
    logbook: Option<Id>,
}

/// The page on which it is answered.
pub(super) async fn answer_page(
    State(app): State<App>,
    AsStudent(student): AsStudent,
    Query(From { logbook }): Query<From>,
) -> Result<Response, WebError> {
    let (class, id) = (student.class, student.id);
    let open = app.store(move |s| {
        let Some(ask) = s.open_ask(class)? else { return Ok(None) };
        let own = s.forecasts(ask.id)?.into_iter().find(|f| f.student == id).map(|f| f.answer);
        Ok(Some((ask, own.unwrap_or_default())))
    });
    let Some((ask, own)) = open.await? else { return page(&AnswerPage::nothing(student.name, logbook)) };
    let book = app.desks.book(ask.logbook).await?;
    let spec = book.sheet().card.channel(&ask.channel).ok_or(StoreError::NotFound("question"))?;
    page(&AnswerPage::of((student.name, logbook), &ask, &curve(spec, ask.ends), &time_of(&book), &own))
}

#[derive(Deserialize)]
pub(super) struct Answered {
    answer: String,
}

pub(super) async fn answer(
    State(app): State<App>,
    AsStudent(student): AsStudent,
    Path(id): Path<Id>,
    Json(Answered { answer }): Json<Answered>,
) -> Result<Response, WebError> {
    let class = student.class;
    let asked = app.store(move |s| s.open_ask(class)).await?;
    let Some(ask) = asked.filter(|a| a.id == id) else {
        let message = "Your teacher has closed this question. What you sent before it is kept.";
        return Err(WebError::Invalid(message.to_owned()));
    };
    let sound = if ask.pick { CurvePick::named(&answer).is_some() } else { sketched(&ask, &answer) };
    if !sound {
        let message = "A sketch has one value at a time and stays on its axes. What you sent before is kept.";
        return Err(WebError::Invalid(message.to_owned()));
    }
    app.store(move |s| s.forecast(student.id, id, &answer, now())).await?;
    Ok(Json(Notice { done: true, word: "Sent. You can change it until it is closed.".to_owned() }).into_response())
}

/// Whether an answer is a sketch on the axes that were asked for.
fn sketched(ask: &Ask, answer: &str) -> bool {
    let Ok(points) = serde_json::from_str::<Vec<[f64; 2]>>(answer) else { return false };
    let height = ask.ends[1] - ask.ends[0];
    let inside = |[t, v]: &[f64; 2]| {
        (-1e-9..=ask.duration * (1.0 + 1e-3)).contains(t)
            && (ask.ends[0] - 0.01 * height..=ask.ends[1] + 0.01 * height).contains(v)
    };
    (2..=MOST_SKETCHED).contains(&points.len())
        && points.iter().all(inside)
        && points.windows(2).all(|w| w[0][0] < w[1][0])
}
