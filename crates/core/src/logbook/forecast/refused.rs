//! Why an edit of the forecast was refused.

use crate::logbook::refusal::show;
use crate::quantity::Unit;

use thiserror::Error;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq, Error)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum ForecastRefusal {
    #[error("This lab asks for no forecast.")]
    NotAsked,
    #[error("The next sketch comes after the next run, and as often as the sheet asks for it. Nothing was changed.")]
    NotYet,
    #[error("No curve of “{channel}” is asked for. Nothing was changed.")]
    OtherCurve { channel: String },
    #[error("A sketch has one value at a time and stays on its axes. Nothing was changed.")]
    OffAxes,
    #[error("This lab asks for no hypothesis. Nothing was changed.")]
    NoHypothesis,
    #[error("Choose what you raise and what follows from it, and give a reason. Nothing was changed.")]
    Incomplete,
    #[error("This lab asks for no predicted value. Nothing was changed.")]
    NoPrediction,
    #[error("The answer is in {}, not in {}. Nothing was changed.", show(wanted), show(typed))]
    OtherUnit { wanted: Unit, typed: Unit },
}
