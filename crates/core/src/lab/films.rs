//! Films of a lab: which ones, by what they differ, and what the sheet lays over them.

use serde::Deserialize;

use super::read::{LONGEST_NAME, fits};
use super::wrong::{Text, Wrong};
use crate::formula::is_symbol;
use crate::motion::{Axes, Ruler};
use crate::quantity::{Unit, parse_quantity};

/// A condition by which the films of one experiment differ.
#[derive(Clone, Debug, PartialEq)]
pub struct Condition {
    /// Its name.
    pub name: String,
    /// Its symbol; none for one in words.
    pub symbol: String,
    /// Its unit.
    pub unit: Unit,
    /// Whether it is a quantity, not words.
    pub measured: bool,
}

/// A film of the lab.
#[derive(Clone, Debug, PartialEq)]
pub struct SheetFilm {
    /// Name by which it is found: one of the demo films, or `film 12` of the teacher's own.
    pub key: String,
    /// Value of every condition, as shown.
    pub conditions: Vec<String>,
    /// What the sheet has laid over it for the scale.
    pub rulers: Vec<Ruler>,
    /// The sheet's axes.
    pub axes: Option<Axes>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct FrontFilm {
    pub film: String,
    #[serde(default)]
    conditions: Vec<String>,
    #[serde(default)]
    rulers: Vec<String>,
    pub axes: Option<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct FrontCondition {
    name: String,
    symbol: Option<String>,
    #[serde(default)]
    unit: String,
}

pub(super) fn condition(front: FrontCondition) -> Result<Condition, Wrong> {
    let unit = Unit::parse(&front.unit)?;
    let measured = front.symbol.is_some();
    let symbol = front.symbol.unwrap_or_default();
    if measured && !is_symbol(&symbol) {
        return Err(Wrong::NotASymbol(symbol));
    }
    fits(&front.name, Text::Condition, LONGEST_NAME)?;
    Ok(Condition { name: front.name, symbol, unit, measured })
}

/// Two numbers parted by a comma.
fn pixels(text: &str) -> Option<[f64; 2]> {
    let (x, y) = text.split_once(',')?;
    let number = |t: &str| t.trim().parse::<f64>().ok().filter(|v| v.abs() < 1e4);
    Some([number(x)?, number(y)?])
}

/// `28,312; 28,112; 2.000 m`, and the word `radius` behind it for a circle.
fn sheet_ruler(text: &str) -> Option<Ruler> {
    let [a, b, length] = text.split(';').map(str::trim).collect::<Vec<_>>()[..] else { return None };
    let (length, circle) = length.strip_suffix("radius").map_or((length, false), |l| (l.trim(), true));
    let (number, unit) = parse_quantity(length, &Unit::one()).ok()?;
    let metre = Unit::parse("m").ok()?;
    let ruler = Ruler { ends: [pixels(a)?, pixels(b)?], length: (number, unit), circle };
    (ruler.length.1.same_dimension(&metre) && ruler.length.0.value() > 0.0 && ruler.pixels() > 5.0).then_some(ruler)
}

/// `28,312; -20 deg`, and the word `flipped` behind it when y points to the other side.
fn sheet_axes(text: &str) -> Option<Axes> {
    let (origin, angle) = text.split_once(';')?;
    let (angle, flipped) = angle.trim().strip_suffix("flipped").map_or((angle.trim(), false), |a| (a.trim(), true));
    let degree = Unit::parse("deg").ok()?;
    let (number, unit) = parse_quantity(angle, &degree).ok()?;
    let angle = number.value() * unit.size();
    unit.same_dimension(&degree).then_some(Axes { origin: pixels(origin.trim())?, angle, flipped })
}

pub(super) fn sheet_film(front: FrontFilm, conditions: &[Condition]) -> Result<SheetFilm, Wrong> {
    if front.conditions.len() != conditions.len() {
        return Err(Wrong::FilmConditions { conditions: conditions.len() });
    }
    for (value, condition) in front.conditions.iter().zip(conditions).filter(|(_, c)| c.measured) {
        let (_, unit) = parse_quantity(value, &condition.unit)?;
        if !unit.same_dimension(&condition.unit) {
            return Err(Wrong::NotOfCondition { given: value.clone(), condition: condition.name.clone() });
        }
    }
    let rulers = front.rulers.iter().map(|r| sheet_ruler(r).ok_or_else(|| Wrong::NoRuler(r.clone())));
    let rulers = rulers.collect::<Result<Vec<_>, Wrong>>()?;
    let axes = front.axes.map(|a| sheet_axes(&a).ok_or(Wrong::NoAxes(a)));
    Ok(SheetFilm { key: front.film, conditions: front.conditions, rulers, axes: axes.transpose()? })
}
