//! What follows from the step model: its curves, how near it comes to the readings, and its ledger.

use std::collections::BTreeSet;

use nalgebra::{DMatrix, DVector};

use super::differs::{Differs, differences};
use super::plan::MOST_STEPS;
use super::{Compared, ModelRun, ModelRunId};
use crate::graph::{GraphSpec, Point, build};
use crate::logbook::{Analysis, Logbook};
use crate::quantity::Unit;
use crate::record::{ColumnId, Stop, Table};
use crate::step_model::{
    Agreement, HeldValues, Ledger, ModelError, ModelText, Readings, Step, StepModel, Terminal, agreement,
};

/// Steps that are drawn of a curve, at most.
const DRAWN: usize = 400;
/// Readings the velocity at the start is taken from.
const AT_START: usize = 7;

/// A model that was run, worked out.
#[derive(Clone, Debug)]
pub struct ModelOutcome {
    /// Which.
    pub id: ModelRunId,
    /// Its number as shown.
    pub number: u32,
    /// The readings it is held against.
    pub compared: Option<Compared>,
    /// What is other than in the one before that is held against the same readings; none for the first.
    pub changed: Option<Vec<Differs>>,
    /// What it leads to, or why it cannot be run.
    pub worked: Result<Worked, ModelError>,
}

/// Where a model leads.
#[derive(Clone, Debug)]
pub struct Worked {
    /// Number of steps.
    pub steps: usize,
    /// Some of the steps, enough to draw it.
    pub curve: Vec<Step>,
    /// How near it comes to the readings, or why that cannot be told; none without readings.
    pub agreement: Option<Result<Agreement, ModelError>>,
    /// Time of each residual and its axis, in the order of the agreement's residuals.
    pub at: Vec<(f64, usize)>,
    /// Readings before its start or after its end.
    pub outside: usize,
    /// How far positions lie from those with half the step, at most, in m.
    pub by_half: Option<f64>,
    /// Where it leads when it falls straight down.
    pub terminal: Option<Terminal>,
}

/// A page of the ledger.
#[derive(Clone, Debug)]
pub struct Ledgered {
    /// The model as it is read.
    pub model: StepModel,
    /// All its steps.
    pub ledger: Ledger,
}

impl Logbook {
    /// Quantities that formulas of forces may use, in coherent SI units.
    pub(super) fn held_values(&self) -> HeldValues {
        self.held_quantities().into_iter().map(|(symbol, (value, unit))| (symbol, (value.value, unit))).collect()
    }

    /// The readings the model is held against: those chosen, or the first table that has times and positions.
    pub fn compared(&self, analysis: &Analysis) -> Option<Compared> {
        // A formula may have come to another unit since.
        if let Some(chosen) = self.state.model.compared.filter(|c| suits(analysis, *c)) {
            return Some(chosen);
        }
        analysis.tables.iter().find_map(offered)
    }

    /// Columns of times and of positions that can be chosen, by table.
    pub fn comparable(&self, analysis: &Analysis) -> Vec<(String, Vec<ColumnId>, Vec<ColumnId>)> {
        let of = |t: &Table| {
            let (times, lengths) = columns_of(t);
            (t.record.name.clone(), times, lengths)
        };
        analysis.tables.iter().map(of).filter(|(_, t, x)| !t.is_empty() && !x.is_empty()).collect()
    }

