//! What follows from a logbook: its table, graph, line, constant, and what was held.

use super::Logbook;
use crate::fit::{FitError, LineFit, fit_line};
use crate::graph::{Axis, Graph, Point, PointKind};
use crate::lab::Freedom;
use crate::quantity::{Uncertain, Unit};
use crate::record::{ColumnKind, Table};
use crate::result::{Comparison, Constant, ConstantError, from_slope};
use crate::rigs::SettingValue;

/// Everything worked out from a logbook.
#[derive(Clone, Debug)]
pub struct Analysis {
    /// The record with its worked values.
    pub table: Table,
    /// The graph, once both axes are chosen and sound.
    pub graph: Option<Graph>,
    /// Why there is no line although one was asked for.
    pub line_error: Option<FitError>,
    /// The constant, once there are a graph and a law.
    pub constant: Option<Result<Constant, ConstantError>>,
    /// Its comparison with the accepted value; an error when their units differ.
    pub comparison: Option<Result<Comparison, String>>,
}

/// A setting as it stands beside the table.
#[derive(Clone, Debug, PartialEq)]
pub struct HeldQuantity {
    /// Name for people.
    pub label: &'static str,
    /// Symbol.
    pub symbol: &'static str,
    /// Whether and at what it was held.
    pub value: HeldValue,
}

/// Whether a setting was held over all runs.
#[derive(Clone, Debug, PartialEq)]
pub enum HeldValue {
    /// Held at this value.
    Held(SettingValue),
    /// Different in some runs.
    Varied,
    /// Held, and hidden by the sheet.
    Hidden,
}

impl Logbook {
    /// Works out table, graph, line and constant.
    pub fn analyse(&self) -> Analysis {
        let table = self.state().record.evaluate();
        let mut graph = self.graph(&table);
        let line = graph.as_ref().and_then(|g| {
            let model = self.state().model?;
            let used: Vec<(f64, f64)> = g.points.iter().filter(|p| !p.aside).map(|p| (p.x, p.y)).collect();
            Some(fit_line(&used, model))
        });
        let constant = self.constant(graph.as_ref(), line.as_ref());
        let comparison = constant.as_ref().and_then(|c| c.as_ref().ok()).map(|c| self.compare(c));
        let (line, line_error) = match line {
            Some(Ok(line)) => (Some(line), None),
            Some(Err(e)) => (None, Some(e)),
            None => (None, None),
        };
        if let Some(graph) = &mut graph {
            graph.line = line;
        }
        Analysis { table, graph, line_error, constant, comparison }
    }

    fn graph(&self, table: &Table) -> Option<Graph> {
        let place = |id: Option<u32>| table.columns.iter().position(|c| Some(c.column.id) == id);
        let (ix, iy) = (place(self.state().x)?, place(self.state().y)?);
        let (cx, cy) = (&table.columns[ix], &table.columns[iy]);
        let (ux, uy) = (cx.unit.as_ref().ok()?, cy.unit.as_ref().ok()?);
        let worked = [cx, cy].iter().any(|c| c.column.kind == ColumnKind::Worked);
        let kind = if worked { PointKind::Worked } else { PointKind::Read };
        let points: Vec<Point> = table
            .rows
            .iter()
            .filter_map(|row| {
                let (x, y) = (row.cells[ix].value()?, row.cells[iy].value()?);
                Some(Point {
                    row: row.id,
                    number: row.number,
                    x: x.value / ux.size(),
                    y: y.value / uy.size(),
                    x_text: row.cells[ix].text().to_owned(),
                    y_text: row.cells[iy].text().to_owned(),
                    kind,
                    aside: row.aside,
                })
            })
            .collect();
        let axis = |c: &crate::record::TableColumn, u: &Unit, value: fn(&Point) -> f64| {
            Axis::around(&c.column.name, &c.column.symbol, u.clone(), points.iter().map(value))
        };
        let (x, y) = (axis(cx, ux, |p| p.x), axis(cy, uy, |p| p.y));
        Some(Graph { x, y, points, line: None })
    }

    fn constant(
        &self,
        graph: Option<&Graph>,
        line: Option<&Result<LineFit, FitError>>,
    ) -> Option<Result<Constant, ConstantError>> {
        let (graph, law) = (graph?, self.state().law.as_ref()?);
        Some(match line? {
            Err(e) => Err(e.clone().into()),
            Ok(line) => from_slope(line, (&graph.x.unit, &graph.y.unit), law, &|s| self.known(s)),
        })
    }

    /// A held quantity the law may use: visible, the same in all runs, and not the constant itself.
    fn known(&self, symbol: &str) -> Option<(Uncertain, Unit)> {
        if symbol == self.sheet().goal.symbol {
            return None;
        }
        let held = self.held().into_iter().find(|h| h.symbol == symbol)?;
        match held.value {
            HeldValue::Held(SettingValue::Quantity(number, unit)) => {
                Some((Uncertain::exact(number.value() * unit.size()), unit))
            }
            HeldValue::Held(SettingValue::Switch(_)) | HeldValue::Varied | HeldValue::Hidden => None,
        }
    }

    fn compare(&self, constant: &Constant) -> Result<Comparison, String> {
        let (number, unit) = &self.state().accepted;
        if !unit.same_dimension(&constant.unit) {
            return Err(format!(
                "The accepted value is in {}, the result in {}: they cannot be compared. Look at the law or at the accepted value.",
                if unit.is_one() { "pure numbers".to_owned() } else { unit.pretty() },
                if constant.unit.is_one() { "pure numbers".to_owned() } else { constant.unit.pretty() },
            ));
        }
        let factor = unit.size() / constant.unit.size();
        // A rounded accepted value is known to its last digit (JCGM 100:2008, 4.3.7).
        Ok(constant.compare(number.value() * factor, number.last_digit() * factor / 12f64.sqrt()))
    }

    /// What was held in all runs, and what was varied, in the order of the rig's settings.
    pub fn held(&self) -> Vec<HeldQuantity> {
        let state = self.state();
        let settings = self.sheet().settings.iter().filter_map(|rule| {
            let spec = self.sheet().card.setting(rule.name)?;
            let value = match rule.freedom {
                Freedom::Hidden => HeldValue::Hidden,
                Freedom::Fixed => HeldValue::Held(rule.value.clone()),
                Freedom::Free => {
                    let mut seen = state.runs.iter().filter_map(|r| r.get(rule.name));
                    let first = seen.next().or_else(|| state.settings.get(rule.name)).unwrap_or(&rule.value);
                    if seen.all(|v| v == first) { HeldValue::Held(first.clone()) } else { HeldValue::Varied }
                }
            };
            Some(HeldQuantity { label: spec.label, symbol: spec.symbol, value })
        });
        settings.collect()
    }
}
