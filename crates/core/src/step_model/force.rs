//! Forces on a body, each for a place, a velocity and a time.

use std::collections::BTreeMap;

use super::ModelError;
use crate::formula::{Formula, Problem};
use crate::quantity::Uncertain;

/// A force of a model.
#[derive(Clone, Debug, PartialEq)]
pub struct Force {
    /// Its name.
    pub name: String,
    /// Of what kind.
    pub kind: ForceKind,
    /// Whether it works.
    pub on: bool,
}

/// Kinds of forces. y goes up; all values in coherent SI units.
#[derive(Clone, Debug, PartialEq)]
pub enum ForceKind {
    /// m·g, downwards.
    Weight {
        /// Gravitational field strength.
        g: f64,
    },
    /// ρ·V·g, upwards (Archimedes' principle).
    Buoyancy {
        /// Density of what is around.
        density: f64,
        /// Volume of the body.
        volume: f64,
        /// Gravitational field strength.
        g: f64,
    },
    /// −k·v.
    Drag {
        /// Force per speed.
        k: f64,
    },
    /// −k·|v|·v, with k = ½·ρ·c_D·A.
    DragSquared {
        /// Force per speed squared.
        k: f64,
    },
    /// A push for a time.
    Push {
        /// The force.
        force: [f64; 2],
        /// When it begins.
        from: f64,
        /// When it ends.
        to: f64,
    },
    /// −k·(r − r₀).
    Spring {
        /// Spring constant.
        k: f64,
        /// Where it pulls to.
        rest: [f64; 2],
    },
    /// Friction of a constant amount against the motion; a body at rest stays at rest while less than that pulls.
    Friction {
        /// Its amount.
        force: f64,
    },
    /// Formulas of one's own over t, x, y, v_x, v_y, m and what is held.
    Own {
        /// Along x and y.
        along: [Formula; 2],
        /// What is held, by symbol, in coherent SI units.
        held: BTreeMap<String, f64>,
    },
}

impl ForceKind {
    /// The force, in N. Friction is added by the model, which knows what drives the body.
    ///
    /// # Errors
    /// [`ModelError::Formula`] when a formula has no value there.
    pub fn at(&self, m: f64, t: f64, r: [f64; 2], v: [f64; 2]) -> Result<[f64; 2], ModelError> {
        Ok(match self {
            Self::Weight { g } => [0.0, -m * g],
            Self::Buoyancy { density, volume, g } => [0.0, density * volume * g],
            Self::Drag { k } => [-k * v[0], -k * v[1]],
            Self::DragSquared { k } => {
                let speed = v[0].hypot(v[1]);
                [-k * speed * v[0], -k * speed * v[1]]
            }
            // The moment of its end is not in it, so that two pushes one after the other do not meet.
            Self::Push { force, from, to } => {
                if (*from..*to).contains(&t) {
                    *force
                } else {
                    [0.0, 0.0]
                }
            }
            Self::Spring { k, rest } => [-k * (r[0] - rest[0]), -k * (r[1] - rest[1])],
            Self::Friction { .. } => [0.0, 0.0],
            Self::Own { along, held } => {
                let known = |symbol: &str| {
                    let value = match symbol {
                        "t" => Some(t),
                        "x" => Some(r[0]),
                        "y" => Some(r[1]),
                        "v_x" => Some(v[0]),
                        "v_y" => Some(v[1]),
                        "m" => Some(m),
                        _ => held.get(symbol).copied(),
                    };
                    value.map(Uncertain::exact).ok_or_else(|| Problem::UnknownSymbol(symbol.to_owned()))
                };
                let one = |f: &Formula| {
                    let value = f.evaluate(&known).map(|v| v.value);
                    value.map_err(|error| ModelError::Formula { text: f.text().to_owned(), error })
                };
                [one(&along[0])?, one(&along[1])?]
            }
        })
    }

    /// The parameter that can be fitted.
    pub(super) fn parameter_mut(&mut self) -> Option<&mut f64> {
        match self {
            Self::Drag { k } | Self::DragSquared { k } | Self::Spring { k, .. } => Some(k),
            Self::Weight { g } => Some(g),
            Self::Friction { force } => Some(force),
            Self::Buoyancy { volume, .. } => Some(volume),
            Self::Push { .. } | Self::Own { .. } => None,
        }
    }

    /// Whether it is another one elsewhere or later.
    pub(super) fn depends_on_place_or_time(&self) -> bool {
        match self {
            Self::Weight { .. }
            | Self::Buoyancy { .. }
            | Self::Drag { .. }
            | Self::DragSquared { .. }
            | Self::Friction { .. } => false,
            // A push is over some day; what a formula depends on, nobody can tell.
            Self::Push { .. } => false,
            Self::Spring { .. } | Self::Own { .. } => true,
        }
    }
}

/// Friction of a body that moves, or that something else drives from rest.
pub(super) fn friction(amount: f64, v: [f64; 2], driving: [f64; 2]) -> [f64; 2] {
    let against = |[x, y]: [f64; 2], amount: f64| {
        let long = x.hypot(y);
        if long == 0.0 { [0.0, 0.0] } else { [-amount * x / long, -amount * y / long] }
    };
    if v[0].hypot(v[1]) > 0.0 { against(v, amount) } else { against(driving, amount.min(driving[0].hypot(driving[1]))) }
}
