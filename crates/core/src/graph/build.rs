//! From a stored graph and the worked-out tables to what is shown.

use std::collections::HashSet;

use derive_more::From;

use super::spec::{FitSpec, Look, Stretch};
use super::{Axis, AxisScale, AxisSpec, Fitted, Graph, GraphSpec, Looked, Point, PointKind, Series};
use crate::fit::{Curve, Data, Fit, FitError, Weighting, fit, student};
use crate::quantity::format::{plain, with_unit};
use crate::quantity::{SHARED, Uncertain, Unit};
use crate::record::{ColumnId, ColumnKind, Table};

/// Share of their uncertainty below which points do not scatter at all.
const NO_SCATTER: f64 = 1e-6;
/// How many times as uncertain as the best-known y the worst-known may be before the curve's uncertainty heeds it. Below this
/// it is that of ordinary least squares, as any spreadsheet gives it.
const UNEVEN: f64 = 3.0;
/// Points that get their values as text; more cannot be told apart on a graph anyway.
const MOST_LABELLED: usize = 500;

/// Points up to which their whole covariance is taken into account under weights; with more each counts by itself.
const MOST_TIED: usize = 400;

/// Shared sources of uncertainty that a curve is tried with.
const MOST_SHARED: usize = 64;

/// A column with the table it stands in.
#[derive(Clone, Copy)]
struct Place<'t> {
    table: &'t Table,
    column: usize,
}

fn find<'t>(tables: &'t [Table], id: ColumnId) -> Option<Place<'t>> {
    tables.iter().find_map(|table| Some(Place { table, column: table.place(id)? }))
}

impl Place<'_> {
    fn unit(&self) -> Option<&Unit> {
        self.table.columns[self.column].unit.as_ref().ok()
    }

    fn is_worked(&self) -> bool {
        self.table.columns[self.column].column.kind == ColumnKind::Worked
    }
}

/// Works out a graph. `None` until both axes are chosen and sound.
pub fn build(spec: &GraphSpec, tables: &[Table]) -> Option<Graph> {
    let (x, y) = (find(tables, spec.x?)?, find(tables, spec.y?)?);
    let (x_unit, y_unit) = (x.unit()?.clone(), y.unit()?.clone());
    let mut series = series_of(spec, x, y, (&x_unit, &y_unit));
    for (ix, iy) in &spec.more {
        let (Some(px), Some(py)) = (find(tables, *ix), find(tables, *iy)) else { continue };
        let fits = |p: &Place<'_>, u: &Unit| p.unit().is_some_and(|own| own.same_dimension(u));
        if fits(&px, &x_unit) && fits(&py, &y_unit) && std::ptr::eq(px.table, py.table) {
            series.extend(series_of(
                &GraphSpec { x: Some(*ix), y: Some(*iy), ..spec.clone() },
                px,
                py,
                (&x_unit, &y_unit),
            ));
        }
    }
    tell_apart(&mut series, tables);
    let mut fits: Vec<Fitted> = Vec::new();
    if spec.stretches.is_empty() {
        if let Some(fit_plan) = &spec.fit {
            for (i, one) in series.iter().enumerate() {
                let outcome = fit_points(one, None, fit_plan, (&x_unit, &y_unit));
                fits.push(Fitted { series: i, stretch: None, range: None, outcome });
            }
        }
    } else {
        for stretch in &spec.stretches {
            let range = (stretch.from / x_unit.size(), stretch.to / x_unit.size());
            let Some(one) = series.get(stretch.series) else { continue };
            let outcome = fit_points(one, Some(range), &stretch.fit, (&x_unit, &y_unit));
            fits.push(Fitted {
                series: stretch.series,
                stretch: Some((stretch.id, stretch.letter)),
                range: Some(range),
                outcome,
            });
        }
    }
    let look = spec.look.as_ref().map(|look| look_up(look, &fits, (&x_unit, &y_unit)));
    let (mut xs, mut ys) = (reach(&series, |p| (p.x, p.ux), spec.bars), reach(&series, |p| (p.y, p.uy), spec.bars));
    // What is looked up beyond the data is drawn, so it has to have a place.
    if let Some(Ok(looked)) = &look {
        xs.extend(looked.at.iter().map(|p| p.0));
        ys.extend(looked.at.iter().map(|p| p.1));
    }
    let head = |p: Place<'_>| {
        let c = &p.table.columns[p.column].column;
        (c.name.clone(), c.symbol.clone())
    };
    let (xh, yh) = (head(x), head(y));
    let x_axis = Axis::of(&xh.0, &xh.1, x_unit, xs.into_iter(), &spec.across);
    let y_axis = Axis::of(&yh.0, &yh.1, y_unit, ys.into_iter(), &spec.up);
    let residuals = spec.residuals.then(|| residual_axis(&fits, &y_axis)).flatten();
    Some(Graph {
        id: spec.id,
        title: spec.title.clone(),
        x: x_axis,
        y: y_axis,
        series,
        fits,
        bars: spec.bars,
        band: spec.band,
        residuals,
        look,
        expected: None,
        models: Vec::new(),
    })
}

