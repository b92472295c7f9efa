//! Points that do not belong on the line: those behind an impact, and trials in which more than one quantity changed.

use super::{Sign, Slip, SlipKind};
use crate::fit::{Data, Fit, Model, Weighting, fit};
use crate::graph::{Graph, Point};
use crate::logbook::part::Part;
use crate::logbook::{Analysis, Logbook};
use crate::quantity::Unit;

/// Points from which on an impact is looked for.
const FEWEST: usize = 8;
/// Points that are looked at; of more, every second, third, …
const MOST: usize = 240;
/// Points of the shorter side.
const SIDE: usize = 3;
/// Share of the squares of a single line, and of a parabola, that two lines leave where there was an impact.
const LEFT: f64 = 0.08;

impl Logbook {
    pub(super) fn slips_of_points(&self, analysis: &Analysis) -> Vec<Slip> {
        let graphs = || analysis.graphs.iter().filter_map(|(_, g)| g.as_ref()).filter(|g| !g.fits.is_empty());
        let mut all: Vec<Slip> = graphs().filter_map(impact).take(1).collect();
        let odd = graphs().find_map(|graph| {
            // Series of a graph are compared among themselves: only what was fitted counts.
            let used = graph.points().filter(|p| !p.aside && p.odd.is_some());
            let used: Vec<&Point> = used.collect();
            let first = *used.first()?;
            let what = first.odd.as_deref()?;
            let rows = used.iter().map(|p| p.number).collect();
            Some(Slip {
                kind: SlipKind::SeveralChanged,
                sure: true,
                sign: Sign::Odd { rows, what: what.to_owned() },
                part: Part::Record,
                row: Some(first.row),
            })
        });
        all.extend(odd);
        all
    }
}

/// A line through what two lines describe far better: something hit something.
fn impact(graph: &Graph) -> Option<Slip> {
    let second = Unit::parse("s").ok()?;
    let fitted = graph.fits.iter().find(|f| f.stretch.is_none())?;
    let is_line = fitted.outcome.as_ref().is_ok_and(|f| matches!(f.model, Model::Line));
    if !is_line || !graph.x.unit.same_dimension(&second) {
        return None;
    }
    let mut points: Vec<&Point> = graph.series.get(fitted.series)?.points.iter().filter(|p| !p.aside).collect();
    points.sort_by(|a, b| a.x.total_cmp(&b.x));
    let every = points.len().div_ceil(MOST).max(1);
    let points: Vec<&Point> = points.into_iter().step_by(every).collect();
    if points.len() < FEWEST {
        return None;
    }
    let units = (std::slice::from_ref(&graph.x.unit), &graph.y.unit);
    let squares = |part: &[&Point], model: &Model| -> Option<f64> {
        let data = Data::of(&part.iter().map(|p| (p.x, p.y)).collect::<Vec<_>>());
        fit(&data, model, Weighting::Equal, units).ok().map(|f: Fit| f.residuals.iter().map(|r| r * r).sum())
    };
    let single = squares(&points, &Model::Line)?;
    let bent = squares(&points, &Model::Quadratic)?;
    // Readings alone leave this much.
    let own: f64 = points.iter().map(|p| p.uy * p.uy).sum();
    let parted = (SIDE..=points.len() - SIDE).filter_map(|at| {
        let (before, after) = points.split_at(at);
        Some((at, squares(before, &Model::Line)? + squares(after, &Model::Line)?))
    });
    let (at, two) = parted.min_by(|a, b| a.1.total_cmp(&b.1))?;
    if two > LEFT * single.min(bent) || single < 9.0 * own {
        return None;
    }
    let when = points[at];
    let shown = crate::quantity::format::with_unit(&crate::quantity::format::plain(when.x), &graph.x.unit);
    Some(Slip {
        kind: SlipKind::Impact,
        sure: true,
        sign: Sign::Impact { at: shown },
        part: Part::Graph,
        row: Some(when.row),
    })
}
