//! The Monte-Carlo check of a worked column: readings are drawn anew many times and the column is worked out each time
//! (JCGM 101:2008, 5.2 and 7).

use std::cell::RefCell;
use std::sync::Arc;

use rand::rngs::StdRng;
use rand::{RngExt, SeedableRng};

use super::{Column, ColumnId, Held, Record, RowId};
use crate::chance::normal;
use crate::quantity::{Reading, Uncertain};
use crate::record::Stop;

/// Draws for a table of ordinary size.
const DRAWS: usize = 20_000;
/// Draws at least; a table so long that not even these fit is not simulated.
const LEAST: usize = 500;
/// Cells worked out at most.
const MOST_CELLS: usize = 4_000_000;

/// What came out for one row, in coherent SI units.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Simulated {
    /// The row.
    pub row: RowId,
    /// Mean of the drawn values.
    pub mean: f64,
    /// Their standard deviation.
    pub u: f64,
    /// Limits between which 95 % of them lie, with as many below as above.
    pub interval: (f64, f64),
    /// Draws that had a value.
    pub draws: usize,
}

/// A table that is too long to be drawn often enough.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct TooManyRows {
    /// How many it has.
    pub rows: usize,
}

/// Draws all readings of a table many times and works out a column each time. Rows without a value are left out.
///
/// A resolution is drawn evenly over its width (for a difference of two moments or places as the difference of two even
/// draws), a stated uncertainty as a normal distribution (JCGM 101:2008, 6.4).
///
/// # Errors
/// [`TooManyRows`] when the table is too long to be drawn often enough.
pub fn simulate(record: &Arc<Record>, held: &Held, column: ColumnId, seed: u64) -> Result<Vec<Simulated>, TooManyRows> {
    let cells = (record.rows.len() * record.columns.len()).max(1);
    let draws = DRAWS.min(MOST_CELLS / cells);
    if draws < LEAST {
        return Err(TooManyRows { rows: record.rows.len() });
    }
    let chance = RefCell::new(StdRng::seed_from_u64(seed));
    let even = |u: f64| (chance.borrow_mut().random::<f64>() - 0.5) * 12f64.sqrt() * u;
    let normal = |u: f64| {
        let mut chance = chance.borrow_mut();
        u * normal(1.0 - chance.random::<f64>(), chance.random())
    };
    let drawn = |_: usize, column: &Column, reading: &Reading, u: f64| {
        let stepped = column.precision.is_rectangular() && reading.origin.drawn().is_none();
        let off = match (stepped, reading.origin.ends()) {
            (true, 2) => even(u / 2f64.sqrt()) + even(u / 2f64.sqrt()),
            (true, _) => even(u),
            (false, _) => normal(u),
        };
        Uncertain::exact(reading.si() + off)
    };
    let mut values: Vec<Vec<f64>> = vec![Vec::with_capacity(draws); record.rows.len()];
    for _ in 0..draws {
        let around: Held = held
            .iter()
            .map(|(s, (v, unit))| (s.clone(), (Uncertain::exact(v.value + normal(v.u())), unit.clone())))
            .collect();
        let table = record.evaluate_with(&around, &Stop::default(), &drawn);
        let Some(place) = table.place(column) else { return Ok(Vec::new()) };
        for (all, cell) in values.iter_mut().zip(table.columns[place].cells.iter()) {
            all.extend(cell.value().map(|v| v.value));
        }
    }
    let rows = record.rows.iter().zip(values).filter(|(_, all)| all.len() > 1);
    Ok(rows.map(|(row, all)| summary(row.id, all)).collect())
}

fn summary(row: RowId, mut all: Vec<f64>) -> Simulated {
    let n = all.len() as f64;
    let mean = all.iter().sum::<f64>() / n;
    let u = (all.iter().map(|v| (v - mean).powi(2)).sum::<f64>() / (n - 1.0)).sqrt();
    all.sort_unstable_by(f64::total_cmp);
    let at = |share: f64| all[((share * n) as usize).min(all.len() - 1)];
    Simulated { row, mean, u, interval: (at(0.025), at(0.975)), draws: all.len() }
}
