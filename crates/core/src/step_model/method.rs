//! How a step is made.

use serde::{Deserialize, Serialize};
use strum::{EnumString, IntoStaticStr, VariantArray};

use super::{ForceKind, ModelError, StepModel, sum};

/// How a step is made.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Default, Serialize, Deserialize, VariantArray, IntoStaticStr, EnumString,
)]
pub enum Method {
    /// The position goes on with the old velocity (Euler's method; order 1).
    #[default]
    #[serde(rename = "old velocity")]
    #[strum(serialize = "old velocity")]
    OldVelocity,
    /// The position goes on with the new velocity (the semi-implicit method of Euler; order 1, and energy stays near what it was).
    #[serde(rename = "new velocity")]
    #[strum(serialize = "new velocity")]
    NewVelocity,
    /// Forces and velocity of the middle of the step, to which half a step leads (midpoint method; order 2).
    #[serde(rename = "midpoint")]
    #[strum(serialize = "midpoint")]
    Midpoint,
}

impl Method {
    /// All.
    pub const ALL: &[Self] = Self::VARIANTS;

    /// Its name.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// The method of that name.
    pub fn named(name: &str) -> Option<Self> {
        name.parse().ok()
    }
}

type Place = ([f64; 2], [f64; 2]);

/// Position and velocity after a step.
pub(super) fn next(
    model: &StepModel,
    (t, r, v): (f64, [f64; 2], [f64; 2]),
    net: [f64; 2],
) -> Result<Place, ModelError> {
    let (h, m) = (model.step, model.mass);
    let ahead = |from: [f64; 2], by: [f64; 2], h: f64| [from[0] + h * by[0], from[1] + h * by[1]];
    let per_mass = |f: [f64; 2]| [f[0] / m, f[1] / m];
    let (r, new) = match model.method {
        Method::OldVelocity => (ahead(r, v, h), ahead(v, per_mass(net), h)),
        Method::NewVelocity => {
            let new = ahead(v, per_mass(net), h);
            (ahead(r, new, h), new)
        }
        Method::Midpoint => {
            let (middle, half) = (ahead(r, v, 0.5 * h), ahead(v, per_mass(net), 0.5 * h));
            let there = sum(&model.forces_at(t + 0.5 * h, middle, half)?);
            (ahead(r, half, h), ahead(v, per_mass(there), h))
        }
    };
    Ok((r, stopped(model, (t, r, v), new)?))
}

/// Friction brings a body to rest and never turns it back: where it would, the body stops, if nothing stronger pulls.
fn stopped(
    model: &StepModel,
    (t, r, before): (f64, [f64; 2], [f64; 2]),
    after: [f64; 2],
) -> Result<[f64; 2], ModelError> {
    let friction = |f: &super::Force| {
        let ForceKind::Friction { force } = f.kind else { return None };
        f.on.then_some(force)
    };
    let Some(amount) = model.forces.iter().filter_map(friction).reduce(|a, b| a + b) else { return Ok(after) };
    let turned = before[0] * after[0] + before[1] * after[1] < 0.0;
    let mut others = [0.0, 0.0];
    for force in model.forces.iter().filter(|f| f.on) {
        others = sum(&[others, force.kind.at(model.mass, t, r, [0.0, 0.0])?]);
    }
    Ok(if turned && others[0].hypot(others[1]) <= amount { [0.0, 0.0] } else { after })
}
