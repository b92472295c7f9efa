//! Typed values that two swapped, lost or doubled digits or a moved point would bring onto the line.

use std::sync::Arc;

use statrs::distribution::{ContinuousCDF, StudentsT};

use super::{Mistyped, Sign, Slip};
use crate::fit::{Data, Fit, Model, Weighting, fit};
use crate::graph::Graph;
use crate::logbook::part::Part;
use crate::logbook::{Analysis, Logbook};
use crate::quantity::{Decimal, Origin, Reading};
use crate::record::{ColumnId, Record};

/// Points of a curve that are looked at.
const MOST_POINTS: usize = 60;
/// Points of which one may be off.
const FEWEST: usize = 4;
/// Chance that a point of a careful table lies as far off as one that is called a slip.
const CHANCE: f64 = 0.002;
/// Standard deviations within which a mended value lies on the line.
const ON_THE_LINE: f64 = 2.5;

impl Logbook {
    pub(super) fn slips_of_digits(&self, analysis: &Analysis) -> Vec<Slip> {
        let drawn = analysis.graphs.iter().filter_map(|(_, g)| g.as_ref());
        drawn.filter_map(|graph| self.slip_of_digits(graph)).take(1).collect()
    }

    fn slip_of_digits(&self, graph: &Graph) -> Option<Slip> {
        let fitted = graph.fits.iter().find(|f| f.stretch.is_none())?;
        let series = graph.series.get(fitted.series)?;
        let model = &fitted.outcome.as_ref().ok()?.model;
        let points: Vec<_> = series.points.iter().filter(|p| !p.aside).collect();
        if !(FEWEST..=MOST_POINTS).contains(&points.len()) || !matches!(model, Model::Line | Model::Proportional) {
            return None;
        }
        let units = (std::slice::from_ref(&graph.x.unit), &graph.y.unit);
        // The curve without one point, and how far that one lies off it.
        let without = |i: usize| -> Option<(Fit, f64)> {
            let rest: Vec<(f64, f64)> =
                points.iter().enumerate().filter(|(k, _)| *k != i).map(|(_, p)| (p.x, p.y)).collect();
            let fit = fit(&Data::of(&rest), model, Weighting::Equal, units).ok()?;
            let p = points[i];
            let u = u_off(&fit, p.x, (p.ux, p.uy));
            Some((fit, u))
        };
        let off = |fit: &Fit, x: f64, y: f64| (y - fit.at(x)).abs();
        let worst = (0..points.len())
            .filter_map(|i| Some((i, without(i)?)))
            .map(|(i, (fit, u))| (i, off(&fit, points[i].x, points[i].y) / u, fit))
            .max_by(|a, b| a.1.total_cmp(&b.1))?;
        let (place, times, line) = worst;
        let freedom = StudentsT::new(0.0, 1.0, line.dof.max(1) as f64).ok()?;
        let chance = 2.0 * (1.0 - freedom.cdf(times)) * points.len() as f64;
        if chance.is_nan() || chance > CHANCE {
            return None;
        }
        // Any typed value in that row, mended.
        let record = self.state().table_of(series.columns.0)?;
        let row = record.rows.iter().position(|r| r.id == points[place].row)?;
        let typed = record.rows[row].cells.iter().filter(|(_, r)| matches!(r.origin, Origin::Typed));
        let mut found: Vec<(Mistyped, ColumnId, &Reading)> = Vec::new();
        for (column, reading) in typed {
            for (way, text) in mended(reading.number.as_str()) {
                let Ok(number) = Decimal::parse(&text) else { continue };
                let (x, y) = self.point_with(record, row, *column, number, series.columns)?;
                let (x, y) = (x / graph.x.unit.size(), y / graph.y.unit.size());
                let near = off(&line, x, y) <= ON_THE_LINE * u_off(&line, x, (points[place].ux, points[place].uy));
                if near && !found.iter().any(|(w, c, _)| *w == way && c == column) {
                    found.push((way, *column, &**reading));
                }
            }
        }
        found.sort_by_key(|(way, _, _)| *way);
        let (way, column, reading) = found.into_iter().next()?;
        let symbol = record.column(column)?.symbol.clone();
        Some(Slip {
            kind: way.kind(),
            sure: true,
            sign: Sign::Digits { row: row + 1, symbol, value: reading.number.pretty(), way },
            part: Part::Record,
            row: Some(points[place].row),
        })
    }

