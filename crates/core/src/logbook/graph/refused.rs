//! Why an edit of a graph was refused.

use crate::logbook::refusal::show;
use crate::quantity::Unit;

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum GraphRefusal {
    #[error("A logbook keeps one graph. Choose other columns for it.")]
    LastGraph,
    #[error("The lower end must be below the upper end. Nothing was changed.")]
    EndsCrossed,
    #[error("A logarithmic axis has only values above zero. Nothing was changed.")]
    NotAboveZero,
    #[error("That part of the graph is empty. The graph is as it was.")]
    EmptyPart,
    #[error("An interval has a curve. Delete the interval if you do not need it.")]
    IntervalWithoutCurve,
    #[error("This axis is in {}, not in {}. Nothing was changed.", show(axis), show(typed))]
    OtherUnit { axis: Unit, typed: Unit },
    #[error("What goes up and what goes across must stand in the same table. The graph is as it was.")]
    TwoTables,
    #[error("This series is on the graph already.")]
    SeriesThere,
    #[error(
        "{symbol} is in {}, the axis in {}: they cannot share it. Make another graph. Nothing was added.",
        show(unit),
        show(axis)
    )]
    CannotShare { symbol: String, unit: Unit, axis: Unit },
    #[error("Choose what goes across first; an interval is a part of it. Nothing was changed.")]
    NothingAcross,
    #[error("An interval needs two different ends. Nothing was changed.")]
    OneEnd,
    #[error("Choose y and x first. Nothing was changed.")]
    NothingChosen,
    #[error("The formula must contain {across}, which goes across. Nothing was changed.")]
    WithoutAcross { across: String },
    #[error("The formula has no free parameter: every other symbol is one. Nothing was changed.")]
    NoParameter,
    #[error("A formula can have 8 free parameters at most. Nothing was changed.")]
    TooManyParameters,
    #[error("The start value {symbol} belongs to no parameter. The parameters are: {}. Nothing was changed.", parameters.join(", "))]
    StartOfNothing { symbol: String, parameters: Vec<String> },
    #[error("A curve of your own is typed as a formula. Nothing was changed.")]
    OwnCurve,
    #[error("The shape strip is closed in this lab. Nothing was changed.")]
    StripClosed,
}
