//! The steps of the work.

use serde::{Deserialize, Serialize};

/// A step of the work, in order.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Step {
    /// Nothing done yet.
    Question,
    /// Something is forecast.
    Forecast,
    /// Something was run, marked or written into a table.
    Measure,
    /// Both axes of a graph are chosen.
    Graph,
    /// There is a curve.
    Linearize,
    /// A step model was run.
    Model,
    /// A law is stated, or another result asked for.
    Constant,
    /// Something is written.
    WriteUp,
}

impl Step {
    /// All steps.
    pub const ALL: [Self; 8] = [
        Self::Question,
        Self::Forecast,
        Self::Measure,
        Self::Graph,
        Self::Linearize,
        Self::Model,
        Self::Constant,
        Self::WriteUp,
    ];

    /// The name for people.
    pub fn title(self) -> &'static str {
        match self {
            Self::Question => "Question",
            Self::Forecast => "Forecast",
            Self::Measure => "Measure",
            Self::Graph => "Graph",
            Self::Linearize => "Linearize",
            Self::Model => "Model",
            Self::Constant => "Result",
            Self::WriteUp => "Write-up",
        }
    }

    /// The name in sheets and addresses: `write-up`.
    pub fn name(self) -> &'static str {
        match self {
            Self::Question => "question",
            Self::Forecast => "forecast",
            Self::Measure => "measure",
            Self::Graph => "graph",
            Self::Linearize => "linearize",
            Self::Model => "model",
            Self::Constant => "constant",
            Self::WriteUp => "write-up",
        }
    }

    /// What a sheet without this step lacks.
    pub fn noun(self) -> &'static str {
        match self {
            Self::Model => "step model",
            Self::Question
            | Self::Forecast
            | Self::Measure
            | Self::Graph
            | Self::Linearize
            | Self::Constant
            | Self::WriteUp => self.name(),
        }
    }

    /// The step with this name.
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|s| s.name() == name)
    }
}
