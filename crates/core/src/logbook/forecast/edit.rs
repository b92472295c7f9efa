//! Edits of the forecast. An edit holds what the person typed or pointed at; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use crate::inquiry::Supposed;

/// What a person can do to the forecast.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum ForecastEdit {
    /// Sketches the curve of a channel before the first run; no points take it away.
    Sketch {
        /// Name of the channel.
        channel: String,
        /// Its points: t in s and the value in the channel's unit.
        points: Vec<[f64; 2]>,
    },
    /// Begins the sketches anew, for the next run; those there are stay with the runs they were made for.
    SketchAgain,
    /// States the hypothesis before the first run.
    Suppose {
        /// The hypothesis.
        hypothesis: Supposed,
    },
    /// Predicts a value before the first run.
    Predict {
        /// Value and unit as typed; empty takes it back.
        typed: String,
    },
    /// States what came out instead of the prediction.
    StateOutcome {
        /// Value and unit as typed; empty takes it back.
        typed: String,
    },
}