    /// Times and positions that are not set aside, in coherent SI units.
    pub(super) fn compared_readings(analysis: &Analysis, with: Compared) -> Option<Readings> {
        let Compared { t, x, y } = with;
        let points = |up: Option<ColumnId>| -> Option<Vec<Point>> {
            let plan = GraphSpec { x: Some(t), y: Some(up?), grouped: false, ..GraphSpec::default() };
            let graph = build(&plan, &analysis.tables)?;
            let size = (graph.x.unit.size(), graph.y.unit.size());
            let series = graph.series.into_iter().next()?;
            Some(series.points.into_iter().filter(|p| !p.aside).map(|p| in_si(p, size)).collect())
        };
        let (along_x, along_y) = (points(x), points(y));
        let (along_x, along_y) = match (along_x, along_y) {
            // Only rows that have both.
            (Some(x), Some(y)) => {
                let rows = |all: &[Point]| all.iter().map(|p| p.row).collect::<BTreeSet<_>>();
                let (in_x, in_y) = (rows(&x), rows(&y));
                let kept = |all: Vec<Point>, other: &BTreeSet<u32>| {
                    all.into_iter().filter(|p| other.contains(&p.row)).collect::<Vec<_>>()
                };
                (Some(kept(x, &in_y)), Some(kept(y, &in_x)))
            }
            one => one,
        };
        let times = along_x.as_ref().or(along_y.as_ref())?;
        let all: Vec<&Point> = along_x.iter().chain(&along_y).flatten().collect();
        let quadratic = |of: fn(&Point) -> f64| {
            (all.iter().map(|p| of(p).powi(2)).sum::<f64>() / (all.len() as f64).max(1.0)).sqrt()
        };
        let mut sources: Vec<u64> = all.iter().flat_map(|p| p.shared.iter().map(|s| s.0)).collect();
        sources.sort_unstable();
        sources.dedup();
        let by = |source: u64| {
            let of = |p: &&Point| p.shared.iter().find(|s| s.0 == source).map_or([0.0; 2], |(_, dt, dx)| [*dt, *dx]);
            all.iter().map(of).collect()
        };
        Some(Readings {
            t: times.iter().map(|p| p.x).collect(),
            u: Some(quadratic(|p| p.own.1)).filter(|u| *u > 0.0),
            u_t: quadratic(|p| p.own.0),
            shared: sources.into_iter().map(by).collect(),
            x: along_x.as_ref().map(|all| all.iter().map(|p| p.y).collect()),
            y: along_y.as_ref().map(|all| all.iter().map(|p| p.y).collect()),
        })
    }

    /// A model with the readings it is held against, those outside its run left out.
    pub(super) fn model_of(
        &self,
        text: &ModelText,
        readings: Option<Readings>,
    ) -> Result<(StepModel, Option<Readings>), ModelError> {
        let last = readings.iter().flat_map(|r| &r.t).copied().reduce(f64::max);
        // A logbook keeps fewer steps than a model can have.
        let many = ModelError::TooManySteps { most: MOST_STEPS };
        let (model, _) = text
            .read(&self.held_values(), last)
            .map_err(|e| if matches!(e, ModelError::TooManySteps { .. }) { many.clone() } else { e })?;
        if (model.until - model.start) / model.step > MOST_STEPS as f64 {
            return Err(many);
        }
        let inside = readings.map(|r| r.between(model.start, model.until)).filter(|r| !r.t.is_empty());
        Ok((model, inside))
    }

    /// All models that were run, worked out.
    pub(in crate::logbook) fn models(&self, analysis: &Analysis, stop: &Stop) -> Vec<ModelOutcome> {
        let runs = &self.state.model.runs;
        if runs.is_empty() {
            return Vec::new();
        }
        let one = |(i, run): (usize, &ModelRun)| {
            let alike = |other: &&ModelRun| other.compared == run.compared;
            let before = runs[..i].iter().rev().find(alike);
            let newest = !runs[i + 1..].iter().any(|other| alike(&other));
            ModelOutcome {
                id: run.id,
                number: run.number,
                compared: run.compared.filter(|with| suits(analysis, *with)),
                changed: before.map(|before| differences(&before.plan, &run.plan)),
                worked: if stop.is_set() { Err(ModelError::GivenUp) } else { self.work(run, analysis, newest) },
            }
        };
        runs.iter().enumerate().map(one).collect()
    }

    /// The readings a model was held against, as they are now; none where they are gone.
    fn readings_of(analysis: &Analysis, run: &ModelRun) -> Option<Readings> {
        let with = run.compared.filter(|with| suits(analysis, *with))?;
        Self::compared_readings(analysis, with)
    }

    fn work(&self, run: &ModelRun, analysis: &Analysis, newest: bool) -> Result<Worked, ModelError> {
        let readings = Self::readings_of(analysis, run);
        let read = readings.as_ref().map_or(0, |r| r.t.len());
        let (model, readings) = self.model_of(&run.plan.text, readings)?;
        let ledger = model.run()?;
        let steps = ledger.steps.len().saturating_sub(1);
        let every = steps.div_ceil(DRAWN).max(1);
        let last = ledger.steps.last().cloned();
        let mut curve: Vec<Step> = ledger.steps.iter().step_by(every).cloned().collect();
        if steps % every != 0 {
            curve.extend(last);
        }
        Ok(Worked {
            steps,
            curve,
            at: readings.iter().flat_map(Readings::all).map(|(t, _, axis)| (t, axis)).collect(),
            outside: read - readings.as_ref().map_or(0, |r| r.t.len()),
            agreement: readings.as_ref().map(|r| agreement(&ledger, r)),
            by_half: if newest { Some(model.effect_of_step()?) } else { None },
            terminal: if newest { model.terminal_speed()? } else { None },
        })
    }

