//! The forecast: sketches, hypothesis and prediction, and what came out beside them.

use askama::Template;
use zeitmass_core::inquiry::{Step, outline};
use zeitmass_core::lab::{CurveAsked, ReadFrom, Section};
use zeitmass_core::logbook::{Part, TextField};
use zeitmass_core::quantity::format::{to_step, with_unit};
use zeitmass_words::{Words, forecasts};

use super::words::Beside;
use super::{Scene, moment};
use crate::draw;
use crate::text::markdown;
use crate::views::picks::{PickView, picks};
use crate::wish::json;

/// Most points of a measured curve that are drawn.
const DRAWN: usize = 600;

/// What was forecast beside what was measured, in one respect.
pub(crate) struct Compared {
    pub agrees: bool,
    pub text: String,
}

/// A curve that was sketched, or is to be.
pub(crate) struct CurveView {
    pub channel: &'static str,
    pub name: String,
    pub svg: String,
    /// Its points, for the one who sketches on.
    points: String,
    pub at: String,
    /// Whether it was brought from a file.
    pub brought: bool,
    pub remarks: Vec<Compared>,
    /// The sketch in words, for who cannot see it.
    told: String,
    sketched: bool,
    /// Number of the run it is held against; 0 for none.
    pub run: u32,
}

/// Which of it was brought from a file.
#[derive(Clone, Copy, Default)]
pub(crate) struct Brought {
    pub hypothesis: bool,
    pub prediction: bool,
}

/// What the write-up says of the forecast.
pub(crate) struct Written {
    pub curves: Vec<CurveView>,
    pub hypothesis: String,
    pub hypothesis_at: String,
    pub brought: Brought,
    /// What the record shows of the hypothesis.
    pub found: Option<Compared>,
    pub question: String,
    pub prediction: String,
    pub prediction_at: String,
    pub outcome: String,
    pub difference: String,
}

#[derive(Template)]
#[template(path = "bench/forecast_part.html")]
pub(crate) struct ForecastPart {
    beside: Beside,
    writable: bool,
    /// Sections of the sheet that waited for the forecast.
    sections: Vec<(String, String)>,
    /// Whether it can still be changed.
    open: bool,
    /// Whether it is the first round, with hypothesis and prediction.
    first: bool,
    /// Whether the curves may be sketched once more.
    again: bool,
    /// How many rounds the sheet asks for, and which one this is; one for most.
    rounds: (usize, usize),
    hold: bool,
    forecasts: bool,
    has_run: bool,
    missing: String,
    causes: Vec<(String, bool)>,
    effects: Vec<(String, bool)>,
    picks: Vec<PickView>,
    reason: String,
    predicted: String,
    outcome_typed: String,
    w: Written,
}

