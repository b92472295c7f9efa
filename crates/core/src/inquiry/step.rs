//! The steps of the work.

use serde::{Deserialize, Serialize};
use strum::{EnumString, IntoStaticStr, VariantArray};

/// A step of the work, in order.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, VariantArray, IntoStaticStr, EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "kebab-case")]
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
    pub const ALL: &[Self] = Self::VARIANTS;

    /// The name in sheets and addresses: `write-up`.
    pub fn name(self) -> &'static str {
        self.into()
    }

    /// The step with this name.
    pub fn named(name: &str) -> Option<Self> {
        name.parse().ok()
    }
}
