//! Why no run can be made of a model, or none fitted to readings.

use thiserror::Error;

use super::text::{ForceField, ForceName, ModelField, Typed};
use crate::formula::FormulaError;
use crate::quantity::{QuantityError, Unit};

/// Why no run can be made of a model, or none fitted to readings.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum ModelError {
    #[error("The text cannot be read: {0}")]
    Unreadable(String),
    #[error("A model can have {most} forces.")]
    TooManyForces { most: usize },
    #[error("The force “{}” has no {}.", force.name(), field.name())]
    NoField { force: ForceName, field: ForceField },
    #[error("The force “{}” needs {} = \"…\".", force.name(), field.name())]
    FieldWanted { force: ForceName, field: ForceField },
    #[error("The force “{}” has no parameter that can be fitted.", force.name())]
    NoParameter { force: ForceName },
    #[error("The model needs a value for {}.", field.name())]
    ValueWanted { field: ModelField },
    #[error("{symbol}: {error}")]
    Held { symbol: String, error: QuantityError },
    #[error("{}: {error}", what.name())]
    Quantity { what: Typed, error: QuantityError },
    #[error("{} is in {}, not in {}.", what.name(), wanted.pretty(), typed.pretty())]
    OtherUnit { what: Typed, wanted: Unit, typed: Unit },
    #[error("“{text}”: {error}")]
    Formula { text: String, error: FormulaError },
    #[error("“{text}” is in {}, and a force is in N.", unit.pretty())]
    NoForce { text: String, unit: Unit },
    #[error("Only one parameter can be fitted.")]
    TwoFitted,
    #[error("The mass has to be more than zero.")]
    Mass,
    #[error("The time step has to be more than zero.")]
    TimeStep,
    #[error("The end has to be later than the start.")]
    End,
    #[error("These are more than {most} steps. Take a longer time step or an earlier end.")]
    TooManySteps { most: usize },
    #[error("Position and velocity at the start have to be numbers.")]
    Start,
    #[error("After {steps} steps the numbers grow beyond all bounds. Take a shorter time step.")]
    Diverges { steps: usize },
    #[error("The model does not run at t = {t} s. Let it start earlier or end later.")]
    NotAt { t: f64 },
    #[error("The model does not run at all times of the readings.")]
    NotAtAllTimes,
    #[error("There is no position to compare with: a column x or y is needed beside t.")]
    NoPosition,
    #[error("This force is off, or has no parameter that can be fitted.")]
    NothingToFit,
    #[error("To fit this{}, {needed} positions are needed at least; there are {have}.", if *start { " and the start" } else { "" })]
    FewReadings { start: bool, needed: usize, have: usize },
    #[error("The readings do not depend on this parameter.")]
    NoEffect,
    #[error("The readings do not determine this parameter from the start.")]
    TiedToStart,
    #[error("There was no time to work this out.")]
    GivenUp,
}
