//! What a graph should have looked like: shown once a logbook is handed in.

use serde::Deserialize;

use super::goal::Goal;
use super::sentence;
use crate::formula::{Formula, Problem, is_symbol};
use crate::quantity::{Uncertain, Unit};

/// A curve that the points should lie on, for graphs whose axes have these dimensions.
#[derive(Clone, Debug, PartialEq)]
pub struct Expected {
    /// Symbol of what goes across.
    x: String,
    /// A unit of what goes across.
    across: Unit,
    /// A unit of what goes up.
    up: Unit,
    /// What goes up, of x and the constant to be found.
    formula: Formula,
    /// Symbol of the constant and its accepted value, in coherent SI units.
    constant: (String, f64),
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct FrontExpected {
    x: String,
    across: String,
    up: String,
    curve: String,
}

/// Reads a curve. It may hold what is published, and never what a logbook hides: a logbook can be sent back after its curve was seen.
pub(super) fn expected(front: FrontExpected, goal: &Goal) -> Result<Expected, String> {
    let unit = |text: &str| Unit::parse(text).map_err(|e| sentence(&e.to_string()));
    let (across, up) = (unit(&front.across)?, unit(&front.up)?);
    let Some((number, unit)) = &goal.accepted else {
        return Err("A curve that is shown after handing in needs an accepted value of the constant.".to_owned());
    };
    if !is_symbol(&front.x) || front.x == goal.symbol {
        return Err(format!("“{}” cannot stand for what goes across.", front.x));
    }
    let formula = Formula::parse(&front.curve).map_err(|e| sentence(&e.to_string()))?;
    let unit_of = |symbol: &str| match symbol {
        s if s == front.x => Ok(across.clone()),
        s if s == goal.symbol => Ok(unit.clone()),
        other => Err(Problem::UnknownSymbol(other.to_owned())),
    };
    let found = formula.unit(&unit_of).map_err(|e| sentence(&e.to_string()))?;
    if !found.same_dimension(&up) {
        return Err(format!("The curve comes to {}, which is no {}.", found.pretty(), up.pretty()));
    }
    let constant = (goal.symbol.clone(), number.value() * unit.size());
    Ok(Expected { x: front.x, across, up, formula, constant })
}

impl Expected {
    /// Whether axes with these units show its quantities.
    pub fn fits(&self, across: &Unit, up: &Unit) -> bool {
        self.across.same_dimension(across) && self.up.same_dimension(up)
    }

    /// Heights over places, in the units of the axes; `NaN` where it has none.
    pub fn along(&self, xs: &[f64], across: &Unit, up: &Unit) -> Vec<f64> {
        let (symbol, constant) = &self.constant;
        let at = |x: &f64| {
            let value_of = |s: &str| match s {
                s if s == self.x => Ok(Uncertain::exact(x * across.size())),
                s if s == symbol => Ok(Uncertain::exact(*constant)),
                other => Err(Problem::UnknownSymbol(other.to_owned())),
            };
            self.formula.evaluate(&value_of).map_or(f64::NAN, |v| v.value / up.size())
        };
        xs.iter().map(at).collect()
    }
}