/// Series of the same name from several tables are told apart by their tables: five trails have five columns “position y”.
fn tell_apart(series: &mut [Series], tables: &[Table]) {
    let labels: Vec<String> = series.iter().map(|s| s.label.clone()).collect();
    let several = |label: &String| labels.iter().filter(|l| *l == label).count() > 1;
    for one in series.iter_mut().filter(|s| several(&s.label)) {
        if let Some(place) = find(tables, one.columns.1) {
            one.label = format!("{}, {}", place.table.record.name, one.symbol);
        }
    }
}

/// Ends of what has to have a place on an axis. Bars count only where they stick out visibly: a reading of 0.00 s shall
/// not open an axis below zero.
fn reach(series: &[Series], value: fn(&Point) -> (f64, f64), bars: bool) -> Vec<f64> {
    let ends = |wide: f64| {
        let all = series.iter().flat_map(|s| &s.points).map(value);
        all.fold((f64::INFINITY, f64::NEG_INFINITY), |(lo, hi), (v, u)| (lo.min(v - wide * u), hi.max(v + wide * u)))
    };
    let (lo, hi) = ends(0.0);
    if lo > hi {
        return Vec::new();
    }
    let (low, high) = if bars { ends(1.0) } else { (lo, hi) };
    let visible = 0.02 * (hi - lo);
    vec![if lo - low > visible { low } else { lo }, if high - hi > visible { high } else { hi }]
}

fn residual_axis(fits: &[Fitted], y: &Axis) -> Option<Axis> {
    let all: Vec<f64> = fits.iter().filter_map(|f| f.outcome.as_ref().ok()).flat_map(|f| f.residuals.clone()).collect();
    let most = all.iter().fold(0.0_f64, |m, r| m.max(r.abs()));
    if all.is_empty() {
        return None;
    }
    Some(Axis::of_residuals(if most > 0.0 { most } else { 1.0 }, y))
}

impl Axis {
    /// An axis of residuals up to `most` below another, zero in its middle whatever they are.
    pub(crate) fn of_residuals(most: f64, y: &Self) -> Self {
        let spec = AxisSpec { scale: AxisScale::Linear, ..AxisSpec::default() };
        let mut axis = Self::of("residual", &y.symbol, y.unit.clone(), [-most, most].into_iter(), &spec);
        // Three labels are enough in the little room there is.
        let last = axis.ticks.last().map_or(0.0, |t| t.value);
        axis.ticks.retain(|t| t.value == 0.0 || t.value.abs() >= last * 0.999);
        axis
    }
}

