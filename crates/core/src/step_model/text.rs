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

use serde::{Deserialize, Serialize};
use strum::{IntoStaticStr, VariantArray};

use super::{Force, ForceKind, Method, ModelError, StepModel};
use crate::formula::{Formula, Problem};
use crate::quantity::{Unit, parse_quantity};

/// Most forces of a model.
pub const MOST_FORCES: usize = 20;

/// What is held, by symbol: value in coherent SI units, and unit.
pub type HeldValues = BTreeMap<String, (f64, Unit)>;

/// A model as it is typed: quantities with their units. What stands empty is zero, or missing.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ModelText {
    /// Mass.
    pub mass: String,
    /// Time step.
    pub step: String,
    /// Time at the end.
    pub until: String,
    /// How a step is made.
    #[serde(default = "usual_method")]
    pub method: Method,
    /// What is there at the start.
    #[serde(default)]
    pub start: StartText,
    /// Quantities that formulas use, by symbol.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub held: BTreeMap<String, String>,
    /// The forces.
    #[serde(default)]
    pub forces: Vec<ForceText>,
}

fn usual_method() -> Method {
    Method::NewVelocity
}

/// The start as it is typed; empty for zero.
#[derive(Clone, Debug, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct StartText {
    /// Time.
    pub t: String,
    /// Position along x.
    pub x: String,
    /// Position along y.
    pub y: String,
    /// Velocity along x.
    pub v_x: String,
    /// Velocity along y.
    pub v_y: String,
}

/// A force as it is typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct ForceText {
    /// Of what kind.
    pub kind: ForceName,
    /// Its name; that of its kind without.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Whether it works.
    #[serde(default = "yes")]
    pub on: bool,
    /// Whether its parameter is to be fitted.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub fit: bool,
    /// What is typed for it.
    #[serde(flatten)]
    pub values: BTreeMap<ForceField, String>,
}

fn yes() -> bool {
    true
}

/// Kinds of forces by name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, VariantArray, IntoStaticStr)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum ForceName {
    /// [`ForceKind::Weight`].
    Weight,
    /// [`ForceKind::Buoyancy`].
    Buoyancy,
    /// [`ForceKind::Drag`].
    Drag,
    /// [`ForceKind::DragSquared`].
    #[serde(rename = "drag squared")]
    #[strum(serialize = "drag squared")]
    DragSquared,
    /// [`ForceKind::Push`].
    Push,
    /// [`ForceKind::Spring`].
    Spring,
    /// [`ForceKind::Friction`].
    Friction,
    /// [`ForceKind::Own`].
    Own,
}

/// What is typed for a force.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, IntoStaticStr)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum ForceField {
    /// Gravitational field strength.
    G,
    /// Drag constant or spring constant.
    K,
    /// Density of what is around.
    Density,
    /// Volume of the body.
    Volume,
    /// Amount of a force.
    Force,
    /// Along x.
    X,
    /// Along y.
    Y,
    /// When it begins.
    From,
    /// When it ends.
    To,
}

/// What is typed for a model as a whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, VariantArray, IntoStaticStr)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum ModelField {
    /// Mass.
    Mass,
    /// Time at the start.
    T,
    /// Position along x at the start.
    X,
    /// Position along y at the start.
    Y,
    /// Velocity along x at the start.
    #[serde(rename = "v_x")]
    #[strum(serialize = "v_x")]
    Vx,
    /// Velocity along y at the start.
    #[serde(rename = "v_y")]
    #[strum(serialize = "v_y")]
    Vy,
    /// Time step.
    Step,
    /// Time at the end.
    Until,
}

/// A value a force takes: which, its unit (none for a formula), and what it is when nothing is typed; none where something has to be.
#[derive(Clone, Copy, Debug)]
pub struct Takes {
    /// Which.
    pub field: ForceField,
    /// Its unit; none for a formula.
    pub unit: Option<&'static str>,
    /// What holds when nothing is typed.
    pub usual: Option<&'static str>,
}

const fn takes(field: ForceField, unit: &'static str, usual: Option<&'static str>) -> Takes {
    Takes { field, unit: Some(unit), usual }
}

const fn formula(field: ForceField) -> Takes {
    Takes { field, unit: None, usual: Some("0 [N]") }
}

/// Standard gravity, in m/s² (3rd CGPM, 1901).
const GRAVITY: Takes = takes(ForceField::G, "m/s^2", Some("9.80665 m/s^2"));

