//! The Monte-Carlo check of a worked column.

use askama::Template;
use zeitmass_core::logbook::Logbook;
use zeitmass_core::quantity::Unit;
use zeitmass_core::quantity::format::{plus_minus, step_for, to_step};
use zeitmass_core::record::simulate;
use zeitmass_store::StoreError;

use crate::error::WebError;
use crate::notation::symbol_html;
use zeitmass_words::Words;

/// Seed of the draws: the same question gets the same answer.
const SEED: u64 = 20_080;
/// Two standard uncertainties closer than this are the same.
const CLOSE: f64 = 0.05;

struct SimulatedRow {
    number: usize,
    first_order: String,
    drawn: String,
    interval: String,
    close: bool,
}

/// What the draws gave for each row, beside what first-order propagation says.
#[derive(Template)]
#[template(path = "bench/simulation.html")]
pub(crate) struct Simulation {
    symbol: String,
    unit: String,
    draws: usize,
    rows: Vec<SimulatedRow>,
    far: usize,
}

impl Simulation {
    pub(crate) fn of(book: &Logbook, column: u32) -> Result<Self, WebError> {
        let held = book.held_quantities();
        let record = book.state().record.tables.iter().find(|t| t.column(column).is_some());
        let record = record.ok_or(StoreError::NotFound("column"))?;
        let simulated = simulate(record, &held, column, SEED).map_err(|e| WebError::Invalid(e.words()))?;
        let table = record.evaluate(&held);
        let place = table.place(column).ok_or(StoreError::NotFound("column"))?;
        let head = &table.columns[place];
        let unit = head.unit.as_ref().cloned().unwrap_or_else(|_| Unit::one());
        let size = unit.size();
        let rows = simulated.iter().filter_map(|s| {
            let (i, _) = record.row(s.row)?;
            let value = head.cells[i].value()?;
            let u = value.u();
            let step = step_for(s.u / size) / 10.0;
            let end = |v: f64| to_step(v / size, step);
            Some(SimulatedRow {
                number: i + 1,
                first_order: plus_minus(value.value / size, u / size),
                drawn: plus_minus(s.mean / size, s.u / size),
                interval: format!("{} to {}", end(s.interval.0), end(s.interval.1)),
                close: (s.u - u).abs() <= CLOSE * u.max(s.u) && (s.mean - value.value).abs() <= 0.2 * u.max(s.u),
            })
        });
        let rows: Vec<SimulatedRow> = rows.collect();
        Ok(Self {
            symbol: symbol_html(&head.column.symbol),
            unit: unit.pretty(),
            draws: simulated.iter().map(|s| s.draws).max().unwrap_or(0),
            far: rows.iter().filter(|r| !r.close).count(),
            rows,
        })
    }
}