    /// All steps of a model that was run.
    ///
    /// # Errors
    /// [`ModelError`] when it cannot be run any more; `None` when there is no such model.
    pub fn ledger(&self, id: ModelRunId) -> Option<Result<Ledgered, ModelError>> {
        let run = self.state.model.run(id)?;
        let work = || {
            let (model, _) = self.model_of(&run.plan.text, Self::readings_of(&self.analyse(), run))?;
            let ledger = model.run()?;
            Ok(Ledgered { model, ledger })
        };
        Some(work())
    }

    /// The worked column of velocities that belongs to a column of positions, if there is one.
    pub fn velocities(&self, analysis: &Analysis, position: ColumnId, time: ColumnId) -> Option<ColumnId> {
        let table = analysis.tables.iter().find(|t| t.place(position).is_some())?;
        let symbol = |id: ColumnId| table.record.column(id).map(|c| c.symbol.as_str());
        let wanted = format!("rate({}, {})", symbol(position)?, symbol(time)?);
        let wanted = crate::formula::Formula::parse(&wanted).ok()?;
        let mut columns = table.record.columns.iter();
        columns.find(|c| c.formula.as_ref().is_some_and(|f| f.tree() == wanted.tree())).map(|c| c.id)
    }
}

/// Whether columns stand in one table and have the units of a motion.
pub(super) fn suits(analysis: &Analysis, with: Compared) -> bool {
    let Some(table) = analysis.tables.iter().find(|t| t.place(with.t).is_some()) else { return false };
    let (times, lengths) = columns_of(table);
    times.contains(&with.t) && with.x.iter().chain(&with.y).all(|id| lengths.contains(id))
}

/// Position and velocity at the first of some points (time, position), ascending: the parabola through the first seven.
pub(super) fn start_of(points: &[(f64, f64)]) -> Option<(f64, f64)> {
    let first = points.first()?;
    let used = &points[..points.len().min(AT_START)];
    let long = used.last()?.0 - first.0;
    let powers = used.len().min(3);
    if powers < 2 || long <= 0.0 {
        return Some((first.1, 0.0));
    }
    let matrix = DMatrix::from_fn(used.len(), powers, |i, k| ((used[i].0 - first.0) / long).powi(k as i32));
    let heights = DVector::from_iterator(used.len(), used.iter().map(|p| p.1));
    let found = matrix.svd(true, true).solve(&heights, 1e-9).ok()?;
    Some((found[0], found[1] / long))
}

fn unit(text: &str) -> Unit {
    Unit::parse(text).unwrap_or_default()
}

/// Columns of times and of lengths of a table.
fn columns_of(table: &Table) -> (Vec<ColumnId>, Vec<ColumnId>) {
    let of = |text: &str| {
        let wanted = unit(text).dimension();
        let fitting = table.columns.iter().filter(|c| c.unit.as_ref().is_ok_and(|u| u.dimension() == wanted));
        fitting.map(|c| c.column.id).collect::<Vec<_>>()
    };
    (of("s"), of("m"))
}

/// What a table offers by itself: its first times, and x and y by their symbols, or the first lengths.
pub(super) fn offered(table: &Table) -> Option<Compared> {
    if table.rows.is_empty() {
        return None;
    }
    let (times, lengths) = columns_of(table);
    let symbol = |id: &ColumnId| table.record.column(*id).map_or("", |c| c.symbol.as_str());
    let named = |letter: char| lengths.iter().find(|id| symbol(id).starts_with(letter)).copied();
    let (x, y) = (named('x'), named('y'));
    let (x, y) = if x.is_none() && y.is_none() { (lengths.first().copied(), None) } else { (x, y) };
    Some(Compared { t: *times.first()?, x, y }).filter(|c| c.x.is_some() || c.y.is_some())
}

/// A point in coherent SI units.
fn in_si(mut p: Point, (sx, sy): (f64, f64)) -> Point {
    p.x *= sx;
    p.y *= sy;
    p.own = (p.own.0 * sx, p.own.1 * sy);
    for (_, dx, dy) in &mut p.shared {
        *dx *= sx;
        *dy *= sy;
    }
    p
}
