//! Pages of forecasts in front of the class.

use std::collections::BTreeMap;

use askama::Template;
use zeitmass_core::inquiry::{CurvePick, outline};
use zeitmass_core::lab::CurveAsked;
use zeitmass_core::logbook::Logbook;
use zeitmass_core::quantity::Unit;
use zeitmass_store::{Ask, Forecast, Id};
use zeitmass_words::Words;
use zeitmass_words::forecasts::curve;

use crate::draw;
use crate::views::picks::{PickView, picks};

/// Most points of a measured curve that are drawn.
const DRAWN: usize = 600;

/// A quantity that can be forecast.
pub(crate) struct Quantity {
    pub name: &'static str,
    pub label: &'static str,
    pub unit: String,
}

/// The page on which something is asked.
#[derive(Template)]
#[template(path = "lesson/ask_begin.html")]
pub(crate) struct BeginPage {
    pub who: String,
    pub logbook: Id,
    pub title: String,
    pub classes: Vec<(Id, String)>,
    pub quantities: Vec<Quantity>,
    pub time: String,
    pub message: String,
}

/// What came of it, for the teacher.
#[derive(Template)]
#[template(path = "lesson/ask.html")]
pub(crate) struct AskPage {
    pub who: String,
    pub class: String,
    pub title: String,
    pub logbook: Id,
    pub part: AskPart,
}

/// Answers of one shape.
pub(crate) struct ShapeGroup {
    pub words: String,
    pub count: usize,
    pub names: String,
}

/// The part of it that changes.
#[derive(Template)]
#[template(path = "lesson/ask_part.html")]
pub(crate) struct AskPart {
    pub id: Id,
    pub quantity: String,
    pub pick: bool,
    pub open: bool,
    pub ready: Vec<String>,
    pub people: usize,
    pub svg: String,
    pub groups: Vec<ShapeGroup>,
    /// Number of the run that is drawn; 0 for none.
    pub run: u32,
}

/// The page on which a student answers.
#[derive(Template)]
#[template(path = "lesson/answer.html")]
pub(crate) struct AnswerPage {
    pub who: String,
    /// The logbook the student came from, which the page leads back to.
    pub logbook: Option<Id>,
    pub ask: Option<Id>,
    pub quantity: String,
    pub channel: &'static str,
    pub svg: String,
    pub points: String,
    pub picks: Vec<PickView>,
}

impl AskPart {
    pub(crate) fn of(
        ask: &Ask,
        book: &Logbook,
        plan: &CurveAsked,
        time: &Unit,
        (answers, people): (&[Forecast], usize),
    ) -> Self {
        let open = ask.closed.is_none();
        let ready = answers.iter().map(|a| a.name.clone()).collect();
        let quantity = plan.name.clone();
        if open {
            // Nobody is swayed by what others draw.
            return Self {
                id: ask.id,
                quantity,
                pick: ask.pick,
                open,
                ready,
                people,
                svg: String::new(),
                groups: Vec::new(),
                run: 0,
            };
        }
        let height = plan.ends[1] - plan.ends[0];
        let sketches: Vec<(Vec<[f64; 2]>, String, &str)> = answers
            .iter()
            .filter_map(|a| match CurvePick::named(&a.answer) {
                Some(pick) => {
                    let at = |k: i32| {
                        let share = f64::from(k) / 40.0;
                        [share * ask.duration, plan.ends[0] + height * (0.1 + 0.8 * pick.at(share))]
                    };
                    Some(((0..=40).map(at).collect(), curve(pick).to_owned(), a.name.as_str()))
                }
                None => {
                    let points: Vec<[f64; 2]> = serde_json::from_str(&a.answer).ok()?;
                    let words = outline(&points, height)?.words();
                    Some((points, words, a.name.as_str()))
                }
            })
            .collect();
        let mut shapes: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
        sketches.iter().for_each(|(_, words, name)| shapes.entry(words.as_str()).or_default().push(name));
        let mut groups: Vec<ShapeGroup> = shapes
            .into_iter()
            .map(|(words, names)| ShapeGroup { words: words.to_owned(), count: names.len(), names: names.join(", ") })
            .collect();
        groups.sort_by_key(|g| std::cmp::Reverse(g.count));
        let run = book.state().run_on_stage();
        let measured = run.and_then(|number| book.footage(number)?.ok()).and_then(|run| {
            let values = run.channel(plan.channel)?;
            let last = run.sampling.frame_from(ask.duration).min(run.frames().saturating_sub(1));
            let every = (last / DRAWN).max(1);
            Some((0..=last).step_by(every).map(|i| [run.sampling.time(i), values[i]]).collect::<Vec<_>>())
        });
        let many: Vec<Vec<[f64; 2]>> = sketches.into_iter().map(|(points, _, _)| points).collect();
        let svg = draw::forecast::svg_with(plan, ask.duration, (None, &many), measured.as_deref(), time);
        let run = measured.and(run).unwrap_or(0);
        Self { id: ask.id, quantity, pick: ask.pick, open, ready, people, svg, groups, run }
    }
}

impl AnswerPage {
    /// Nothing is asked at the moment.
    pub(crate) fn nothing(who: String, logbook: Option<Id>) -> Self {
        Self {
            who,
            logbook,
            ask: None,
            quantity: String::new(),
            channel: "",
            svg: String::new(),
            points: String::new(),
            picks: Vec::new(),
        }
    }

    pub(crate) fn of(
        (who, logbook): (String, Option<Id>),
        ask: &Ask,
        plan: &CurveAsked,
        time: &Unit,
        own: &str,
    ) -> Self {
        let drawn: Option<Vec<[f64; 2]>> = serde_json::from_str(own).ok();
        Self {
            who,
            logbook,
            ask: Some(ask.id),
            quantity: plan.name.clone(),
            channel: plan.channel,
            svg: if ask.pick {
                String::new()
            } else {
                draw::forecast::svg(plan, ask.duration, drawn.as_deref(), None, time)
            },
            points: drawn.map_or_else(|| "[]".to_owned(), |d| crate::wish::json(&d)),
            picks: if ask.pick { picks(CurvePick::named(own)) } else { Vec::new() },
        }
    }
}