/// One series, or one for every group of the table.
fn series_of(spec: &GraphSpec, x: Place<'_>, y: Place<'_>, (x_unit, y_unit): (&Unit, &Unit)) -> Vec<Series> {
    if !std::ptr::eq(x.table, y.table) {
        return Vec::new();
    }
    let table = x.table;
    let (cx, cy) = (&table.columns[x.column], &table.columns[y.column]);
    let kind = if x.is_worked() || y.is_worked() { PointKind::Worked } else { PointKind::Read };
    let labelled = table.rows.len() <= MOST_LABELLED;
    let text = |column: usize, row: usize| if labelled { table.text(column, row) } else { String::new() };
    let own = |label: String| Series {
        label,
        symbol: cy.column.symbol.clone(),
        columns: (cx.column.id, cy.column.id),
        kind,
        points: Vec::new(),
    };
    let grouped = spec.grouped && !table.groups.is_empty();
    let group_name = || {
        let id = table.record.group;
        let column = id.and_then(|id| table.record.column(id));
        let unit = column.and_then(|c| c.unit.clone()).unwrap_or_default();
        (column.map_or_else(String::new, |c| c.symbol.clone()), unit)
    };
    let mut all: Vec<Series> = if grouped {
        let (symbol, unit) = group_name();
        let label = |g: &String| {
            let value = if g.is_empty() { "none".to_owned() } else { with_unit(g, &unit) };
            format!("{symbol} = {value}")
        };
        table.groups.iter().map(|g| own(label(g))).collect()
    } else {
        vec![own(cy.column.name.clone())]
    };
    let (sx, sy) = (x_unit.size(), y_unit.size());
    for (i, row) in table.rows.iter().enumerate() {
        let (Some(vx), Some(vy)) = (cx.cells[i].value(), cy.cells[i].value()) else { continue };
        let ((own_x, shared_x), (own_y, shared_y)) = (vx.own_and_shared(), vy.own_and_shared());
        let mut shared: Vec<(u64, f64, f64)> = shared_x.iter().map(|(s, t)| (s.0, t / sx, 0.0)).collect();
        for (source, term) in shared_y {
            match shared.iter_mut().find(|(s, ..)| *s == source.0) {
                Some(both) => both.2 = term / sy,
                None => shared.push((source.0, 0.0, term / sy)),
            }
        }
        let worked_from = if x.is_worked() || y.is_worked() { readings_of(vx, vy, (sx, sy)) } else { Vec::new() };
        let point = Point {
            worked_from,
            own: (own_x / sx, own_y / sy),
            shared,
            row: row.id,
            number: row.number,
            x: vx.value / sx,
            y: vy.value / sy,
            ux: vx.u() / sx,
            uy: vy.u() / sy,
            x_text: text(x.column, i),
            y_text: text(y.column, i),
            aside: row.aside,
            odd: None,
        };
        all[if grouped { row.group } else { 0 }].points.push(point);
    }
    all.retain(|s| !grouped || !s.points.is_empty());
    all
}

