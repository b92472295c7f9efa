//! A step model as a text (TOML):
//!
//! ```text
//! mass = "4.3 g"
//! step = "0.01 s"
//! until = "2 s"
//! method = "midpoint"              # or "old velocity", "new velocity"
//! start = { t = "0 s", y = "3.80 m", v_y = "0 m/s" }
//! held = { c = "0.2 kg/m" }
//!
//! [[forces]]
//! kind = "weight"                  # weight, buoyancy, drag, drag squared, push, spring, friction, own
//! g = "9.81 m/s^2"
//!
//! [[forces]]
//! kind = "drag squared"
//! k = "0.012 kg/m"
//! fit = true                       # one parameter may be fitted
//! ```

use std::collections::BTreeMap;

use serde::Deserialize;

use super::{Force, ForceKind, Method, StepModel};
use crate::formula::{Formula, Problem};
use crate::quantity::{Unit, parse_quantity};

/// Most forces of a model.
const MOST_FORCES: usize = 20;
/// Standard gravity, in m/s² (3rd CGPM, 1901).
const GRAVITY: &str = "9.80665 m/s^2";

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Front {
    mass: String,
    step: String,
    until: String,
    #[serde(default)]
    method: Option<String>,
    #[serde(default)]
    start: BTreeMap<String, String>,
    #[serde(default)]
    held: BTreeMap<String, String>,
    #[serde(default)]
    forces: Vec<FrontForce>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct FrontForce {
    kind: String,
    #[serde(default)]
    name: Option<String>,
    #[serde(default = "yes")]
    on: bool,
    #[serde(default)]
    fit: bool,
    g: Option<String>,
    k: Option<String>,
    density: Option<String>,
    volume: Option<String>,
    force: Option<String>,
    x: Option<String>,
    y: Option<String>,
    from: Option<String>,
    to: Option<String>,
}

fn yes() -> bool {
    true
}

/// A typed quantity in coherent units, of the dimension of `unit`.
fn quantity(typed: &str, unit: &str, what: &str) -> Result<f64, String> {
    let wanted = Unit::parse(unit).map_err(|e| e.to_string())?;
    let (number, found) = parse_quantity(typed, &wanted).map_err(|e| format!("{what}: {e}"))?;
    if !found.same_dimension(&wanted) {
        return Err(format!("{what} is in {}, not in {}.", wanted.pretty(), found.pretty()));
    }
    Ok(number.value() * found.size())
}

/// Reads a model, and the place of the force whose parameter is to be fitted.
///
/// # Errors
/// A sentence that says what to change.
pub fn read_model(text: &str) -> Result<(StepModel, Option<usize>), String> {
    let front: Front = toml::from_str(text).map_err(|e| e.to_string())?;
    if front.forces.len() > MOST_FORCES {
        return Err(format!("A model can have {MOST_FORCES} forces."));
    }
    let units = [("t", "s"), ("x", "m"), ("y", "m"), ("v_x", "m/s"), ("v_y", "m/s")];
    if let Some(other) = front.start.keys().find(|k| units.iter().all(|(name, _)| name != k)) {
        return Err(format!("“{other}” does not belong to the start. There is: t, x, y, v_x, v_y."));
    }
    let start = |name: &str| -> Result<f64, String> {
        let unit = units.iter().find(|(n, _)| *n == name).map_or("", |(_, unit)| unit);
        front.start.get(name).map_or(Ok(0.0), |typed| quantity(typed, unit, name))
    };
    let mut held = BTreeMap::new();
    for (symbol, typed) in &front.held {
        let (number, unit) = parse_quantity(typed, &Unit::one()).map_err(|e| format!("{symbol}: {e}"))?;
        held.insert(symbol.clone(), (number.value() * unit.size(), unit));
    }
    let forces = front.forces.iter().map(|f| force(f, &held)).collect::<Result<Vec<_>, _>>()?;
    let fit: Vec<usize> = front.forces.iter().enumerate().filter(|(_, f)| f.fit).map(|(i, _)| i).collect();
    if fit.len() > 1 {
        return Err("Only one parameter can be fitted.".to_owned());
    }
    let method = front.method.as_deref().unwrap_or("new velocity");
    let model = StepModel {
        mass: quantity(&front.mass, "kg", "mass")?,
        start: start("t")?,
        position: [start("x")?, start("y")?],
        velocity: [start("v_x")?, start("v_y")?],
        step: quantity(&front.step, "s", "step")?,
        until: quantity(&front.until, "s", "until")?,
        method: Method::named(method).ok_or_else(|| {
            format!("“{method}” is no method. There is: {}.", Method::ALL.map(|(_, name)| name).join(", "))
        })?,
        forces,
    };
    model.check()?;
    Ok((model, fit.first().copied()))
}

fn force(f: &FrontForce, held: &BTreeMap<String, (f64, Unit)>) -> Result<Force, String> {
    let needed = |value: &Option<String>, name: &str, unit: &str| {
        let typed = value.as_deref().ok_or_else(|| format!("The force “{}” needs {name} = \"…\".", f.kind))?;
        quantity(typed, unit, name)
    };
    let or = |value: &Option<String>, usual: &str, name: &str, unit: &str| {
        quantity(value.as_deref().unwrap_or(usual), unit, name)
    };
    let kind = match f.kind.as_str() {
        "weight" => ForceKind::Weight { g: or(&f.g, GRAVITY, "g", "m/s^2")? },
        "buoyancy" => ForceKind::Buoyancy {
            density: needed(&f.density, "density", "kg/m^3")?,
            volume: needed(&f.volume, "volume", "m^3")?,
            g: or(&f.g, GRAVITY, "g", "m/s^2")?,
        },
        "drag" => ForceKind::Drag { k: needed(&f.k, "k", "kg/s")? },
        "drag squared" => ForceKind::DragSquared { k: needed(&f.k, "k", "kg/m")? },
        "push" => ForceKind::Push {
            force: [or(&f.x, "0 N", "x", "N")?, or(&f.y, "0 N", "y", "N")?],
            from: or(&f.from, "0 s", "from", "s")?,
            to: needed(&f.to, "to", "s")?,
        },
        "spring" => ForceKind::Spring {
            k: needed(&f.k, "k", "N/m")?,
            rest: [or(&f.x, "0 m", "x", "m")?, or(&f.y, "0 m", "y", "m")?],
        },
        "friction" => ForceKind::Friction { force: needed(&f.force, "force", "N")? },
        "own" => ForceKind::Own {
            along: [own(f.x.as_deref(), held)?, own(f.y.as_deref(), held)?],
            held: held.iter().map(|(s, (v, _))| (s.clone(), *v)).collect(),
        },
        other => {
            return Err(format!(
                "“{other}” is no kind of force. There is: weight, buoyancy, drag, drag squared, push, spring, friction, own."
            ));
        }
    };
    if f.fit && kind.clone().parameter_mut().is_none() {
        return Err(format!("The force “{}” has no parameter that can be fitted.", f.kind));
    }
    Ok(Force { name: f.name.clone().unwrap_or_else(|| f.kind.clone()), kind, on: f.on })
}

/// A formula for a force: its unit has to be that of one.
fn own(text: Option<&str>, held: &BTreeMap<String, (f64, Unit)>) -> Result<Formula, String> {
    let Some(text) = text.filter(|t| !t.trim().is_empty()) else {
        return Formula::parse("0 [N]").map_err(|e| e.to_string());
    };
    let formula = Formula::parse(text).map_err(|e| format!("“{text}”: {e}"))?;
    let unit_of = |symbol: &str| {
        let known = match symbol {
            "t" => Unit::parse("s").ok(),
            "x" | "y" => Unit::parse("m").ok(),
            "v_x" | "v_y" => Unit::parse("m/s").ok(),
            "m" => Unit::parse("kg").ok(),
            _ => held.get(symbol).map(|(_, unit)| unit.clone()),
        };
        known.ok_or_else(|| Problem::UnknownSymbol(symbol.to_owned()))
    };
    let unit = formula.unit(&unit_of).map_err(|e| format!("“{text}”: {e}"))?;
    let newton = Unit::parse("N").map_err(|e| e.to_string())?;
    if unit.same_dimension(&newton) {
        Ok(formula)
    } else {
        Err(format!("“{text}” is in {}, and a force is in N.", unit.pretty()))
    }
}
