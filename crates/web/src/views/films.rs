//! A moment's answers, and a teacher's films.

use askama::Template;
use zeitmass_core::logbook::{Logbook, MomentOf};
use zeitmass_core::motion::{Ask, ask};
use zeitmass_core::quantity::format::{plus_minus, with_unit};
use zeitmass_store::{FilmLimits, FilmRow};
use zeitmass_words::Words;

struct Answer {
    name: &'static str,
    title: &'static str,
    value: String,
    formula: String,
}

/// What a moment of a trail or a run tells.
#[derive(Template)]
#[template(path = "bench/moment.html")]
pub(crate) struct MomentView {
    answers: Vec<Answer>,
    said: String,
    mass: bool,
    writable: bool,
}

impl MomentView {
    pub(crate) fn of(book: &Logbook, of: &MomentOf, mass: &str, writable: bool) -> Self {
        let empty = |said: String| Self { answers: Vec::new(), said, mass: false, writable };
        let seen = match book.moment(of) {
            Ok(seen) => seen,
            Err(e) => return empty(e.words()),
        };
        let body = match book.body(mass, seen.run) {
            Ok(body) => body,
            Err(e) => return empty(e.words()),
        };
        let [across, up] = seen.moves;
        let asked = Ask::ALL.iter().copied().filter(|what| match what {
            Ask::X | Ask::VelocityX => across,
            Ask::Y | Ask::VelocityY => up,
            Ask::Time
            | Ask::Speed
            | Ask::Acceleration
            | Ask::Momentum
            | Ask::Kinetic
            | Ask::Potential
            | Ask::Total
            | Ask::Force => true,
        });
        let answers = asked.filter_map(|what| {
            let told = ask(what, &seen.moment, body)?;
            let shown = if what == Ask::Time {
                // Frames have their times exactly.
                format!("{:.4}", told.value).replace('-', "\u{2212}")
            } else {
                plus_minus(told.value, seen.u_of(&told, body))
            };
            let value = with_unit(&shown, &told.unit);
            Some(Answer { name: what.name(), title: what.title(), value, formula: told.formula })
        });
        Self { answers: answers.collect(), said: String::new(), mass: body.is_some(), writable }
    }
}

struct FilmLine {
    id: i64,
    key: String,
    title: String,
    frames: usize,
    arrived: usize,
    seconds: String,
    size: String,
    whole: bool,
}

/// A teacher's films.
#[derive(Template)]
#[template(path = "films.html")]
pub(crate) struct FilmsPage {
    who: String,
    films: Vec<FilmLine>,
    demo: Vec<(&'static str, &'static str, &'static str)>,
    limits: FilmLimits,
}

impl FilmsPage {
    pub(crate) fn of(who: String, films: Vec<FilmRow>, limits: FilmLimits) -> Self {
        let lines = films.into_iter().map(|f| {
            let t = &f.facts.times;
            FilmLine {
                id: f.id,
                frames: t.len(),
                arrived: f.arrived,
                seconds: format!("{:.2}\u{A0}s", t.last().unwrap_or(&0.0) - t.first().unwrap_or(&0.0)),
                size: format!("{} × {}", f.facts.width, f.facts.height),
                key: f.facts.key,
                title: f.facts.title,
                whole: f.whole,
            }
        });
        let demo = zeitmass_film::catalogue::FILMS.iter().map(|f| (f.name, f.title, f.length));
        Self { who, films: lines.collect(), demo: demo.collect(), limits }
    }
}
