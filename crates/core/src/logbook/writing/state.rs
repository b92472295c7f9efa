//! What was written.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use strum::IntoStaticStr;

/// The texts of a logbook.
#[derive(Clone, Debug, PartialEq, Default, Serialize, Deserialize)]
pub struct WritingState {
    /// Texts of the write-up, and of the questions beside graph and forecast.
    pub texts: BTreeMap<TextField, String>,
}

/// The texts of the write-up.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, IntoStaticStr)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "lowercase")]
pub enum TextField {
    /// What the data show.
    Claim,
    /// The data that show it.
    Evidence,
    /// Why they show it.
    Reasoning,
    /// Whether the intercept makes sense; asked beside the graph.
    Intercept,
    /// Why the outcome differs from the prediction; asked beside the forecast.
    Difference,
}

impl TextField {
    /// The texts of the write-up, in order.
    pub const ALL: [Self; 3] = [Self::Claim, Self::Evidence, Self::Reasoning];

    /// The name in sentences, and in the ids of a page.
    pub fn name(self) -> &'static str {
        self.into()
    }
}
