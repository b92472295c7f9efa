//! Edits of the write-up. An edit holds what the person typed or moved; the plan reads and checks it.

use serde::{Deserialize, Serialize};

use super::{Shows, Taken};

/// What a person can do to the write-up.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum WriteUpEdit {
    /// Moves a block before another, or to the end.
    Move {
        /// Which block.
        block: Shows,
        /// Before which one; to the end without.
        before: Option<Shows>,
    },
    /// Moves a block up or down.
    Step {
        /// Which block.
        block: Shows,
        /// By how many places; negative upwards.
        by: i32,
    },
    /// Writes the sentence before a block, or a text of one's own.
    Introduce {
        /// Which block.
        block: Shows,
        /// The sentence.
        text: String,
        /// What the person started from.
        was: String,
    },
    /// Shows a block or leaves it out.
    Show {
        /// Which block.
        block: Shows,
        /// Shown or not.
        on: bool,
    },
    /// Adds a text of one's own before a block, or at the end.
    AddText {
        /// Before which block.
        before: Option<Shows>,
    },
    /// Adds a picture of the stage: before the first table, behind the pictures there are.
    TakePicture {
        /// Of what.
        of: Taken,
    },
    /// Takes a picture away.
    RemovePicture {
        /// Which one.
        picture: u32,
    },
    /// Takes a text of one's own away.
    RemoveText {
        /// Which one.
        block: Shows,
    },
}
