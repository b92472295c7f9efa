//! What models say beside the data, in words.

use zeitmass_core::logbook::{Compared, Differs, FittedPart, ModelOutcome, ModelRun};
use zeitmass_core::quantity::Unit;
use zeitmass_core::quantity::format::{plus_minus, to_step, with_unit};
use zeitmass_words::Words;

use super::super::{Scene, two_figures};
use crate::draw::{self, Audience};
use crate::notation::{symbol_html, without_marks};

/// A model in the list of those that were run.
pub(super) struct RunView {
    pub id: u32,
    pub number: u32,
    pub changed: String,
    /// What was fitted in it.
    pub fitted: String,
    pub rms: String,
    pub in_u: String,
    pub error: String,
    pub newest: bool,
    pub shown: bool,
}

/// The step model of the write-up.
pub(crate) struct WrittenModel {
    pub number: usize,
    /// A picture for all readings that have models.
    pub svgs: Vec<String>,
    pub sentences: Vec<String>,
    /// Number, what changed, distance, and distance in uncertainties of each model.
    pub rows: Vec<[String; 4]>,
}

fn unit(text: &str) -> Unit {
    Unit::parse(text).unwrap_or_default()
}

/// A length of the model for people: metres, centimetres or millimetres.
fn length(metres: f64) -> String {
    let (value, name) = if metres.abs() >= 1.0 {
        (metres, "m")
    } else if metres.abs() >= 0.01 {
        (metres * 1e2, "cm")
    } else {
        (metres * 1e3, "mm")
    };
    with_unit(&two_figures(value), &unit(name))
}

fn differences(all: &[Differs]) -> String {
    all.iter().map(Words::words).collect::<Vec<_>>().join("; ")
}

impl Scene<'_> {
    pub(super) fn run_views(&self, shown: Option<u32>) -> Vec<RunView> {
        let runs = &self.book().state().model.runs;
        let outcomes = &self.analysis().models;
        let one = |(i, (run, outcome)): (usize, (&ModelRun, &ModelOutcome))| {
            let agreement = outcome.worked.as_ref().ok().and_then(|w| w.agreement.as_ref());
            let found = agreement.and_then(|a| a.as_ref().ok());
            RunView {
                id: run.id,
                number: run.number,
                changed: match (&outcome.changed, self.against(outcome)) {
                    (None, None) => "the first one".to_owned(),
                    (None, Some(table)) => format!("the first one against {table}"),
                    (Some(changed), None) => differences(changed),
                    (Some(changed), Some(table)) => format!("{} (against {table})", differences(changed)),
                },
                fitted: run.fitted.as_ref().map_or_else(String::new, |f| fitted_words(run, f)),
                rms: found.map_or_else(String::new, |a| length(a.rms)),
                in_u: found.and_then(|a| a.in_uncertainties).map_or_else(String::new, two_figures),
                error: outcome.worked.as_ref().err().map_or_else(String::new, Words::words),
                newest: i + 1 == runs.len(),
                shown: shown == Some(run.number),
            }
        };
        runs.iter().zip(outcomes).enumerate().map(one).collect()
    }

    /// What the newest model says beside the data.
    pub(super) fn model_sentences(&self, model: &ModelOutcome) -> Vec<String> {
        let Ok(worked) = &model.worked else { return Vec::new() };
        let mut all = Vec::new();
        match &worked.agreement {
            Some(Ok(a)) => {
                let in_u = a.in_uncertainties.map_or_else(String::new, |k| {
                    format!(", {} times the uncertainty of a single position", two_figures(k))
                });
                all.push(format!(
                    "Model {} lies {} from the readings (root mean square of {} positions){in_u}.",
                    model.number,
                    length(a.rms),
                    a.n
                ));
            }
            Some(Err(e)) => all.push(e.words()),
            None => all.push(format!("Model {} has no readings beside it.", model.number)),
        }
        if worked.outside > 0 {
            let n = worked.outside;
            let (noun, verb) = if n == 1 { ("reading lies", "counts") } else { ("readings lie", "count") };
            all.push(format!("{n} {noun} before its start or after its end and {verb} for nothing."));
        }
        if let Some(by) = worked.by_half {
            all.push(if by < 5e-7 {
                "With half the time step nothing changes that could be measured.".to_owned()
            } else {
                format!("With half the time step its positions change by {} at most.", length(by))
            });
        }
        if let Some(terminal) = worked.terminal {
            let speed =
                with_unit(&to_step(terminal.speed, 0.001 * 10f64.powf(terminal.speed.log10().floor())), &unit("m/s"));
            all.push(match terminal.after {
                Some(after) => format!(
                    "The forces cancel at {speed}, its terminal speed; 99\u{A0}% of it are reached after {}.",
                    with_unit(&two_figures(after), &unit("s"))
                ),
                None => {
                    format!("The forces cancel at {speed}, its terminal speed; it does not get there in this time.")
                }
            });
        }
        all
    }

    /// The table a model is held against, where there are models against several.
    fn against(&self, outcome: &ModelOutcome) -> Option<String> {
        let with = outcome.compared?;
        let all = &self.analysis().models;
        let several = all.iter().any(|m| m.compared.is_some_and(|c| c != with));
        several.then(|| self.book().state().table_of(with.t).map_or_else(String::new, |t| t.name.clone()))
    }

    /// For the write-up: a figure for all readings that have models, what is said of the newest of each, and a row for each model.
    pub(crate) fn written_model(&self, number: usize) -> Option<WrittenModel> {
        let (book, analysis) = (self.book(), self.analysis());
        let mut held: Vec<Compared> = Vec::new();
        for with in analysis.models.iter().filter_map(|m| m.compared) {
            if !held.contains(&with) {
                held.push(with);
            }
        }
        let figure = |with: &Compared| {
            let trace = self.trace([with.x.is_some(), with.y.is_some()]);
            book.model_figure(analysis, *with, trace).map(|g| draw::svg(&g, Audience::Reader))
        };
        let svgs = held.iter().filter_map(figure).collect();
        let newest = held.iter().filter_map(|with| analysis.models_of(*with).last().copied());
        let newest: Vec<&ModelOutcome> =
            if held.is_empty() { analysis.models.last().into_iter().collect() } else { newest.collect() };
        newest.first()?;
        let sentences = newest.into_iter().flat_map(|m| self.model_sentences(m)).collect();
        let rows = self.run_views(None).into_iter().map(|r| {
            let changed =
                if r.fitted.is_empty() { r.changed } else { format!("{}; {}", r.changed, without_marks(&r.fitted)) };
            [r.number.to_string(), changed, r.rms, r.in_u]
        });
        Some(WrittenModel { number, svgs, sentences, rows: rows.collect() })
    }
}

fn fitted_words(run: &ModelRun, part: &FittedPart) -> String {
    let Some(p) = run.parameter() else { return String::new() };
    let start = if run.plan.start_from_data { ", the start along with it" } else { "" };
    let value = with_unit(&plus_minus(p.value, p.u), &p.unit);
    let brought = if part.brought { "; imported from a file and not checked" } else { "" };
    format!("{} = {value}, fitted to {} positions{start}{brought}", symbol_html(&p.symbol), part.n)
}