impl Scene<'_> {
    pub(super) fn forecast(&self) -> ForecastPart {
        let (book, state) = (self.book(), self.book().state());
        let plan = book.sheet().forecast.as_ref();
        let stated = state.forecast.hypothesis.as_ref();
        let choose = |all: &[String], chosen: Option<&String>| -> Vec<(String, bool)> {
            all.iter().map(|w| (w.clone(), Some(w) == chosen)).collect()
        };
        let hypothesis = plan.and_then(|p| p.hypothesis.as_ref());
        ForecastPart {
            beside: self.beside(Part::Forecast),
            writable: self.open_at(Step::Forecast),
            sections: if state.run.seen {
                let waited = book.sheet().sections.iter().filter(|s| s.from == ReadFrom::FirstRun);
                waited.map(|s| self.section(s)).collect()
            } else {
                Vec::new()
            },
            open: self.open_at(Step::Forecast) && !book.forecast_stands(),
            first: !state.run.seen,
            again: self.open_at(Step::Forecast) && book.may_sketch_again(),
            rounds: (plan.map_or(1, |p| p.rounds.into()), state.forecast.earlier.len() + 1),
            hold: plan.is_some_and(|p| p.hold),
            forecasts: plan.is_some(),
            has_run: state.run.seen,
            missing: book.forecast_missing().words(),
            causes: hypothesis.map(|h| choose(&h.causes, stated.map(|s| &s.cause))).unwrap_or_default(),
            effects: hypothesis.map(|h| choose(&h.effects, stated.map(|s| &s.effect))).unwrap_or_default(),
            picks: picks(stated.map(|s| s.curve)),
            reason: stated.map_or_else(String::new, |s| s.reason.clone()),
            predicted: state
                .forecast
                .prediction
                .as_ref()
                .map_or_else(String::new, |p| with_unit(&p.number.pretty(), &p.unit)),
            outcome_typed: state.forecast.outcome.as_ref().map_or_else(String::new, |(n, u)| with_unit(&n.pretty(), u)),
            w: self.written_forecast(state.run_on_stage()).unwrap_or_else(Written::empty),
        }
    }

    /// A section of the sheet, heading and text. One that would answer what is to be forecast waits for the first run, one that says what should
    /// have come out until the logbook is handed in; the teacher sees both.
    pub(crate) fn section(&self, section: &Section) -> (String, String) {
        let state = self.book().state();
        let waits = match section.from {
            ReadFrom::Start => None,
            ReadFrom::FirstRun => {
                Some("This part is shown here and under Forecast after the first run.").filter(|_| !state.run.seen)
            }
            ReadFrom::HandIn => {
                Some("This part is shown here once the logbook is handed in.").filter(|_| !state.office.handed_in)
            }
        };
        let text = waits.filter(|_| !self.viewer.sees_key()).unwrap_or(&section.text);
        (section.heading.clone(), markdown(text))
    }

    /// The sections that wait until the logbook is handed in, once it is.
    pub(crate) fn told_after_handing_in(&self) -> Vec<(String, String)> {
        if !self.book().state().office.handed_in {
            return Vec::new();
        }
        let waited = self.book().sheet().sections.iter().filter(|s| s.from == ReadFrom::HandIn);
        waited.map(|s| self.section(s)).collect()
    }

    /// What was forecast, round by round, each beside the first run after it that came to something.
    pub(crate) fn forecast_of_all_rounds(&self) -> Option<Written> {
        let state = self.book().state();
        let runs: Vec<u32> =
            state.runs_kept().filter(|(_, r)| !r.made.outcome.failed).map(|(number, _)| number).collect();
        let mut all = self.written_forecast(runs.first().copied())?;
        for round in &state.forecast.earlier {
            let Some(run) = runs.iter().copied().find(|n| *n > round.until) else { continue };
            all.curves.extend(self.written_forecast(Some(run)).map(|w| w.curves).unwrap_or_default());
        }
        Some(all)
    }

    /// What was forecast and what came out in a run; nothing where the sheet asks for no forecast.
    pub(crate) fn written_forecast(&self, run: Option<u32>) -> Option<Written> {
        let (book, state) = (self.book(), self.book().state());
        let plan = book.sheet().forecast.as_ref()?;
        let made = run.and_then(|n| book.footage(n)).and_then(Result::ok);
        let curves = plan.curves.iter().map(|curve| {
            let sketches = match run {
                Some(run) if book.forecast_stands() => state.forecast.sketches_for(run),
                _ => &state.forecast.sketches,
            };
            let sketch = sketches.get(curve.channel);
            let points = sketch.map(|s| s.points.as_slice());
            // A sketch is held against what was measured as far as its axes go.
            let measured: Option<Vec<[f64; 2]>> = made.as_ref().filter(|_| book.forecast_stands()).and_then(|run| {
                let values = run.channel(curve.channel)?;
                let last = run.sampling.frame_from(plan.duration).min(run.frames().saturating_sub(1));
                let every = (last / DRAWN).max(1);
                Some((0..=last).step_by(every).map(|i| [run.sampling.time(i), values[i]]).collect())
            });
            CurveView {
                channel: curve.channel,
                name: curve.name.clone(),
                svg: draw::forecast::svg(curve, plan.duration, points, measured.as_deref(), &plan.time),
                points: json(&points.unwrap_or_default()),
                at: sketch.map_or_else(String::new, |s| moment(s.at)),
                brought: sketch.is_some_and(|s| s.brought),
                remarks: match (points, &measured, run) {
                    (Some(sketch), Some(measured), Some(run)) => {
                        let remarks = book.remarks(run, curve.channel, sketch, measured, height(curve));
                        remarks.iter().map(|r| Compared { agrees: r.agrees(), text: r.words() }).collect()
                    }
                    _ => Vec::new(),
                },
                told: points.map_or_else(String::new, |points| told(curve, points)),
                sketched: sketch.is_some(),
                run: run.unwrap_or(0),
            }
        });
        let forecast = &state.forecast;
        let predicted = forecast.prediction.as_ref();
        let outcome = forecast.outcome.as_ref();
        let difference = predicted.zip(outcome).and_then(|(p, (n, u))| {
            let (was, is) = (p.number.value() * p.unit.size(), n.value() * u.size());
            (is != 0.0).then(|| format!("the prediction is off by {} %", to_step(100.0 * (was / is - 1.0), 1.0)))
        });
        Some(Written {
            curves: curves.collect(),
            hypothesis: forecast.hypothesis.as_ref().map_or_else(String::new, Words::words),
            hypothesis_at: forecast.hypothesis.as_ref().map_or_else(String::new, |h| moment(h.at)),
            brought: Brought {
                hypothesis: forecast.hypothesis.as_ref().is_some_and(|h| h.brought),
                prediction: predicted.is_some_and(|p| p.brought),
            },
            found: forecast
                .hypothesis
                .as_ref()
                .zip(book.hypothesis_outcome(self.analysis()))
                .map(|(h, t)| Compared { agrees: t.agrees, text: forecasts::turned(h, &t) }),
            question: plan.prediction.as_ref().map_or_else(String::new, |p| p.question.clone()),
            prediction: predicted.map_or_else(String::new, |p| with_unit(&p.number.pretty(), &p.unit)),
            prediction_at: predicted.map_or_else(String::new, |p| moment(p.at)),
            outcome: match (outcome, difference) {
                (Some((n, u)), Some(off)) => format!("{}: {off}", with_unit(&n.pretty(), u)),
                (Some((n, u)), None) => with_unit(&n.pretty(), u),
                (None, _) => String::new(),
            },
            difference: state.writing.texts.get(&TextField::Difference).cloned().unwrap_or_default(),
        })
    }
}

/// A sketch in words: where it begins and ends, and by which ways. Read as finely as it can be drawn.
fn told(curve: &CurveAsked, points: &[[f64; 2]]) -> String {
    let (Some(first), Some(last), Some(ways)) = (points.first(), points.last(), outline(points, height(curve))) else {
        return String::new();
    };
    let value = |point: &[f64; 2]| with_unit(&to_step(point[1], height(curve) / 100.0), &curve.unit);
    format!("The sketch begins at {} and ends at {}: {}.", value(first), value(last), ways.words())
}

fn height(curve: &CurveAsked) -> f64 {
    curve.ends[1] - curve.ends[0]
}

impl Written {
    /// Whether nothing was committed to, and nothing asked that would say so.
    pub(crate) fn is_empty(&self) -> bool {
        self.curves.iter().all(|c| !c.sketched) && self.hypothesis.is_empty() && self.question.is_empty()
    }

    fn empty() -> Self {
        Self {
            curves: Vec::new(),
            hypothesis: String::new(),
            hypothesis_at: String::new(),
            brought: Brought::default(),
            found: None,
            question: String::new(),
            prediction: String::new(),
            prediction_at: String::new(),
            outcome: String::new(),
            difference: String::new(),
        }
    }
}
