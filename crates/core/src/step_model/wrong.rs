//! Why no run can be made of a model, or none fitted to readings.

use super::text::{ForceField, ForceName, ModelField, Typed};
use crate::formula::FormulaError;
use crate::quantity::{QuantityError, Unit};

/// Why no run can be made of a model, or none fitted to readings.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum ModelError {
    Unreadable(String),
    TooManyForces { most: usize },
    NoField { force: ForceName, field: ForceField },
    FieldWanted { force: ForceName, field: ForceField },
    NoParameter { force: ForceName },
    ValueWanted { field: ModelField },
    Held { symbol: String, error: QuantityError },
    Quantity { what: Typed, error: QuantityError },
    OtherUnit { what: Typed, wanted: Unit, typed: Unit },
    Formula { text: String, error: FormulaError },
    NoForce { text: String, unit: Unit },
    TwoFitted,
    Mass,
    TimeStep,
    End,
    TooManySteps { most: usize },
    Start,
    Diverges { steps: usize },
    NotAt { t: f64 },
    NotAtAllTimes,
    NoPosition,
    NothingToFit,
    FewReadings { start: bool, needed: usize, have: usize },
    NoEffect,
    TiedToStart,
    GivenUp,
}
