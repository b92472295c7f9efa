//! Why an edit of the forecast was refused.

use crate::quantity::Unit;

/// Why; each says what was kept.
#[derive(Clone, Debug, PartialEq)]
#[allow(missing_docs, reason = "each is told by its sentence")]
pub enum ForecastRefusal {
    NotAsked,
    NotYet,
    OtherCurve { channel: String },
    OffAxes,
    NoHypothesis,
    Incomplete,
    NoPrediction,
    OtherUnit { wanted: Unit, typed: Unit },
}

/// A part of a forecast that the sheet asks for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ForecastPart {
    /// The sketch of a curve.
    Sketch {
        /// Name of the curve for people.
        curve: String,
    },
    /// The hypothesis.
    Hypothesis,
    /// The predicted value.
    Prediction,
}
