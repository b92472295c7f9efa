//! The parts of the bench that are shown and refreshed on their own.

use serde::{Deserialize, Serialize};
use strum::VariantArray;

/// A part of the bench.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, VariantArray)]
#[serde(rename_all = "snake_case")]
pub enum Part {
    /// Saved time, hand in.
    Header,
    /// Sketches, hypothesis and prediction.
    Forecast,
    /// Settings, instruments, runs and tools.
    Stage,
    /// The tables.
    Record,
    /// Graph, curves and read-out.
    Graph,
    /// The shape strip.
    Strip,
    /// The step model.
    Model,
    /// The results.
    Constant,
    /// The write-up's texts.
    Texts,
    /// The sheet's questions.
    Questions,
}

impl Part {
    /// All parts.
    pub const ALL: &[Self] = Self::VARIANTS;
}
