//! What is other in a model than in the one before.

use crate::step_model::{ForceField, ForceName, ForceText, Method, ModelField};

use super::ModelSpec;

/// A difference between two models.
#[derive(Clone, Debug, PartialEq)]
pub enum Differs {
    /// A force that was not there.
    Added {
        /// Which.
        force: Called,
        /// Whether it works.
        on: bool,
    },
    /// A force that was switched on, or off.
    Switched {
        /// Which.
        force: Called,
        /// Whether it works now.
        on: bool,
    },
    /// What is typed for a force.
    OfForce {
        /// Which.
        force: Called,
        /// What of it.
        field: ForceField,
        /// What is typed now; empty for nothing.
        typed: String,
    },
    /// A force was taken away.
    Removed,
    /// The start follows from the readings now.
    StartFromReadings,
    /// What is typed for the whole model.
    Value {
        /// What of it.
        field: ModelField,
        /// What is typed now; empty for nothing.
        typed: String,
    },
    /// The method by which the steps are made.
    Method(Method),
}

/// A force as people call it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Called {
    /// Of what kind.
    pub kind: ForceName,
    /// The name that it was given, if it was given one.
    pub name: Option<String>,
}

impl From<&ForceText> for Called {
    fn from(force: &ForceText) -> Self {
        Self { kind: force.kind, name: force.name.clone() }
    }
}

/// What is other now: force by force, then what holds for all.
pub(super) fn differences(before: &ModelSpec, now: &ModelSpec) -> Vec<Differs> {
    // A start from the readings moves a little with every fit: that it is from them says it.
    let from_data = now.start_from_data;
    let taken = from_data && !before.start_from_data;
    let (before, now) = (&before.text, &now.text);
    let mut all = Vec::new();
    for (i, force) in now.forces.iter().enumerate() {
        let called = || Called::from(force);
        let Some(was) = before.forces.get(i).filter(|f| f.kind == force.kind) else {
            all.push(Differs::Added { force: called(), on: force.on });
            continue;
        };
        if was.on != force.on {
            all.push(Differs::Switched { force: called(), on: force.on });
        }
        let value = |f: &ForceText, takes| f.value(takes).unwrap_or_default().trim().to_owned();
        let others = force.kind.takes().iter().filter(|t| value(was, t) != value(force, t));
        all.extend(others.map(|t| Differs::OfForce { force: called(), field: t.field, typed: value(force, t) }));
    }
    if before.forces.len() > now.forces.len() {
        all.push(Differs::Removed);
    }
    all.extend(taken.then_some(Differs::StartFromReadings));
    for field in ModelField::ALL.iter().copied() {
        let of_start = match field {
            ModelField::T | ModelField::X | ModelField::Y | ModelField::Vx | ModelField::Vy => true,
            ModelField::Mass | ModelField::Step | ModelField::Until => false,
        };
        if before.value(field) != now.value(field) && !(of_start && from_data) {
            all.push(Differs::Value { field, typed: now.value(field).trim().to_owned() });
        }
    }
    if before.method != now.method {
        all.push(Differs::Method(now.method));
    }
    all
}