impl ForceName {
    /// All, in the order in which they are offered.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// Its name.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// What is typed for it.
    pub fn takes(self) -> &'static [Takes] {
        use ForceField::{Density, Force, From, K, To, Volume, X, Y};
        match self {
            Self::Weight => &[GRAVITY],
            Self::Buoyancy => const { &[takes(Density, "kg/m^3", None), takes(Volume, "m^3", None), GRAVITY] },
            Self::Drag => const { &[takes(K, "kg/s", None)] },
            Self::DragSquared => const { &[takes(K, "kg/m", None)] },
            Self::Push => {
                const {
                    &[
                        takes(X, "N", Some("0 N")),
                        takes(Y, "N", Some("0 N")),
                        takes(From, "s", Some("0 s")),
                        takes(To, "s", None),
                    ]
                }
            }
            Self::Spring => const { &[takes(K, "N/m", None), takes(X, "m", Some("0 m")), takes(Y, "m", Some("0 m"))] },
            Self::Friction => const { &[takes(Force, "N", None)] },
            Self::Own => const { &[formula(X), formula(Y)] },
        }
    }

    /// The parameter that can be fitted, and its unit.
    pub fn parameter(self) -> Option<(ForceField, &'static str)> {
        let field = match self {
            Self::Weight => ForceField::G,
            Self::Buoyancy => ForceField::Volume,
            Self::Drag | Self::DragSquared | Self::Spring => ForceField::K,
            Self::Friction => ForceField::Force,
            Self::Push | Self::Own => return None,
        };
        let unit = self.takes().iter().find(|t| t.field == field)?.unit?;
        Some((field, unit))
    }
}

impl ForceField {
    /// Its name.
    pub fn name(self) -> &'static str {
        self.into()
    }
}

impl ModelField {
    /// All, in the order in which they are asked for.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// Its name.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// Its unit.
    pub fn unit(self) -> &'static str {
        match self {
            Self::Mass => "kg",
            Self::Step | Self::Until | Self::T => "s",
            Self::X | Self::Y => "m",
            Self::Vx | Self::Vy => "m/s",
        }
    }
}

impl Default for ModelText {
    /// A body with its weight, let go.
    fn default() -> Self {
        Self {
            mass: String::new(),
            step: "0.05 s".to_owned(),
            until: String::new(),
            method: Method::OldVelocity,
            start: StartText::default(),
            held: BTreeMap::new(),
            forces: vec![ForceText::new(ForceName::Weight)],
        }
    }
}

impl ForceText {
    /// A force of a kind, with nothing typed yet.
    pub fn new(kind: ForceName) -> Self {
        Self { kind, name: None, on: true, fit: false, values: BTreeMap::new() }
    }

    /// What people call it.
    pub fn name(&self) -> &str {
        self.name.as_deref().unwrap_or_else(|| self.kind.name())
    }

    /// What is typed, or what holds without.
    pub fn value(&self, takes: &Takes) -> Option<&str> {
        self.values.get(&takes.field).map(String::as_str).filter(|v| !v.trim().is_empty()).or(takes.usual)
    }

    /// The force.
    ///
    /// # Errors
    /// [`ModelError`], by what to change.
    pub fn read(&self, held: &HeldValues) -> Result<Force, ModelError> {
        use ForceField::{Density, Force as Amount, From, G, K, To, Volume, X, Y};
        let all = self.kind.takes();
        if let Some(other) = self.values.keys().find(|f| all.iter().all(|t| t.field != **f)) {
            return Err(ModelError::NoField { force: self.kind, field: *other });
        }
        let typed = |field: ForceField| {
            let takes = all.iter().find(|t| t.field == field);
            takes.and_then(|t| Some((t, self.value(t)?))).ok_or(ModelError::FieldWanted { force: self.kind, field })
        };
        let number = |field: ForceField| {
            let (takes, typed) = typed(field)?;
            quantity(typed, takes.unit.unwrap_or("1"), Typed::Force(field))
        };
        let kind = match self.kind {
            ForceName::Weight => ForceKind::Weight { g: number(G)? },
            ForceName::Buoyancy => {
                ForceKind::Buoyancy { density: number(Density)?, volume: number(Volume)?, g: number(G)? }
            }
            ForceName::Drag => ForceKind::Drag { k: number(K)? },
            ForceName::DragSquared => ForceKind::DragSquared { k: number(K)? },
            ForceName::Push => {
                ForceKind::Push { force: [number(X)?, number(Y)?], from: number(From)?, to: number(To)? }
            }
            ForceName::Spring => ForceKind::Spring { k: number(K)?, rest: [number(X)?, number(Y)?] },
            ForceName::Friction => ForceKind::Friction { force: number(Amount)? },
            ForceName::Own => ForceKind::Own {
                along: [own(typed(X)?.1, held)?, own(typed(Y)?.1, held)?],
                held: held.iter().map(|(s, (v, _))| (s.clone(), *v)).collect(),
            },
        };
        if self.fit && self.kind.parameter().is_none() {
            return Err(ModelError::NoParameter { force: self.kind });
        }
        Ok(Force { name: self.name().to_owned(), kind, on: self.on })
    }
}