fn fit_points(
    series: &Series,
    range: Option<(f64, f64)>,
    spec: &FitSpec,
    (x, y): (&Unit, &Unit),
) -> Result<Fit, FitError> {
    let inside = |p: &&Point| !p.aside && range.is_none_or(|(a, b)| (a..=b).contains(&p.x));
    let mut data = Data { x: vec![Vec::new()], ..Data::default() };
    for p in series.points.iter().filter(inside) {
        data.x[0].push(p.x);
        data.y.push(p.y);
        data.ux.push(p.own.0);
        data.uy.push(p.own.1);
    }
    let units = (std::slice::from_ref(x), y);
    let used: Vec<&Point> = series.points.iter().filter(inside).collect();
    let weighted = spec.weighting != Weighting::Equal;
    // What a reading does to a point's height above a curve, by its y and, where that counts, by its x.
    let terms_of = |curve: &Curve| {
        let off = |p: &&Point| {
            let steepness = if spec.weighting == Weighting::Up { 0.0 } else { curve.steepness(p.x) };
            p.worked_from.iter().map(|(s, dx, dy)| (*s, dy - steepness * dx)).collect::<Vec<_>>()
        };
        used.iter().map(off).collect::<Vec<_>>()
    };
    let tied = weighted
        && used.len() <= MOST_TIED
        && used.iter().all(|p| !p.worked_from.is_empty())
        && overlap(
            &used.iter().map(|p| p.worked_from.iter().map(|(s, _, dy)| (*s, *dy)).collect()).collect::<Vec<_>>(),
        );
    let solve = |data: &Data| -> Result<Fit, FitError> {
        let mut fitted = fit(data, &spec.model, spec.weighting, units)?;
        if tied {
            fitted.generalise((&data.x[0], &data.y), &terms_of);
        }
        Ok(fitted)
    };
    let mut fitted = solve(&data)?;
    if spec.weighting == Weighting::Equal && used.iter().all(|p| !p.worked_from.is_empty()) {
        let terms = terms_of(&fitted.curve);
        let uneven = unevenness(&terms).filter(|times| *times > UNEVEN);
        if overlap(&terms) || uneven.is_some() {
            // Few points of very unlike worth can lie close to a line by chance; their readings are not surer for that.
            let least = if overlap(&terms) { 0.0 } else { 1.0 };
            fitted.correlate(&data.x[0], &terms.iter().map(Vec::as_slice).collect::<Vec<_>>(), least);
        }
        fitted.uneven = uneven;
    }
    // Points that lie on the curve to their last digit say nothing by their scatter; their resolutions do.
    let known = (data.uy.iter().map(|u| u * u).sum::<f64>() / data.len() as f64).sqrt();
    if spec.weighting == Weighting::Equal && fitted.residual_sd < NO_SCATTER * known {
        // Their freedom is that of stated uncertainties.
        let mut known = Fit { weighting: Weighting::Equal, ..fit(&data, &spec.model, Weighting::Up, units)? };
        known.parameters.iter_mut().zip(&fitted.parameters).for_each(|(k, f)| k.value = f.value);
        fitted = known;
    }
    // What all points owe to one source does not scatter: the curve is fitted again with the points shifted by it.
    let mut sources: Vec<u64> = series.points.iter().flat_map(|p| p.shared.iter().map(|s| s.0)).collect();
    sources.sort_unstable();
    sources.dedup();
    for source in sources.into_iter().take(MOST_SHARED) {
        let mut shifted = data.clone();
        for (i, p) in series.points.iter().filter(inside).enumerate() {
            if let Some((_, dx, dy)) = p.shared.iter().find(|s| s.0 == source) {
                shifted.x[0][i] += dx;
                shifted.y[i] += dy;
            }
        }
        fitted.widen(source, &solve(&shifted)?);
    }
    Ok(fitted)
}

/// Readings a point was worked out from, each with what its uncertainty does to x and y.
fn readings_of(x: &Uncertain, y: &Uncertain, (sx, sy): (f64, f64)) -> Vec<(u64, f64, f64)> {
    let own =
        |v: &Uncertain| v.terms().iter().filter(|(s, _)| s.0 < SHARED).map(|(s, t)| (s.0, *t)).collect::<Vec<_>>();
    let mut all: Vec<_> = own(x).into_iter().map(|(s, t)| (s, t / sx, 0.0)).collect();
    for (source, term) in own(y) {
        match all.iter_mut().find(|(s, ..)| *s == source) {
            Some(both) => both.2 = term / sy,
            None => all.push((source, 0.0, term / sy)),
        }
    }
    all
}

/// Whether a reading went into two points or more, as in velocities from neighbouring marks.
fn overlap(terms: &[Vec<(u64, f64)>]) -> bool {
    let mut seen = HashSet::new();
    terms.iter().flatten().any(|(source, _)| !seen.insert(*source))
}

