//! Why an edit of a graph was refused.

use crate::quantity::Unit;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum GraphRefusal {
    LastGraph,
    EndsCrossed,
    NotAboveZero,
    EmptyPart,
    IntervalWithoutCurve,
    OtherUnit { axis: Unit, typed: Unit },
    TwoTables,
    SeriesThere,
    CannotShare { symbol: String, unit: Unit, axis: Unit },
    NothingAcross,
    OneEnd,
    NothingChosen,
    WithoutAcross { across: String },
    NoParameter,
    TooManyParameters,
    StartOfNothing { symbol: String, parameters: Vec<String> },
    OwnCurve,
    StripClosed,
}