impl ModelText {
    /// What is typed for the model as a whole.
    pub fn value(&self, field: ModelField) -> &str {
        match field {
            ModelField::Mass => &self.mass,
            ModelField::Step => &self.step,
            ModelField::Until => &self.until,
            ModelField::T => &self.start.t,
            ModelField::X => &self.start.x,
            ModelField::Y => &self.start.y,
            ModelField::Vx => &self.start.v_x,
            ModelField::Vy => &self.start.v_y,
        }
    }

    /// The same, to be typed anew.
    pub fn value_mut(&mut self, field: ModelField) -> &mut String {
        match field {
            ModelField::Mass => &mut self.mass,
            ModelField::Step => &mut self.step,
            ModelField::Until => &mut self.until,
            ModelField::T => &mut self.start.t,
            ModelField::X => &mut self.start.x,
            ModelField::Y => &mut self.start.y,
            ModelField::Vx => &mut self.start.v_x,
            ModelField::Vy => &mut self.start.v_y,
        }
    }

    /// The model, and the place of the force whose parameter is to be fitted. `beside` are quantities that are held elsewhere; `end` is the end in s
    /// where none is typed.
    ///
    /// # Errors
    /// [`ModelError`], by what to change.
    pub fn read(&self, beside: &HeldValues, end: Option<f64>) -> Result<(StepModel, Option<usize>), ModelError> {
        if self.forces.len() > MOST_FORCES {
            return Err(ModelError::TooManyForces { most: MOST_FORCES });
        }
        let number = |field: ModelField| -> Result<f64, ModelError> {
            let typed = self.value(field).trim();
            if !typed.is_empty() {
                return quantity(typed, field.unit(), Typed::Model(field));
            }
            let usual = match field {
                ModelField::Mass | ModelField::Step => None,
                ModelField::Until => end,
                ModelField::T | ModelField::X | ModelField::Y | ModelField::Vx | ModelField::Vy => Some(0.0),
            };
            usual.ok_or(ModelError::ValueWanted { field })
        };
        let mut held = beside.clone();
        for (symbol, typed) in &self.held {
            let read = parse_quantity(typed, &Unit::one());
            let (number, unit) = read.map_err(|error| ModelError::Held { symbol: symbol.clone(), error })?;
            held.insert(symbol.clone(), (number.value() * unit.size(), unit));
        }
        let forces = self.forces.iter().map(|f| f.read(&held)).collect::<Result<Vec<_>, _>>()?;
        let fit: Vec<usize> = self.forces.iter().enumerate().filter(|(_, f)| f.fit).map(|(i, _)| i).collect();
        if fit.len() > 1 {
            return Err(ModelError::TwoFitted);
        }
        let model = StepModel {
            mass: number(ModelField::Mass)?,
            start: number(ModelField::T)?,
            position: [number(ModelField::X)?, number(ModelField::Y)?],
            velocity: [number(ModelField::Vx)?, number(ModelField::Vy)?],
            step: number(ModelField::Step)?,
            until: number(ModelField::Until)?,
            method: self.method,
            forces,
        };
        model.check()?;
        Ok((model, fit.first().copied()))
    }
}

/// What is typed for a model.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Typed {
    /// For the model as a whole.
    Model(ModelField),
    /// For a force.
    Force(ForceField),
}

impl Typed {
    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Self::Model(field) => field.name(),
            Self::Force(field) => field.name(),
        }
    }
}

/// A typed quantity in coherent units, of the dimension of `unit`.
///
/// # Errors
/// [`ModelError`] that names `what`.
pub fn quantity(typed: &str, unit: &str, what: Typed) -> Result<f64, ModelError> {
    let wrong = |error| ModelError::Quantity { what, error };
    let wanted = Unit::parse(unit).map_err(|e| wrong(e.into()))?;
    let (number, found) = parse_quantity(typed, &wanted).map_err(wrong)?;
    if !found.same_dimension(&wanted) {
        return Err(ModelError::OtherUnit { what, wanted, typed: found });
    }
    Ok(number.value() * found.size())
}

/// Reads a model from a TOML text, and the place of the force whose parameter is to be fitted.
///
/// # Errors
/// [`ModelError`], by what to change.
pub fn read_model(text: &str) -> Result<(StepModel, Option<usize>), ModelError> {
    let front: ModelText = toml::from_str(text).map_err(|e| ModelError::Unreadable(e.to_string()))?;
    front.read(&HeldValues::new(), None)
}

/// A formula for a force: its unit has to be that of one.
fn own(text: &str, held: &HeldValues) -> Result<Formula, ModelError> {
    let wrong = |error| ModelError::Formula { text: text.to_owned(), error };
    let formula = Formula::parse(text).map_err(wrong)?;
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
    let unit = formula.unit(&unit_of).map_err(wrong)?;
    if Unit::parse("N").is_ok_and(|newton| unit.same_dimension(&newton)) {
        Ok(formula)
    } else {
        Err(ModelError::NoForce { text: text.to_owned(), unit })
    }
}