    /// The point a row would be with another number in a cell, in coherent SI units.
    fn point_with(
        &self,
        record: &Record,
        row: usize,
        column: ColumnId,
        number: Decimal,
        (x, y): (ColumnId, ColumnId),
    ) -> Option<(f64, f64)> {
        let mut trial = record.clone();
        trial.rows[row].cells.get_mut(&column)?.number = number;
        let table = Arc::new(trial).evaluate(&self.held_quantities());
        let value = |id: ColumnId| Some(table.columns[table.place(id)?].cells[row].value()?.value);
        Some((value(x)?, value(y)?))
    }
}

/// How far a single point may lie off a curve it was not fitted to.
fn u_off(fit: &Fit, x: f64, (ux, uy): (f64, f64)) -> f64 {
    let steepness = fit.curve.steepness(x);
    let own = uy.hypot(steepness * ux);
    let u = own.max(fit.residual_sd).hypot(fit.u_at(x));
    if u > 0.0 { u } else { 1e-9 * fit.at(x).abs().max(1e-300) }
}

/// What may have been meant by a typed number, with how it would have been mistyped.
fn mended(text: &str) -> Vec<(Mistyped, String)> {
    let chars: Vec<char> = text.chars().collect();
    let mut all = Vec::new();
    let digit = |c: &char| c.is_ascii_digit();
    // Two digits swapped, the point between them or not.
    let digits: Vec<usize> = (0..chars.len()).filter(|i| digit(&chars[*i])).collect();
    for pair in digits.windows(2) {
        if chars[pair[0]] != chars[pair[1]] {
            let mut meant = chars.clone();
            meant.swap(pair[0], pair[1]);
            all.push((Mistyped::SwappedDigits, meant.iter().collect()));
        }
    }
    for pair in digits.windows(2) {
        if chars[pair[0]] == chars[pair[1]] {
            let mut meant = chars.clone();
            meant.remove(pair[1]);
            all.push((Mistyped::DoubledDigit, meant.iter().collect()));
        }
    }
    let plain: String = chars.iter().filter(|c| **c != '.').collect();
    let point = chars.iter().position(|c| *c == '.').unwrap_or(chars.len()) as i32;
    if chars.iter().all(|c| digit(c) || matches!(c, '.' | '-')) {
        for by in [-3, -2, -1, 1, 2, 3] {
            let value: f64 = text.parse().unwrap_or(0.0);
            if value != 0.0 && plain.len() as i32 + point > 0 {
                all.push((Mistyped::MovedPoint, format!("{}", value * 10f64.powi(by))));
            }
        }
        for place in 0..=chars.len() {
            if place == 0 && chars.first() == Some(&'-') {
                continue;
            }
            for lost in '0'..='9' {
                let mut meant = chars.clone();
                meant.insert(place, lost);
                all.push((Mistyped::LostDigit, meant.iter().collect()));
            }
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_meant_is_among_what_may_have_been() {
        for (typed, kind, meant) in [
            ("1.23", Mistyped::SwappedDigits, "1.32"),
            ("21.3", Mistyped::SwappedDigits, "12.3"),
            ("1.123", Mistyped::DoubledDigit, "1.23"),
            ("12.3", Mistyped::MovedPoint, "1.23"),
            ("-4.5", Mistyped::LostDigit, "-4.25"),
        ] {
            let value = |text: &str| text.parse::<f64>().unwrap();
            let found = mended(typed).into_iter().any(|(k, t)| k == kind && (value(&t) - value(meant)).abs() < 1e-9);
            assert!(found, "{typed} for {meant}");
        }
        assert!(mended("1e3").iter().all(|(kind, _)| *kind == Mistyped::SwappedDigits));
    }
}
