//! Edits of the tools on the stage. An edit holds what the person typed or pointed at; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use crate::motion::Tools;
use crate::quantity::Footage;

/// What a person can do to the tools on the stage.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum FootageEdit {
    /// Places t = 0, the split's two moments and the tape.
    PlaceTools {
        /// Over what.
        on: Footage,
        /// All tools as they now stand.
        tools: Tools,
    },
}