/// How many times as uncertain the worst-known point is as the best-known.
fn unevenness(terms: &[Vec<(u64, f64)>]) -> Option<f64> {
    let u = |terms: &Vec<(u64, f64)>| terms.iter().map(|(_, t)| t * t).sum::<f64>().sqrt();
    let (least, most) = terms.iter().map(u).fold((f64::INFINITY, 0.0f64), |(lo, hi), u| (lo.min(u), hi.max(u)));
    (least > 0.0 && most.is_finite()).then(|| most / least)
}

/// Why no value can be read off a curve.
#[derive(Clone, Debug, PartialEq, From)]
pub enum LookError {
    /// There is none.
    NoCurve,
    /// It could not be found.
    #[from]
    Fit(FitError),
    /// What was typed is of another dimension than its axis.
    OtherUnit {
        /// Unit of the axis.
        axis: Unit,
        /// Unit that was typed.
        typed: Unit,
    },
    /// It has no value there.
    NoValue {
        /// Where, with its unit.
        at: String,
    },
    /// It does not come that high or low.
    OutOfReach {
        /// How high, with its unit.
        height: String,
    },
}

/// Reads a value off the curve, forwards or backwards.
pub(crate) fn look_up(look: &Look, fits: &[Fitted], (x_unit, y_unit): (&Unit, &Unit)) -> Result<Looked, LookError> {
    let fitted = match look.stretch {
        None => fits.first(),
        Some(id) => fits.iter().find(|f| f.stretch.is_some_and(|(s, _)| s == id)),
    };
    let fit = fitted.ok_or(LookError::NoCurve)?;
    let fit = fit.outcome.as_ref().map_err(|e| LookError::Fit(e.clone()))?;
    let axis = if look.back { y_unit } else { x_unit };
    if !look.unit.same_dimension(axis) {
        return Err(LookError::OtherUnit { axis: axis.clone(), typed: look.unit.clone() });
    }
    let given = look.number.value() * look.unit.size() / axis.size();
    let u_given = look.number.last_digit() * look.unit.size() / axis.size() / 12f64.sqrt();
    let (lo, hi) = fit.span;
    let range = (hi - lo).max(1e-12 * hi.abs().max(lo.abs()));
    let scatter = if fit.residual_sd.is_nan() { 0.0 } else { fit.residual_sd };
    let beyond = |x: f64| {
        if x < lo {
            (lo - x) / range
        } else if x > hi {
            (x - hi) / range
        } else {
            0.0
        }
    };
    if !look.back {
        let y = fit.at(given);
        if !y.is_finite() {
            return Err(LookError::NoValue { at: with_unit(&plain(given), x_unit) });
        }
        let u = fit.u_at(given);
        return Ok(Looked {
            back: false,
            given,
            found: vec![(y, u, u.hypot(scatter))],
            factor: student(fit.freedom()),
            at: vec![(given, y)],
            outside: beyond(given),
        });
    }
    // Within the data first; else as far out as ten times their range.
    let mut at = fit.where_it_is(given, (lo, hi));
    for reach in [1.0, 3.0, 10.0] {
        if at.is_empty() {
            at = fit.where_it_is(given, (lo - reach * range, hi + reach * range));
        }
    }
    if at.is_empty() {
        return Err(LookError::OutOfReach { height: with_unit(&plain(given), y_unit) });
    }
    at.truncate(6);
    // A reading is as uncertain as its digits, and scatters as the points do.
    let single = u_given.hypot(scatter);
    let found = at.iter().map(|x| (*x, fit.u_of_x(*x, 0.0), fit.u_of_x(*x, single))).collect();
    let outside = at.iter().map(|x| beyond(*x)).fold(f64::INFINITY, f64::min);
    let factor = student(fit.freedom());
    Ok(Looked { back: true, given, found, factor, at: at.into_iter().map(|x| (x, given)).collect(), outside })
}

impl Stretch {
    /// Its name for people.
    pub fn name(&self) -> String {
        format!("interval {}", self.letter)
    }
}
