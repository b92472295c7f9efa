//! What a graph should have looked like: shown once a logbook is handed in.

use std::collections::BTreeMap;

use serde::Deserialize;

use super::goal::Goal;
use super::{Freedom, SettingRule, Wrong};
use crate::formula::{Formula, Problem, is_symbol};
use crate::quantity::{Uncertain, Unit};
use crate::rigs::{Card, SettingKind};

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
    /// Symbol of the constant and its value in coherent SI units; none where each logbook has its own.
    constant: (String, Option<f64>),
    /// Symbols of settings in the formula that the sheet sets, each with its value in a logbook, in coherent SI units.
    settings: BTreeMap<&'static str, Option<f64>>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct FrontExpected {
    x: String,
    across: String,
    up: String,
    curve: String,
}

/// Reads a curve of the constant: at its accepted value, or at the key of a logbook where each has its own. It may use what the sheet sets:
/// settings that are fixed, dealt or hidden, by their symbols.
pub(super) fn expected(
    front: FrontExpected,
    goal: &Goal,
    (card, rules): (&Card, &[SettingRule]),
) -> Result<Expected, Wrong> {
    let (across, up) = (Unit::parse(&front.across)?, Unit::parse(&front.up)?);
    let accepted = goal.accepted.as_ref();
    let unit = accepted.map_or(&goal.unit, |(_, unit)| unit);
    if !is_symbol(&front.x) || front.x == goal.symbol {
        return Err(Wrong::NotAcross(front.x));
    }
    let formula = Formula::parse(&front.curve).map_err(|e| e.problem)?;
    let unit_of = |symbol: &str| match symbol {
        s if s == front.x => Ok(across.clone()),
        s if s == goal.symbol => Ok(unit.clone()),
        other => set_by_sheet(other, card, rules)
            .map(|(_, unit)| unit.clone())
            .ok_or_else(|| Problem::UnknownSymbol(other.to_owned())),
    };
    let found = formula.unit(&unit_of).map_err(|e| e.problem)?;
    if !found.same_dimension(&up) {
        return Err(Wrong::CurveUnit { found: Box::new(found), up: Box::new(up) });
    }
    let constant = (goal.symbol.clone(), accepted.map(|(number, unit)| number.value() * unit.size()));
    let others = formula.symbols().into_iter().filter(|s| *s != front.x && *s != goal.symbol);
    let settings = others.filter_map(|s| set_by_sheet(s, card, rules)).map(|(symbol, _)| (symbol, None)).collect();
    Ok(Expected { x: front.x, across, up, formula, constant, settings })
}

/// The symbol and the unit of a setting that does not vary within a logbook.
fn set_by_sheet<'a>(symbol: &str, card: &'a Card, rules: &[SettingRule]) -> Option<(&'static str, &'a Unit)> {
    let free = |name: &str| rules.iter().any(|r| r.name == name && r.freedom == Freedom::Free);
    card.settings.iter().find(|s| s.symbol == symbol && !free(s.name)).and_then(|spec| match &spec.kind {
        SettingKind::Quantity { unit, .. } => Some((spec.symbol, unit)),
        SettingKind::Choice { .. } | SettingKind::Switch { .. } | SettingKind::Path { .. } => None,
    })
}

impl Expected {
    /// Whether it is drawn at a published value. One that holds a logbook's own numbers is shown with the key alone: a logbook can be sent back after
    /// its curve was seen.
    pub fn is_published(&self) -> bool {
        self.constant.1.is_some() && self.settings.is_empty()
    }

    /// The same at this value of the constant and with these settings by symbol, in coherent SI units.
    #[must_use]
    pub(crate) fn at(&self, constant: f64, known: &dyn Fn(&str) -> Option<f64>) -> Self {
        let settings = self.settings.keys().map(|symbol| (*symbol, known(symbol))).collect();
        Self { constant: (self.constant.0.clone(), Some(constant)), settings, ..self.clone() }
    }

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
                s if s == symbol => Ok(Uncertain::exact(constant.unwrap_or(f64::NAN))),
                other => match self.settings.get(other) {
                    Some(value) => Ok(Uncertain::exact(value.unwrap_or(f64::NAN))),
                    None => Err(Problem::UnknownSymbol(other.to_owned())),
                },
            };
            self.formula.evaluate(&value_of).map_or(f64::NAN, |v| v.value / up.size())
        };
        xs.iter().map(at).collect()
    }
}
