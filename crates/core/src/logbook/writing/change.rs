//! The change of a text.

use serde::{Deserialize, Serialize};

use super::{TextField, WritingState};
use crate::logbook::part::Part;

/// A text changes.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct WritingChange {
    /// Which text.
    pub field: TextField,
    /// How it is now; empty for none.
    pub text: String,
}

impl WritingChange {
    pub(in crate::logbook) fn parts(&self) -> &'static [Part] {
        match self.field {
            // The question about the intercept stands beside the graph.
            TextField::Intercept => &[Part::Graph],
            TextField::Difference => &[Part::Forecast],
            TextField::Claim | TextField::Evidence | TextField::Reasoning => &[Part::Texts],
        }
    }
}

impl WritingState {
    pub(in crate::logbook) fn change(&mut self, WritingChange { field, text }: WritingChange) -> WritingChange {
        let old = if text.is_empty() { self.texts.remove(&field) } else { self.texts.insert(field, text) };
        WritingChange { field, text: old.unwrap_or_default() }
    }
}
