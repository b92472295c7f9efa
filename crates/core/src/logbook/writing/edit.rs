//! Edits of texts. An edit holds what the person typed or pointed at; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use super::TextField;

/// What a person can do to a text.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum WritingEdit {
    /// Writes one of the write-up's texts.
    Write {
        /// Which text.
        field: TextField,
        /// The new text.
        text: String,
        /// The text the person started from.
        was: String,
    },
}
