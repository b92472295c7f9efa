//! The ledger: each step of a model, and one of them in numbers.

use zeitmass_core::logbook::Called;
use zeitmass_core::step_model::Step;
use zeitmass_words::Words;
use zeitmass_words::working::{Line, working};

use super::super::Scene;
use super::four;
use crate::notation::escape;

/// Steps of the ledger that are shown at a time.
const STEPS_SHOWN: usize = 12;
/// A row of the ledger.
pub(super) struct LedgerRow {
    pub number: usize,
    pub cells: Vec<String>,
    pub chosen: bool,
}

/// The ledger of a model.
pub(super) struct LedgerView {
    pub number: u32,
    pub heads: Vec<String>,
    pub rows: Vec<LedgerRow>,
    /// Number of the first step shown, and of all.
    pub from: usize,
    pub all: usize,
    pub back: Option<usize>,
    pub on: Option<usize>,
    /// The chosen step in numbers, by axis.
    pub working: Vec<(String, Vec<Line>)>,
    pub step: usize,
}

impl Scene<'_> {
    /// The ledger the person looks at.
    pub(super) fn ledger_view(&self, axes: [bool; 2]) -> Option<LedgerView> {
        let book = self.book();
        let runs = &book.state().model.runs;
        let run = runs.iter().find(|r| r.id == self.look.model).or(runs.last())?;
        let made = book.ledger(run.id)?.ok()?;
        let steps = &made.ledger.steps;
        let moves = |axis: usize| axes[axis] || steps.iter().any(|s| s.velocity[axis] != 0.0);
        let shown: Vec<usize> = (0..2).filter(|axis| moves(*axis)).collect();
        let from = self.look.step.min(steps.len().saturating_sub(1)) / STEPS_SHOWN * STEPS_SHOWN;
        let chosen = self.look.step.min(steps.len().saturating_sub(2));
        let on: Vec<String> = run.plan.text.forces.iter().filter(|f| f.on).map(|f| Called::from(f).words()).collect();
        let mut heads = vec!["<i>t</i> (s)".to_owned()];
        for axis in &shown {
            let letter = ["x", "y"][*axis];
            heads.push(format!("<i>{letter}</i> (m)"));
            heads.push(format!("<i>v</i><sub>{letter}</sub> (m/s)"));
            heads.extend(on.iter().map(|name| {
                let sub = if shown.len() > 1 { format!("<sub>{letter}</sub>") } else { String::new() };
                format!("{}{sub} (N)", escape(name))
            }));
            heads.push("net (N)".to_owned());
        }
        let cells = |s: &Step| {
            let mut all = vec![four(s.t)];
            for axis in &shown {
                all.extend([s.position[*axis], s.velocity[*axis]].map(four));
                all.extend(s.forces.iter().map(|f| four(f[*axis])));
                all.push(four(s.net[*axis]));
            }
            all
        };
        let rows = steps.iter().enumerate().skip(from).take(STEPS_SHOWN);
        let working = match (steps.get(chosen), steps.get(chosen + 1)) {
            (Some(step), Some(next)) => shown
                .iter()
                .map(|axis| (["along x", "along y"][*axis].to_owned(), working(&made.model, step, next, *axis)))
                .collect(),
            _ => Vec::new(),
        };
        Some(LedgerView {
            number: run.number,
            heads,
            rows: rows.map(|(i, s)| LedgerRow { number: i, cells: cells(s), chosen: i == chosen }).collect(),
            from,
            all: steps.len(),
            back: from.checked_sub(STEPS_SHOWN),
            on: Some(from + STEPS_SHOWN).filter(|n| *n < steps.len()),
            working,
            step: chosen,
        })
    }
}
